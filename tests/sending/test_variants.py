"""A rig as a template: rows of a table in its slots."""

import io
import tempfile
import unittest
from pathlib import Path

import numpy as np
from click.testing import CliRunner
from PIL import Image

import jointed_crane
from jointed_crane.cli import main
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.constraints.levers_and_links import AddLever
from jointed_crane.core.edits.pictures.drawings import CopyDrawing
from jointed_crane.core.edits.pictures.slots import NameSlot
from jointed_crane.formats.tables.variants import variant_rows
from jointed_crane.sending.variants import columns_of, fillable, slots_of

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="{0}" height="20">{1}</svg>'
RED = SVG.format("{0}", '<rect width="{0}" height="20" fill="#ff0000"/>')
BOARD = {"form": "rectangle", "box": [0, 0, 200, 60], "paint": {"fill": "#20303c"}}
WORDS = {"form": "text", "words": "Name", "size": 40, "paint": {"fill": "#f4efe4"}}
TABLE = "Name plate;Board: fill;Picture\nAda;#d2512f;red.svg\nBo;;\nÇelik & sons;#12706f;wide.svg\n"


class VariantTests(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.table = self.folder / "table"
        self.table.mkdir()
        for name, width in (("red", 40), ("wide", 80)):
            (self.table / f"{name}.svg").write_text(RED.format(width))
        (self.table / "names.csv").write_text(TABLE)
        self.scene = jointed_crane.open_library(self.folder / "data").new("Plates", width=320.0, height=100.0, length=2)
        self.scene.edit(
            {"edit": "add_shape", "id": "board", "shape": BOARD, "name": "Board", "place": [10, 20]},
            {"edit": "add_shape", "id": "name", "shape": WORDS, "name": "Name plate", "place": [20, 62]},
            {"edit": "add_shape", "id": "picture", "shape": {**BOARD, "box": [0, 0, 40, 20]}, "name": "Picture"},
            {"edit": "set_values", "parts": ["picture"], "values": {"move.x": 240.0, "move.y": 40.0}},
        )
        self.scene.edit(AddLever("lever", "Door"))
        self.before = self.scene.scene

    def filled(self, fit="registration", **cells):
        return self.scene.variant({name.replace("_", " "): cell for name, cell in cells.items()}, self.table, fit)

    def test_each_kind_of_cell_is_seen_and_the_scene_stays_as_it_is(self):
        plain = self.scene.frame()
        ada = self.scene.frame(of=self.filled(Name_plate="Ada"))
        changed = np.argwhere((ada != plain).any(axis=-1))
        self.assertTrue(changed[:, 0].min() >= 20 and changed[:, 0].max() < 80, "only where the words stand")
        words = self.filled(Name_plate="Ada").scene.part("name").drawing.shape.words
        self.assertEqual(words, "Ada")
        filled = self.scene.frame(of=self.scene.variant({"Board: fill": "#D2512F"}))
        self.assertEqual(filled[25, 205].tolist(), [0xD2, 0x51, 0x2F, 255])
        pictured = self.scene.frame(of=self.filled(Picture="red.svg"))
        self.assertEqual(pictured[45, 240].tolist(), [255, 0, 0, 255])
        self.assertEqual(self.filled(Door="0,5").scene.part("lever").rest["lever.x"], 0.5)
        self.assertEqual(self.scene.variant({"Board": " "}).scene, self.before)
        self.assertEqual(self.scene.scene, self.before)
        np.testing.assert_array_equal(self.scene.frame(), plain)

    def test_pictures_lie_by_registration_or_fill_the_old_box(self):
        for fit, width in (("registration", 80), ("box", 40)):
            seen = self.scene.frame(of=self.filled(fit, Picture="wide.svg"))
            red = (seen[..., 0] == 255) & (seen[..., 1] == 0)
            self.assertEqual(int(red.any(axis=0).sum()), width, fit)

    def test_rows_are_sent_under_their_names_by_command(self):
        target = self.folder / "out"
        words = ["send", "Plates", "--as", "still", "--to", str(target), "--data", str(self.folder / "data")]
        words += ["--table", str(self.table / "names.csv")]
        result = CliRunner().invoke(main, [*words, "--names", "{row} {Name plate}"])
        self.assertEqual(result.exit_code, 0, result.output)
        self.assertEqual(
            sorted(path.name for path in target.iterdir()), ["1 Ada.png", "2 Bo.png", "3 Çelik - sons.png"]
        )
        with Image.open(target / "1 Ada.png") as picture:
            cells = {"Name plate": "Ada", "Board: fill": "#d2512f", "Picture": "red.svg"}
            wanted = self.scene.frame(0, of=self.filled(**cells))
            np.testing.assert_array_equal(np.asarray(picture.convert("RGBA")), wanted)
        for names, sentence in (("{Nobody}", "no column 'Nobody'"), ("plate", "Two rows would have one name")):
            refused = CliRunner().invoke(main, [*words, "--names", names])
            self.assertEqual((refused.exit_code, len(list(target.iterdir()))), (1, 3))
            self.assertIn(sentence, refused.output)

    def test_what_cannot_be_filled_is_said_with_its_column(self):
        for row, sentence in (
            ({"Nobody": "x"}, "column 'Nobody' names no slot and no part"),
            ({"Nobody: fill": "x"}, "no part"),
            ({"Board: words": "x"}, "Board has no 'words' that a table could fill"),
            ({"Board: size": "x"}, "picture, fill, stroke can be"),
            ({"Board: fill": "reddish"}, "Nothing was changed"),
            ({"Door": "wide open"}, "Door: 'wide open' is no number"),
            ({"Picture: drawing": "Fist"}, "Picture has no 'drawing' that a table could fill"),
            ({"Picture": "../data/scenes.sqlite3"}, "no picture '../data/scenes.sqlite3' beside the table"),
            ({"Picture": "/etc/passwd"}, "no picture '/etc/passwd' beside the table"),
            ({"Picture": "names.csv"}, "neither"),
        ):
            with self.subTest(row), self.assertRaisesRegex(RuleError, sentence):
                self.scene.variant(row, self.table)
        self.assertEqual([slot.what for slot in slots_of(self.before, "Name plate : fill ")], ["fill"])

    def test_a_column_fills_all_slots_of_its_name(self):
        (drawing,) = self.before.part("picture").drawings
        self.scene.edit(CopyDrawing("picture", drawing.id, "two"), NameSlot("board", "fill", " Ground  colour "))
        self.scene.edit(NameSlot("name", "fill", "Ink"), NameSlot("picture", "fill", "Ground colour"))
        self.scene.edit(NameSlot("picture", "drawing", "Side"))
        self.assertEqual(columns_of(self.scene.scene), ["Ground colour", "Ink", "Side"])
        filled = self.scene.variant(
            {"Ground colour": "#d2512f", "Side": self.scene.scene.part("picture").drawings[1].name}
        ).scene
        colours = [filled.part(name).drawings[0].shape.paint.fill for name in ("board", "picture", "name")]
        self.assertEqual(colours, ["#d2512f", "#d2512f", "#f4efe4"])
        self.assertEqual(filled.part("picture").rest["drawing"], 1.0)
        for name in fillable(self.scene.scene):
            self.assertTrue(slots_of(self.scene.scene, name), name)
        with self.assertRaisesRegex(RuleError, "Side: Picture has no drawing called 'Fist'; it has"):
            self.scene.variant({"Side": "Fist"})
        with self.assertRaisesRegex(
            RuleError, "Board has no value that a table could fill; picture, fill, stroke can be"
        ):
            self.scene.edit(NameSlot("board", "value", "Door"))
        self.scene.edit(NameSlot("board", "fill"))
        self.assertEqual(self.scene.scene.part("board").slots, {})
        self.scene.undo()
        self.assertEqual(self.scene.scene.part("board").slots, {"fill": "Ground colour"})

    def test_what_is_no_table_is_refused_with_the_line(self):
        self.assertEqual(variant_rows(b"a,b\n1\n\n,2\n", "t.csv"), [{"a": "1"}, {"a": "", "b": "2"}])
        for data, words in (
            (b"", "no rows"),
            (b"a,b\n", "no rows"),
            (b"a,a\n1,2\n", "a column twice"),
            (b"a,\n1,2\n", "without a name"),
            (b"a\n1,2\n", "line 2: 2 cells under 1 columns"),
            (b"\xff\xfe", "UTF-8"),
            (b"a\n" + b"1\n" * 1_001, "more than 1000 rows"),
        ):
            with self.subTest(data[:9]), self.assertRaisesRegex(RuleError, f"{words}.*Nothing was sent"):
                variant_rows(data, "t.csv")

    def test_a_variant_is_sent_any_way(self):
        made = self.filled(**{"Name plate": "Ada", "Picture": "red.svg"})
        target = self.folder / "ada.zip"
        self.scene.send(target, "zip", made)
        other = jointed_crane.open_library(self.folder / "other")
        self.assertEqual(other.names, [])
        self.scene.send(self.folder / "ada.svg", "svg", made)
        self.assertIn(b"#ff0000", (self.folder / "ada.svg").read_bytes())
        self.assertGreater(len(io.BytesIO(target.read_bytes()).getvalue()), 500)
