"""One frame of a scene as an SVG drawing: thumbnails, and pictures of the rest."""

from __future__ import annotations

from lxml import etree

from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.model.scene import NO_GROUND, Scene
from jointed_crane.core.viewing.cameras import stage_view
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.in_depth import AsPicture, DepthFrames
from jointed_crane.formats.svg_out.inlining import add_art, matrix_text, number
from jointed_crane.formats.svg_out.moving_shapes import add_shape


def stage_element(scene: Scene, view: Bounds | None = None) -> etree._Element:
    """The root of a sent drawing: the stage in px, or the box of it that is in view, with its ground if it has one."""
    left, top, right, bottom = view or (0.0, 0.0, scene.width, scene.height)
    root = etree.Element(f"{{{SVG}}}svg", nsmap={None: SVG, "xlink": "http://www.w3.org/1999/xlink"})
    root.set("width", number(right - left))
    root.set("height", number(bottom - top))
    root.set("viewBox", " ".join(map(number, (left, top, right - left, bottom - top))))
    etree.SubElement(root, f"{{{SVG}}}title").text = scene.name
    if scene.ground != NO_GROUND:
        etree.SubElement(root, f"{{{SVG}}}rect", width="100%", height="100%", fill=scene.ground)
    return root


def still_svg(
    scene: Scene,
    art: ArtSource,
    frame: float | None = None,
    view: Bounds | None = None,
    only: frozenset[str] | None = None,
    as_picture: AsPicture | None = None,
) -> bytes:
    """The scene at a frame, or at rest where `frame` is None. Helpers and hidden parts are left out.

    `view` is the box of the stage that is in view, px, and `only` the ids of the parts that are painted; without them
    it is the whole stage with all parts. In depth it is seen by the camera that is on (`DepthFrames`).
    """
    pose = pose_at(scene, frame)
    root = stage_element(scene, view)
    if scene.depth:
        frames = DepthFrames(scene, art, root, as_picture, only)
        frames.write(root, frames.pieces(pose, 0, stage_view(scene, pose, is_at_rest=frame is None)))
        return etree.tostring(root, encoding="utf-8", xml_declaration=True)
    shapes = pose.shapes()
    for part_id in pose.painting():
        row = pose.index[part_id]
        drawing = int(pose.drawing[row, 0])
        is_sent = drawing >= 0 and scene.part(part_id).is_sent and (only is None or part_id in only)
        if not is_sent or not pose.shown[row, 0] or pose.opacity[row, 0] <= 0:
            continue
        group = etree.SubElement(root, f"{{{SVG}}}g", transform=matrix_text(pose.world[row, 0]))
        if pose.opacity[row, 0] < 1:
            group.set("opacity", number(float(pose.opacity[row, 0])))
        shown, shape = scene.part(part_id).drawings[drawing], shapes.get(part_id, [None])[0]
        if shape is None:
            add_art(group, shown, f"a{row}-", art)
        else:
            add_shape(group, shown, shape)
    return etree.tostring(root, encoding="utf-8", xml_declaration=True)
