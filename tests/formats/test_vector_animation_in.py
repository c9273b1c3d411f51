import copy
import json
import unittest
from dataclasses import replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.coordinates import UPRIGHT
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.scene import Inherits
from jointed_crane.core.motion.inserting import with_handles_shown
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.formats.lottie_in.document import read_lottie
from jointed_crane.formats.lottie_out.animated import lottie_bytes
from tests.lottie_documents import at, foreign, group, keys, layer, still
from tests.strategies import TIMES, random_scene

ART = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><rect width="40" height="40" fill="#12706f"/></svg>'


def art(name):
    return "image/svg+xml", ART


def read(document):
    return read_lottie(json.dumps(document).encode(), "elsewhere.json")


def carried(scene):
    """The scene with what the format carries natively: nothing that cycles, sways, spins, slides or fades at once."""

    def plain(part):
        rest = {
            name: part.rest_value(name) for name in ("move.x", "move.y", "turn.z", "scale.x", "scale.y", "shear.xy")
        }
        channels = {
            name: replace(its, before="hold", after="hold", sway=None)
            for name, its in part.channels.items()
            if name in ("move.x", "move.y", "turn.z") and its.keys
        }
        return replace(part, rest=rest, channels=channels, footholds=(), inherits=Inherits(), orientation=UPRIGHT)

    return scene.with_parts(map(plain, scene.parts))


def counted(part, name):
    """The keys of a channel as they count, rest joined, handles written out."""
    channel = part.channels.get(name)
    rest = part.rest_value(name)
    if channel is None:
        return [(0.0, rest, "", (0.0, 0.0))]
    shown = with_handles_shown(channel.keys, range(len(channel.keys)))
    rows = []
    for place, key in enumerate(shown):
        is_last = place == len(shown) - 1
        kind = "" if is_last else channel.keys[place].kind
        out, rise = key.handle_out if kind == "eased" and key.handle_out else (0.0, 0.0)
        span = out if is_last else shown[place + 1].frame - key.frame
        rows.append((key.frame, rest + key.value, kind, (min(out, span), rise)))  # none reaches beyond its segment
    return rows


class RoundTripTests(unittest.TestCase):
    def test_pivots_parents_and_keys_come_back_as_they_were(self):
        for seed in range(8 * TIMES):
            scene = carried(random_scene(seed, 6))
            opened = read_lottie(lottie_bytes(scene, art, lambda drawing: b""), "x.json")
            ensure_sound(opened.scene)
            self.assertEqual(opened.notes, ())
            back = {part.name: part for part in opened.scene.parts}
            names = {part.id: part.name for part in (*scene.parts, *opened.scene.parts)}
            for part in scene.parts:
                with self.subTest(seed=seed, part=part.name):
                    again = back[part.name]
                    np.testing.assert_allclose(again.pivot, (*part.pivot[:2], 0.0), atol=1e-9)
                    above = [one.parent and opened.scene.part(one.parent).name for one in (again,)]
                    self.assertEqual(above, [part.parent and names[part.parent]])
                    for name in ("move.x", "move.y", "turn.z"):
                        was, now = counted(part, name), counted(again, name)
                        if len({row[1] for row in was}) > 1:
                            self.assertEqual([row[2] for row in now], [row[2] for row in was])
                            for column in (0, 1, 3):
                                np.testing.assert_allclose(
                                    [row[column] for row in now], [row[column] for row in was], atol=1e-9
                                )
            frames = np.arange(0.0, scene.length, 0.5)
            before, after = evaluate(scene, frames), evaluate(opened.scene, frames)
            for part in scene.parts:
                rows = before.index[part.id], after.index[back[part.name].id]
                np.testing.assert_allclose(after.world[rows[1]], before.world[rows[0]], atol=1e-9)

    def test_what_was_read_goes_out_as_it_came(self):
        document = foreign()
        document["layers"] = [one for one in document["layers"] if one["nm"] in ("Arm", "Hand")]
        once = lottie_bytes(read(document).scene, read(document).art.__getitem__, lambda drawing: b"")
        opened = read_lottie(once, "x.json")
        twice = lottie_bytes(opened.scene, opened.art.__getitem__, lambda drawing: b"")
        for one, other in zip(json.loads(once)["layers"], json.loads(twice)["layers"], strict=True):
            self.assertEqual((one["nm"], one.get("parent")), (other["nm"], other.get("parent")))
            np.testing.assert_allclose(numbers_in(one["ks"]), numbers_in(other["ks"]), atol=1e-9)


def numbers_in(value):
    if isinstance(value, dict):
        return [number for name in sorted(value) for number in numbers_in(value[name])]
    if isinstance(value, list):
        return [number for one in value for number in numbers_in(one)]
    return [float(value)]


class ForeignFileTests(unittest.TestCase):
    """Files of other hands, what is understood of them and what is said of the rest."""

    def test_layers_come_as_parts_and_what_is_not_understood_is_said_by_layer(self):
        opened = read(foreign())
        ensure_sound(opened.scene)
        self.assertEqual((opened.scene.name, opened.scene.fps), ("From elsewhere", (30_000, 1001)))
        parts = {part.name: part for part in opened.scene.parts}
        self.assertEqual(
            [part.name for part in opened.scene.parts if part.parent is None][::-1][:3], ["Arm", "Boat", "Cart"]
        )
        self.assertEqual(parts["Hand"].parent, parts["Arm"].id)
        self.assertEqual(parts["Flag"].parent, parts["Cart"].id)
        self.assertEqual(parts["Arm"].pivot, (10.0, 0.0, 0.0))
        self.assertEqual(parts["Print"].kind, "bitmap")
        self.assertEqual(opened.notes, ("Words has text, which is not understood.",))
        frames = np.array([0.0, 8.0, 11.0, 12.0, 29.0, 30.0])
        pose = evaluate(opened.scene, frames)
        self.assertEqual(pose.shown[pose.index[parts["Late"].id]].tolist(), [False, False, False, True, True, False])
        self.assertEqual(parts["Flag"].channels["turn.z"].frames, (8.0, 28.0))

    def test_what_is_not_understood(self):
        trim = {"ty": "tm", "s": still(0), "e": still(50), "o": still(0)}
        document = foreign()
        document["layers"] = [
            layer(1, "Cut", 4, at(), shapes=[group({"ty": "el", "p": still([9, 9]), "s": still([9, 9])}, trim)]),
            layer(2, "Glow", 3, at(), ef=[{"ty": 25}]),
            layer(3, "Deep", 3, at() | {"rx": still(40)}),
            layer(4, "Lost", 2, at(), refId="nowhere"),
            layer(5, "Odd", 4, at(), parent=99, shapes=[]),
            layer(6, "Round", 3, at(), parent=7),
            layer(7, "And round", 3, at(), parent=6),
            layer(8, "Broken", 4, {"a": "?"}, shapes=None),
        ]
        opened = read(document)
        ensure_sound(opened.scene)
        self.assertEqual(
            opened.notes,
            (
                "Cut has trimmed paths, which are not understood.",
                "Glow has effects, which are not understood.",
                "Deep has depth, which are not understood.",
                "Lost could not be read: its picture is not in the file; it is an empty helper.",
                "Broken could not be read: a number is missing; it is an empty helper.",
            ),
        )

    def test_nothing_outside_the_file_is_read(self):
        for place in (
            "http://elsewhere.invalid/a.png",
            "file:///etc/passwd",
            "../a.png",
            "data:image/svg+xml;base64,PHN2Zy8+",
        ):
            document = foreign()
            document["assets"][2]["p"] = place
            opened = read(document)
            self.assertIn(
                "Print could not be read: its picture is not in the file; it is an empty helper.", opened.notes
            )
            self.assertFalse([data for _, data in opened.art.values() if b"invalid" in data or b"passwd" in data])

    def test_no_file_at_all(self):
        nested = {"layers": [], "w": 9, "h": 9, "op": 9}
        circle = foreign()
        circle["assets"][0]["layers"].append(layer(3, "Again", 0, at(), refId="inner", w=9, h=9))
        many = foreign()
        turning = at() | {"r": keys((0, [0]), (9, [9]))}
        many["assets"] = [
            {"id": f"c{n}", "layers": [layer(1, "L", 0, turning, refId=f"c{n + 1}", w=9, h=9)] * 9} for n in range(9)
        ]
        many["layers"] = [layer(1, "Many", 0, at(), refId="c0", w=9, h=9)]
        for document, words in (
            ({"scene": 1}, "neither a scene nor vector animation"),
            ({"layers": [], "w": "wide"}, "that can be read: a number is missing"),
            (circle, "deep in each other"),
            (many, "has more than 1000 layers"),
        ):
            with self.assertRaisesRegex(RuleError, words):
                read(document)
        self.assertEqual(read(nested).scene.parts, ())

    def test_whatever_is_wrong_with_a_file_it_comes_in_or_gets_a_sentence(self):
        odd = [
            None,
            -5,
            1e9,
            "x",
            [],
            {},
            True,
            [1],
            [[1]],
            {"a": 1, "k": []},
            {"a": 1, "k": [{"t": 0}]},
            0,
            "#12",
            10**6,
        ]
        came = 0
        for seed in range(60 * TIMES):
            random = np.random.default_rng(seed)
            document = copy.deepcopy(foreign())
            for _ in range(random.integers(1, 6)):
                holders = list(holders_in(document))
                holder = holders[random.integers(0, len(holders))]
                places = list(holder) if isinstance(holder, dict) else range(len(holder))
                if len(places):
                    holder[places[random.integers(0, len(places))]] = odd[random.integers(0, len(odd))]
            try:
                opened = read(document)
                ensure_sound(opened.scene)
            except RuleError as error:
                self.assertRegex(str(error), r"\.$")
                continue
            came += 1
            pose = evaluate(opened.scene, np.arange(0.0, 5.0))
            self.assertTrue(np.isfinite(pose.world).all())
            self.assertTrue(set(opened.scene.parts[0].channels) <= set(CHANNELS) if opened.scene.parts else True)
        self.assertGreater(came, 20)


def holders_in(value):
    """Every object and list in some JSON."""
    yield value
    for inner in value.values() if isinstance(value, dict) else value:
        if isinstance(inner, dict | list):
            yield from holders_in(inner)
