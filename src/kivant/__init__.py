"""Kivant: a desktop workbench for people who drive stepper motors."""

__version__ = "0.1.0"
