"""Vector animation as other hands write it: older keys, curved ways, compositions in compositions, masks, mattes."""

from __future__ import annotations

import base64
import io

from PIL import Image


def still(value):
    return {"a": 0, "k": value}


def keys(*rows, ease=((0.42, 0.0), (0.58, 1.0))):
    """Keys of (time, value), eased."""
    (ox, oy), (ix, iy) = ease
    made = [{"t": t, "s": s, "o": {"x": ox, "y": oy}, "i": {"x": ix, "y": iy}} for t, s in rows[:-1]]
    return {"a": 1, "k": [*made, {"t": rows[-1][0], "s": rows[-1][1]}]}


def at(place=(0, 0), turn=0, scale=(100, 100), opacity=100, anchor=(0, 0), **more):
    parts = {"a": [*anchor, 0], "p": [*place, 0], "s": [*scale, 100], "r": turn, "o": opacity}
    return {name: still(value) for name, value in parts.items()} | more


def layer(number, name, kind, ks, **more):
    told = {"ddd": 0, "ind": number, "ty": kind, "nm": name, "sr": 1, "ks": ks, "ip": 0, "op": 48, "st": 0, "bm": 0}
    return told | more


def shapes(number, name, ks, *items, **more):
    return layer(number, name, 4, ks, shapes=[group(*items)], **more)


def fill(colour, opacity=100):
    return {"ty": "fl", "c": still([*colour, 1]), "o": still(opacity), "r": 1}


def group(*items, **ks):
    return {"ty": "gr", "nm": "g", "it": [*items, {"ty": "tr", **at(**ks)}]}


def rect(x, y, width, height, radius=0):
    return {"ty": "rc", "d": 1, "p": still([x, y]), "s": still([width, height]), "r": still(radius)}


def path(*points, closed=True):
    handles = [[0, 0]] * len(points)
    return {"ty": "sh", "ks": still({"c": closed, "v": [list(p) for p in points], "i": handles, "o": handles})}


def picture():
    stream = io.BytesIO()
    Image.new("RGB", (20, 10), (210, 81, 47)).save(stream, "PNG")
    return f"data:image/png;base64,{base64.b64encode(stream.getvalue()).decode()}"


def foreign():
    """A document in which much of what the format has is used."""
    gradient = {"ty": "gf", "o": still(100), "r": 1, "t": 1, "s": still([-30, 0]), "e": still([30, 0])}
    gradient["g"] = {"p": 2, "k": still([0, 0.07, 0.44, 0.43, 1, 0.91, 0.79, 0.51, 0, 1, 1, 0.5])}
    star = {"ty": "sr", "sy": 1, "d": 1, "pt": still(5), "p": still([0, 0]), "r": still(0), "ir": still(14)}
    star |= {"or": still(30), "is": still(0), "os": still(0)}
    stroke = {"ty": "st", "c": still([0.13, 0.19, 0.24]), "o": still(100), "w": still(6), "lc": 2, "lj": 2}
    old = {"a": 1, "k": [
        {"t": 0, "s": [0], "e": [90], "o": {"x": [0.3], "y": [0]}, "i": {"x": [0.7], "y": [1]}},
        {"t": 24, "s": [90], "e": [45], "o": {"x": [0.3], "y": [0.3]}, "i": {"x": [0.7], "y": [0.7]}},
        {"t": 47},
    ]}  # fmt: skip
    way = keys((0, [60, 60, 0]), (47, [260, 160, 0]))
    way["k"][0] |= {"to": [80, 0, 0], "ti": [0, -70, 0]}
    curved = at() | {"p": way}
    mask = {"mode": "a", "inv": False, "o": still(100), "x": still(0)}
    mask["pt"] = still({"c": True, "v": [[0, 0], [40, 0], [40, 40]], "i": [[0, 0]] * 3, "o": [[0, 0]] * 3})
    coral, teal, brass, slate = (0.82, 0.32, 0.18), (0.07, 0.44, 0.43), (0.69, 0.49, 0.17), (0.2, 0.3, 0.4)
    hull = path((-20, -8), (20, -8), (12, 8), (-12, 8))
    swung, dimmed = {"r": keys((0, [0]), (20, [60]))}, {"o": keys((0, [100]), (40, [20]))}
    inner = [
        shapes(1, "Flag", at(place=(30, 30)) | swung, rect(0, 0, 30, 12), fill(coral)),
        shapes(2, "Box", at(place=(30, 40)), rect(0, 0, 40, 20, 4), fill(teal)),
    ]
    quiet = [
        shapes(1, "Hole", at(place=(30, 30)), rect(0, 0, 30, 30), fill((1, 1, 1)), td=1),
        shapes(2, "Seen", at(place=(20, 20)), rect(0, 0, 60, 60), fill(brass), tt=1),
    ]
    arm = (rect(30, 0, 80, 16, 8), fill((0.44, 0.56, 0.55)), stroke)
    cut = {"hasMask": True, "masksProperties": [mask]}
    return {
        "v": "5.9.0", "nm": "From elsewhere", "fr": 29.97, "ip": 0, "op": 48, "w": 320, "h": 240, "ddd": 0,
        "assets": [
            {"id": "inner", "layers": inner},
            {"id": "quiet", "layers": quiet},
            {"id": "picture", "w": 20, "h": 10, "u": "", "p": picture(), "e": 1},
        ],
        "layers": [
            shapes(1, "Arm", at(place=(160, 120), anchor=(10, 0)) | {"r": old}, *arm),
            shapes(2, "Hand", at(place=(75, 0), scale=(80, 120)), star, gradient, parent=1),
            shapes(3, "Boat", curved, hull, fill((0.67, 0.24, 0.12))),
            layer(4, "Cart", 0, at(place=(20, 150)), refId="inner", w=80, h=80, st=8),
            layer(5, "Window", 0, at(place=(240, 20)), refId="quiet", w=80, h=80),
            shapes(6, "Corner", at(place=(10, 10)) | dimmed, rect(20, 20, 40, 40), fill(slate), **cut),
            layer(7, "Print", 2, at(place=(250, 190), turn=-10, scale=(200, 200)), refId="picture"),
            layer(8, "Late", 1, at(place=(0, 200)), sc="#b07d2b", sw=40, sh=20, ip=12, op=30),
            layer(9, "Words", 5, at(), t={}),
            layer(10, "Paper", 1, at(), sc="#f4efe4", sw=320, sh=240),
        ],
    }  # fmt: skip
