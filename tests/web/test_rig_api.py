import io
import json
import unittest
from pathlib import Path

import numpy as np

from heron_lock.heron import NAME
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from tests.formats.test_lettering import block_font
from tests.web.test_api import ApiTestCase

ART = Path(__file__).parents[1] / "art"
LAYERED = b"""<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100">
<g id="crane"><g id="mast"><rect width="20" height="80"/></g><g id="jib"><rect x="20" width="90" height="10"/></g></g>
<g id="hook"><rect x="150" y="40" width="20" height="20"/><circle id="eye" cx="160" cy="30" r="4"/></g></svg>"""


class ArtworkApiTests(ApiTestCase):
    def send(self, path, data, name="crane.svg", **fields):
        form = {"files": (io.BytesIO(data), name), **fields}
        return self.client.post(
            path, data=form, content_type="multipart/form-data", headers={"X-CSRFToken": self.token}
        )

    def layers(self, data=LAYERED, **fields):
        return self.send("/api/artwork/layers", data, **fields).get_json()["layers"]

    def brought_in(self, scene_id="s1", **choices):
        self.library.scenes.create(Scene(scene_id, "Lock"))
        answer = self.send(f"/api/scenes/{scene_id}/artwork", LAYERED, version="1", choices=json.dumps(choices))
        return answer, self.library.scenes.load(scene_id).scene

    def test_the_longest_id_of_a_constraint_is_kept_and_read_again(self):
        kept = self.with_heron()
        part, other = kept.scene.parts[3].id, kept.scene.parts[1].id
        constraint = {"kind": "point at", "id": "é" * 200, "name": "Point", "goal": {"part": other}}
        channel = f"constraint.{constraint['id']}.weight"
        edits = [
            {"edit": "constrain", "part": part, "constraint": constraint},
            {"edit": "set_values", "parts": [part], "values": {channel: 0.5}, "frame": 12},
        ]
        answer = self.post(f"{self.path}/edits", {"version": kept.version, "edits": edits})
        self.assertEqual(answer.status_code, 200, answer.get_data(as_text=True))
        self.library.scenes.forget(kept.scene.id)
        self.assertEqual(self.client.get(self.path).status_code, 200)
        curves = self.client.get(f"{self.path}/curves", query_string={"channels": json.dumps([[part, channel]])})
        self.assertEqual([curve["channel"] for curve in curves.get_json()["curves"]], [channel])
        edits[0]["constraint"]["id"] += "e"
        self.assert_problem(
            self.post(f"{self.path}/edits", {"version": 2, "edits": edits[:1]}), 422, "1 to 200 letters"
        )

    def test_a_part_that_stands_on_nothing_does_not_slip(self):
        kept = self.with_heron()
        answer = self.client.get(f"{self.path}/drift?part={kept.scene.parts[3].id}")
        self.assertEqual(answer.status_code, 200, answer.get_data(as_text=True))
        found = answer.get_json()
        self.assertEqual((found["slips"], set(found["speeds"])), ([], {0.0}))

    def test_parts_are_fused_and_split_with_undo_and_refusals_in_words(self):
        _, scene = self.brought_in(opened=["0/0"])
        mast, jib, hook = (part.id for part in scene.parts)
        answer = self.post("/api/scenes/s1/fuse", {"version": 2, "parts": [mast, hook]})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Between mast and hook lies jib", answer.get_json()["detail"])
        answer = self.post("/api/scenes/s1/fuse", {"version": 1, "parts": [mast, jib]})
        self.assertEqual(answer.status_code, 409)
        answer = self.post("/api/scenes/s1/fuse", {"version": 2, "parts": [mast, jib]})
        self.assertEqual((answer.status_code, answer.get_json()["removed"]), (200, [mast]))
        fused = self.library.scenes.load("s1").scene.part(jib)
        left, top, right, bottom = fused.bounds
        self.assertEqual((left, top, right, bottom), (0, 0, 110, 80))
        answer = self.post("/api/scenes/s1/split", {"version": 3, "part": jib})
        self.assertEqual(answer.status_code, 200)
        pieces = self.library.scenes.load("s1").scene.parts
        self.assertEqual([part.name for part in pieces], ["mast", "jib", "hook"])
        self.assertEqual([part.bounds for part in pieces[:2]], [(0, 0, 20, 80), (20, 0, 110, 10)])
        for part in pieces[:2]:
            self.assertEqual(self.client.get(f"/art/{part.drawings[0].art}").status_code, 200)
        answer = self.post("/api/scenes/s1/split", {"version": 4, "part": pieces[0].id})
        self.assertIn("The picture of mast is one piece", answer.get_json()["detail"])
        for version in (4, 5):
            self.assertEqual(self.post("/api/scenes/s1/undo", {"version": version}).status_code, 200)
        self.assertEqual(self.library.scenes.load("s1").scene, scene)

    def test_layers_are_shown_before_anything_comes_in(self):
        found = self.layers()
        self.assertEqual(
            [(layer["path"], layer["name"], layer["inner"]) for layer in found],
            [("0/0", "crane", 2), ("0/1", "hook", 0)],
        )
        self.assertEqual(found[1]["crosses"], ["eye"])
        self.assertEqual(self.client.get(f"/art/{found[0]['art']}").status_code, 200)
        opened = self.layers(choices=json.dumps({"opened": ["0/0"]}))
        self.assertEqual([layer["path"] for layer in opened], ["0/0.0", "0/0.1", "0/1"])

    def test_layers_are_taken_registered_scaled_and_placed(self):
        answer, scene = self.brought_in(
            opened=["0/0"], registration="lower middle", scale=2, place=[10, 20],
            layers={"0/0.1": {"take": False}, "0/1": {"registration": "cross:eye"}},
        )  # fmt: skip
        self.assertEqual(answer.status_code, 200)
        mast, hook = scene.parts
        self.assertEqual((mast.name, mast.drawings[0].registration), ("mast", (10, 80)))
        # The mark is the registration, and it is not drawn.
        self.assertEqual((hook.drawings[0].registration, hook.drawings[0].bounds), ((160, 30), (-10, 10, 10, 30)))
        self.assertNotIn(b"circle", self.library.assets.get(hook.drawings[0].art)[1])
        pose = evaluate(scene, [0])
        np.testing.assert_allclose(pose.world_of(hook.id) @ [0, 0, 0, 1], [10 + 2 * 160, 20 + 2 * 30, 0, 1], atol=1e-9)
        np.testing.assert_allclose(pose.world_of(mast.id) @ [0, 0, 0, 1], [10 + 2 * 10, 20 + 2 * 80, 0, 1], atol=1e-9)

    def test_choices_that_make_no_sense_are_refused_and_nothing_comes_in(self):
        none_taken = {"0/0": {"take": False}, "0/1": {"take": False}}
        wrong = [
            {"registration": "moon"}, {"scale": 0}, {"scale": "wide"}, {"place": [1e9, 0]}, {"layers": none_taken},
            {"layers": {"0/1": {"registration": "cross:nothing"}}},
        ]  # fmt: skip
        for number, choices in enumerate(wrong):
            answer, scene = self.brought_in(f"s{number}", **choices)
            self.assertEqual((answer.status_code, scene.parts), (422, ()), choices)

    def test_a_changed_file_exchanges_arts_and_keeps_the_rig(self):
        self.brought_in(opened=["0/0"], layers={"0/1": {"registration": "cross:eye"}})
        scene = self.library.scenes.load("s1").scene
        hook = next(part for part in scene.parts if part.name == "hook")
        changed = LAYERED.replace(b'x="150" y="40" width="20"', b'x="150" y="40" width="40"').replace(
            b'cy="30"', b'cy="35"'
        )
        changed = changed.replace(b'<g id="jib">', b'<g id="rope">').replace(b'x="20" width="90"', b'x="25" width="90"')
        found = self.send("/api/scenes/s1/artwork/compare", changed).get_json()["layers"]
        states = {layer["name"]: layer["state"] for layer in found}
        self.assertEqual(states, {"mast": "same", "rope": "new", "hook": "changed", "jib": "gone"})
        self.assertEqual(self.send("/api/scenes/s1/artwork/update", changed, version="2", fit="moon").status_code, 422)
        answer = self.send("/api/scenes/s1/artwork/update", changed, version="2")
        self.assertEqual(answer.get_json()["words"], "1 changed layer and 1 new part came in; the rig is as it was.")
        after = self.library.scenes.load("s1").scene
        self.assertEqual([part.name for part in after.parts], ["mast", "jib", "hook", "rope"])
        new = after.part(hook.id)
        self.assertEqual((new.pivot, new.rest), (hook.pivot, hook.rest))
        self.assertEqual((new.drawings[0].registration, new.drawings[0].bounds), ((160, 35), (-10, 5, 30, 25)))
        again = self.send("/api/scenes/s1/artwork/update", changed, version="3").get_json()
        self.assertEqual(again["version"], 3)
        undone = self.post("/api/scenes/s1/undo", {"version": 3})
        self.assertEqual(undone.status_code, 200)
        self.assertEqual(self.library.scenes.load("s1").scene, scene)

    def test_a_file_as_one_drawing_for_edits(self):
        self.brought_in()
        made = self.send("/api/drawings", LAYERED).get_json()["drawing"]
        self.assertEqual((made["name"], made["bounds"]), ("crane", [0, 0, 170, 80]))
        part = self.library.scenes.load("s1").scene.parts[0]
        edit = {"edit": "replace_drawing", "part": part.id, "drawing": part.drawings[0].id, "by": made, "fit": "box"}
        answer = self.post("/api/scenes/s1/edits", {"version": 2, "edits": [edit]})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.library.scenes.load("s1").scene.parts[0].drawings[0].bounds, part.drawings[0].bounds)


class RigApiTests(ApiTestCase):
    has_demo = True

    def setUp(self):
        super().setUp()
        self.scene = self.library.shelf.find(NAME)
        self.path = f"/api/scenes/{self.scene.id}"

    def part(self, name):
        return next(part for part in self.library.scenes.load(self.scene.id).scene.parts if part.name == name)

    def keep(self, *edits):
        version = self.library.scenes.load(self.scene.id).version
        return self.post(f"{self.path}/edits", {"version": version, "edits": list(edits)})

    def test_gaps_and_the_round_ends_of_a_joint(self):
        hand = self.part("Upper neck")
        self.keep(
            {"edit": "make_joints", "parts": [hand.id], "id_prefix": "j"},
            {"edit": "move_by", "parts": [hand.id], "by": [3, 4]},
        )
        gap = next(gap for gap in self.client.get(f"{self.path}/gaps").get_json()["gaps"] if gap["part"] == hand.id)
        self.assertAlmostEqual(gap["distance"], 5, places=9)
        self.keep(
            {"edit": "seat", "parts": [hand.id]},
            {"edit": "set_limits", "parts": [hand.id], "channel": "turn.z", "low": -30, "high": 40},
        )
        joint = self.client.get(f"{self.path}/joints/{hand.id}").get_json()["joint"]
        self.assertAlmostEqual(joint["difference"], abs(joint["child"] - joint["parent"]))
        self.assertEqual([end["turn"] for end in joint["ends"]], [-30, 40])
        self.assertIsNone(self.client.get(f"{self.path}/joints/{self.part('Sky').id}").get_json()["joint"])

    def test_findings_carry_edits_that_mend_them(self):
        hand = self.part("Upper neck")
        self.keep(
            {"edit": "make_joints", "parts": [hand.id], "id_prefix": "j"},
            {"edit": "move_by", "parts": [hand.id], "by": [3, 4]},
        )
        found = self.client.get(f"{self.path}/findings").get_json()["findings"]
        (open_joint,) = [finding for finding in found if finding["check"] == "Joint open"]
        self.assertEqual(self.keep(*open_joint["mend"]).status_code, 200)
        left = self.client.get(f"{self.path}/findings").get_json()["findings"]
        self.assertEqual(len(left), len(found) - 1)

    def test_pages_of_check_map_and_docs(self):
        check = self.client.get(f"/scenes/{self.scene.id}/check")
        self.assertIn("All checks pass", check.get_data(as_text=True))
        page = self.client.get(f"/scenes/{self.scene.id}/map").get_data(as_text=True)
        self.assertEqual(page.count("data-node="), len(self.library.scenes.load(self.scene.id).scene.parts))
        paper = self.client.get(f"/scenes/{self.scene.id}/map.svg")
        self.assertEqual(paper.mimetype, "image/svg+xml")
        self.assertNotIn(b"<a ", paper.data)
        for address in ("/scenes/none/map", "/scenes/none/check", "/api/scenes/none/gaps"):
            self.assertEqual(self.client.get(address).status_code, 404)
        docs = self.client.get("/docs/edits").get_data(as_text=True)
        for kind in EDITS:
            self.assertIn(f'id="{kind}"', docs)
        self.assertIn("reach or pointat", docs)
        self.assertNotRegex(docs, r">\s*any\s*<")

    def test_text_in_an_uploaded_font_travels_with_the_zip(self):
        form = {"files": (io.BytesIO(block_font()), "blocks.ttf")}
        made = self.client.post(
            "/api/fonts", data=form, content_type="multipart/form-data", headers={"X-CSRFToken": self.token}
        ).get_json()
        self.assertEqual(made["name"], "Lock Blocks")
        self.assertIn(made, self.client.get("/api/fonts").get_json()["fonts"])
        shape = {"form": "text", "words": "aa", "font": made["id"], "size": 100}
        self.assertEqual(self.keep({"edit": "add_shape", "id": "t", "shape": shape, "name": "Words"}).status_code, 200)
        part = self.part("Words")
        self.assertEqual(part.drawings[0].bounds, (10, -50, 110, 0))
        self.assertEqual(self.client.get(f"/art/{part.drawings[0].art}").mimetype, "image/svg+xml")
        data = self.client.get(f"{self.path}/send/zip").data
        self.assertEqual(self.client.get(f"/art/{made['id']}").status_code, 422)
        opened = self.client.post(
            "/api/open",
            data={"files": (io.BytesIO(data), "s.zip")},
            content_type="multipart/form-data",
            headers={"X-CSRFToken": self.token},
        )
        self.assertEqual(opened.status_code, 201)
        wrong = self.keep({"edit": "set_shape", "part": "t", "drawing": "t-1", "shape": {**shape, "font": "moon"}})
        self.assertEqual(wrong.status_code, 422)
        not_a_font = {"files": (io.BytesIO(b"no font"), "x.ttf")}
        self.assertEqual(
            self.client.post(
                "/api/fonts", data=not_a_font, content_type="multipart/form-data", headers={"X-CSRFToken": self.token}
            ).status_code,
            422,
        )


if __name__ == "__main__":
    unittest.main()
