"""Cleaning a drawing: what is left is SVG by an allow-list, says its style in attributes, and points at itself alone.

Nothing is searched for harm and taken out; what is not known is not kept. Addresses are found as CSS finds them, by its
tokens, so no spelling of one gets by.
"""

from __future__ import annotations

import base64
import binascii
import io
import math
import re
from urllib.parse import unquote

import tinycss2
from lxml import etree

from jointed_crane.formats.svg.styles import own_style, set_style
from jointed_crane.formats.svg.tags import (
    ALLOWED,
    ATTRIBUTES,
    FUNCTIONS,
    LABEL,
    LEFT_OUT,
    NUMERIC,
    POINTING,
    PRESENTATION,
    STYLE_ONLY,
    SVG,
    TEXTUAL,
    XLINK_HREF,
    local_name,
)
from jointed_crane.formats.svg.viewports import NUMBER

_NOT_A_NUMBER = re.compile(r"(?<![a-z])(?:nan|[-+]?inf(?:inity)?)(?![a-z])", re.I)
#: What no value is without that names something outside, or hides that it does.
_MAY_POINT = re.compile(r"[(\\@<]")
#: What no number is without that is too large to reckon with, or none.
_MAY_BE_LARGE = re.compile(r"\d{10}|[en]", re.I)
_BITMAP = re.compile(r"data:image/(png|jpeg|jpg|webp|gif);base64,", re.I)
#: What no value is without that has to be looked at any closer; most have none of it.
_NOTABLE = re.compile(r"\d{10}|[(\\@<eEnN]")
_PLAIN_ID = re.compile(r"[A-Za-z_][\w.-]*", re.ASCII)

#: Attributes whose values have a say in what is kept; a style attribute is read by its declarations.
_READ = (ATTRIBUTES | STYLE_ONLY | {"href", XLINK_HREF}) - {"style"}
#: Attributes that stay as they are where nothing in their values is notable.
_STAYING = ATTRIBUTES - {"style", "id"}


class _Cleaner:
    """One cleaning: the notes it takes, and what ids are called afterwards."""

    def __init__(self, notes: list[str]) -> None:
        self.notes = notes
        self._ids: dict[str, str] = {}

    def clean(self, root: etree._Element) -> None:
        """Clean a whole tree in place; style sheets must be resolved already."""
        for element in list(root.iter()):
            if element is not root and local_name(element) not in ALLOWED:
                self._leave_out(element)
        for element in root.iter():
            tag = local_name(element)
            if not _is_plain(element):
                self._clean_attributes(element)
            if element.text is not None and tag not in TEXTUAL:
                element.text = None  # white space and stray words between shapes are never drawn
            if element.tail is not None:
                parent = element.getparent()
                if parent is None or local_name(parent) not in TEXTUAL:
                    element.tail = None
            if tag == "a":  # a link leads nowhere from here; what it holds is drawn
                element.tag = f"{{{SVG}}}g"

    def _leave_out(self, element: etree._Element) -> None:
        tag = element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""
        if tag in LEFT_OUT:
            self.notes.append(f"The drawing held {LEFT_OUT[tag]}; it was left out.")
        _remove(element)

    def _clean_attributes(self, element: etree._Element) -> None:
        result: dict[str, str] = {}
        items = element.items()
        for name, value in items:
            # A layer's name may come from any editor's own `label`; it is read later and never stored.
            key = LABEL if name.endswith("}label") or name == "label" else name
            if key != LABEL and name not in _READ:
                if name.lower().startswith("on"):
                    self.notes.append("The drawing held an event handler; it was left out.")
                continue
            kept = value if key == LABEL else self._kept(element, name, value)
            if kept is not None:
                result[key] = kept
        own = own_style(element)
        style = {}
        for name, value in own.items():
            if name not in PRESENTATION | STYLE_ONLY:
                continue
            kept = self._kept(element, name, value)
            if kept is not None and name in STYLE_ONLY:
                style[name] = kept
            elif kept is not None:
                result[name] = kept
        name = result.get("id", "")
        if name and not _PLAIN_ID.fullmatch(name):
            result.setdefault(LABEL, name)
            result["id"] = self._plain_id(name)
        for name, _ in items:
            del element.attrib[name]
        for key, value in result.items():
            element.set(key, value)
        set_style(element, style)

    def _kept(self, element: etree._Element, name: str, value: str) -> str | None:
        """The value of an attribute or a property as it is kept, or None."""
        if name in ("href", XLINK_HREF):
            return self._inside(element, value.strip())
        if name not in ATTRIBUTES and name not in STYLE_ONLY:
            return None
        if name in NUMERIC and not _is_finite(value):
            self.notes.append(f"The drawing held a number that is not finite ({name}); it was left out.")
            return None
        return self._harmless(value) if name in PRESENTATION or name in STYLE_ONLY else value

    def _inside(self, element: etree._Element, target: str) -> str | None:
        """A link to something in the drawing itself, or an embedded bitmap where a picture belongs."""
        tag = local_name(element)
        if tag not in POINTING:
            return None
        if target.startswith("#"):
            return f"#{self._plain_id(target[1:])}"
        match = _BITMAP.match(target)
        if tag in ("image", "feImage") and match:
            return self._bitmap(target[match.end() :])
        self._outside(target)
        return None

    def _bitmap(self, encoded: str) -> str | None:
        """An embedded bitmap written anew as what its bytes say it is."""
        from PIL import Image  # few drawings have pictures inside, and every command that sends one comes by here

        from jointed_crane.formats.bitmap import MOST_PIXELS

        try:
            data = base64.b64decode(unquote(encoded))
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP", "GIF")) as picture:
                pixels, kind = picture.width * picture.height, str(picture.format).lower()
        except (OSError, ValueError, SyntaxError, binascii.Error, Image.DecompressionBombError):
            self.notes.append("An embedded picture could not be read; it was left out.")
            return None
        if pixels > MOST_PIXELS:
            self.notes.append("An embedded picture was too large; it was left out.")
            return None
        return f"data:image/{kind};base64,{base64.b64encode(data).decode()}"

    def _harmless(self, value: str) -> str | None:
        """A CSS value that names nothing outside the drawing, with its addresses in one plain form; else None."""
        if not _MAY_POINT.search(value):
            return value
        tokens = tinycss2.parse_component_value_list(value)
        return tinycss2.serialize(tokens).strip() if self._are_harmless(tokens) else None

    def _are_harmless(self, tokens: list) -> bool:
        for place, token in enumerate(tokens):
            if token.type == "error":
                self._outside("an address that does not end")
                return False
            if token.type == "url" or (token.type == "function" and token.lower_name == "url"):
                target = token.value if token.type == "url" else _words(token.arguments)
                if not target.strip().startswith("#"):
                    self._outside(target)
                    return False
                name = self._plain_id(target.strip()[1:])
                tokens[place] = tinycss2.parse_one_component_value(f"url(#{name})")
            elif token.type == "function":
                if token.lower_name not in FUNCTIONS:
                    self._outside(f"{token.name[:20]}()")
                    return False
                if not self._are_harmless(token.arguments):
                    return False
            elif token.type in ("{} block", "[] block", "() block", "at-keyword"):
                return False
        return True

    def _plain_id(self, name: str) -> str:
        """An id that needs no quotes and no escapes anywhere: most are so already."""
        if _PLAIN_ID.fullmatch(name):
            return name
        return self._ids.setdefault(unquote(name), f"renamed-{len(self._ids) + 1}")

    def _outside(self, target: str) -> None:
        self.notes.append(f"The drawing pointed at something outside it ({target[:60]}); it was left out.")


def clean(root: etree._Element, notes: list[str]) -> None:
    """Leave of a drawing only what this app knows to be harmless; `notes` gets a sentence for what a user may miss."""
    _Cleaner(notes).clean(root)


def _is_plain(element: etree._Element) -> bool:
    """Whether nothing an element says could need cleaning, as is so of most."""
    return all(
        not _NOTABLE.search(value) if name in _STAYING else name == "id" and _PLAIN_ID.fullmatch(value)
        for name, value in element.items()
    )


def _words(arguments: list) -> str:
    return "".join(token.value for token in arguments if token.type in ("string", "ident"))


def _is_finite(value: str) -> bool:
    if not _MAY_BE_LARGE.search(value):
        return True
    if _NOT_A_NUMBER.search(value):
        return False
    return all(math.isfinite(number) and abs(number) < 1e9 for number in map(float, NUMBER.findall(value)))


def _remove(element: etree._Element) -> None:
    parent = element.getparent()
    if parent is None:
        return
    if element.tail:  # text behind the element belongs to its parent
        before = element.getprevious()
        if before is None:
            parent.text = (parent.text or "") + element.tail
        else:
            before.tail = (before.tail or "") + element.tail
    parent.remove(element)
