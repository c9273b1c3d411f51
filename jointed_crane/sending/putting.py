"""Files put in their place whole."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, cast

from jointed_crane.core.basics.errors import RuleError


def put(target: Path, write: Callable[[BinaryIO], object]) -> int:
    """Write a file beside its place and put it there when it is whole, so that what was there stays on any fault.

    Returns its size, bytes.
    """
    aside = None
    try:
        with tempfile.NamedTemporaryFile("wb", dir=target.parent, prefix=f".{target.name}.", delete=False) as file:
            aside = Path(file.name)
            write(cast("BinaryIO", file))
            file.flush()
            os.fsync(file.fileno())
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask()
        aside.chmod(mode)
        size = aside.stat().st_size
        os.replace(aside, target)
    except BaseException as error:
        if aside is not None:
            aside.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise unwritten(target, error) from None
        raise
    return size


def unwritten(target: Path, error: OSError) -> RuleError:
    """What is said where a target cannot be written."""
    return RuleError(
        f"{target} cannot be written ({error.strerror}). Nothing was sent; what was there before is there still."
    )


def _umask() -> int:
    known = os.umask(0)
    os.umask(known)
    return known
