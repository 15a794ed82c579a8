"""The card of the test cut: half an inch to try first, and what its result does to the preset."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, faded
from sketchloom.app.job_model import JobModel
from sketchloom.core.job import Result, stocks_of
from sketchloom.core.stock import RULES, TRIALS, Preset, Stock, after_trial, preset_for, preset_words

__all__ = ["TrialCard"]


class TrialCard(Card):
    """A stock of the job at a time.

    Parameters
    ----------
    model : JobModel
    """

    asked = Signal(object)
    """The test cut of a stock is to be saved; None for any."""

    def __init__(self, model: JobModel) -> None:
        super().__init__("Test cut")
        self._model = model
        self._stocks: tuple[Stock | None, ...] = ()
        self.body.addWidget(
            faded("A trowel half an inch long, with a fine neck, a corner, a small hole and a dot: cut it first.")
        )
        self.stock = Choice("Stock of the test cut")
        self.stock.activated.connect(lambda _: self._show())
        self.row("Stock", self.stock)
        self.save = QPushButton("Save the test cut…")
        self.save.clicked.connect(lambda: self.asked.emit(self.chosen))
        self.body.addWidget(self.save)
        self.result = Choice("Result of the test cut")
        for trial in TRIALS:
            self.result.addItem(trial.capitalize(), trial)
        self.result.activated.connect(lambda _: self._show())
        self.row("Result", self.result)
        self.rule = faded()
        self.body.addWidget(self.rule)
        self.change = QPushButton("Change the preset")
        self.change.clicked.connect(self._change)
        self.body.addWidget(self.change)
        model.presets.changed.connect(self._show)

    @property
    def chosen(self) -> Stock | None:
        """The stock in hand."""
        place = self.stock.currentIndex()
        return self._stocks[place] if 0 <= place < len(self._stocks) else None

    def show_job(self, result: Result) -> None:
        """List the stocks of a job."""
        stocks = stocks_of(result.stack)
        if stocks != self._stocks or not self.stock.count():
            before = self.chosen
            self._stocks = stocks
            self.stock.clear()
            self.stock.addItems([stock.name if stock is not None else "Any stock" for stock in stocks])
            self.stock.setCurrentIndex(stocks.index(before) if before in stocks else 0)
        self._show()

    def _presets(self) -> tuple[Preset | None, Preset]:
        """The preset in force, if there is one, and what the result makes of it."""
        shelf, cutter = self._model.presets.things, self._model.recipe.sheets.cutter
        old = preset_for(shelf, self.chosen, cutter)
        return old, after_trial(shelf, self.chosen, cutter, self.result.currentData())

    def _show(self) -> None:
        if self._model.job is None:
            return
        old, new = self._presets()
        cutter = self._model.recipe.sheets.cutter
        known = self.chosen is not None and cutter is not None
        told = f"{RULES[self.result.currentData()]} The stock stays as it is.\n"
        if not known:
            told += "Choose a stock for the layer and a cutter for the sheets: a preset is of both."
        elif old is None:
            told += f"A new preset: {preset_words(new)}."
        elif old == new:
            told += f"“{old.name}” stays: {preset_words(old)}."
        else:
            told += f"“{old.name}”: {preset_words(old)} becomes {preset_words(new)}."
        self.rule.setText(told)
        self.change.setText("Keep a preset" if old is None else "Change the preset")
        self.change.setEnabled(known and old != new)

    def _change(self) -> None:
        old, new = self._presets()
        shelf = self._model.presets
        if old is None:
            shelf.add(new)
        else:
            shelf.change(old.name, force=new.force, speed=new.speed, passes=new.passes)
