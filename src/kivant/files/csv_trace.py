"""A plan's steps as CSV (RFC 4180): one row for each step of every axis, in time order."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from kivant.core.drive.drivers import NS_PER_S
from kivant.core.motion.plan import Plan
from kivant.files.digits import PAD, Bytes, constant, digits, joined, width_of

HEADER = b"time_s,axis,step,position_steps\r\n"


def _field(name: str) -> bytes:
    quoted = '"' + name.replace('"', '""') + '"' if any(c in name for c in '",\r\n') else name
    return quoted.encode()


def csv_chunks(plan: Plan) -> Iterator[bytes]:
    """Yield the file piece by piece; times have nine decimals and count from the plan's start."""
    yield HEADER
    fields = [_field(axis.name) for axis in plan.axes]
    longest = max(map(len, fields), default=0)
    names = np.array([list(f.ljust(longest, bytes([PAD]))) for f in fields], np.uint8).reshape(-1, longest)
    positions = [axis.start_steps for axis in plan.axes]
    for slices in plan.slices():
        times, which, signs, after = [], [], [], []
        for i, (axis, part) in enumerate(zip(plan.axes, slices, strict=True)):
            sign = axis.signs[part].astype(np.int64)
            position = positions[i] + np.cumsum(sign)
            if len(sign):
                positions[i] = int(position[-1])
            times.append(np.rint(axis.instants[part] * NS_PER_S).astype(np.int64))
            which.append(np.full(len(sign), i))
            signs.append(sign)
            after.append(position)
        time_ns = np.concatenate(times)
        order = np.argsort(time_ns, kind="stable")
        yield _rows(
            time_ns[order],
            names[np.concatenate(which)[order]],
            np.concatenate(signs)[order],
            np.concatenate(after)[order],
        )


def _rows(time_ns: np.ndarray, names: Bytes, signs: np.ndarray, after: np.ndarray) -> bytes:
    count = len(time_ns)
    seconds, fraction = np.divmod(time_ns, NS_PER_S)
    minus = np.where(after < 0, ord("-"), PAD).astype(np.uint8)[:, None]
    step_minus = np.where(signs < 0, ord("-"), PAD).astype(np.uint8)[:, None]
    comma = constant(b",", count)
    return joined(
        digits(seconds, width_of(seconds.max())),
        constant(b".", count),
        digits(fraction, 9, least=9),
        comma,
        names,
        comma,
        step_minus,
        constant(b"1,", count),
        minus,
        digits(np.abs(after), width_of(np.abs(after).max())),
        constant(b"\r\n", count),
    )
