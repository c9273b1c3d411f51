"""The joint map's page, and the map as an SVG file."""

from __future__ import annotations

from flask import Blueprint, Response, render_template, url_for
from lxml import etree
from markupsafe import Markup

from jointed_crane.formats.joint_map.drawing import map_bytes, map_svg
from jointed_crane.formats.joint_map.layout import joint_map
from jointed_crane.web.api.sending import as_download
from jointed_crane.web.library import library
from jointed_crane.web.security import inert
from jointed_crane.web.static_files import room_address

pages = Blueprint(
    "joint_map", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("map")
)


@pages.get("/scenes/<scene_id>/map")
def show(scene_id: str) -> str:
    """The rig as a graph; a click on a part picks it on the bench."""
    scene = library().scenes.load(scene_id).scene
    result = joint_map(scene)
    picture = etree.tostring(map_svg(scene, result, url_for("bench.show", scene_id=scene_id)), encoding="unicode")
    seated = sum(link.seat is not None for link in result.links)
    return render_template(
        "joint_map/joint_map.html", scene=scene, picture=Markup(picture), found=result, seated=seated
    )


@pages.get("/scenes/<scene_id>/map.svg")
@inert
def print_out(scene_id: str) -> Response:
    """The map as a file for paper."""
    scene = library().scenes.load(scene_id).scene
    answer = Response(map_bytes(scene, joint_map(scene)), content_type="image/svg+xml")
    return as_download(answer, f"{scene.name} joint map.svg")
