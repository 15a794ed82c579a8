"""What a recipe makes of a picture: the results of its stages, as far as they were reached."""

import traceback
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from sketchloom.core.curves import ArcCurves, Edited
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages import CentreLines, Checked, Layered
from sketchloom.core.layers import DoubleEdge, Finished, Grouping, LayerPlan, LayerStack, Mended, Orders, Slip
from sketchloom.core.palette import Palette
from sketchloom.core.picture import Picture, Prepared
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.regions import Found, Ground, InkPlan, InkStep, LabelMap, Road, Tones
from sketchloom.core.scale import Scale
from sketchloom.core.sheets import Layout
from sketchloom.core.tidy import Cleaned, Tidied
from sketchloom.core.worn import Restored

__all__ = ["Failure", "Result"]


@dataclass(frozen=True)
class Failure:
    """A stage that failed, and how."""

    stage: str
    error: Exception

    @property
    def foreseen(self) -> bool:
        """Whether its message is all that a maker needs to know."""
        return isinstance(self.error, (SketchLoomError, MemoryError))

    @property
    def sentence(self) -> str:
        """What to tell a maker."""
        if isinstance(self.error, SketchLoomError):
            return str(self.error)
        if isinstance(self.error, MemoryError):
            return "This needs more memory than is free; take a smaller picture."
        return "Something went wrong here; the last good result stays. Copy the details to report it."

    @property
    def details(self) -> str:
        """What to report; empty for a failure that was foreseen."""
        return "" if self.foreseen else "".join(traceback.format_exception(self.error))


@dataclass(frozen=True, eq=False)
class Result:
    """Results of stages, asked for by name or as attributes.

    Attributes
    ----------
    recipe : Recipe
    values : mapping of str to object
        What each stage that was reached gave.
    reduction : float
        Px of the picture the stages ran on for each of the prepared one: below
        1 in a preview, and where the prepared one was enlarged from less.
    preview : bool
        Whether the stages ran on a picture that was reduced to be quick.
    timings : dict of str to float
        Seconds a stage took; 0 where its result was remembered.
    failure : Failure or None
        The stage that failed; those above it stand.
    """

    recipe: Recipe
    values: Mapping[str, Any] = field(repr=False)
    reduction: float = 1.0
    timings: dict[str, float] = field(default_factory=dict, repr=False)
    failure: Failure | None = None
    preview: bool = False

    def has(self, *names: str) -> bool:
        """Whether stages were reached."""
        return all(name in self.values for name in names)

    def of(self, name: str) -> Any:
        """Give the result of a stage; raises LookupError if it was not reached."""
        if name not in self.values:
            raise LookupError(f"The stage “{name}” was not reached.")
        return self.values[name]

    def over(self, last: "Result | None") -> "Result":
        """Fill what was not reached with what an earlier result has, so that the last good one stays in view."""
        return self if last is None else replace(self, values={**last.values, **self.values})

    @property
    def prepared(self) -> Prepared:
        """The opened picture and what each row of Prepare left."""
        value: Prepared = self.of("prepare")
        return value

    @property
    def picture(self) -> Picture:
        """The prepared picture at the size that it has detail for, reduced for a preview."""
        value: Picture = self.of("picture")
        return value

    @property
    def worn(self) -> Restored:
        """What the prepared picture went through, and what it was before it was enlarged."""
        value: Restored = self.of("restored")
        return value

    @property
    def kind(self) -> Found | None:
        """What kind of picture was found, where that was asked for."""
        return self.values.get("kind")

    @property
    def road(self) -> Road:
        """The road that the picture took."""
        value: Road = self.of("road")
        return value

    @property
    def tones(self) -> Tones:
        """The even colours."""
        value: Tones = self.of("tones")
        return value

    @property
    def ground(self) -> Ground:
        """What is cleared."""
        value: Ground = self.of("ground")
        return value

    @property
    def plan(self) -> InkPlan:
        """Which tones become which ink."""
        value: InkPlan = self.of("inks")
        return value

    @property
    def palette(self) -> Palette:
        """The inks, named and coloured as a maker wants them."""
        value: Palette = self.of("palette")
        return value

    @property
    def choices(self) -> tuple[InkStep | None, InkStep | None]:
        """What one ink fewer loses, and what one more brings; of a preview, nothing."""
        value: tuple[InkStep | None, InkStep | None] = self.values.get("choices", (None, None))
        return value

    @property
    def scale(self) -> Scale:
        """Pixels a mm, as decided before the first stage that needs mm."""
        value: Scale = self.of("scale")
        return value

    @property
    def cleaned(self) -> Cleaned:
        """What was too small, and how small that was; what a later stage keeps of it may be of other settings."""
        value: Cleaned = self.of("cleaned")
        return value

    @property
    def tidied(self) -> Tidied:
        """The label map without specks, its faces, and how many went."""
        value: Tidied = self.of("tidy")
        return value

    @property
    def regions(self) -> LabelMap:
        """The tidied label map."""
        return self.tidied.regions

    @property
    def planar(self) -> PlanarMap:
        """The planar map."""
        value: PlanarMap = self.of("map")
        return value

    @property
    def samples(self) -> EdgeSamples:
        """Where the picture's edges run."""
        value: EdgeSamples = self.of("edges")
        return value

    @property
    def edited(self) -> Edited:
        """Curves after work by hand, px."""
        value: Edited = self.of("hand")
        return value

    @property
    def curves(self) -> ArcCurves:
        """The curves of all arcs, px."""
        return self.edited.curves

    @property
    def unplaced(self) -> tuple[int, ...]:
        """Work by hand that found no place."""
        return self.edited.unplaced

    @property
    def finished(self) -> Finished:
        """Curves in mm, and their page."""
        value: Finished = self.of("finish")
        return value

    @property
    def centre_lines(self) -> CentreLines:
        """Centre lines that were asked for."""
        value: CentreLines = self.of("centre lines")
        return value

    @property
    def layered(self) -> Layered:
        """The layers, and which of them are one line."""
        value: Layered = self.of("layers")
        return value

    @property
    def stack(self) -> LayerStack:
        """The layers, after their mends."""
        value: Mended = self.of("mended")
        return value.stack

    @property
    def lost_mends(self) -> tuple[int, ...]:
        """Mends that found nothing to change."""
        value: Mended = self.of("mended")
        return value.unplaced

    @property
    def checked(self) -> Checked:
        """What a check found."""
        value: Checked = self.of("checked")
        return value

    @property
    def double(self) -> tuple[DoubleEdge, ...]:
        """Layers that are one line, cut on both sides unless a rule says otherwise."""
        return self.layered.double

    @property
    def grouping(self) -> Grouping:
        """Faces by the layer whose ink shows on them, in the order that the settings give."""
        value: Grouping = self.of("grouping")
        return value

    @property
    def orders(self) -> Orders:
        """What the present order costs, and the best."""
        value: Orders = self.of("order")
        return value

    @property
    def planned(self) -> LayerPlan:
        """The layers as sets of faces."""
        value: LayerPlan = self.of("sets")
        return value

    @property
    def slip(self) -> Slip | None:
        """What a slip would show; None where none was asked for."""
        value: Slip | None = self.values.get("slip")
        return value

    @property
    def layout(self) -> Layout:
        """All that is sent, laid on sheets."""
        value: Layout = self.of("sheets")
        return value

    @property
    def narrowest(self) -> dict[str, float]:
        """Narrowest place of each layer, mm, by its key; empty until it is known."""
        value: dict[str, float] = self.values.get("narrowest", {})
        return value
