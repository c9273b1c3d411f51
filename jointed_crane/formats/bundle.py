"""A scene as a zip of JSON and art that opens anywhere, out and in."""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import struct
import zipfile
import zlib
from dataclasses import dataclass, replace

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_SCENE_BYTES, MOST_ZIP_BYTES
from jointed_crane.core.model.forms import Text
from jointed_crane.core.model.scene import Drawing, Scene
from jointed_crane.core.shapes.picture import made_art
from jointed_crane.formats.bitmap import read_bitmap
from jointed_crane.formats.document import scene_document, scene_from
from jointed_crane.formats.lettering import FONT_TYPE, SHIPPED, font_name
from jointed_crane.formats.older import NEWEST, brought_up_to_date
from jointed_crane.formats.strict_json import parsed_json
from jointed_crane.formats.svg.parsing import cleaned
from jointed_crane.formats.svg.stored_art import ArtSource

FORMAT = "jointed-crane-scene"
#: The file of a scene zip that says what the scene is.
SCENE = "scene.json"
#: What the zip reader raises on bytes that only look like a zip.
DAMAGED = (zipfile.BadZipFile, zlib.error, LookupError, OSError, EOFError, struct.error)
_ENDINGS = {
    "image/svg+xml": "svg", "image/png": "png", "image/jpeg": "jpg", "image/webp": "webp", FONT_TYPE: "font",
}  # fmt: skip


@dataclass(frozen=True)
class Bundle:
    """A scene and the art it shows, media type and bytes by content hash, with notes on what was left out."""

    scene: Scene
    art: dict[str, tuple[str, bytes]]
    notes: tuple[str, ...] = ()


def bundle_bytes(scene: Scene, art: ArtSource) -> bytes:
    """The scene as a zip; the same scene always gives the same bytes."""
    hashes = sorted({drawing.art for part in scene.parts for drawing in part.drawings})
    stored = {name: art(name) for name in hashes} | _fonts_of(scene, art)
    files = {name: f"art/{name}.{_ENDINGS[media_type]}" for name, (media_type, _) in stored.items()}
    document = {"format": FORMAT, "version": NEWEST, "scene": scene_document(scene), "art": files}
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        _write(archive, SCENE, json.dumps(document, indent=1, ensure_ascii=False).encode())
        for number, (name, (_, data)) in enumerate(stored.items(), start=1):
            progress.tell(number, len(stored), "pictures")
            _write(archive, files[name], data)
    return stream.getvalue()


def _fonts_of(scene: Scene, art: ArtSource) -> dict[str, tuple[str, bytes]]:
    """The uploaded fonts of texts, so that their words can be changed elsewhere; one that is missing is left out."""
    shapes = [drawing.shape for part in scene.parts for drawing in part.drawings]
    result = {}
    for name in sorted({shape.font for shape in shapes if isinstance(shape, Text)} - SHIPPED.keys()):
        with contextlib.suppress(RuleError):
            result[name] = art(name)
    return result


def _write(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)


def read_bundle(data: bytes, name: str) -> Bundle:
    """Open a zip again. Raises RuleError with a sentence where it is none of ours or not sound.

    Nothing is unpacked to the disk, and art is checked as strictly as artwork that is brought in.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > MOST_ZIP_BYTES:
                raise RuleError(f"{name} unpacks to more than {MOST_ZIP_BYTES // 10**6} MB. Nothing was opened.")
            if archive.getinfo(SCENE).file_size > MOST_SCENE_BYTES:
                raise RuleError(
                    f"The scene in {name} has more than {MOST_SCENE_BYTES // 10**6} MB. Nothing was opened."
                )
            document = parsed_json(archive.read(SCENE))
            if not isinstance(document, dict) or document.get("format") != FORMAT:
                raise RuleError(f"{name} is a zip but holds no scene. Nothing was opened.")
            version = document.get("version")
            if not isinstance(version, int) or not 1 <= version <= NEWEST:
                raise RuleError(f"{name} was made by a newer version (scene version {version}). Nothing was opened.")
            scene = scene_from(brought_up_to_date(document.get("scene"), version))
            files = document.get("art")
            if not isinstance(files, dict):
                raise RuleError(f"{name} does not say where its art is. Nothing was opened.")
            stored = {str(key): _art(archive, str(key), str(path), name) for key, path in files.items()}
    except RuleError:
        raise
    except (*DAMAGED, RuntimeError, ValueError):
        raise RuleError(f"{name} is not a scene zip, or it is damaged. Nothing was opened.") from None
    missing = {drawing.art for part in scene.parts for drawing in part.drawings} - stored.keys()
    if missing:
        raise RuleError(f"{name} lacks the art of {len(missing)} drawings. Nothing was opened.")
    # What is stored is named by what it is after cleaning, not by what the zip calls it.
    names = {key: hashlib.sha256(data).hexdigest() for key, (_, data) in stored.items()}
    scene = _renamed(scene, names)
    shown = {drawing.art for part in scene.parts for drawing in part.drawings if drawing.shape is None}
    art = {names[key]: result for key, result in stored.items() if names[key] in shown or result[0] == FONT_TYPE}
    return Bundle(scene, art)


def _renamed(scene: Scene, names: dict[str, str]) -> Scene:
    """The scene with its art under the names it is stored by; a shape's picture is drawn anew."""

    def renamed(drawing: Drawing) -> Drawing:
        shape = drawing.shape
        if shape is None:
            return replace(drawing, art=names[drawing.art])
        if isinstance(shape, Text):
            shape = replace(shape, font=names.get(shape.font, shape.font))
        drawing = replace(drawing, shape=shape)
        return replace(drawing, art=hashlib.sha256(made_art(drawing)).hexdigest())

    return scene.with_parts(replace(part, drawings=tuple(map(renamed, part.drawings))) for part in scene.parts)


def _art(archive: zipfile.ZipFile, content_hash: str, path: str, name: str) -> tuple[str, bytes]:
    data = archive.read(path)
    if hashlib.sha256(data).hexdigest() != content_hash:
        raise RuleError(f"Art in {name} does not match its name ({path[:60]}). Nothing was opened.")
    if path.endswith(".font"):
        font_name(data, path)
        return FONT_TYPE, data
    if path.endswith(".svg"):
        return "image/svg+xml", cleaned(data, path)
    (piece,) = read_bitmap(data, path).pieces
    return piece.media_type, piece.data
