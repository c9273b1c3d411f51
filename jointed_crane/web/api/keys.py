"""The keys that somebody has given the commands of the bench, kept with the library."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from jointed_crane.web.api.answer_models.rig import KeysAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import KeysBody, NoQuery
from jointed_crane.web.library import library

api = Blueprint("keys", __name__, url_prefix="/api/keys")

_NAME = "keys"


def changed_keys() -> dict[str, list[str]]:
    """The keys of the commands whose keys were changed, by the ids of these."""
    return library().settings.get(_NAME) or {}


@api.get("")
@contract(query=NoQuery, gives=KeysAnswer)
def look(query: NoQuery) -> dict[str, Any]:
    """The commands whose keys were changed, with these."""
    return {"keys": changed_keys()}


@api.post("")
@contract(body=KeysBody, gives=KeysAnswer)
def change(body: KeysBody) -> dict[str, Any]:
    """Change keys: what is not named has the keys that it comes with."""
    library().settings.put(_NAME, body.keys)
    return {"keys": body.keys}
