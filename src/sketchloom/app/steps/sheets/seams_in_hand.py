"""Seams that a hand moves: where they lie in the source, and what becomes of them."""

from collections.abc import Callable

import shapely

from sketchloom.app.canvas.tools import SeamAt, SeamMoved
from sketchloom.app.job_model import JobModel
from sketchloom.app.layouts import Layouts
from sketchloom.app.steps.sheets.seams import SEEN
from sketchloom.core.arrays import Floats
from sketchloom.core.sheets import Layout, Seam, SeamLine, with_seam

__all__ = ["SeamsInHand"]


class SeamsInHand:
    """Moves seams of the job in hand.

    Parameters
    ----------
    model : JobModel
    layouts : Layouts
    change : callable
        Takes a name and the seams that hands laid.
    """

    def __init__(
        self, model: JobModel, layouts: Layouts, change: Callable[[str, tuple[SeamLine, ...]], object]
    ) -> None:
        self._model, self._layouts, self._change = model, layouts, change
        self._known: tuple[Layout, list[SeamAt]] | None = None

    def is_own(self, layer: str) -> bool:
        """Whether a layer is of the job in hand."""
        return self._layouts.work is not None and self._layouts.work.is_own(layer)

    def _own(self) -> list[tuple[int, Seam]]:
        """Seams of the job in hand, and their places among all."""
        seams = self._layouts.layout.seams if self._layouts.layout is not None else ()
        return [(place, seam) for place, seam in enumerate(seams) if self.is_own(seam.layer)]

    def on_canvas(self) -> list[SeamAt]:
        """Seams of the job in hand, in source coordinates; made once for sheets."""
        layout, work = self._layouts.layout, self._layouts.work
        if layout is None or work is None:
            return []
        if self._known is None or self._known[0] is not layout:
            lines = [(seam, list(map(tuple, seam.line.tolist()))) for _, seam in self._own()]
            found = [
                SeamAt(seam.layer, str(seam.number), work.design.to_source(at), seam.visible > SEEN)
                for seam, at in lines
            ]
            self._known = layout, found
        return self._known[1]

    def move(self, moved: SeamMoved) -> None:
        """Lay a seam elsewhere."""
        work, own = self._layouts.work, self._own()
        if work is None or not 0 <= moved.place < len(own):
            self._model.said.emit("The sheets are still laid out; a moment.")
            return
        place, seam = own[moved.place]
        line = work.design.to_page(moved.line)
        pieces = next(cut for cut in work.cuts if cut.key == seam.layer).polygons.shapes
        if not shapely.intersects(shapely.linestrings(line), pieces).any():
            self._model.said.emit("There a seam parts nothing; drop it on the piece.")
            return
        self._part_at(place, line, "Seam moved", only_before=False)

    def take_other(self, place: int) -> None:
        """Part a piece along the next best seam instead of one; those that follow it are found anew."""
        layout = self._layouts.layout
        other = layout.seams[place].other if layout is not None and place < len(layout.seams) else None
        if other is not None:
            self._part_at(place, other.line, "Next best seam", only_before=True)

    def _part_at(self, place: int, line: Floats, name: str, *, only_before: bool) -> None:
        layout, work = self._layouts.layout, self._layouts.work
        if layout is not None and work is not None:
            before = self._model.recipe.sheets.seams
            self._change(name, with_seam(before, layout.seams, place, line, work, only_before=only_before))
