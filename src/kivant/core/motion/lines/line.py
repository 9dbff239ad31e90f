"""Lines of a tool, as far as no limit is concerned: where axes are along them, and where they turn round."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from kivant.core.machine.tool import Tool
from kivant.core.motion.segment import Reals
from kivant.core.motion.whole_turns import TURN, turns_to

_FINE, _PASSES = 512, 3  # places at which it is found where more of them are needed, and how often
_BESIDE, _TURNED = 2e-5, 0.5  # of the line, and of an axis unit: at which slopes and bends are taken at the most
_CLOSER, _NARROWINGS = 64, 6  # places between two, among which an axis turns round, or leaps, and how often
_WITHIN = 1e-9  # of the line: beside its ends
_BOTH_ENDS = ((0.0, _WITHIN), (1.0 - _WITHIN, 1.0))
_FREE = 0.01  # deg so near to an end: where more lies between, any position is one for that end
_LEAP = 45.0  # deg: an axis that turns farther within a stretch that can be cut out all but leaps there
_LOOKS = 17  # at the tool while axes turn in place
_NEAR = 1e-6  # deg, to a limit: within it
_AS_LONG = 2.0  # deg: ways of which neither is the shorter one
_STILL = 1e-9  # of an axis unit: less is no way
_SIDE = 1e-4  # of an axis unit: an axis that is farther away is on another side
_CENTRE = 1e-6  # mm: nearer to the centre of a turntable, a place is at it
_TINY = 1e-12


class Line:
    """A straight line of a tool from where all axes `begin` to a place, as far as no limit is concerned."""

    def __init__(self, tool: Tool, begin: Sequence[float], target: Sequence[float]) -> None:
        self.tool, self.begin = tool, [float(position) for position in begin]
        self.axes = sorted(tool.axes.values())
        self.start, self.target = _centred(tool.place(self.begin)), _centred(target)
        self.way = self.target - self.start
        self.length = float(np.sqrt((self.way**2).sum()))
        self._known, self._positions = np.zeros(1), np.array([[self.begin[axis] for axis in self.axes]])
        # At an end where an axis may stand anywhere, as at the centre of a turntable, it stands as beside that end.
        self._ends, self._anywhere = (0.0, 1.0), np.zeros(len(self.axes), np.bool_)
        first, last = (np.abs(np.diff(self.at(np.array(pair)), axis=0))[0] > _FREE for pair in _BOTH_ENDS)
        self._ends, self._anywhere = (_WITHIN * first.any(), 1.0 - _WITHIN * last.any()), first | last
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
            If the line leaves what lengths allow.
        """
        before = self._positions[max(int(self._known.searchsorted(share[0], "right")) - 1, 0)]
        found = np.asarray(self.tool.along(self._place(share), self._all_at(before)))
        if self._anywhere.any():
            inside = self.tool.along(self._place(np.clip(share, *self._ends)), self._all_at(before))
            found[:, self._anywhere] = inside[:, self._anywhere]
        return found

    def _place(self, share: Reals) -> Reals:
        """Return the places of the tool at shares of the line, exact beside both of its ends."""
        ahead, back = share[:, None], 1.0 - share[:, None]
        return np.asarray(np.where(ahead < 0.5, self.start + ahead * self.way, self.target - back * self.way))

    def entered(self, now: Sequence[float]) -> Line:
        """Return the line, entered from where all axes are `now`; before it, some may turn in place.

        They do so the shortest way that limits allow; of two that are as long, the one that ends nearer to 0.

        Raises
        ------
        UnreachableError
            If it leaves what limits allow.
        """
        begin = list(self.begin)
        for axis, at in zip(self.axes, self._positions.T, strict=True):
            if axis in self.tool.turning and abs(at[0] - now[axis]) > _FREE:
                low, high = self.tool.limits(axis)
                first = float(at[0])
                room = low + first - float(at.min()) - _NEAR, high + first - float(at.max()) + _NEAR
                begin[axis] += TURN * turns_to(first, now[axis], *room, _AS_LONG)
        found = self if begin == self.begin else Line(self.tool, begin, self.target.tolist())
        self.tool.refuse_beyond(self._place(self._fine), found._positions)
        return found

    @property
    def end(self) -> list[float]:
        """Where all axes are at its end."""
        return self._all_at(self._positions[-1])

    def ways_from(self, now: Sequence[float]) -> dict[int, float]:
        """Return the ways of axes, by place, from where all of them are `now` to its beginning, if there are any."""
        first = zip(self.axes, self.at(np.zeros(1))[0].tolist(), strict=True)
        return {axis: position - now[axis] for axis, position in first if abs(position - now[axis]) > _SIDE}

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
        # Near the centre of a turntable a hundredth of a thousandth of the line is far.
        turning = np.append(np.abs(np.diff(self.at(share), axis=0)).max(axis=1) / np.diff(share), 0.0)
        beside = np.minimum(_BESIDE, _TURNED / np.maximum(np.maximum(turning, np.roll(turning, 1)), 1.0))
        middle = np.clip(share, beside, 1.0 - beside)
        low, at, high = (self.at(middle + d * beside) for d in (-1, 0, 1))
        bends = (high - 2 * at + low) / beside[:, None] ** 2
        return (high - low) / (2 * beside[:, None]) + bends * (share - middle)[:, None], bends

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

    def leaps(self, within: float) -> list[float]:
        """Return the shares at which an axis turns so far within so much of the line that it all but leaps.

        Such a place is the centre of a turntable, and what is near it.
        """
        wide = np.diff(self._fine)
        middle, half = self._fine[:-1] + wide / 2, np.maximum(wide, within) / 2
        near = self._turned(np.clip(middle - half, 0.0, 1.0), np.clip(middle + half, 0.0, 1.0)) > _LEAP
        rates = np.where(near, self._turned(self._fine[:-1], self._fine[1:]) / wide, 0.0)
        found: list[float] = []
        for place in np.argsort(-rates)[: np.count_nonzero(rates)].tolist():
            if any(abs(middle[place] - share) <= within for share in found):
                continue
            share = self._narrowed(float(self._fine[place]), float(self._fine[place + 1]))
            ends = np.clip(np.array([[share - within / 2], [share + within / 2]]), 0.0, 1.0)
            if self._turned(*ends)[0] > _LEAP and all(abs(share - other) > within for other in found):
                found.append(share)
        return sorted(found)

    def _narrowed(self, low: float, high: float) -> float:
        """Return where between two shares axes turn the most."""
        for _ in range(_NARROWINGS):
            share = np.linspace(low, high, _CLOSER + 1)
            far = int(np.argmax(self._turned(share[:-1], share[1:])))
            low, high = float(share[far]), float(share[far + 1])
        return (low + high) / 2

    def _turned(self, low: Reals, high: Reals) -> Reals:
        """Return how far the axis that turns farthest goes from some shares of the line to others, deg."""
        turning = [axis in self.tool.turning for axis in self.axes]
        ways = (self.at(high) - self.at(low))[:, turning]
        return np.asarray(np.abs((ways + TURN / 2) % TURN - TURN / 2).max(axis=1, initial=0.0))

    def parts(self, cuts: Sequence[tuple[float, float]]) -> tuple[Line, ...]:
        """Return the lines that are left of it where some is cut out: from one share to another, in ascending order."""
        if not cuts:
            return (self,)
        starts, ends = [0.0, *(after for _before, after in cuts)], [*(before for before, _after in cuts), 1.0]
        begins = [self.begin, *map(self._begin, starts[1:])]
        targets = self._place(np.array(ends)).tolist()
        return tuple(Line(self.tool, begin, target) for begin, target in zip(begins, targets, strict=True))

    def _begin(self, share: float) -> list[float]:
        """Return where all axes are when the tool is at a share of the line, and goes on from there."""
        after = self._positions[min(int(self._known.searchsorted(share)), len(self._known) - 1)]
        return self._all_at(self.tool.along(self._place(np.array([share])), self._all_at(after))[0])

    def aside(self, places: Reals) -> Reals:
        """Return how far places of the tool, shape (..., coordinates), are off the line, its ends included."""
        beside = places - self.start
        along = np.clip((beside @ self.way) / max(self.length**2, _TINY), 0.0, 1.0)
        return np.asarray(np.sqrt(((beside - along[..., None] * self.way) ** 2).sum(axis=-1)))

    def off(self, begin: Sequence[float], ways: Mapping[int, float]) -> float:
        """Return how far off the line the tool is at most while axes go ways from where all of them `begin`."""
        share = np.linspace(0.0, 1.0, _LOOKS)
        at = [position + ways.get(axis, 0.0) * share for axis, position in enumerate(begin)]
        return float(self.aside(np.stack(np.broadcast_arrays(*self.tool.place(at, np)), axis=1)).max())

    def beside(self, now: Sequence[float]) -> tuple[float, float, list[float]]:
        """Return the share of the line at which it is nearest to the tool when all axes are at `now`.

        Before it comes how far the axis that turns farthest is from there, deg, and after it where all axes are there.
        """
        along = float((np.array(self.tool.place(now)) - self.start) @ self.way) / max(self.length**2, _TINY)
        share = min(max(along, 0.0), 1.0)
        found = self._all_at(self.at(np.array([share]))[0])
        return max((abs(found[axis] - now[axis]) for axis in self.tool.turning), default=0.0), share, found

    def moved_by(self, axis: int, way: float) -> float:
        """Return about how far an axis, if it is off by a way, moves the tool from where the line begins."""
        moved = [position + way * (k == axis) for k, position in enumerate(self.begin)]
        return math.dist(self.tool.place(moved), self.tool.place(self.begin))


def _centred(place: Sequence[float]) -> Reals:
    """Return a place; one that rounding has put beside the centre of a turntable, at it."""
    found = np.array(place)
    if np.abs(found[:2]).max() < _CENTRE:
        found[:2] = 0.0
    return found
