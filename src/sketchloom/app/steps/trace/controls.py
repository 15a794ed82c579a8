"""The cards that say how closely curves keep to edges, what is straight and what is a corner."""

import msgspec
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QPushButton

from sketchloom.app.fields import Card, LengthField, LogSlider, faded
from sketchloom.app.steps.trace.desk import TraceDesk
from sketchloom.core.curves import PRESETS, preset
from sketchloom.core.job import Result
from sketchloom.core.measures import in_unit

__all__ = ["CornersCard", "PurposeCard", "SmoothnessCard", "StraightCard"]

_LEAST_STRAIGHT = 0.01
_SQUARE = 1.5
_MIRROR = 0.5
_PURPOSE = {
    "Cut": "For a blade: close to the picture.",
    "Draw": "For a pen: long curves, corners only where they are sharp.",
    "Route": "For a router: what its bit cannot follow is left out.",
}


class PurposeCard(Card):
    """Presets: all controls set for a purpose."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("What for")
        self._step = step
        line = QHBoxLayout()
        self.presets = QButtonGroup(self)
        for name in PRESETS:
            button = QPushButton(name)
            button.setCheckable(True)
            button.setToolTip(_PURPOSE[name])
            button.clicked.connect(lambda _=False, name=name: step.take_preset(name))
            self.presets.addButton(button)
            line.addWidget(button)
        self.presets.setExclusive(False)
        self.body.addLayout(line)

    def show_result(self, result: Result) -> None:
        """Show which preset is in force."""
        trace, photo = self._step.model.recipe.trace, result.road.mode == "photo"
        for button in self.presets.buttons():
            wanted = msgspec.structs.replace(trace, **preset(button.text(), photo))
            button.setChecked(wanted.bounds(1.0, photo) == trace.bounds(1.0, photo))


def _length(step: TraceDesk, name: str, key: str, low: float, high: float) -> tuple[LengthField, LogSlider]:
    field = LengthField(name, step.unit, decimals=3)
    field.setFixedWidth(90)
    field.committed.connect(lambda mm: step.set_control(key, mm))
    slider = LogSlider(name, low, high)
    slider.moved.connect(
        lambda value, gesture: step.set_control(key, 0.0 if key == "straightness" and value <= low else value, gesture)
    )
    slider.rested.connect(step.model.rest)
    return field, slider


class SmoothnessCard(Card):
    """How far curves may leave the edges of the picture."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("Smoothness")
        self._step = step
        self.field, self.slider = _length(step, "Smoothness", "smoothness", 0.005, 1.0)
        self.row("A curve may leave its edge by", self.field)
        self.body.addWidget(self.slider)
        self.floor = faded()
        self.body.addWidget(self.floor)
        self.setToolTip(
            "Bumps of the edge from pixel to pixel are not counted here; the deviation below counts them too"
        )

    def show_result(self, result: Result) -> None:
        """Show the smoothness, and how closely the picture shows its edges."""
        asked, unit = self._step.model.recipe.trace.smoothness, self._step.unit()
        self.field.show_mm(asked)
        self.slider.show_value(asked)
        shown = result.of("bounds").tolerance / result.scale.px_per_mm
        self.floor.setVisible(not result.preview and shown > 1.05 * asked)
        self.floor.setText(f"This picture shows its edges to about {in_unit(shown, unit, 3)} {unit}, so that counts.")


class StraightCard(Card):
    """What is straight, level and alike on both halves."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("Straight lines")
        self._step = step
        self.field, self.slider = _length(step, "Straightness", "straightness", _LEAST_STRAIGHT, 2.0)
        self.row("What bows no more than this is straight", self.field)
        self.body.addWidget(self.slider)
        self.square = self._switch(
            "Square up lines that lean a little",
            f"Lines that lean less than {_SQUARE:g}° are made level or upright",
            ("square", _SQUARE),
        )
        self.mirror = self._switch(
            "Make both halves alike",
            f"The right becomes the mirror image of the left, where they differ by less than {_MIRROR:g} mm",
            ("mirror", _MIRROR),
        )

    def _switch(self, words: str, help_text: str, setting: tuple[str, float]) -> QPushButton:
        key, value = setting
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(help_text)
        button.clicked.connect(lambda on: self._step.set_control(key, value if on else 0.0))
        self.body.addWidget(button)
        return button

    def show_result(self, result: Result) -> None:
        """Show what is in force."""
        trace = self._step.model.recipe.trace
        unit = self._step.unit()
        self.aside.setText(f"{in_unit(trace.straightness, unit, 2)} {unit}")
        self.field.show_mm(trace.straightness)
        self.slider.show_value(trace.straightness)
        self.square.setChecked(trace.square > 0)
        self.mirror.setChecked(trace.mirror > 0)


class CornersCard(Card):
    """From which turn on an edge has a corner."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("Corners")
        self._step = step
        self.label = QLabel()
        self.slider = LogSlider("Corner sharpness", 10.0, 150.0)
        self.slider.moved.connect(lambda value, gesture: step.set_control("corner", float(round(value)), gesture))
        self.slider.rested.connect(step.model.rest)
        self.row("An edge that turns more sharply has a corner", self.label)
        self.body.addWidget(self.slider)

    def show_result(self, result: Result) -> None:
        """Show the turn."""
        corner = self._step.model.recipe.trace.corner_in(result.road.mode == "photo")
        self.label.setText(f"{corner:g}°")
        self.aside.setText(f"{corner:g}°")
        self.slider.show_value(corner)
