"""A sheet as SVG 1.1: the page is the sheet, in mm; what is cut, and what is drawn."""

import io
from collections.abc import Mapping
from xml.etree import ElementTree

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.errors import WriteError
from sketchloom.core.send.svg import number, path_data, reads_as
from sketchloom.core.sheets import Sheet
from sketchloom.core.sheets.runs import Stroke

__all__ = ["sheet_svg"]

_NAMESPACE = "{http://www.w3.org/2000/svg}"


def sheet_svg(sheet: Sheet, names: Mapping[str, str]) -> bytes:
    """Write a sheet, and read it back.

    Parameters
    ----------
    sheet : Sheet
    names : mapping
        Ids of layers, by their keys.

    Raises
    ------
    WriteError
        If it does not read back as it was meant.
    """
    width, height = map(number, sheet.size)
    parts: dict[str, list[str]] = {"cuts": []}
    meant: dict[str, list[Path]] = {"cuts": []}
    times = dict[str, int]()
    for stroke in sheet.strokes:
        cut, group, path = stroke
        times[cut.key] = times.get(cut.key, 0) + 1
        again = f"--again-{times[cut.key]}" if times[cut.key] > 1 else ""
        parts.setdefault(group, []).append(_element(stroke, _name(cut, names) + again))
        meant.setdefault(group, []).append(path)
    groups = [
        f'<g id="{key}"{"" if key == "cuts" else _LINE}>\n{"".join(parts[key])}</g>\n'
        for key in _GROUPS
        if key in parts
    ]
    data = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}">\n{"".join(groups)}</svg>\n'
    ).encode()
    if not _is_right(data, meant, (f"{width}mm", f"{height}mm")):
        raise WriteError("A sheet did not read back as it was meant, so nothing was written; please report this job.")
    return data


_LINE = ' fill="none" stroke-linecap="round" stroke-linejoin="round"'
_GROUPS = ("cuts", "pens", "scores", "engraves", "marks", "weeding")


def _name(cut: Cut, names: Mapping[str, str]) -> str:
    """The id of a layer; that of its marks or numbers has a word more."""
    of = cut.key.removesuffix(" marks").removesuffix(" numbers")
    return cut.key if cut.key == "weeding" else names[of] + cut.key.removeprefix(of).replace(" ", "-")


def _element(stroke: Stroke, name: str) -> str:
    """A path: what is cut is filled where its outlines close, all else is a line."""
    cut, group, path = stroke
    if group == "cuts" and not any(path.open):
        look = f'fill="{cut.colour}" fill-rule="evenodd"'
    elif group == "cuts":
        look = f'fill="none" stroke="{cut.colour}" stroke-width="0.1"'
    else:
        look = f'stroke="{cut.ink.hex}" stroke-width="{number(max(cut.widths, default=0.1))}"'
    return f'<path id="{name}" {look} d="{path_data(path)}"/>\n'


def _is_right(data: bytes, meant: Mapping[str, list[Path]], size: tuple[str, str]) -> bool:
    try:
        root = ElementTree.parse(io.BytesIO(data)).getroot()
        if (root.get("width"), root.get("height")) != size:
            return False
        found = {group.get("id"): group.findall(f"{_NAMESPACE}path") for group in root.findall(f"{_NAMESPACE}g")}
        return all(
            len(found.get(key, [])) == len(paths)
            and all(
                reads_as(one.get("d", ""), path) for one, path in zip(found.get(key, []), paths, strict=True)
            )
            for key, paths in meant.items()
        )  # fmt: skip
    except (ElementTree.ParseError, ValueError, IndexError):
        return False
