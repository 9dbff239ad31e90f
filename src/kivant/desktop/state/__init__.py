"""The window's state for its widgets: signals over the workbench, and the looks."""
