"""Readers of files that share nothing with the writers: what of each colour they fill or draw, mm, y down."""

import io
import re

import ezdxf
import ezdxf.path
import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
import shapely
from svgelements import SVG as PAGE
from svgelements import Path as Outline

_TIMES = np.linspace(0, 1, 33)[1:]


def cubic(points) -> list:
    """Points along a cubic, its first left out."""
    a, b, c, d = (np.array(point, float) for point in points)
    t, s = _TIMES[:, None], 1 - _TIMES[:, None]
    return (s**3 * a + 3 * s * s * t * b + 3 * s * t * t * c + t**3 * d).tolist()


def read_svg(data: bytes) -> tuple[tuple[float, float], dict[str, list]]:
    page = PAGE.parse(io.BytesIO(data), ppi=25.4)
    found: dict[str, list] = {}
    for element in page.elements():
        if isinstance(element, Outline):
            colour = element.fill.hex if element.fill.value is not None else element.stroke.hex
            for part in element.as_subpaths():
                line = [(segment.point(t).x, segment.point(t).y) for segment in Outline(part) for t in (0, *_TIMES)
                        if type(segment).__name__ != "Move"]  # fmt: skip
                if line:
                    found.setdefault(colour, []).append(np.array(line))
    return (float(page.width), float(page.height)), found


def read_dxf(data: bytes) -> tuple[tuple[float, float], dict[str, list]]:
    document = ezdxf.read(io.StringIO(data.decode()))
    assert document.dxfversion == "AC1024" and document.units == 4
    assert not document.audit().errors and not document.audit().fixes
    width, height, _ = document.header["$EXTMAX"]
    found: dict[str, list] = {}
    for entity in document.modelspace():
        assert entity.dxftype() in ("SPLINE", "LWPOLYLINE")
        rgb = document.layers.get(entity.dxf.layer).rgb
        line = np.array([(point.x, height - point.y) for point in ezdxf.path.make_path(entity).flattening(0.0005)])
        found.setdefault("#{:02x}{:02x}{:02x}".format(*rgb), []).append(line)
    return (width, height), found


def read_pdf(data: bytes) -> tuple[tuple[float, float], dict[str, list]]:
    import ctypes

    pages = list(pdfium.PdfDocument(data))
    ((width, height),) = {page.get_size() for page in pages}
    found: dict[str, list] = {}
    red, green, blue, alpha = (ctypes.c_uint() for _ in range(4))
    mode, stroke = ctypes.c_int(), ctypes.c_int()
    x, y = ctypes.c_float(), ctypes.c_float()
    for one in (one for page in pages for one in page.get_objects()):
        pdfium_c.FPDFPath_GetDrawMode(one.raw, mode, stroke)
        get = pdfium_c.FPDFPageObj_GetFillColor if mode.value else pdfium_c.FPDFPageObj_GetStrokeColor
        get(one.raw, red, green, blue, alpha)
        lines: list[list] = []
        controls: list = []
        for number in range(pdfium_c.FPDFPath_CountSegments(one.raw)):
            segment = pdfium_c.FPDFPath_GetPathSegment(one.raw, number)
            pdfium_c.FPDFPathSegment_GetPoint(segment, x, y)
            at, kind = (x.value, height - y.value), pdfium_c.FPDFPathSegment_GetType(segment)
            if kind == pdfium_c.FPDF_SEGMENT_MOVETO:
                lines.append([at])
            elif kind == pdfium_c.FPDF_SEGMENT_LINETO:
                lines[-1].append(at)
            else:
                controls.append(at)
                if len(controls) == 3:
                    lines[-1] += cubic([lines[-1][-1], *controls])
                    controls = []
        colour = f"#{red.value:02x}{green.value:02x}{blue.value:02x}"
        found.setdefault(colour, []).extend(np.array(line) * 25.4 / 72 for line in lines)
    return (width * 25.4 / 72, height * 25.4 / 72), found


def read_eps(data: bytes) -> tuple[tuple[float, float], dict[str, list]]:
    """By the operators of the PostScript Language Reference (Adobe, 3rd edition, chapter 8)."""
    text = data.decode("ascii")
    width, height = map(float, re.search(r"HiResBoundingBox: 0 0 (\S+) (\S+)", text).groups())
    found: dict[str, list] = {}
    scale, colour, lines = 1.0, "#000000", []
    for line in text.splitlines():
        if line.startswith("%"):
            continue
        *told, operator = line.split()
        if operator == "scale":
            scale = float(told[0])
        elif operator == "setrgbcolor":
            colour = "#" + "".join(f"{round(float(value) * 255):02x}" for value in told)
        elif operator in ("moveto", "lineto", "curveto"):
            at = [(float(x) * scale, height - float(y) * scale) for x, y in zip(told[::2], told[1::2], strict=True)]
            if operator == "moveto":
                lines.append(at)
            else:
                lines[-1] += at if operator == "lineto" else cubic([lines[-1][-1], *at])
        elif operator in ("eofill", "stroke"):
            found.setdefault(colour, []).extend(np.array(one) * 25.4 / 72 for one in lines)
            lines = []
    return (width * 25.4 / 72, height * 25.4 / 72), found


def read_hpgl(data: bytes, height: float, colours: list[str]) -> dict[str, list]:
    """By the published instructions: SP takes a pen, PU and PD go to places of 0.025 mm with the pen up or down."""
    found: dict[str, list] = {}
    pen, at, down = 0, (0.0, 0.0), False
    for word, told in re.findall(r"([A-Z]{2})([-0-9,]*);", data.decode("ascii")):
        values = [int(value) * 0.025 for value in told.split(",")] if told else []
        if word == "SP":
            pen = int(told)
        elif word in ("PU", "PD"):
            down = word == "PD"
            places = list(zip(values[::2], values[1::2], strict=True))
            if down:
                lines = found.setdefault(colours[pen - 1], [])
                if not lines or tuple(lines[-1][-1]) != at:
                    lines.append([at])
                lines[-1] += places
            at = places[-1] if places else at
    return {colour: [np.array([(x, height - y) for x, y in line]) for line in lines] for colour, lines in found.items()}


def filled(lines: list) -> shapely.Geometry:
    """What lines enclose by the even-odd rule."""
    shapes = [shapely.make_valid(shapely.Polygon(line)) for line in lines if len(line) > 2]
    out = shapely.Polygon()
    for shape in sorted(shapes, key=lambda one: -one.area):
        out = shapely.symmetric_difference(out, shape)
    return out
