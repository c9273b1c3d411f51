"""Every limit of the table at its edge: the most is taken, and one more refused with a sentence that names it."""

import contextlib
import io
import json
import math
import re
import zipfile
from dataclasses import replace
from functools import partial
from unittest.mock import patch

from PIL import Image

from jointed_crane.core.basics import limits
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LIMITS
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.reach import Reach, ReachChange
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures import folding
from jointed_crane.core.edits.pictures.folding import Fold
from jointed_crane.core.edits.placing import standing_on_keys
from jointed_crane.core.edits.placing.rolling import Roll
from jointed_crane.core.edits.placing.standing_on_keys import StandOnKeys
from jointed_crane.core.edits.time import bringing_tracks
from jointed_crane.core.edits.time.bringing_tracks import BringTrack
from jointed_crane.core.edits.time.curving import ShapeSegments
from jointed_crane.core.edits.time.keys import KeyAt
from jointed_crane.core.model.cameras import CameraCut
from jointed_crane.core.model.forms import Node, PenPath, ensure_drawable
from jointed_crane.core.model.levers import Axis, Lever, Link
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import Drawing, Eyelet, Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.motion.cycles import corners
from jointed_crane.core.motion.fitting import ensure_followable
from jointed_crane.core.soundness import whole_scene
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.formats import bundle, moving_pictures, strict_json
from jointed_crane.formats.bitmap import read_bitmap
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import read_bundle
from jointed_crane.formats.lettering import font_name
from jointed_crane.formats.lottie_out import animated as lottie
from jointed_crane.formats.lottie_out.animated import lottie_bytes
from jointed_crane.formats.moving import film
from jointed_crane.formats.moving.film import film_of
from jointed_crane.formats.moving_pictures import read_moving
from jointed_crane.formats.strict_json import parsed_json
from jointed_crane.formats.svg import layers, parsing, styles
from jointed_crane.formats.svg_out import animated
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.formats.tables import rows
from jointed_crane.formats.tables.tracks import read_tracks
from jointed_crane.formats.tables.variants import variant_rows
from jointed_crane.formats.zipped_drawings import drawings_in
from jointed_crane.render.sizes import size_of
from jointed_crane.sending.film import Sent
from jointed_crane.sending.ways import WAYS
from jointed_crane.web.api.motion import courses
from tests.strategies import STUB_NAME
from tests.web.test_api import ApiTestCase

BOX = (0.0, 0.0, 40.0, 40.0)
PICTURED = Part("p", "P", kind="drawing", drawings=(Drawing("d", "D", STUB_NAME, BOX, BOX),))

SQUARE = (((0.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0)),)
CORNERED = replace(PICTURED, drawings=(replace(PICTURED.drawings[0], outline=SQUARE),))


def sound(*parts: Part, **scene):
    return ensure_sound(Scene("s", "S", parts=parts or (Part("p", "P"),), **scene))


def keys(count: int, step: float = 1.0) -> Channel:
    return Channel(tuple(Key(step * place, 0.0, "straight") for place in range(count)))


def reaching(**fields) -> Scene:
    arm = [Part(f"j{n}", f"J {n}", parent=f"j{n - 1}" if n else None, rest={"move.x": 9.0}) for n in range(40)]
    end = Part("e", "E", parent="j39", constraints=(Reach(id="r", name="R", goal=Goal(part="g"), **fields),))
    return sound(*arm, end, Part("g", "G", "helper"))


def driven(name: str, count: int, **fields) -> Part:
    links = tuple(Link(id=f"l{n}", source="o", channel="turn.z", onto="move.x", **fields) for n in range(count))
    return replace(Part(name, name), links=links)


def linked(count: int, **fields) -> Scene:
    return sound(driven("p", count, **fields), Part("o", "O"))


def follower(name: str, count: int) -> Part:
    goals = tuple(Follow(id=f"f{n}", name=f"F {n}", goal=Goal(part="g")) for n in range(count))
    return Part(name, name, constraints=goals)


def spread(made, count: int, each: int, goal: Part) -> Scene:
    """So many of something on parts that have so many each, and what they refer to."""
    counts = [each] * (count // each) + [count % each]
    return sound(*(made(f"p{n}", number) for n, number in enumerate(counts)), goal)


def zip_of(count: int) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for number in range(count):
            archive.writestr(f"{number}.svg", b"<svg/>")
    return stream.getvalue()


def drawing(body: str, size: int = 0) -> object:
    data = f'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">{body}</svg>'.encode()
    more = max(size - len(data), 0)
    notes = (b"<!--" + b" " * min(1_000_000, more - begin - 7) + b"-->" for begin in range(0, more - 7, 1_000_007))
    return read_artwork((data + b"".join(notes)).ljust(size), "drawing.svg")


def bitmap(width: int, height: int, size: int = 0) -> object:
    stream = io.BytesIO()
    Image.new("1", (width, height)).save(stream, "PNG")
    return read_bitmap(stream.getvalue() + b" " * (size - stream.tell()), "bitmap.png")


def moving(side: int, count: int) -> object:
    stream = io.BytesIO()
    pictures = [Image.new("L", (side, side), number % 250) for number in range(count)]
    pictures[0].save(stream, "GIF", save_all=True, append_images=pictures[1:], duration=40)
    return read_moving([(stream.getvalue(), "hop.gif")])


def zipped(**sizes: int) -> object:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, size in sizes.items():
            with archive.open(name.replace("_", "."), "w") as entry:
                for begin in range(0, size, 1 << 24):
                    entry.write(b" " * min(1 << 24, size - begin))
    return read_bundle(stream.getvalue(), "scene.zip")


def written(places: int) -> object:
    baked = [Part(f"p{n}", f"P {n}", drawings=PICTURED.drawings, kind="drawing") for n in range(41)]
    return film_of(Scene("s", "S", length=places // 41, parts=tuple(baked)), baked=[part.id for part in baked])


def fitted(frames: int) -> object:
    swaying = replace(
        PICTURED, channels={name: Channel(sway=Sway(1.0, 9.0)) for name in ("turn.z", "move.x", "move.y")}
    )
    scene = Scene("s", "S", length=math.ceil(frames / 3), parts=(swaying,))
    return lottie_bytes(scene, lambda _: ("image/svg+xml", b'<svg xmlns="http://www.w3.org/2000/svg"/>'), None)


def turned_in_depth(pieces: int) -> object:
    turning = replace(PICTURED, channels={"turn.y": Channel((Key(0.0, 0.0), Key(60.0, 90.0)))})
    scene = Scene("s", "S", length=pieces, parts=(turning,), depth=True)
    return animated_svg(scene, lambda _: ("image/svg+xml", b'<svg xmlns="http://www.w3.org/2000/svg"/>'))


def folded(count: int) -> Scene:
    drawing = replace(PICTURED.drawings[0], box=(0.0, 0.0, 40.0, 40.0), bounds=(0.0, 0.0, 40.0, 40.0))
    panels = [
        replace(
            PICTURED, id=f"p{n}", name=f"P {n}", drawings=(replace(drawing, id=f"d{n}"),), rest={"move.x": 40.0 * n}
        )
        for n in range(count)
    ]
    return applied(sound(*panels), [Fold(tuple(panel.id for panel in panels))])


def stood(count: int) -> Scene:
    turning = replace(CORNERED, channels={"turn.z": keys(count)}, footholds=(Foothold(0.0, (0.0, 40.0, 0.0)),))
    return applied(sound(turning), [StandOnKeys("p")])


def bounced(count: int) -> Scene:
    return applied(sound(Part("p", "P", channels={"turn.z": keys(2, 20.0)})), [
        ShapeSegments((KeyAt("p", "turn.z", 0.0),), "bounce", count)
    ])  # fmt: skip


PAINTED = '<rect width="9" height="9"/>'


def rounds(count: int) -> object:
    return corners(Channel(keys(2, 0.5).keys, after="repeat"), 0.0, 0.5 * (count // 2 + count % 2))


def chained(count: int) -> object:
    uses = "".join(f'<g id="a{n}"><use href="#a{n + 1}"/></g>' for n in range(count - 1))
    return drawing(f'<defs>{uses}<rect id="a{count - 1}" width="9" height="9"/></defs><use href="#a0"/>')


def copied(count: int) -> object:
    uses = '<use href="#a"/>' * (count // 1000) + '<use href="#b"/>' * (count % 1000)
    return drawing(f'<defs><g id="a">{"<path/>" * 999}</g><path id="b"/></defs><g>{uses}</g>{PAINTED}')


def filmed(length, rate):
    scene = Scene("s", "S", 9.0, 9.0, length=length)
    WAYS["webp"].chosen({"rate": str(rate)}).film(Sent(scene, None, io.BytesIO()))


#: What is tried with how many there are, by the name of the limit.
EDGES = {
    "LONGEST_ID": lambda most: sound(Part("i" * most, "P")),
    "LONGEST_NAME": lambda most: sound(Part("p", "n" * most)),
    "LARGEST": lambda most: sound(Part("p", "P", rest={"move.x": float(most)})),
    "LARGEST_SCALE": lambda most: sound(
        Part("p", "P", rest={"scale.x": 1e6}), Part("c", "C", parent="p", rest={"scale.x": most / 1e6})
    ),
    "LONGEST_SCENE": lambda most: sound(length=most),
    "MOST_PARTS": lambda most: sound(*(Part(f"p{n}", f"P {n}") for n in range(most))),
    "MOST_KEYS": lambda most: sound(Part("p", "P", channels={"turn.z": keys(most)})),
    "MOST_FOOTHOLDS": lambda most: sound(
        Part("p", "P", footholds=tuple(Foothold(float(n), (0.0, 0.0, 0.0)) for n in range(most)))
    ),
    "MOST_EYELETS": lambda most: sound(
        Part("p", "P", eyelets=tuple(Eyelet(f"e{n}", f"E {n}", (0.0, 0.0, 0.0)) for n in range(most)))
    ),
    "MOST_CONSTRAINTS_IN_ALL": lambda most: spread(follower, most, 50, Part("g", "G", "helper")),
    "MOST_LINKS_IN_ALL": lambda most: spread(driven, most, 200, Part("o", "O")),
    "MOST_CUTS": lambda most: sound(cuts=tuple(CameraCut(float(n), None) for n in range(most))),
    "MOST_MARKERS": lambda most: sound(markers=tuple(Marker(f"m{n}", f"M {n}", 1.0) for n in range(most))),
    "MOST_POSES": lambda most: sound(poses=tuple(KeptPose(f"k{n}", f"K {n}", {}) for n in range(most))),
    "MOST_OUTLINE_CORNERS": lambda most: sound(
        replace(PICTURED, drawings=(replace(PICTURED.drawings[0], outline=(((0.0, 0.0),) * most,)),))
    ),
    "MOST_NODES": lambda most: ensure_drawable(PenPath((tuple(Node((float(n % 9), 0.0)) for n in range(most)),))),
    "MOST_CONSTRAINTS": lambda most: sound(follower("p", most), Part("g", "G", "helper")),
    "MOST_GOALS": lambda most: sound(
        Part("p", "P", constraints=(Between(id="b", name="B", goals=(Goal(part="g"),) * most),)),
        Part("g", "G", "helper"),
    ),
    "MOST_CHANGES": lambda most: reaching(
        changes=tuple(ReachChange(float(n), ("turn", "reach")[n % 2]) for n in range(most))
    ),
    "MOST_JOINTS": lambda most: reaching(joints=most),
    "MOST_AXES": lambda most: sound(Part("p", "P", "lever", lever=Lever(axes=(Axis(),) * most))),
    "MOST_LINKS": linked,
    "MOST_LINK_POINTS": lambda most: linked(1, points=tuple((float(n), 0.0) for n in range(most))),
    "MOST_FOLLOWED": ensure_followable,
    "MOST_WRITTEN_ROUNDS": rounds,
    "MOST_ROLLED": lambda most: applied(sound(CORNERED), [Roll("p", 0.0, 90.0, most)]),
    "MOST_STANDING_KEYS": stood,
    "MOST_BOUNCES": bounced,
    "MOST_TRACK_FRAMES": lambda most: applied(
        sound(), [BringTrack("t", "T", tuple((float(n), 0.0, 0.0) for n in range(most)))]
    ),
    "MOST_DRAWING_BYTES": lambda most: drawing('<rect width="9" height="9"/>', most),
    "MOST_ELEMENTS": lambda most: drawing(f"<g>{'<desc/>' * (most - 3)}<rect width='9' height='9'/></g>"),
    "MOST_COPIES": copied,
    "MOST_MATCHES": lambda most: drawing(
        f"<style>{'g path,' * (most // 100 - 1)}g path{{fill:red}}</style>"
        f"<g>{PAINTED}{'<path/>' * 100}{'<path/>' * (most % 100)}</g>"
    ),
    "MOST_STEPS": chained,
    "MOST_LAYERS": lambda most: drawing('<rect width="9" height="9"/>' * most),
    "MOST_BITMAP_BYTES": lambda most: bitmap(9, 9, most),
    "MOST_PIXELS": lambda most: bitmap(8000, math.ceil(most / 8000)),
    "MOST_PICTURES": lambda most: moving(9, most),
    "MOST_MOVING_PIXELS": lambda most: moving(1000, math.ceil(most / 1_000_000)),
    "MOST_FONT_BYTES": lambda most: font_name(b"\0" * most, "font.ttf"),
    "MOST_TRACK_BYTES": lambda most: read_tracks(b"1,2,3\n" + b"\n" * (most - 6), "track.csv"),
    "MOST_ZIP_BYTES": lambda most: zipped(art=most),
    "MOST_FILES": lambda most: drawings_in(zip_of(most), "drawings.zip"),
    "MOST_SCENE_BYTES": lambda most: zipped(scene_json=most),
    "MOST_VALUES": lambda most: parsed_json("[" + ",".join("0" * (most - 1)) + "]"),
    "MOST_LETTERS": lambda most: parsed_json('"' + "a" * most + '"'),
    "LARGEST_NUMBER": lambda most: parsed_json(repr(float(most))),
    "MOST_WRITTEN": written,
    "MOST_FITTED": fitted,
    "MOST_FOLDED": folded,
    "MOST_SEEN_PIECES": turned_in_depth,
    "MOST_FILM_PIXELS": lambda most: size_of(Scene("s", "S", 1000.0, 1000.0), 1.0, math.ceil(most / 1_000_000)),
    "MOST_VARIANTS": lambda most: variant_rows(b"a\n" + b"1\n" * most, "t.csv"),
    "MOST_FRAMES_SENT": lambda most: filmed(most // 2 + most % 2, 48),
    "MOST_RATE_SENT": lambda most: filmed(1, most),
    "MOST_PIXELS_SENT": lambda most: size_of(Scene("s", "S", 8000.0, float(math.ceil(most / 8000))), 1.0),
}

#: Told as what they come to for each part, or in frames.
PER_PART = {"MOST_FILM_PIXELS": 1_000_000, "MOST_MOTION_NUMBERS": 10, "MOST_WRITTEN": 41, "MOST_FITTED": 3}
#: What is long in the making is tried at a smaller edge, where it is kept.
SMALLER = {
    "MOST_PLACES": (courses, 20_000),
    "MOST_KEYS": (whole_scene, 3_000),
    "MOST_FOOTHOLDS": (whole_scene, 300),
    "MOST_EYELETS": (whole_scene, 300),
    "MOST_CONSTRAINTS_IN_ALL": (whole_scene, 300),
    "MOST_LINKS_IN_ALL": (whole_scene, 300),
    "MOST_STANDING_KEYS": (standing_on_keys, 40),
    "MOST_TRACK_FRAMES": (bringing_tracks, 3_000),
    "MOST_COPIES": (parsing, 3_000),
    "MOST_MATCHES": (styles, 2_000),
    "MOST_LAYERS": (layers, 50),
    "MOST_MOVING_PIXELS": (moving_pictures, 2_000_000),
    "MOST_TRACK_BYTES": (rows, 1_000_000),
    "MOST_ZIP_BYTES": (bundle, 5_000_000),
    "MOST_VALUES": (strict_json, 1_000),
    "MOST_WRITTEN": (film, 41 * 50),
    "MOST_FITTED": (lottie, 3 * 40),
    "MOST_FOLDED": (folding, 8),
    "MOST_SEEN_PIECES": (animated, 40),
}
#: A block of motion at its edge takes long, too, and its limit is of no use to anything smaller.
TAKES_LONG = {"MOST_MOTION_NUMBERS"}
#: These are as many as there may be, and nothing that can be read.
IS_NOTHING = {"MOST_REQUEST_BYTES", "MOST_FUSED", "MOST_FONT_BYTES", "MOST_ZIP_BYTES", "MOST_SCENE_BYTES"}


class EdgeTests(ApiTestCase):
    def test_each_limit_of_the_table_is_kept_at_its_edge(self):
        names = [name for name in vars(limits) if name.isupper() and name != "LIMITS" and name[0] != "_"]
        self.assertEqual(len(names), len(LIMITS))
        asked = self.asked()
        self.assertEqual(sorted(names), sorted(EDGES | asked))
        for name in names:
            with self.subTest(name), contextlib.ExitStack() as stack:
                most = getattr(limits, name)
                if name in SMALLER:
                    room, most = SMALLER[name]
                    stack.enter_context(patch.object(room, name, most))
                self.assert_kept(name, most, asked[name] if name in asked else partial(self.tried, EDGES[name]))

    def assert_kept(self, name, most, told):
        """The most is not refused for being too much, and one more is, with a sentence that names it."""
        words = [
            "two" if most == 2 else f"{most}",
            f"{most:,}",
            f"{most:g}",
            f"{most / 10**6:g} M",
            f"{most / 10**6:g} million",
        ]
        words = [f" {most // PER_PART[name]} "] if name in PER_PART else words
        sentence = re.compile(rf"(?<![\d.])({'|'.join(map(re.escape, words))})")
        if name not in TAKES_LONG:
            said = told(most)
            self.assertNotRegex(said, sentence) if name in IS_NOTHING else self.assertEqual(said, "")
        self.assertRegex(told(most + PER_PART.get(name, 1) if isinstance(most, int) else most * 1.01), sentence)

    @staticmethod
    def tried(edge, count):
        """What is said of so many; nothing where they are taken."""
        try:
            edge(count)
        except RuleError as error:
            return str(error)
        return ""

    def asked(self):
        """What is asked of the API with how many there are, by the name of the limit."""
        self.library.scenes.create(Scene("one", "One", parts=(Part("p", "P"),), length=100_000))
        path = "/api/scenes/one"

        def said(answer):
            return "" if answer.status_code == 200 else answer.get_json()["detail"]

        rename = {"edit": "rename_scene", "name": "Two"}

        def counted(count, what):
            return json.dumps([what] * count)

        def refused_early(count):
            """A request whose bytes are never made: its header says enough."""
            answer = self.client.post(
                "/api/artwork/layers",
                headers={"X-CSRFToken": self.token},
                environ_overrides={"CONTENT_LENGTH": str(count), "CONTENT_TYPE": "multipart/form-data; boundary=b"},
            )
            return answer.get_json()["detail"]

        asked = {
            "MOST_EDITS": lambda most: self.post(f"{path}/preview", {"version": 1, "edits": [rename] * most}),
            "MOST_FUSED": lambda most: self.post(f"{path}/fuse", {"version": 1, "parts": ["p"] * most}),
            "MOST_MOTION_NUMBERS": lambda most: self.client.get(f"{path}/motion?from=1&to={most // 10}"),
            "MOST_SHAPED_FRAMES": lambda most: self.client.get(f"{path}/motion/shapes?from=1&to={most}"),
            "MOST_VIEWS": lambda most: self.post(f"{path}/seen", {"views": [{}] * most}),
            "MOST_PLACES": lambda most: self.client.get(f'{path}/arcs?parts=["p"]&from=1&to={most}'),
            "MOST_CURVES": lambda most: self.client.get(f"{path}/curves?channels={counted(most, ['p', 'turn.z'])}"),
            "MOST_ARCS": lambda most: self.client.get(f"{path}/arcs?to=0&parts={counted(most, 'p')}"),
        }

        def sent(count):
            sendings = self.library.sendings
            entry = self.library.scenes.load("one")
            for number in range(len(sendings.of_scene("one")), count - 1):
                sendings.add(f"s{number}", entry.scene, entry.version, "zip", {}, "one.zip")
            try:
                sendings.add(f"s{count}", entry.scene, entry.version, "zip", {}, "one.zip")
            except RuleError as error:
                return str(error)
            return ""

        every = {name: lambda most, ask=ask: said(ask(most)) for name, ask in asked.items()}
        return every | {"MOST_REQUEST_BYTES": refused_early, "MOST_SENDINGS": sent}

    def test_the_description_and_the_page_name_them_all(self):
        described = self.client.get("/api/openapi.json").get_json()["info"]["description"]
        page = self.client.get("/docs/edits").get_data(as_text=True)
        for limit in LIMITS:
            self.assertIn(limit.of, described)
            self.assertIn(limit.of, page)
