import io
import json
import re
import struct
import tempfile
import time
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import numpy as np

import jointed_crane.web
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate import evaluate
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import read_bundle
from jointed_crane.web import create_app
from jointed_crane.web.static_files import ADDRESS
from tests.demo_library import WORKERS, copy_demo
from tests.strategies import STUB

HERON = Path(__file__).parents[2] / "heron_lock" / "art" / "heron.svg"


class AppTestCase(unittest.TestCase):
    """One app for all tests of a class, which takes edits without a token."""

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.app = create_app(Path(folder.name), lambda _: [], WORKERS)
        cls.app.config.update(WTF_CSRF_ENABLED=False)
        cls.addClassCleanup(cls.app.extensions["sender"].close)
        cls.library = cls.app.extensions["library"]
        cls.library.assets.put([STUB])
        cls.client = cls.app.test_client()


class ApiTestCase(unittest.TestCase):
    has_demo = False

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        if self.has_demo:
            copy_demo(Path(folder.name))
        app = create_app(Path(folder.name), workers=WORKERS)
        self.library = app.extensions["library"]
        self.addCleanup(app.extensions["sender"].close)
        self.client = app.test_client()
        page = self.client.get("/").get_data(as_text=True)
        self.token = re.search(r'name="csrf-token" content="([^"]+)"', page)[1]

    def post(self, path, document=None, **more):
        more.setdefault("headers", {"X-CSRFToken": self.token})
        return self.client.post(path, json={} if document is None else document, **more)

    def with_heron(self):
        kept = self.library.new_from(read_artwork(HERON.read_bytes(), "heron.svg"), "Heron")
        self.path = f"/api/scenes/{kept.scene.id}"
        return kept

    def assert_problem(self, answer, status, words):
        self.assertEqual(answer.status_code, status, answer.get_data(as_text=True))
        self.assertEqual(answer.content_type, "application/problem+json")
        self.assertRegex(answer.get_json()["detail"], words)
        self.assertEqual(answer.get_json()["status"], status)


class EditTests(ApiTestCase):
    def test_an_edit_answers_with_what_changed_and_the_pose(self):
        kept = self.with_heron()
        neck = next(part for part in kept.scene.parts if part.name == "Lower neck")
        edit = {"edit": "turn_by", "parts": [neck.id], "degrees": -38.5, "frame": 12}
        answer = self.post(f"{self.path}/edits", {"version": kept.version, "frame": 12, "edits": [edit]}).get_json()
        self.assertEqual(answer["version"], kept.version + 1)
        self.assertEqual([part["id"] for part in answer["changed"]], [neck.id])
        self.assertEqual(answer["pose"]["motion"], {neck.id: {"turn.z": -38.5}})
        self.assertEqual(answer["undo"], "Turn Lower neck at frame 12")
        world = evaluate(self.library.scenes.load(kept.scene.id).scene, [12]).world_of(neck.id)
        found = answer["pose"]["parts"][neck.id]["matrix"]
        np.testing.assert_array_equal(found, world[:2][:, [0, 1, 3]].T.ravel())

    def test_a_first_key_keeps_what_came_before_says_so_and_is_one_row_of_undo(self):
        kept = self.with_heron()
        part = next(part for part in kept.scene.parts if not part.channels)
        edit = {"edit": "set_values", "parts": [part.id], "values": {"turn.z": 10.0}, "frame": 12}
        request = {"version": kept.version, "frame": 12, "edits": [edit]}
        answer = self.post(f"{self.path}/edits", request).get_json()
        self.assertEqual(answer["remarks"], [f"Turn of {part.name} keeps what it was before by a key at frame 0."])
        self.assertEqual([key["frame"] for key in answer["changed"][0]["channels"]["turn.z"]["keys"]], [0, 12])
        undone = self.post(f"{self.path}/undo", {"version": answer["version"]}).get_json()
        self.assertEqual(self.library.scenes.load(kept.scene.id).scene, kept.scene)
        request = {**request, "version": undone["version"], "keeps_before": False}
        answer = self.post(f"{self.path}/edits", request).get_json()
        self.assertNotIn("remarks", answer)
        self.assertEqual([key["frame"] for key in answer["changed"][0]["channels"]["turn.z"]["keys"]], [12])

    def test_a_preview_answers_the_same_and_keeps_nothing(self):
        kept = self.with_heron()
        edit = {"edit": "turn_by", "parts": [kept.scene.parts[5].id], "degrees": 10}
        request = {"version": kept.version, "frame": None, "edits": [edit]}
        seen = self.post(f"{self.path}/preview", request).get_json()
        self.assertEqual(self.library.scenes.load(kept.scene.id).version, kept.version)
        done = self.post(f"{self.path}/edits", request).get_json()
        self.assertEqual(list(seen["pose"]["parts"]), [kept.scene.parts[5].id])
        for part_id, pose in seen["pose"]["parts"].items():
            self.assertEqual(done["pose"]["parts"][part_id], pose)

    def test_a_preview_names_what_a_pivot_snaps_to(self):
        kept = self.with_heron()
        part = kept.scene.parts[4]
        left, top, _, _ = part.bounds
        edit = {
            "edit": "move_pivot",
            "part": part.id,
            "point": [left + 2, top + 1],
            "unit": "stage",
            "snapping": {"within": 5},
        }
        seen = self.post(f"{self.path}/preview", {"version": kept.version, "edits": [edit]}).get_json()
        self.assertEqual(seen["snap"], f"upper left corner of {part.name}")
        self.assertEqual(seen["changed"][0]["pivot"][:2], [left, top])

    def test_what_cannot_be_answered_is_not_kept(self):
        kept = self.with_heron()
        edit = {"edit": "turn_by", "parts": [kept.scene.parts[5].id], "degrees": 10}
        request = {"version": kept.version, "frame": None, "edits": [edit]}
        refused = RuleError("This cannot be answered. Nothing was changed.")
        with mock.patch("jointed_crane.web.api.scenes.pose_document", side_effect=refused):
            self.assert_problem(self.post(f"{self.path}/edits", request), 422, "Nothing was changed")
            self.assertEqual(self.library.scenes.load(kept.scene.id), kept)
        self.post(f"{self.path}/edits", request)
        with mock.patch("jointed_crane.web.api.scenes.pose_document", side_effect=refused):
            answer = self.post(f"{self.path}/undo", {"version": kept.version + 1})
            self.assert_problem(answer, 422, "Nothing was changed")
            self.assertEqual(self.library.scenes.load(kept.scene.id).version, kept.version + 1)

    def test_a_stale_version_gets_409_and_the_new_version(self):
        kept = self.with_heron()
        edit = {"edit": "rename_scene", "name": "Other"}
        self.post(f"{self.path}/edits", {"version": kept.version, "edits": [edit]})
        for path in ("edits", "preview", "undo", "redo"):
            edits = {"edits": [edit]} if path in ("edits", "preview") else {}
            answer = self.post(f"{self.path}/{path}", {"version": kept.version, **edits})
            self.assert_problem(answer, 409, "changed meanwhile")
            self.assertEqual(answer.get_json()["version"], kept.version + 1)

    def test_undo_and_redo(self):
        kept = self.with_heron()
        # A scene from a file is there whole from its first version on; deleting its parts is an edit like any other.
        ids = [part.id for part in kept.scene.parts]
        edit = {"edit": "delete_parts", "parts": ids}
        answer = self.post(f"{self.path}/edits", {"version": kept.version, "edits": [edit]}).get_json()
        answer = self.post(f"{self.path}/undo", {"version": answer["version"]}).get_json()
        self.assertEqual([part["id"] for part in answer["changed"]], ids)
        answer = self.post(f"{self.path}/redo", {"version": answer["version"]}).get_json()
        self.assertEqual(len(answer["removed"]), len(kept.scene.parts))
        answer = self.post(f"{self.path}/undo", {"version": answer["version"]}).get_json()
        self.assertEqual(answer["changed"][3]["drawings"][0]["art"], kept.scene.parts[3].drawings[0].art)

    def test_wrong_input_gets_a_sentence_and_never_a_500(self):
        kept = self.with_heron()
        part = kept.scene.parts[0].id
        twice = {"drawing": {"keys": [{"frame": 1, "value": 2}, {"frame": 1, "value": 3}]}}
        one = {"parts": [part]}
        wrong = [
            *(None, 5, [], {"edit": 3}, {"edit": "fly"}, {"edit": "turn_by"}),
            {"edit": "turn_by", "parts": [], "degrees": 1},
            {"edit": "turn_by", "parts": ["nobody"], "degrees": 1},
            {"edit": "turn_by", "degrees": "x", **one},
            {"edit": "turn_by", "degrees": 1e300, **one},
            {"edit": "turn_by", "degrees": 1, "why": 2, **one},
            {"edit": "join", "parent": part, **one},
            {"edit": "move_pivot", "part": part, "point": [1]},
            {"edit": "set_values", "values": {"colour": 3}, **one},
            {"edit": "set_stage", "fps": [0, 0]},
            {"edit": "set_stage", "ground": "red; x"},
            {"edit": "set_stage", "length": 10**9},
            {"edit": "rename_scene", "name": ""},
            {"edit": "move_keys", "keys": [{"part": part, "channel": "turn.z", "frame": 3}], "by": 1},
            {"edit": "set_sway", "part": part, "channel": "turn.z", "sway": {"amount": 1, "period": 0}},
            {"edit": "add_parts", "parts": [{"id": part, "name": "x"}]},
            {"edit": "add_parts", "parts": [{"id": "z", "name": "z", "parent": "z"}]},
            {"edit": "add_parts", "parts": [{"id": "z", "name": "z", "channels": twice}]},
            {"edit": "set_placement", "part": part, "turn_order": "XXY"},
        ]
        for edit in wrong:
            for path in ("edits", "preview"):
                answer = self.post(f"{self.path}/{path}", {"version": kept.version, "edits": [edit]})
                with self.subTest(edit=edit, path=path):
                    self.assert_problem(answer, 422, "Nothing was changed|There is|No part|not|is locked|closer")
        self.assertEqual(self.library.scenes.load(kept.scene.id).scene, kept.scene)

    def test_requests_that_are_no_json_or_lack_a_version(self):
        kept = self.with_heron()
        headers = {"X-CSRFToken": self.token}
        for body in (
            b"",
            b"{",
            b"[]",
            b'{"version": NaN}',
            b'{"version": 1e999, "edits": []}',
            b"\xff\xfe",
            b"[" * 10_000,
        ):
            answer = self.client.post(f"{self.path}/edits", data=body, content_type="application/json", headers=headers)
            self.assert_problem(answer, 422, "JSON|version|edits|finite")
        answer = self.client.post(f"{self.path}/edits", data=b"{}", headers=headers)
        self.assert_problem(answer, 422, "not JSON")
        self.assert_problem(self.post(f"{self.path}/edits", {"version": True, "edits": []}), 422, "version")
        for frame in ("soon", "nan", "1e99", [1]):
            edit = {"edit": "rename_scene", "name": "x"}
            request = {"version": kept.version, "frame": frame, "edits": [edit]}
            self.assertEqual(self.post(f"{self.path}/preview", request).status_code, 422)


class MotionTests(ApiTestCase):
    def test_baked_motion_is_the_evaluation_as_float32(self):
        kept = self.with_heron()
        edit = {"edit": "turn_by", "parts": [kept.scene.parts[6].id], "degrees": 77, "frame": 3}
        self.post(f"{self.path}/edits", {"version": kept.version, "edits": [edit]})
        scene = self.library.scenes.load(kept.scene.id).scene
        answer = self.client.get(f"{self.path}/motion?from=2&to=8")
        (length,) = struct.unpack("<I", answer.data[:4])
        self.assertEqual(length % 4, 0)
        head = json.loads(answer.data[4 : 4 + length])
        columns = [*"abcdef", "opacity", "drawing", "shown", "order"]
        self.assertEqual(head, {"parts": len(scene.parts), "frames": 7, "columns": columns})
        block = np.frombuffer(answer.data[4 + length :], "<f4").reshape(len(scene.parts), 7, len(columns))
        pose = evaluate(scene, np.arange(2.0, 9.0))
        expected = pose.world[:, :, :2][..., [0, 1, 3]].transpose(0, 1, 3, 2).reshape(len(scene.parts), 7, 6)
        np.testing.assert_array_equal(block[..., :6], expected.astype("<f4"))
        for name in ("opacity", "drawing", "shown", "order"):
            np.testing.assert_array_equal(block[..., columns.index(name)], getattr(pose, name).astype("<f4"), name)
        again = self.client.get(f"{self.path}/motion?from=2&to=8", headers={"If-None-Match": answer.headers["ETag"]})
        self.assertEqual(again.status_code, 304)

    def test_too_much_motion_is_refused(self):
        self.with_heron()
        self.assert_problem(self.client.get(f"{self.path}/motion?from=0&to=9999999"), 422, "frames at once")


class ArtworkTests(ApiTestCase):
    def send_files(self, path, files, **fields):
        data = {"files": [(io.BytesIO(data), name) for name, data in files], **fields}
        return self.client.post(path, data=data, headers={"X-CSRFToken": self.token})

    def test_bringing_in_is_one_row_of_undo_and_all_or_nothing(self):
        kept = self.with_heron()
        good = (
            "vane.svg",
            b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect id="r" width="4" height="4"/></svg>',
        )
        answer = self.send_files(f"{self.path}/artwork", [good, ("bad.svg", b"<svg")], version=kept.version)
        self.assert_problem(answer, 422, "bad.svg is not a well-formed")
        self.assertEqual(self.library.scenes.load(kept.scene.id).scene, kept.scene)
        answer = self.send_files(f"{self.path}/artwork", [good, good], version=kept.version).get_json()
        self.assertEqual([part["name"] for part in answer["changed"]], ["vane", "vane 2"])
        self.assertEqual(len(answer["added"]), 2)
        undone = self.post(f"{self.path}/undo", {"version": answer["version"]}).get_json()
        self.assertEqual(sorted(undone["removed"]), sorted(answer["added"]))

    def test_a_drawing_opened_from_the_shelf_makes_a_scene_of_its_size(self):
        answer = self.send_files("/api/open", [("heron.svg", HERON.read_bytes())])
        self.assertEqual(answer.status_code, 201)
        scene = self.library.scenes.load(answer.get_json()["id"]).scene
        self.assertEqual((scene.name, scene.width, scene.height, len(scene.parts)), ("heron", 1280, 720, 28))

    def test_a_drawing_opened_as_a_scene_has_no_ground_and_is_sent_see_through(self):
        made = self.send_files("/api/open", [("heron.svg", HERON.read_bytes())]).get_json()["id"]
        self.assertEqual(self.client.get(f"/api/scenes/{made}").get_json()["scene"]["ground"], "none")
        whole = b'<rect width="100%" height="100%"'
        self.assertNotIn(whole, self.client.get(f"/api/scenes/{made}/send/svg").data)
        edit = {"edit": "set_stage", "ground": "#E3EDF0"}
        answer = self.post(f"/api/scenes/{made}/edits", {"version": 1, "edits": [edit]})
        self.assertEqual(answer.status_code, 200)
        self.assertIn(whole, self.client.get(f"/api/scenes/{made}/send/svg").data)

    def test_a_sent_zip_opens_again_identically(self):
        kept = self.with_heron()
        data = self.client.get(f"{self.path}/send/zip").data
        self.assertEqual(read_bundle(data, "heron.zip").scene, kept.scene)
        opened = self.send_files("/api/open", [("heron.zip", data)]).get_json()
        scene = self.library.scenes.load(opened["id"]).scene
        self.assertEqual(scene.parts, kept.scene.parts)

    def test_a_table_fills_slots_with_pictures_that_came_beside_it(self):
        kept = self.with_heron()
        eye = next(part for part in kept.scene.parts if part.name == "Eye")
        named = {"edit": "name_slot", "part": eye.id, "what": "picture", "name": "Look"}
        self.post(f"{self.path}/edits", {"version": kept.version, "edits": [named]})
        shape = b'<rect width="90" height="90" fill="%s"/>'
        svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90">' + shape + b"</svg>"
        pictures = {}
        for name, colour in (("red", b"#ff0000"), ("blue", b"#0000ff")):
            answer = self.send_files("/api/drawings", [(f"{name}.svg", svg % colour)]).get_json()
            pictures[f"{name}.svg"] = answer["drawing"]
        table = self.send_files("/api/tables", [("looks.csv", b"Look\nred.svg\nblue.svg\n")]).get_json()
        self.assertEqual(table, {"columns": ["Look"], "rows": [{"Look": "red.svg"}, {"Look": "blue.svg"}]})
        filling = {"rows": table["rows"], "names": "{Look}", "fit": "box", "pictures": pictures}
        order = {"way": "svg", "choices": {}, "filling": filling}
        shown = self.post(f"{self.path}/variant", order)
        self.assertEqual((shown.status_code, b"#ff0000" in shown.data), (200, True))
        made = self.post(f"{self.path}/sendings", order).get_json()
        self.assertEqual((made["rows"], made["file_name"]), (2, "Heron by table.zip"))
        end = time.monotonic() + 60
        while self.library.sendings.get(made["id"]).state not in ("done", "failed"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        sent = self.client.get(f"/api/sendings/{made['id']}/file")
        self.assertEqual(sent.content_type, "application/zip")
        with zipfile.ZipFile(io.BytesIO(sent.data)) as archive:
            self.assertEqual(archive.namelist(), ["red.svg.svg", "blue.svg.svg"])
            self.assertIn(b"#0000ff", archive.read("blue.svg.svg"))
        for wrong, words in (
            ({"names": "{Owner}"}, "no column 'Owner'"), ({"names": "same"}, "Two rows would have one name"),
            ({"rows": [{"Owner": "x"}], "names": "{row}"}, "'Owner' names no slot and no part"), ({"rows": []}, "rows"),
            ({"pictures": {"red.svg": {"art": "x"}}}, "The picture 'red.svg' is no drawing"),
            ({"pictures": {"red.svg": {**pictures["red.svg"], "art": "0" * 64}}}, "This art is not stored here"),
        ):  # fmt: skip
            self.assert_problem(self.post(f"{self.path}/sendings", {**order, "filling": filling | wrong}), 422, words)
        again = self.post(f"/api/sendings/{made['id']}/again", {"from_now": True}).get_json()
        self.assertEqual(again["rows"], 2)

    def test_vector_animation_that_is_sent_opens_again(self):
        kept = self.with_heron()
        data = self.client.get(f"{self.path}/send/lottie").data
        opened = self.send_files("/api/open", [("heron.json", data)]).get_json()
        scene = self.library.scenes.load(opened["id"]).scene
        self.assertEqual(opened["notes"], [])
        for part in kept.scene.parts:
            again = next(one for one in scene.parts if one.name == part.name)
            np.testing.assert_allclose(again.pivot, part.pivot, atol=1e-9)
        refused = self.send_files("/api/open", [("no.json", b'{"layers": 3}')])
        self.assert_problem(refused, 422, "neither a scene nor vector animation")

    def test_a_file_that_is_too_large_is_refused(self):
        answer = self.send_files("/api/open", [("big.svg", b" " * 65_000_000)])
        self.assert_problem(answer, 413, "too large")


class SafetyTests(ApiTestCase):
    def test_every_change_needs_the_token(self):
        kept = self.with_heron()
        paths = ["/api/scenes", "/api/open", "/api/shelf/undo", "/api/shelf/redo"]
        paths += [
            f"{self.path}/{act}"
            for act in ("edits", "preview", "undo", "redo", "artwork", "duplicate", "rename", "delete")
        ]
        for path in paths:
            self.assert_problem(self.client.post(path, json={"version": kept.version}), 403, "load it anew")

    def test_other_hosts_are_turned_away(self):
        for host in ("lock.example", "localhost.lock.example", "[::2]:8420", "127.0.0.2", "[::1].lock.example", ""):
            self.assertEqual(self.client.get("/", headers={"Host": host}).status_code, 400, host)
        for host in ("localhost:8420", "LOCALHOST", "[::1]", "[::1]:8420", "127.0.0.1:8420"):
            self.assertEqual(self.client.get("/", headers={"Host": host}).status_code, 200, host)

    def test_the_policy_allows_nothing_inline_and_nothing_from_elsewhere(self):
        self.with_heron()
        for path in ("/", f"{self.path.removeprefix('/api')}", "/nowhere"):
            policy = self.client.get(path).headers["Content-Security-Policy"]
            self.assertIn("default-src 'none'", policy)
            self.assertIn("script-src 'self'", policy)
            self.assertNotIn("unsafe-inline", policy)
            self.assertNotIn("unsafe-eval", policy)

    def test_art_and_sent_drawings_may_do_nothing_on_their_own(self):
        kept = self.with_heron()
        for path in (f"/art/{kept.scene.parts[0].drawings[0].art}", f"{self.path}/send/svg"):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200)
            self.assertIn("sandbox", answer.headers["Content-Security-Policy"])
            self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")

    def test_what_is_not_there(self):
        for path in ("/api/scenes/none", "/api/scenes/none/motion", "/api/nothing"):
            self.assert_problem(self.client.get(path), 404, "shelf")
        self.assertIn("Go to the shelf", self.client.get("/scenes/none").get_data(as_text=True))
        self.assertEqual(self.client.get("/art/none").status_code, 422)
        for path in ("/static/../../secret", f"{ADDRESS}/../../../cli.py", f"{ADDRESS}/bench/../../cli.py"):
            self.assertEqual(self.client.get(path).status_code, 404)

    def test_a_browser_keeps_scripts_for_good_since_their_address_changes_with_them(self):
        self.with_heron()
        page = self.client.get(self.path.removeprefix("/api")).get_data(as_text=True)
        addresses = re.findall(r'(?:src|href)="(/static/[^"]+)"', page)
        self.assertGreater(len(addresses), 60)
        for address in addresses:
            self.assertTrue(address.startswith(f"{ADDRESS}/"), address)
            answer = self.client.get(address)
            self.assertEqual(answer.status_code, 200, address)
            self.assertIn("immutable", answer.headers["Cache-Control"])
            self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
            self.assertNotIn("Access-Control-Allow-Origin", answer.headers)
            answer.close()

    def test_scripts_name_each_other_relative_to_themselves(self):
        for script in Path(jointed_crane.web.__file__).parent.rglob("*.js"):
            self.assertNotRegex(script.read_text(), r"""(from|import\()\s*["'`]/""", script.name)


class ShelfPageTests(ApiTestCase):
    def test_examples_are_offered_only_where_there_are_some(self):
        self.assertNotIn("demo scenes", self.client.get("/").get_data(as_text=True))
        self.assert_problem(self.post("/api/examples"), 422, "no example scenes")

    def test_the_empty_shelf_says_what_to_do_first(self):
        page = self.client.get("/").get_data(as_text=True)
        self.assertIn("The shelf is empty", page)
        self.assertIn("Drop a layered SVG drawing here", page)

    def test_making_duplicating_renaming_deleting_and_undoing(self):
        made = self.post(
            "/api/scenes", {"name": "Lock gates", "width": 800, "height": 600, "fps": [30000, 1001]}
        ).get_json()
        path = f"/api/scenes/{made['id']}"
        self.assertEqual(self.post(f"{path}/duplicate").status_code, 201)
        self.assertEqual(self.post(f"{path}/rename", {"name": "Gates"}).status_code, 200)
        self.assertEqual(self.post(f"{path}/delete").get_json(), {"name": "Gates"})
        names = lambda: [card.name for card in self.library.shelf.cards()]  # noqa: E731
        self.assertEqual(names(), ["Lock gates copy"])
        self.assertEqual(self.post("/api/shelf/undo").get_json(), {"label": "Delete Gates"})
        self.assertEqual(sorted(names()), ["Gates", "Lock gates copy"])
        page = self.client.get("/").get_data(as_text=True)
        self.assertIn("29.97 fps", page)
        self.assertIn('data-redo="Delete Gates"', page)

    def test_an_address_of_another_version_leads_to_the_thumbnail_of_this_one(self):
        kept = self.with_heron()
        for version in (kept.version - 1, kept.version + 5):
            answer = self.client.get(f"/scenes/{kept.scene.id}/thumbnail-{version}.svg")
            self.assertEqual((answer.status_code, answer.headers["Cache-Control"]), (302, "no-store"))
            self.assertTrue(answer.location.endswith(f"/thumbnail-{kept.version}.svg"))

    def test_a_thumbnail_is_drawn_from_the_scene(self):
        kept = self.with_heron()
        answer = self.client.get(f"/scenes/{kept.scene.id}/thumbnail-{kept.version}.svg")
        self.assertEqual(answer.content_type.split(";")[0], "image/svg+xml")
        self.assertIn(b"matrix(", answer.data)

    def test_wrong_scenes_are_refused(self):
        for wrong in (
            {"name": ""},
            {"name": "x", "width": "wide"},
            {"name": "x", "fps": [1]},
            {"name": "x", "length": 0},
            {"name": "x", "width": 1e9},
            {"name": "x", "fps": 5},
        ):
            self.assertEqual(self.post("/api/scenes", wrong).status_code, 422, wrong)
        self.assertEqual(json.loads(self.client.get("/api/scenes/x").data)["status"], 404)
