"""PNG: a page as pixels on clear ground, with its size in print."""

import io
import struct
import zlib
from typing import NamedTuple

import cv2
import numpy as np
from PIL import Image

from sketchloom.core.arrays import Bytes, Floats, Ints, ranges
from sketchloom.core.curves.path import points_at
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import MOST_PIXELS
from sketchloom.core.send.page import Item, Page
from sketchloom.core.units import MM_PER_INCH

__all__ = ["PngWriter", "png_bytes"]

_FINER = 4
"""Rows and columns of a pixel that are told apart at an edge."""
_PARTS = 64
"""Of a pixel along a row; all rows of one together are 256."""
_SHIFT = 4
_TIMES = np.linspace(0, 1, 17)[1:]
_ROWS = 512


def png_bytes(rgba: Bytes, dpi: float) -> bytes:
    """Write (H, W, 4) uint8 as PNG that says its dots an inch."""
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", dpi=(dpi, dpi))
    return buffer.getvalue()


def _flat_png(rgba: Bytes, dpi: float) -> bytes:
    """The same for flat colours: each row as it differs from the one above, pressed lightly, in a third of the time.

    ISO/IEC 15948: chunks in 5.3, the filter of rows in 9.2 (type 2), pixels a metre in 11.3.5.3.
    """
    height, width = rgba.shape[:2]
    flat = rgba.reshape(height, -1)
    rows = np.empty((height, 1 + flat.shape[1]), np.uint8)
    rows[:, 0] = 2
    rows[0, 1:] = flat[0]
    np.subtract(flat[1:], flat[:-1], out=rows[1:, 1:])
    a_metre = round(dpi * 1000 / MM_PER_INCH)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    return b"".join((
        b"\x89PNG\r\n\x1a\n", chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)),
        chunk(b"pHYs", struct.pack(">IIB", a_metre, a_metre, 1)), chunk(b"IDAT", zlib.compress(rows.data, 1)),
        chunk(b"IEND", b""),
    ))  # fmt: skip


class PngWriter:
    """A page as PNG, for print-and-cut and for programs that take pictures only.

    Parameters
    ----------
    dpi : float
    under : (H, W, 4) uint8, optional
        What lies under the page, as large as it is; else the ground is clear.
    """

    ending = ".png"
    name = "PNG"
    lost = "pixels: no lines to cut, no layers"
    read_by = "OpenCV"

    def __init__(self, dpi: float = 300.0, under: Bytes | None = None) -> None:
        self.dpi, self._under = dpi, under
        self._meant: tuple[Page, Bytes] | None = None
        """What was written last, until it is read back."""

    def write(self, page: Page) -> bytes:
        """Write a page; raises ArgumentError where it would have more than `MOST_PIXELS`."""
        self._meant = page, _drawn(page, self.dpi, self._under)
        return _flat_png(self._meant[1], self.dpi)

    def is_right(self, data: bytes, page: Page) -> bool:
        """Decode it with another library, and compare every pixel, and how large it says that it is."""
        found = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        at = data.find(b"pHYs")
        across, down, unit = struct.unpack(">IIB", data[at + 4 : at + 13])
        known, self._meant = self._meant, None
        meant = known[1] if known is not None and known[0] is page else _drawn(page, self.dpi, self._under)
        right = unit == 1 and across == down and abs(across * MM_PER_INCH / 1000 - self.dpi) < 0.05
        return right and found is not None and np.array_equal(found, cv2.cvtColor(meant, cv2.COLOR_RGBA2BGRA))


def _drawn(page: Page, dpi: float, under: Bytes | None = None) -> Bytes:
    """A page as (H, W, 4) uint8; edges are as clear as the pixel is free of what they bound."""
    scale = dpi / MM_PER_INCH
    width, height = (max(1, round(side * scale)) for side in page.size)
    if width * height > MOST_PIXELS:
        raise ArgumentError(f"{width} x {height} pixels are too many for a PNG; take fewer dots an inch.")
    if under is not None:
        height, width = under.shape[:2]
    out = np.zeros((height, width, 4), np.uint8) if under is None else np.ascontiguousarray(under).copy()
    for item in page.items:
        lines = [_points(contour) * scale for contour in item.path.contours]
        if not lines:
            continue
        low, high = np.min([line.min(0) for line in lines], axis=0), np.max([line.max(0) for line in lines], axis=0)
        (left, top), (right, bottom) = np.floor(low - item.width * scale - 2), np.ceil(high + item.width * scale + 2)
        left, right = max(0, int(left)), min(width, int(right))
        top, bottom = max(0, int(top)), min(height, int(bottom))
        lines = [line - (left, top) for line in lines]
        crossings = _crossings(lines) if item.filled else None
        for row in range(0, bottom - top, _ROWS):
            shape = min(_ROWS, bottom - top - row), right - left
            cover = _stroked(item, lines, row, shape, scale) if crossings is None else _filled(crossings, row, shape)
            if item.opacity < 1:
                cover = np.asarray(np.round(cover * item.opacity), np.uint8)
            _lay(out[top + row : top + row + shape[0], left:right], cover, item.rgb)
    return out


def _points(contour: Floats) -> Floats:
    control = contour[3 * np.arange(len(contour) // 3)[:, None] + np.arange(4)]
    return np.vstack([contour[:1], points_at(control, _TIMES).reshape(-1, 2)])


class _Crossings(NamedTuple):
    """Where outlines cross the middles of rows, `_FINER` a pixel, row by row from left to right."""

    row: Ints
    x: Floats
    sign: Floats
    """1 where the area begins by the even-odd rule, -1 where it ends."""


def _crossings(lines: list[Floats]) -> _Crossings:
    ends = np.concatenate([np.stack([line, np.roll(line, -1, axis=0)], 1) for line in lines])
    ends = ends[ends[:, 0, 1] != ends[:, 1, 1]]
    low, high = (np.ceil(edge * _FINER - 0.5).astype(np.int64) for edge in (ends[..., 1].min(1), ends[..., 1].max(1)))
    row, _ = ranges(low, high - low)
    edge = np.repeat(np.arange(len(ends)), high - low)
    (x0, y0), (x1, y1) = ends[edge, 0].T, ends[edge, 1].T
    x = x0 + ((row + 0.5) / _FINER - y0) * (x1 - x0) / (y1 - y0)
    order = np.lexsort((x, row))
    row, x = row[order], x[order]
    first = np.searchsorted(row, row)
    return _Crossings(row, x, 1.0 - 2.0 * ((np.arange(len(row)) - first) % 2))


def _filled(crossings: _Crossings, row: int, shape: tuple[int, int]) -> Bytes:
    """How much of each pixel lies in an area, 0 to 255: to 1/64 along each row, summed over its finer ones."""
    low, high = np.searchsorted(crossings.row, [row * _FINER, (row + shape[0]) * _FINER])
    x = np.clip(crossings.x[low:high], 0, shape[1])
    at = np.floor(x).astype(np.int64)
    wide = shape[1] + 2
    begin = (crossings.row[low:high] // _FINER - row) * wide + at
    behind = np.round((x - at) * _PARTS).astype(np.int16)
    sign = crossings.sign[low:high].astype(np.int16)
    change = np.zeros(shape[0] * wide, np.int16)
    np.add.at(change, begin, sign * (_PARTS - behind))
    np.add.at(change, begin + 1, sign * behind)
    cover = np.cumsum(change.reshape(shape[0], wide), axis=1, dtype=np.int16)[:, : shape[1]].astype(np.uint16)
    return np.asarray((cover * np.uint16(255) + np.uint16(128)) >> 8, np.uint8)


def _stroked(item: Item, lines: list[Floats], row: int, shape: tuple[int, int], scale: float) -> Bytes:
    """How much of each pixel lines cover, 0 to 255."""
    mask = np.zeros((shape[0] * _FINER, shape[1] * _FINER), np.uint8)
    widths = item.widths if item.is_strokes else (item.width,) * len(lines)
    for line, width in zip(lines, widths, strict=True):
        fine = np.round(((line - (0, row)) * _FINER - 0.5) * (1 << _SHIFT)).astype(np.int32)
        cv2.polylines(mask, [fine], False, 255, max(1, round(width * scale * _FINER)), cv2.LINE_8, _SHIFT)
    return np.asarray(cv2.resize(mask, shape[::-1], interpolation=cv2.INTER_AREA), np.uint8)


def _lay(under: Bytes, cover: Bytes, rgb: tuple[int, int, int]) -> None:
    """Lay a colour over pixels (Porter and Duff 1984, "Compositing digital images": over)."""
    whole = np.frombuffer(bytes((*rgb, 255)), np.uint32)[0]
    codes = under.view(np.uint32)[..., 0]
    np.copyto(codes, whole, where=cover == 255)
    rows, columns = np.divmod(np.flatnonzero(cover - np.uint8(1) < 254), cover.shape[1])  # neither 0 nor 255
    share, old = cover[rows, columns, None] / np.float32(255), under[rows, columns].astype(np.float32)
    kept = old[:, 3:] / 255 * (1 - share)
    alpha = share + kept
    colour = (np.array(rgb, np.float32) * share + old[:, :3] * kept) / alpha
    under[rows, columns] = np.round(np.hstack([colour, alpha * 255])).astype(np.uint8)
