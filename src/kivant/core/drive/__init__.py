"""Between steps and coils: sequences, drivers, and the rotor at a step."""
