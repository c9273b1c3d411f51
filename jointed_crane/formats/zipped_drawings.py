"""A zip of drawings and pictures, each a file to be brought in."""

from __future__ import annotations

import contextlib
import io
import zipfile
from pathlib import PurePosixPath

from jointed_crane.core.basics.limits import MOST_FILES, MOST_ZIP_BYTES
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.bundle import DAMAGED, SCENE

_ENDINGS = {".svg", ".png", ".jpg", ".jpeg", ".webp"}


def drawings_in(data: bytes, name: str) -> list[tuple[str, bytes]]:
    """The name and the bytes of every drawing and picture in a zip, by their names; nothing is unpacked to the disk.
    Raises ArtworkError with a sentence.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            wanted = [entry for entry in archive.infolist() if _is_wanted(entry)]
            if sum(entry.file_size for entry in wanted) > MOST_ZIP_BYTES:
                raise ArtworkError(f"{name} unpacks to more than {MOST_ZIP_BYTES // 10**6} MB. Nothing was brought in.")
            if len(wanted) > MOST_FILES:
                raise ArtworkError(
                    f"{name} holds {len(wanted)} drawings; {MOST_FILES} is the most. Nothing was brought in."
                )
            result = [(PurePosixPath(entry.filename).name, archive.read(entry)) for entry in wanted]
    except ArtworkError:
        raise
    except (*DAMAGED, RuntimeError, ValueError):
        raise ArtworkError(f"{name} is not a zip that can be read, or it is damaged. Nothing was brought in.") from None
    if not result:
        raise ArtworkError(f"{name} holds no SVG drawing and no PNG, JPEG or WebP picture. Nothing was brought in.")
    return sorted(result, key=lambda file: file[0])


def holds_drawings_alone(data: bytes) -> bool:
    """Whether it is a zip that has drawings or pictures, and no scene."""
    with contextlib.suppress(*DAMAGED, RuntimeError, ValueError), zipfile.ZipFile(io.BytesIO(data)) as archive:
        return SCENE not in archive.namelist() and any(map(_is_wanted, archive.infolist()))
    return False


def _is_wanted(entry: zipfile.ZipInfo) -> bool:
    """Whether it is a drawing, and none of those that some systems put beside each file."""
    path = PurePosixPath(entry.filename)
    return path.suffix.lower() in _ENDINGS and not any(step.startswith((".", "__")) for step in path.parts)
