"""Artwork that was read not long ago: looking at layers, and bringing them in then, reads a file once."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence

from jointed_crane.formats.artwork import Artwork
from jointed_crane.reading.foreign_file import ForeignFile

#: So much is kept, bytes; the oldest gives way.
_MOST_BYTES = 64_000_000
#: What a corner of an outline takes, bytes.
_CORNER = 120


class ReadBefore:
    """Artwork by its file and how that was read. Safe to share between threads."""

    def __init__(self, most: int = _MOST_BYTES) -> None:
        self._most = most
        self._known: OrderedDict[Hashable, Artwork] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, files: Sequence[ForeignFile], read: Callable[[list[ForeignFile]], Sequence[Artwork]]) -> list[Artwork]:
        """What files hold, in their order; those that are not known are read, together."""
        names = [_name(file) for file in files]
        with self._lock:
            result = {name: self._known[name] for name in names if name in self._known}
        missing = {name: file for name, file in zip(names, files, strict=True) if name not in result}
        if missing:
            result.update(zip(missing, read(list(missing.values())), strict=True))
        with self._lock:
            for name in names:
                self._known[name] = result[name]
                self._known.move_to_end(name)
            while self._known and sum(map(_size, self._known.values())) > self._most:
                self._known.popitem(last=False)
        return [result[name] for name in names]


def _name(file: ForeignFile) -> Hashable:
    reading = file.reading
    chosen = (reading.coming, frozenset(reading.opened), frozenset(reading.crosses.items()))
    return hashlib.sha256(file.data).digest(), file.name, chosen, tuple(map(tuple, reading.fused))


def _size(artwork: Artwork) -> int:
    return sum(len(piece.data) + _CORNER * sum(map(len, piece.outline)) for piece in artwork.pieces)
