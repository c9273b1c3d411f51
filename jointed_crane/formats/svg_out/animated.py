"""A scene as one animated SVG that plays in any browser without script."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from typing import cast

import numpy as np
from lxml import etree

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_SEEN_PIECES
from jointed_crane.core.evaluate.links_as_keys import links_as_keys
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.hierarchy.dependencies import waves
from jointed_crane.core.model.channels import CHANNELS, joined
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.reshaping import moving_shapes
from jointed_crane.core.viewing.cameras import is_seen_in_depth, stage_view
from jointed_crane.formats.moving.film import SentFilm, film_of
from jointed_crane.formats.moving.keyframes import Keyframe, channel_keyframes
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.carrying import baked_parts
from jointed_crane.formats.svg_out.css import css_keyframes
from jointed_crane.formats.svg_out.groups import GroupFactor, MovedFactor, StillFactor, placement_factors, standing_text
from jointed_crane.formats.svg_out.in_depth import AsPicture, DepthFrames
from jointed_crane.formats.svg_out.inlining import add_art, matrix_text, number
from jointed_crane.formats.svg_out.moving_shapes import add_shape, shape_keyframes
from jointed_crane.formats.svg_out.still import stage_element


@dataclass(frozen=True)
class _Group:
    """One nested group of a part's placement: a transform, and the name of the animation that moves it."""

    transform: str
    animation: str = ""


def animated_svg(
    scene: Scene, art: ArtSource, only: Collection[str] | None = None, as_picture: AsPicture | None = None
) -> bytes:
    """The whole scene, looping over its length at its frame rate. Helpers are left out, and where `only` is given all
    parts but those.

    The hierarchy is kept as nested groups. Where the painting order takes a child away from its parent, the parent's
    groups are opened again, with the same animations; nothing has to be baked for that. A scene in depth is written
    picture by picture (`DepthFrames`).
    """
    if is_seen_in_depth(scene):
        return _in_depth(scene, art, only, as_picture)
    return _Writer(links_as_keys(scene), art, only).written()


def _in_depth(scene: Scene, art: ArtSource, only: Collection[str] | None, as_picture: AsPicture | None) -> bytes:
    root = stage_element(scene)
    style = etree.SubElement(root, f"{{{SVG}}}style")
    frames = DepthFrames(scene, art, root, as_picture, only)
    pictures: list[tuple[int, list[tuple[object, ...]]]] = []
    written = 0
    for pose in film(scene, np.arange(float(scene.length))):
        for column, frame in enumerate(pose.frames.tolist()):
            pieces = frames.pieces(pose, column, stage_view(scene, pose, column))
            if not pictures or pictures[-1][1] != pieces:
                pictures.append((int(frame), pieces))
                written += len(pieces)
            if written > MOST_SEEN_PIECES:
                raise RuleError(
                    f"More than {MOST_SEEN_PIECES} pieces would be written picture by picture, up to frame {frame:g}. "
                    "Nothing was sent; send a span of frames, or a film."
                )
        progress.tell(int(pose.frames[-1]) + 1, scene.length, "frames")
    rules = []
    for place, (first, pieces) in enumerate(pictures):
        last = pictures[place + 1][0] if place + 1 < len(pictures) else scene.length
        holder = etree.SubElement(root, f"{{{SVG}}}g")
        if (first, last) != (0, scene.length):
            steps = {0: float(first == 0), first: 1.0, last: 0.0, scene.length: float(last == scene.length)}
            result = [Keyframe(float(at), steps[at], "hold") for at in sorted(steps)]
            rules.append(css_keyframes(f"f{place}", result, scene.length, lambda value: f"opacity:{number(value)}"))
            rules.append(f".f{place}{{animation-name:f{place}}}")
            holder.set("class", f"m f{place}")
            holder.set("opacity", number(float(first == 0)))
        frames.write(holder, pieces)
    if rules:
        seconds = number(scene.seconds)
        rules.insert(0, f".m{{animation-duration:{seconds}s;animation-iteration-count:infinite}}")
        style.text = "".join(rules)
    else:
        root.remove(style)
    return etree.tostring(root, encoding="utf-8", xml_declaration=True)


@dataclass
class _Writer:
    scene: Scene
    art: ArtSource
    only: Collection[str] | None = None
    rules: list[str] = field(default_factory=list)
    #: Animations that are written already, with the opacity they begin at: copies of a group share them.
    fades: dict[str, float] = field(default_factory=dict)
    film: SentFilm = field(init=False)

    def __post_init__(self) -> None:
        self.baked = baked_parts(self.scene)
        self.film = film_of(self.scene, self.only, self.baked, matrix_text)
        factors = placement_factors(part for part in self.scene.parts if part.id not in self.baked)
        self.groups = {part.id: self._groups(part, factors.get(part.id, [])) for part in self.scene.parts}
        self.fading = self._fading_members()

    def written(self) -> bytes:
        root = stage_element(self.scene)
        style = etree.SubElement(root, f"{{{SVG}}}style")
        edges = [*(first for first, _ in self.film.orders), self.scene.length]
        for number_of_stage, (first, painting) in enumerate(self.film.orders):
            holder, last = root, edges[number_of_stage + 1]
            if (first, last) != (0, self.scene.length):
                holder = etree.SubElement(root, f"{{{SVG}}}g")
                self._show_between(holder, f"o{number_of_stage}", first, last)
            self._paint(holder, painting, f"o{number_of_stage}")
        style.text = "".join([self._common_rule(), *self.rules])
        if not self.rules:
            root.remove(style)
        return etree.tostring(root, encoding="utf-8", xml_declaration=True)

    def _common_rule(self) -> str:
        return f".m{{animation-duration:{number(self.scene.seconds)}s;animation-iteration-count:infinite}}"

    # Placement

    def _groups(self, part: Part, factors: list[GroupFactor]) -> list[_Group]:
        key = f"p{self.scene.index[part.id]}"
        if part.id in self.baked:
            return [self._baked_group(part, key)]
        groups = []
        for factor in factors:
            if isinstance(factor, StillFactor):
                groups.append(_Group(standing_text(factor)))
            else:
                groups.append(self._moving_group(factor, f"{key}-{factor.channel.replace('.', '')}"))
        return groups

    def _moving_group(self, factor: MovedFactor, name: str) -> _Group:
        result = channel_keyframes(factor.channel, factor.motion, self.scene.length)
        result = [Keyframe(kf.frame, factor.effective(kf.value), kf.easing) for kf in result]
        self._rule(name, result, lambda value: f"transform:{factor.css(value)}")
        return _Group(factor.css(result[0].value).replace("px", "").replace("deg", "").replace(",", " "), name)

    def _baked_group(self, part: Part, key: str) -> _Group:
        texts = self.film.places.get(part.id, [""])
        if len(set(texts)) == 1:
            return _Group(texts[0])
        css = [text.replace(" ", ",") for text in texts]
        result = [Keyframe(float(frame), float(frame), "straight") for frame in range(len(texts))]
        self._rule(key, result, lambda frame: f"transform:{css[round(frame)]}")
        return _Group(texts[0], key)

    def _rule(self, name: str, keyframes: list[Keyframe], declare) -> None:
        self.rules.append(css_keyframes(name, keyframes, self.scene.length, declare))
        self.rules.append(f".{name}{{animation-name:{name}}}")

    # Painting order

    def _show_between(self, element: etree._Element, name: str, first: int, last: int) -> None:
        length = self.scene.length
        steps = {0: float(first == 0), first: 1.0, last: 0.0, length: float(last == length)}
        result = [Keyframe(float(frame), steps[frame], "hold") for frame in sorted(steps)]
        self._fade_by(element, name, lambda: result)

    def _paint(self, root: etree._Element, painting: list[str], prefix: str) -> None:
        """Parts from back to front; groups that the next part shares with the last one stay open."""
        opened: list[tuple[_Group, etree._Element]] = []
        depths: dict[int, int] = {}
        for number_of_part, part_id in enumerate(painting, start=1):
            progress.tell(number_of_part, len(painting), "parts")
            part = self.scene.part(part_id)
            if not part.drawings or not part.is_sent or part_id not in self.film.seen:
                continue
            missing, depth = self._missing(part, depths)
            for group, _ in opened[depth:]:
                del depths[id(group)]
            del opened[depth:]
            for group in missing:
                opened.append((group, self._open(opened[-1][1] if opened else root, group)))
                depths[id(group)] = len(opened)
            self._art(opened[-1][1] if opened else root, part, prefix)

    def _missing(self, part: Part, depths: dict[int, int]) -> tuple[list[_Group], int]:
        """The groups that a part needs inside the open ones, outermost first, and how many stay open around them.

        `depths` says how many groups are open down to one. An open group has all of its ancestors' groups around it, so
        the walk up ends at the first that is open. A baked part stands on the stage itself.
        """
        missing: list[_Group] = []
        above: Part | None = part
        while above is not None:
            for group in reversed(self.groups[above.id]):
                if id(group) in depths:
                    return missing[::-1], depths[id(group)]
                missing.append(group)
            above = self.scene.part(above.parent) if above.parent and above.id not in self.baked else None
        return missing[::-1], 0

    def _open(self, holder: etree._Element, group: _Group) -> etree._Element:
        element = etree.SubElement(holder, f"{{{SVG}}}g", transform=group.transform)
        if group.animation:
            element.set("class", f"m {group.animation}")
        return element

    # Fading, showing and exchanging drawings

    def _art(self, holder: etree._Element, part: Part, prefix: str) -> None:
        for member in self.fading[part.id]:
            holder = self._faded(holder, member)
        for index, drawing in enumerate(part.drawings):
            shows = self.film.drawings[part.id][: self.scene.length] == index
            if not shows.any():
                continue
            key = f"p{self.scene.index[part.id]}-d{index}"
            leaf = etree.SubElement(holder, f"{{{SVG}}}g")
            leaf.set("data-part", part.name)
            if not shows.all():
                self._stepped(leaf, key, part, "drawing", lambda value, i=index: part.drawing_number(value) == i)
            if part.id in self.film.shaped and drawing.shape is not None:
                self._moving_shape(leaf, part, index, f"{key}-shape")
            else:
                add_art(leaf, drawing, f"{prefix}-{key}-", self.art)

    def _moving_shape(self, holder: etree._Element, part: Part, index: int, name: str) -> None:
        """A shape whose numbers move, at every frame; its keyframes are made once."""
        frames = np.arange(self.scene.length + 1, dtype=float)
        its_motion = moving_shapes(part, frames)
        assert its_motion is not None
        path = add_shape(holder, part.drawings[index], cast(Shape, its_motion.at(index, 0)))
        if name not in self.fades:
            shapes = [cast(Shape, its_motion.at(index, column)) for column in range(len(frames))]
            result, declarations = shape_keyframes(shapes)
            self._rule(name, result, lambda frame: declarations[round(frame)])
            self.fades[name] = 1.0
        path.set("class", f"m {name}")

    def _fading_members(self) -> dict[str, tuple[Part, ...]]:
        """For each part those of its line, from the stage down to itself, that fade or hide what hangs on them."""
        result: dict[str | None, tuple[Part, ...]] = {None: ()}
        for part in (self.scene.parts[index] for wave in waves(self.scene.parts) for index in wave):
            above = result[part.parent]
            fades = "opacity" in part.channels or "shown" in part.channels or part.rest_value("opacity") != 1.0
            result[part.id] = (*above, part) if fades else above
        return {part.id: result[part.id] for part in self.scene.parts}

    def _faded(self, holder: etree._Element, part: Part) -> etree._Element:
        """Groups for a part's own opacity and shown, where they are not neutral."""
        key = f"p{self.scene.index[part.id]}"
        rest = part.rest_value("opacity")
        if "opacity" in part.channels or rest != 1.0:
            holder = etree.SubElement(holder, f"{{{SVG}}}g")
            self._fade(holder, f"{key}-opacity", part, rest)
        if "shown" in part.channels:
            holder = etree.SubElement(holder, f"{{{SVG}}}g")
            self._stepped(holder, f"{key}-shown", part, "shown", lambda value: value >= 0.5)
        return holder

    def _fade(self, element: etree._Element, name: str, part: Part, rest: float) -> None:
        motion = part.channels.get("opacity")
        if motion is None:
            element.set("opacity", number(min(max(rest, 0.0), 1.0)))
            return

        def keyframes() -> list[Keyframe]:
            result = channel_keyframes("opacity", motion, self.scene.length)
            return [Keyframe(kf.frame, joined(CHANNELS["opacity"], rest, kf.value), kf.easing) for kf in result]

        self._fade_by(element, name, keyframes)

    def _stepped(self, element: etree._Element, name: str, part: Part, channel: str, is_on) -> None:
        def keyframes() -> list[Keyframe]:
            result = channel_keyframes(channel, part.channels[channel], self.scene.length)
            return [Keyframe(kf.frame, float(is_on(kf.value)), kf.easing) for kf in result]

        self._fade_by(element, name, keyframes)

    def _fade_by(self, element: etree._Element, name: str, keyframes: Callable[[], list[Keyframe]]) -> None:
        """Let an animation of this name move an element's opacity; its keyframes are made once."""
        if name not in self.fades:
            result = keyframes()
            self._rule(name, result, lambda value: f"opacity:{number(value)}")
            self.fades[name] = result[0].value
        element.set("class", f"m {name}")
        element.set("opacity", number(min(max(self.fades[name], 0.0), 1.0)))
