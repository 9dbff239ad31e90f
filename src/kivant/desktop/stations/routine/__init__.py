"""The Routine station: what several axes do together, in time and in words."""
