"""DXF files of other programs: layers, blocks, splines and units are honoured."""

import io
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import CutStack
from sketchloom.core.elsewhere.drawing import CLOSED, Contour, Drawing, Object, contour_of, layers_of
from sketchloom.core.elsewhere.guarded import MOST_BYTES
from sketchloom.core.errors import ArgumentError, NothingToCutError

__all__ = ["read_dxf"]

_MM = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 10: 914.4, 13: 0.001, 14: 100.0}
"""mm of a unit, by the header's $INSUNITS (DXF reference, header section); none is taken as mm."""
_MOST = 60_000
"""Entities, those of blocks counted each time that they are inserted."""
_CUT = frozenset({
    "LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE", "HATCH", "SOLID", "TRACE",
})  # fmt: skip


def read_dxf(data: bytes, name: str) -> Drawing:
    """Read a DXF file; what lies end to end in one layer is one contour.

    Raises
    ------
    ArgumentError
        For what cannot be read; names the file.
    NothingToCutError
        If it has no outline.
    """
    import ezdxf
    from ezdxf import disassemble, recover

    if len(data) > MOST_BYTES:
        raise ArgumentError(
            f"{name} has {len(data) / 1e6:.0f} MB; a drawing of up to {MOST_BYTES // 10**6} MB can be read."
        )
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, LookupError, TypeError, AttributeError, RecursionError):
        raise ArgumentError(f"{name} is no DXF that can be read: it is garbled or breaks off.") from None
    _check_blocks(document, name)
    unit = _MM.get(int(document.header.get("$INSUNITS", 0) or 0), 1.0)
    by_layer: dict[str, list[Contour]] = {}
    colours: dict[str, str] = {}
    bitmaps = texts = 0
    try:
        for entity in disassemble.recursive_decompose(document.modelspace()):
            if _is_unseen(document, entity):
                continue
            kind = entity.dxftype()
            bitmaps += kind == "IMAGE"
            texts += kind in ("TEXT", "MTEXT")
            if kind in _CUT:
                layer = str(entity.dxf.get("layer", "0"))
                by_layer.setdefault(layer, []).extend(_contours(entity, unit))
                colours.setdefault(layer, _colour(document, entity, layer))
    except (
        ezdxf.DXFError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        AttributeError,
        ZeroDivisionError,
        RecursionError,
    ):
        raise ArgumentError(f"{name} holds something that cannot be read as DXF; save it anew.") from None
    by_layer = {layer: contours for layer, contours in by_layer.items() if contours}
    if not by_layer:
        raise NothingToCutError(f"There is nothing in {name} to cut: it has no outline.")
    high = max(float(one.control[..., 1].max()) for contours in by_layer.values() for one in contours)
    low = min(float(one.control[..., 0].min()) for contours in by_layer.values() for one in contours)
    objects: list[Object] = []
    for layer, contours in by_layer.items():
        flipped = [one._replace(control=(one.control - (low, high)) * (1, -1)) for one in contours]
        objects += [Object(layer, layer, colours[layer], (one,), "lines") for one in _chained(flipped)]
    layers = tuple(replace(layer, objects=1) for layer in layers_of(objects))  # entities are no objects to move apart
    boxes = np.array([layer.path.bounds for layer in layers])
    notes = []
    if bitmaps:
        notes.append(f"{name} holds a bitmap, which cannot be cut; open the picture itself to trace it.")
    if texts:
        notes.append(f"{name} holds text, which is no outline; turn it to outlines where it was drawn.")
    size = round(float(boxes[:, 2].max()), 3), round(float(boxes[:, 3].max()), 3)
    return Drawing(CutStack(layers, size), tuple(notes))


def _is_unseen(document: Any, entity: Any) -> bool:
    """Whether an entity is not plotted: invisible, or on a layer that is off, frozen or not plotted.

    DXF reference, tables section, LAYER: group codes 62 (negative: off), 70 (bit 1: frozen) and 290; the layer
    Defpoints is never plotted.
    """
    name = str(entity.dxf.get("layer", "0"))
    if entity.dxf.get("invisible", 0) or name.lower() == "defpoints":
        return True
    if name not in document.layers:
        return False
    layer = document.layers.get(name)
    return bool(layer.is_off() or layer.is_frozen() or not layer.dxf.get("plot", 1))


def _check_blocks(document: Any, name: str) -> None:
    """Refuse blocks that insert themselves, or each other without end."""
    known: dict[str, int] = {}
    open_yet: set[str] = set()

    def drawn(layout: Any, depth: int) -> int:
        if depth > 60:
            raise ArgumentError(f"{name}: its blocks lie too deep in each other; explode some.")
        total = 0
        for entity in layout:
            total += 1
            if entity.dxftype() == "INSERT":
                block = str(entity.dxf.get("name", ""))
                times = max(1, int(entity.dxf.get("row_count", 1))) * max(1, int(entity.dxf.get("column_count", 1)))
                total += times * inserted(block, depth)
            elif entity.dxf.hasattr("geometry"):  # the block that a dimension, or a table, is drawn by
                total += inserted(str(entity.dxf.geometry), depth)
            if total > _MOST:
                raise ArgumentError(f"{name} draws more than {_MOST} entities; split it.")
        return total

    def inserted(block: str, depth: int) -> int:
        if block in open_yet:
            raise ArgumentError(f"{name}: a block of it inserts itself; take that away.")
        if block not in known:
            open_yet.add(block)
            found = document.blocks.get(block)
            known[block] = drawn(found, depth + 1) if found is not None else 0
            open_yet.discard(block)
        return known[block]

    drawn(document.modelspace(), 0)


def _colour(document: Any, entity: Any, layer: str) -> str:
    from ezdxf import colors

    if (true := entity.dxf.get("true_color")) is not None:
        return "#{:02x}{:02x}{:02x}".format(*colors.int2rgb(true))
    index = int(entity.dxf.get("color", 256))
    if index in (0, 256):
        entry = document.layers.get(layer) if layer in document.layers else None
        index = abs(int(entry.dxf.get("color", 7))) if entry is not None else 7
    if index == 7:  # the pen's own: black on white
        return "#000000"
    return "#{:02x}{:02x}{:02x}".format(*colors.aci2rgb(index if 1 <= index <= 255 else 7))


def _contours(entity: Any, unit: float) -> Iterator[Contour]:
    """Contours of one entity, mm, with y up."""
    from ezdxf import path

    made = path.from_hatch(entity) if entity.dxftype() == "HATCH" else [path.make_path(entity)]
    for whole in made:
        for part in whole.sub_paths() if whole.has_sub_paths else [whole]:
            control, straight = [], []
            start = part.start
            for command in part.commands():
                end = command.end
                if isinstance(command, path.Curve4To):
                    control.append([start, command.ctrl1, command.ctrl2, end])
                    straight.append(False)
                elif isinstance(command, path.Curve3To):
                    control.append([start, start.lerp(command.ctrl, 2 / 3), end.lerp(command.ctrl, 2 / 3), end])
                    straight.append(False)
                else:
                    control.append([start, start.lerp(end, 1 / 3), start.lerp(end, 2 / 3), end])
                    straight.append(True)
                start = end
            if control:
                points = np.array([[(point.x, point.y) for point in one] for one in control], float) * unit
                contour = contour_of(points, np.array(straight, bool), False)
                if contour is not None:
                    yield contour


def _chained(contours: list[Contour]) -> list[Contour]:
    """Join contours that lie end to end."""
    out = [one for one in contours if one.closed]
    rest = [one for one in contours if not one.closed]
    ends: dict[tuple[int, int], list[int]] = {}
    for number, one in enumerate(rest):
        for point in (one.control[0, 0], one.control[-1, 3]):
            ends.setdefault(_cell(point), []).append(number)
    used = [False] * len(rest)
    for number in range(len(rest)):
        if used[number]:
            continue
        used[number] = True
        chain = [rest[number]]
        for _ in (0, 1):  # from its end, then, turned round, from its start
            while (found := _next(chain[-1].control[-1, 3], rest, ends, used)) is not None:
                following, turned = found
                used[following] = True
                chain.append(rest[following].reversed() if turned else rest[following])
            chain = [one.reversed() for one in reversed(chain)]
        joined = np.concatenate([one.control for one in chain])
        straight = np.concatenate([one.straight for one in chain])
        joined[1:, 0] = joined[:-1, 3]
        contour = contour_of(joined, straight, False)
        if contour is not None:
            out.append(contour)
    return out


def _cell(point: Floats) -> tuple[int, int]:
    return round(float(point[0]) / (4 * CLOSED)), round(float(point[1]) / (4 * CLOSED))


def _next(
    at: Floats, rest: list[Contour], ends: dict[tuple[int, int], list[int]], used: list[bool]
) -> tuple[int, bool] | None:
    """The contour that begins or ends where another ends, and whether it must be turned round."""
    x, y = _cell(at)
    for cell in ((x + dx, y + dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1)):
        for number in ends.get(cell, ()):
            if used[number]:
                continue
            one = rest[number]
            if np.hypot(*(one.control[0, 0] - at)) <= CLOSED:
                return number, False
            if np.hypot(*(one.control[-1, 3] - at)) <= CLOSED:
                return number, True
    return None
