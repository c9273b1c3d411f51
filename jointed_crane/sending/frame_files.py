"""Frames that are drawn, kept in files until they are written: whatever ends the work, they are not drawn again."""

from __future__ import annotations

import os
import struct
import threading
import zlib
from pathlib import Path

import numpy as np
import numpy.typing as npt

Pixels = npt.NDArray[np.uint8]
_HEAD = struct.Struct("<II")
#: Frames that are drawn in one go.
_STRETCH = 12


def packed(pixels: Pixels) -> bytes:
    """A frame as it is kept and sent between machines."""
    return _HEAD.pack(pixels.shape[1], pixels.shape[0]) + zlib.compress(pixels.tobytes(), 1)


class FrameFiles:
    """The frames of one film in a folder, by their places."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def put(self, place: int, frame: bytes) -> None:
        """Keep a packed frame; it is there whole or not at all."""
        path = self._path(place)
        aside = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
        aside.write_bytes(frame)
        os.replace(aside, path)

    def has(self, place: int) -> bool:
        """Whether a frame is there."""
        return self._path(place).exists()

    def get(self, place: int) -> Pixels:
        """A frame, shape (height, width, 4), premultiplied."""
        data = self._path(place).read_bytes()
        width, height = _HEAD.unpack_from(data)
        return np.frombuffer(zlib.decompress(memoryview(data)[_HEAD.size :]), np.uint8).reshape(height, width, 4)

    def missing(self, count: int) -> list[tuple[int, int]]:
        """Where the frames of so many that are not there lie: first and last place of each stretch to be drawn."""
        here = self._places()
        lacking = [place for place in range(count) if place not in here]
        stretches: list[tuple[int, int]] = []
        for place in lacking:
            if stretches and stretches[-1][1] == place - 1 and place - stretches[-1][0] < _STRETCH:
                stretches[-1] = (stretches[-1][0], place)
            else:
                stretches.append((place, place))
        return stretches

    def clear(self, but: int) -> None:
        """Keep no frame any more but one, which shows what it was."""
        for place in self._places() - {but}:
            self._path(place).unlink()

    def newest(self, most: int) -> Pixels | None:
        """The last frame that is there; None where there is none, or where it has more pixels than so many."""
        places = self._places()
        if not places:
            return None
        with open(self._path(max(places)), "rb") as file:
            width, height = _HEAD.unpack(file.read(_HEAD.size))
        return self.get(max(places)) if width * height <= most else None

    def _places(self) -> set[int]:
        if not self._folder.exists():
            return set()
        return {int(path.stem) for path in self._folder.iterdir() if path.suffix == ".frame"}

    def _path(self, place: int) -> Path:
        return self._folder / f"{place:07d}.frame"
