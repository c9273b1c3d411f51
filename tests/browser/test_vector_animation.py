import hashlib
import json
import random
import unittest
from dataclasses import replace
from functools import cache

import jsonschema
import lottie_specs
import numpy as np
from scipy.spatial import cKDTree

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate import evaluate
from jointed_crane.formats.lottie_in.document import read_lottie
from jointed_crane.formats.lottie_out import carrying
from jointed_crane.formats.lottie_out.animated import lottie_bytes
from jointed_crane.render.art_pictures import ArtPictures
from jointed_crane.render.frames import Renderer, frame
from tests.browser.chromium import browser, shot
from tests.browser.lottie_players import VENDOR, BrowserPlayer, paths_in_python
from tests.browser.test_looks_the_same import AWKWARD, brought_in
from tests.browser.test_rendered import assert_alike, everything_art
from tests.browser.test_sent_svg import ART, moving_everything
from tests.constrained_rigs import constrained, linked
from tests.demo_library import demo_scenes, written
from tests.lottie_documents import foreign
from tests.strategies import SEED, TIMES, random_scene, some

#: What a part's place and turn may differ by in a foreign player, px and degrees.
NEAR = 0.05
CHANCE = random.Random(SEED)


@cache
def schema():
    """The community's published schema, as its package on PyPI has it."""
    content = lottie_specs.load_specs()
    return jsonschema.validators.validator_for(content)(content)


def sent(scene, art):
    return lottie_bytes(scene, art, lambda drawing: ArtPictures(art).png(drawing, 2.0))


class VectorAnimationTests(unittest.TestCase):
    """Vector animation in foreign players beside `evaluate`."""

    @classmethod
    def setUpClass(cls):
        cls.page = browser().new_page(viewport={"width": 1280, "height": 720})
        cls.addClassCleanup(cls.page.close)

    def test_what_tests_alone_run_is_what_is_named(self):
        packages = json.loads((VENDOR / "packages.json").read_text())
        self.assertIn("lottie-web/lottie_light.min.js", packages)
        for name, told in packages.items():
            self.assertEqual(hashlib.sha256((VENDOR / name).read_bytes()).hexdigest(), told["sha256"], name)
            self.assertEqual(told["license"], "MIT")

    def assert_valid(self, data, is_short=False):
        """By the schema, which takes its time: of long documents one in twelve unless there is time; and no parent is
        missing or runs in a circle, which no schema can say.
        """
        document = json.loads(data)
        if is_short or TIMES > 1 or CHANCE.random() < 1 / 12:
            self.assertEqual([error.message[:200] for error in schema().iter_errors(document)], [])
        for layers in (document["layers"], *(asset["layers"] for asset in document["assets"] if "layers" in asset)):
            parents = {layer["ind"]: layer.get("parent") for layer in layers}
            self.assertEqual(len(parents), len(layers), "each number is there once")
            for number in parents:
                seen = set()
                while number is not None:
                    self.assertNotIn(number, seen)
                    seen.add(number)
                    number = parents[number]

    def assert_plays(self, scene, data, frames, has_shear=False):
        """In both players every part lies where it is evaluated to lie, as much turned and as clear."""
        self.assert_valid(data)
        pose = evaluate(scene, frames)
        parts = {part.name: part for part in scene.parts if part.drawings and part.is_sent}
        player = BrowserPlayer(self.page, data)
        for column, at in enumerate(frames.tolist()):
            shown = {name: rest for name, *rest in player.layers(at) if rest[2] and name in parts}
            for name, part in parts.items():
                row = pose.index[part.id]
                opacity = pose.opacity[row, column] * pose.shown[row, column]
                matrix, its_opacity, _ = shown.get(name, (None, 0.0, False))
                with self.subTest(part=name, frame=at):
                    self.assertAlmostEqual(its_opacity, opacity, delta=1e-3)
                    if opacity < 1e-3:
                        continue
                    found = np.reshape(matrix, (3, 2)).T
                    wanted = pose.world[row, column][:2][:, [0, 1, 3]]
                    pivot = (*part.pivot[:2], 1.0)
                    self.assertLess(np.abs(found @ pivot - wanted @ pivot).max(), NEAR)
                    turns = [np.degrees(np.arctan2(m[1, 0], m[0, 0])) for m in (found, wanted)]
                    if np.hypot(*wanted[:, 0]) > 1e-3:
                        self.assertLess(abs((turns[0] - turns[1] + 180) % 360 - 180), NEAR)
                    np.testing.assert_allclose(found[:, :2], wanted[:, :2], atol=2e-3, rtol=2e-3)
        if not has_shear:
            self.assert_drawn_in_python(scene, data, frames[frames < scene.length - 1], parts)

    def assert_drawn_in_python(self, scene, data, frames, parts):
        """What the player in Python draws of a part are the corners of its paths, carried as evaluated: its place
        and its turn may differ by so much.
        """
        corners = {
            layer["nm"]: corners_of(layer["shapes"])
            for layer in json.loads(data)["layers"]
            if layer["ty"] == 4 and layer["nm"] in parts
        }
        pose = evaluate(scene, frames)
        for column, at in enumerate(frames.tolist()):
            for name, paths in paths_in_python(data, int(at)).items():
                if name not in corners:
                    continue
                world = pose.world[pose.index[parts[name].id], column]
                there = corners[name] @ world[:2, :2].T + world[:2, 3]
                reach = np.linalg.norm(there - pose.pivot[pose.index[parts[name].id], column, :2], axis=1).max()
                with self.subTest(part=name, frame=at, player="Python"):
                    self.assertLess(
                        cKDTree(there).query(np.concatenate(paths))[0].max(), NEAR + np.radians(NEAR) * reach
                    )

    def test_the_demo_scenes(self):
        deep = [(scene, art) for scene, art in demo_scenes() if scene.depth]
        for scene, art in deep:
            with self.assertRaisesRegex(RuleError, "has depth"):
                written(scene, art, "lottie")
        for scene, art in some([shown for shown in demo_scenes() if shown not in deep]):
            frames = np.unique(np.rint(np.linspace(0, scene.length - 1, 8)))
            with self.subTest(scene.name):
                data = written(scene, art, "lottie")
                self.assert_plays(scene, data, frames)
                player = BrowserPlayer(self.page, data)
                looked_at = frames[1::4] if TIMES > 1 else frames[CHANCE.randrange(7) :][:1]
                for at, ours in zip(looked_at, Renderer(scene, art).frames(looked_at), strict=True):
                    player.layers(at)
                    assert_alike(self, ours, shot(self.page, round(scene.width), round(scene.height)))

    def test_random_rigs_with_footholds_constraints_and_links(self):
        for seed in range(2 if TIMES == 1 else 30):
            scene = random_scene(seed, 7)
            if seed % 2:
                scene = linked(constrained(scene, seed), seed)
            with self.subTest(seed=seed):
                data = sent(scene, lambda _: ("image/svg+xml", ART))
                self.assert_plays(scene, data, np.array([0.0, 19.0, 46.0]), has_shear=True)

    def test_all_that_time_can_do_at_once_is_painted_as_it_is_drawn_here(self):
        for seed in some(range(4), 0.25):
            scene = replace(moving_everything(seed), depth=False)
            player = BrowserPlayer(self.page, sent(scene, everything_art))
            frames = np.array([0.0, 5.0, 12.0, 20.0, 33.0])
            for at, ours in zip(frames, Renderer(scene, everything_art).frames(frames), strict=True):
                player.layers(at)
                with self.subTest(seed=seed, frame=at):
                    assert_alike(self, ours, shot(self.page, round(scene.width), round(scene.height)))

    def test_art_of_other_hands(self):
        native, pictured = 0, 0
        for path in some(AWKWARD, 0.3):
            scene, art = brought_in(path)
            data = sent(scene, art)
            with self.subTest(path.stem):
                self.assert_valid(data, is_short=len(data) < 20_000)
                BrowserPlayer(self.page, data).layers(0)
                theirs = shot(self.page, round(scene.width), round(scene.height))
                said = [note for note in carrying.notes(scene, art) if "as a picture" in note]
                pictured += bool(said)
                native += not said
                # What is sent as a picture is drawn twice as large and made smaller by the player.
                assert_alike(self, frame(scene, None, art), theirs, 2.0 if said else 1.0)
        self.assertGreater(native, pictured)


def corners_of(items):
    """The vertices of all paths in items; groups stand where they are."""
    result = []
    for item in items:
        if item["ty"] == "gr":
            assert all(inner["ty"] != "tr" or inner["p"]["k"] == [0, 0] for inner in item["it"])
            result.append(corners_of(item["it"]))
        elif item["ty"] == "sh" and not item["ks"]["a"]:
            path = item["ks"]["k"]
            vertices, outs, ins = (np.array(path[name]) for name in "voi")
            result += [vertices, vertices + outs, np.roll(vertices + ins, -1, axis=0)]
    return np.concatenate(result) if result else np.empty((0, 2))


class ForeignVectorAnimationTests(unittest.TestCase):
    """Vector animation of other hands, brought in, beside the player."""

    def test_it_moves_and_looks_as_it_is_played(self):
        page = browser().new_page(viewport={"width": 320, "height": 240})
        self.addCleanup(page.close)
        document = foreign()
        document["layers"] = [layer for layer in document["layers"] if layer["nm"] != "Words"]
        data = json.dumps(document).encode()
        opened = read_lottie(data, "elsewhere.json")
        player = BrowserPlayer(page, data)
        frames = np.array([0.0, 7.0, 13.0, 20.0, 33.0, 47.0])
        pose = evaluate(opened.scene, frames)
        parts = {part.name: pose.index[part.id] for part in opened.scene.parts}
        ours = Renderer(opened.scene, opened.art.__getitem__).frames(frames)
        for column, (at, picture) in enumerate(zip(frames.tolist(), ours, strict=True)):
            for name, matrix, opacity, is_there in player.layers(at):
                if not is_there or name not in parts or name == "Cart":
                    continue
                with self.subTest(part=name, frame=at):
                    wanted = pose.world[parts[name], column][:2][:, [0, 1, 3]]
                    np.testing.assert_allclose(np.reshape(matrix, (3, 2)).T, wanted, atol=0.02)
                    self.assertAlmostEqual(opacity, pose.opacity[parts[name], column], delta=1e-3)
            assert_alike(self, picture, shot(page, 320, 240))
