"""A data folder opened: its scenes, its art and its shelf together."""

from __future__ import annotations

import os
import uuid
from dataclasses import replace
from pathlib import Path

from platformdirs import user_data_path

from jointed_crane.core.edits import Edit
from jointed_crane.core.edits.drawings import Fit, ReplaceDrawing
from jointed_crane.core.edits.parts import AddParts
from jointed_crane.core.hierarchy import free_name
from jointed_crane.core.scene import Scene
from jointed_crane.formats.artwork import Artwork, Choices, parts_of
from jointed_crane.formats.bundle import Bundle
from jointed_crane.formats.comparing import LayerChange, compared
from jointed_crane.store.assets import AssetStore
from jointed_crane.store.database import opened
from jointed_crane.store.scenes import Kept, SceneStore
from jointed_crane.store.shelf import Shelf


def data_folder(given: str | None = None) -> Path:
    """The folder given, the one in JOINTED_CRANE_DATA, or the user's own."""
    chosen = given or os.environ.get("JOINTED_CRANE_DATA")
    return Path(chosen) if chosen else user_data_path("jointed-crane", appauthor=False)


class Library:
    """Everything kept in one data folder."""

    def __init__(self, folder: Path) -> None:
        engine = opened(folder)
        self.scenes = SceneStore(engine)
        self.assets = AssetStore(engine)
        self.shelf = Shelf(engine, self.scenes)

    def bring_in(
        self, scene_id: str, version: int, artwork: Artwork, choices: Choices | None = None
    ) -> tuple[Kept, list[str]]:
        """Store artwork and add a part for each of its pieces that is taken; returns the parts' ids too."""
        parts = parts_of(artwork, [new_id() for _ in artwork.pieces], choices)
        self.store_art(artwork)
        return self.scenes.keep(scene_id, version, [AddParts(parts)]), [part.id for part in parts]

    def store_art(self, artwork: Artwork) -> None:
        """Store the pictures of all pieces."""
        self.assets.put({piece.content_hash: (piece.media_type, piece.data) for piece in artwork.pieces})

    def bring_in_again(self, scene_id: str, version: int, artwork: Artwork, fit: Fit) -> tuple[Kept, list[LayerChange]]:
        """Exchange the art of every drawing whose layer has changed and add a part for each new layer; one row of undo.

        Returns what was found of every layer too.
        Pivots, eyelets, children and keys stay. Layers that are gone from the file keep their parts.
        """
        kept = self.scenes.load(scene_id)
        changes = compared(kept.scene, artwork)
        edits: list[Edit] = []
        new = []
        for change in changes:
            if change.piece is None or change.state == "same":
                continue
            if change.state == "new":
                new.append(change.piece)
                continue
            edits += [
                ReplaceDrawing(part, known.id, change.drawing(known, artwork), fit) for part, known in change.known
            ]
        if new:
            edits.append(AddParts(parts_of(replace(artwork, pieces=tuple(new)), [new_id() for _ in new])))
        self.store_art(artwork)
        if edits:
            kept = self.scenes.keep(scene_id, version, edits, f"Bring in {artwork.file} again")
        return kept, changes

    def new_from(self, artwork: Artwork, name: str) -> Kept:
        """A new scene of the artwork's size with a part for each piece."""
        name = free_name(name, (card.name for card in self.shelf.cards()))
        kept = self.shelf.create(Scene(new_id(), name, artwork.width, artwork.height), "Bring in")
        return self.bring_in(kept.scene.id, kept.version, artwork)[0]

    def open_bundle(self, bundle: Bundle) -> Kept:
        """Put a scene from a zip on the shelf, as a scene of its own under its own name."""
        self.assets.put(bundle.art)
        return self.shelf.create(replace(bundle.scene, id=new_id()), "Open")


def new_id() -> str:
    """A fresh id for a scene or a part."""
    return uuid.uuid4().hex[:16]
