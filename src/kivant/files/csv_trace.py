"""A plan's steps as CSV (RFC 4180): one row for each step of every axis, in time order."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

import numpy as np

from kivant.core.drive.drivers import NS_PER_S
from kivant.core.machine.tool import Tool
from kivant.core.motion.plan import Plan
from kivant.core.motion.segment import Wholes
from kivant.files.digits import Words, last_words_for, put_chosen, put_last, text_of, words_of

HEADER = b"time_s,axis,step,position_steps\r\n"


def _field(name: str) -> bytes:
    quoted = '"' + name.replace('"', '""') + '"' if any(c in name for c in '",\r\n') else name
    return quoted.encode()


def csv_chunks(plan: Plan, tool: Tool | None = None) -> Iterator[bytes]:
    """Yield the file piece by piece; times have nine decimals and count from the plan's start.

    With a `tool`, each row ends with where that is then, in mm or deg to a millionth.
    """
    more = b"".join(b",tool_%s" % name.encode() for name in tool.coordinates) if tool is not None else b""
    yield HEADER.rstrip() + more + b"\r\n"
    fields = [_field(axis.name) for axis in plan.axes]
    # What stands between the time and the position, for steps down and up.
    names = words_of([b"%s,%s1," % (field, sign) for field in fields for sign in (b"-", b"")])
    positions = [axis.start_steps for axis in plan.axes]
    for slices in plan.slices():
        times, kinds, positions_after = [], [], []
        for i, (axis, part) in enumerate(zip(plan.axes, slices, strict=True)):
            sign = axis.signs[part]
            position = sign.astype(np.int64)
            if len(sign):
                position[0] += positions[i]
                position = np.add.accumulate(position, out=position)
                positions[i] = int(position[-1])
            times.append(np.rint(axis.instants[part] * NS_PER_S).astype(np.int64))
            kinds.append(2 * i + (sign > 0))
            positions_after.append(position)
        time_ns = np.concatenate(times)
        order = np.argsort(time_ns, kind="stable")
        which, after = np.concatenate(kinds).take(order), np.concatenate(positions_after).take(order)
        rows = _rows(time_ns.take(order), names, which, after)
        yield rows if tool is None else _with_tool(rows, plan, tool, time_ns.take(order))


def _with_tool(rows: bytes, plan: Plan, tool: Tool, time_ns: Wholes) -> bytes:
    times = time_ns / NS_PER_S
    at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in plan.axes]
    places = np.stack(np.broadcast_arrays(*tool.place(at, np)), axis=-1)
    form = b",%.6f" * places.shape[1] + b"\r\n"
    lines = zip(rows.split(b"\r\n"), map(tuple, (np.round(places, 6) + 0.0).tolist()), strict=False)
    return b"".join(line + form % place for line, place in lines)


def _rows(time_ns: Wholes, names: Words, which: Wholes, after: Wholes) -> bytes:
    # Seconds are few and stand one behind the other: what they have above the last digit is written once for each.
    first, beyond = int(time_ns[0]) // NS_PER_S, int(time_ns[-1]) // NS_PER_S + 1
    close = beyond - first <= len(time_ns)
    seconds = np.arange(first, beyond) if close else np.unique(time_ns // NS_PER_S)
    begins = np.searchsorted(time_ns, seconds * NS_PER_S)
    counts = np.concatenate((begins[1:], (len(time_ns),))) - begins
    fraction = (time_ns - (seconds * NS_PER_S).repeat(counts)).astype(np.uint32)
    higher = words_of([b"%d" % (second // 10) if second > 9 else b"" for second in seconds.tolist()])
    long, middle = higher.shape[1] if beyond > 10 else 0, names.shape[1]
    last = last_words_for(max(int(after.max()), -int(after.min())))
    rows = np.empty((len(time_ns), long + 3 + middle + last), np.uint32)
    for word in range(long):
        rows[:, word] = higher[:, word].repeat(counts)
    hundredths, micros = fraction // 10_000_000, fraction // 1000
    parts = (hundredths + (seconds % 10 * 100).astype(np.uint32).repeat(counts), micros - hundredths * 10_000,
             fraction - micros * 1000)  # fmt: skip
    for k, (table, part) in enumerate(zip(_times(), parts, strict=True)):
        rows[:, long + k] = table.take(part.astype(np.intp), mode="clip")
    put_chosen(rows[:, long + 3 : long + 3 + middle], names, which)
    put_last(rows[:, -last:], after)
    return text_of(rows)


@cache
def _times() -> tuple[Words, ...]:
    """Return the last digit of seconds with two behind the point, the next four, and the last three before a comma."""
    return (
        words_of([b"%d.%02d" % divmod(number, 100) for number in range(1000)]).ravel(),
        words_of([b"%04d" % number for number in range(10_000)]).ravel(),
        words_of([b"%03d," % number for number in range(1000)]).ravel(),
    )
