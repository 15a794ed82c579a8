"""Seams: where a piece too large for its sheet is parted."""

from sketchloom.core.sheets.seams.by_hand import SeamLine, with_seam, without_seams
from sketchloom.core.sheets.seams.numbers import number_strokes
from sketchloom.core.sheets.seams.parting import Parted, Parting, Seam, SeamKind, overlapping, parted

__all__ = [
    "Parted", "Parting", "Seam", "SeamKind", "SeamLine", "number_strokes", "overlapping", "parted", "with_seam",
    "without_seams",
]  # fmt: skip
