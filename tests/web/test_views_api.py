"""What views see, as the API says it: previews and kept edits alike, of every kind of edit."""

from dataclasses import replace

import numpy as np
from hypothesis import given, note
from hypothesis import strategies as st

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.scene.cameras import AddCamera, SetCut
from jointed_crane.core.model.cameras import LENS
from jointed_crane.formats.edit_document import edit_document
from tests.constrained_rigs import constrained
from tests.strategies import ASIDE, edits_for, examples, random_scene, seeds, some
from tests.web.test_api import AppTestCase

VIEWS = [
    {"side": "stage"},
    {"side": "top"},
    {"side": "free", "at": [100.0, 50.0, 0.0], "yaw": 33.0, "pitch": 20.0, "distance": 900.0},
]


class PreviewedViewsTests(AppTestCase):
    number = 0

    def kept(self, scene, has_camera):
        type(self).number += 1
        scene = replace(scene, id=f"s{self.number}", name=f"Scene {self.number}", depth=True)
        camera = [AddCamera("camera", view=ASIDE), SetCut(0.0, "camera")] if has_camera else []
        self.library.scenes.create(applied(scene, camera))
        self.path = f"/api/scenes/{scene.id}"
        return self.library.scenes.load(scene.id)

    def post(self, path, body):
        answer = self.client.post(f"{self.path}/{path}", json=body)
        self.assertIn(answer.status_code, (200, 422), answer.get_data(as_text=True)[:300])
        return answer.get_json() if answer.status_code == 200 else None

    def assert_a_preview_shows_what_is_kept(self, edit, frame):
        """What is previewed, laid over what was seen, is what is seen once the edit is kept."""
        version = self.library.scenes.load(self.path.rsplit("/", 1)[1]).version
        looking = {"frame": frame, "views": VIEWS}
        body = {"version": version, "frame": frame, "edits": [edit_document(edit)], "keeps_before": False}
        before = self.post("seen", looking)["views"]
        previewed = self.post("preview", {**body, "views": VIEWS})
        kept = self.post("edits", body)
        self.assertEqual(previewed is None, kept is None)
        if kept is None:
            return
        after = self.post("seen", looking)["views"]
        for was, shown, now in zip(before, previewed["seen"], after, strict=True):
            laid = {part_id: {**was["parts"], **shown["parts"]}[part_id] for part_id in now["parts"]}
            for part_id, found in laid.items():
                for name, value in now["parts"][part_id].items():
                    size = max(1.0, float(np.abs(np.array(value, dtype=float)).max()))
                    np.testing.assert_allclose(found[name], value, rtol=0, atol=1e-9 * size, err_msg=part_id)
            self.assertEqual([one[0] for one in shown["painting"]], [one[0] for one in now["painting"]])
            self.assertEqual(shown["cameras"].keys(), now["cameras"].keys())
            np.testing.assert_allclose(shown["map"], now["map"], rtol=0, atol=1e-9)
        if kept["version"] != version:
            self.post("undo", {"version": kept["version"]})

    @given(seeds, st.data(), st.sampled_from([None, 0.0, 12.5]))
    @examples(8)
    def test_of_every_kind_of_edit(self, seed, data, frame):
        kept = self.kept(constrained(random_scene(seed, is_deep=True), seed), seed % 2)
        for edit in some(data.draw(edits_for(kept.scene)), 0.15):
            note(edit.kind)
            self.assert_a_preview_shows_what_is_kept(edit, frame)

    def test_of_what_the_camera_sees_and_whether_it_is_on(self):
        """Nothing lies elsewhere then, and all is seen elsewhere."""
        self.kept(random_scene(3, is_deep=True), False)
        self.assert_a_preview_shows_what_is_kept(AddCamera("camera"), None)
        self.kept(random_scene(3, is_deep=True), True)
        for edit in (SetValues(("camera",), {LENS: 80.0}, None), SetCut(0.0, None), SetCut(0.0, "camera")):
            self.assert_a_preview_shows_what_is_kept(edit, None)
