"""The card for enclosed ground: filled, kept, or a layer of its own; hole by hole."""

import numpy as np
from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import ListRow, refilled, small_button, smaller_ones
from sketchloom.core.job import Result
from sketchloom.core.layers import Hole
from sketchloom.core.measures import in_unit
from sketchloom.core.picture import source_points

__all__ = ["GroundCard"]

_MOST_ROWS = 12


class GroundCard(Card):
    """Enclosed ground of the whole stack, and of single holes."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Holes")
        self._step = step
        self._shown: object = None
        self.fill = QCheckBox("Fill enclosed ground")
        self.fill.clicked.connect(lambda on: step.change("Enclosed ground", fill_ground=on))
        self.white = QCheckBox("Cut it as a layer of its own")
        self.white.setToolTip("For white or clear pieces: enclosed ground becomes a layer of white or clear stock.")
        self.white.clicked.connect(lambda on: step.change("White pieces", clear=on))
        self.body.addWidget(self.fill)
        self.body.addWidget(self.white)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.more = faded()
        self.body.addWidget(self.more)
        self.reset = QPushButton("All holes as the stack")
        self.reset.clicked.connect(lambda: step.change("Holes", holes=()))
        self.body.addWidget(self.reset)

    def show_result(self, result: Result) -> None:
        """List the largest holes."""
        settings, unit = self._step.model.recipe.layers, self._step.unit()
        grouping, faces = result.grouping, result.planar.faces
        holes = np.flatnonzero(grouping.enclosed)
        holes = holes[np.argsort(-faces.area[holes], kind="stable")]
        self.setVisible(len(holes) > 0 or settings.clear)
        self.fill.setChecked(settings.fill_ground)
        self.white.setChecked(settings.clear)
        self.fill.setVisible(not settings.clear)
        self.reset.setVisible(bool(settings.holes))
        filled = np.where(grouping.hole[holes] >= 0, grouping.hole[holes] == 1, settings.fill_ground)
        self.aside.setText(f"{int((~filled).sum())} kept, {int(filled.sum())} filled" if len(holes) else "")
        some = holes[:_MOST_ROWS]
        places = source_points(result.picture, faces.inside[some]) if len(some) else []
        per_mm = result.finished.px_per_mm
        sizes = [(faces.box[face, 2:] - faces.box[face, :2]) / per_mm for face in some.tolist()]
        shown = tuple(zip(places, [tuple(size) for size in sizes], filled[: len(some)].tolist(), strict=True)), unit
        self.more.setVisible(len(holes) > _MOST_ROWS)
        self.more.setText(f"and {smaller_ones(len(holes) - _MOST_ROWS)}")
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for number, (at, size, is_filled) in enumerate(shown[0], 1):
                words = (
                    f"{in_unit(size[0], unit)} × {in_unit(size[1], unit)} {unit}, {'filled' if is_filled else 'kept'}"
                )
                button = small_button(
                    "Keep" if is_filled else "Fill",
                    lambda at=at, fill=not is_filled: self._take(at, fill),  # type: ignore[misc]
                    f"{'Keep' if is_filled else 'Fill'} hole {number}",
                )
                row = ListRow(words, str(number), behind=(button,))
                row.looked_at.connect(lambda on, at=at: self._step.pointed.emit(at if on else None))
                self.rows.addWidget(row)

    def _take(self, at: tuple[float, float], fill: bool) -> None:
        holes = tuple(hole for hole in self._step.model.recipe.layers.holes if hole.at != at)
        self._step.change("Hole filled" if fill else "Hole kept", holes=(*holes, Hole(at, fill)))
