"""The bench's page; everything on it comes from the API."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import get_args

from flask import Blueprint, render_template

from jointed_crane.core.constraints.every import KINDS
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.measures.snapping import GRID, SnapKind
from jointed_crane.core.model.channels import FAMILIES, NODE_SIDES, NUMBER_KINDS, channel_kind
from jointed_crane.core.model.scene import Tag, TurnOrder
from jointed_crane.core.shapes.reshaping import FORM_NUMBERS
from jointed_crane.sending.ways import WAYS
from jointed_crane.web.api.keys import changed_keys
from jointed_crane.web.library import library
from jointed_crane.web.static_files import room_address

#: What the switches of snapping say, by kind.
SNAP_WORDS: dict[SnapKind, str] = {
    "nine points": "Nine points of the box",
    "vertices": "Outline vertices",
    "edges": "Along an edge",
    "circles": "Centres of circles",
    "pivots": "Pivots of other parts",
    "centres": "Centres of other parts",
    "eyelets": "Eyelets",
    "marks": "Marks",
    "grid": "Grid",
    "pixels": "Whole pixels",
}

_STATIC = Path(__file__).with_name("static")
#: Scripts of the page, told to the browser at once: it would else ask for each when it has read the one that uses it.
SCRIPTS = sorted(str(path.relative_to(_STATIC)) for path in _STATIC.rglob("*.js"))

pages = Blueprint(
    "bench", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("bench")
)


@pages.get("/scenes/<scene_id>")
def show(scene_id: str) -> str:
    """The bench for one scene."""
    entry = library().scenes.load(scene_id)
    return render_template(
        "bench/bench.html",
        scene=entry.scene,
        ways=[way for way in WAYS.values() if way.is_quick],
        known={
            "channels": {name: asdict(kind) for family in FAMILIES.values() for name, kind in family.kinds.items()},
            "numbers": {name: asdict(kind) for name, kind in NUMBER_KINDS.items()},
            "nodes": {"kind": asdict(channel_kind("node.0.x")), "sides": NODE_SIDES},
            "constraints": {kind: one.described() for kind, one in KINDS.items()},
            "formNumbers": {form: list(numbers) for form, numbers in FORM_NUMBERS.items()},
            "keys": changed_keys(),
            "square": GRID,
            "valueEdits": [kind for kind, edit in EDITS.items() if issubclass(edit, ValueEdit)],
        },
        families=FAMILIES,
        constraint_kinds=KINDS,
        snap_kinds=SNAP_WORDS.items(),
        tags=[t for t in get_args(Tag) if t],
        turn_orders=get_args(TurnOrder),
        scripts=SCRIPTS,
    )
