"""Layers and the stack they make."""

from dataclasses import dataclass, field, replace

from sketchloom.core.arrays import Bools
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, CutStack, fitted_page, on_page
from sketchloom.core.layers.rules import Build

__all__ = ["Layer", "LayerStack"]


@dataclass(frozen=True, eq=False, kw_only=True)
class Layer(Cut):
    """A cut that is a set of faces of the map.

    Its key is that of its ink, ``base``, ``sheet`` or ``clear``, of a part
    ``KEY/NAME``, of a copy ``KEY+N``.

    Attributes
    ----------
    inks : tuple of str
        Keys of the inks that show on it.
    faces : (F,) bool
    hidden : bool
        A hidden layer is not sent.
    exact : bool
        Whether its outline is that of the map, and no rim, overlap or cut.
    """

    inks: tuple[str, ...]
    faces: Bools = field(repr=False)
    hidden: bool = False
    exact: bool = True


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
    strokes : tuple of Cut
        Centre lines, which are drawn; beside the layers of faces.
    moved : (float, float)
        By which all was moved, mm, so that a rim or a margin lies on the page.
    """

    layers: tuple[Layer, ...]
    size: tuple[float, float]
    build: Build
    shown: tuple[Path, ...] = field(repr=False)
    strokes: tuple[Cut, ...] = ()
    moved: tuple[float, float] = (0.0, 0.0)

    @property
    def sent(self) -> tuple[Layer, ...]:
        """Layers of faces that are sent."""
        return tuple(layer for layer in self.layers if not layer.hidden)

    @property
    def cuts(self) -> CutStack:
        """All that is written: layers of faces that are not hidden, bottom first, then centre lines."""
        return CutStack((*self.sent, *self.strokes), self.size, self.moved)

    def layer(self, key: str) -> Layer | None:
        """Give a layer by its key, or None."""
        return next((layer for layer in self.layers if layer.key == key), None)

    def fitted(self, margin: float = 0.0) -> "LayerStack":
        """Make the page as large as what has grown, with a margin round it, and move all onto it."""
        by, size = fitted_page((layer.path for layer in self.layers if not layer.exact), self.size, margin)
        if not by.any() and size == self.size:
            return self
        return replace(
            self,
            layers=tuple(replace(layer, path=on_page(layer.path, by)) for layer in self.layers),
            shown=tuple(on_page(path, by) for path in self.shown),
            strokes=tuple(replace(line, path=on_page(line.path, by)) for line in self.strokes),
            size=size,
            moved=(self.moved[0] + float(by[0]), self.moved[1] + float(by[1])),
        )
