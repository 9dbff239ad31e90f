"""Key paths: where in a machine something stands, such as ``axes[1].limits.speed``. No machine is needed for one."""

from __future__ import annotations

import re
from typing import Any

_PART = re.compile(r"\[(\d+)\]|(?:^|\.)([^.\[\]]+)")


class Path(tuple[str | int, ...]):
    """The keys and indices that lead from a machine to one of its values; the empty path is the machine itself.

    One is made of its parts, from the machine inwards: keys as text, indices as numbers. Paths are compared, shortened
    and joined as what they are, and become text only where a person reads them.
    """

    __slots__ = ()

    @classmethod
    def of(cls, *parts: str | int) -> Path:
        """Return the path of these parts."""
        return cls(parts)

    @classmethod
    def parse(cls, text: str) -> Path:
        """Return the path that `str` made this text of.

        Raises
        ------
        ValueError
            If the text is no key path.
        """
        found: list[str | int] = []
        at = 0
        for match in _PART.finditer(text):
            if match.start() != at:
                break
            found.append(int(match.group(1)) if match.group(1) else match.group(2))
            at = match.end()
        if at != len(text):
            raise ValueError(f"“{text}” is not a key path")
        return cls(found)

    def __truediv__(self, part: str | int | Path) -> Path:
        """Return the path of something inside."""
        return Path(self + part) if isinstance(part, Path) else Path((*self, part))

    def __str__(self) -> str:
        """Return it as in a message: ``routines[0].blocks[2].to.Lift``."""
        return "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in self).removeprefix(".")

    def __repr__(self) -> str:
        """Return it as it can be written in code."""
        return f"Path.parse({str(self)!r})"

    @property
    def parent(self) -> Path:
        """The path of what this is in; that of the machine is its own."""
        return Path(self[:-1])

    @property
    def key(self) -> str | int:
        """The last part, an empty text for the machine itself."""
        return self[-1] if self else ""

    def inside(self, outer: Path) -> bool:
        """Return whether this is `outer` or lies in it."""
        return self[: len(outer)] == outer

    def below(self, *outer: str | int) -> Path | None:
        """Return the rest behind `outer`, in which a lone ``*`` stands for any index; None if it lies elsewhere."""
        if len(self) < len(outer) or any(o not in ("*", p) for o, p in zip(outer, self, strict=False)):
            return None
        return Path(self[len(outer) :])

    def index_in(self, key: str) -> int | None:
        """Return the index below a key of the machine, such as which axis it lies in; None if it lies in none."""
        return self[1] if len(self) > 1 and self[0] == key and isinstance(self[1], int) else None

    @property
    def axis(self) -> int | None:
        """Which axis it lies in, None if in none."""
        return self.index_in("axes")

    @property
    def routine(self) -> int | None:
        """Which routine it lies in, None if in none."""
        return self.index_in("routines")

    def look_up(self, value: Any) -> Any:
        """Return what stands at this path of a machine, a part of it, or a parsed document.

        Raises
        ------
        LookupError, AttributeError
            If nothing does.
        """
        for part in self:
            value = value[part] if isinstance(part, int) or isinstance(value, dict) else getattr(value, part)
        return value


def axis_path(index: int, *inner: str | int) -> Path:
    """Return the path of an axis, or of something in it."""
    return Path(("axes", index, *inner))


def routine_path(index: int, *inner: str | int) -> Path:
    """Return the path of a routine, or of something in it."""
    return Path(("routines", index, *inner))
