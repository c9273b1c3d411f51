"""What every answer of the API is made of."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field


class Answer(BaseModel):
    """What is answered. It is described, not checked; what describes it is made when somebody asks."""

    model_config = ConfigDict(defer_build=True)


#: a b c d e f.
Matrix = tuple[float, float, float, float, float, float]


def left_out() -> Any:
    """A field that is not said where it does not differ."""
    return Field(default=None, json_schema_extra=_without_default)


def _without_default(schema: dict[str, Any]) -> None:
    del schema["default"]


class History(Answer):
    """The version, and what undo and redo would do."""

    version: int
    undo: str | None
    redo: str | None


class Named(Answer):
    """The name of what was acted on."""

    name: str
