"""The span of time that is seen: from the whole plan down to microseconds."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

LEAST_S = 2e-6
"""Shortest span that can be seen, s."""


class ViewSpan(Struct, frozen=True):
    """Times from `begin` to `end` of a plan that lasts `whole`, all in s."""

    begin: float = 0.0
    end: float = 0.0
    whole: float = 0.0

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.end - self.begin

    @property
    def is_whole(self) -> bool:
        """Whether all of the plan is seen."""
        return self.begin <= 0.0 and self.end >= self.whole

    def of(self, whole: float) -> ViewSpan:
        """Return the span of another plan: all of it where all was seen, else the same times as far as they are."""
        if self.is_whole or self.begin >= whole:
            return ViewSpan(0.0, whole, whole)
        return ViewSpan(self.begin, min(self.end, whole), whole)

    def zoomed(self, factor: float, around: float) -> ViewSpan:
        """Return a span that is so many times as long, in which a time stays where it is."""
        if not self.whole:
            return self
        length = min(max(self.seconds * factor, min(LEAST_S, self.whole)), self.whole)
        share = (around - self.begin) / self.seconds if self.seconds else 0.5
        return replace(self, begin=around - share * length, end=around + (1 - share) * length).inside()

    def shifted(self, seconds: float) -> ViewSpan:
        """Return the span later by so much."""
        return replace(self, begin=self.begin + seconds, end=self.end + seconds).inside()

    def showing(self, begin: float, end: float) -> ViewSpan:
        """Return a span in which a stretch of time is seen: the same, if it is."""
        if self.begin <= begin and end <= self.end:
            return self
        if end - begin >= self.seconds:
            margin = (end - begin) * 0.1
            return replace(self, begin=begin - margin, end=end + margin).inside()
        return self.shifted(begin - self.begin if begin < self.begin else end - self.end)

    def inside(self) -> ViewSpan:
        """Return it within the plan."""
        length = min(self.seconds, self.whole)
        begin = min(max(self.begin, 0.0), self.whole - length)
        return replace(self, begin=begin, end=begin + length)
