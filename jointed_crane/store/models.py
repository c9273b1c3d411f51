"""The tables. A part's rows are the truth; there is no second copy of a scene."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, MetaData
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Names every constraint, so that migrations can refer to it."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {dict[str, Any]: JSON, list[Any]: JSON}


class SceneRow(Base):
    """A scene's own values; `version` grows with every change, undo and redo included."""

    __tablename__ = "scenes"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    width: Mapped[float]
    height: Mapped[float]
    ground: Mapped[str]
    fps: Mapped[list[Any]]
    length: Mapped[int]
    isolated: Mapped[list[Any]] = mapped_column(default=list)
    version: Mapped[int] = mapped_column(default=1)
    #: Journal rows up to this one are applied; those after it can be redone.
    journal_at: Mapped[int] = mapped_column(default=0)
    changed_at: Mapped[datetime]
    deleted_at: Mapped[datetime | None] = mapped_column(default=None)


class PartRow(Base):
    """A part without its drawings, channels and footholds, which have rows of their own."""

    __tablename__ = "parts"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    id: Mapped[str] = mapped_column(primary_key=True)
    position: Mapped[int]
    name: Mapped[str]
    kind: Mapped[str]
    parent: Mapped[str | None]
    seat: Mapped[str | None] = mapped_column(default=None)
    placement: Mapped[dict[str, Any]]
    rest: Mapped[dict[str, Any]]
    hidden: Mapped[bool]
    locked: Mapped[bool]


class DrawingRow(Base):
    """One picture of a part."""

    __tablename__ = "drawings"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(primary_key=True)
    id: Mapped[str] = mapped_column(primary_key=True)
    position: Mapped[int]
    name: Mapped[str]
    art: Mapped[str] = mapped_column(ForeignKey("assets.content_hash"))
    geometry: Mapped[dict[str, Any]]


class ChannelRow(Base):
    """One channel of a part; its keys are always read together, so they share a row."""

    __tablename__ = "channels"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    keys: Mapped[list[Any]]
    outside: Mapped[dict[str, Any]]


class FootholdRow(Base):
    """One foothold of a part."""

    __tablename__ = "footholds"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(primary_key=True)
    frame: Mapped[float] = mapped_column(primary_key=True)
    point: Mapped[list[Any]]


class EyeletRow(Base):
    """One eyelet of a part."""

    __tablename__ = "eyelets"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(primary_key=True)
    id: Mapped[str] = mapped_column(primary_key=True)
    position: Mapped[int]
    name: Mapped[str]
    point: Mapped[list[Any]]


class MarkRow(Base):
    """One mark on the stage."""

    __tablename__ = "marks"

    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"), primary_key=True)
    id: Mapped[str] = mapped_column(primary_key=True)
    position: Mapped[int]
    name: Mapped[str]
    place: Mapped[list[Any]]


class JournalRow(Base):
    """One edit as the user made it: what undo calls it, and the rows before and after."""

    __tablename__ = "journal"
    __table_args__ = (Index("ix_journal_scene", "scene_id", "number", unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"))
    number: Mapped[int]
    label: Mapped[str]
    before: Mapped[list[Any]]
    after: Mapped[list[Any]]
    made_at: Mapped[datetime]


class ShelfRow(Base):
    """One act on the shelf that undo can take back."""

    __tablename__ = "shelf_journal"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[str] = mapped_column(ForeignKey("scenes.id", ondelete="CASCADE"))
    label: Mapped[str]
    before: Mapped[dict[str, Any]]
    after: Mapped[dict[str, Any]]
    is_undone: Mapped[bool] = mapped_column(default=False)


class AssetRow(Base):
    """Art by the SHA-256 of its bytes; never changed, shared by all scenes."""

    __tablename__ = "assets"

    content_hash: Mapped[str] = mapped_column(primary_key=True)
    media_type: Mapped[str]
    data: Mapped[bytes] = mapped_column(LargeBinary)
