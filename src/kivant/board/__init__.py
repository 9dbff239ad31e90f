"""Talking to a board: the protocol, the ways to carry it, and the stand-in that comes with Kivant. No Qt."""
