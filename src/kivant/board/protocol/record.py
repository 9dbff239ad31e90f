"""Motion records, version 2: a span of time with a quadratic of position for each axis, in whole numbers.

A board evaluates a span with two additions an axis and tick, and no rounding of its own; docs/board-protocol.md says
how. No I/O.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from typing import NamedTuple

from msgspec import Struct

VERSION = 2
"""What a board must answer to ``MOTion:RECords?``, maybe among others."""

PLACE_BITS = 32
"""A place is in units of 2^-32 step."""
SUM_BITS = 62
"""Speed and change are in units of 2^-62 step a tick: what a board adds up at every tick."""
SHARE_ONE = 1 << 16
"""The share 1 of the deceleration."""
MOST_TICKS = 1 << 20
"""Longest span: over that many ticks the rounding of `change` adds up to less than 2^-24 step."""

_HEAD = "IIIi"
_AXIS = "Qqq"
MOST_US = 2**32 - 1
_MOST_SHARE = 2**31 - 1


class AxisSpan(NamedTuple):
    """What one axis does in a span.

    Parameters
    ----------
    end : int, 2^-32 step
        Place at the end, modulo 2^64: the position plus half a step, so that its whole part is the count.
    speed : int, 2^-62 step
        What the first tick adds to the place.
    change : int, 2^-62 step
        What every tick adds to the speed, after it was added to the place.
    """

    end: int
    speed: int = 0
    change: int = 0


class Span(Struct, frozen=True):
    """A span of time.

    Parameters
    ----------
    ticks : int
        Its length, from 1 to `MOST_TICKS`.
    axes : tuple of AxisSpan
    brake_us : tuple of int
        How long the axis nearest to its limit needs from its speed at the beginning, and at the end, to standstill
        at its deceleration, us; in between it changes evenly. 0: may stop at once.
    share : int, 2^-16
        Which share of its deceleration the plan itself uses; negative where it accelerates.
    """

    ticks: int
    axes: tuple[AxisSpan, ...]
    brake_us: tuple[int, int] = (0, 0)
    share: int = 0


def pack(spans: Sequence[Span]) -> bytes:
    """Return spans as the body of a block, big-endian; a brake time or share too great for its field is cut."""
    form = struct.Struct(">" + _HEAD + _AXIS * (len(spans[0].axes) if spans else 0))
    return b"".join(
        form.pack(
            span.ticks,
            *(min(brake, MOST_US) for brake in span.brake_us),
            min(max(span.share, -_MOST_SHARE), _MOST_SHARE),
            *(number for axis in span.axes for number in (axis.end % 2**64, axis.speed, axis.change)),
        )
        for span in spans
    )


def span_bytes(axes: int) -> int:
    """Return how many bytes a span of so many axes has."""
    return struct.calcsize(">" + _HEAD) + axes * struct.calcsize(">" + _AXIS)


def unpack(data: bytes, axes: int) -> list[Span]:
    """Return the spans in the body of a block for so many axes.

    Raises
    ------
    ValueError
        If the length fits no whole number of spans, or a span has no ticks or too many.
    """
    head, axis = struct.Struct(">" + _HEAD), struct.Struct(">" + _AXIS)
    size = span_bytes(axes)
    if len(data) % size:
        raise ValueError(f"{len(data)} bytes are not a whole number of spans of {size} bytes")
    spans = []
    for at in range(0, len(data), size):
        ticks, begin, end, share = head.unpack_from(data, at)
        if not 1 <= ticks <= MOST_TICKS:
            raise ValueError(f"a span of {ticks} ticks: from 1 to {MOST_TICKS} are possible")
        parts = map(AxisSpan._make, axis.iter_unpack(data[at + head.size : at + size]))
        spans.append(Span(ticks, tuple(parts), (begin, end), share))
    return spans
