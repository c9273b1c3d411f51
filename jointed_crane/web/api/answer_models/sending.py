"""What is being sent and was, and work under way, in answers."""

from __future__ import annotations

from typing import Any, Literal

from jointed_crane.web.api.answer_models.answer import Answer


class Notes(Answer):
    """What a format cannot carry."""

    notes: list[str]


class WorkAnswer(Answer):
    """How far work has come."""

    is_working: bool
    done: int
    of: int
    what: str


class StopAnswer(Answer):
    """Whether there was work to stop."""

    was_working: bool


class SendingAnswer(Answer):
    """What is being sent or was: how far it is, how large its file, and why it failed."""

    id: str
    scene_id: str
    scene_version: int
    way: str
    words: str
    choices: dict[str, Any]
    rows: int
    file_name: str
    state: Literal["waiting", "working", "done", "stopped", "failed"]
    done: int
    of: int
    size: int
    took: float
    fault: str
    made_at: str


class SendingsAnswer(Answer):
    """What is being sent and was."""

    sendings: list[SendingAnswer]


class ForecastAnswer(Answer):
    """What sending would come to: sizes in bytes and px, times in seconds; and what cannot be carried."""

    frames: int
    seconds: float
    width: int
    height: int
    size: int
    takes: float
    notes: list[str]


class PresetAnswer(Answer):
    """Choices under a name."""

    name: str
    way: str
    choices: dict[str, Any]


class PresetsAnswer(Answer):
    """Choices under names."""

    presets: list[PresetAnswer]
