"""How the window is laid out: nothing overlaps or falls off, everything has a name, the keyboard reaches all."""

from decimal import Decimal

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QHelpEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QPushButton, QToolTip, QWidget

from kivant.app.document.document import Document
from kivant.core.machine import Machine, edits
from kivant.core.machine.axes import rename_axis
from kivant.core.machine.parts import Calibration
from kivant.core.path import Path, axis_path
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import PATTERNS, Theme, Token
from tests.desktop.base import WindowTest
from tests.desktop.painted import Painted
from tests.machines import coil_axis, machine, move, screw_axis

SIZES = ((1100, 700), (1280, 800), (1920, 1080))


def axes(count: int) -> Machine:
    """Return a machine of so many axes with long names, and figures of many digits."""
    made = (
        replace(
            (screw_axis, coil_axis)[k % 2](f"Axis {k} with a name that is long", 4 * k), name=f"Axis {k} of a long name"
        )
        for k in range(count)
    )
    return machine(*made, blocks=(move(by={"Axis 0 of a long name": "123456.789"}),))


class Layout(WindowTest):
    def rect(self, widget: QWidget, window: QWidget) -> QRect:
        return QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())

    def test_nothing_overlaps_or_falls_off(self):
        """The parts of the stage stay apart and inside, with one axis and with twelve, composing or not."""
        for count in (1, 4, 7, 12):
            for size in SIZES:
                window = self.open(Document(axes(count)), size)
                station = window.run_page
                for routine in (None, "test"):
                    window.session.choice.choose_routine(routine)
                    self.wait(lambda s=window.session: not s.planning.busy)
                    parts = [
                        station.head,
                        *station.panels,
                        station.lanes,
                        station.detail,
                        station.board,
                        window.bar,
                        window.head,
                    ]
                    rects = [self.rect(part, window) for part in parts]
                    for k, one in enumerate(rects):
                        self.assertTrue(window.rect().contains(one), (count, size, parts[k]))
                        for other, two in enumerate(rects[k + 1 :], start=k + 1):
                            self.assertFalse(one.intersects(two), (count, size, parts[k], parts[other]))

    def test_buttons_and_fields_show_all_of_their_text(self):
        window = self.open(size=(1100, 700))
        window.session.choice.choose_routine(None)
        self.wait(lambda: not window.session.planning.busy)
        for button in window.findChildren(QPushButton):
            if button.isVisible() and button.text():
                self.assertGreaterEqual(
                    button.width(), button.fontMetrics().horizontalAdvance(button.text()) + 8, button.text()
                )
        for field in window.findChildren(QLineEdit):
            if field.isVisible():
                hint = field.fontMetrics().horizontalAdvance(field.placeholderText())
                self.assertGreaterEqual(field.width(), hint + 16, field.placeholderText())

    def test_everything_that_takes_the_focus_has_a_name(self):
        window = self.open()
        window.session.choice.choose_routine(None)
        self.wait(lambda: not window.session.planning.busy)
        seen: list[QWidget] = []
        for _ in range(60):
            QTest.keyClick(self.app.focusWidget() or window, Qt.Key.Key_Tab)
            focused = self.app.focusWidget()
            if focused is None or focused in seen:
                break
            seen.append(focused)
            self.assertTrue(focused.accessibleName() or getattr(focused, "text", lambda: "")(), focused)
        kinds = {type(widget).__name__ for widget in seen}
        self.assertLessEqual({"AxisCard", "Choice", "TargetField", "Field", "QPushButton", "GlyphButton"}, kinds)

    def test_cards_are_chosen_by_keys(self):
        window = self.open()
        window.rail.cards[0].setFocus()
        for key, expected in ((Qt.Key.Key_Down, 1), (Qt.Key.Key_Down, 2), (Qt.Key.Key_Up, 1)):
            QTest.keyClick(window.rail.cards[0], key)
            self.assertEqual(window.session.choice.index, expected)
        QTest.keyClick(window.rail.cards[3], Qt.Key.Key_Return)
        self.assertEqual((window.session.choice.index, window.session.instant.axis_plan.name), (3, "Tilt"))

    def hover(self, widget: QWidget, at: QPoint) -> str:
        self.app.sendEvent(widget, QHelpEvent(QHelpEvent.Type.ToolTip, at, widget.mapToGlobal(at)))
        return QToolTip.text()

    def test_hovering_over_the_lanes_tells_figures(self):
        window = self.open()
        lanes = window.run_page.lanes
        left, per_second = lanes.span()
        said = self.hover(lanes, QPoint(round(left + 7.0 * per_second), 60))
        self.assertRegex(said, r"block 4: Wheel \+ Lift\nWheel: 54 deg/s\nLift: 2.7 mm/s\nReach: 0 mm/s")

    def test_the_lanes_show_where_play_is_taken_up(self):
        """The time is hatched in the axis's hue, and told on hover; elsewhere it is neither."""
        loose = replace(screw_axis(), calibration=Calibration(backlash=2.0))
        window = self.open(Document(machine(loose, blocks=(move(to={"Lift": "40"}), move(to={"Lift": "30"})))))
        lanes, taken = window.run_page.lanes, window.session.planning.plan.axes[0].taken
        left, per_second = lanes.span()
        begin, end = (float(times[0]) for times in (taken.begin_s, taken.end_s))
        self.wait(lambda: not window.session.turns.busy)
        image = lanes.grab().toImage()
        for time_s, inside in ((begin * 0.9, False), ((begin + end) / 2, True), (end + 0.1, False)):
            x = round(left + time_s * per_second)
            self.assertEqual("takes up its play" in self.hover(lanes, QPoint(x, 60)), inside, time_s)
            hues = {image.pixelColor(x + k, y).name() for k in (-1, 0, 1) for y in range(75, 100)}
            self.assertEqual(window.session.theme.axis(0).name() in hues, inside, time_s)

    def test_plates_show_the_selected_axis_alive(self):
        """Each picture changes with what it shows, and with nothing else."""
        window = self.open()
        session, plates = window.session, list(window.head.chain.plates.values())

        def pictures() -> list[QImage]:
            self.wait(lambda: not session.planning.busy and not any(plate.flashing for plate in plates))
            return [plate.grab(QRect(3, 5, 46, 50)).toImage() for plate in plates]

        session.playhead.go(5.0)
        before = pictures()
        for change, changed in (
            (lambda: session.bench.step(1), [1]),
            (lambda: session.edit(edits.typed(axis_path(0, "limits", "deceleration"), "30"), "deceleration"), [3, 4]),
            (lambda: session.edit(edits.remove_stage(0, 2), "stage out"), [2]),
            (lambda: session.edit(rename_axis(0, "Table"), "name"), []),
        ):
            change()
            after = pictures()
            # What the edit made of the plan may have turned the rotor, too.
            self.assertEqual([k for k in range(6) if after[k] != before[k] and (k != 1 or changed == [1])], changed)
            before = after

    def test_thousands_of_blocks_are_one_slip_that_says_how_many(self):
        wide = (move(to={"Lift": "40"}), move(to={"Lift": "0"}))
        many = tuple(move(to={"Lift": str(k % 2)}) for k in range(1500))
        window = self.open(Document(machine(screw_axis(), blocks=wide + many + wide)))
        with Painted() as painted:
            window.run_page.lanes.redraw()
            window.resize(1281, 800)
            window.grab()
        self.assertIn("1\u2009500 blocks", painted.texts)
        for index in (0, 700, 1503):
            block = window.session.planning.plan.blocks[index]
            self.assertEqual(window.session.planning.block_at((block.begin_s + block.end_s) / 2), block)

    def test_findings_of_routines_follow_the_edit_that_makes_them(self):
        window = self.open(Document(machine(screw_axis(), blocks=(move(to={"Lift": "40"}),))))
        session, badge = window.session, window.head.findings
        self.assertEqual(badge.text(), "i 1")
        lift = session.document.machine.axes[0]
        short = replace(lift, limits=replace(lift.limits, max=Decimal(30)))
        session.edit(lambda machine: replace(machine, axes=(short,)), "greatest position")
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(
            (badge.text(), str(session.planning.findings[0].place)), ("✕ 1   i 1", "routines[0].blocks[0].to.Lift")
        )
        self.assertEqual([f.code for f in window.head.chain.plates["routine"].found], ["outside-limits"])
        session.bench.undo()
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(badge.text(), "i 1")

    def test_findings_lead_to_their_place_and_mend_themselves(self):
        """Each finding jumps to its axis and station; what a machine can do is one undoable click."""
        fast = replace(screw_axis(enable="P8"), limits=replace(screw_axis().limits, speed=900.0, start_speed=950.0))
        window = self.open(Document(machine(coil_axis(first_line=4), fast, screw_axis("Reach", 0))))
        session, listed = window.session, window.sheets.findings
        window.head.findings.click()
        self.assertTrue(listed.isVisible())
        codes = [finding.code for finding, _jump, _mend in listed.rows]
        self.assertEqual(codes, ["line-shared", "line-shared", "pulse-rate-capped", "no-ramp", "enable-missing"])
        next(jump for finding, jump, _mend in listed.rows if finding.code == "no-ramp").click()
        self.assertEqual((session.choice.index, window.page), (1, window.pages["ramp"]))
        self.assertIs(window.focusWidget(), window.page.fields["start_speed"])
        for place, axis, station, entered in (
            ("axes[2].limits.max", 2, "travel", True),
            ("axes[2].driver.pulse_low_us", 2, "phases", True),
            ("axes[2].travel[0].lead", 2, "travel", True),
            ("axes[1].motor.full_steps_per_rev", 1, "travel", True),
            ("axes[0].driver.supply_v", 0, "phases", True),
            ("axes[1].name", 1, "phases", False),
            ("board.lines[3]", 1, "phases", False),
            ("routines[0].blocks[1].to.Lift", 1, "routine", False),
        ):
            path = Path.parse(place)
            window.show_place(path)
            self.assertEqual((session.choice.index, window.page), (axis, window.pages[station]), place)
            focused = getattr(window.focusWidget(), "path", None)
            self.assertEqual(focused, path.below("axes", "*") if entered else None, place)
        while session.planning.findings:
            listed.toggle()
            listed.rows[0][2].click()
            listed.hide()
            self.settle(window)
        self.assertEqual(
            (session.document.machine.axes[1].limits.speed, session.document.machine.axes[1].limits.start_speed),
            (500.0, 0.0),
        )
        for _ in codes:
            session.bench.undo()
        self.settle(window)
        self.assertEqual([finding.code for finding in session.planning.findings], codes)


class Looks(WindowTest):
    def test_axes_differ_by_letter_and_by_hue_or_pattern(self):
        """Nothing depends on colour alone: letters are unique, and no two of twelve share hue and pattern."""
        names = figures.letters(axes(12))
        self.assertEqual(len(set(names)), 12)
        theme = Theme()
        looks = {(theme.axis(k).name(), tuple(theme.pen(theme.axis(k), 1.0, axis=k).dashPattern())) for k in range(36)}
        self.assertEqual(len(looks), 36)
        self.assertEqual(len(set(PATTERNS)), len(PATTERNS))

    def test_figures_fit_and_read_well(self):
        table = [
            (figures.position(-1234.5678), "−1\u2009234.568"), (figures.position(-0.0001), "0.000"),
            (figures.position(1.23456789e12), "1.234568e12"), (figures.grouped(-1234567), "−1\u2009234\u2009567"),
            (figures.short(-0.0000123456), "−1.2346e−5"), (figures.short(-1234567.0), "−1\u2009234\u2009600"), (figures.plain(123456.789012), "123456.789012"),
            (figures.seconds(3.5), "3.500000 s"), (figures.seconds(7325.25), "2 h 02 min 05.250 s"),
            (figures.brief_seconds(5400.0), "1.5 h"), (figures.brief_seconds(9e8), "1.042e+04 days"),
            (figures.nice_span(0.03), 0.05), (figures.nice_span(0.0), 1.0), (figures.nice_span(200.0), 200.0),
        ]  # fmt: skip
        for found, expected in table:
            self.assertEqual(found, expected)

    def test_both_lights_keep_text_readable(self):
        """Text on its ground has a contrast of 4.5 or more, muted text of 4 (WCAG 2.1, relative luminance)."""

        def luminance(color) -> float:
            parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in color.getRgbF()[:3]]
            return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

        for night in (False, True):
            theme = Theme(night)
            tokens: tuple[tuple[Token, float], ...] = (
                ("ink", 7.0),
                ("muted", 4.0),
                ("accent", 4.5),
                ("bad", 4.5),
                ("good", 4.0),
            )
            for token, least in tokens:
                for ground in ("paper", "sheet"):
                    one, two = sorted((luminance(theme.color(token)), luminance(theme.color(ground))))
                    self.assertGreaterEqual((two + 0.05) / (one + 0.05), least, (token, ground, night))
