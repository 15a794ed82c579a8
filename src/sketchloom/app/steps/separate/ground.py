"""The card with the ground: what is cleared, and which inks were sent there."""

from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, refilled, small_button
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.app.theme import theme
from sketchloom.core.job import Result

__all__ = ["GroundCard"]


class GroundCard(Card):
    """Clear the ground or keep it; bring inks back from it."""

    def __init__(self, step: SeparateDesk) -> None:
        super().__init__("Ground")
        self._step = step
        self._shown: object = None
        self.swatch, self.words = QLabel(), QLabel()
        self.words.setWordWrap(True)
        self.keep = QPushButton()
        self.keep.clicked.connect(self.toggle)
        line = self.row(self.swatch)
        line.addWidget(self.words, 1)
        line.addWidget(self.keep)
        self.grounded = QVBoxLayout()
        self.body.addLayout(self.grounded)

    def toggle(self) -> None:
        """Clear the ground, or keep it as an ink."""
        kept = self._step.model.recipe.separate.ground == "keep"
        name = "Clear the ground" if kept else "Keep the ground"
        self._step.model.change(name, "separate", ground="auto" if kept else "keep")

    def restore(self, key: str) -> None:
        """Take an ink back from the ground."""
        grounded = tuple(other for other in self._step.model.recipe.separate.grounded if other != key)
        self._step.model.change(f"Restore {self._step.name_of(key)}", "separate", grounded=grounded)

    def show_result(self, result: Result) -> None:
        """Show what is cleared."""
        self._show_words(result)
        keys = self._step.model.recipe.separate.grounded
        shown = tuple((key, self._step.name_of(key), self._step.colour_of(key)) for key in keys), theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.grounded):
            for key, name, colour in shown[0]:
                back = small_button("Restore", lambda key=key: self.restore(key), f"Restore {name}")  # type: ignore[misc]
                self.grounded.addWidget(ListRow(name, swatch(colour), behind=(back,)))

    def _show_words(self, result: Result) -> None:
        ground = result.ground
        cleared = 0.0 if ground.cleared is None else float(ground.cleared.mean())
        self.keep.setText("Keep it")
        self.keep.show()
        self.swatch.clear()
        if self._step.model.recipe.separate.ground == "keep":
            self.words.setText("kept as an ink")
            self.keep.setText("Clear it")
        elif ground.shown is not None:
            self.swatch.setPixmap(swatch(ground.shown.hex))
            where = "paper" if result.road.mode in ("ink", "lineart") else "border"
            self.words.setText(f"{ground.shown.name.lower()} {where}, {100 * cleared:.1f} %")
        elif cleared:
            self.words.setText(f"clear in the picture, {100 * cleared:.1f} %")
        else:
            self.words.setText("none: the border has several colours")
            self.keep.hide()
        self.swatch.setVisible(not self.swatch.pixmap().isNull())
