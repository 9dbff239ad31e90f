"""Motion on a board: sources of motion, the streamer that plays them, and what is counted."""
