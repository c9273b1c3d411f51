"""A scene as one document of vector animation that any of its players shows."""

from __future__ import annotations

import json
from collections.abc import Collection
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise

import numpy as np

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_FITTED
from jointed_crane.core.evaluate.links_as_keys import links_as_keys
from jointed_crane.core.hierarchy.dependencies import dependencies_of, waves
from jointed_crane.core.model.scene import NO_GROUND, Drawing, Part, Scene
from jointed_crane.formats.lottie_out.art import Art, AsPicture, numbered
from jointed_crane.formats.lottie_out.moving_shapes import shape_in_motion
from jointed_crane.formats.lottie_out.painting_order import places_in_order
from jointed_crane.formats.lottie_out.placing import baked, percent, placed
from jointed_crane.formats.lottie_out.properties import Track, is_neutral, mapped, scalar
from jointed_crane.formats.lottie_out.shapes import group, transform
from jointed_crane.formats.lottie_out.tracks import TOLERANCE, channel_track, clamped, product, stepped
from jointed_crane.formats.moving.baking import baked_parts, is_baked
from jointed_crane.formats.moving.film import film_of
from jointed_crane.formats.moving.lottie_words import EMPTY, SHAPES, SOLID, Json
from jointed_crane.formats.svg.stored_art import ArtSource

#: Numbers that the place of a part is fitted by, at most.
_FITS = 10


def lottie_bytes(scene: Scene, art: ArtSource, as_picture: AsPicture, only: Collection[str] | None = None) -> bytes:
    """The whole scene, its length at its frame rate; where `only` is given only those parts are shown. Parts are layers
    with their parents, helpers and what cannot show itself empty ones. `as_picture` draws what neither shapes nor
    layers can tell.
    """
    content = _Document(scene, Art(art, as_picture, scene.length), only).json()
    return json.dumps(content, separators=(",", ":"), ensure_ascii=False).encode()


@dataclass
class _Document:
    original: Scene
    art: Art
    only: Collection[str] | None = None
    layers: list[Json] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.scene = links_as_keys(self.original)
        self.driven = {(part.id, link.onto) for part in self.original.parts for link in part.links}
        self.baked = baked_parts(self.scene, lambda part: None)
        self.film = film_of(self.scene, self.only)
        self.fades = self._fades()

    def json(self) -> Json:
        scene = self.scene
        shown = self._shown()
        self._put_layers(shown)
        numerator, denominator = scene.fps
        return {
            "v": "5.7.0",
            "ver": 10000,
            "nm": scene.name,
            "fr": numerator if denominator == 1 else numerator / denominator,
            "ip": 0,
            "op": scene.length,
            "w": round(scene.width),
            "h": round(scene.height),
            "ddd": 0,
            "assets": self.art.assets,
            "layers": numbered(self.layers, scene.length),
            "markers": [
                {"cm": marker.name, "tm": marker.frame, "dr": marker.last - marker.frame} for marker in scene.markers
            ],
        }

    def _shown(self) -> list[Part]:
        """The parts that are seen at some frame."""
        return [part for part in self.scene.parts if part.id in self.film.seen and part.drawings and part.is_sent]

    # Layers and their numbers

    def _put_layers(self, shown: list[Part]) -> None:
        """Pictures in painting order, what only carries below them, and the ground at the end."""
        carrying = self._carrying(shown)
        self._ensure_few_fits(carrying)
        chains: dict[str, list[Json]] = {}  # the layers of each part, the outermost first
        for place, part in enumerate(carrying, start=1):
            progress.tell(place, len(carrying), "parts")
            chains[part.id] = [{"ty": EMPTY, "nm": part.name, "ks": at} for at in self._transforms(part)]
        pictures: list[Json] = []  # from back to front
        hanging: list[tuple[str, Json]] = []
        for part_id, spans in places_in_order(self.scene, self.film, {part.id for part in shown}):
            chain, contents = chains[part_id], self._contents(self.scene.part(part_id))
            is_always = spans == [(0, self.scene.length)]
            if is_always and len(contents) == 1 and contents[0]["ty"] == SHAPES:
                (picture,) = contents
                chain[-1] |= {**picture, "ks": chain[-1]["ks"] | {"o": picture["ks"]["o"]}}
                pictures.append(chain[-1])
                continue
            for first, end in spans:
                span = {} if is_always else {"ip": first, "op": end}
                made = [layer | span | {"nm": self.scene.part(part_id).name} for layer in contents]
                hanging += [(part_id, layer) for layer in made]
                pictures += made
        empty = [layer for chain in chains.values() for layer in chain if layer["ty"] == EMPTY]
        self.layers += [*reversed(pictures), *empty, *self._ground()]
        for number, layer in enumerate(self.layers, start=1):
            layer["ind"] = number
        for part in carrying:
            for above, below in pairwise(chains[part.id]):
                below["parent"] = above["ind"]
            if part.parent and part.id not in self.baked:
                chains[part.id][0]["parent"] = chains[part.parent][-1]["ind"]
        for part_id, layer in hanging:
            layer["parent"] = chains[part_id][-1]["ind"]

    def _ground(self) -> list[Json]:
        if self.scene.ground == NO_GROUND:
            return []
        width, height = round(self.scene.width), round(self.scene.height)
        return [{"ty": SOLID, "nm": "Ground", "sc": self.scene.ground, "sw": width, "sh": height, "ks": transform()}]

    def _carrying(self, shown: list[Part]) -> list[Part]:
        """What is shown, and what it hangs on up to the first that stands on the stage itself; parents first."""
        needed: set[str] = set()
        for part in shown:
            above: Part | None = part
            while above is not None and above.id not in needed:
                needed.add(above.id)
                above = self.scene.part(above.parent) if above.parent and above.id not in self.baked else None
        parts = (self.scene.parts[index] for wave in waves(self.scene.parts) for index in wave)
        return [part for part in parts if part.id in needed]

    def _ensure_few_fits(self, parts: list[Part]) -> None:
        """RuleError where it would take too long to fit keys to all that needs them."""
        fits = 0
        for part in parts:
            fits += _FITS * (part.id in self.baked)
            fits += sum((part.id, name) in self.driven or is_baked(name, its) for name, its in part.channels.items())
        if fits * self.scene.length > MOST_FITTED:
            raise RuleError(
                f"Keys would be fitted to {fits} channels on each of {self.scene.length} frames; "
                f"{MOST_FITTED // fits} frames can be sent at once. Nothing was sent; send a span of frames."
            )

    # What a part is

    def _track(self, part: Part, name: str) -> Track:
        return channel_track(part, name, self.scene.length, (part.id, name) in self.driven)

    def _transforms(self, part: Part) -> list[Json]:
        if part.id in self.baked:
            graph = dependencies_of(self.scene)
            sources = [self.scene.part(name) for name in graph.with_sources([part.id])]
            return baked(self.scene, part, sources)
        return placed(part, partial(self._track, part), self.scene.length)

    def _contents(self, part: Part) -> list[Json]:
        """What a part shows as layers: one of shapes where that is enough, with all drawings in it."""
        drawings = self._seen_drawings(part)
        fading = self._fading(part)
        shapes = [self._shapes(part, number) for number, _ in drawings]
        if all(items is not None for items in shapes):
            items = []
            for (_, steps), made in zip(drawings, shapes, strict=True):
                assert made is not None
                items += made if is_neutral(steps, 1.0) else [group(made, transform() | {"o": scalar(percent(steps))})]
            return [{"ty": SHAPES, "ks": transform() | {"o": scalar(percent(fading))}, "shapes": items}]
        layers = []
        for (number, steps), made in zip(drawings, shapes, strict=True):
            if made is None:
                layer = self.art.layer(part.drawings[number])
            else:
                layer = {"ty": SHAPES, "ks": transform(), "shapes": made}
            seen = product([fading, steps], self.scene.length, TOLERANCE[""])
            layers.append(layer | {"ks": layer["ks"] | {"o": scalar(percent(seen))}})
        return layers

    def _shapes(self, part: Part, number: int) -> list[Json] | None:
        drawing: Drawing = part.drawings[number]
        if part.id in self.film.shaped and drawing.shape is not None:
            return shape_in_motion(part, number, self.scene.length)
        return self.art.shapes(drawing)

    def _seen_drawings(self, part: Part) -> list[tuple[int, Track]]:
        """The numbers of the drawings that a part ever shows, each with when."""
        numbers = self.film.drawings[part.id][: self.scene.length]
        return [(int(number), stepped(numbers == number)) for number in np.unique(numbers) if number >= 0]

    def _fading(self, part: Part) -> Track:
        """The opacity of a part times that of all it hangs on, nothing where one of them is hidden."""
        return product(self.fades[part.id], self.scene.length, TOLERANCE[""])

    def _fades(self) -> dict[str | None, tuple[Track, ...]]:
        """For each part what fades or hides it: its own opacity and shown, and those of all it hangs on."""
        result: dict[str | None, tuple[Track, ...]] = {None: ()}
        for part in (self.scene.parts[index] for wave in waves(self.scene.parts) for index in wave):
            own = [clamped(self._track(part, "opacity"), self.scene.length)]
            own.append(mapped(self._track(part, "shown"), lambda value: float(value >= 0.5)))
            result[part.id] = (*result[part.parent], *(track for track in own if not is_neutral(track, 1.0)))
        return result
