"""The Motor station: what the motor is, what it has to move, and what it can do."""
