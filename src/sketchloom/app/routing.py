"""What is seen when: a step's panel and view, and the newest recipe and result in all parts of the window."""

from typing import Any

from PySide6.QtWidgets import QMainWindow

from sketchloom.app.bars import CanvasBars, TopBar
from sketchloom.app.canvas import WORK, Canvas
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.held import Held
from sketchloom.app.job_model import JobModel
from sketchloom.app.ledger import Ledger
from sketchloom.app.measured import Measured
from sketchloom.app.panels import Panels
from sketchloom.app.quiet import Quiet
from sketchloom.app.status import Status
from sketchloom.app.steps import Step
from sketchloom.app.tab_order import order_tabs
from sketchloom.app.warp import Warp
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Routed"]


class Routed(QMainWindow):
    """A window whose parts follow the step in hand, the job and its newest result."""

    model: JobModel
    canvas: Canvas
    ledger: Ledger
    warp: Warp
    status: Status
    measured: Measured
    quiet: Quiet
    top: TopBar
    over: CanvasBars
    panels: Panels
    steps: list[Step]
    by_key: dict[str, Any]
    """The steps by their keys."""
    compare: bool
    """Whether a divider is wanted."""
    _in_ledger: Held | None = None

    @property
    def step(self) -> Step:
        """The step in hand."""
        return self.steps[self.warp.current]

    def show_step(self, key: str) -> None:
        """Go to a step; the canvas shows its view."""
        step = self.by_key[key]
        place = self.steps.index(step)
        self.warp.show_current(place)
        self.panels.setCurrentIndex(place)
        for other in self.steps:
            if other is not step:
                other.leave()
        step.select(self.canvas.selected)
        step.refresh()
        self.show_view(step.view)
        step.enter()
        self._order_tabs()

    def show_view(self, view: str, alone: bool = False) -> None:
        """Show a view of the canvas, beside the one before if that is wanted, or alone."""
        step = self.step
        before = step.before if self.compare and view == step.view and not alone else None
        self.canvas.show_view(step.shown_as(view), before)
        self._show_marks()
        self.over.views[view].setChecked(True)
        self._show_parts()
        self._show_zoom()
        self.status.refresh()

    def toggle_compare(self) -> None:
        """Show or hide the divider."""
        self.compare = not self.compare
        self.show_view(self.over.view)

    def _take_tool(self, tool: Tool | None) -> None:
        self.show_view(tool.view if tool else self.step.view)
        self.canvas.take(tool)

    def say(self, sentence: str) -> None:
        """Show a sentence over the canvas for a while."""
        self.over.say(sentence)

    def warn(self) -> None:
        """Tell at Send what Check knows, or that it has not ended."""
        check = self.by_key["check"]
        self.by_key["send"].show_warning(check.warning, check.ended)

    def _on_job(self, opened: bool) -> None:
        """Another job came in hand: what was in hand is put away, and what was opened just now shows at Source."""
        for step in self.steps:
            step.new_job()
        for row in self.warp.steps:
            row.setEnabled(True)
        self._name_job()
        self.warn()
        if opened and self.step.key != "source":
            self.show_step("source")
        else:
            self.step.enter()
        self._show_parts()

    def _show_history(self) -> None:
        """Show what can be undone, and whether a file holds the job as it is."""
        model = self.model
        self.setWindowModified(model.current is not None and model.current.dirty)
        self.top.show_history(model.undo_name, model.redo_name)

    def _on_result(self) -> None:
        self._clear_trouble()
        self._refresh()

    def _clear_trouble(self) -> None:
        for step in self.steps:
            step.show_trouble("", "")

    def _show_parts(self) -> None:
        """Show what can do something now."""
        have, result = self.model.job is not None, self.model.result
        for field in (self.top.width_field, self.top.height_field):
            field.setVisible(have)
        self.over.show_parts(have, self.over.view == "Layers" and result is not None and result.has("mended"))

    def _refresh(self) -> None:
        """Show the recipe in force and the newest result, whichever of them has changed."""
        result = self.model.result
        self._show_history()
        if result is None:
            return
        self.step.refresh()
        self._show_marks()
        self._show_size()
        self._show_parts()
        self._show_ledger()
        self.warn()
        self.status.refresh()
        self._show_zoom()
        self._order_tabs()

    def _show_ledger(self) -> None:
        """Show the figures of the layers, and their threads."""
        result = self.model.result
        if result is not None and result.has("mended"):
            same = self._in_ledger is self.model.current
            self.ledger.show_stack(result.stack, self.canvas.selected, same, self.measured.narrowest)
            self._in_ledger = self.model.current
            self.ledger.show_figures(self.by_key["sheets"].layouts.figures)
            self.warp.show_inks([layer.colour for layer in result.stack.sent])
        else:
            self.ledger.show_stack(None, "", compare=False)
            self.ledger.show_figures(None)
            self.warp.show_inks([])

    def _show_marks(self) -> None:
        """Number on the picture what the step in hand lists."""
        self.canvas.marks = self.step.marks() if self.canvas.view == "Source" else ()
        self.canvas.gaps = self.step.gaps()

    def _show_size(self) -> None:
        result, finish = self.model.result, self.model.recipe.finish
        width, height = result.finished.size if result is not None and result.has("finish") else (None, None)
        typed = finish.width is not None, finish.height is not None and finish.width is None
        self.top.width_field.show_mm(finish.width if typed[0] else width)
        self.top.height_field.show_mm(finish.height if typed[1] else height)

    def _order_tabs(self) -> None:
        """Tab goes over the canvas, the panel, the ledger, and then round the edge."""
        order_tabs((self.canvas, *self.over.bars, self.step, self.ledger, self.top, self.warp))

    def _show_zoom(self) -> None:
        unit = self.canvas.shown.unit()
        self.over.zoom_label.setText(
            "–" if unit is None else f"{100 * self.canvas.zoom * unit / PX_PER_MM_UNSET:.0f} %"
        )

    def _on_selected(self, key: str) -> None:
        self.canvas.selected = key
        self.step.select(key)

    def _on_clicked(self, key: str) -> None:
        """Select the layer that was clicked."""
        if self.step.threads:
            self.ledger.select(key)

    def _open_layer(self, key: str) -> None:
        """Go to the card of a layer; where none lies, show all."""
        if not key or self.canvas.shown.room != WORK:
            self.canvas.fit()
            return
        self.show_step("layers")
        self.ledger.select(key)
        layers = self.by_key["layers"]
        layers.open_card(layers.layer)

    def _on_lift(self, value: int) -> None:
        self.canvas.lift = value / 100
        if value and self.canvas.view != "Layers":
            self.show_view("Layers")
        self.canvas.update()

    def _on_failed(self, step_key: str, sentence: str, details: str) -> None:
        self.by_key[step_key].show_trouble(sentence, details)
        self.show_step(step_key)
        self.say(sentence)
        self.status.rest()

    def zoom_to_chosen(self) -> None:
        """Show what is chosen at the step, else the selected layer; with neither all of it."""
        area = self.step.chosen_area() or self.by_key["tidy"].area_of_ink(self.canvas.selected)
        if area is not None and self.canvas.shown.room == WORK:
            self.canvas.show_area(*area)
        else:
            self.canvas.fit()
