"""Starting Kivant: the demo without a screen, the window with a file, with nothing, and with what cannot be opened."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtWidgets import QApplication

from kivant.app.document.examples import FEEDER_CAROUSEL, load_example
from kivant.app.document.memory import Memory
from kivant.desktop import main as starting
from kivant.desktop.frame.window import Window
from kivant.files import project
from tests.desktop.base import WindowTest

PAINTED = """
import enum, gc, os
from kivant.desktop import main
class Window(main.Window):
    def recover(self):
        print(*{kind.__name__ for kind in gc.get_objects() if isinstance(kind, enum.EnumMeta)}, flush=True)
        os._exit(0)
main.Window = Window
main.main(["--demo"])
"""


class Demo(unittest.TestCase):
    def test_without_a_screen_it_goes_through_the_example(self):
        """It computes, runs on the stand-in, writes traces and pictures, and says so; run as a user would."""
        bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
        with tempfile.TemporaryDirectory() as folder:
            command = [sys.executable, "-m", "kivant.desktop.demo"]
            done = subprocess.run(
                command, cwd=folder, env=bare, capture_output=True, text=True, timeout=60, check=False
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertIn("730.473 steps, so 730", done.stdout)
            self.assertIn("Wheel 5844 of 5844", done.stdout)
            out = Path(folder) / "build/demo"
            self.assertGreater((out / "rising-spiral.vcd").stat().st_size, 100_000)
            self.assertTrue((out / "run-night.png").read_bytes().startswith(b"\x89PNG"))


class Start(WindowTest):
    def start(self, *arguments: str):
        """Start as the command does, without waiting for the window to be closed; return the status and window."""
        with (
            mock.patch.object(QApplication, "exec", return_value=0),
            mock.patch.dict(os.environ, {"KIVANT_STATE": str(self.folder / "state")}),
            mock.patch("signal.signal"),
        ):
            status = starting.main(arguments)
        windows = [w for w in QApplication.topLevelWidgets() if isinstance(w, Window) and w.isVisible()]
        for window in windows:
            self.addCleanup(self.shut, window)
        return status, windows[0] if windows else None

    def test_with_a_file_with_the_demo_and_with_nothing(self):
        path = self.folder / "feeder.kivant"
        project.save(load_example(FEEDER_CAROUSEL), path)
        for arguments, name, axes in (
            ((str(path),), "Feeder carousel", 1),
            (("--demo",), "Banding rig", 4),
            ((), "New machine", 0),
        ):
            status, window = self.start(*arguments)
            self.wait(lambda w=window: not w.session.planning.busy)
            self.assertEqual((status, window.session.document.machine.name, len(window.rail.cards)), (0, name, axes))
            self.assertFalse(window.isWindowModified())
            window.close()

    def test_the_first_picture_needs_no_list_of_styles_gradients_or_icons(self):
        """The toolkit makes such lists when they are first touched, all at once: they take as long as the picture."""
        state = os.environ | {"KIVANT_STATE": str(self.folder / "state")}
        done = subprocess.run([sys.executable, "-c", PAINTED], env=state, capture_output=True, text=True, check=False)
        made = set(done.stdout.split())
        self.assertIn("Key", made, done.stderr)
        self.assertEqual(made & {"PrimitiveElement", "Preset", "ThemeIcon"}, set())

    def test_what_cannot_be_opened_is_told_and_no_window_opens(self):
        broken = self.folder / "broken.kivant"
        broken.write_text("{")
        with mock.patch("sys.stderr") as error:
            status, window = self.start(str(broken))
        self.assertEqual((status, window), (1, None))
        self.assertIn("This is not JSON", "".join(call.args[0] for call in error.write.call_args_list))

    def test_the_light_that_was_chosen_comes_back(self):
        Memory(self.folder / "state").keep_window((1200, 780), (0, 0), maximized=False, night=True)
        _status, window = self.start("--demo")
        self.assertTrue(window.session.theme.night)
        self.assertEqual((window.width(), window.height()), (1200, 780))
        window.session.set_night(False)
