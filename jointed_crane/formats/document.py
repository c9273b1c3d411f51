"""A scene as a JSON document and back: the one form of the API, the zip and the command line.

Fields are those of `core.scene`, by the same names; docs/format.md describes them.
"""

from __future__ import annotations

import dataclasses
import json
import math
from typing import Any

from pydantic import TypeAdapter, ValidationError

from jointed_crane.core.edits import EDITS, Edit
from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Drawing, Part, Scene
from jointed_crane.core.soundness import ensure_sound

_SCENE: TypeAdapter[Scene] = TypeAdapter(Scene)
_PART: TypeAdapter[Part] = TypeAdapter(Part)
_DRAWING: TypeAdapter[Drawing] = TypeAdapter(Drawing)
_EDITS = {kind: TypeAdapter(edit) for kind, edit in EDITS.items()}


def scene_document(scene: Scene) -> dict[str, Any]:
    """A scene as JSON values."""
    return _SCENE.dump_python(scene, mode="json")


def drawing_document(drawing: Drawing) -> dict[str, Any]:
    """A drawing as JSON values."""
    return _DRAWING.dump_python(drawing, mode="json")


def part_document(part: Part) -> dict[str, Any]:
    """A part as JSON values."""
    return _PART.dump_python(part, mode="json")


def part_document_beside(part: Part, known: Part | None) -> dict[str, Any]:
    """A part as JSON values, without its drawings where `known` shows the same ones."""
    same = known is not None and known.drawings is part.drawings
    return _PART.dump_python(part, mode="json", exclude={"drawings"} if same else None)


def part_from(document: Any) -> Part:
    """The inverse of `part_document`, for documents of our own making."""
    return _PART.validate_python(document)


def scene_from(document: Any) -> Scene:
    """The inverse of `scene_document` for documents from anywhere; RuleError with a sentence where it is unsound."""
    refuse_not_finite(document)
    try:
        scene = _SCENE.validate_python(document)
    except ValidationError as error:
        raise RuleError(f"The scene cannot be read: {_sentence(error)}. Nothing was opened.") from None
    return ensure_sound(scene)


def edit_from(document: Any) -> Edit:
    """An edit from {"edit": kind, ...fields}; RuleError with a sentence where it is none."""
    if not isinstance(document, dict) or document.get("edit") not in EDITS:
        kind = document.get("edit") if isinstance(document, dict) else document
        raise RuleError(f"There is no edit called {str(kind)[:40]!r}. Nothing was changed.")
    fields = {name: value for name, value in document.items() if name != "edit"}
    refuse_not_finite(fields)
    known = {field.name for field in dataclasses.fields(EDITS[document["edit"]])}
    unknown = [name for name in fields if name not in known]
    if unknown:
        raise RuleError(f"{document['edit']} has no field {unknown[0][:40]!r}. Nothing was changed.")
    try:
        return _EDITS[document["edit"]].validate_python(fields)
    except ValidationError as error:
        raise RuleError(f"{document['edit']} cannot be read: {_sentence(error)}. Nothing was changed.") from None


def edit_document(edit: Edit) -> dict[str, Any]:
    """The inverse of `edit_from`."""
    return {"edit": edit.kind, **_EDITS[edit.kind].dump_python(edit, mode="json")}


def parsed_json(text: bytes | str) -> Any:
    """JSON by the standard (RFC 8259: no NaN, no Infinity); RuleError where it is none."""
    try:
        return json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, RecursionError):
        raise RuleError("That is not JSON that can be read. Nothing was changed.") from None


def refuse_not_finite(value: Any) -> None:
    """RuleError where a number anywhere in JSON values is not finite (1e999 reads as infinity)."""
    if isinstance(value, float) and not math.isfinite(value):
        raise RuleError("A number is not finite. Nothing was changed.")
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, list):
        for item in value:
            refuse_not_finite(item)


def _refuse_constant(name: str) -> float:
    raise ValueError(name)


def _sentence(error: ValidationError) -> str:
    first = error.errors(include_url=False, include_context=False)[0]
    where = ".".join(str(step) for step in first["loc"][:4])
    return f"{where or 'value'}: {first['msg'].lower()}"
