"""A scene as a JSON document and back: the one form of the API, the zip and the command line.

Fields are those of `core.model.scene`, by the same names; docs/format.md describes them.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import is_dataclass, replace
from functools import cache
from typing import TYPE_CHECKING, Any, TypeVar, get_args, get_type_hints

from pydantic import ConfigDict, TypeAdapter, ValidationError
from pydantic_core import core_schema

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.constraints.every import KINDS
from jointed_crane.core.model.forms import FORMS, Shape
from jointed_crane.core.model.scene import OWN_FIELDS, Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.soundness.whole_scene import ensure_sound

if TYPE_CHECKING:
    from jointed_crane.core.edits.shared.dragged_numbers import Numbers

Kind = TypeVar("Kind")


#: A channel's keys as they are written, for the rows and for the answer alike.
_KEYS: Memory[list[dict[str, Any]]] = Memory("keys")


@cache
def adapter(kind: type[Kind]) -> TypeAdapter[Kind]:
    """What reads and writes values of one kind; made when it is first wanted, since making it takes its time."""
    for value in _values_in(kind):
        value.__pydantic_config__ = ConfigDict(extra="forbid")  # the core knows nothing of who reads its values
    return TypeAdapter(kind)


def _values_in(kind: Any) -> set[Any]:
    """The kinds of frozen values that one kind is made of, it among them; each is read with its own fields alone."""
    result: set[Any] = set()
    waiting = [kind]
    while waiting:
        one = waiting.pop()
        waiting += get_args(one)
        if not isinstance(one, type) or one in result:
            continue
        waiting += KINDS.values() if one is Constraint else FORMS.values() if one is Shape else ()
        if is_dataclass(one):
            result.add(one)
            waiting += get_type_hints(one).values()
    return result


def _told_by(field: str, base: type[Any], kinds: Mapping[str, type[Any]]) -> None:
    """Have values of a base read as the kind that a field of theirs names: what is wrong is told of that one."""

    def schema(cls: type[Any], source: Any, handler: Any) -> Any:
        if cls is not base:
            return handler(source)
        choices = {name: handler.generate_schema(kind) for name, kind in kinds.items()}
        return core_schema.tagged_union_schema(choices, discriminator=field)

    base.__get_pydantic_core_schema__ = classmethod(schema)


_told_by("kind", Constraint, KINDS)
_told_by("form", Shape, FORMS)


def strictly(kind: type[Kind], document: Any) -> Kind:
    """A value from JSON values without any conversion: known fields alone, numbers that are numbers, lists that are
    lists. Raises pydantic's ValidationError.
    """
    known: TypeAdapter[Kind] = adapter(kind)  # type: ignore[arg-type]
    return known.validate_json(json.dumps(document), strict=True)


def scene_document(scene: Scene) -> dict[str, Any]:
    """A scene as JSON values."""
    document = adapter(Scene).dump_python(scene, mode="json", exclude={"parts": {"__all__": {"channels"}}})
    for part, its_document in zip(scene.parts, document["parts"], strict=True):
        its_document["channels"] = _channels_document(part)
    return document


def drawing_document(drawing: Drawing) -> dict[str, Any]:
    """A drawing as JSON values."""
    return adapter(Drawing).dump_python(drawing, mode="json")


def part_document(part: Part) -> dict[str, Any]:
    """A part as JSON values."""
    return {**adapter(Part).dump_python(part, mode="json", exclude={"channels"}), "channels": _channels_document(part)}


def _channels_document(part: Part) -> dict[str, Any]:
    return {name: channel_document(channel) for name, channel in part.channels.items()}


def channel_document(channel: Channel) -> dict[str, Any]:
    """A channel as JSON values. What was read and not changed is said as it was written, no key is looked at."""
    keys = channel.written or _KEYS.of(channel, lambda: [key_document(key) for key in channel.keys])
    sway = None if channel.sway is None else {**vars(channel.sway)}
    return {"keys": keys, "before": channel.before, "after": channel.after, "sway": sway}


def key_document(key: Key) -> dict[str, Any]:
    """A key as JSON values."""
    return {
        **vars(key),
        "handle_in": None if key.handle_in is None else [*key.handle_in],
        "handle_out": None if key.handle_out is None else [*key.handle_out],
    }


def channel_from(document: Mapping[str, Any]) -> Channel:
    """The inverse of `channel_document`, for documents of our own making."""
    sway = document["sway"] and Sway(**document["sway"])
    return Channel.read(document["keys"], document["before"], document["after"], sway)


def part_document_beside(part: Part, known: Part | None, is_brief: bool = False) -> dict[str, Any]:
    """A part as JSON values, without its drawings where `known` shows the same ones.

    A brief one holds nothing but the fields that differ from `known`, and of its channels those that differ, None for
    one that is gone and the keys that differ for one whose keys alone do: what a page needs to show a preview over what
    it has.
    """
    if known is None:
        return part_document(part)
    if not is_brief:
        unsaid = {"channels", "drawings"} if known.drawings is part.drawings else {"channels"}
        said = adapter(Part).dump_python(part, mode="json", exclude=unsaid)
        return {**said, "channels": _channels_document(part)}
    document: dict[str, Any] = {"id": part.id}
    if known.own_values is not part.own_values:
        differ = {name for name in OWN_FIELDS if getattr(known, name) is not getattr(part, name)}
        if differ:
            document = adapter(Part).dump_python(part, mode="json", include={"id", *differ})
    if known.rest is not part.rest:
        document["rest"] = {**part.rest}
    if known.channels is not part.channels:
        old, new = known.channels, part.channels
        document["channels"] = {
            name: _channel_beside(channel, old.get(name))
            for name, channel in new.items()
            if old.get(name) is not channel
        }
        document["channels"].update(dict.fromkeys(old.keys() - new.keys()))
    return document


def put_documents(scene: Scene, numbers: Numbers) -> list[dict[str, Any]]:
    """What parts would hold by numbers alone, as `part_document_beside` says it briefly."""
    return [_put_document(scene.part(part_id), puts) for part_id, puts in numbers.puts.items()]


def _put_document(part: Part, puts: Mapping[str, Key | float]) -> dict[str, Any]:
    keys: dict[str, dict[str, Any]] = {}
    rest: dict[str, float] = {}
    for name, put in puts.items():
        if not isinstance(put, Key):
            rest[name] = put
        elif name in part.channels:
            keys[name] = {"beside": [{**vars(put)}], "gone": []}
        else:
            keys[name] = channel_document(Channel((put,)))
    return {"id": part.id, "channels": keys} if keys else {"id": part.id, "rest": {**part.rest, **rest}}


def _channel_beside(channel: Channel, known: Channel | None) -> dict[str, Any]:
    """A channel as JSON values; where keys alone differ from a known one, those keys and the frames of those gone."""
    if known is None or not known.has_same_ends(channel):
        return channel_document(channel)
    return {"beside": [{**vars(key)} for key in channel.keys_beside(known)], "gone": channel.frames_gone(known)}


def part_from(document: Any) -> Part:
    """The inverse of `part_document`, for documents of our own making."""
    channels = {name: channel_from(channel) for name, channel in document["channels"].items()}
    return replace(adapter(Part).validate_python({**document, "channels": {}}), channels=channels)


def scene_from(document: Any) -> Scene:
    """The inverse of `scene_document` for documents from anywhere; RuleError with a sentence where it is unsound."""
    try:
        scene = strictly(Scene, document)
    except ValidationError as error:
        raise RuleError(f"The scene cannot be read: {fault(error)}. Nothing was opened.") from None
    return ensure_sound(scene)


def fault(error: ValidationError) -> str:
    """Where a document is wrong, and how, for a sentence."""
    first = error.errors(include_url=False, include_context=False)[0]
    where = ".".join(str(step) for step in first["loc"][:4])
    return f"{where or 'value'}: {first['msg'].lower()}"
