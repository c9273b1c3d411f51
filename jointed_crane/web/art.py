"""Stored art and thumbnails as pictures: shown through image elements, so nothing in them can run."""

from __future__ import annotations

from typing import cast

from flask import Blueprint, Response, redirect, url_for

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.placing.kept_poses import pose_of
from jointed_crane.formats.svg_out.pose_picture import pose_svg
from jointed_crane.formats.svg_out.still import still_svg
from jointed_crane.web.library import library
from jointed_crane.web.security import inert

pages = Blueprint("art", __name__)

_FOREVER = "public, max-age=31536000, immutable"


def _picture(media_type: str, data: bytes) -> Response:
    answer = Response(data, content_type=media_type)
    answer.headers["Cache-Control"] = _FOREVER
    return answer


@pages.get("/art/<content_hash>")
@inert
def stored_art(content_hash: str) -> Response:
    """Art by its content hash; it never changes."""
    media_type, data = library().assets.get(content_hash)
    if not media_type.startswith("image/"):
        raise RuleError("What is stored under this name is not a picture.")
    return _picture(media_type, data)


@pages.get("/scenes/<scene_id>/thumbnail-<int:version>.svg")
@inert
def thumbnail(scene_id: str, version: int) -> Response:
    """A scene's first frame, drawn from the scene itself.

    The address names the version, so that it can be cached for good; another version is shown the way to its own.
    """
    entry = library().scenes.load(scene_id)
    if entry.version != version:
        moved = redirect(url_for("art.thumbnail", scene_id=scene_id, version=entry.version))
        moved.headers["Cache-Control"] = "no-store"
        return cast(Response, moved)
    return _picture("image/svg+xml", still_svg(entry.scene, library().assets.get, 0.0))


@pages.get("/scenes/<scene_id>/poses/<pose_id>.svg")
@inert
def kept_pose(scene_id: str, pose_id: str) -> Response:
    """A kept pose; whoever shows it adds the version to the address, so that it is asked for again when art changes."""
    entry = library().scenes.load(scene_id)
    answer = _picture("image/svg+xml", pose_svg(entry.scene, pose_of(entry.scene, pose_id), library().assets.get))
    answer.headers["Cache-Control"] = "private, max-age=600"
    return answer
