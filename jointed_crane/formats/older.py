"""Scenes from older versions of the zip, as the newest one writes them."""

from __future__ import annotations

from collections import Counter
from typing import Any

#: The version of the document in a zip that is written; older ones are read.
NEWEST = 2


def brought_up_to_date(document: Any, version: int) -> Any:
    """A scene's document of an older version in the form of the newest; what is not a scene comes back as it is."""
    if version >= NEWEST or not isinstance(document, dict) or not isinstance(document.get("parts"), list):
        return document
    parts = [part for part in document["parts"] if isinstance(part, dict)]
    for part in parts:
        _say_onwards(part)
        if "held" in part:
            part["fixed"] = part.pop("held")
    _make_drawing_ids_unique(parts)
    return document


def _say_onwards(part: dict[str, Any]) -> None:
    """Version 1 said "repeat with offset"."""
    channels = part.get("channels")
    for channel in channels.values() if isinstance(channels, dict) else ():
        for end in ("before", "after"):
            if isinstance(channel, dict) and channel.get(end) == "repeat with offset":
                channel[end] = "repeat onwards"


def _say_cross(drawings: list[Any]) -> None:
    """Version 1 called a register cross a mark."""
    for drawing in drawings:
        source = drawing.get("source") if isinstance(drawing, dict) else None
        if isinstance(source, dict) and "mark" in source:
            source["cross"] = source.pop("mark")


def _make_drawing_ids_unique(parts: list[dict[str, Any]]) -> None:
    """Version 1 let the drawings of two parts have the same id."""
    held = []
    for part in parts:
        drawings = part.get("drawings")
        if isinstance(drawings, list):
            owner = part.get("shares") or part.get("id")
            _say_cross(drawings)
            held += [(owner, drawing) for drawing in drawings if isinstance(drawing, dict)]
    owners = {(str(owner), str(drawing.get("id"))) for owner, drawing in held}
    counts = Counter(drawing_id for _, drawing_id in owners)
    for owner, drawing in held:
        if counts[str(drawing.get("id"))] > 1:
            drawing["id"] = f"{owner}-{drawing.get('id')}"
