"""What all drawings share, without a machine: colours and letters, numbers as text, charts, dials, work in turns."""
