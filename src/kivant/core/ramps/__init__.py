"""Ramps of an axis tried out: with each shape beside one another, and the fastest that its motor surely follows."""
