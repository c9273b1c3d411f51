"""The tables. A part's rows are the truth; there is no second copy of a scene."""

from __future__ import annotations

from typing import Any

from sqlalchemy import (
    JSON,
    Boolean,
    Column,
    DateTime,
    Double,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
)

#: Names every constraint, so that migrations can refer to it.
METADATA = MetaData(
    naming_convention={
        "ix": "ix_%(column_0_label)s",
        "uq": "uq_%(table_name)s_%(column_0_name)s",
        "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
        "pk": "pk_%(table_name)s",
    }
)


def _key(name: str, kind: Any = String) -> Column[Any]:
    return Column(name, kind, primary_key=True)


def _held(name: str, kind: Any = String, default: Any = None) -> Column[Any]:
    """A column that every row fills."""
    return Column(name, kind, nullable=False, default=default)


def _scene(is_key: bool = True) -> Column[Any]:
    """The scene that a row belongs to and goes with."""
    scene = ForeignKey("scenes.id", ondelete="CASCADE")
    return Column("scene_id", String, scene, primary_key=is_key, nullable=False)


#: A scene's own values; `version` grows with every change, undo and redo included. Journal rows up to `journal_at`
#: are applied; those after it can be redone.
SCENES = Table(
    "scenes",
    METADATA,
    _key("id"),
    _held("name"),
    _held("width", Double),
    _held("height", Double),
    _held("ground"),
    _held("fps", JSON),
    _held("length", Integer),
    _held("isolated", JSON, default=list),
    _held("depth", Boolean, default=False),
    _held("cuts", JSON, default=list),
    _held("painting", JSON, default=list),
    _held("version", Integer, default=1),
    _held("journal_at", Integer, default=0),
    _held("changed_at", DateTime),
    Column("deleted_at", DateTime),
)

#: A part without its drawings, channels, eyelets and footholds, which have rows of their own.
PARTS = Table(
    "parts",
    METADATA,
    _scene(),
    _key("id"),
    _held("name"),
    _held("kind"),
    Column("parent", String),
    Column("seat", String),
    _held("placement", JSON),
    _held("rest", JSON),
    _held("hidden", Boolean),
    _held("locked", Boolean),
)

#: The pictures of a part.
DRAWINGS = Table(
    "drawings",
    METADATA,
    _scene(),
    _key("part_id"),
    _key("id"),
    _held("position", Integer),
    _held("name"),
    Column("art", String, ForeignKey("assets.content_hash"), nullable=False),
    _held("geometry", JSON),
)

#: The channels of a part; the keys of one are always read together, so they share a row.
CHANNELS = Table(
    "channels", METADATA, _scene(), _key("part_id"), _key("name"), _held("keys", JSON), _held("outside", JSON)
)

FOOTHOLDS = Table("footholds", METADATA, _scene(), _key("part_id"), _key("frame", Double), _held("point", JSON))

#: The constraints of a part, without their numbers, which are channels.
CONSTRAINTS = Table(
    "constraints",
    METADATA,
    _scene(),
    _key("part_id"),
    _key("id"),
    _held("position", Integer),
    _held("kind"),
    _held("name"),
    _held("rule", JSON),
)

#: The links by which channels of a part are driven.
LINKS = Table("links", METADATA, _scene(), _key("part_id"), _key("id"), _held("position", Integer), _held("link", JSON))

EYELETS = Table(
    "eyelets",
    METADATA,
    _scene(),
    _key("part_id"),
    _key("id"),
    _held("position", Integer),
    _held("name"),
    _held("point", JSON),
)

#: The marks on the stage.
MARKS = Table("marks", METADATA, _scene(), _key("id"), _held("position", Integer), _held("name"), _held("place", JSON))

#: Named frames and spans of frames.
MARKERS = Table(
    "markers",
    METADATA,
    _scene(),
    _key("id"),
    _held("position", Integer),
    _held("name"),
    _held("frame", Double),
    Column("until", Double),
)

#: Poses kept by name.
POSES = Table("poses", METADATA, _scene(), _key("id"), _held("position", Integer), _held("name"), _held("values", JSON))

#: Each edit as the user made it: what undo calls it, and the rows before and after.
JOURNAL = Table(
    "journal",
    METADATA,
    _key("id", Integer),
    _scene(is_key=False),
    _held("number", Integer),
    _held("label"),
    _held("before", JSON),
    _held("after", JSON),
    _held("made_at", DateTime),
    Index("ix_journal_scene", "scene_id", "number", unique=True),
)

#: The acts on the shelf that undo can take back.
SHELF = Table(
    "shelf_journal",
    METADATA,
    _key("id", Integer),
    _scene(is_key=False),
    _held("label"),
    _held("before", JSON),
    _held("after", JSON),
    _held("is_undone", Boolean, default=False),
)

#: Art by the SHA-256 of its bytes; never changed, shared by all scenes.
ASSETS = Table("assets", METADATA, _key("content_hash"), _held("media_type"), _held("data", LargeBinary))

#: What people have set for themselves: the keys of commands.
SETTINGS = Table("settings", METADATA, _key("name"), _held("value", JSON))

#: What is being sent and what was sent: the scene as it was then, what was chosen, how far it is, and who works on it.
SENDINGS = Table(
    "sendings",
    METADATA,
    _key("id"),
    _scene(is_key=False),
    _held("scene_version", Integer),
    _held("scene", LargeBinary),
    _held("art", JSON),
    _held("way"),
    _held("choices", JSON),
    _held("filling", JSON, default={}),
    _held("file_name"),
    _held("state", default="waiting"),
    _held("done", Integer, default=0),
    _held("of", Integer, default=0),
    _held("size", Integer, default=0),
    _held("took", Double, default=0.0),
    _held("fault", default=""),
    _held("owner", default=""),
    _held("lease", Double, default=0.0),
    _held("tries", Integer, default=0),
    _held("is_deleted", Boolean, default=False),
    _held("made_at", DateTime),
)
