"""A scene as table rows and back, and the difference between two scenes as changed rows."""

from __future__ import annotations

from typing import Any

from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import Mark, Part, Scene
from jointed_crane.formats.document import adapter, part_document, part_from

#: A row's table and its key within the scene, for example ("channels", "part", "turn.z").
RowKey = tuple[str, ...]
Row = dict[str, Any]
#: One changed row in the journal: its key, and its values or None where it is not there.
RowChange = tuple[RowKey, Row | None]

#: Kept together in one JSON column of a part's row; a row from an older version lacks the later ones.
_PLACEMENT = (
    "pivot", "orientation", "turn_order", "spin_centre", "inherits", "size", "form", "limits", "fixed", "shares", "tag",
    "silenced", "lever",
)  # fmt: skip
_OWN = ("name", "kind", "parent", "seat", "rest", "hidden", "locked")
_GEOMETRY = ("box", "bounds", "registration", "outline", "shape", "source")

#: What a scene holds beside its parts: the field of the scene, which is the table too, and the kind of value.
BESIDE_PARTS: dict[str, type] = {"marks": Mark, "markers": Marker, "poses": KeptPose}


def scene_row(scene: Scene) -> Row:
    """The scene's own values."""
    return {
        "name": scene.name,
        "width": scene.width,
        "height": scene.height,
        "ground": scene.ground,
        "fps": list(scene.fps),
        "length": scene.length,
        "isolated": list(scene.isolated),
    }


def part_rows(part: Part, position: int) -> dict[RowKey, Row]:
    """All rows of one part."""
    document = part_document(part)
    rows: dict[RowKey, Row] = {
        ("parts", part.id): {
            "position": position,
            **{name: document[name] for name in _OWN},
            "placement": {name: document[name] for name in _PLACEMENT},
        }
    }
    for place, drawing in enumerate(document["drawings"]):
        rows["drawings", part.id, drawing["id"]] = {
            "position": place,
            "name": drawing["name"],
            "art": drawing["art"],
            "geometry": {name: drawing[name] for name in _GEOMETRY},
        }
    for name, channel in document["channels"].items():
        outside = {key: value for key, value in channel.items() if key != "keys"}
        rows["channels", part.id, name] = {"keys": channel["keys"], "outside": outside}
    for place, eyelet in enumerate(document["eyelets"]):
        rows["eyelets", part.id, eyelet["id"]] = {"position": place, "name": eyelet["name"], "point": eyelet["point"]}
    for place, constraint in enumerate(document["constraints"]):
        rule = {name: value for name, value in constraint.items() if name not in ("id", "kind", "name")}
        own = {"position": place, "kind": constraint["kind"], "name": constraint["name"], "rule": rule}
        rows["constraints", part.id, constraint["id"]] = own
    for place, link in enumerate(document["links"]):
        own = {name: value for name, value in link.items() if name != "id"}
        rows["links", part.id, link["id"]] = {"position": place, "link": own}
    for foothold in document["footholds"]:
        rows["footholds", part.id, repr(foothold["frame"])] = {"point": foothold["point"]}
    return rows


def rows_beside_parts(scene: Scene) -> dict[RowKey, Row]:
    """The rows of what a scene holds beside its parts, in order: marks, markers, poses."""
    rows: dict[RowKey, Row] = {}
    for table, kind in BESIDE_PARTS.items():
        for place, thing in enumerate(getattr(scene, table)):
            document = adapter(kind).dump_python(thing, mode="json")
            rows[table, document.pop("id")] = {"position": place, **document}
    return rows


def scene_rows(scene: Scene) -> dict[RowKey, Row]:
    """All rows of a scene."""
    rows: dict[RowKey, Row] = {("scenes",): scene_row(scene), **rows_beside_parts(scene)}
    for position, part in enumerate(scene.parts):
        rows |= part_rows(part, position)
    return rows


def difference(before: Scene, after: Scene) -> tuple[list[RowChange], list[RowChange]]:
    """The rows that differ between two scenes, as they were and as they are.

    Parts that both scenes share at the same place are known to be equal and are not written out.
    """
    old: dict[RowKey, Row] = {("scenes",): scene_row(before), **rows_beside_parts(before)}
    new: dict[RowKey, Row] = {("scenes",): scene_row(after), **rows_beside_parts(after)}
    shared = {
        part.id
        for position, part in enumerate(after.parts)
        if position < len(before.parts) and before.parts[position] is part
    }
    for scene, rows in ((before, old), (after, new)):
        for position, part in enumerate(scene.parts):
            if part.id not in shared:
                rows |= part_rows(part, position)
    keys = [key for key in {**old, **new} if old.get(key) != new.get(key)]
    return [(key, old.get(key)) for key in keys], [(key, new.get(key)) for key in keys]


def scene_from_rows(
    scene_id: str, rows: dict[RowKey, Row], known: Scene | None = None, changed: set[str] | None = None
) -> Scene:
    """A scene from its rows. Parts of `known` whose ids are not in `changed` are taken over as they are."""
    below: dict[str, dict[str, list[tuple[RowKey, Row]]]] = {}
    parts: list[tuple[str, Row]] = []
    beside: dict[str, list[Row]] = {table: [] for table in BESIDE_PARTS}
    for key, row in rows.items():
        if key[0] == "parts":
            parts.append((key[1], row))
        elif key[0] in beside:
            beside[key[0]].append({**row, "id": key[1]})
        elif key[0] != "scenes":
            below.setdefault(key[1], {}).setdefault(key[0], []).append((key, row))
    made = []
    for part_id, row in sorted(parts, key=lambda found: found[1]["position"]):
        if known is not None and changed is not None and part_id not in changed and part_id in known.index:
            made.append(known.part(part_id))
        else:
            made.append(_part(part_id, row, below.get(part_id, {})))
    own = rows["scenes",]
    return Scene(
        id=scene_id,
        **{name: own[name] for name in ("name", "width", "height", "ground", "length")},
        fps=tuple(own["fps"]),
        isolated=tuple(own["isolated"]),
        parts=tuple(made),
        **{table: _in_order(table, found) for table, found in beside.items()},
    )


def _in_order(table: str, rows: list[Row]) -> Any:
    rows = sorted(rows, key=lambda row: row["position"])
    return tuple(adapter(BESIDE_PARTS[table]).validate_python(_without_position(row)) for row in rows)


def _without_position(row: Row) -> Row:
    return {name: value for name, value in row.items() if name != "position"}


def _part(part_id: str, row: Row, below: dict[str, list[tuple[RowKey, Row]]]) -> Part:
    drawings = sorted(below.get("drawings", []), key=lambda found: found[1]["position"])
    eyelets = sorted(below.get("eyelets", []), key=lambda found: found[1]["position"])
    constraints = sorted(below.get("constraints", []), key=lambda found: found[1]["position"])
    links = sorted(below.get("links", []), key=lambda found: found[1]["position"])
    footholds = sorted(below.get("footholds", []), key=lambda found: float(found[0][2]))
    return part_from(
        {
            "id": part_id,
            **{name: row[name] for name in _OWN},
            **row["placement"],
            "drawings": [{"id": key[2], "name": d["name"], "art": d["art"], **d["geometry"]} for key, d in drawings],
            "channels": {key[2]: {"keys": c["keys"], **c["outside"]} for key, c in below.get("channels", [])},
            "eyelets": [{"id": key[2], "name": e["name"], "point": e["point"]} for key, e in eyelets],
            "constraints": [
                {"id": key[2], "kind": c["kind"], "name": c["name"], **c["rule"]} for key, c in constraints
            ],
            "links": [{"id": key[2], **link["link"]} for key, link in links],
            "footholds": [{"frame": float(key[2]), "point": f["point"]} for key, f in footholds],
        }
    )
