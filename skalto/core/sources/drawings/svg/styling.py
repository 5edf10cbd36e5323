"""The style sheets of an SVG file, written into the elements that they speak of (CSS Cascading 3, 6.4)."""

from __future__ import annotations

import re
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2

Weight = tuple[bool, bool, tuple[int, int, int], int]
"""What of two declarations wins: important ones, then those of the element itself, then specificity and order."""


def write_styles(root: Element) -> None:
    """Every declaration that wins stands in the element's own style afterwards; the style sheets are empty."""
    sheets = [node for node in root.iter() if isinstance(node.tag, str) and node.tag.rsplit("}", 1)[-1] == "style"]
    matcher = cssselect2.Matcher()
    order = 0
    for sheet in sheets:
        for rule in _rules(sheet.text or ""):
            declarations = tinycss2.parse_blocks_contents(rule.content, skip_comments=True, skip_whitespace=True)
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                continue
            for selector in selectors:
                matcher.add_selector(selector, (order, declarations))
                order += 1
        sheet.text = ""
    if not order and not any(re.search(r"!\s*important|(?<![-\w])font\s*:", node.get("style", "")) for node in root.iter()):
        return
    for element in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
        node = element.etree_element
        won: dict[str, tuple[Weight, str]] = {}
        for specificity, _, _, (place, declarations) in matcher.match(element):
            _weigh(won, declarations, False, specificity, place)
        own = tinycss2.parse_blocks_contents(node.get("style", ""), skip_comments=True, skip_whitespace=True)
        _weigh(won, own, True, (0, 0, 0), order)
        if won:
            node.set("style", ";".join(f"{name}:{value}" for name, (_, value) in won.items()))


def _rules(text: str) -> list[Any]:
    """The qualified rules of a sheet; of a rule for media those for screens and paper."""
    found: list[Any] = []
    for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
        if rule.type == "qualified-rule":
            found.append(rule)
        elif rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content is not None:
            words = tinycss2.serialize(rule.prelude).lower()
            if any(word in words for word in ("all", "screen", "print")):
                found += _rules(tinycss2.serialize(rule.content))
    return found


def _weigh(won: dict[str, tuple[Weight, str]], declarations: Any, own: bool, specificity: Any, place: int) -> None:
    for declaration in declarations:
        if declaration.type != "declaration":
            continue
        weight = (declaration.important, own, tuple(specificity), place)
        value = tinycss2.serialize(declaration.value).strip()
        parts = font_parts(value) if declaration.lower_name == "font" else {declaration.lower_name: value}
        for name, part in parts.items():
            known = won.get(name)
            if known is None or weight >= known[0]:
                won[name] = (weight, part)


_SIZE = re.compile(r"[\d.]+(?:[a-z]+|%)|(?:xx?-)?(?:small|large)|medium", re.IGNORECASE)
_WEIGHT = re.compile(r"bold(?:er)?|lighter|[1-9]00")


def font_parts(value: str) -> dict[str, str]:
    """The parts of a short declaration of a font: style and weight, size, families (CSS Fonts 3, 3.7); none where it has no
    size or no family."""
    words = value.split()
    for at, word in enumerate(words):
        size, slash, height = word.partition("/")
        if not _SIZE.fullmatch(size):
            continue
        families = words[at + 1 :]
        # the height of a line may stand apart: 12px/1.5, 12px/ 1.5, 12px /1.5, 12px / 1.5
        if slash and not height:
            families = families[1:]
        elif not slash and families and families[0].startswith("/"):
            families = families[1 if len(families[0]) > 1 else 2 :]
        if not families:
            return {}
        before = [earlier.lower() for earlier in words[:at]]
        return {
            "font-style": next((word for word in before if word in ("italic", "oblique")), "normal"),
            "font-weight": next((word for word in before if _WEIGHT.fullmatch(word)), "normal"),
            "font-size": size,
            "font-family": " ".join(families),
        }
    return {}
