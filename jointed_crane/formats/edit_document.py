"""An edit as a JSON document and back."""

from __future__ import annotations

import dataclasses
from typing import Any

from pydantic import ValidationError
from pydantic_core import core_schema

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.formats.document import adapter, fault, strictly


def _schema(cls: type[Edit], source: Any, handler: Any) -> Any:
    """How an edit within an edit is read and written: by its kind."""
    if cls is not Edit:
        return handler(source)
    written = core_schema.plain_serializer_function_ser_schema(edit_document)
    return core_schema.no_info_plain_validator_function(_read, serialization=written)


def _read(document: Any) -> Edit:
    return document if isinstance(document, Edit) else edit_from(document)


def _json_schema(cls: type[Edit], schema: Any, handler: Any) -> Any:
    return {"type": "object", "description": "An edit, by its kind."} if cls is Edit else handler(schema)


# The core knows nothing of who reads its values.
Edit.__get_pydantic_core_schema__ = classmethod(_schema)  # type: ignore[attr-defined]
Edit.__get_pydantic_json_schema__ = classmethod(_json_schema)  # type: ignore[attr-defined]


def edit_from(document: Any) -> Edit:
    """An edit from {"edit": kind, ...fields}; RuleError with a sentence where it is none."""
    kind = document.get("edit") if isinstance(document, dict) else document
    if not isinstance(kind, str) or kind not in EDITS:
        raise RuleError(f"There is no edit called {str(kind)[:40]!r}. Nothing was changed.")
    fields = {name: value for name, value in document.items() if name != "edit"}
    known = {field.name for field in dataclasses.fields(EDITS[kind])}
    unknown = [name for name in fields if name not in known]
    if unknown:
        raise RuleError(f"{kind} has no field {unknown[0][:40]!r}. Nothing was changed.")
    try:
        return strictly(EDITS[kind], fields)
    except ValidationError as error:
        raise RuleError(f"{kind} cannot be read: {fault(error)}. Nothing was changed.") from None


def edit_document(edit: Edit) -> dict[str, Any]:
    """The inverse of `edit_from`."""
    return {"edit": edit.kind, **adapter(type(edit)).dump_python(edit, mode="json")}
