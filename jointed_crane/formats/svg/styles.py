"""Style declarations of one element: reading them, writing them, and resolving style sheets into them."""

from __future__ import annotations

import re
from functools import lru_cache

import cssselect2
import tinycss2
from lxml import etree

from jointed_crane.core.basics.limits import MOST_MATCHES
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.svg.tags import SVG

Style = dict[str, str]

_SCREEN = re.compile(r"^\s*(all|screen|only screen)?\s*$", re.I)


def own_style(element: etree._Element) -> Style:
    """The declarations of an element's style attribute."""
    text = element.get("style")
    return dict(_declarations(text)) if text else {}


@lru_cache(maxsize=4096)
def _declarations(text: str) -> tuple[tuple[str, str], ...]:
    """A style attribute's names and values; drawings say the same few styles again and again."""
    items = tinycss2.parse_declaration_list(text, skip_comments=True, skip_whitespace=True)
    return tuple(
        (item.lower_name, tinycss2.serialize(item.value).strip()) for item in items if item.type == "declaration"
    )


def set_style(element: etree._Element, style: Style) -> None:
    """Write declarations into an element's style attribute."""
    if style:
        element.set("style", ";".join(f"{name}:{value}" for name, value in style.items()))
    elif "style" in element.attrib:
        del element.attrib["style"]


def declared(element: etree._Element, name: str) -> str | None:
    """One property as the element itself declares it: style before presentation attribute."""
    return own_style(element).get(name) or element.get(name)


def resolve_style_sheets(root: etree._Element, name: str) -> list[str]:
    """Move every style sheet rule into the style attributes of the elements it matches, and drop the sheets.

    The cascade is CSS's own: importance, then inline before sheets, then specificity, then order. Rules are matched
    on the whole drawing, before it is split. Returns notes on what could not be kept. Raises ArtworkError where there
    are too many rules for so many elements.
    """
    notes: list[str] = []
    matcher = cssselect2.Matcher()
    has_rules = False
    for sheet in list(root.iter(f"{{{SVG}}}style")):
        if sheet.get("type", "text/css").strip() in ("", "text/css"):
            has_rules |= _add_rules(matcher, tinycss2.parse_stylesheet("".join(sheet.itertext())), notes)
        sheet.getparent().remove(sheet)
    if not has_rules:
        return notes
    every = list(cssselect2.ElementWrapper.from_xml_root(root).iter_subtree())
    tries = sum(_tries(matcher, wrapped) for wrapped in every)
    if tries > MOST_MATCHES:
        raise ArtworkError(
            f"The style rules of {name} would be tried {tries} times on its elements; {MOST_MATCHES} is the most. "
            "Nothing was brought in; have the drawing program write styles onto the shapes themselves."
        )
    for wrapped in every:
        _cascade(wrapped.etree_element, matcher.match(wrapped))
    return notes


def _add_rules(matcher: cssselect2.Matcher, rules: list, notes: list[str]) -> bool:
    added = False
    for rule in rules:
        if rule.type == "at-rule":
            if rule.lower_at_keyword == "media" and rule.content and _SCREEN.match(tinycss2.serialize(rule.prelude)):
                added |= _add_rules(matcher, tinycss2.parse_rule_list(rule.content), notes)
            elif rule.lower_at_keyword == "import":
                notes.append("An external style sheet was left out; put its rules into the drawing.")
            elif rule.lower_at_keyword == "font-face":
                notes.append("An external font was left out; turn its text into outlines to keep the letter forms.")
            continue
        if rule.type != "qualified-rule":
            continue
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError:
            continue
        declarations = [
            (item.lower_name, tinycss2.serialize(item.value).strip(), item.important)
            for item in tinycss2.parse_declaration_list(rule.content, skip_comments=True, skip_whitespace=True)
            if item.type == "declaration"
        ]
        for selector in selectors:
            matcher.add_selector(selector, declarations)
            added = True
    return added


def _tries(matcher: cssselect2.Matcher, wrapped: cssselect2.ElementWrapper) -> int:
    """How many selectors could match an element by what they end in: its id, a class, its name, or anything."""
    by_class = (matcher.class_selectors.get(name, ()) for name in wrapped.classes)
    by_name = matcher.lower_local_name_selectors.get(wrapped.local_name.lower(), ())
    by_id = matcher.id_selectors.get(wrapped.id, ())
    return sum(map(len, by_class)) + len(by_name) + len(by_id) + len(matcher.other_selectors)


def _cascade(element: etree._Element, matches: list) -> None:
    if not matches:
        return
    normal: Style = {}
    important: Style = {}
    for _specificity, _order, pseudo, declarations in matches:
        if pseudo is not None:
            continue
        for name, value, is_important in declarations:
            target = important if is_important else normal
            target.pop(name, None)
            target[name] = value
    inline = own_style(element)
    set_style(element, {**normal, **inline, **important})
