"""Talking to a board: messages and motion data without I/O, the way to it, and the bundled stand-in."""
