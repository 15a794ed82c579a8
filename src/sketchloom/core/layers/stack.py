"""Layers and the stack they make."""

from dataclasses import dataclass, field

from sketchloom.core.arrays import Bools
from sketchloom.core.curves import Path
from sketchloom.core.layers.rules import Build
from sketchloom.core.palette import Ink
from sketchloom.core.stock import Stock

__all__ = ["Layer", "LayerStack", "StrokeLayer"]


@dataclass(frozen=True, eq=False)
class Layer:
    """A set of faces that is cut from one sheet, as one compound path.

    Attributes
    ----------
    key : str
        What settings and the window know it by: that of its ink, ``base``,
        ``sheet`` or ``clear``, of a part ``KEY/NAME``, of a copy ``KEY+N``.
    name : str
    ink : Ink
        In whose colour it is shown and sent.
    inks : tuple of str
        Keys of the inks that show on it.
    faces : (F,) bool
    path : Path
        mm.
    pieces : int
        Connected parts.
    loose : int
        Pieces that are placed by hand: those beyond the first, where its
        stock has no carrier.
    area : float
        mm2.
    cut_length : float
        mm.
    stock : Stock or None
    hidden : bool
        A hidden layer is not sent.
    exact : bool
        Whether its outline is that of the map, and no rim, overlap or cut.
    """

    key: str
    name: str
    ink: Ink
    inks: tuple[str, ...]
    faces: Bools = field(repr=False)
    path: Path = field(repr=False)
    pieces: int
    loose: int
    area: float
    cut_length: float
    stock: Stock | None = None
    hidden: bool = False
    exact: bool = True

    @property
    def colour(self) -> str:
        """Of what it is cut from, ``#rrggbb``; that of its ink where the stock is had in any."""
        return (self.stock.colour if self.stock else "") or self.ink.hex


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
        Hidden ones too.
    size : (float, float)
        Width and height of the page, mm.
    build : str
    shown : tuple of Path
        What to draw on a screen for each layer, bottom first: its faces and
        all above, so that no paper shines through where two layers meet.
    strokes : tuple of StrokeLayer
        Centre lines, beside the layers of faces.
    moved : (float, float)
        By which all was moved, mm, so that a rim or a margin lies on the page.
    """

    layers: tuple[Layer, ...]
    size: tuple[float, float]
    build: Build
    shown: tuple[Path, ...] = field(repr=False)
    strokes: tuple[StrokeLayer, ...] = ()
    moved: tuple[float, float] = (0.0, 0.0)

    @property
    def sent(self) -> tuple[Layer, ...]:
        """Layers of faces that are sent."""
        return tuple(layer for layer in self.layers if not layer.hidden)

    @property
    def every(self) -> tuple[Layer | StrokeLayer, ...]:
        """All layers that are written: those of faces that are not hidden, bottom first, then centre lines."""
        return (*self.sent, *self.strokes)

    def layer(self, key: str) -> Layer | None:
        """Give a layer by its key, or None."""
        return next((layer for layer in self.layers if layer.key == key), None)
