"""What people have set for themselves in one library, each a JSON value under a name."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Engine, select
from sqlalchemy.dialects.sqlite import insert

from jointed_crane.store.database import writing
from jointed_crane.store.tables import SETTINGS


class Settings:
    """The settings of one library."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def get(self, name: str) -> Any:
        """What is set under a name, or None."""
        with self._engine.connect() as connection:
            return connection.execute(select(SETTINGS.c.value).where(SETTINGS.c.name == name)).scalar()

    def put(self, name: str, value: Any) -> None:
        """Set it."""
        with writing(self._engine).begin() as connection:
            row = insert(SETTINGS).values(name=name, value=value)
            connection.execute(row.on_conflict_do_update(index_elements=["name"], set_={"value": value}))
