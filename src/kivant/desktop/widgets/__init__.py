"""Widgets that every part of the window uses, over the window's state."""
