"""SVG text made safe to read: plain, of a size that can be handled, and without what draws nothing."""

import re
from typing import NamedTuple
from xml.etree import ElementTree

from sketchloom.core.elsewhere.styles import plain_styles
from sketchloom.core.elsewhere.viewports import plain_groups
from sketchloom.core.errors import ArgumentError

__all__ = ["MOST_BYTES", "Guarded", "guarded_svg", "too_large"]

MOST_BYTES = 16_000_000
_MOST_ELEMENTS = 60_000
"""Drawn, each use of one counted."""
_DEEPEST = 100
_MOST_NUMBERS = 1_000_000
"""Runs of digits in path data and points, each use counted; the reader takes about a kilobyte for each segment."""
_NUMBER = re.compile(r"\d+")
_DRAWS_NOTHING = frozenset({
    "clipPath", "mask", "pattern", "marker", "linearGradient", "radialGradient", "filter", "metadata", "foreignObject",
    "script", "title", "desc", "animate", "animateTransform", "animateMotion", "set",
})  # fmt: skip
_HREF = ("href", "{http://www.w3.org/1999/xlink}href")


class Guarded(NamedTuple):
    """An SVG file that can be read."""

    text: bytes
    bitmaps: int
    texts: int
    clipped: bool


class _Plain(ElementTree.TreeBuilder):
    """Builds a tree, and stops where it would become too deep or too large."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name, self._depth, self._count = name, 0, 0

    def start(self, tag: str, attrs: dict[str, str]) -> ElementTree.Element:
        """Begin an element."""
        self._depth += 1
        self._count += 1
        if self._depth > _DEEPEST:
            raise ArgumentError(f"{self._name}: its groups lie more than {_DEEPEST} deep in each other; ungroup some.")
        if self._count > _MOST_ELEMENTS:
            raise ArgumentError(f"{self._name}: it holds more than {_MOST_ELEMENTS} objects; split it.")
        return super().start(tag, attrs)

    def end(self, tag: str) -> ElementTree.Element:
        """End an element."""
        self._depth -= 1
        return super().end(tag)


def guarded_svg(data: bytes, name: str) -> Guarded:
    """Make SVG safe to read.

    Raises
    ------
    ArgumentError
        For what is no SVG, defines entities of its own, or would draw too much.
    """
    if len(data) > MOST_BYTES:
        raise ArgumentError(
            f"{name} has {len(data) / 1e6:.0f} MB; a drawing of up to {MOST_BYTES // 10**6} MB can be read."
        )
    if (
        b"<!ENTITY" in data
        or b"<!ENTITY".decode().encode("utf-16-le") in data
        or "<!ENTITY".encode("utf-16-be") in data
    ):
        raise ArgumentError(f"{name} defines entities of its own, which can hide anything; save it as plain SVG.")
    try:
        parser = ElementTree.XMLParser(target=_Plain(name))
        parser.feed(data)
        root = parser.close()
    except ElementTree.ParseError as error:
        line = error.position[0]
        raise ArgumentError(f"{name} is no SVG that can be read: it breaks off or is garbled at line {line}.") from None
    except (ValueError, LookupError):
        raise ArgumentError(f"{name} is no SVG that can be read.") from None
    if _local(root) != "svg":
        raise ArgumentError(f"{name} is no SVG: its first element is “{_local(root)[:30]}”.")
    clipped = any(element.get("clip-path") or element.get("mask") for element in root.iter())
    for parent in list(root.iter()):
        for child in list(parent):
            if _local(child) in _DRAWS_NOTHING or not isinstance(child.tag, str):
                parent.remove(child)
    _check_uses(root, name)
    plain_styles(root, name)
    plain_groups(root)
    bitmaps = sum(_local(element) == "image" for element in root.iter())
    texts = sum(_local(element) == "text" for element in root.iter())
    for parent in list(root.iter()):
        for child in list(parent):
            if _local(child) in ("image", "text"):
                parent.remove(child)
    return Guarded(ElementTree.tostring(root), bitmaps, texts, clipped)


def too_large(name: str, count: int) -> str:
    """Say that a file has more bytes than can be read."""
    much = "more than " if count > MOST_BYTES else ""
    return f"{name} has {much}{min(count, MOST_BYTES) // 10**6} MB; a drawing of up to that size can be read."


def _local(element: ElementTree.Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _numbers(text: str | None) -> int:
    """About how many numbers a text has; one with a decimal point counts twice at most."""
    return sum(1 for _ in _NUMBER.finditer(text)) if text else 0


def _check_uses(root: ElementTree.Element, name: str) -> None:
    """Refuse what draws too much by using itself over and over, and take away what refers to other files."""
    by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
    known: dict[ElementTree.Element, tuple[int, int]] = {}
    open_yet: set[ElementTree.Element] = set()

    def drawn(element: ElementTree.Element, depth: int) -> tuple[int, int]:
        if element in known:
            return known[element]
        if element in open_yet:
            raise ArgumentError(f"{name}: an object of it uses itself; take that away.")
        if depth > 4 * _DEEPEST:
            raise ArgumentError(f"{name}: its objects use each other too deeply; ungroup some.")
        open_yet.add(element)
        count, size = 1, _numbers(element.get("d")) + _numbers(element.get("points"))
        for child in element:
            more, longer = drawn(child, depth + 1)
            count, size = count + more, size + longer
        if _local(element) == "use":
            href = next((element.get(key) for key in _HREF if element.get(key)), "") or ""
            target = by_id.get(href[1:]) if href.startswith("#") else None
            if target is None:
                for key in _HREF:
                    element.attrib.pop(key, None)
            else:
                more, longer = drawn(target, depth + 1)
                count, size = count + more, size + longer
        open_yet.discard(element)
        known[element] = count, size
        return count, size

    count, size = drawn(root, 0)
    if count > _MOST_ELEMENTS:
        raise ArgumentError(f"{name} draws more than {_MOST_ELEMENTS} objects; split it.")
    if size > _MOST_NUMBERS:
        raise ArgumentError(f"{name} draws too much to be checked at once; split it.")
