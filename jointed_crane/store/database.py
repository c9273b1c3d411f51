"""The SQLite file: durable settings, and migrations run when it is opened."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from platformdirs import user_data_path
from pydantic_core import from_json, to_json
from sqlalchemy import Connection, Engine, create_engine, event, inspect

from jointed_crane.core.basics.errors import RuleError

if TYPE_CHECKING:
    from alembic.config import Config

FILE_NAME = "scenes.sqlite3"
#: Rows hold thousands of keys as JSON; this reads and writes it several times as fast as Python's own.
_JSON: dict[str, Any] = {"json_deserializer": from_json, "json_serializer": lambda value: to_json(value).decode()}


def data_folder(given: str | None = None) -> Path:
    """The folder given, the one in JOINTED_CRANE_DATA, or the user's own."""
    chosen = given or os.environ.get("JOINTED_CRANE_DATA")
    return Path(chosen) if chosen else user_data_path("jointed-crane", appauthor=False)


def opened(folder: Path) -> Engine:
    """The engine of a data folder, its tables brought up to date; the folder is made where there is none.

    A folder that is read-only is opened to be looked at: whatever would write is refused by the database.
    """
    if (folder / FILE_NAME).exists() and not is_writable(folder):
        return _opened_to_look(folder)
    folder.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / FILE_NAME}", connect_args={"timeout": 10}, **_JSON)
    event.listen(engine, "connect", _durable)
    event.listen(engine, "begin", _begin)
    _migrate(engine)
    return engine


def is_writable(folder: Path) -> bool:
    """Whether a data folder, or what it is made in, takes changes, and its file too where there is one."""
    place = next(above for above in (folder, *folder.absolute().parents) if above.exists())
    file = folder / FILE_NAME
    return os.access(place, os.W_OK) and (not file.exists() or os.access(file, os.W_OK))


def _opened_to_look(folder: Path) -> Engine:
    """The engine of a folder that takes no changes: the file itself, or a copy of it with what was last written, which
    only a folder that takes changes can show.
    """
    file = folder / FILE_NAME
    written = file.with_name(f"{FILE_NAME}-wal")
    if written.exists() and written.stat().st_size:
        aside = Path(tempfile.mkdtemp(prefix="jointed-crane-"))
        atexit.register(shutil.rmtree, aside, ignore_errors=True)
        for each in (file, written):
            shutil.copy(each, aside / each.name)
            (aside / each.name).chmod(0o600)
        file, how = aside / FILE_NAME, "mode=rw"
    else:
        how = "mode=ro&immutable=1"
    address = f"sqlite:///file:{quote(str(file))}?{how}&uri=true"
    engine = opened_at(address)
    with engine.connect() as connection:
        result = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalars().all()
    if result != _revisions()[-1:]:
        raise RuleError(
            f"The library in {folder} is of another version of Jointed Crane, and its folder is read-only, so it "
            "cannot be brought up to date. Nothing was changed; make it writable, or choose another with --data."
        )
    return engine


def opened_at(address: str) -> Engine:
    """The engine of a library that this program has open elsewhere, by its address, to look something up."""
    engine = create_engine(address, connect_args={"timeout": 10}, **_JSON)
    event.listen(engine, "connect", _only_read)
    event.listen(engine, "begin", _begin)
    return engine


def _only_read(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    connection.execute("PRAGMA query_only = ON")


def writing(engine: Engine) -> Engine:
    """The engine for transactions that write: they take the lock at their beginning, so none fails halfway."""
    return engine.execution_options(writes=True)


def _durable(connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun by _begin, not by the driver
    for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Connection) -> None:
    writes = connection.get_execution_options().get("writes", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")


def migration_config(connection: Connection) -> Config:
    """Alembic's configuration for a connection; no ini file is needed."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    config.attributes["connection"] = connection
    return config


def _migrate(engine: Engine) -> None:
    known = _revisions()
    with writing(engine).begin() as connection:
        if inspect(connection).has_table("alembic_version"):
            result = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalars().all()
            if result == known[-1:]:
                return
            newer = set(result) - set(known)
            if newer:
                raise RuleError(
                    f"This library is of a newer version of Jointed Crane (its tables are at {max(newer)}, the newest "
                    f"known here are {known[-1]}). Nothing was changed; use the newer version, or choose another "
                    "folder with --data."
                )
        from alembic import command  # loaded where there is something to bring up to date

        command.upgrade(migration_config(connection), "head")


def _revisions() -> list[str]:
    """Every state of the tables that is known here, oldest first."""
    versions = Path(__file__).with_name("migrations") / "versions"
    return sorted(path.stem.split("_")[0] for path in versions.glob("[0-9]*.py"))
