"""The playhead bar: play, steps, slow motion, the scrub track, time, the board's state, and stop."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kivant.desktop.kit import figures
from kivant.desktop.kit.curves import paint_curve
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Token, font
from kivant.desktop.kit.words import block_words
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.glyph_button import GlyphButton
from kivant.desktop.widgets.pictured import Pictured
from kivant.desktop.widgets.rotor_switch import RotorSwitch, paint_slip

BAR_HEIGHT = 66


class ScrubTrack(Pictured):
    """All axes' speeds over the whole plan, small; a drag scrubs."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.plan_changed, session.following_changed, session.theme_changed)
        session.playhead_moved.connect(self.update)
        self.setMinimumSize(120, 44)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Scrub track")
        self.setToolTip("Drag to move the playhead.")

    def _per_second(self) -> float:
        return (self.width() - 12) / self.session.planning.duration_s if self.session.planning.duration_s > 0 else 0.0

    def paint_moving(self, painter: QPainter) -> None:
        x = 6 + self.session.playhead.time_s * self._per_second()
        accent = self.session.theme.color("accent")
        painter.setPen(self.session.theme.pen(accent, 2))
        painter.drawLine(QPointF(x, 2), QPointF(x, self.height() - 2))
        painter.setBrush(accent)
        painter.drawEllipse(QPointF(x, self.height() - 5), 3, 3)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        theme = self.session.theme
        base = self.height() - 8.0
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(6, base), QPointF(self.width() - 6, base))
        box, per_second = QRectF(6, 8, self.width() - 12, base - 8), self._per_second()
        for index, curve in enumerate(self.session.planning.traces.curves):
            yield from paint_curve(painter, theme, index, curve, box, per_second)
        for x in sorted({round(6 + at * per_second) for at in self._slips_s()}):
            paint_slip(painter, theme, x, 1, base)

    def _slips_s(self) -> list[float]:
        """Return when simulated rotors slip, s."""
        known = (self.session.following.of(index) for index in range(len(self.session.planning.traces.curves)))
        return [at for found in known if found is not None for at in found.slips_s.tolist()]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        per_second = self._per_second()
        if event.buttons() & Qt.MouseButton.LeftButton and per_second and not self.session.running.active:
            self.session.playhead.go((event.position().x() - 6) / per_second)


class TimeFigure(QWidget):
    """The time at the playhead and the block in force there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(190)
        self.setAccessibleName("Time at the playhead")
        for signal in (session.playhead_moved, session.plan_changed, session.theme_changed):
            signal.connect(self.update)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        session = self.session
        painter.setPen(session.theme.color("ink"))
        painter.setFont(font("figure"))
        painter.drawText(
            QRectF(0, 10, self.width(), 24), Qt.AlignmentFlag.AlignLeft, figures.seconds(session.playhead.time_s)
        )
        width = painter.fontMetrics().horizontalAdvance(figures.seconds(session.playhead.time_s)) + 8
        whole = f"of {figures.brief_seconds(session.planning.duration_s)}" if session.planning.plan else ""
        painter.setPen(session.theme.color("muted"))
        painter.setFont(font("small"))
        painter.drawText(QRectF(width, 14, self.width() - width, 20), Qt.AlignmentFlag.AlignLeft, whole)
        block = session.planning.block_at(session.playhead.time_s)
        text = (
            block_words(session.planning.plan, block)
            if session.planning.plan and block
            else (
                "nothing to play"
                if not session.planning.plan or not session.planning.plan.blocks
                else "before the first block"
            )
        )
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(QRectF(0, 36, self.width(), 20), Qt.AlignmentFlag.AlignLeft, shown)
        self.setToolTip(literal(text))


class BoardState(QWidget):
    """Where the motion is played, and what the board is doing."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(126)
        self.setAccessibleName("Board")
        for signal in (session.run_changed, session.plan_changed, session.theme_changed):
            signal.connect(self.update)

    def words(self) -> tuple[Token, str]:
        """Return the sign's token and the word for the board's state."""
        status = self.session.running.status
        if status is None:
            return "muted", "idle"
        words: dict[str, tuple[Token, str]] = {
            "connecting": ("warn", "connecting"),
            "moving": ("accent", "moving"),
            "holding": ("accent", "holding a row"),
            "braking": ("warn", "braking"),
            "failed": ("bad", "failed"),
            "stopped": ("warn", "stopped, power kept" if status.power else "stopped, no power"),
        }
        if status.phase == "done":
            return ("good", "done, as planned") if status.agrees else ("bad", "done, counts differ")
        return words[status.phase]

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        token, word = self.words()
        name = self.session.running.address.strip() or "stand-in"
        painter.setBrush(theme.color(token))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(6, 22), 5, 5)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("strong"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(18, 12, self.width() - 18, 20),
            0,
            metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, self.width() - 18),
        )
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        painter.drawText(QRectF(18, 34, self.width() - 18, 20), 0, word)
        self.setToolTip(literal(f"Board: {name}, {word}"))


class PlayheadBar(QWidget):
    """The bar at the bottom of the window."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(BAR_HEIGHT)
        self.play = GlyphButton(session, "play", "Play (Space)")
        self.back = GlyphButton(session, "back", "Previous step of the selected axis (Left)")
        self.on = GlyphButton(session, "on", "Next step of the selected axis (Right)")
        self.rate = QPushButton("1")
        self.rate.setProperty("kind", "plain")
        self.rate.setFixedSize(QSize(74, 34))
        self.loop = QPushButton("loop")
        self.loop.setProperty("kind", "plain")
        self.loop.setCheckable(True)
        self.loop.setToolTip("At the end, play again from the beginning.")
        self.loop.setFixedSize(QSize(48, 34))
        self.loop.toggled.connect(session.playhead.set_loop)
        self.stop = QPushButton("Stop")
        self.stop.setProperty("kind", "stop")
        self.stop.setFont(font("heading"))
        self.stop.setFixedSize(QSize(92, 42))
        self.stop.setAccessibleName("Stop")
        self.stop.setToolTip(
            "Stop (Esc). First press: stop category 2, brakes on the ramp and keeps the power on.\n"
            "Second press: stop category 0, cuts the power at once.\n"
            "If the board does not obey, a third press gives up the run."
        )
        self.rotors = RotorSwitch(session)
        for button in (self.play, self.back, self.on, self.rate, self.loop, self.rotors):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._lay_out()
        self.refresh()

    def _lay_out(self) -> None:
        session = self.session
        self.track = ScrubTrack(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 18, 0)
        row.setSpacing(6)
        for widget in (self.play, self.back, self.on, self.rate, self.loop, self.rotors):
            row.addWidget(widget)
        row.addWidget(self.track, 1)
        row.addSpacing(8)
        row.addWidget(TimeFigure(session))
        row.addWidget(BoardState(session))
        row.addWidget(self.stop)
        self.play.clicked.connect(session.bench.toggle_play)
        self.back.clicked.connect(lambda: session.bench.step(-1))
        self.on.clicked.connect(lambda: session.bench.step(1))
        self.rate.clicked.connect(session.playhead.next_rate)
        self.stop.clicked.connect(session.bench.stop)
        for signal in (
            session.playing_changed,
            session.plan_changed,
            session.run_changed,
            session.theme_changed,
        ):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """Show what can be done now."""
        session = self.session
        playing = session.playhead.playing
        self.play.glyph = "pause" if playing else "play"
        words = "Pause (Space)" if playing else "Play (Space)"
        self.play.setToolTip(words)
        self.play.setAccessibleName(words)
        free = session.planning.plan is not None and not session.running.active
        for button in (self.play, self.back, self.on):
            button.setEnabled(free)
        share = "real time" if session.playhead.rate == 1.0 else f"1/{round(1 / session.playhead.rate)}"
        self.rate.setText(share)
        self.rate.setAccessibleName(f"Playback speed: {share}")
        self.rate.setToolTip(f"Plays at {share}. Click for slower motion.")
        running, status = session.running, session.running.status
        braking = running.active and status is not None and status.phase == "braking"
        self.stop.setText("Give up" if running.active and running.stops.overdue else "Cut power" if braking else "Stop")
        self.play.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        fill(painter, self.rect(), theme.color("sheet"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
