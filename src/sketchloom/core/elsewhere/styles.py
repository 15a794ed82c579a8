"""Styles and transforms made plain and short, so that no reader crawls through them."""

import re
from xml.etree import ElementTree

from sketchloom.core.errors import ArgumentError

__all__ = ["plain_styles"]

_MOST_STYLE = 500_000
"""Letters of a style sheet."""
_MOST_RULES = 5_000
_MOST_TRANSFORM = 4_000
"""Letters of one transform."""
_CLOSED_AGAIN = re.compile(r"[zZ][\szZ]*")
_LONG = 1_000
"""Letters from which on only those properties of a style are kept that say how something is drawn."""
_DRAWN_BY = frozenset({
    "fill", "stroke", "color", "stroke-width", "stroke-linecap", "stroke-linejoin", "fill-rule", "opacity",
    "fill-opacity", "stroke-opacity", "display", "visibility", "transform", "vector-effect", "clip-path", "mask",
})  # fmt: skip


def plain_styles(root: ElementTree.Element, name: str) -> None:
    """Rewrite style sheets, styles and transforms of a drawing.

    Rules that are nested or broken are left out, as they say nothing that a
    cutter's reader knows.

    Raises
    ------
    ArgumentError
        If there are more of them than can be read.
    """
    rules = 0
    for element in root.iter():
        if isinstance(element.tag, str) and element.tag.rpartition("}")[2] == "style":
            text = "".join(element.itertext())
            kept = _rules(text) if len(text) <= _MOST_STYLE else []
            rules += len(kept)
            if len(text) > _MOST_STYLE or rules > _MOST_RULES:
                raise ArgumentError(f"{name} holds more styles than can be read; save it anew as plain SVG.")
            for child in list(element):
                element.remove(child)
            element.text = "\n".join(f"{selector} {{ {said} }}" for selector, said in kept)
        if "style" in element.attrib:
            element.set("style", _short(element.attrib["style"]))
        if "d" in element.attrib:
            element.set("d", _CLOSED_AGAIN.sub("z ", element.attrib["d"]))
        if "transform" in element.attrib:
            said = " ".join(element.attrib["transform"].split())
            if len(said) > _MOST_TRANSFORM:
                raise ArgumentError(f"{name}: a transform of it is longer than can be read; save it anew.")
            element.set("transform", said)


def _rules(text: str) -> list[tuple[str, str]]:
    """Selectors and what they set, of rules that are whole and lie in no other."""
    out = []
    for rule in _without_comments(text).split("}"):
        selector, brace, said = rule.partition("{")
        selector, said = " ".join(selector.split()), " ".join(said.split())
        if brace and selector and said and "{" not in said and "@" not in selector:
            out.append((selector, said))
    return out


def _without_comments(text: str) -> str:
    out, at = [], 0
    while (begin := text.find("/*", at)) >= 0:
        out.append(text[at:begin])
        end = text.find("*/", begin + 2)
        if end < 0:
            return "".join(out)
        at = end + 2
    return "".join([*out, text[at:]])


def _short(style: str) -> str:
    if len(style) <= _LONG:
        return style
    said = (part.partition(":") for part in style.split(";"))
    kept = {key.strip(): value.strip() for key, _, value in said if key.strip() in _DRAWN_BY}
    return ";".join(f"{key}:{value[:_LONG]}" for key, value in kept.items())
