import contextlib
import io
import json
import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from contextlib import closing
from pathlib import Path
from unittest import mock

import numpy as np
from click.testing import CliRunner
from PIL import Image

import jointed_crane
from jointed_crane.cli import main
from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.core.evaluate import evaluate
from jointed_crane.sending.ways import WAYS
from jointed_crane.store.database import FILE_NAME
from jointed_crane.store.library import Library

ART = Path(__file__).parents[1] / "heron_lock" / "art"


class CommandLineTests(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.data = self.folder / "data"

    def run_command(self, *words, status=0, env=None, typed=None):
        environment = env or {"JOINTED_CRANE_DATA": str(self.data)}
        result = CliRunner().invoke(main, [str(word) for word in words], typed, env=environment)
        self.assertEqual(result.exit_code, status, result.output)
        return result

    def test_import_makes_the_scene_sized_from_the_first_drawing(self):
        files = (ART / "heron.svg", ART / "dock-crane.svg")
        result = self.run_command("import", *files, "--into", "Quay", "--as", "layers")
        self.assertEqual(result.stdout, "Brought 47 parts into Quay.\n")
        self.run_command("import", ART / "heron.svg", "--into", "Quay")
        self.assertEqual(self.run_command("import", *files, "--into", "Pair").stdout, "Brought 2 parts into Pair.\n")
        scene = Library(self.data).scenes.load(Library(self.data).shelf.find("Quay").id).scene
        self.assertEqual((scene.width, scene.height, len(scene.parts)), (1280, 720, 75))
        self.assertIn("Quay: 1280 x 720 px, 96 frames at 24 fps, 75 parts", self.run_command("scenes").stdout)

    def test_a_wrong_file_gives_one_sentence_and_changes_nothing(self):
        (self.folder / "wrong.svg").write_text("no drawing")
        result = self.run_command("import", ART / "heron.svg", self.folder / "wrong.svg", "--into", "Quay", status=1)
        self.assertEqual(result.stdout, "")
        self.assertEqual(len(result.stderr.strip().splitlines()), 1)
        self.assertIn("wrong.svg is neither", result.stderr)
        self.run_command("import", self.folder / "missing.svg", "--into", "Quay", status=1)
        self.assertIn("shelf is empty", self.run_command("scenes").stdout)

    def test_tracks_come_in_together_as_helpers_with_keys_or_not_at_all(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        (self.folder / "hand.csv").write_text("frame,x,y\n0,10,20\n6,40,35.5\n")
        (self.folder / "foot.csv").write_text("frame;y;x\n0;1,5;2\n")
        (self.folder / "wrong.csv").write_text("frame,x,y\n0,here,20\n")
        refused = self.run_command(
            "track", self.folder / "hand.csv", self.folder / "wrong.csv", "--into", "Heron", status=1
        )
        self.assertIn("wrong.csv", refused.stderr)
        result = self.run_command("track", self.folder / "hand.csv", self.folder / "foot.csv", "--into", "Heron")
        self.assertEqual(result.stdout, "Brought 2 tracks into Heron.\n")
        scene = Library(self.data).scenes.load(Library(self.data).shelf.find("Heron").id).scene
        hand, foot = scene.parts[-2:]
        self.assertEqual((hand.name, hand.kind, foot.name), ("hand", "helper", "foot"))
        pose = evaluate(scene, [0.0, 3.0, 6.0])
        np.testing.assert_allclose(pose.pivot[-2, :, :2], ((10, 20), (25, 27.75), (40, 35.5)), rtol=0, atol=1e-9)
        np.testing.assert_allclose(pose.pivot[-1, 0, :2], (2, 1.5), rtol=0, atol=1e-9)
        self.run_command("track", self.folder / "hand.csv", "--into", "Nobody", status=1)

    def test_send_every_way(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        starts = {"svg": b"<?xml", "zip": b"PK", "png": b"PK", "still": b"\x89PNG", "apng": b"\x89PNG"}
        starts |= {"gif": b"GIF89a", "webp": b"RIFF", "webm": b"\x1a\x45\xdf\xa3", "mp4": b"\0\0\0", "sheet": b"PK"}
        starts |= {"lottie": b"{", "motion-json": b"{", "motion-csv": b"frame,time,part"}
        for form, start in {name: starts[name] for name in WAYS}.items():
            target = self.folder / f"heron.{form}.{WAYS[form].ending}"
            span = ["--last", 2] if "last" in WAYS[form].choices.model_fields else []
            self.run_command("send", "Heron", "--as", form, "--to", target, *span)
            self.assertTrue(target.read_bytes().startswith(start))
        again = self.run_command("import", self.folder / "heron.lottie.json", "--into", "Again")
        scene = Library(self.data).scenes.load(Library(self.data).shelf.find("Heron").id).scene
        self.assertEqual(again.stdout, f"Brought {len(scene.parts)} parts into Again.\n")
        twice = self.run_command("import", self.folder / "heron.lottie.json", "--into", "Again", status=1)
        self.assertIn("There is a scene called Again already.", twice.stderr)
        target = self.folder / "half.png"
        self.run_command("send", "Heron", "--as", "still", "--to", target, "--scale", "0.5", "--see-through")
        with Image.open(target) as picture:
            self.assertEqual(picture.size, (round(scene.width / 2), round(scene.height / 2)))
            self.assertEqual(picture.mode, "RGBA")
        self.run_command("send", "Heron", "--as", "png", "--to", self.folder / "in" / "all", "--last", 2, "--begin", 7)
        names = sorted(picture.name for picture in (self.folder / "in" / "all").iterdir())
        self.assertEqual(names, ["frame-0007.png", "frame-0008.png", "frame-0009.png"])
        for words, sentence in (
            (("svg", "--scale", "2"), "Scale cannot be chosen for svg; part, first, last can."),
            (("zip", "--first", "2"), "First cannot be chosen for zip; nothing can."),
            (("still", "--scale", "0"), "scale cannot be taken"),
            (("still", "--scale", "60"), "is too large"),
            (("svg", "--span", "Walk"), "has no span called 'Walk'"),
        ):
            refused = self.run_command("send", "Heron", "--to", self.folder / "no", "--as", *words, status=1)
            self.assertIn(sentence, refused.stderr)
            self.assertFalse((self.folder / "no").exists())
        self.run_command("send", "Heron", "--as", "svg", "--to", self.folder / "no" / "such" / "folder.svg", status=1)
        result = self.run_command("send", "Crane", "--as", "svg", "--to", self.folder / "x.svg", status=1)
        self.assertEqual(result.stderr, "There is no scene called 'Crane'. The scenes are: Again, Heron.\n")

    def test_what_is_watched_is_sent_again_when_it_changes(self):
        self.run_command("new", "Quay", "--length", 3)
        target = self.folder / "quay.svg"
        command = [
            sys.executable,
            "-m",
            "jointed_crane.cli",
            "send",
            "Quay",
            "--as",
            "svg",
            "--to",
            str(target),
            "--watch",
        ]
        environment = {**os.environ, "JOINTED_CRANE_DATA": str(self.data)}
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment) as program:
            try:
                self.assertIn("Sent Quay", program.stdout.readline())
                library = Library(self.data)
                scene_id = library.shelf.find("Quay").id
                library.scenes.keep(scene_id, 1, [RenameScene("Harbour")])
                self.assertIn("Sent Quay", program.stdout.readline())
                self.assertIn("<title>Harbour</title>", target.read_text())
            finally:
                program.send_signal(signal.SIGINT)
            self.assertEqual(program.wait(timeout=20), 0)

    def test_edits_are_applied_all_or_none_and_said_before(self):
        self.run_command("new", "Quay", "--width", 640, "--height", 360, "--fps", "30000/1001", "--length", 48)
        self.run_command("new", "Wrong", "--fps", "many", status=1)
        edits = [
            {"edit": "add_helper", "id": "hook", "name": "Hook", "place": [320, 40]},
            {"edit": "set_values", "parts": ["hook"], "values": {"move.y": 90.0}, "frame": 12.0},
            {"edit": "rename_scene", "name": "Harbour"},
        ]
        file = self.folder / "edits.json"
        file.write_text(json.dumps(edits))
        told = self.run_command("edit", "Quay", file, "--dry-run").stdout
        self.assertEqual(told, "The scene's name becomes Harbour instead of Quay.\nHook is new.\n")
        self.assertIn("Quay: 640 x 360 px, 48 frames at 29.97", self.run_command("scenes").stdout)
        result = self.run_command("edit", "Quay", file)
        self.assertEqual(result.stdout, "Kept 3 edits in Harbour.\n")
        self.run_command("edit", "Harbour", file, "--dry-run", status=1)  # there is a part of this id by now
        for words in ("[]", "7", '[{"edit": "fly"}]', '[{"edit": "rename_scene", "name": "A"}, {"edit": "fly"}]', "{"):
            refused = self.run_command("edit", "Harbour", typed=words, status=1)
            self.assertRegex(refused.stderr, "^[A-Z].*\n$")
        turned = {"edit": "set_values", "parts": ["hook"], "values": {"turn.z": 5.0}}
        told = self.run_command("edit", "Harbour", "-", "--dry-run", typed=json.dumps(turned)).stdout
        self.assertEqual(told, "Hook differs in rest of turn.z.\n")
        self.run_command("rename", "Harbour", "Basin")
        self.run_command("rename", "Harbour", "Basin", status=1)
        self.run_command("remove", "Basin")
        self.assertIn("shelf is empty", self.run_command("scenes").stdout)
        self.assertEqual(Library(self.data).shelf.undo(), "Delete Basin")

    def test_the_lines_of_python_in_the_readme_run(self):
        text = (ART.parents[1] / "README.md").read_text()
        code = text.split("```python\n")[1].split("```")[0]
        with (
            mock.patch.dict(os.environ, {"JOINTED_CRANE_DATA": str(self.data)}),
            contextlib.chdir(self.folder),
            contextlib.redirect_stdout(io.StringIO()) as printed,
        ):
            names = {}
            exec(code, names)
        self.assertEqual(printed.getvalue(), "(0.0, 12.0)\n")
        self.assertEqual(names["picture"].shape, (180, 320, 4))
        with Image.open(self.folder / "crate.webp") as sent:
            self.assertEqual((sent.size, sent.n_frames), ((640, 360), 1))
        with self.assertRaisesRegex(jointed_crane.RuleError, "no scene called 'Ferry'. The scenes are: Crate"):
            names["library"].open("Ferry")

    def test_where_frames_cannot_be_drawn_that_is_said_and_all_else_works(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        target = self.folder / "sent"
        with mock.patch.dict(sys.modules, {"skia": None}):
            refused = self.run_command("send", "Heron", "--as", "still", "--to", target, status=1)
            self.assertRegex(refused.stderr, r"Pictures cannot be drawn here: .* install libgl1 and libegl1")
            self.assertFalse(target.exists())
            self.run_command("send", "Heron", "--as", "svg", "--to", target)

    def test_pose_prints_what_evaluate_computes(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        document = json.loads(self.run_command("pose", "Heron", "--frames", "0,12,24.5").stdout)
        scene = Library(self.data).scenes.load(Library(self.data).shelf.find("Heron").id).scene
        pose = evaluate(scene, [0, 12, 24.5])
        for row, part in enumerate(document["parts"]):
            self.assertEqual([frame["frame"] for frame in part["frames"]], [0.0, 12.0, 24.5])
            np.testing.assert_array_equal([frame["world"] for frame in part["frames"]], pose.world[row])
            self.assertEqual(set(part["frames"][0]), {"frame", "world", "opacity", "drawing", "shown"})
        for frames in ("soon", "", "1,,2", "nan"):
            self.run_command("pose", "Heron", "--frames", frames, status=1)

    def test_data_wins_over_the_environment(self):
        other = self.folder / "other"
        self.run_command("import", ART / "heron.svg", "--into", "Heron", "--data", other)
        self.assertIn("shelf is empty", self.run_command("scenes").stdout)
        self.assertIn("Heron", self.run_command("scenes", "--data", other).stdout)

    def test_a_newer_or_damaged_library_gets_a_sentence_and_stays_as_it_is(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        file = self.data / FILE_NAME
        with closing(sqlite3.connect(file)) as connection, connection:
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
        result = self.run_command("scenes", status=1)
        self.assertRegex(result.stderr, r"newer version of Jointed Crane \(its tables are at 9999.*--data\.\n$")
        with closing(sqlite3.connect(file)) as connection:
            ((found,),) = connection.execute("SELECT version_num FROM alembic_version")
        self.assertEqual(found, "9999")
        for side in self.data.iterdir():
            side.unlink()
        file.write_bytes(b"SQLite format 3\0" + bytes(range(256)) * 40)
        result = self.run_command("scenes", status=1)
        self.assertRegex(
            result.stderr, r"^The library in .* is damaged, or its file is of another program\. .*--data\.\n$"
        )

    def test_a_busy_library_is_waited_for(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        busy = sqlite3.connect(self.data / FILE_NAME, isolation_level=None, check_same_thread=False)
        self.addCleanup(busy.close)
        busy.execute("BEGIN IMMEDIATE")
        begin = time.monotonic()
        timer = threading.Timer(1.0, lambda: busy.execute("ROLLBACK"))
        timer.start()
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        timer.join()
        self.assertGreater(time.monotonic() - begin, 1.0)
        self.assertIn("56 parts", self.run_command("scenes").stdout)

    def test_commands_load_what_they_use(self):
        self.run_command("import", ART / "heron.svg", "--into", "Heron")
        unused = {
            "--help": {"sqlalchemy", "numpy", "pydantic", "flask"},
            "scenes": {"sqlalchemy.orm", "alembic", "numpy", "pydantic", "flask", "lxml"},
            "pose Heron --frames 0": {"sqlalchemy.orm", "alembic", "scipy", "shapely", "flask", "lxml"},
        }
        for words, names in unused.items():
            code = (
                "import sys; from jointed_crane.cli import main\n"
                f"try: main({words.split()!r})\n"
                f"finally: print('loaded', sorted({names!r} & set(sys.modules)), file=sys.stderr)"
            )
            environment = {**os.environ, "JOINTED_CRANE_DATA": str(self.data)}
            command = [sys.executable, "-c", code]
            result = subprocess.run(command, env=environment, capture_output=True, text=True, check=True)
            self.assertEqual(result.stderr, "loaded []\n", words)

    def test_a_port_that_cannot_be_is_refused(self):
        for port in ("-1", "65536", "many"):
            self.run_command("serve", "--port", port, status=2)

    def test_help_is_worth_reading(self):
        for command in ("serve", "demo", "import", "send", "pose", "scenes"):
            text = self.run_command(command, "--help").stdout
            self.assertIn("--data FOLDER", text)
            self.assertGreater(len(text.splitlines()), 6, command)
        whole = self.run_command("--help").stdout
        self.assertIn("jointed-crane import figure.svg", whole)
        self.assertNotIn("...", whole.split("Commands:")[1])  # in a window of 80 columns, cut off nowhere
