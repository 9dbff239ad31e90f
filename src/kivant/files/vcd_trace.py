"""A plan's line levels as VCD (IEEE 1364-2005, clause 18): one scope an axis, one wire a line, in ns."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from kivant.core.drive.drivers import (
    NS_PER_S,
    driver_kind,
    levels_after,
    levels_at_start,
    line_keys,
    step_edges,
)
from kivant.core.motion.plan import AxisPlan, Plan
from kivant.core.motion.segment import NO_ROWS, Wholes
from kivant.core.travel.sense import rotor_sense
from kivant.files.digits import Words, led_words_for, put_ascending, put_chosen, text_of, words_of

_FIRST, _CODES = 33, 94  # the printable characters that may form an identifier code


class _Signals:
    """One axis's lines while a plan is written: where its identifiers begin, and its levels so far."""

    def __init__(self, axis: AxisPlan, offset: int, powered: bool) -> None:
        self.axis, self.offset = axis, offset
        self.driver = axis.axis.driver
        self.keys = line_keys(self.driver)
        # Rows from the one at the start, and the way they are played: backwards where positive motion needs it.
        self.sense, self.taken = rotor_sense(axis.axis), 0
        self.sign = self.sense * (int(axis.signs[0]) if axis.steps else 1)
        on = levels_at_start(self.driver, self.sign)
        self.at_start = on if powered else levels_after(self.driver, on)

    def at_end(self) -> tuple[int, ...]:
        """Return the levels after all edges, before the power is taken away."""
        moved = self.axis.steps > 0
        return driver_kind(self.driver).levels_at(self.driver, self.taken, self.sign) if moved else self.at_start

    def edges(self, part: slice) -> tuple[Wholes, Wholes]:
        """Return the times of changes, ns, and which they are: twice the line among all, and 1 more where it rises."""
        times_ns = np.rint(self.axis.instants[part] * NS_PER_S).astype(np.int64)
        signs = self.axis.signs[part] if self.sense > 0 else -self.axis.signs[part]
        found = step_edges(self.driver, times_ns, signs, self.taken, self.sign)
        if len(signs):
            self.taken += 2 * int(np.count_nonzero(signs > 0)) - len(signs)
            self.sign = int(signs[-1])
        return found.times_ns, 2 * (found.keys.astype(np.int64) + self.offset) + found.levels


def _code(index: int) -> bytes:
    text = bytes([_FIRST + index % _CODES])
    return text if index < _CODES else _code(index // _CODES - 1) + text


def scope_names(names: list[str]) -> list[str]:
    """Return the axes' names in the characters that VCD takes, each different from the others."""
    found: list[str] = []
    for name in names:
        plain = re.sub(r"[^A-Za-z0-9_]", "_", name)
        candidate, number = plain, 2
        while candidate in found:
            candidate, number = f"{plain}_{number}", number + 1
        found.append(candidate)
    return found


def _header(plan: Plan, signals: list[_Signals]) -> bytes:
    lines = ["$timescale 1 ns $end"]
    for name, axis in zip(scope_names([a.name for a in plan.axes]), signals, strict=True):
        lines.append(f"$scope module {name} $end")
        lines.extend(f"$var wire 1 {_code(axis.offset + k).decode()} {key} $end" for k, key in enumerate(axis.keys))
        lines.append("$upscope $end")
    lines += ["$enddefinitions $end", "#0", "$dumpvars"]
    for axis in signals:
        lines.extend(f"{level}{_code(axis.offset + k).decode()}" for k, level in enumerate(axis.at_start))
    return ("\n".join(lines) + "\n$end\n").encode()


def vcd_chunks(plan: Plan) -> Iterator[bytes]:
    """Yield the file piece by piece."""
    signals, offset = [], 0
    for axis_plan in plan.axes:
        signals.append(_Signals(axis_plan, offset, plan.powered_s > 0.0))
        offset += len(signals[-1].keys)
    yield _header(plan, signals)
    codes = [_code(index) for index in range(offset)]
    table = words_of([b"\n%d%s\n" % (level, code) for code in codes for level in (0, 1)])  # with the end of the time
    setup_ns = max((driver_kind(axis.driver).earliest_change_ns(axis.driver) for axis in signals), default=0)

    end_ns = round(plan.duration * NS_PER_S)
    waiting = NO_ROWS, NO_ROWS
    previous_ns = 0
    for slices in plan.slices():
        parts = [waiting, *(axis.edges(part) for axis, part in zip(signals, slices, strict=True))]
        times, which = (np.concatenate(column) for column in zip(*parts, strict=True))
        order = np.argsort(times, kind="stable")
        times, which = times.take(order), which.take(order)
        # Later steps may still change a direction line ahead of themselves: hold back what is so late.
        newest = max(axis.instants[p.stop - 1] for axis, p in zip(plan.axes, slices, strict=True) if p.stop)
        ready = int(np.searchsorted(times, round(newest * NS_PER_S) - setup_ns))
        waiting = times[ready:], which[ready:]
        if ready:
            yield _changes(times[:ready], table, which[:ready], previous_ns)
            previous_ns = int(times[ready - 1])
    if len(waiting[0]):
        yield _changes(waiting[0], table, waiting[1], previous_ns)
        previous_ns = int(waiting[0][-1])
    yield _footer(signals, codes, max(end_ns, previous_ns), previous_ns)


def _footer(signals: list[_Signals], codes: list[bytes], end_ns: int, previous_ns: int) -> bytes:
    lines = [] if end_ns == previous_ns else [b"#%d" % end_ns]
    for axis in signals:
        last = axis.at_end()
        for k, level in enumerate(levels_after(axis.driver, last)):
            if level != last[k]:
                lines.append(b"%d%s" % (level, codes[axis.offset + k]))
    return b"".join(line + b"\n" for line in lines)


def _changes(times: Wholes, table: Words, which: Wholes, previous_ns: int) -> bytes:
    """Return changes, chosen from their table, as text; a time stands before the first change at it."""
    stamp = led_words_for(int(times[-1]))
    rows = np.empty((len(times), stamp + table.shape[1]), np.uint32)
    put_ascending(rows[:, :stamp], times, b"#")
    put_chosen(rows[:, stamp:], table, which)
    repeated = np.empty(len(times), np.bool_)
    repeated[0], repeated[1:] = times[0] == previous_ns, times[1:] == times[:-1]
    again = np.flatnonzero(repeated)
    rows[again, :stamp] = 0
    rows.view(np.uint8)[again, 4 * stamp] = 0  # the end of the line of the time
    return text_of(rows)
