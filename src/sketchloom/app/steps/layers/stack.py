"""The cards for slip and overlap, and for base, rim and sheet."""

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QPushButton

from sketchloom.app.controls import Number, narrow_box
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.core.job import Result
from sketchloom.core.layers import BASE
from sketchloom.core.measures import area_words, in_unit

__all__ = ["BaseCard", "SlipCard"]

_CORNERS = {"Round corners": "round", "Mitred corners": "mitred", "Bevelled corners": "bevelled"}


class SlipCard(Card):
    """What shows when hands lay a layer off, and the overlap that hides it."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Slip")
        self._step = step
        self.slip = LengthField("Slip, how far hands may lay a layer off", step.unit, decimals=2)
        self.slip.committed.connect(lambda mm: step.length("Slip", "slip", mm))
        self.overlap = LengthField("Overlap under upper neighbours", step.unit, decimals=2)
        self.overlap.committed.connect(lambda mm: step.length("Overlap", "overlap", mm))
        self.row("Laid off by", self.slip)
        self.row("Overlap under neighbours", self.overlap)
        self.words = faded()
        self.body.addWidget(self.words)
        self.auto = QPushButton("Hide it with an overlap")
        self.auto.clicked.connect(lambda: step.change("Overlap", overlap="auto"))
        self.body.addWidget(self.auto)

    def show_result(self, result: Result) -> None:
        """Say what would show."""
        settings, unit = self._step.model.recipe.layers, self._step.unit()
        self.setVisible(settings.build not in ("single", "stencil"))
        self.slip.show_mm(settings.slip)
        found = result.slip
        auto = settings.overlap == "auto"
        self.overlap.show_mm(None if auto else settings.overlap)
        self.overlap.setPlaceholderText("automatic" if auto else "")
        self.auto.setVisible(found is not None and found.many > 0 and not auto)
        lap = "automatic" if auto else f"{in_unit(float(settings.overlap), unit, 2)} {unit}"
        self.aside.setText(f"overlap {lap}" if auto or settings.overlap else "none")
        if found is None:
            self.words.setText("Type how far hands may lay a layer off; what would show is drawn on the layers.")
        elif not found.many:
            hides = "The overlap hides it: " if settings.overlap else ""
            self.words.setText(f"{hides}no gap of ground would show.")
        else:
            gaps = "1 gap" if found.many == 1 else f"{found.many} gaps"
            self.aside.setText(f"{in_unit(settings.slip, unit, 2)} {unit}: {gaps}")
            hide = in_unit(found.overlap, unit, 2)
            hides = f"{hide} {unit} of overlap hides them."
            self.words.setText(f"At worst {gaps} of ground would show, {area_words(found.area, unit)} in all. {hides}")


class BaseCard(Card):
    """The solid base, its rim and copies; of a stencil the sheet."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Base and rim")
        self._step = step
        self.rim = LengthField("Rim of the base", step.unit, decimals=2)
        self.rim.committed.connect(lambda mm: step.length("Rim", "rim", mm))
        self.gap = LengthField("Gap between a piece and the rim below it", step.unit, decimals=2)
        self.gap.committed.connect(lambda mm: step.length("Gap beside the rim", "rim_gap", mm))
        self.margin = LengthField("Margin of the sheet", step.unit)
        self.margin.committed.connect(lambda mm: step.length("Margin", "margin", mm))
        self.rows = [
            self._line("Rim", self.rim), self._line("Gap round pieces", self.gap), self._line("Margin", self.margin),
        ]  # fmt: skip
        self.corners = narrow_box("Corners of the rim")
        self.corners.addItems(list(_CORNERS))
        self.corners.activated.connect(
            lambda _: step.change("Corners of the rim", corners=_CORNERS[self.corners.currentText()])
        )
        self.body.addWidget(self.corners)
        self.colour = QPushButton("Colour of the base…")
        self.colour.clicked.connect(self._take_colour)
        self.body.addWidget(self.colour)
        self.copies = Number()
        self.copies.setRange(0, 20)
        self.copies.setAccessibleName("Extra copies of the base, as stiffener")
        self.copies.setToolTip("A layer of board the size of the base stiffens paper work.")
        self.copies.valueChanged.connect(self._take_copies)
        self.rows.append(self._line("Copies to stiffen it", self.copies))
        self.words = faded()
        self.body.addWidget(self.words)

    def _line(self, words: str, widget) -> list:
        line = self.row(words, widget)
        return [line.itemAt(0).widget(), widget]

    def _take_colour(self) -> None:
        result = self._step.model.result
        layer = result.stack.layer(BASE) if result is not None and result.has("mended") else None
        now = QColor(layer.ink.hex) if layer is not None else QColor()
        colour = QColorDialog.getColor(now, self, "Colour of the base")
        if colour.isValid():
            self._step.change("Colour of the base", base_colour=colour.getRgb()[:3])

    def _take_copies(self, many: int) -> None:
        if many != self._step.model.recipe.layers.rule(BASE).copies:
            self._step.rule("Stiffeners", BASE, copies=many)

    def show_result(self, result: Result) -> None:
        """Show what the way of building has a use for."""
        settings = self._step.model.recipe.layers
        stencil, based = settings.build == "stencil", settings.has_base
        self.title.setText("Sheet" if stencil else "Base and rim")
        for widgets, shows in zip(self.rows, (not stencil, based, stencil, based), strict=True):
            for widget in widgets:
                widget.setVisible(shows)
        self.corners.setVisible(settings.rim > 0 and not stencil)
        self.colour.setVisible(based)
        self.rim.show_mm(settings.rim)
        self.gap.show_mm(settings.rim_gap)
        self.margin.show_mm(settings.margin)
        self.corners.setCurrentText(next(words for words, own in _CORNERS.items() if own == settings.corners))
        self.copies.blockSignals(True)
        self.copies.setValue(settings.rule(BASE).copies)
        self.copies.blockSignals(False)
        base = result.stack.layer(BASE)
        if base is not None:
            self.colour.setIcon(swatch(base.ink.hex, 14))
        islands = len(result.tidied.islands)
        fallen = ""
        if islands:
            fallen = f"{islands} part{'s' if islands != 1 else ''} would fall out; Tidy holds them with bridges."
        words = {
            "stencil": fallen or "Nothing would fall out.",
            "single": "A rim grows the silhouette: one solid backing of all pieces.",
        }.get(settings.build, "" if based else "A rim puts a solid base, grown by it, below all layers.")
        self.words.setText(words)
        self.words.setVisible(bool(words))
        unit = self._step.unit()
        size = settings.margin if stencil else settings.rim
        self.aside.setText(f"{in_unit(size, unit, 2)} {unit}" if size else "a base" if based else "none")
