"""Scenes for scripts: open a library, edit, draw and send, in a few lines of Python.

    library = jointed_crane.open_library()
    ferry = library.open("Ferry")
    ferry.edit({"edit": "rename_scene", "name": "Ferry at noon"})
    picture = ferry.frame(12, scale=0.5)
    ferry.send("ferry.webp", "webp", see_through=True)

What cannot be done raises `RuleError` with a sentence, and then nothing was changed.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit
from jointed_crane.core.edits.pictures.drawings import Fit
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.formats.artwork import drawing_of
from jointed_crane.formats.differences import differences
from jointed_crane.formats.edit_document import edit_from
from jointed_crane.reading import jobs
from jointed_crane.reading.bounds import READING
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.reading.texts import outlined
from jointed_crane.sending.film import Sent
from jointed_crane.sending.putting import put
from jointed_crane.sending.variants import Variant, variant
from jointed_crane.sending.ways import way_named
from jointed_crane.store.database import data_folder
from jointed_crane.store.library import Library, new_id
from jointed_crane.store.scenes import Changed, Entry
from jointed_crane.work.workers import Workers

if TYPE_CHECKING:
    from jointed_crane.render.frames import Pixels


class OpenLibrary:
    """The scenes of one data folder: the given one, that of JOINTED_CRANE_DATA, or the user's own."""

    def __init__(self, folder: str | os.PathLike[str] | None = None) -> None:
        self._library = Library(data_folder(None if folder is None else str(folder)))
        self._workers = Workers("fork")

    @property
    def names(self) -> list[str]:
        """Names of the scenes on the shelf, the newest first."""
        return [card.name for card in self._library.shelf.cards()]

    def open(self, name: str) -> OpenScene:
        """The newest scene of this name; RuleError where there is none."""
        card = self._library.shelf.find(name)
        if card is None:
            names = ", ".join(self.names) or "none yet"
            raise RuleError(f"There is no scene called {name!r}. The scenes are: {names}.")
        return OpenScene(self._library, self._workers, card.id)

    def new(self, name: str, **fields: Any) -> OpenScene:
        """A new, empty scene; `fields` are those of a scene: width, height, px, ground, fps, length."""
        known = ("width", "height", "ground", "fps", "length")
        stray = next((field for field in fields if field not in known), None)
        if stray is not None:
            raise RuleError(f"A new scene has no {stray!r}. Nothing was made; {', '.join(known)} can be told.")
        entry = self._library.shelf.create(Scene(new_id(), name, **fields))
        return OpenScene(self._library, self._workers, entry.scene.id)


class OpenScene:
    """One scene, always as it is stored now."""

    def __init__(self, library: Library, workers: Workers, scene_id: str) -> None:
        self._library, self._workers, self.id = library, workers, scene_id

    @property
    def scene(self) -> Scene:
        """The frozen scene."""
        return self._entry.scene

    @property
    def _entry(self) -> Entry:
        return self._library.scenes.load(self.id)

    def part(self, name: str) -> Part:
        """The part of this name; RuleError where there is none."""
        known = next((part for part in self.scene.parts if part.name == name), None)
        if known is None:
            raise RuleError(f"{self.scene.name} has no part called {name!r}.")
        return known

    def edit(self, *edits: Edit | Mapping[str, Any], keeps_before: bool = True) -> list[str]:
        """Keep edits, all or none, as one row of undo; each is a value or {"edit": kind, ...} as the API takes it.

        Returns sentences of what they did more than one would think.
        """
        change = self._changed(edits, keeps_before)
        self._library.scenes.commit(change)
        return list(change.remarks)

    def differences(self, *edits: Edit | Mapping[str, Any], keeps_before: bool = True) -> list[str]:
        """What would differ, in sentences; nothing is kept."""
        return differences(self._changed(edits, keeps_before).change)

    def _changed(self, edits: tuple[Edit | Mapping[str, Any], ...], keeps_before: bool) -> Changed:
        values = [one if isinstance(one, Edit) else edit_from(dict(one)) for one in edits]
        known = self._entry
        return self._library.scenes.changed(self.id, known.version, self._outlined(values), keeps_before=keeps_before)

    def _outlined(self, edits: list[Edit]) -> list[Edit]:
        return outlined(edits, self._library.assets.get, self._read)

    def _read(self, job: Callable[..., Any], *given: Any) -> Any:
        return self._workers.do(READING, job, *given)

    def undo(self) -> None:
        """Take the last edit back; RuleError where there is none."""
        self._library.scenes.undo(self.id, self._entry.version)

    def redo(self) -> None:
        """Do it again; RuleError where there is none."""
        self._library.scenes.redo(self.id, self._entry.version)

    def rename(self, name: str) -> None:
        """Give it another name."""
        self._library.shelf.rename(self.id, name)

    def delete(self) -> None:
        """Take it off the shelf, where undo brings it back."""
        self._library.shelf.delete(self.id)

    def variant(
        self, row: Mapping[str, str], folder: str | os.PathLike[str] = ".", fit: Fit = "registration"
    ) -> Variant:
        """The scene with a row of a table in its slots: cells by the names of parts, as `sending.variants` says.

        Pictures are files of the folder, laid registration on registration, or stretched to the old box.
        """
        pictures = partial(self._picture, Path(folder).resolve())
        return variant(self.scene, self._library.assets.get, row, self._outlined, pictures, fit)

    def _picture(self, folder: Path, name: str) -> tuple[Drawing, tuple[str, bytes]]:
        path = (folder / name).resolve()
        if not path.is_relative_to(folder) or not path.is_file():
            raise RuleError(f"There is no picture {name[:100]!r} beside the table. Nothing was sent.")
        artwork = self._read(jobs.one_piece, ForeignFile(path.read_bytes(), path.name))
        (piece, *_) = artwork.pieces
        return drawing_of(piece, artwork, new_id()), (piece.media_type, piece.data)

    def frame(
        self,
        number: float | None = None,
        scale: float = 1.0,
        see_through: bool = False,
        part: str | None = None,
        of: Variant | None = None,
    ) -> Pixels:
        """A frame, whole or between, or the rest where no number is given; of a variant where one is given.

        Returns
        -------
        pixels : array, shape (height, width, 4): red, green, blue and alpha, 8 bits, premultiplied, sRGB
        """
        from jointed_crane.sending.choices.pictures import Still

        still = Still.model_validate(
            {"frame": number, "scale": float(scale), "see_through": see_through, "part": part}, by_name=True
        )
        made = of or Variant(self.scene, self._library.assets.get)
        return still.pixels(made.scene, made.art)

    def send(self, path: str | os.PathLike[str], way: str, of: Variant | None = None, **choices: Any) -> int:
        """Write it, or a variant of it, as a file of a way out, with its choices by their names; what was there stays
        on any fault.

        Returns its size, bytes.
        """
        chosen = way_named(way).chosen(choices)
        made = of or Variant(self.scene, self._library.assets.get)
        return put(Path(path), lambda file: chosen.write(Sent(made.scene, made.art, file)))
