"""The shelf's page."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, render_template

from jointed_crane.sending.ways import WAYS
from jointed_crane.web.library import examples, library
from jointed_crane.web.static_files import room_address

pages = Blueprint(
    "shelf", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("shelf")
)


@pages.get("/")
def show() -> str:
    """All scenes as cards, newest first."""
    shelf = library().shelf
    return render_template(
        "shelf/shelf.html",
        cards=shelf.cards(),
        undo_label=shelf.undo_label(),
        redo_label=shelf.redo_label(),
        ways=[way for way in WAYS.values() if way.is_quick],
        has_examples=examples() is not None,
    )


@pages.app_template_filter("ago")
def ago(moment: datetime) -> str:
    """A moment (UTC, naive) as people say it, in this machine's time."""
    local = moment.replace(tzinfo=UTC).astimezone()
    days = (datetime.now().astimezone().date() - local.date()).days
    if days == 0:
        return f"today {local:%H:%M}"
    return "yesterday" if days == 1 else f"{local.day} {local:%b}" if days < 300 else f"{local.day} {local:%b %Y}"


@pages.app_template_filter("plain")
def plain(number: float) -> str:
    """A number without trailing zeros."""
    return f"{number:.6g}"
