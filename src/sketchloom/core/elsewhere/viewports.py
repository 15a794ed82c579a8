"""What an SVG reader may not honour, written as plain groups: symbols, nested drawings, switches, what is not seen."""

import copy
import re
from xml.etree import ElementTree

__all__ = ["plain_groups"]

Element = ElementTree.Element
Size = tuple[float, float]

_HREF = ("href", "{http://www.w3.org/1999/xlink}href")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_UNITS = {"": 1.0, "px": 1.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "pt": 4 / 3, "pc": 16.0}
"""px; CSS Values and Units Level 3, 5.2."""
_OPACITY = re.compile(r"(?:^|;)\s*opacity\s*:\s*([^;]+)")
_ALIGN = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
_MOST_ROUNDS = 100


def plain_groups(root: Element) -> None:
    """Rewrite a drawing in place.

    What has the opacity 0 goes, of a switch the first that holds stays, a use
    of a symbol becomes its content, and a nested drawing a group, each with
    the transform of its viewBox. Uses must not go round in circles.

    References
    ----------
    .. [1] W3C, "Scalable Vector Graphics (SVG) 2", 5.5 to 5.9 and 8.6 to 8.8.
    """
    _drop(root)
    symbols = {one.get("id"): one for one in root.iter() if _local(one) == "symbol" and one.get("id")}
    for _ in range(_MOST_ROUNDS):  # a symbol may use another
        uses = [one for one in root.iter() if _local(one) == "use" and _target(one) in symbols]
        if not uses:
            break
        for use in uses:
            _put_in(use, symbols[_target(use)])
    for parent in list(root.iter()):
        for child in list(parent):
            if _local(child) == "symbol":
                parent.remove(child)
    whole = _viewport(root, (100.0, 100.0))
    _nested(root, whole)


def _drop(root: Element) -> None:
    for parent in list(root.iter()):
        for child in list(parent):
            if _opacity(child) <= 0:
                parent.remove(child)
        if _local(parent) == "switch":
            kept = next((child for child in parent if _holds(child)), None)
            for child in list(parent):
                if child is not kept:
                    parent.remove(child)
            parent.tag = _named(parent, "g")


def _holds(element: Element) -> bool:
    """Whether a child of a switch is for every reader, or for one in English."""
    if element.get("requiredExtensions"):
        return False
    language = element.get("systemLanguage")
    return language is None or any(one.strip().lower().startswith("en") for one in language.split(","))


def _opacity(element: Element) -> float:
    found = _OPACITY.search(element.get("style") or "")
    text = (found[1] if found else element.get("opacity") or "1").strip()
    number = _NUMBER.match(text)
    return float(number[0]) if number else 1.0


def _target(use: Element) -> str:
    href = next((use.get(key) for key in _HREF if use.get(key)), "") or ""
    return href[1:] if href.startswith("#") else ""


def _put_in(use: Element, symbol: Element) -> None:
    """Make a use of a symbol a group of what the symbol holds."""
    box = _numbers(symbol.get("viewBox"), 4)
    wide, high = (
        _length(use.get(name) or symbol.get(name), box[2 + i] if box else 0.0) for i, name in enumerate(_SIDES)
    )
    transform = f"translate({_length(use.get('x'), 0.0):.9g} {_length(use.get('y'), 0.0):.9g})"
    within = _box_transform(box, (wide, high), symbol.get("preserveAspectRatio"))
    use.tag = _named(use, "g")
    use.set("transform", " ".join(part for part in (use.get("transform"), transform, within) if part))
    for name in (*_HREF, "x", "y", *_SIDES):
        use.attrib.pop(name, None)
    inner = ElementTree.SubElement(use, use.tag, {key: value for key, value in symbol.items() if key not in _OWN})
    inner.extend(copy.deepcopy(list(symbol)))


_SIDES = ("width", "height")
_OWN = frozenset({"id", "viewBox", "preserveAspectRatio", "x", "y", "width", "height", "refX", "refY"})


def _nested(element: Element, size: Size) -> None:
    """Make nested drawings groups."""
    for child in element:
        inner = size
        if _local(child) == "svg":
            inner = _viewport(child, size)
            wide, high = (_length(child.get(name), size[i], size[i]) for i, name in enumerate(_SIDES))
            at = f"translate({_length(child.get('x'), 0.0, size[0]):.9g} {_length(child.get('y'), 0.0, size[1]):.9g})"
            within = _box_transform(_numbers(child.get("viewBox"), 4), (wide, high), child.get("preserveAspectRatio"))
            child.tag = _named(child, "g")
            child.set("transform", " ".join(part for part in (child.get("transform"), at, within) if part))
            for name in _OWN - {"id"}:
                child.attrib.pop(name, None)
        _nested(child, inner)


def _viewport(element: Element, outer: Size) -> Size:
    """What percentages within a drawing are of."""
    box = _numbers(element.get("viewBox"), 4)
    if box:
        return box[2], box[3]
    return _length(element.get("width"), outer[0], outer[0]), _length(element.get("height"), outer[1], outer[1])


def _box_transform(box: list[float], size: Size, aspect: str | None) -> str:
    """The transform that fits a viewBox into a size."""
    if not box or box[2] <= 0 or box[3] <= 0 or min(size) <= 0:
        return ""
    x, y = size[0] / box[2], size[1] / box[3]
    words = (aspect or "xMidYMid meet").split()
    align = words[0] if words else "xMidYMid"
    shift_x = shift_y = 0.0
    if align != "none":
        x = y = max(x, y) if words[-1] == "slice" else min(x, y)
        shift_x = (size[0] - box[2] * x) * _ALIGN.get(align[1:4], 0.5)
        shift_y = (size[1] - box[3] * y) * _ALIGN.get(align[5:8], 0.5)
    return f"translate({shift_x - box[0] * x:.9g} {shift_y - box[1] * y:.9g}) scale({x:.9g} {y:.9g})"


def _numbers(text: str | None, count: int) -> list[float]:
    found = [float(one) for one in _NUMBER.findall(text or "")]
    return found if len(found) == count else []


def _length(text: str | None, default: float, whole: float = 0.0) -> float:
    """A length in px; a percentage is of the whole."""
    number = _NUMBER.match((text or "").strip())
    if number is None:
        return default
    unit = (text or "").strip()[number.end() :].strip()
    return float(number[0]) * (whole / 100 if unit == "%" else _UNITS.get(unit, 1.0))


def _local(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _named(element: Element, name: str) -> str:
    space, brace, _ = element.tag.rpartition("}")
    return f"{space}{brace}{name}"
