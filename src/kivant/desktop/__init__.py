"""The window over the application layer: the only part of Kivant that imports Qt."""
