"""Bytes and text on one side, the core's data on the other: project files, traces. No Qt."""
