"""No text is cut off: every label has the room it needs, and every painted text fits the box it is painted into."""

from msgspec.structs import replace
from PySide6 import QtCore
from PySide6.QtGui import Qt, QTextDocument
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton, QWidget

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.machine import Gear, Machine, Ratio
from kivant.desktop.kit.literal import literal, unaccelerated
from kivant.desktop.stations import STATIONS
from tests.desktop.base import WindowTest
from tests.desktop.painted import SLACK, Painted
from tests.desktop.test_layout import SIZES, axes
from tests.machines import coil_axis, machine, move, screw_axis


def long_named() -> Machine:
    """Return two axes whose names, lines and figures are as long as they get."""
    name = "An axis whose name takes all of the eighty characters that a project file allows"
    lines = tuple(f"output number {k} of the board" for k in range(8))
    coil = replace(
        coil_axis(name[:80]),
        travel=tuple(Gear(driving=1234, driven=9876) if k % 2 else Ratio(ratio="1.23456789012") for k in range(8)),
        limits=replace(coil_axis().limits, speed=123456789.123, acceleration=987654321.987),
    )
    screw = replace(
        screw_axis("Short", 4), limits=replace(screw_axis().limits, speed=0.000123456789, acceleration=0.000987654321)
    )
    built = machine(coil, screw, blocks=(move(to={coil.name: "123456.789012"}),))
    named = [replace(a, driver=replace(a.driver, lines=replace(a.driver.lines, **{k: lines[int(v[1:])] for k, v in (
        (key, getattr(a.driver.lines, key)) for key in ("A", "B", "C", "D", "STEP", "DIR") if hasattr(a.driver.lines, key))}))) for a in built.axes]  # fmt: skip
    return replace(built, axes=tuple(named), board=replace(built.board, lines=lines), name=name)


class Text(WindowTest):
    def test_nothing_is_cut_off_in_any_station(self):
        """Every station, at three sizes, in both lights, with the demo, long names, huge figures and twelve axes."""
        for built in (load_example(), long_named(), axes(12), Machine()):
            for size in SIZES:
                window = self.open(Document(built), size)
                window.session.playhead.go(window.session.planning.duration_s * 0.37)
                for night in (False, True):
                    window.session.set_night(night)
                    for key in STATIONS:
                        window.show_station(key)
                        for axis in {0, max(len(built.axes) - 1, 0)}:
                            window.session.choice.select(axis)
                            for face in self.faces_of(window, key):
                                self.settle(window)
                                self.app.processEvents()
                                with Painted() as painted:
                                    window.grab()
                                where = (built.name[:20], size, key, axis, face)
                                self.assertEqual(painted.cut, [], where)
                                self.assert_widgets_fit(window, where)
                self.assertGreater(len(painted.texts), 3)

    def faces_of(self, window, key):
        """Yield each face of a station that is open, and show it; once where the page has no faces."""
        names = getattr(window.page, "names", None) if window.session.choice.axis else None
        for face in list(names.buttons) if names else [""]:
            if face:
                window.page.show_face(face)
            yield face

    def test_names_with_markup_are_shown_as_they_stand(self):
        """In every station, each label and tool tip that holds such a name shows its markup instead of obeying it."""
        wheel, lift = axes(2).axes
        lift = replace(lift, name="<i>Lift</i> & co")
        built = machine(replace(wheel, name="<b>Wheel</b>"), lift, blocks=(move(to={"<b>Wheel</b>": "90"}),))
        routine = replace(built.routines[0], name="<s>once</s>")
        window = self.open(Document(replace(built, name="<h1>Rig</h1>", routines=(routine,))))
        seen = 0
        seen_pages = (
            (key, face) for key in STATIONS for face in (window.show_station(key), *self.faces_of(window, key))
        )
        for key, _face in seen_pages:
            self.settle(window)
            window.grab()
            for widget in window.findChildren(QWidget):
                texts = [widget.toolTip()]
                if isinstance(widget, QLabel) and widget.textFormat() != QtCore.Qt.TextFormat.PlainText:
                    texts.append(widget.text())
                for text in filter(Qt.mightBeRichText, texts):
                    shown = QTextDocument()
                    shown.setHtml(text)
                    self.assertRegex(shown.toPlainText(), "<[bish]1?>.*</[bish]1?>", (key, widget, text))
                    seen += 1
        self.assertGreater(seen, 10)
        self.assertEqual(unaccelerated("R&D\x1b"), "R&&D\u241b")
        self.assertEqual(literal("1 < 2\x07"), "1 < 2\u2407")

    def assert_widgets_fit(self, window, where) -> None:
        for field in window.findChildren(QLineEdit):
            if field.isVisible():
                needed = field.fontMetrics().horizontalAdvance(field.text())
                self.assertGreaterEqual(field.width() - 8, needed, (field.accessibleName(), field.text(), where))
        for widget in [*window.findChildren(QLabel), *window.findChildren(QPushButton)]:
            if not widget.isVisible() or not widget.text():
                continue
            if isinstance(widget, QLabel) and widget.wordWrap():
                self.assertGreaterEqual(
                    widget.height() + 2, min(widget.heightForWidth(widget.width()), 42), (widget.text(), where)
                )
                continue
            needed = widget.fontMetrics().horizontalAdvance(widget.text())
            self.assertGreaterEqual(widget.width() + SLACK, needed, (widget.text(), where))
