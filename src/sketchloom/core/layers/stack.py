"""Layers and the stack they make."""

from dataclasses import dataclass, field

from sketchloom.core.arrays import Bools
from sketchloom.core.curves import Path
from sketchloom.core.layers.rules import Build
from sketchloom.core.palette import Ink

__all__ = ["Layer", "LayerStack", "StrokeLayer"]


@dataclass(frozen=True, eq=False)
class Layer:
    """A set of faces that is cut from one sheet, as one compound path.

    Attributes
    ----------
    name : str
    ink : Ink
        The layer is known by the ink's key.
    faces : (F,) bool
    path : Path
        mm.
    pieces : int
        Connected parts.
    by_hand : int
        Pieces that are placed by hand on stock without a carrier, under the
        way in which the layer is built.
    area : float
        mm2.
    cut_length : float
        mm.
    """

    name: str
    ink: Ink
    faces: Bools = field(repr=False)
    path: Path = field(repr=False)
    pieces: int
    by_hand: int
    area: float
    cut_length: float


@dataclass(frozen=True, eq=False)
class StrokeLayer:
    """The centre lines of one ink, beside the layers of faces.

    Attributes
    ----------
    name : str
    ink : Ink
    path : Path
        A contour a stroke, mm.
    widths : tuple of float
        Of each stroke, mm.
    length : float
        Of all, mm.
    width : float
        Usual width of the strokes, mm.
    """

    name: str
    ink: Ink
    path: Path = field(repr=False)
    widths: tuple[float, ...] = field(repr=False)
    length: float
    width: float


@dataclass(frozen=True, eq=False)
class LayerStack:
    """Layers, bottom first, and the page they lie on.

    Attributes
    ----------
    layers : tuple of Layer
    size : (float, float)
        Width and height of the page, mm.
    build : str
    shown : tuple of Path
        What to draw on a screen for each layer, bottom first: its faces and
        all above, so that no paper shines through where two layers meet.
    strokes : tuple of StrokeLayer
        Centre lines, beside the layers of faces.
    """

    layers: tuple[Layer, ...]
    size: tuple[float, float]
    build: Build
    shown: tuple[Path, ...] = field(repr=False)
    strokes: tuple[StrokeLayer, ...] = ()

    @property
    def every(self) -> tuple[Layer | StrokeLayer, ...]:
        """All layers that are written: those of faces, bottom first, then centre lines."""
        return (*self.layers, *self.strokes)

    def layer(self, key: str) -> Layer | None:
        """Give the layer of an ink, or None."""
        return next((layer for layer in self.layers if layer.ink.key == key), None)
