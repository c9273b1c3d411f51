"""The page on which a scene is sent out: the ways as tags, what may be chosen of each, and what was sent."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint, render_template

from jointed_crane.core.model.scene import Scene
from jointed_crane.sending.choices.base import WayChoices
from jointed_crane.sending.presets import SHIPPED, Preset
from jointed_crane.sending.variants import columns_of, fillable, slots_of
from jointed_crane.sending.ways import WAYS, WayOut
from jointed_crane.web.api.sendings import own_presets, row_of
from jointed_crane.web.library import library
from jointed_crane.web.static_files import room_address

pages = Blueprint(
    "send_out", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("send-out")
)


@pages.get("/scenes/<scene_id>/send")
def show(scene_id: str) -> str:
    """The page of one scene."""
    entry = library().scenes.load(scene_id)
    return render_template(
        "send_out/send_out.html",
        scene=entry.scene,
        known={
            "stage": [entry.scene.width, entry.scene.height],
            "length": entry.scene.length,
            "rate": float(entry.scene.rate),
            "parts": [part.name for part in entry.scene.parts if part.is_sent],
            "pivots": [*(mark.name for mark in entry.scene.marks), *(part.name for part in entry.scene.parts)],
            "spans": _spans(entry.scene),
            "slots": _slots(entry.scene),
            "fillable": fillable(entry.scene),
            "ways": {name: _way(way) for name, way in WAYS.items()},
            "tags": [asdict(one) for one in (*SHIPPED, *(Preset(way.words, name) for name, way in WAYS.items()))],
            "own": [asdict(preset) for preset in own_presets()],
            "sendings": [row_of(one) for one in library().sendings.of_scene(scene_id)],
        },
    )


def _slots(scene: Scene) -> list[dict[str, Any]]:
    """The slots of a scene by their names, with the words to choose from where only those can be."""
    result = []
    for name in columns_of(scene):
        slots = slots_of(scene, name)
        drawings = [[drawing.name for drawing in scene.part(slot.part).drawings] for slot in slots]
        is_choice = all(slot.what == "drawing" for slot in slots)
        result.append({"name": name, "options": drawings[0] if is_choice else []})
    return result


def _way(way: WayOut) -> dict[str, Any]:
    return {"words": way.words, "use": way.use, "fields": fields_of(way.choices)}


def _spans(scene: Scene) -> list[dict[str, Any]]:
    spans = [(marker.name, marker.frame, marker.until) for marker in scene.markers if marker.until is not None]
    return [{"name": name, "first": round(first), "last": round(last)} for name, first, last in spans]


def fields_of(choices: type[WayChoices]) -> list[dict[str, Any]]:
    """What a page has to know of each choice to ask for it: its name, the name in a query, its kind, its words, what it
    is unless told, and the words to choose from.
    """
    properties = choices.model_json_schema(by_alias=False).get("properties", {})
    result = []
    for name, field in choices.model_fields.items():
        schema = properties[name]
        kinds = [schema, *schema.get("anyOf", ())]
        result.append(
            {
                "name": name,
                "query": field.alias or name,
                "kind": next(kind["type"] for kind in kinds if kind.get("type") not in (None, "null")),
                "words": schema.get("description", name),
                "default": schema.get("default"),
                "options": schema.get("enum", []),
            }
        )
    return result
