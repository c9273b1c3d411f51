"""A scene as table rows and back, and what differs between two scenes as changed rows."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any, cast

from jointed_crane.core.model.cameras import CameraCut
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import Mark, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.formats.document import adapter, part_document, part_from

#: A row's table and its key within the scene, for example ("channels", "part", "turn.z").
RowKey = tuple[str, ...]
Row = dict[str, Any]
#: One changed row in the journal: its key, and its values or None where it is not there.
RowChange = tuple[RowKey, Row | None]

#: The scene's own row, and the painting order in one row too: a part that comes to the front writes nothing else.
OWN: RowKey = ("scenes",)
PAINTING: RowKey = ("painting",)
#: Kept together in one JSON column of a part's row; a row from an older version lacks the later ones.
_PLACEMENT = (
    "pivot", "orientation", "turn_order", "spin_centre", "inherits", "size", "form", "limits", "fixed", "shares", "tag",
    "silenced", "lever", "level", "slots", "painted_by", "camera",
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
        "depth": scene.depth,
        "cuts": [[cut.frame, cut.camera] for cut in scene.cuts],
    }


def painting_row(scene: Scene) -> Row:
    """The painting order, ids from back to front."""
    return {"painting": list(scene.index)}


def part_rows(part: Part) -> dict[RowKey, Row]:
    """All rows of one part."""
    document = part_document(part)
    rows: dict[RowKey, Row] = {
        ("parts", part.id): {
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
        own = {name: value for name, value in constraint.items() if name not in ("id", "kind", "name")}
        kind, name = constraint["kind"], constraint["name"]
        rows["constraints", part.id, constraint["id"]] = {"position": place, "kind": kind, "name": name, "rule": own}
    for place, link in enumerate(document["links"]):
        own = {name: value for name, value in link.items() if name != "id"}
        rows["links", part.id, link["id"]] = {"position": place, "link": own}
    for foothold in document["footholds"]:
        rows["footholds", part.id, repr(foothold["frame"])] = {"point": foothold["point"]}
    return rows


def rows_beside_parts(scene: Scene, tables: Iterable[str] = tuple(BESIDE_PARTS)) -> dict[RowKey, Row]:
    """The rows of what a scene holds beside its parts, in order: marks, markers, poses, or some of them."""
    rows: dict[RowKey, Row] = {}
    for table in tables:
        kind = BESIDE_PARTS[table]
        for place, thing in enumerate(getattr(scene, table)):
            document = adapter(kind).dump_python(thing, mode="json")
            rows[table, document.pop("id")] = {"position": place, **document}
    return rows


def scene_rows(scene: Scene) -> dict[RowKey, Row]:
    """All rows of a scene."""
    rows: dict[RowKey, Row] = {OWN: scene_row(scene), PAINTING: painting_row(scene), **rows_beside_parts(scene)}
    for part in scene.parts:
        rows |= part_rows(part)
    return rows


def changed_rows(change: SceneChange) -> tuple[list[RowChange], list[RowChange]]:
    """The rows that differ, as they were and as they are."""
    before, after = change.before, change.after
    assert before is not None
    tables = [name for name in change.beside if name in BESIDE_PARTS]
    old, new = rows_beside_parts(before, tables), rows_beside_parts(after, tables)
    if any(name not in BESIDE_PARTS for name in change.beside):
        old[OWN], new[OWN] = scene_row(before), scene_row(after)
    if change.is_ordered_anew:
        old[PAINTING], new[PAINTING] = painting_row(before), painting_row(after)
    for part, known in change.parts:
        new |= part_rows(part)
        old |= part_rows(known) if known is not None else {}
    for part_id in change.removed:
        old |= part_rows(before.part(part_id))
    keys = [key for key in {**old, **new} if old.get(key) != new.get(key)]
    return [(key, old.get(key)) for key in keys], [(key, new.get(key)) for key in keys]


def scene_from_rows(scene_id: str, rows: Mapping[RowKey, Row]) -> Scene:
    """A scene from all its rows."""
    beside: dict[str, dict[RowKey, Row]] = {table: {} for table in BESIDE_PARTS}
    of_parts: dict[str, dict[RowKey, Row]] = {}
    for key, row in rows.items():
        if key[0] in beside:
            beside[key[0]][key] = row
        elif key not in (OWN, PAINTING):
            of_parts.setdefault(key[1], {})[key] = row
    parts = tuple(_part(part_id, of_parts[part_id]) for part_id in rows[PAINTING]["painting"])
    result = {table: _in_order(table, its_rows) for table, its_rows in beside.items()}
    return Scene(id=scene_id, parts=parts, **_own_fields(rows[OWN]), **result)


def with_rows(scene: Scene, changes: Iterable[RowChange]) -> Scene:
    """A scene with some rows written over its own; nothing is looked at but what these rows belong to."""
    beside: dict[str, dict[RowKey, Row | None]] = {}
    of_parts: dict[str, dict[RowKey, Row | None]] = {}
    fields: dict[str, Any] = {}
    painting = list(scene.index)
    for key, row in changes:
        if key == OWN:
            fields |= _own_fields(cast(Row, row))
        elif key == PAINTING:
            painting = cast(Row, row)["painting"]
        else:
            (beside.setdefault(key[0], {}) if key[0] in BESIDE_PARTS else of_parts.setdefault(key[1], {}))[key] = row
    for table, rows in beside.items():
        fields[table] = _in_order(table, _written_over(rows_beside_parts(scene, [table]), rows))
    made = {part_id: _with_rows(scene, part_id, rows) for part_id, rows in of_parts.items()}
    parts = tuple(made.get(part_id) or scene.part(part_id) for part_id in painting)
    return replace(scene, parts=parts, **fields)


def _with_rows(scene: Scene, part_id: str, changes: Mapping[RowKey, Row | None]) -> Part | None:
    """A part with some rows written over its own; None where it is gone. Channels that are not written stay as they
    are, with what is computed of them.
    """
    known = scene.part(part_id) if part_id in scene.index else None
    rows = _written_over(part_rows(known) if known is not None else {}, changes)
    if ("parts", part_id) not in rows:
        return None
    part = _part(part_id, rows)
    if known is None:
        return part
    written = {key[2] for key in changes if key[0] == "channels"}
    kept = {name: known.channels[name] for name in part.channels if name not in written}
    return replace(part, channels={**part.channels, **kept})


def _written_over(rows: dict[RowKey, Row], changes: Mapping[RowKey, Row | None]) -> dict[RowKey, Row]:
    result = {**rows, **changes}
    return {key: row for key, row in result.items() if row is not None}


def _own_fields(row: Row) -> dict[str, Any]:
    """The scene's own values of its row."""
    own = {name: row[name] for name in ("name", "width", "height", "ground", "length")}
    # A row of the journal may be older than depth.
    depth, cuts = bool(row.get("depth", False)), tuple(CameraCut(*cut) for cut in row.get("cuts") or ())
    return {**own, "fps": tuple(row["fps"]), "isolated": tuple(row["isolated"]), "depth": depth, "cuts": cuts}


def _in_order(table: str, rows: Mapping[RowKey, Row]) -> Any:
    """The things of a table beside the parts, by their rows."""
    result = []
    for key, row in sorted(rows.items(), key=lambda pair: pair[1]["position"]):
        own = {name: value for name, value in row.items() if name != "position"}
        result.append(adapter(BESIDE_PARTS[table]).validate_python({**own, "id": key[1]}))
    return tuple(result)


def _part(part_id: str, rows: Mapping[RowKey, Row]) -> Part:
    """A part from its rows."""
    row = rows["parts", part_id]
    below: dict[str, list[tuple[RowKey, Row]]] = {}
    for key, other in rows.items():
        below.setdefault(key[0], []).append((key, other))
    drawings = sorted(below.get("drawings", []), key=lambda row: row[1]["position"])
    eyelets = sorted(below.get("eyelets", []), key=lambda row: row[1]["position"])
    constraints = sorted(below.get("constraints", []), key=lambda row: row[1]["position"])
    links = sorted(below.get("links", []), key=lambda row: row[1]["position"])
    footholds = sorted(below.get("footholds", []), key=lambda row: float(row[0][2]))
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
