"""The shelf: all scenes as cards; making, copying, renaming and deleting them, with undo of its own."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine, delete, insert, select, update

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.store.art_at_hand import Art
from jointed_crane.store.cards import Card, cards
from jointed_crane.store.database import writing
from jointed_crane.store.scenes import Entry, SceneMissing, SceneStore, copy_of
from jointed_crane.store.tables import SCENES, SHELF


class Shelf:
    """The scenes of one data folder, newest first."""

    def __init__(self, engine: Engine, scenes: SceneStore) -> None:
        self._engine = engine
        self._scenes = scenes

    def cards(self) -> list[Card]:
        """All scenes, newest first."""
        return cards(self._engine)

    def find(self, name: str) -> Card | None:
        """The newest scene of this name."""
        return next((card for card in self.cards() if card.name == name), None)

    def create(self, scene: Scene, act: str = "New scene", art: Iterable[Art] = ()) -> Entry:
        """Put a new scene on the shelf with the art that comes along, whole or not at all; undo takes it off again."""
        ensure_sound(scene)
        with writing(self._engine).begin() as connection:
            entry = self._scenes.write_new(connection, scene, art)
            self._note(connection, scene.id, f"{act} {scene.name}", {"deleted": True}, {"deleted": False})
        return entry

    def duplicate(self, scene_id: str) -> Entry:
        """A copy with everything in it under a free name, and a journal of its own."""
        scene = self._scenes.load(scene_id).scene
        name = free_name(f"{scene.name} copy", (card.name for card in self.cards()))
        return self.create(copy_of(scene, uuid.uuid4().hex, name), "Duplicate")

    def rename(self, scene_id: str, name: str) -> Entry:
        """Give a scene another name; it is an edit of the scene too."""
        known = self._scenes.load(scene_id)
        change = self._scenes.changed(scene_id, known.version, [RenameScene(name)])
        if not change.after_rows:
            return known
        before, after = {"name": known.scene.name}, {"name": change.after.name}
        with writing(self._engine).begin() as connection:
            entry = self._scenes.write(connection, change)
            self._note(connection, scene_id, f"Rename {known.scene.name}", before, after)
        return entry

    def delete(self, scene_id: str) -> str:
        """Take a scene off the shelf; undo puts it back whole. Returns its name."""
        name = self._scenes.load(scene_id).scene.name
        with writing(self._engine).begin() as connection:
            self._set_deleted(connection, scene_id, True)
            self._note(connection, scene_id, f"Delete {name}", {"deleted": False}, {"deleted": True})
        return name

    def undo_label(self) -> str | None:
        """What undo would take back, or None."""
        return self._label(undone=False)

    def redo_label(self) -> str | None:
        """What redo would do again, or None."""
        return self._label(undone=True)

    def undo(self) -> str:
        """Take the last act back and return its label; RuleError where there is none."""
        return self._walk(back=True)

    def redo(self) -> str:
        """Do the act again that was taken back last; RuleError where there is none."""
        return self._walk(back=False)

    def _label(self, undone: bool) -> str | None:
        with self._engine.connect() as connection:
            row = _last(connection, undone)
        return row.label if row else None

    def _walk(self, back: bool) -> str:
        """One step along the acts, in one transaction: many that ask at once each take a step of their own."""
        with writing(self._engine).begin() as connection:
            row = _last(connection, undone=not back)
            if row is None:
                raise RuleError("There is nothing to undo." if back else "There is nothing to redo.")
            wanted = row.before if back else row.after
            if "deleted" in wanted:
                self._set_deleted(connection, row.scene_id, wanted["deleted"])
            if "name" in wanted:
                self._rename_if_there(connection, row.scene_id, wanted["name"])
            connection.execute(update(SHELF).where(SHELF.c.id == row.id).values(is_undone=back))
        return row.label

    def _rename_if_there(self, connection: Connection, scene_id: str, name: str) -> None:
        try:
            known = self._scenes.load(scene_id)
        except SceneMissing:
            return
        change = self._scenes.changed(scene_id, known.version, [RenameScene(name)])
        if change.after_rows:
            self._scenes.write(connection, change)

    def _note(
        self, connection: Connection, scene_id: str, label: str, before: dict[str, Any], after: dict[str, Any]
    ) -> None:
        """Write an act down. What was undone before it can no longer be done again; a scene whose making was undone
        stays within reach all the same: it counts as deleted, which undo takes back.
        """
        for row in connection.execute(select(SHELF).where(SHELF.c.is_undone.is_(True))).all():
            connection.execute(delete(SHELF).where(SHELF.c.id == row.id))
            if row.before == {"deleted": True}:
                name = connection.execute(select(SCENES.c.name).where(SCENES.c.id == row.scene_id)).scalar_one()
                self._write_act(connection, row.scene_id, f"Delete {name}", {"deleted": False}, {"deleted": True})
        self._write_act(connection, scene_id, label, before, after)

    @staticmethod
    def _write_act(
        connection: Connection, scene_id: str, label: str, before: dict[str, Any], after: dict[str, Any]
    ) -> None:
        connection.execute(insert(SHELF).values(scene_id=scene_id, label=label, before=before, after=after))

    def _set_deleted(self, connection: Connection, scene_id: str, deleted: bool) -> None:
        now = datetime.now(UTC).replace(tzinfo=None) if deleted else None
        connection.execute(update(SCENES).where(SCENES.c.id == scene_id).values(deleted_at=now))
        self._scenes.forget(scene_id)


def _last(connection: Connection, undone: bool) -> Any:
    """The act that undo, or redo, comes to next."""
    order: Callable[[Any], Any] = (lambda column: column.asc()) if undone else (lambda column: column.desc())
    return connection.execute(
        select(SHELF).where(SHELF.c.is_undone.is_(undone)).order_by(order(SHELF.c.id)).limit(1)
    ).first()
