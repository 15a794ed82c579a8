"""The card of the cutting order: the way of the tool, and a slider that plays it."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QCheckBox, QPushButton

from sketchloom.app.controls import Slide
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.core.measures import length_words, time_words

__all__ = ["WayCard"]

_STEPS = 1000
_TICK = 40
"""ms between two pictures."""
_WHOLE = 20.0
"""s that playing all takes at most."""


class WayCard(Card):
    """In which order the tool goes, and how far that is."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Cutting order")
        self._step = step
        self.shown = QCheckBox("Show the way of the tool")
        self.shown.setToolTip("Thin lines are ways between outlines, with the tool up")
        self.shown.clicked.connect(self._show)
        self.body.addWidget(self.shown)
        self.slide = Slide("How far the tool is")
        self.slide.setRange(0, _STEPS)
        self.slide.setValue(_STEPS)
        self.slide.valueChanged.connect(self._show)
        self.body.addWidget(self.slide)
        self.told = faded()
        self.body.addWidget(self.told)
        self.play = QPushButton("Play")
        self.play.clicked.connect(self._toggle)
        self.body.addWidget(self.play)
        self._timer = QTimer(self, interval=_TICK)
        self._timer.timeout.connect(self._on_tick)
        step.layouts.changed.connect(self.show_order)
        self.show_order()

    @property
    def seconds(self) -> float:
        """How long the tool has been going where the slider stands."""
        return self.slide.value() / _STEPS * self._step.layouts.duration

    def show_order(self) -> None:
        """Show the order of the newest sheets."""
        figures = self._step.layouts.figures
        there = figures is not None
        for part in (self.slide, self.play, self.shown):
            part.setEnabled(there)
        self.aside.setText(f"tool up {length_words(figures.timing.travel, self._step.unit(), 0)}" if figures else "")
        if not there:
            self._stop()
        self._show()

    def _show(self) -> None:
        on = self.shown.isChecked()
        if not on:
            self._stop()
        layouts = self._step.layouts
        at_end = self.slide.value() == _STEPS
        played = layouts.played(self.seconds) if on and not at_end else None
        self._step.scene.show_way(on, played)
        self.slide.setVisible(on)
        self.play.setVisible(on)
        self.told.setVisible(on and layouts.figures is not None)
        if on and layouts.figures is not None:
            self.told.setText(self._words())

    def _words(self) -> str:
        layouts, unit = self._step.layouts, self._step.unit()
        figures, played = layouts.figures, layouts.played(self.seconds)
        assert figures is not None
        if self.slide.value() < _STEPS and played is not None and layouts.layout is not None:
            many = len(layouts.layout.sheets[played.sheet].runs)
            return (
                f"Sheet {played.sheet + 1}, outline {played.run + 1} of {many}, "
                f"{time_words(self.seconds).removesuffix(' min')} of {time_words(layouts.duration)}"
            )
        before, now = (length_words(mm, unit, 0) for mm in (figures.travel_before, figures.timing.travel))
        return f"The tool goes {now} between outlines; in the order of the layers' files it would be {before}."

    def toggle(self) -> None:
        """Play, or stop."""
        self.shown.setChecked(True)
        self._toggle()

    def _toggle(self) -> None:
        if self._timer.isActive():
            self._stop()
            return
        if self.slide.value() == _STEPS:
            self.slide.setValue(0)
        self.play.setText("Stop")
        self._timer.start()
        self._show()

    def _stop(self) -> None:
        self._timer.stop()
        self.play.setText("Play")

    def _on_tick(self) -> None:
        """Go on by as much as lets all be played in the time for it, and no faster than the tool goes."""
        duration = self._step.layouts.duration
        share = _TICK / 1000 / max(min(duration, _WHOLE), 1e-6)
        self.slide.setValue(self.slide.value() + max(1, round(share * _STEPS)))
        if self.slide.value() == _STEPS:
            self._stop()
