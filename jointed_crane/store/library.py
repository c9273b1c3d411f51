"""A data folder opened: its scenes, its art and its shelf together."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from jointed_crane.core.edits import Edit
from jointed_crane.core.edits.pictures.drawings import Fit, ReplaceDrawing
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import NO_GROUND, Part, Scene
from jointed_crane.formats.artwork import Artwork
from jointed_crane.formats.coming_in import Choices, parts_of
from jointed_crane.formats.comparing import LayerChange, compared
from jointed_crane.store.art_at_hand import Art, ArtAtHand
from jointed_crane.store.assets import AssetStore
from jointed_crane.store.database import opened
from jointed_crane.store.scenes import Changed, Entry, SceneStore
from jointed_crane.store.sendings import Sendings
from jointed_crane.store.settings import Settings
from jointed_crane.store.shelf import Shelf

if TYPE_CHECKING:
    from jointed_crane.formats.bundle import Bundle


class Library:
    """Everything kept in one data folder."""

    def __init__(self, folder: Path) -> None:
        engine = opened(folder)
        self.assets = AssetStore(engine, ArtAtHand(folder))
        self.scenes = SceneStore(engine, self.assets)
        self.shelf = Shelf(engine, self.scenes)
        self.settings = Settings(engine)
        self.sendings = Sendings(engine)
        self.folder = folder

    def bring_in(
        self, scene_id: str, version: int, artwork: Artwork, choices: Choices | None = None
    ) -> tuple[Changed, list[str]]:
        """What it takes to store artwork and add a part for each of its pieces that is taken; the parts' ids too."""
        scene = self.scenes.load(scene_id).scene
        parts = parts_of(artwork, new_id, choices, (scene.width, scene.height))
        change = self.scenes.changed(scene_id, version, [AddParts(parts)], art=_shown(artwork, parts))
        return change, [part.id for part in parts]

    def hold_art(self, artwork: Artwork) -> None:
        """Have the pictures of all pieces at hand, for whoever looks at them before they come in."""
        self.assets.hold((piece.media_type, piece.data) for piece in artwork.pieces)

    def bring_in_again(
        self, scene_id: str, version: int, artwork: Artwork, fit: Fit
    ) -> tuple[Changed, list[LayerChange]]:
        """What it takes to exchange the art of every drawing whose layer has changed and to add a part for each new
        layer, as one row of undo, and what was found of every layer.

        Pivots, eyelets, children and keys stay. Layers that are gone from the file keep their parts.
        """
        changes = compared(self.scenes.load(scene_id).scene, artwork)
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
            edits.append(AddParts(parts_of(replace(artwork, pieces=tuple(new)), new_id)))
        art = [(piece.media_type, piece.data) for piece in artwork.pieces]
        return self.scenes.changed(scene_id, version, edits, f"Bring in {artwork.file} again", art), changes

    def new_from(self, artwork: Artwork, name: str) -> Entry:
        """A new scene with a part for each piece, there whole or not at all."""
        return self.put_new(scene_of(artwork, name), "Bring in", artwork)

    def put_new(self, scene: Scene, act: str, artwork: Artwork) -> Entry:
        """Put a scene made from artwork on the shelf under a free name, with the art that it shows."""
        name = free_name(scene.name, (card.name for card in self.shelf.cards()))
        return self.shelf.create(replace(scene, name=name), act, _shown(artwork, scene.parts))

    def open_bundle(self, bundle: Bundle) -> Entry:
        """Put a scene from a zip on the shelf, as a scene of its own under its own name."""
        return self.shelf.create(replace(bundle.scene, id=new_id()), "Open", bundle.art.values())


def scene_of(artwork: Artwork, name: str) -> Scene:
    """A scene with a part for each piece, on no shelf yet: of a drawing's size, or of the usual one where several lie
    beside each other.
    """
    scene = Scene(new_id(), name, ground=NO_GROUND)
    if len(artwork.files) < 2:
        scene = replace(scene, width=artwork.width, height=artwork.height)
    return replace(scene, parts=parts_of(artwork, new_id, stage=(scene.width, scene.height)))


def _shown(artwork: Artwork, parts: Iterable[Part]) -> list[Art]:
    """The art of those pieces that parts show."""
    wanted = {drawing.art for part in parts for drawing in part.drawings}
    return [(piece.media_type, piece.data) for piece in artwork.pieces if piece.content_hash in wanted]


def new_id() -> str:
    """A fresh id for a scene or a part."""
    return uuid.uuid4().hex[:16]
