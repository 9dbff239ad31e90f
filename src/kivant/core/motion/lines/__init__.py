"""Straight lines of a tool: where axes are along them, how fast they may be gone, and where the tool has to stop."""
