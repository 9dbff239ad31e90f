"""What a motor can do: its figures, the torque it has at each speed, what it has to move, and what is left of both."""
