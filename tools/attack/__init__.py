"""Attacks on Kivant: damaged files, kills, hostile boards and clients, and what a system refuses; see docs/trust.md."""
