"""What reading art takes that is as large as art may be: many shapes, layers, clips and style rules, and speckles."""

from __future__ import annotations

import io
import random

import numpy as np
from PIL import Image

from bench.largest import unit
from bench.timing import seconds
from jointed_crane.formats.artwork import AS_LAYERS, BY_ITSELF
from jointed_crane.formats.bring_in import read_artwork

_PAGE = '<svg xmlns="http://www.w3.org/2000/svg" width="1920" height="1080">'


def large_art() -> dict[str, float]:
    """By what the art is: the time to read it, in units of about a second."""
    layers = "".join(f"<g>{_shapes(10, number)}</g>" for number in range(1_000))
    art = {
        "49,000 shapes": (_drawing(_shapes(49_000)), "a.svg", BY_ITSELF),
        "1,000 layers of 10": (_drawing(layers), "a.svg", AS_LAYERS),
        "8,000 shapes with clips of their own": (_drawing(_clipped(8_000)), "a.svg", BY_ITSELF),
        "2,000 style rules": (_drawing(_ruled(2_000)), "a.svg", BY_ITSELF),
        "a speckled bitmap": (_speckles(), "a.png", BY_ITSELF),
    }
    return {kind: seconds(lambda read=read: read_artwork(*read), runs=1) / unit() for kind, read in art.items()}


def _drawing(contents: str) -> bytes:
    return f"{_PAGE}{contents}</svg>".encode()


def _shapes(count: int, seed: int = 0, more: str = "") -> str:
    """Boxes, and as many curves that cross themselves."""
    chance = random.Random(seed)

    def shape(number: int) -> str:
        x, y = chance.uniform(0, 1900), chance.uniform(0, 1060)
        said = f'fill="#{chance.randrange(1 << 24):06x}" {more.format(number)}'
        if number % 2:
            curves = "".join("c" + " ".join(f"{chance.uniform(-20, 20):.2f}" for _ in range(6)) for _ in range(3))
            return f'<path d="M{x:.2f} {y:.2f}{curves}z" {said}/>'
        return f'<rect x="{x:.2f}" y="{y:.2f}" width="{chance.uniform(1, 30):.2f}" height="9" {said}/>'

    return "".join(map(shape, range(count)))


def _clipped(count: int) -> str:
    chance = random.Random(1)
    clips = (
        f'<clipPath id="c{number}"><circle cx="{chance.uniform(0, 1900):.1f}" cy="{chance.uniform(0, 1060):.1f}" '
        f'r="{chance.uniform(20, 200):.1f}"/></clipPath>'
        for number in range(count)
    )
    return "<defs>" + "".join(clips) + "</defs>" + _shapes(count, 1, 'clip-path="url(#c{})"')


def _ruled(count: int) -> str:
    rules = "".join(f".a{number}{{fill:#123456;stroke-width:{number % 7}}}" for number in range(count))
    return f"<style>{rules}</style>" + _shapes(900, 2, 'class="a{}"')


def _speckles() -> bytes:
    alpha = np.random.default_rng(0).integers(0, 2, (512, 512), dtype=np.uint8) * 255
    stream = io.BytesIO()
    Image.fromarray(np.dstack([alpha] * 4)).save(stream, "PNG")
    return stream.getvalue()
