"""The edits and the routes as documents: what the docs page shows and the OpenAPI description publishes."""

from __future__ import annotations

import inspect
import re
from dataclasses import dataclass
from typing import Any

from flask import Flask
from pydantic import TypeAdapter

import jointed_crane
from jointed_crane.core.edits import EDITS

_DEFINITIONS = "#/components/schemas/{model}"


@dataclass(frozen=True)
class EditField:
    """One field of an edit: its name, its type in words, and its default or None where it must be given."""

    name: str
    type: str
    default: str | None


@dataclass(frozen=True)
class EditEntry:
    """One kind of edit."""

    kind: str
    family: str
    text: str
    fields: tuple[EditField, ...]


def edit_entries() -> list[EditEntry]:
    """Every kind of edit, by the module it stands in."""
    found = []
    for kind, edit in EDITS.items():
        schema = TypeAdapter(edit).json_schema()
        required = set(schema.get("required", ()))
        fields = tuple(
            EditField(name, _words(field), None if name in required else _default(field))
            for name, field in schema.get("properties", {}).items()
        )
        family = edit.__module__.rsplit(".", 1)[-1].replace("_", " ")
        found.append(EditEntry(kind, family, inspect.cleandoc(edit.__doc__ or ""), fields))
    return sorted(found, key=lambda entry: (entry.family, entry.kind))


def _default(field: dict[str, Any]) -> str:
    value = field.get("default")
    return "none" if value is None else str(value).lower() if isinstance(value, bool) else f"{value!r}"


def _words(field: dict[str, Any]) -> str:
    """A JSON schema as a few words."""
    if "$ref" in field:
        return str(field["$ref"]).rsplit("/", 1)[-1].lower()
    if "const" in field:
        return f"“{field['const']}”"
    if "enum" in field:
        return " · ".join(f"“{value}”" for value in field["enum"])
    if "anyOf" in field:
        return " or ".join(dict.fromkeys(_words(choice) for choice in field["anyOf"]))
    kind = field.get("type", "any")
    if kind == "array":
        inside = field.get("prefixItems")
        if inside:
            return f"{len(inside)} × {_words(inside[0])}"
        return f"list of {_words(field.get('items', {}))}"
    if kind == "object" and isinstance(field.get("additionalProperties"), dict):
        return f"{_words(field['additionalProperties'])} by name"
    return {"integer": "whole number", "boolean": "yes or no", "null": "none"}.get(str(kind), str(kind))


def openapi(app: Flask) -> dict[str, Any]:
    """The API as OpenAPI 3.1: every route under /api with its docstring, every edit with its fields."""
    schemas: dict[str, Any] = {
        "Problem": {
            "type": "object",
            "description": "Problem details (RFC 9457); `detail` is a sentence for the user.",
            "properties": {name: {"type": "string"} for name in ("type", "title", "detail")}
            | {"status": {"type": "integer"}},
        }
    }
    choices = []
    for kind, edit in EDITS.items():
        schema = TypeAdapter(edit).json_schema(ref_template=_DEFINITIONS)
        schemas |= schema.pop("$defs", {})
        schema["properties"] = {"edit": {"const": kind}, **schema.get("properties", {})}
        schema["required"] = ["edit", *schema.get("required", ())]
        schema["description"] = inspect.cleandoc(edit.__doc__ or "")
        schemas[edit.__name__] = schema
        choices.append({"$ref": f"#/components/schemas/{edit.__name__}"})
    schemas["Edit"] = {"oneOf": choices}
    schemas["Edits"] = {
        "type": "object",
        "required": ["version", "edits"],
        "properties": {
            "version": {"type": "integer", "description": "The version of the scene that the edits were made against."},
            "frame": {"description": "A frame, or null for the drawing board.", "type": ["number", "null"]},
            "edits": {"type": "array", "items": {"$ref": "#/components/schemas/Edit"}},
        },
    }
    return {
        "openapi": "3.1.0",
        "info": {"title": "Jointed Crane", "version": jointed_crane.__version__, "license": {"name": "MIT"}},
        "paths": _paths(app),
        "components": {"schemas": schemas},
    }


def _paths(app: Flask) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for rule in app.url_map.iter_rules():
        if not rule.rule.startswith("/api/"):
            continue
        path = re.sub(r"<(?:[^:<>]+:)?([^<>]+)>", r"{\1}", rule.rule)
        text = inspect.cleandoc(app.view_functions[rule.endpoint].__doc__ or "")
        for method in sorted((rule.methods or set()) & {"GET", "POST"}):
            operation: dict[str, Any] = {
                "operationId": f"{rule.endpoint.replace('.', '_')}_{method.lower()}",
                "summary": text.partition("\n")[0],
                "description": text,
                "parameters": [
                    {"name": name, "in": "path", "required": True, "schema": {"type": "string"}}
                    for name in sorted(rule.arguments)
                ],
                "responses": {
                    "200": {"description": "What was asked for."},
                    "default": {
                        "description": "A refusal with a sentence for the user.",
                        "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
                    },
                },
            }
            if path.endswith(("/edits", "/preview")):
                content = {"application/json": {"schema": {"$ref": "#/components/schemas/Edits"}}}
                operation["requestBody"] = {"required": True, "content": content}
            found.setdefault(path, {})[method.lower()] = operation
    return found
