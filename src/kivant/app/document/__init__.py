"""The open machine with its history and file, and what outlives a window."""
