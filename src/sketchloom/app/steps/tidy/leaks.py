"""The card with the leaks of line art."""

from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.list_row import ListRow, refilled, small_button
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.core.job import Result, gap_mm
from sketchloom.core.measures import in_unit
from sketchloom.core.regions import Closing

__all__ = ["LeaksCard"]

_MOST_SHOWN = 12


class LeaksCard(Card):
    """Where outlines are open, each with a closing to close it."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Leaks")
        self._step = step
        self.words = faded()
        self.body.addWidget(self.words)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)
        self.all = QPushButton("Close all")
        self.all.clicked.connect(self.close_all)
        self.open_again = QPushButton("Open those I closed")
        self.open_again.clicked.connect(lambda: step.model.change("Open the leaks", "separate", closings=()))
        self.body.addWidget(self.all)
        self.body.addWidget(self.open_again)
        self._leaks: tuple[Closing, ...] = ()
        self._shown: object = None

    def close_all(self) -> None:
        """Close every leak that is listed."""
        if self._leaks:
            self.close_leaks(self._leaks)

    def close_leaks(self, leaks: tuple[Closing, ...]) -> None:
        """Close leaks with their closings."""
        closings = self._step.model.recipe.separate.closings
        name = "Close a leak" if len(leaks) == 1 else f"Close {len(leaks)} leaks"
        self._step.model.change(name, "separate", closings=(*closings, *leaks))

    def show_result(self, result: Result) -> None:
        """List them."""
        self.setVisible(result.road.mode == "lineart")
        settings, unit = self._step.model.recipe.separate, self._step.unit()
        self._leaks = () if settings.close_gaps else result.tones.leaks
        many = len(self._leaks)
        closed = len(settings.closings) + (len(result.tones.leaks) if settings.close_gaps else 0)
        self.aside.setText(f"{closed} closed" if closed else "")
        self.words.setText(
            "Every outline closes." if not many else "Areas run into each other where an outline is open."
        )
        self.all.setVisible(many > 1)
        self.open_again.setVisible(bool(settings.closings))
        shown = self._leaks, tuple(self._open(result, leak) for leak in self._leaks[:_MOST_SHOWN]), unit
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for number, (leak, words) in enumerate(zip(self._leaks, shown[1], strict=False), 1):
                close = small_button("Close it", lambda leak=leak: self.close_leaks((leak,)), f"Close leak {number}")  # type: ignore[misc]
                self.rows.addWidget(ListRow(words, str(number), behind=(close,)))
            if many > _MOST_SHOWN:
                self.rows.addWidget(faded(f"and {many - _MOST_SHOWN} more"))

    def _open(self, result: Result, leak: Closing) -> str:
        unit = self._step.unit()
        return f"{in_unit(gap_mm(result, leak), unit)} {unit} open" if result.has("finish") else "open"
