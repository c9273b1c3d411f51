"""The layers of a composition as parts."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LONGEST_NAME, MOST_LAYERS
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Drawing, Part, PartKind
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.artwork import AS_ONE, ArtworkError, Piece, drawing_of
from jointed_crane.formats.bitmap import read_bitmap
from jointed_crane.formats.lottie_in.pictures import DEEPEST, Contents, moves
from jointed_crane.formats.lottie_in.placing import faded, fading, placed
from jointed_crane.formats.lottie_in.properties import (
    Clock,
    KeyRead,
    Unreadable,
    is_moving,
    moments,
    number,
    value_at,
)
from jointed_crane.formats.lottie_in.shapes import Sketch
from jointed_crane.formats.moving.lottie_words import EMPTY, IMAGE, PRECOMPOSED, SHAPES, SOLID, still
from jointed_crane.formats.svg.layers import read_svg

Layer = dict[str, Any]
#: Layers that show something, and what others are called.
_SHOWN = (PRECOMPOSED, SOLID, IMAGE, SHAPES)
_OTHERS = {5: "text", 6: "sound", 13: "a camera", 15: "data"}
#: What a layer may have that is not understood, by the names of its fields.
_UNKNOWN = {"ef": "effects", "sy": "layer styles", "tm": "time that is mapped anew"}
#: What goes wrong in files that only look like some.
DAMAGED = (ArithmeticError, AttributeError, LookupError, TypeError, ValueError)


@dataclass
class Layers:
    """What is read of a file, and what is not understood of it, layer by layer.

    Attributes
    ----------
    length : frames of the scene
    size : width and height of the scene, px
    """

    pictures: Contents
    length: int
    size: tuple[float, float]
    art: dict[str, tuple[str, bytes]] = field(default_factory=dict)
    notes: dict[str, None] = field(default_factory=dict)
    names: set[str] = field(default_factory=set)
    count: int = 0

    def parts(self, layers: list[Any], clock: Clock, holder: str | None = None, depth: int = 0) -> list[Part]:
        """The parts of a composition from back to front; what hangs on nothing hangs on its holder."""
        if depth > DEEPEST:
            raise RuleError(
                f"The compositions of the file lie more than {DEEPEST} deep in each other. Nothing was brought in."
            )
        comp = _Composition([layer for layer in layers if isinstance(layer, dict)], clock, self.length)
        carriers = {id(layer): self._id() for layer in comp.layers}
        result: list[Part] = []
        for layer in comp.layers:
            if id(layer) in comp.folded:
                continue
            part_id = carriers[id(layer)]
            above = comp.parent_of(layer)
            parent = holder if above is None else carriers[id(above)]
            try:
                result = [*self._of_layer(layer, comp, part_id, parent, clock, depth), *result]
            except DAMAGED as error:
                if isinstance(error, RuleError) and not isinstance(error, ArtworkError):
                    raise
                why = str(error) if isinstance(error, Unreadable) else "it is damaged"
                self._note(layer, f"could not be read: {why}; it is an empty helper")
                result = [self._part(layer, part_id, parent), *result]
        return result

    def _of_layer(
        self, layer: Layer, comp: _Composition, part_id: str, parent: str | None, clock: Clock, depth: int
    ) -> list[Part]:
        """A layer as a part, with the parts of the composition that it shows in front of it."""
        say = self._say(layer)
        for name, words in _UNKNOWN.items():
            if layer.get(name):
                say(words)
        if layer.get("bm"):
            say("blend modes")
        shown = comp.picture_of(layer)
        fade = comp.fade_of(layer)
        part = placed(self._part(layer, part_id, parent), layer.get("ks"), clock, say)
        kind = shown.get("ty")
        if kind == PRECOMPOSED and moves(self.pictures.layers_of(shown)):
            part = self._seen(part, shown, clock, fade)
            inner = clock.inside(number(shown.get("sr", 1)) or 1.0, number(shown.get("st", 0)))
            return [part, *self.parts(self.pictures.layers_of(shown), inner, part_id, depth + 1)]
        if kind not in _SHOWN:
            if kind != EMPTY:
                say(_OTHERS.get(int(number(kind)), "something that is not known"))
            return [part]
        drawings, channels, its_kind = self._drawings(shown, part_id, clock, say)
        if not drawings:
            return [part]
        picture = replace(part, kind=its_kind, drawings=drawings).with_channels(channels)
        if not comp.is_apart(layer):
            return [self._seen(picture, shown, clock, fade)]
        # What hangs on it neither fades nor goes with it, so it hangs beside that on a helper.
        own = Part(self._id(), self._name(f"{part.name} picture"), its_kind, part_id, drawings, part.pivot)
        own = own.with_rest({"move.x": part.pivot[0], "move.y": part.pivot[1]}).with_channels(channels)
        return [part, self._seen(own, shown, clock, fade)]

    def _seen(self, part: Part, layer: Layer, clock: Clock, above: Any) -> Part:
        """A part as clear as a layer says, and shown while that is there; `above` is the opacity, as the file has it,
        that it has from what it hangs on.
        """
        opacity = layer["ks"].get("o")
        if above is not None and opacity != above:
            part = part.with_rest({"opacity": _level(opacity) / _level(above)})
        elif above is None and opacity is not None:
            part = faded(part, fading({"o": opacity}, clock))
        if layer.get("hd"):
            return part.with_rest({"shown": 0.0})
        first, end = _span(layer, clock)
        if first <= 0 and end >= self.length:
            return part
        steps = [Key(first, 1.0, "hold")] if first <= 0 else [Key(0.0, 0.0, "hold"), Key(first, 1.0, "hold")]
        if end < self.length:
            steps = [key for key in steps if key.frame < end] + [Key(end, 0.0, "hold")]
        return part.with_channels({"shown": Channel(tuple(steps))})

    # What a layer shows

    def _drawings(
        self, layer: Layer, part_id: str, clock: Clock, say: Callable[[str], None]
    ) -> tuple[tuple[Drawing, ...], dict[str, Channel], PartKind]:
        """The drawings of a part, the channel that exchanges them, and its kind."""
        if layer.get("tt") or layer.get("td"):
            say("mattes between layers that move")
        if layer.get("ty") == IMAGE:
            drawing = self._bitmap(layer, f"{part_id}-1")
            return (drawing,), {}, "bitmap"
        shapes = layer.get("shapes")
        exchanged = _exchanged(shapes) if layer.get("ty") == SHAPES else None
        if exchanged is None:
            drawing_or_none = self._drawing(layer, f"{part_id}-1", clock, say)
            return (() if drawing_or_none is None else (drawing_or_none,)), {}, "drawing"
        drawings: list[Drawing] = []
        steps: dict[float, float] = {}
        for group, keys in exchanged:
            items = {**layer, "shapes": group["it"]}
            drawing_or_none = self._drawing(items, f"{part_id}-{len(drawings) + 1}", clock, say)
            if drawing_or_none is None:
                continue
            steps |= {clock.frame(key.time): float(len(drawings)) for key in keys if key.values[0] > 0}
            drawings.append(drawing_or_none)
        track = Channel(tuple(Key(frame, steps[frame], "hold") for frame in sorted(steps)))
        return tuple(drawings), {"drawing": track} if len(drawings) > 1 else {}, "drawing"

    def _drawing(self, layer: Layer, drawing_id: str, clock: Clock, say: Callable[[str], None]) -> Drawing | None:
        drawn = Sketch(-clock.start / clock.stretch, say)
        name = _named(layer) or "Layer"
        data = self.pictures.drawing(self.pictures.shown(layer, drawn), drawn, self.size)
        if data is None:
            return None
        try:
            artwork = read_svg(data, name, AS_ONE)
        except ArtworkError:
            say("pictures that paint nothing")
            return None
        (piece,) = artwork.pieces
        self.art[piece.content_hash] = (piece.media_type, piece.data)
        return replace(drawing_of(piece, artwork, drawing_id), source=None).with_zero_moved(_shift(layer))

    def _bitmap(self, layer: Layer, drawing_id: str) -> Drawing:
        data, (width, height) = self.pictures.picture(layer)
        artwork = read_bitmap(data, _named(layer) or "Picture")
        (piece,) = artwork.pieces
        self.art[piece.content_hash] = (piece.media_type, piece.data)
        kx, ky = ((to / was) if to > 0 else 1.0 for to, was in zip((width, height), piece.box[2:], strict=True))
        sx, sy = _stretch(layer)
        scaled = _scaled(piece, kx * sx, ky * sy)
        return replace(drawing_of(scaled, artwork, drawing_id), source=None).with_zero_moved(_shift(layer))

    # Names and notes

    def _part(self, layer: Layer, part_id: str, parent: str | None) -> Part:
        return Part(part_id, self._name(_named(layer) or "Layer"), "helper", parent)

    def _name(self, wanted: str) -> str:
        name = free_name(wanted[: LONGEST_NAME - 20], self.names)
        self.names.add(name)
        return name

    def _id(self) -> str:
        self.count += 1
        if self.count > MOST_LAYERS:
            raise RuleError(
                f"The file has more than {MOST_LAYERS} layers, those of its compositions as often as they are shown. "
                "Nothing was brought in."
            )
        progress.tell(self.count, MOST_LAYERS, "layers")
        return f"l{self.count}"

    def _say(self, layer: Layer) -> Callable[[str], None]:
        def say(words: str) -> None:
            self._note(layer, f"has {words}, which {'is' if words in _OTHERS.values() else 'are'} not understood")

        return say

    def _note(self, layer: Layer, words: str) -> None:
        self.notes[f"{_named(layer) or 'A layer'} {words}."] = None


class _Composition:
    """The layers of a composition, and how they hang together."""

    def __init__(self, layers: list[Layer], clock: Clock, length: int) -> None:
        self.layers, self._clock, self._length = layers, clock, length
        self._by_number = {layer["ind"]: layer for layer in layers if isinstance(layer.get("ind"), int)}
        self._hanging: dict[int, list[Layer]] = {}
        for layer in layers:
            above = self._by_number.get(layer.get("parent"))
            if above is not None:
                self._hanging.setdefault(id(above), []).append(layer)
        #: Empty layers that are the place of one picture that hangs on them under the same name, and that.
        owned = [(layer, own) for layer in layers if (own := self._own_picture(layer)) is not None]
        self._pictures = {id(layer): {**own, "folded": True} for layer, own in owned}
        self.folded = {id(own) for _, own in owned}

    def parent_of(self, layer: Layer) -> Layer | None:
        """What a layer hangs on; None where that is missing, or hangs on the layer itself."""
        above = self._by_number.get(layer.get("parent"))
        seen = {id(layer)}
        step = above
        while step is not None:
            if id(step) in seen:
                return None
            seen.add(id(step))
            step = self._by_number.get(step.get("parent"))
        return above

    def picture_of(self, layer: Layer) -> Layer:
        """The layer that shows what a part shows: itself, or the one picture that hangs on it."""
        return self._pictures.get(id(layer), layer)

    def _own_picture(self, layer: Layer) -> Layer | None:
        alike = [one for one in self._hanging.get(id(layer), ()) if one.get("nm") == layer.get("nm")]
        if layer.get("ty") != EMPTY or len(alike) != 1:
            return None
        (own,) = alike
        at = own.get("ks")
        if own.get("ty") not in _SHOWN or id(own) in self._hanging or not isinstance(at, dict):
            return None
        if any(is_moving(at.get(name)) for name in "apsr") or any(name in at for name in ("sk", "rz")):
            return None
        try:
            sizes = moments(at.get("s"), (100.0, 100.0))[0].values[:2]
            is_plain = sizes == (100.0, 100.0) or (own.get("ty") == IMAGE and min(sizes) > 0)
            turn, anchor = moments(at.get("r"), (0.0,))[0].values[0], moments(at.get("a"), (0.0, 0.0))[0].values[:2]
        except DAMAGED:
            return None
        return own if is_plain and turn == 0 and anchor == (0.0, 0.0) else None

    def opacity_of(self, layer: Layer) -> Any:
        """The opacity of what a layer shows, as the file has it; None where it shows nothing, or all of it."""
        picture = self.picture_of(layer)
        at = picture.get("ks")
        opacity = at.get("o") if picture.get("ty") in _SHOWN and isinstance(at, dict) else None
        return None if opacity in (None, still(100), still([100])) else opacity

    def fade_of(self, layer: Layer) -> Any:
        """The opacity that a part has from what it hangs on; None where it has none. In files nothing has any."""
        above = self.parent_of(layer)
        while above is not None:
            opacity = self.opacity_of(above)
            if opacity is not None and not self.is_apart(above):
                return opacity
            above = self.parent_of(above)
        return None

    def is_apart(self, layer: Layer) -> bool:
        """Whether a picture fades, or comes and goes, in another way than what hangs on its layer: that would go with
        it, so the picture hangs beside it.
        """
        below = [one for one in self._below(layer) if self.picture_of(one).get("ty") in _SHOWN]
        if not below:
            return False
        picture = self.picture_of(layer)
        first, end = _span(picture, self._clock)
        if first > 0 or end < self._length or picture.get("hd"):
            return True
        own = self.opacity_of(layer)
        theirs = [self.opacity_of(one) for one in below]
        if own is None or all(opacity == own for opacity in theirs):
            return False
        if is_moving(own) or any(opacity is None or is_moving(opacity) for opacity in theirs):
            return True
        level = _level(own)
        return level <= 0 or any(_level(opacity) > level for opacity in theirs)

    def _below(self, layer: Layer) -> list[Layer]:
        """What hangs on a layer, and on that, but for the picture that it is the place of."""
        result: list[Layer] = []
        waiting, seen = [layer], {id(layer)}
        while waiting:
            for one in self._hanging.get(id(waiting.pop()), ()):
                if id(one) not in seen and id(one) not in self.folded:
                    seen.add(id(one))
                    result.append(one)
                    waiting.append(one)
        return result


def _span(layer: Layer, clock: Clock) -> tuple[float, float]:
    """The frames from and to which a layer is there."""
    return clock.frame(number(layer.get("ip", -1e6))), clock.frame(number(layer.get("op", 1e6)))


def _level(opacity: Any) -> float:
    return moments(opacity, (100.0,))[0].values[0]


def _named(layer: Mapping[str, Any]) -> str:
    name = layer.get("nm")
    return " ".join(name.split())[:LONGEST_NAME] if isinstance(name, str) else ""


def _shift(layer: Layer) -> tuple[float, float]:
    """How far a picture that is folded into its place lies from it, the other way round."""
    place = layer["ks"].get("p") if layer.get("folded") else None
    x, y = moments(place, (0.0, 0.0))[0].values[:2]
    return (-x, -y)


def _stretch(layer: Layer) -> tuple[float, float]:
    sizes = layer["ks"].get("s") if layer.get("folded") else None
    x, y = moments(sizes, (100.0, 100.0))[0].values[:2]
    return (x / 100, y / 100)


def _scaled(piece: Piece, kx: float, ky: float) -> Piece:
    """A piece so many times as wide and high."""
    if (kx, ky) == (1.0, 1.0):
        return piece
    left, top, right, bottom = piece.bounds
    return replace(
        piece,
        box=(piece.box[0] * kx, piece.box[1] * ky, piece.box[2] * kx, piece.box[3] * ky),
        bounds=(left * kx, top * ky, right * kx, bottom * ky),
        outline=tuple(tuple((x * kx, y * ky) for x, y in ring) for ring in piece.outline),
    )


def _exchanged(shapes: Any) -> list[tuple[dict[str, Any], list[KeyRead]]] | None:
    """Groups of which one at a time is there, each with the keys of its opacity; None where they are no such groups."""
    if not isinstance(shapes, list) or len(shapes) < 2:
        return None
    result = []
    for item in shapes:
        inside = item.get("it") if isinstance(item, dict) and item.get("ty") == "gr" else None
        at = next((one for one in inside or () if isinstance(one, dict) and one.get("ty") == "tr"), None)
        if at is None or not is_moving(at.get("o")):
            return None
        keys = moments(at["o"], (100.0,))
        if any(not key.is_hold for key in keys[:-1]) or any(key.values[0] not in (0.0, 100.0) for key in keys):
            return None
        result.append((item, keys))
    times = sorted({key.time for _, keys in result for key in keys})
    there = [sum(value_at(keys, time)[0] > 0 for _, keys in result) for time in times]
    return result if set(there) == {1} else None
