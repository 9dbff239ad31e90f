"""The heat of the chosen motor as bars: moving, at rest as it is set, and as it could be."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.drive.copper import at_rest, greatest_draw, held_torque_nm, mean_draw, supply_volts
from kivant.core.machine import Axis, Machine
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_ROW = 24.0
_NAMES, _FIGURES = 116.0, 168.0


class Heat(NamedTuple):
    """What is told of one state: its name, the copper loss in W, what holds the load in N m, whether it is so now."""

    name: str
    watts: float
    held_nm: float | None
    now: bool


def heats(machine: Machine, axis: Axis) -> list[Heat]:
    """Return the states of an axis, none where its loss is not known."""
    volts = supply_volts(machine, axis)
    full, moving = greatest_draw(axis, volts), mean_draw(axis, volts)
    if full.loss_w is None or moving.loss_w is None:
        return []
    now, rest = axis.driver.at_rest, at_rest(axis, full)
    found = [Heat("moving", moving.loss_w, None, now=False)]
    share = (axis.driver.reduced_percent or 50.0) / 100
    for way, name, draw in (
        ("hold", "at rest, kept", full),
        ("reduced", f"at rest, {100 * share:g} %", full.reduced(share)),
        ("off", "at rest, off", full.reduced(0.0)),
    ):
        shown = rest if way == now else draw
        found.append(Heat(name, shown.loss_w or 0.0, held_torque_nm(axis, shown), now=way == now))
    return found


class HeatBars(QWidget):
    """A bar for each state; the one in force stands out."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(round(4 * _ROW) + 6)
        for signal in (session.machine_changed, session.selection_changed, session.theme_changed):
            signal.connect(self.update)

    def heats(self) -> list[Heat]:
        """Return what is drawn."""
        axis = self.session.choice.axis
        return heats(self.session.document.machine, axis) if axis else []

    def words(self) -> list[str]:
        """Return each bar in words."""
        return [f"{h.name}: {h.watts:.3g} W{_held(h)}{', as it is set' if h.now else ''}" for h in self.heats()]

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme, found = self.session.theme, self.heats()
        self.setAccessibleName("; ".join(self.words()))
        if not found:
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(self.rect()), int(Qt.TextFlag.TextWordWrap),
                             "With resistance and current known, Kivant shows how warm the motor gets.")  # fmt: skip
            return
        most = max(heat.watts for heat in found) or 1.0
        wide = self.width() - _NAMES - _FIGURES
        for k, heat in enumerate(found):
            top = k * _ROW
            painter.setFont(font("strong" if heat.now else "small"))
            painter.setPen(theme.color("ink" if heat.now else "muted"))
            painter.drawText(QRectF(0, top, _NAMES, _ROW), Qt.AlignmentFlag.AlignVCenter, heat.name)
            bar = QRectF(_NAMES, top + 8, wide, 8)
            painter.fillRect(bar, theme.color("edge"))
            bar.setWidth(wide * heat.watts / most)
            painter.fillRect(bar, theme.color("accent" if heat.now or k == 0 else "muted"))
            painter.setPen(theme.color("ink"))
            text = f"{heat.watts:.3g} W{_held(heat)}"
            right = QRectF(self.width() - _FIGURES + 8, top, _FIGURES - 8, _ROW)
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, text)


def _held(heat: Heat) -> str:
    return "" if heat.held_nm is None else f", holds {heat.held_nm:.2g} Nm"
