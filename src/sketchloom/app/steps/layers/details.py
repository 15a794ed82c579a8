"""The cards for details, as windows or pieces, and for windows that nobody sees."""

import numpy as np
from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.layers.saved import saved_words
from sketchloom.app.steps.list_row import ListRow, empty_rows, refilled, small_button
from sketchloom.core.curves import face_areas
from sketchloom.core.job import Result, windows_length
from sketchloom.core.job import detail_at as found_at
from sketchloom.core.layers import DetailCost, Window, detail_costs
from sketchloom.core.measures import in_unit
from sketchloom.core.picture import Point, source_points

__all__ = ["DetailCard", "HiddenCard"]


class DetailCard(Card):
    """A detail cut away to show a layer below, or laid on top: what each costs."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Window or piece")
        self._step = step
        self._at: Point | None = None
        self._shown: object = None
        self.words = faded("Click a detail, such as an eye: lay it on top, or cut it away to show a layer below?")
        self.body.addWidget(self.words)
        self.pick = QPushButton("Choose a detail")
        self.pick.setCheckable(True)
        self.pick.clicked.connect(lambda on: step.draw_with("detail" if on else None))
        self.body.addWidget(self.pick)
        self.alike = QCheckBox("And all pieces of its ink")
        self.alike.setChecked(True)
        self.alike.clicked.connect(lambda: step.refresh())
        self.body.addWidget(self.alike)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.body.addLayout(self.rows)
        self.reset = QPushButton("All windows back to pieces")
        self.reset.clicked.connect(lambda: step.change("Windows taken back", windows=()))
        self.body.addWidget(self.reset)

    def look_at(self, at: Point | None) -> None:
        """Take a detail in hand."""
        self._at, self._shown = at, None
        self._step.pointed.emit(at)
        self._step.refresh()

    def show_result(self, result: Result) -> None:
        """Weigh the detail in hand."""
        settings = self._step.model.recipe.layers
        self.setVisible(settings.build not in ("single", "stencil") and len(result.grouping.keys) > 1)
        self.reset.setVisible(bool(settings.windows))
        many = len(settings.windows)
        self.aside.setText(f"{many} window{'' if many == 1 else 's'}" if many else "none")
        self.alike.setVisible(self._at is not None)
        if self._at is None or not result.has("grouping", "finish", "tidy"):
            empty_rows(self.rows)
            self._shown = None
            return
        known = self._at, self.alike.isChecked(), id(result.grouping), id(result.finished), settings, self._step.unit()
        if known == self._shown:
            return
        self._shown = known
        with refilled(self.rows):
            faces = found_at(result, self._at, self.alike.isChecked())
            if not faces:
                self.rows.addWidget(faded("Nothing is cut there; click a piece."))
                return
            curves, planar = result.finished.curves, result.planar
            costs = detail_costs(planar, result.grouping, settings, face_areas(planar, curves), curves.lengths(), faces)
            for place, cost in enumerate(costs):
                self.rows.addWidget(self._row(result, cost, faces, place == 0))

    def _row(self, result: Result, cost: DetailCost, faces: list[int], best: bool) -> ListRow:
        names = {ink.key: ink for ink in result.grouping.dress}
        what = f"Window to {names[cost.show].name}" if cost.show else "Piece on top"
        words = f"{what}: {saved_words(cost.whole, result.orders.present, self._step.unit())}"
        button = small_button("Take", lambda: self._take(cost.show, faces), f"Take: {what}")
        if best:
            button.setProperty("primary", True)
        marks = (swatch(names[cost.show].hex, 14),) if cost.show else ()
        return ListRow(f"{words}{'; costs least' if best else ''}", *marks, behind=(button,))

    def _take(self, show: str, faces: list[int]) -> None:
        result = self._step.model.result
        if result is None:
            return
        label = result.planar.faces.label[faces]
        places = source_points(result.picture, result.planar.faces.inside[faces])
        keys = [result.regions.keys[own - 1] for own in label.tolist()]
        old = [window for window in self._step.model.recipe.layers.windows if window.at not in places]
        new = [Window(key, at, show) for key, at in zip(keys, places, strict=True)] if show else []
        self._step.change("Detail as a window" if show else "Detail as a piece", windows=(*old, *new))


class HiddenCard(Card):
    """Windows that an upper layer hides, and bulk under many layers."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("What nobody sees")
        self._step = step
        self.words = faded()
        self.fill = QCheckBox("Do not cut hidden windows")
        self.fill.clicked.connect(lambda on: step.change("Hidden windows", fill_windows=on))
        self.thin = QCheckBox("No bulk under three layers")
        self.thin.clicked.connect(lambda on: step.change("Bulk", thin_bulk=on))
        for widget in (self.words, self.fill, self.thin):
            self.body.addWidget(widget)

    def show_result(self, result: Result) -> None:
        """Count them."""
        settings, unit = self._step.model.recipe.layers, self._step.unit()
        plan = result.planned
        many = len(plan.windows)
        self.fill.setVisible(many > 0 or settings.fill_windows)
        self.thin.setVisible(plan.bulk > 0 or settings.thin_bulk)
        self.fill.setChecked(settings.fill_windows)
        self.thin.setChecked(settings.thin_bulk)
        self.setVisible(bool(many or plan.bulk or settings.fill_windows or settings.thin_bulk))
        told = []
        if many:
            saved = in_unit(windows_length(result), unit, 0)
            told.append(
                f"{many} window{'' if many == 1 else 's'} that upper layers hide; without, {saved} {unit} less is cut."
            )
        if plan.bulk:
            told.append(f"{plan.bulk} place{'' if plan.bulk == 1 else 's'} of a layer under three others or more.")
        self.words.setText(" ".join(told))
        self.words.setVisible(bool(told))
        self.aside.setText(str(int(np.sum([many, plan.bulk]))) if told else "")
