"""Outlines of the texts that edits bring."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from jointed_crane.core.edits import Edit
from jointed_crane.core.model.forms import Text
from jointed_crane.formats.lettering import FONT_TYPE, SHIPPED, no_typeface, with_outlines
from jointed_crane.reading import jobs


def outlined(edits: list[Edit], art: Callable[[str], tuple[str, bytes]], read: Callable[..., Any]) -> list[Edit]:
    """Edits with the outlines of every text they bring.

    Uploaded fonts are foreign, so a worker reads them: `read` has it do a job with its arguments.
    """

    def lettered(text: Text) -> Text:
        media_type, data = art(text.font)
        if media_type != FONT_TYPE:
            raise no_typeface(text.font)
        result: Text = read(jobs.letters, text, data)
        return result

    return with_outlines(edits, lambda text: None if text.font in SHIPPED else lettered(text))
