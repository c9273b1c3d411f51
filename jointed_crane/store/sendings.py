"""What is being sent and what was sent: a queue in the library's own database, which any program over it works on.

A row waits until somebody claims it for a while, the lease; who works on it renews the lease, and one whose lease is
over is claimed by the next. Every step is one statement, so that two never work on one row.
"""

from __future__ import annotations

import time
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, fields
from datetime import UTC, datetime
from typing import Any, Literal

from pydantic_core import from_json, to_json
from sqlalchemy import Engine, delete, func, insert, or_, select, update

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_SENDINGS
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.document import scene_document, scene_from
from jointed_crane.store.database import writing
from jointed_crane.store.tables import SENDINGS

State = Literal["waiting", "working", "done", "stopped", "failed"]
#: How long a claim lasts without being renewed, s.
LEASE = 15.0
#: How often a row is claimed without coming any further before it is given up.
_MOST_TRIES = 5


@dataclass(frozen=True)
class Sending:
    """One thing that is being sent or was.

    Attributes
    ----------
    scene_version : of the scene that it was begun from
    way, choices : the way out by its name, and what was chosen of it
    filling : the table whose rows fill the scene, as a document; empty for the scene as it is
    done, of : how many frames or rows are written, of how many; 0 of 0 where it has none
    size : of the file, bytes; 0 while there is none
    took : how long it took, s
    fault : why it has failed, a sentence
    """

    id: str
    scene_id: str
    scene_version: int
    way: str
    choices: Mapping[str, Any]
    filling: Mapping[str, Any]
    file_name: str
    state: State
    done: int
    of: int
    size: int
    took: float
    fault: str
    made_at: datetime


_COLUMNS = [SENDINGS.c[field.name] for field in fields(Sending)]


class SendingMissing(RuleError):
    """There is no such sending."""

    def __init__(self, sentence: str = "This is not kept here any more. Send it again.") -> None:
        super().__init__(sentence)


class Sendings:
    """The rows of one library. Safe to share between threads and programs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(
        self,
        id: str,
        scene: Scene,
        version: int,
        way: str,
        choices: Mapping[str, Any],
        file_name: str,
        filling: Mapping[str, Any] | None = None,
        art: Iterable[str] = (),
    ) -> Sending:
        """Put a scene as it is into the queue, with a table that fills it and the hashes of the art that this shows.
        RuleError where too many are kept.
        """
        shown = {drawing.art for part in scene.parts for drawing in part.drawings}
        row = {
            "id": id,
            "scene_id": scene.id,
            "scene_version": version,
            "scene": zlib.compress(to_json(scene_document(scene))),
            "art": sorted(shown | set(art)),
            "way": way,
            "choices": dict(choices),
            "filling": dict(filling or {}),
            "file_name": file_name,
            "made_at": datetime.now(UTC).replace(tzinfo=None),
        }
        with writing(self._engine).begin() as connection:
            connection.execute(delete(SENDINGS).where(SENDINGS.c.is_deleted))
            if connection.execute(select(func.count()).select_from(SENDINGS)).scalar_one() >= MOST_SENDINGS:
                raise RuleError(
                    f"{MOST_SENDINGS} things that were sent are kept, which is the most. Nothing was sent; delete some."
                )
            connection.execute(insert(SENDINGS).values(row))
        return self.get(id)

    def get(self, id: str) -> Sending:
        """One of them; SendingMissing where there is none such."""
        with self._engine.connect() as connection:
            row = connection.execute(select(*_COLUMNS).where(SENDINGS.c.id == id)).first()
        if row is None:
            raise SendingMissing
        return Sending(**row._mapping)

    def of_scene(self, scene_id: str) -> list[Sending]:
        """All of a scene, the newest first."""
        query = select(*_COLUMNS).where(SENDINGS.c.scene_id == scene_id, ~SENDINGS.c.is_deleted)
        with self._engine.connect() as connection:
            rows = connection.execute(query.order_by(SENDINGS.c.made_at.desc(), SENDINGS.c.id)).all()
        return [Sending(**row._mapping) for row in rows]

    def swept(self) -> set[str]:
        """Ids of all that are kept, those that were deleted gone for good."""
        with writing(self._engine).begin() as connection:
            connection.execute(delete(SENDINGS).where(SENDINGS.c.is_deleted))
            return set(connection.execute(select(SENDINGS.c.id)).scalars())

    def scene(self, id: str) -> Scene:
        """The scene as it was when it was begun."""
        with self._engine.connect() as connection:
            data = connection.execute(select(SENDINGS.c.scene).where(SENDINGS.c.id == id)).scalar()
        if data is None:
            raise SendingMissing
        return scene_from(from_json(zlib.decompress(data)))

    def owners(self) -> set[str]:
        """Who works on rows now."""
        with self._engine.connect() as connection:
            return set(connection.execute(select(SENDINGS.c.owner).where(SENDINGS.c.state == "working")).scalars())

    def release(self, owner: str) -> None:
        """Have what one worked on who is gone be claimed by the next, before its lease is over. Whatever ended that
        program, it is no try of what it worked on: that is done by processes of their own.
        """
        with writing(self._engine).begin() as connection:
            mine = (SENDINGS.c.state == "working") & (SENDINGS.c.owner == owner)
            connection.execute(update(SENDINGS).where(mine).values(lease=0.0, tries=SENDINGS.c.tries - 1))

    def claim(self, owner: str) -> Sending | None:
        """The oldest that waits, or that nobody works on any more, for a lease; None where there is none.

        What was claimed several times and came no further is given up.
        """
        now = time.time()
        is_left = (SENDINGS.c.state == "working") & (SENDINGS.c.lease < now)
        with writing(self._engine).begin() as connection:
            given_up = is_left & (SENDINGS.c.tries >= _MOST_TRIES)
            sentence = f"It was begun {_MOST_TRIES} times and ended each time without a word. Nothing was sent."
            connection.execute(update(SENDINGS).where(given_up).values(state="failed", fault=sentence))
            query = select(SENDINGS.c.id).where(or_(SENDINGS.c.state == "waiting", is_left))
            wanted = query.order_by(SENDINGS.c.made_at, SENDINGS.c.id).limit(1).scalar_subquery()
            row = connection.execute(
                update(SENDINGS)
                .where(SENDINGS.c.id == wanted)
                .values(state="working", owner=owner, lease=now + LEASE, tries=SENDINGS.c.tries + 1, fault="")
                .returning(*_COLUMNS)
            ).first()
        return None if row is None else Sending(**row._mapping)

    def renew(self, id: str, owner: str, done: int, of: int, comes_further: bool) -> bool:
        """Keep a claim and say how far it has come; False where it is no longer one's own, or was stopped. What comes
        further was not tried in vain.
        """
        values: dict[str, Any] = {"lease": time.time() + LEASE, "done": done, "of": of}
        if comes_further:
            values["tries"] = 0
        return self._put(id, owner, values)

    def finish(self, id: str, owner: str, size: int, took: float) -> bool:
        """It is sent."""
        return self._put(id, owner, {"state": "done", "size": size, "took": took, "done": SENDINGS.c.of})

    def fail(self, id: str, owner: str, fault: str) -> bool:
        """It cannot be sent, for a reason."""
        return self._put(id, owner, {"state": "failed", "fault": fault})

    def _put(self, id: str, owner: str, values: Mapping[str, Any]) -> bool:
        mine = (SENDINGS.c.id == id) & (SENDINGS.c.owner == owner) & (SENDINGS.c.state == "working")
        with writing(self._engine).begin() as connection:
            return connection.execute(update(SENDINGS).where(mine).values(**values)).rowcount == 1

    def stop(self, id: str) -> Sending:
        """Work on it no more; what is drawn is kept."""
        return self._change(id, ("waiting", "working"), {"state": "stopped"})

    def go_on(self, id: str) -> Sending:
        """Take up again what was stopped or has failed."""
        return self._change(id, ("stopped", "failed"), {"state": "waiting", "fault": "", "tries": 0})

    def _change(self, id: str, states: tuple[State, ...], values: Mapping[str, Any]) -> Sending:
        of_these = (SENDINGS.c.id == id) & SENDINGS.c.state.in_(states)
        with writing(self._engine).begin() as connection:
            connection.execute(update(SENDINGS).where(of_these).values(**values))
        return self.get(id)

    def delete(self, id: str) -> None:
        """Take it away; until the library is opened anew or another is added it can be restored."""
        known = self.stop(id)
        self._change(id, (known.state,), {"is_deleted": True})

    def restore(self, id: str) -> Sending:
        """Have it be there again after it was deleted."""
        return self._change(id, (self.get(id).state,), {"is_deleted": False})
