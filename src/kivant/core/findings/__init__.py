"""Findings: facts about a machine and its routines that need attention, each with its place and remedy."""
