"""What outlives a window: unsaved changes of a process that was killed, recent files, the window's state."""

import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.autosave import Autosave, leftovers
from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.document.memory import MOST_RECENT, Memory, read_json, state_folder
from kivant.files import project

RIG = load_example()

CHILD = """
import sys, time
from msgspec.structs import replace
from pathlib import Path
from kivant.app.document.examples import load_example
from kivant.app.document.autosave import Autosave
autosave = Autosave(Path(sys.argv[1]))
if sys.argv[2:]:
    autosave.prepare(None)
    while not list(Path(sys.argv[1]).glob("unsaved/*.json")):
        time.sleep(0.01)
else:
    autosave.keep(replace(load_example(), name="Half done"), Path("/somewhere/rig.kivant")).result()
print("kept", flush=True)
time.sleep(60)
"""


class FolderTest(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)


class Unsaved(FolderTest):
    def test_what_somebody_has_taken_away_is_kept_again(self):
        """Beside the machine there is always the file that it belongs to; with nothing kept, nothing is left."""
        autosave, kept = Autosave(self.folder), self.folder / "unsaved"
        autosave.prepare(Path("/somewhere/rig.kivant"))
        for name in ("one", "two", "three"):
            self.assertTrue(autosave.keep(replace(RIG, name=name), Path("/somewhere/rig.kivant")).result())
            self.assertEqual([read_json(file) for file in kept.glob("*.json")], [{"path": "/somewhere/rig.kivant"}])
            self.assertEqual([project.load(file).name for file in kept.glob("*.kivant")], [name])
            if name == "two":
                for file in (*kept.glob("*.json"), *kept.glob("*.kivant")):
                    file.unlink()
        autosave.close()
        self.assertEqual(list(kept.iterdir()), [])

    def test_changes_of_a_killed_process_are_found_and_those_of_a_living_one_are_not(self):
        """A real process keeps its changes and is killed; then they are found, with the file they belong to."""
        child = subprocess.Popen([sys.executable, "-c", CHILD, str(self.folder)], stdout=subprocess.PIPE, text=True)
        self.addCleanup(child.stdout.close)
        self.assertEqual(child.stdout.readline().strip(), "kept")
        self.assertEqual(leftovers(self.folder), [])
        child.kill()
        child.wait()
        found = leftovers(self.folder)
        self.assertEqual([(f.machine.name, f.path) for f in found], [("Half done", Path("/somewhere/rig.kivant"))])
        document = found[0].document()
        self.assertTrue(document.modified)
        self.assertEqual(document.path, Path("/somewhere/rig.kivant"))
        found[0].forget()
        self.assertEqual(leftovers(self.folder), [])
        self.assertEqual(list((self.folder / "unsaved").iterdir()), [])

    def test_what_a_process_leaves_that_was_killed_before_it_kept_anything_goes_away(self):
        command = [sys.executable, "-c", CHILD, str(self.folder), "nothing"]
        child = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        self.addCleanup(child.stdout.close)
        self.assertEqual(child.stdout.readline().strip(), "kept")
        self.assertEqual(leftovers(self.folder), [])
        suffixes = sorted(file.suffix for file in (self.folder / "unsaved").iterdir())
        self.assertEqual(suffixes, [".json", ".lock"], "it is about to keep something")
        child.kill()
        child.wait()
        self.assertEqual(leftovers(self.folder), [])
        self.assertEqual(list((self.folder / "unsaved").iterdir()), [])

    def test_each_copy_is_judged_for_itself(self):
        """A link to nowhere, a pipe, a damaged copy and nonsense for a process's number hide no other copy."""
        unsaved = self.folder / "unsaved"
        unsaved.mkdir()
        (unsaved / "a.kivant").symlink_to("nowhere")
        os.mkfifo(unsaved / "b.kivant")
        (unsaved / "c.kivant").write_bytes(b'{"x": 1e1000000000000000000}')
        for name, path in (("d", 10**400), ("e", "nul\0"), ("f", ["many"]), ("g", str(self.folder / "g.kivant"))):
            project.save(replace(RIG, name=name), unsaved / f"{name}.kivant")
            (unsaved / f"{name}.json").write_text(json.dumps({"pid": os.getpid(), "path": path}))
        (unsaved / "h.kivant").write_bytes(project.dumps(RIG))
        (unsaved / "h.lock").mkdir()
        found = {leftover.machine.name: leftover.path for leftover in leftovers(self.folder)}
        self.assertEqual(found, {"d": None, "e": None, "f": None, "g": self.folder / "g.kivant"})

    def test_nobody_else_can_read_what_is_kept(self):
        folder = self.folder / "state"
        autosave = Autosave(folder)
        autosave.keep(RIG, None).result()
        Memory(folder).remember(self.folder / "rig.kivant")
        modes = {path.name[-6:]: path.stat().st_mode & 0o777 for path in (folder, *folder.rglob("*"))}
        self.assertEqual(set(modes.values()), {0o700, 0o600}, modes)
        self.assertEqual([path.stat().st_mode & 0o777 for path in (folder, folder / "unsaved")], [0o700, 0o700])
        autosave.close()

    def test_keeping_and_dropping(self):
        autosave = Autosave(self.folder)
        self.assertTrue(autosave.keep(RIG, None).result())
        kept = next((self.folder / "unsaved").glob("*.kivant"))
        os.utime(kept, (1.0, 1.0))
        self.assertTrue(autosave.keep(RIG, None).result())
        self.assertEqual(kept.stat().st_mtime, 1.0, "the same machine is not written twice")
        others = [autosave.keep(replace(RIG, name=name), None) for name in ("one", "two", "else")]
        self.assertTrue(others[-1].result())
        self.assertEqual(project.load(kept).name, "else")
        autosave.keep(replace(RIG, name="late"), None)
        autosave.drop()
        autosave.close()
        self.assertEqual(list((self.folder / "unsaved").iterdir()), [])

    def test_a_full_disk_or_damaged_remains_do_no_harm(self):
        autosave = Autosave(self.folder)
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            self.assertFalse(autosave.keep(RIG, None).result())
        autosave.close()
        self.assertEqual(leftovers(self.folder / "nowhere"), [])
        unsaved = self.folder / "unsaved"
        unsaved.mkdir(exist_ok=True)
        (unsaved / "1-a.kivant").write_bytes(b"\x00" * 99)
        (unsaved / "1-b.kivant").write_bytes(project.dumps(RIG))
        (unsaved / "1-b.json").write_text('{"pid": "many", "path": 7}')
        found = leftovers(self.folder)
        self.assertEqual([(f.machine, f.path) for f in found], [(RIG, None)])


class Remembering(FolderTest):
    def test_recent_files_come_newest_first_and_only_while_they_are_there(self):
        memory = Memory(self.folder)
        paths = [self.folder / f"m{k}.kivant" for k in range(MOST_RECENT + 3)]
        for path in paths:
            path.write_bytes(b"")
            memory.remember(path)
        self.assertEqual(memory.recent, paths[: -MOST_RECENT - 1 : -1])
        memory.remember(paths[5])
        self.assertEqual(memory.recent[0], paths[5])
        paths[5].unlink()
        self.assertNotIn(paths[5], Memory(self.folder).recent)

    def test_the_window_is_remembered_and_nonsense_is_forgotten(self):
        memory = Memory(self.folder)
        nothing = (None, None, None, False, [])
        self.assertEqual((memory.size, memory.place, memory.night, memory.maximized, memory.recent), nothing)
        memory.keep_window((1400, 900), (-40, 7), maximized=True, night=None)
        self.assertEqual((memory.size, memory.place, memory.night), ((1400, 900), (-40, 7), None))
        memory.keep_window((1400, 900), (0, 0), maximized=True, night=True)
        self.assertTrue(memory.maximized)
        memory.keep_window((1300, 900), (0, 0), maximized=False, night=None)
        self.assertEqual((memory.size, memory.night, memory.maximized), ((1300, 900), True, False))
        for nonsense in (
            "[]",
            "{",
            '{"size": [1, "a"], "night": "dark", "recent": 5}',
            '{"size": [99999999, 5], "recent": [7], "place": [1], "maximized": 7}',
            '{"size": "large", "place": [0, 1e99]}',
        ):
            (self.folder / "window.json").write_text(nonsense)
            found = (memory.size, memory.place, memory.night, memory.maximized, memory.recent)
            self.assertEqual(found, nothing, nonsense)
        (self.folder / "window.json").write_text("[" * 100_000)
        self.assertEqual(read_json(self.folder / "window.json"), {})

    def test_the_folder_may_be_named(self):
        with mock.patch.dict(os.environ, {"KIVANT_STATE": str(self.folder)}):
            self.assertEqual(state_folder(), self.folder)
        with mock.patch.dict(os.environ, {"XDG_STATE_HOME": "/x"}):
            os.environ.pop("KIVANT_STATE", None)
            self.assertEqual(state_folder(), Path("/x/kivant"))


class OnDisk(FolderTest):
    def test_a_file_changed_by_another_program_is_noticed(self):
        """Opened or saved here it is known; written elsewhere it is not; gone, there is nothing to lose."""
        path = self.folder / "rig.kivant"
        project.save(RIG, path)
        document = Document.open(path)
        self.assertFalse(document.changed_on_disk)
        path.write_text(json.dumps({"format": "else"}))
        self.assertTrue(document.changed_on_disk)
        document.save()
        self.assertFalse(document.changed_on_disk)
        path.unlink()
        self.assertFalse(document.changed_on_disk)
