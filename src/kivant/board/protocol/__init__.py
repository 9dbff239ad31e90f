"""The board's language: its syntax, motion as it is sent, and the client that speaks it."""
