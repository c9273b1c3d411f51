"""The edits and the routes as documents: what the docs page shows and the OpenAPI description publishes."""

from __future__ import annotations

import inspect
import re
from dataclasses import dataclass
from typing import Any

from flask import Flask
from pydantic import BaseModel

import jointed_crane
from jointed_crane.core.basics.limits import LIMITS
from jointed_crane.core.edits.every import EDITS
from jointed_crane.formats.document import adapter
from jointed_crane.web.api.contract import Contract
from jointed_crane.web.api.models import Edits

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
    """Every kind of edit, by its family."""
    result = []
    for kind, edit in EDITS.items():
        schema = adapter(edit).json_schema()
        required = set(schema.get("required", ()))
        fields = tuple(
            EditField(name, _words(field), None if name in required else _default(field))
            for name, field in schema.get("properties", {}).items()
        )
        family = edit.__module__.split(".")[-2]  # a folder each
        result.append(EditEntry(kind, family, inspect.cleandoc(edit.__doc__ or ""), fields))
    return sorted(result, key=lambda entry: (entry.family, entry.kind))


def limit_entries() -> dict[str, list[str]]:
    """What there may be at most, each in words, by what it is about."""
    result: dict[str, list[str]] = {}
    for limit in LIMITS:
        result.setdefault(limit.area, []).append(f"{limit.most:,.0f} {limit.of}")
    return result


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
    choices = field.get("anyOf") or field.get("oneOf")
    if choices:
        return " or ".join(dict.fromkeys(_words(choice) for choice in choices))
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
        schema = adapter(edit).json_schema(ref_template=_DEFINITIONS)
        schemas |= schema.pop("$defs", {})
        schema["properties"] = {"edit": {"const": kind}, **schema.get("properties", {})}
        schema["required"] = ["edit", *schema.get("required", ())]
        schema["description"] = inspect.cleandoc(edit.__doc__ or "")
        schemas[edit.__name__] = schema
        choices.append({"$ref": f"#/components/schemas/{edit.__name__}"})
    schemas["Edit"] = {"oneOf": choices}
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Jointed Crane",
            "version": jointed_crane.__version__,
            "license": {"name": "MIT"},
            "description": _limits_in_words(),
        },
        "paths": _paths(app, schemas),
        "components": {"schemas": schemas},
    }


def _limits_in_words() -> str:
    """The limits as Markdown: what goes beyond one is refused with a sentence that names it."""
    areas = (f"{area}\n" + "".join(f"- {words}\n" for words in result) for area, result in limit_entries().items())
    return "The most there may be:\n\n" + "\n".join(areas)


def _paths(app: Flask, schemas: dict[str, Any]) -> dict[str, Any]:
    """Every route by its contract; the models it names are put among the schemas."""
    result: dict[str, Any] = {}
    for rule in app.url_map.iter_rules():
        view = app.view_functions[rule.endpoint]
        if not rule.rule.startswith("/api/") or not hasattr(view, "contract"):
            continue
        path = re.sub(r"<(?:[^:<>]+:)?([^<>]+)>", r"{\1}", rule.rule)
        text = inspect.cleandoc(view.__doc__ or "")
        for method in sorted((rule.methods or set()) & {"GET", "POST"}):
            result.setdefault(path, {})[method.lower()] = {
                "operationId": f"{rule.endpoint.replace('.', '_')}_{method.lower()}",
                "summary": text.partition("\n")[0],
                "description": text,
                **_takes(view.contract, sorted(rule.arguments), schemas),
                "responses": _gives(view.contract, schemas),
            }
    return result


def _takes(contract: Contract, arguments: list[str], schemas: dict[str, Any]) -> dict[str, Any]:
    word = {"type": "string", "minLength": 1}
    parameters = [{"name": name, "in": "path", "required": True, "schema": word} for name in arguments]
    if contract.query is not None:
        fields = _schema(contract.query, schemas)
        parameters += [
            {"name": name, "in": "query", "required": name in fields.get("required", ()), "schema": field}
            for name, field in fields.get("properties", {}).items()
        ]
    if contract.body is not None:
        content = {"application/json": {"schema": _named(contract.body, schemas)}}
        return {"parameters": parameters, "requestBody": {"required": True, "content": content}}
    if contract.form is not None:
        form = _schema(contract.form, schemas)
        files = {"files": {"type": "array", "minItems": 1, "items": {"type": "string", "format": "binary"}}}
        schema = {
            "type": "object", "required": [*form.get("required", ()), "files"],
            "properties": {**form.get("properties", {}), **files}, "additionalProperties": False,
        }  # fmt: skip
        parts = {name: {"contentType": "application/json"} for name in form.get("properties", {})}
        content = {"multipart/form-data": {"schema": schema, "encoding": parts}}
        return {"parameters": parameters, "requestBody": {"required": True, "content": content}}
    return {"parameters": parameters}


def _gives(contract: Contract, schemas: dict[str, Any]) -> dict[str, Any]:
    if isinstance(contract.gives, str):
        content: dict[str, Any] = {contract.gives: {"schema": {"type": "string", "format": "binary"}}}
    elif contract.gives is not None:
        content = {"application/json": {"schema": _named(contract.gives, schemas)}}
    else:
        content = {}
    problem = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
    return {
        str(contract.status): {"description": "What was asked for.", "content": content},
        "default": {"description": "A refusal with a sentence for the user.", "content": problem},
    }


def _named(model: type[BaseModel], schemas: dict[str, Any]) -> dict[str, Any]:
    """A reference to a model, which is put among the schemas."""
    schemas[model.__name__] = _schema(model, schemas)
    return {"$ref": f"#/components/schemas/{model.__name__}"}


def _schema(model: type[BaseModel], schemas: dict[str, Any]) -> dict[str, Any]:
    """A model's schema; what it refers to is put among the schemas."""
    schema = model.model_json_schema(ref_template=_DEFINITIONS)
    for name, result in schema.pop("$defs", {}).items():
        schemas.setdefault(name, result)
    if model is Edits:
        schema["properties"]["edits"]["items"] = {"$ref": "#/components/schemas/Edit"}
    return schema
