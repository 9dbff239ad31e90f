"""Lines of a tool, as far as no limit is concerned: where axes are along them, and where they turn round."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from kivant.core.machine.tool import Tool
from kivant.core.motion.segment import Reals

_FINE, _PASSES = 512, 3  # places at which it is found where more of them are needed, and how often
_BESIDE = 2e-5  # of the line: at which slopes and bends are taken
_CLOSER = 64  # places between two, among which an axis turns round
_WITHIN = 1e-12  # of the line: beside its ends
_BOTH_ENDS = ((0.0, _WITHIN), (1.0 - _WITHIN, 1.0))
_FREE = 0.01  # deg so near to an end: where more lies between, any position is one for that end
_LEAP = 45.0  # deg between two of the fine places: more is no motion
_STILL = 1e-9  # of an axis unit: less is no way


class Line:
    """A straight line of a tool from where all axes `begin` to a place, as far as no limit is concerned."""

    def __init__(self, tool: Tool, begin: Sequence[float], target: Sequence[float]) -> None:
        self.tool, self.begin = tool, [float(position) for position in begin]
        self.axes = sorted(tool.axes.values())
        self.start = np.array(tool.place(self.begin))
        self.way = np.array(target) - self.start
        self.length = float(np.sqrt((self.way**2).sum()))
        self._known, self._positions = np.zeros(1), np.array([[self.begin[axis] for axis in self.axes]])
        # At an end where an axis may stand anywhere, as at the centre of a turntable, it stands as beside that end.
        self._ends = (0.0, 1.0)
        first, last = (np.abs(np.diff(self.at(np.array(pair)), axis=0)).max() > _FREE for pair in _BOTH_ENDS)
        self._ends = (_WITHIN if first else 0.0, 1.0 - _WITHIN if last else 1.0)
        self._fine = (1 - np.cos(np.linspace(0.0, np.pi, _FINE + 1))) / 2  # it is slow at its ends
        for _ in range(_PASSES):
            self._fine = self._closer(self._fine, _FINE)
        self._known, self._positions = self._fine, self.at(self._fine)

    def at(self, share: Reals) -> Reals:
        """Return the positions of the axes of the tool at shares of the line, shape (places, axes).

        From share to share an axis goes less than half a turn; to the first one as far as it does.

        Raises
        ------
        UnreachableError
            If the line leaves what lengths and limits allow.
        """
        before = self._positions[max(int(self._known.searchsorted(share[0], "right")) - 1, 0)]
        inside = np.clip(share, *self._ends)
        return np.asarray(self.tool.along(self.start + inside[:, None] * self.way, self._all_at(before)))

    def _all_at(self, positions: Reals) -> list[float]:
        """Return where all axes are when those of the tool are at some positions."""
        every = list(self.begin)
        for axis, position in zip(self.axes, positions.tolist(), strict=True):
            every[axis] = position
        return every

    def _closer(self, share: Reals, count: int) -> Reals:
        """Return so many shares of the line, one half of them by time at its ends, the other by how far axes go."""
        far = np.abs(np.diff(self.at(share), axis=0))
        whole = far.sum(axis=0)
        own = (far[:, whole > 0] / whole[whole > 0]).mean(axis=1) if whole.any() else 1 / len(far)
        slow = np.diff(np.arccos(np.clip(1 - 2 * share, -1.0, 1.0))) / np.pi
        measure = np.concatenate(([0.0], np.cumsum((own + slow) / 2)))
        found = np.interp(np.linspace(0.0, measure[-1], count + 1), measure, share)
        found[0], found[-1] = 0.0, 1.0
        return np.asarray(found)

    def places(self, count: int) -> Reals:
        """Return so many shares of the line, and one, at which to look at it."""
        return self._fine[:: _FINE // count] if count <= _FINE else self._closer(self._fine, count)

    def slopes(self, share: Reals) -> tuple[Reals, Reals]:
        """Return how the positions of the axes change along the line, and how that changes, shape (places, axes)."""
        middle = np.clip(share, _BESIDE, 1.0 - _BESIDE)
        low, at, high = (self.at(middle + d) for d in (-_BESIDE, 0.0, _BESIDE))
        bends = (high - 2 * at + low) / _BESIDE**2
        return (high - low) / (2 * _BESIDE) + bends * (share - middle)[:, None], bends

    def turns(self, axis: int) -> list[float]:
        """Return the shares of the line at which an axis, by its column, turns round."""
        at = self.at(self._fine)[:, axis]
        ways = np.sign(np.where(np.abs(np.diff(at)) > _STILL, np.diff(at), 0.0))
        moved = ways.nonzero()[0]
        turned = np.flatnonzero(ways[moved[1:]] != ways[moved[:-1]])
        found = []
        for before, after in zip(moved[turned], moved[turned + 1] + 1, strict=True):
            low, high = float(self._fine[before]), float(self._fine[after])
            for _ in range(_PASSES + 1):  # each narrows it down to a thirtieth
                near = np.linspace(low, high, _CLOSER + 1)
                top = int(np.argmax(ways[before] * self.at(near)[:, axis]))
                low, high = float(near[max(top - 1, 0)]), float(near[min(top + 1, _CLOSER)])
            found.append((low + high) / 2)
        return found

    def leap(self, axis: int) -> tuple[float, float, float] | None:
        """Return from where to where an axis that turns, by its column, would have to leap, and at which share."""
        at = self._positions[:, axis]
        place = int(np.argmax(np.abs(np.diff(at))))
        if abs(at[place + 1] - at[place]) < _LEAP:
            return None
        return float(at[place]), float(at[place + 1]), float(self._fine[place])

    def parts(self, shares: Sequence[float]) -> tuple[Line, ...]:
        """Return the lines from stop to stop at ascending shares of it."""
        begins = [self.begin, *(self._all_at(self.at(np.array([share]))[0]) for share in shares)]
        targets = [(self.start + share * self.way).tolist() for share in (*shares, 1.0)]
        return tuple(Line(self.tool, begin, target) for begin, target in zip(begins, targets, strict=True))

    def moved_by(self, axis: int, way: float) -> float:
        """Return about how far an axis, if it is off by a way, moves the tool from where the line begins."""
        moved = [position + way * (k == axis) for k, position in enumerate(self.begin)]
        return math.dist(self.tool.place(moved), self.tool.place(self.begin))
