"""What a job's sheet of paper tells."""

from dataclasses import dataclass
from functools import cached_property

from sketchloom.core.inspect import Finding
from sketchloom.core.layers import LayerStack
from sketchloom.core.palette import Colour
from sketchloom.core.sheets import Figures, Layout, Work, figures_of
from sketchloom.core.stock import Cutter, Preset, Stock, cautions_for

__all__ = ["JobFacts"]

_TEST = "Make a test cut first, about half an inch across, on every new material."
_RIGHTS = "Make sure that you may use the picture."


@dataclass(frozen=True, eq=False)
class JobFacts:
    """A job, laid and checked.

    Attributes
    ----------
    name : str
    size : (float, float)
        Finished, mm.
    stack : LayerStack
    layout : Layout
    work : Work
        What is laid.
    cutter : Cutter or None
    copies : int
    presets : tuple of Preset
        Of the shelf.
    open : tuple of Finding
        Found by a check, and not left so.
    left_so : int
        How many were found and left so.
    behind : (int, int, int) or None
        Colour of what the work is laid on.
    unit : str
        Of lengths.
    """

    name: str
    size: tuple[float, float]
    stack: LayerStack
    layout: Layout
    work: Work
    cutter: Cutter | None
    copies: int = 1
    presets: tuple[Preset, ...] = ()
    open: tuple[Finding, ...] = ()
    left_so: int = 0
    behind: Colour | None = None
    unit: str = "mm"

    @cached_property
    def figures(self) -> Figures:
        """What it takes."""
        return figures_of(self.layout, self.cutter)

    @property
    def stocks(self) -> tuple[Stock, ...]:
        """Each stock that is cut, once."""
        return tuple(dict.fromkeys(group.stock for group in self.layout.groups if group.stock is not None))

    @property
    def cautions(self) -> tuple[str, ...]:
        """Those that apply, each once."""
        kinds = dict.fromkeys(stock.kind for stock in self.stocks) or {"paper": None}
        own = dict.fromkeys(said for kind in kinds for said in cautions_for(kind))
        return (_TEST, *own, _RIGHTS, "The makers' manuals and local rules come first.")
