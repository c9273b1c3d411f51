"""The check page."""

from __future__ import annotations

from flask import Blueprint, render_template

from jointed_crane.core.checks import CHECKS, findings
from jointed_crane.formats.edit_document import edit_document
from jointed_crane.web.api.rig import font_ids
from jointed_crane.web.library import library
from jointed_crane.web.static_files import room_address

pages = Blueprint(
    "check", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("check")
)


@pages.get("/scenes/<scene_id>/check")
def show(scene_id: str) -> str:
    """Every finding with its part and its number, what mends it, and what is silenced."""
    entry = library().scenes.load(scene_id)
    result = [
        (finding, entry.scene.part(finding.part), [edit_document(edit) for edit in finding.mend])
        for finding in findings(entry.scene, font_ids())
    ]
    groups = [(check.NAME, [row for row in result if row[0].check == check.NAME]) for check in CHECKS]
    silenced = [(part, name) for part in entry.scene.parts for name in part.silenced]
    return render_template(
        "check/check.html",
        scene=entry.scene,
        version=entry.version,
        undo_label=entry.undo_label,
        count=len(result),
        groups=[(name, rows) for name, rows in groups if rows],
        passed=[name for name, rows in groups if not rows],
        silenced=silenced,
    )
