"""What a rigger asks of a scene: gaps of its joints, round ends, findings of the checks, and the fonts at hand."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint

from jointed_crane.core.checks import findings
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.measures.gaps import gaps
from jointed_crane.core.measures.round_joints import at_range_ends, is_patched, round_joint
from jointed_crane.core.viewing.projection import planar
from jointed_crane.formats.edit_document import edit_document
from jointed_crane.formats.lettering import FONT_TYPE, SHIPPED, font_name
from jointed_crane.reading import jobs
from jointed_crane.web.api.answer_models.rig import Findings, Font, Fonts, Gaps, JointAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import FrameQuery, NoForm, NoQuery
from jointed_crane.web.api.reading import foreign, read, request_files
from jointed_crane.web.library import library

api = Blueprint("rig", __name__, url_prefix="/api")


@api.get("/scenes/<scene_id>/gaps")
@contract(query=FrameQuery, gives=Gaps)
def joint_gaps(scene_id: str, query: FrameQuery) -> dict[str, Any]:
    """How far each child's pivot lies from its eyelet, px on the stage, widest first; at ?frame= or at rest."""
    entry = library().scenes.load(scene_id)
    result = gaps(entry.scene, query.frame)
    return {"version": entry.version, "gaps": [asdict(gap) for gap in result]}


@api.get("/scenes/<scene_id>/joints/<part_id>")
@contract(query=NoQuery, gives=JointAnswer)
def joint(scene_id: str, part_id: str, query: NoQuery) -> dict[str, Any]:
    """The round ends of a part's joint, px at rest, and where the part lies at the ends of its turning range."""
    entry = library().scenes.load(scene_id)
    part = entry.scene.part(part_id)
    result = round_joint(entry.scene, part)
    if result is None:
        return {"version": entry.version, "joint": None}
    ends = [{"turn": turn, "matrix": planar(world).tolist()} for turn, world in at_range_ends(entry.scene, part)]
    parent = planar(world_at(entry.scene, part.parent, None)).tolist()
    return {
        "version": entry.version,
        "joint": {
            **asdict(result),
            "difference": result.difference,
            "is_patched": is_patched(entry.scene, part, 0.97 * result.round_radius),
            "ends": ends,
            "parent_matrix": parent,
        },
    }


@api.get("/scenes/<scene_id>/findings")
@contract(query=NoQuery, gives=Findings)
def check(scene_id: str, query: NoQuery) -> dict[str, Any]:
    """What the checks find, each with the edits that mend it where that is safe."""
    entry = library().scenes.load(scene_id)
    result = [
        {**asdict(finding), "mend": [edit_document(edit) for edit in finding.mend]}
        for finding in findings(entry.scene, font_ids())
    ]
    return {"version": entry.version, "findings": result}


def font_ids() -> frozenset[str]:
    """Names of the shipped typefaces and content hashes of the uploaded ones."""
    return frozenset(SHIPPED) | frozenset(library().assets.of_type(FONT_TYPE))


@api.get("/fonts")
@contract(query=NoQuery, gives=Fonts)
def fonts(query: NoQuery) -> dict[str, Any]:
    """The typefaces at hand: shipped ones by name, uploaded ones by content hash and the name they give themselves."""
    uploaded = {
        content_hash: font_name(library().assets.get(content_hash)[1], "Font")
        for content_hash in library().assets.of_type(FONT_TYPE)
    }
    return {
        "fonts": [{"id": name, "name": name} for name in SHIPPED] + [{"id": k, "name": v} for k, v in uploaded.items()]
    }


@api.post("/fonts")
@contract(form=NoForm, has_files=True, gives=Font)
def add_font(form: NoForm) -> dict[str, Any]:
    """Store a font file; it serves all scenes from now on."""
    file = foreign(request_files()[0], "The file")
    name = read(jobs.font, file)
    (stored,) = library().assets.put([(FONT_TYPE, file.data)])
    return {"id": stored, "name": name}
