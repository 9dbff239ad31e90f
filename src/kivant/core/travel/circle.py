"""The circle number as the project file means it: an exact fraction, so that racks and drums stay rational."""

from __future__ import annotations

from fractions import Fraction

PI = Fraction("3.14159265358979323846")
"""To 20 decimals, as the format says: a metre of cord is right to 1e-20 m."""
