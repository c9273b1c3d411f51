"""The docs page of the edits, and the OpenAPI description."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from flask import Blueprint, current_app, render_template
from markupsafe import Markup, escape

from jointed_crane.web.docs.describing import edit_entries, limit_entries, openapi

pages = Blueprint("docs", __name__, template_folder="templates")


@pages.app_template_filter("code")
def code(text: str) -> Markup:
    """Text with what stands between backticks set as code."""
    pieces = escape(text).split("`")
    return Markup("").join(Markup("<code>{}</code>").format(Markup(p)) if n % 2 else p for n, p in enumerate(pieces))


@pages.get("/docs/edits")
def edits() -> str:
    """Every edit of the API with its fields, generated from the code."""
    families = [(family, list(result)) for family, result in groupby(edit_entries(), key=lambda entry: entry.family)]
    return render_template("docs/edits.html", families=families, limits=limit_entries())


@pages.get("/api/openapi.json")
def description() -> dict[str, Any]:
    """This API as an OpenAPI 3.1 description."""
    return openapi(current_app)  # type: ignore[arg-type]
