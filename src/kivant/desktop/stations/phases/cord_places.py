"""Where the sockets of lines, driver and windings are, on a picture of some size."""

from __future__ import annotations

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.drive.phases import COILS
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine import Axis

ENDS = ("A", "C", "B", "D")
"""From the top: the ends of one winding, then those of the other."""
UNWIRED = ""
"""The socket of a line that is wired to nothing."""
_MOST_FREE = 3


class CordPlaces(Struct, frozen=True):
    """The sockets of an axis in a picture; `free` are the board's lines that nobody uses."""

    axis: Axis
    free: tuple[str, ...]
    width: float
    height: float

    @property
    def keys(self) -> tuple[str, ...]:
        """The lines that the driver has or could have."""
        kind = driver_kind(self.axis.driver)
        wired = kind.keys(self.axis.driver)
        return (*wired, *(key for key in kind.optional_keys if key not in wired))

    @property
    def switched(self) -> bool:
        """Whether the driver's outputs are plugged one by one: it switches the coils."""
        return driver_kind(self.axis.driver).rows(self.axis.driver) is not None

    @property
    def wires(self) -> str:
        """The end that each output reaches."""
        return getattr(self.axis.driver, "wires", None) or ORDERS[0]

    @property
    def columns(self) -> tuple[float, float, float, float]:
        """Where lines end, the driver begins and ends, and windings begin."""
        begin, end = min(84.0, self.width * 0.27), self.width - min(96.0, self.width * 0.32)
        middle = (begin + end) / 2
        return begin, middle - 26, middle + 26, end

    def _row(self, index: int, count: int) -> float:
        return 26.0 + (self.height - 40.0) * (index + 0.5) / max(count, 1)

    def _column(self, names: tuple[str, ...], x: float) -> dict[str, QPointF]:
        return {name: QPointF(x, self._row(k, len(names))) for k, name in enumerate(names)}

    @property
    def lines(self) -> dict[str, QPointF]:
        """The board's lines: the axis's own, a few free ones, and none, where that may be."""
        own = tuple(dict.fromkeys(board_lines(self.axis.driver).values()))
        nothing = (UNWIRED,) if driver_kind(self.axis.driver).optional_keys else ()
        return self._column((*own, *self.free[:_MOST_FREE], *nothing), self.columns[0])

    @property
    def inputs(self) -> dict[str, QPointF]:
        """The inputs of the driver."""
        return self._column(self.keys, self.columns[1])

    @property
    def outputs(self) -> dict[str, QPointF]:
        """The outputs of the driver."""
        return self._column(COILS if self.switched else ENDS, self.columns[2])

    @property
    def ends(self) -> dict[str, QPointF]:
        """The ends of the windings."""
        return self._column(ENDS, self.columns[3])

    def label(self, end: str) -> QRectF:
        """Return where the name of an end's wire stands."""
        at = self.ends[end]
        return QRectF(at.x() + 22, at.y() - 12, self.width - at.x() - 22, 24)

    def line_of(self, key: str) -> str:
        """Return the board line of one of the driver's, `UNWIRED` where it has none."""
        return getattr(self.axis.driver.lines, key) or UNWIRED

    def lead(self, end: str) -> str:
        """Return the name of the wire that is an end (or tap, as ``AC``) of a winding; empty where it has none."""
        leads = self.axis.motor.leads
        return (getattr(leads, end) if leads else None) or ""
