"""A whole file of vector animation as a scene."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LONGEST_NAME, LONGEST_SCENE, MOST_SCENE_BYTES
from jointed_crane.core.model.markers import Marker
from jointed_crane.core.model.scene import NO_GROUND, Scene
from jointed_crane.formats.artwork import title_of
from jointed_crane.formats.bundle import Bundle
from jointed_crane.formats.lottie_in.layers import DAMAGED, Layers
from jointed_crane.formats.lottie_in.pictures import Contents
from jointed_crane.formats.lottie_in.properties import Clock, Unreadable, number
from jointed_crane.formats.moving.lottie_words import SOLID
from jointed_crane.formats.strict_json import parsed_json


def read_lottie(data: bytes, name: str) -> Bundle:
    """A scene of the file's layers, with notes on what is not understood. RuleError with a sentence where it is none.

    It begins at the file's first frame. Pictures that the file holds are read, those outside are not.
    """
    if len(data) > MOST_SCENE_BYTES:
        raise RuleError(
            f"{name} has {len(data) / 1e6:.0f} MB; vector animation may have {MOST_SCENE_BYTES // 10**6} MB. "
            "Nothing was brought in."
        )
    content = parsed_json(data, most_letters=len(data))
    if not isinstance(content, dict) or not isinstance(content.get("layers"), list):
        raise RuleError(f"{name} is JSON, but neither a scene nor vector animation. Nothing was brought in.")
    try:
        return _scene(content, name)
    except RuleError:
        raise
    except DAMAGED as error:
        why = f": {error}" if isinstance(error, Unreadable) else ""
        raise RuleError(f"{name} is not vector animation that can be read{why}. Nothing was brought in.") from None


def _scene(content: dict[str, Any], name: str) -> Bundle:
    first, end = number(content.get("ip", 0)), number(content.get("op"))
    length = min(max(round(end - first), 1), LONGEST_SCENE)
    size = (number(content.get("w")), number(content.get("h")))
    assets = {str(asset.get("id")): asset for asset in content.get("assets") or () if isinstance(asset, dict)}
    layers = Layers(Contents(assets), length, size)
    ground, rest = _ground(content["layers"], size)
    parts = layers.parts(rest, Clock(start=-first))
    title = content.get("nm")
    scene = Scene(
        "opened",
        (title if isinstance(title, str) and title.strip() else title_of(name, "Scene"))[:LONGEST_NAME].strip(),
        *size,
        ground=ground,
        fps=_rate(number(content.get("fr", 24))),
        length=length,
        parts=tuple(parts),
        markers=tuple(_markers(content.get("markers"), first, length)),
    )
    return Bundle(scene, layers.art, tuple(layers.notes))


def _rate(rate: float) -> tuple[int, int]:
    """Frames a second as a fraction; those of broadcasts are a thousandth less than whole."""
    for below in (1, 1001):
        above = rate * (1 if below == 1 else 1.001)
        if round(above) > 0 and abs(above - round(above)) < 2e-3 / below * (1 if below == 1 else 500):
            return (round(above), 1) if below == 1 else (round(above) * 1000, 1001)
    result = Fraction(rate).limit_denominator(1000)
    return (max(result.numerator, 1), result.denominator)


def _ground(layers: list[Any], size: tuple[float, float]) -> tuple[str, list[Any]]:
    """The colour of a plain layer that fills the stage behind all others, and those."""
    last = layers[-1] if layers else None
    if isinstance(last, dict) and last.get("ty") == SOLID and "parent" not in last and last.get("nm") == "Ground":
        at, colour = last.get("ks"), last.get("sc")
        is_still = isinstance(at, dict) and all(
            at.get(name) in (None, {"a": 0, "k": value})
            for name, value in (("p", [0.0, 0.0]), ("o", 100.0), ("r", 0.0))
        )
        fills = (last.get("sw"), last.get("sh")) == (round(size[0]), round(size[1]))
        if is_still and fills and isinstance(colour, str):
            return colour.lower(), layers[:-1]
    return NO_GROUND, layers


def _markers(markers: Any, first: float, length: int) -> Iterator[Marker]:
    for place, marker in enumerate(markers if isinstance(markers, list) else ()):
        name = marker.get("cm") if isinstance(marker, dict) else None
        if not isinstance(name, str) or not name.strip():
            continue
        frame, span = number(marker.get("tm", 0)) - first, number(marker.get("dr", 0))
        if 0 <= frame < length:
            until = min(frame + span, length - 1.0)
            yield Marker(f"m{place}", name.strip()[:LONGEST_NAME], frame, until if until > frame else None)
