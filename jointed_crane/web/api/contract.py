"""What each address takes and gives: strict models, checked before a view is called and published as the description.

A view says its contract in a decorator and gets what was read as keyword arguments: `body`, `query`, `form`.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, TypeVar, cast

from flask import request
from pydantic import BaseModel, ConfigDict, ValidationError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.strict_json import ensure_words, parsed_json

View = TypeVar("View", bound=Callable[..., Any])
Model = TypeVar("Model", bound=BaseModel)


class Strict(BaseModel):
    """Known fields alone, and no value taken for one of another kind."""

    model_config = ConfigDict(extra="forbid", strict=True)


@dataclass(frozen=True)
class Contract:
    """What an address takes, and what it gives with its status.

    `form` fields come beside files. `gives` is a model, or the media type of what is not JSON.
    """

    body: type[BaseModel] | None = None
    query: type[BaseModel] | None = None
    form: type[BaseModel] | None = None
    has_files: bool = False
    gives: type[BaseModel] | str | None = None
    status: int = 200


def contract(
    body: type[BaseModel] | None = None,
    query: type[BaseModel] | None = None,
    form: type[BaseModel] | None = None,
    has_files: bool = False,
    gives: type[BaseModel] | str | None = None,
    status: int = 200,
) -> Callable[[View], View]:
    """Check a request against models, and call the view with what they hold."""
    result = Contract(body, query, form, has_files, gives, status)

    def decorated(view: View) -> View:
        @wraps(view)
        def checked(**path: Any) -> Any:
            for name in path.values():
                if isinstance(name, str):
                    ensure_words(name)
            if body is not None:
                path["body"] = read_body(body)
            if query is not None:
                path["query"] = _from_words(query, request.args.to_dict(flat=False))
            if form is not None:
                path["form"] = _from_words(form, request.form.to_dict(flat=False))
            answer = view(**path)
            return (answer, status) if status != 200 and isinstance(answer, dict) else answer

        checked.contract = result  # type: ignore[attr-defined]
        return cast(View, checked)

    return decorated


def read_body(model: type[Model]) -> Model:
    """The request's JSON object as a model; RuleError with a sentence where it is none."""
    if request.mimetype != "application/json":
        raise RuleError("The request is not JSON. Nothing was changed.")
    document = parsed_json(request.get_data())
    if not isinstance(document, dict):
        raise RuleError("The request is not a JSON object. Nothing was changed.")
    return _valid(model, document)


def _from_words(model: type[Model], fields: dict[str, list[str]]) -> Model:
    """A query or a form as a model: each field once, numbers and lists written as JSON."""
    result = {}
    for name, given in fields.items():
        if len(given) != 1:
            raise RuleError(f"{name[:40]} is given {len(given)} times. Nothing was changed.")
        result[name] = _value(ensure_words(given[0]))
    return _valid(model, result)


def _value(word: str) -> Any:
    """A JSON value where the word is one, else the word; an empty one and "rest" say nothing, as null does."""
    if word in ("", "rest"):
        return None
    try:
        return parsed_json(word)
    except RuleError:
        return word


def _valid(model: type[Model], document: dict[str, Any]) -> Model:
    try:
        return model.model_validate_json(json.dumps(document))
    except ValidationError as error:
        first = error.errors(include_url=False, include_context=False)[0]
        where = ".".join(str(step)[:40] for step in first["loc"][:4])
        sentence = first["msg"].lower()
        raise RuleError(f"{where or 'The request'} cannot be read: {sentence}. Nothing was changed.") from None
