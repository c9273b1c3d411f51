"""What is wrong with the disk or the file that a library lies in, as a sentence that is true of it."""

from __future__ import annotations

import errno
import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from sqlalchemy.exc import DatabaseError

FaultKind = Literal["busy", "full", "read-only", "damaged", "unreadable"]
#: What systems call a disk that is full.
FULL = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EFBIG})
_CLOSED = frozenset({errno.EROFS, errno.EACCES, errno.EPERM})
#: A disk with less room than this is full, bytes: SQLite reports it in many ways.
_NO_ROOM = 1_000_000


@dataclass(frozen=True)
class Fault:
    """What is wrong, and the sentence for it: what happened, what was kept, what to do."""

    kind: FaultKind
    sentence: str


def fault_of(error: Exception, folder: Path) -> Fault | None:
    """What an error says about the disk or the file of the library in a folder; None where it says nothing of them."""
    kind = _of_file(error) if isinstance(error, OSError) else _of_database(error, folder)
    return None if kind is None else Fault(kind, _SENTENCES[kind].format(folder=folder))


_SENTENCES: dict[FaultKind, str] = {
    "busy": (
        "Another program is writing to this library just now and does not end. Nothing was changed; try again in a "
        "moment."
    ),
    "full": (
        "The disk is full that {folder} lies on. Nothing was changed, and what was stored before is kept; make room "
        "and try again."
    ),
    "read-only": (
        "{folder} is read-only here. Nothing was changed, and what was stored before is kept: scenes can be looked at "
        "and sent. Make the folder writable, or choose another one with --data."
    ),
    "damaged": (
        "The library in {folder} is damaged, or its file is of another program. Nothing was written into it; put a "
        "copy of the file in its place, or choose another folder with --data."
    ),
    "unreadable": (
        "The disk that {folder} lies on did not read or write what it should. This change was not kept; look at the "
        "disk before you go on."
    ),
}


def _of_file(error: OSError) -> FaultKind | None:
    if error.errno in FULL:
        return "full"
    return "read-only" if error.errno in _CLOSED else None


def _of_database(error: Exception, folder: Path) -> FaultKind | None:
    if not isinstance(error, DatabaseError):
        return None
    name = getattr(error.orig, "sqlite_errorname", "")
    if name.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return "busy"
    if name.startswith("SQLITE_READONLY"):
        return "read-only"
    if name.startswith(("SQLITE_CORRUPT", "SQLITE_NOTADB")):
        return "damaged"
    if name.startswith(("SQLITE_FULL", "SQLITE_IOERR", "SQLITE_CANTOPEN")):
        return "full" if name == "SQLITE_FULL" or _has_no_room(folder) else _beside_full(name)
    return None


def _beside_full(name: str) -> FaultKind:
    return "read-only" if name.startswith("SQLITE_CANTOPEN") else "unreadable"


def _has_no_room(folder: Path) -> bool:
    try:
        return shutil.disk_usage(folder).free < _NO_ROOM
    except OSError:
        return False
