"""A hundred files that mean harm, or come from somebody who has too much of everything."""

from __future__ import annotations

import hashlib
import io
import json
import random
import struct
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from fontTools.ttLib import TTFont
from PIL import Image

from jointed_crane.formats.bundle import FORMAT, NEWEST
from tests.formats.test_lettering import block_font

HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100" height="100"'
SHAPE = '<rect width="50" height="50"/>'
OUT = "http://outside.invalid"


@dataclass(frozen=True)
class Hostile:
    """One file; heavy ones take the bounds of time and memory to their ends."""

    name: str
    make: Callable[[], bytes]
    is_heavy: bool = False


def svg(body: str, before: str = "", more: str = "") -> bytes:
    return f"{before}<svg {HEAD} {more}>{body}{SHAPE}</svg>".encode()


#: What could run, read a file, or reach the network; every one of these is a drawing.
ACTIVE = {
    "script": "<script>window.hit=1;fetch('%s')</script>",
    "script in CDATA": "<script><![CDATA[window.hit=1]]></script>",
    "script by address": '<script href="%s/a.js"/>',
    "load handler": '<g onload="window.hit=1"><rect width="9" height="9"/></g>',
    "begin handler": '<rect width="9" height="9"><animate onbegin="window.hit=1" attributeName="x" to="9" dur="1s"/></rect>',
    "handler in capitals": '<rect width="9" height="9" ONCLICK="window.hit=1" OnMouseOver="window.hit=1"/>',
    "XHTML image": '<img xmlns="http://www.w3.org/1999/xhtml" src="%s/x" onerror="window.hit=1"/>',
    "XHTML in a foreign object": '<foreignObject width="9" height="9"><body xmlns="http://www.w3.org/1999/xhtml"><iframe src="%s"/></body></foreignObject>',
    "XHTML script": '<s xmlns="http://www.w3.org/1999/xhtml"><script>window.hit=1</script></s>',
    "link that runs": '<a href="javascript:window.hit=1"><rect width="9" height="9"/></a>',
    "link with a line in it": '<a xlink:href="java&#10;script:window.hit=1"><rect width="9" height="9"/></a>',
    "link to a page of its own": '<a href="data:text/html,&lt;script&gt;1&lt;/script&gt;"><rect width="9" height="9"/></a>',
    "base": '<g xml:base="%s/"><use href="#a"/><image href="a.png" width="9" height="9"/></g>',
    "quote in an address": '<rect width="9" height="9" style="fill:url(&quot;%s/a&quot;)"/>',
    "escaped address": '<rect width="9" height="9" style="fill:u\\72l(%s/a#b)"/>',
    "image set": '<rect width="9" height="9" style="mask-image:IMAGE-SET(&quot;%s/a&quot; 1x)"/>',
    "unclosed address": '<rect width="9" height="9" style="fill:url(%s/a"/>',
    "import in a style sheet": "<style>@import url(%s/a.css);@import '%s/b.css';</style>",
    "font in a style sheet": "<style>@font-face{font-family:x;src:url(%s/x.woff2)} text{font-family:x}</style><text y='9'>x</text>",
    "style sheet that ends early": "<style>&lt;/style&gt;&lt;script&gt;window.hit=1&lt;/script&gt;</style>",
    "outside picture": '<image href="%s/a.png" width="9" height="9"/>',
    "picture of a file": '<image href="file:///etc/passwd" width="9" height="9"/>',
    "drawing in a picture": '<image href="data:image/svg+xml,%%3Csvg xmlns=%%22http://www.w3.org/2000/svg%%22 onload=%%22window.hit=1%%22/%%3E" width="9" height="9"/>',
    "outside use": '<use href="%s/a.svg#a"/>',
    "outside filter": '<filter id="f"><feImage href="%s/a.png"/></filter><rect width="9" height="9" filter="url(#f)"/>',
    "outside mask and cursor": '<rect width="9" height="9" mask="url(%s#m)" cursor="url(%s/c.cur),auto"/>',
    "set of an address": '<a><set attributeName="href" to="javascript:window.hit=1"/><rect width="9" height="9"/></a>',
    "animation of an address": '<image width="9" height="9"><animate attributeName="href" values="%s/a;%s/b" dur="1s"/></image>',
    "listener": '<ev:listener xmlns:ev="http://www.w3.org/2001/xml-events" event="load" handler="%s"/>',
    "inclusion": '<xi:include xmlns:xi="http://www.w3.org/2001/XInclude" href="file:///etc/passwd" parse="text"/>',
    "title with marks": "<g><title>&lt;img src=x onerror=window.hit=1&gt;</title><rect width='9' height='9'/></g>",
    "id with marks": '<g id="&quot;&gt;&lt;script&gt;window.hit=1&lt;/script&gt;"><rect width="9" height="9"/></g>',
}

#: Drawings that are wrong, endless or out of all measure.
STRANGE = {
    "entity that reads a file": ("&x;", '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'),
    "entity from outside": ("&x;", f'<!DOCTYPE svg [<!ENTITY % p SYSTEM "{OUT}/a.dtd">%p;]>'),
    "style sheet instruction": ("", f'<?xml-stylesheet href="{OUT}/a.css"?>'),
    "numbers beyond all": ('<path d="M1e300 1e300L1e308 0L0 1e308Z" stroke-width="1e300" stroke="red"/>', ""),
    "no numbers": ('<path d="MNaN 1Linf -inf"/><rect width="nan" height="9"/><circle r="1e999"/>', ""),
    "scale beyond all": ('<g transform="scale(1e200)"><g transform="scale(1e200)"><path d="M0 0h1v1z"/></g></g>', ""),
    "scale to nothing": ('<g transform="scale(1e-300) rotate(nan) matrix(0 0 0 0 0 0)"><path d="M0 0h1v1z"/></g>', ""),
    "a circle of uses": ('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>', ""),
    "a pattern in itself": ('<pattern id="p"><rect width="9" height="9" fill="url(#p)"/></pattern><rect fill="url(#p)" width="9" height="9"/>', ""),
    "a clip in itself": ('<clipPath id="c" clip-path="url(#c)"><path d="M0 0h9v9z"/></clipPath><path clip-path="url(#c)" d="M0 0h9v9z"/>', ""),
    "dashes of nothing": ('<path d="M0 0h90" stroke="red" stroke-dasharray="0 0 1e-9" stroke-width="9"/>', ""),
    "a stroke of 1e9": ('<path d="M0 0L9 9L0 1" stroke="red" stroke-width="1e9" stroke-miterlimit="1e9"/>', ""),
    "no page": ("", ""),
    "a filter of all sizes": ('<filter id="f" x="-1e9" width="2e9"><feGaussianBlur stdDeviation="1e9"/></filter><rect width="9" height="9" filter="url(#f)"/>', ""),
}  # fmt: skip


def scribble(count: int, seed: int = 3) -> str:
    draw = random.Random(seed)
    points = " ".join(f"{draw.uniform(0, 100):.2f} {draw.uniform(0, 100):.2f}" for _ in range(count))
    return f'<polyline points="{points}" fill="none" stroke="#000" stroke-width="2"/>'


def circles(count: int) -> str:
    draw = random.Random(4)
    return "".join(
        f'<circle cx="{draw.uniform(0, 99):.1f}" cy="{draw.uniform(0, 99):.1f}" r="2"/>' for _ in range(count)
    )


def subpaths(count: int) -> str:
    draw = random.Random(5)
    return f'<path d="{"".join(f"M{draw.uniform(0, 99):.1f} {draw.uniform(0, 99):.1f}h3v3z" for _ in range(count))}"/>'


def wild_path(size: int) -> str:
    draw = random.Random(6)
    steps, length = [], 0
    while length < size:
        steps.append(f"C{' '.join(f'{draw.uniform(0, 100):.2f}' for _ in range(6))}")
        length += len(steps[-1])
    return f'<path d="M0 0{"".join(steps)}" stroke="#000"/>'


def clips(count: int) -> str:
    made = "".join(
        f'<clipPath id="c{n}" clip-path="url(#c{n - 1})"><circle r="{n}"/></clipPath>' for n in range(1, count)
    )
    return f'<clipPath id="c0"><circle r="50"/></clipPath>{made}<rect width="90" height="90" clip-path="url(#c{count - 1})"/>'


def multiplied() -> str:
    levels = "".join(f'<g id="l{n + 1}">{f"<use href=@#l{n}@/>" * 10}</g>' for n in range(9)).replace("@", '"')
    return f'<defs><rect id="l0" width="9" height="9"/>{levels}</defs><use href="#l9"/>'


def chained(count: int) -> str:
    links = "".join(f'<linearGradient id="g{n}" href="#g{n + 1}"/>' for n in range(count))
    return f'{links}<rect width="9" height="9" fill="url(#g0)"/>'


#: Drawings that are large; those marked are too large to be looked at in every run of the tests.
LARGE: dict[str, tuple[Callable[[], str], bool]] = {
    "scribble of 2,000 points": (lambda: scribble(2_000), False),
    "scribble of 100,000 points": (lambda: scribble(100_000), True),
    "5,000 circles": (lambda: f"<g>{circles(5_000)}</g>", False),
    "5,000 subpaths": (lambda: subpaths(5_000), True),
    "wild path of 0.8 MB": (lambda: wild_path(800_000), True),
    "wild path of 8 MB": (lambda: wild_path(8_000_000), True),
    "1,000 layers": (lambda: "".join(f'<g id="layer{n}"><path d="M{n % 90} 0h5v5z"/></g>' for n in range(999)), True),
    "5,000 layers": (lambda: "<g><path d='M0 0h5v5z'/></g>" * 5_000, False),
    "49,000 elements": (lambda: f"<g>{'<path d=@M0 0h5v5z@/>'.replace('@', chr(34)) * 49_000}</g>", True),
    "60,000 elements": (lambda: "<g/>" * 60_000, False),
    "100,000 attributes": (lambda: f"<g {' '.join(f'data-{n}=@{n}@' for n in range(100_000))}/>".replace("@", '"'), False),
    "5,000 nested groups": (lambda: "<g>" * 5_000 + "</g>" * 5_000, False),
    "250 nested groups": (lambda: "<g transform='rotate(3)'>" * 250 + SHAPE + "</g>" * 250, False),
    "80 clips on each other": (lambda: clips(80), False),
    "2,000 clips": (lambda: "".join(f'<clipPath id="k{n}"><circle r="{n}"/></clipPath><rect width="9" height="9" clip-path="url(#k{n})"/>' for n in range(900)), True),
    "10,000 style rules": (lambda: f"<style>{''.join(f'.c{n} g > rect:nth-child({n}){{fill:red}}' for n in range(10_000))}</style>", True),
    "1,000 rules for 1,000 elements": (lambda: f"<style>{'rect{fill:red}' * 1_000}</style><g>{SHAPE * 1_000}</g>", True),
    "uses that multiply": (multiplied, False),
    "400 chained references": (lambda: chained(400), False),
    "broken path of 180 kB": (lambda: f'<path d="{"M0 0L1 " * 25_000}"/>', False),
    "text of a million letters": (lambda: f"<text y='9'>{'w' * 1_000_000}</text>", False),
    "id of a million letters": (lambda: f'<g id="{"i" * 1_000_000}">{SHAPE}</g>', False),
}  # fmt: skip


def png(size: tuple[int, int], mode: str = "RGBA", seed: int = 1) -> bytes:
    draw = np.random.default_rng(seed)
    bands = {"RGBA": 4, "LA": 2, "RGB": 3, "L": 1}[mode]
    pixels = draw.integers(0, 256, (size[1], size[0], bands), dtype=np.uint8)
    return saved(Image.fromarray(pixels if bands > 1 else pixels[..., 0], mode), "PNG")


def saved(image: Image.Image, kind: str, **more: object) -> bytes:
    stream = io.BytesIO()
    image.save(stream, kind, **more)
    return stream.getvalue()


def chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png_claiming(width: int, height: int, data: bytes = b"") -> bytes:
    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(data)) + chunk(b"IEND", b"")


def brush(size: int) -> bytes:
    """A soft stroke with grain."""
    draw = np.random.default_rng(2)
    y, x = np.mgrid[-1 : 1 : size * 1j, -1 : 1 : size * 1j]
    soft = np.clip(1.2 - np.hypot(x, 3 * y), 0, 1) * draw.uniform(0, 1, (size, size))
    pixels = np.zeros((size, size, 4), dtype=np.uint8)
    pixels[..., 3] = (255 * soft).astype(np.uint8)
    return saved(Image.fromarray(pixels, "RGBA"), "PNG")


def film(width: int, height: int, count: int) -> bytes:
    frames = [Image.new("RGB", (width, height), (n % 256, 0, 0)) for n in range(count)]
    return saved(frames[0], "WEBP", save_all=True, append_images=frames[1:], duration=40, lossless=True, method=0)


BITMAPS: dict[str, tuple[Callable[[], bytes], bool]] = {
    "nothing": (lambda: b"", False),
    "zeros": (lambda: bytes(1_000_000), False),
    "noise": (lambda: random.Random(8).randbytes(500_000), False),
    "noise after a PNG head": (lambda: b"\x89PNG\r\n\x1a\n" + random.Random(9).randbytes(300_000), False),
    "noise after a JPEG head": (lambda: b"\xff\xd8\xff\xe0" + random.Random(9).randbytes(300_000), False),
    "noise after a WebP head": (lambda: b"RIFF\xff\xff\xff\x7fWEBPVP8L" + random.Random(9).randbytes(9_000), False),
    "cut PNG": (lambda: png((400, 300))[:-3_000], False),
    "PNG that claims 60,000 x 60,000": (lambda: png_claiming(60_000, 60_000), False),
    "PNG that claims no width": (lambda: png_claiming(0, 9), False),
    "PNG of 36 million clear pixels": (lambda: png_claiming(6_000, 6_000, bytes(6_000 * (6_000 * 4 + 1))), True),
    "PNG with 50,000 texts": (lambda: png((9, 9))[:33] + chunk(b"tEXt", b"k\0v") * 50_000 + png((9, 9))[33:], False),
    "PNG with a text that unpacks to 200 MB": (
        lambda: png((9, 9))[:33] + chunk(b"zTXt", b"k\0\0" + zlib.compress(bytes(200_000_000))) + png((9, 9))[33:], True),
    "grainy brush of 512": (lambda: brush(512), False),
    "grainy brush of 2,048": (lambda: brush(2_048), True),
    "grain all over": (lambda: png((700, 700)), True),
    "one row of 30,000": (lambda: png((30_000, 1), "LA"), False),
    "WebP film of 64 million pixels": (lambda: film(1_600, 1_000, 40), True),
    "GIF that is called PNG": (lambda: saved(Image.new("P", (9, 9)), "GIF"), False),
    "TIFF": (lambda: saved(Image.new("RGB", (9, 9)), "TIFF"), False),
    "JPEG in four colours": (lambda: saved(Image.new("CMYK", (90, 90), (9, 9, 9, 9)), "JPEG"), False),
}  # fmt: skip


def font_without_names() -> bytes:
    font = TTFont(io.BytesIO(block_font()))
    font["name"].names = []
    stream = io.BytesIO()
    font.save(stream)
    return stream.getvalue()


def woff2_claiming(size: int) -> bytes:
    """A WOFF2 head that claims a table of many bytes, and a stream of Brotli's that is none."""
    head = struct.pack(">4sIIHHIIHHIIIII", b"wOF2", 0x00010000, 2_000, 1, 0, size, 1_900, 1, 0, 0, 0, 0, 0, 0)
    return head + b"\x0a\xff\xff\xff\xff\x7f" + bytes(1_900)


FONTS: dict[str, Callable[[], bytes]] = {
    "font of noise": lambda: b"\x00\x01\x00\x00" + random.Random(3).randbytes(90_000),
    "cut font": lambda: block_font()[:300],
    "font without names": font_without_names,
    "web font that claims 4 GB": lambda: woff2_claiming(0xFFFFFFF0),
    "font of zeros": lambda: b"OTTO" + bytes(200_000),
}


def packed(files: dict[str, bytes | str], **more: int) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, **more) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return stream.getvalue()


def scene_zip(**changes: object) -> bytes:
    """A scene with active art, by the hash that its art has."""
    art = f'<svg {HEAD} onload="window.hit=1"><script>window.hit=1</script><image href="{OUT}/a.png"/>{SHAPE}</svg>'
    name = hashlib.sha256(art.encode()).hexdigest()
    drawing = {"id": "d", "name": "d", "art": name, "box": [0, 0, 9, 9], "bounds": [0, 0, 9, 9]}
    scene = {"id": "s", "name": "Zip", "parts": [{"id": "p", "name": "P", "drawings": [drawing]}], **changes}
    document = {"format": FORMAT, "version": NEWEST, "scene": scene, "art": {name: "art/a.svg"}}
    return packed({"scene.json": json.dumps(document), "art/a.svg": art})


ZIPS: dict[str, tuple[Callable[[], bytes], bool]] = {
    "zip of lists in lists": (lambda: packed({"scene.json": "[" * 100_000 + "]" * 100_000}), False),
    "zip of a long list": (lambda: packed({"scene.json": "[" + "[]," * 3_000_000 + "[]]"}), True),
    "zip that unpacks to 400 MB": (lambda: packed({"scene.json": bytes(400_000_000)}), True),
    "zip of 60,000 files": (lambda: packed({f"art/{n}": b"" for n in range(60_000)}), True),
    "zip that leads out": (lambda: packed({"../../../tmp/out.json": "{}", "/etc/out": "x", "scene.json": "{}"}), False),
    "zip with active art": (scene_zip, False),
    "zip of a scene without end": (lambda: scene_zip(length=10**9), False),
    "zip of numbers that are none": (lambda: packed({"scene.json": '{"scene": {"width": NaN, "height": 1e999}}'}), False),
    "zip of a broken scene": (lambda: scene_zip(parts=[{"id": "\ud800"}]), False),
    "cut zip": (lambda: scene_zip()[:-30], False),
    "zip with noise in it": (lambda: scene_zip()[:60] + bytes(200) + scene_zip()[60:], False),
}  # fmt: skip


def drawing_of(name: str) -> bytes:
    body, before = STRANGE[name]
    data = svg(body, before)
    return data.replace(b'width="100" height="100"', b'viewBox="0 0 0 -1"', 1) if name == "no page" else data


def artwork() -> list[Hostile]:
    """Drawings and pictures."""
    return [
        *(
            Hostile(name, lambda body=body: svg(body.replace("%s", OUT).replace("%%", "%")))
            for name, body in ACTIVE.items()
        ),
        *(Hostile(name, lambda name=name: drawing_of(name)) for name in STRANGE),
        *(Hostile(name, lambda make=make: svg(make()), is_heavy) for name, (make, is_heavy) in LARGE.items()),
        *(Hostile(name, make, is_heavy) for name, (make, is_heavy) in BITMAPS.items()),
    ]


def zips() -> list[Hostile]:
    """Scene zips."""
    return [Hostile(name, make, is_heavy) for name, (make, is_heavy) in ZIPS.items()]


def nested_compositions() -> bytes:
    """Compositions that show the next one nine times each."""
    turning = {"p": {"a": 0, "k": [0, 0]}, "r": {"a": 1, "k": [{"t": 0, "s": [0]}, {"t": 9, "s": [9]}]}}
    assets = [
        {"id": f"c{n}", "layers": [{"ty": 0, "refId": f"c{n + 1}", "ks": turning, "ip": 0, "op": 9}] * 9}
        for n in range(12)
    ]
    return json.dumps({"w": 9, "h": 9, "op": 9, "layers": assets[0]["layers"], "assets": assets}).encode()


def far_keys() -> bytes:
    """A curved way from key to key that lie a million frames apart."""
    ways = [{"t": 0, "s": [0, 0], "to": [9, 0], "ti": [0, 9]}, {"t": 1e6, "s": [9, 9]}]
    layer = {"ty": 3, "ks": {"p": {"a": 1, "k": ways}}, "ip": 0, "op": 9}
    return json.dumps({"w": 9, "h": 9, "op": 1e9, "layers": [layer] * 50}).encode()


#: Vector animation by what is wrong with it, and whether it takes long.
ANIMATIONS: dict[str, tuple[Callable[[], bytes], bool]] = {
    "no layers": (lambda: b'{"w": 9, "h": 9}', False),
    "deep": (lambda: b'{"layers": ' + b"[" * 100_000 + b"]" * 100_000 + b"}", False),
    "compositions that multiply": (nested_compositions, False),
    "keys far apart": (far_keys, False),
    "many values": (lambda: b'{"layers": [' + b"0," * 3_000_000 + b"0]}", False),
    "many layers": (lambda: json.dumps({"w": 9, "h": 9, "op": 9, "layers": [{"ty": 3, "ks": {}}] * 5_000}).encode(), False),
}  # fmt: skip


def animations() -> list[Hostile]:
    """Vector animation."""
    return [Hostile(name, make, is_heavy) for name, (make, is_heavy) in ANIMATIONS.items()]


def fonts() -> list[Hostile]:
    """Fonts."""
    return [Hostile(name, make) for name, make in FONTS.items()]
