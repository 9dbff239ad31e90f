"""What is run, and what is counted."""
