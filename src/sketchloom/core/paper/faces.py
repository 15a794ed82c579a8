"""The shipped font as ReportLab embeds it: the letters that are needed, with quadratic outlines."""

import hashlib
import io
from functools import cache
from importlib.resources import files

__all__ = ["faces_for"]

_FACES = ("Inter-Regular", "Inter-SemiBold")
_POSTSCRIPT_NAME = 6
"""Of the name table (OpenType specification, "name")."""
_WITHIN = 1.0
"""Of 2048 or so units of the em square that an outline may move."""


def faces_for(text: str) -> tuple[str, str]:
    """Names by which ReportLab knows the plain and the bold face, with all letters of a text."""
    letters = "".join(sorted({*text, *map(chr, range(32, 127))}))
    plain, bold = (_registered(face, letters) for face in _FACES)
    return plain, bold


@cache
def _registered(face: str, letters: str) -> str:
    from reportlab.pdfbase import pdfmetrics, ttfonts

    name = f"{face}-{hashlib.blake2b(letters.encode('utf-8', 'replace'), digest_size=6).hexdigest()}"
    pdfmetrics.registerFont(ttfonts.TTFont(name, io.BytesIO(_true_type(face, letters, name))))
    return name


def _true_type(face: str, letters: str, name: str) -> bytes:
    """A font with quadratic outlines of some letters, from the one with cubic outlines.

    ReportLab takes two fonts of one PostScript name for the same, so each has its own.
    """
    from fontTools.pens.cu2quPen import Cu2QuPen  # a sixth of a second that no start should take
    from fontTools.pens.ttGlyphPen import TTGlyphPen
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont, newTable

    with (files("sketchloom") / f"resources/fonts/{face}.otf").open("rb") as file:
        font = TTFont(file, lazy=False, recalcTimestamp=False)
    options = Options(layout_features=[], notdef_outline=True, glyph_names=False, name_IDs=["*"])
    subsetter = Subsetter(options)
    subsetter.populate(text=letters)
    subsetter.subset(font)
    for record in font["name"].names:
        if record.nameID == _POSTSCRIPT_NAME:
            record.string = name
    glyphs, order = font.getGlyphSet(), font.getGlyphOrder()
    drawn = {}
    for glyph in order:
        pen = TTGlyphPen(None)
        glyphs[glyph].draw(Cu2QuPen(pen, _WITHIN, reverse_direction=True))
        drawn[glyph] = pen.glyph()
    font["loca"], font["glyf"] = newTable("loca"), newTable("glyf")
    font["glyf"].glyphOrder, font["glyf"].glyphs = order, drawn
    del font["CFF "]
    if "VORG" in font:
        del font["VORG"]
    maxp = font["maxp"]
    maxp.tableVersion = 0x00010000
    for field in ("maxZones", "maxTwilightPoints", "maxStorage", "maxFunctionDefs", "maxInstructionDefs",
                  "maxStackElements", "maxSizeOfInstructions", "maxComponentElements"):  # fmt: skip
        setattr(maxp, field, 1 if field == "maxZones" else 0)
    font["post"].formatType, font["post"].extraNames, font["post"].mapping = 2.0, [], {}
    font.sfntVersion = "\x00\x01\x00\x00"
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()
