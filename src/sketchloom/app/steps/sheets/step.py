"""The Sheets step: on how many sheets, of what, how laid, how long, at what cost."""

from collections.abc import Callable, Iterator

import msgspec
import numpy as np
from PySide6.QtCore import Signal

from sketchloom.app.canvas import View
from sketchloom.app.canvas.tools import AcrossTool, LayTool, Moved, SeamTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.frame import Frame
from sketchloom.app.job_model import JobModel
from sketchloom.app.layouts import Layouts
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.sheets.knife import KnifeCard
from sketchloom.app.steps.sheets.laying import LayingCard, MachineCard, RoomCard
from sketchloom.app.steps.sheets.listed import FiguresCard, SheetsCard
from sketchloom.app.steps.sheets.piece import PieceCard
from sketchloom.app.steps.sheets.scene import SheetScene
from sketchloom.app.steps.sheets.seams import SeamCard
from sketchloom.app.steps.sheets.seams_in_hand import SeamsInHand
from sketchloom.app.steps.sheets.shelves import CuttersCard, PresetsCard
from sketchloom.app.steps.sheets.way import WayCard
from sketchloom.app.theme import theme
from sketchloom.app.warp import StepState
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result, design_of
from sketchloom.core.measures import length_words
from sketchloom.core.picture import Point
from sketchloom.core.scale import check_size
from sketchloom.core.sheets import Laid, Tighter, Where, check_sheets, with_laid

__all__ = ["SheetsStep"]

_SECONDS = 10.0
"""A search goes on for so long."""
_LINE = 1e-6
"""mm; a drawn line is at least as wide."""
_KEPT_APART = 0.06
"""mm more than the distance at which a piece snaps to another, so that the outlines keep it."""


class SheetsStep(Step):
    """The work laid to scale on real stock."""

    key, name, view, needs = "sheets", "Sheets", "Sheets", ("mended",)
    resting = "lay"
    changed = Signal()
    """Sheets are known anew."""

    def __init__(self, model: JobModel, unit: Callable[[], str]) -> None:
        self.layouts = Layouts(model)
        self.held_seams = SeamsInHand(model, self.layouts, lambda name, lines: self.change(name, seams=lines))
        self.scene = SheetScene(lambda: self._ground())
        self._ground: Callable[[], str] = lambda: theme.tokens.kraft
        self._tool: Tool | None = None
        self._points: tuple[Point, Point] | None = None
        """Two places of the source whose distance is told."""
        self._look_at: Callable[[int], object] = lambda number: None
        super().__init__(model, unit)
        self.layouts.make_ahead = self.scene.make_ahead
        self.layouts.changed.connect(self._on_layout)
        self.layouts.searching_changed.connect(self._show_settings)
        model.recipe_changed.connect(self._show_settings)

    def build(self) -> None:
        """Make the cards."""
        self.sheets, self.laying, self.room = SheetsCard(self), LayingCard(self), RoomCard(self)
        self.machine, self.piece = MachineCard(self), PieceCard(self)
        self.takes, self.way, self.knife = FiguresCard(self), WayCard(self), KnifeCard(self)
        self.seams = SeamCard(self)
        for card in (self.piece, self.sheets, self.laying):
            self.add(card)
        self.add(self.room, folded=True)
        self.add(self.machine, folded=True)
        for card in (self.seams, self.knife, self.takes, self.way):
            self.add(card, folded=True)
        self.cutters, self.presets = CuttersCard(self), PresetsCard(self)
        for card in (self.cutters, self.presets):
            self.add(card, folded=True)
        self.laying.search.clicked.connect(self.search)
        self.machine.fit.clicked.connect(self.fit_design)
        self.machine.between.committed.connect(self._take_between)
        self.machine.show_between(None)

    def views(self) -> tuple[View, ...]:
        """Give the view of the sheets."""
        return (self.scene.view(),)

    def attach(self, frame: Frame) -> None:
        """Draw on the canvas, and ask where files go."""
        self._ground = lambda: frame.canvas.scene.ground
        self.scene.changed.connect(frame.canvas.update)
        self.changed.connect(lambda: frame.canvas.refit("sheets"))
        self.changed.connect(frame.status.refresh)
        self.takes.follow(frame.log)
        self.changed.connect(lambda: frame.ledger.show_figures(self.layouts.figures))
        self.sheets.saving.connect(
            lambda: frame.dialogs.save_sheets(self.layouts.work.guests if self.layouts.work is not None else ())
        )

        def look_at(number: int) -> None:
            frame.show_view("Sheets")
            corner, size = self.scene.corners[number - 1], self.layouts.layout.sheets[number - 1].size
            frame.canvas.show_extent(corner.x(), corner.y(), *size)

        self._look_at = look_at

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give what can be done with sheets."""
        have = lambda: self.layouts.layout is not None  # noqa: E731
        chosen = lambda: self.scene.chosen is not None  # noqa: E731
        by_hand = lambda: bool(self.model.recipe.sheets.placements)  # noqa: E731
        turn = self.here(lambda: self.piece.turn(90), self.piece)
        yield "sheets-search", Command("Sheets: find a tighter layout", self.here(self.search, self.laying), can=have)
        yield "sheets-anew", Command("Sheets: lay all anew", self.here(self.laying.anew.click), can=by_hand)
        yield "sheets-turn", Command("Sheets: turn the piece in hand", turn, can=chosen)
        yield "sheets-play", Command("Sheets: play the cutting order", self.here(self.way.toggle, self.way), can=have)
        shared = self.here(self.laying.shared.click, self.laying)
        others = lambda: have() and bool(self.layouts.others)  # noqa: E731
        yield "sheets-shared", Command("Sheets: lay with the other open jobs", shared, can=others)
        yield "sheets-fit", Command("Sheets: fit the design to the sheet", self.here(self.fit_design), can=have)
        measure = self.here(lambda: self.draw_with("measure"), self.machine)
        yield "sheets-measure", Command("Sheets: size by two points", measure, can=have)
        parted = lambda: bool(self.held_seams.on_canvas())  # noqa: E731
        seams = self.here(lambda: self.draw_with("seams"), self.seams)
        yield "sheets-seams", Command("Sheets: move seams", seams, can=parted)
        yield "sheets-save", Command("Sheets: save one SVG a sheet…", self.here(self.sheets.save.click), can=have)

    def change(self, name: str, **changes: object) -> None:
        """Change settings of Sheets."""
        settings = msgspec.structs.replace(self.model.recipe.sheets, **changes)
        try:
            check_sheets(settings)
        except ArgumentError as error:
            self.model.said.emit(str(error))
            self._show_settings()
            return
        if settings != self.model.recipe.sheets:
            self.model.change(name, "sheets", **changes)

    def length(self, name: str, setting: str, mm: float) -> None:
        """Change a length, if it can be used; else say why not."""
        self.change(name, **{setting: mm})

    def look_at(self, number: int) -> None:
        """Show a sheet."""
        self._look_at(number)

    def search(self) -> None:
        """Look for a tighter layout."""
        self.layouts.search(_SECONDS, self._on_tighter)
        self._show_settings()

    def _on_tighter(self, found: Tighter) -> None:
        self._show_settings()
        if not found.gains:
            self.model.said.emit(f"No tighter layout was found in {found.tried} tries.")
            return
        gains = [
            f"{gain.group.name}: {gain.sheets} sheet{'s' * (gain.sheets > 1)} fewer" if gain.sheets
            else f"{gain.group.name}: {length_words(gain.length, self.unit(), 0)} less"
            for gain in found.gains
        ]  # fmt: skip
        self.model.said.emit(f"Tighter: {'; '.join(gains)}.")
        self.change("Tighter layout", placements=found.placements)

    def fit_design(self) -> None:
        """Give the design the finished size at which its largest layer just fits in register on its sheet."""
        full, work, layout = self.layouts.full, self.layouts.work, self.layouts.layout
        if full is None or work is None or layout is None:
            return
        shares = []
        for group in layout.groups:
            _, _, width, height = group.room
            for cut in (cut for cut in group.cuts if cut.path.contours and work.is_own(cut.key)):
                left, top, right, bottom = cut.path.bounds
                across, down = max(right - left, _LINE), max(bottom - top, _LINE)
                upright = min(width / across, height / down)
                turned = 0.0 if self.model.recipe.sheets.turn == "none" else min(width / down, height / across)
                shares.append(max(upright, turned))
        if shares:
            width = full.finished.size[0] * min(shares) * (1 - 1e-4)
            self.model.change("Fitted to the sheet", "finish", width=round(width, 2), height=None)

    def draw_with(self, tool: str | None) -> None:
        """Take the tool that moves pieces in hand, or put it away."""
        if tool is None and self.drawing is None:
            return
        self.drawing = tool
        self._tool = None
        self.machine.measure.setChecked(tool == "measure")
        self.seams.move.setChecked(tool == "seams")
        if tool == "measure":
            self._tool = AcrossTool("Drag between two places of the design whose distance you know.")
            self._tool.view = "Layers"
            self._tool.done.connect(self._take_points)
        elif tool == "seams":
            self._tool = SeamTool(self.held_seams.on_canvas)
            self._tool.done.connect(self.held_seams.move)
        elif tool is not None:
            self._tool = LayTool(self.scene, lambda: self.model.recipe.sheets.distance + _KEPT_APART)
            self._tool.done.connect(self._on_moved)
            self._tool.chosen.connect(self._choose)
            self._tool.turned.connect(self.piece.turn)
        self.tool_changed.emit(self._tool)

    def _take_points(self, ends: tuple[Point, Point]) -> None:
        self._points = ends
        self.draw_with("lay")
        self._show_between()
        self.open_card(self.machine)
        self.machine.between.setFocus()
        self.machine.between.selectAll()

    def _between(self) -> float | None:
        """Distance of the two points, mm."""
        result = self.model.result
        if self._points is None or result is None or not result.has("picture", "finish", "mended"):
            return None
        ends = design_of(result.picture, result.finished, result.stack).to_page(self._points)
        return float(np.hypot(*(ends[1] - ends[0])))

    def _show_between(self) -> None:
        self.machine.show_between(self._between())

    def _take_between(self, mm: float) -> None:
        """Give the design the size at which the two points lie so far apart."""
        now, result = self._between(), self.model.result
        if now is None or result is None or not now:
            return
        width = result.finished.size[0] * mm / now
        try:
            check_size(width)
        except ArgumentError as error:
            self.model.said.emit(str(error))
            self._show_between()
            return
        self.model.change("Size by two points", "finish", width=width, height=None)

    def enter(self) -> None:
        """Take the tool in hand."""
        if self.model.job is not None:
            self.draw_with("lay")

    def new_job(self) -> None:
        """Let go of the piece in hand, and of the sheets."""
        super().new_job()
        self.scene.chosen, self._points = None, None
        self.scene.show_layout(None)
        self._on_layout()

    def close_down(self) -> None:
        """End the threads."""
        self.layouts.close()

    def _choose(self, laid: Laid | None) -> None:
        self.scene.chosen = laid
        self.scene.renew()
        self.piece.show_piece(laid)

    def _on_moved(self, moved: Moved | None) -> None:
        if moved is None:
            self.model.said.emit("A piece stays on the sheets of its stock; drop it on one of those.")
        else:
            self._lay(moved.laid, moved.sheet.number, moved.x, moved.y, moved.laid.turn)

    def move_to(self, x: float, y: float, turn: float) -> None:
        """Lay the chosen piece elsewhere on its sheet."""
        found = self.scene.corner_of(self.scene.chosen) if self.scene.chosen is not None else None
        if found is not None and self.scene.chosen is not None:
            self._lay(self.scene.chosen, found[0].number, x, y, turn)

    def _lay(self, laid: Laid, sheet: int, x: float, y: float, turn: float) -> None:
        layout, work = self.layouts.layout, self.layouts.work
        if layout is None or work is None:
            self.model.said.emit("The sheets are still laid out; a moment.")
            self.scene.lifted = None
            self.scene.renew()
            return
        now = self.scene.now(laid)
        if now is None or self.scene.layout is not layout:
            self.model.said.emit("The sheets were laid anew meanwhile; take the piece once more.")
            self.scene.lifted = None
            self.scene.renew()
            return
        laid = now
        group = next(one.group for one in layout.sheets if any(other is laid for other in one.laid))
        before = self.model.recipe.sheets.placements
        to = Where(laid.item, sheet, x, y, turn)
        self.change("Piece moved", placements=with_laid(before, layout, work, laid, group, to))

    def is_own(self, layer: str) -> bool:
        """Whether a layer is of the job in hand."""
        return self.held_seams.is_own(layer)

    def take_other(self, place: int) -> None:
        """Part a piece along the next best seam instead of one."""
        self.held_seams.take_other(place)

    def _on_layout(self) -> None:
        layout = self.layouts.layout
        if layout is not None or self.model.result is None:
            self.scene.show_layout(layout)
        self.sheets.show_layout(layout, self.layouts.trouble)
        self.takes.show_figures(self.layouts.figures)
        self.piece.show_piece(self.scene.chosen)
        self._show_settings()
        self.changed.emit()

    def _show_settings(self) -> None:
        settings, layout = self.model.recipe.sheets, self.layouts.layout
        self.laying.show_settings(settings, self.layouts.searching, layout is not None)
        self.room.show_settings(settings)
        self.knife.show_settings(settings)
        self.seams.show_settings(settings, layout)
        groups = layout.groups if layout is not None else ()
        if layout is not None:
            self.laying.show_stocks(groups)
        kinds = {group.stock.kind for group in groups if group.stock is not None}
        self.machine.show_settings(settings, groups[0] if groups else None, kinds)
        self.presets.show_fitting()

    def show_result(self, result: Result) -> None:
        """Show what is in force; sheets follow once they are laid."""
        self._show_settings()
        self._show_between()
        self.sheets.show_layout(self.layouts.layout, self.layouts.trouble)
        self.takes.show_figures(self.layouts.figures)

    def figure(self, result: Result) -> str:
        """Number of sheets."""
        layout = self.layouts.layout
        if layout is None:
            return ""
        many = len(layout.sheets)
        return f"{many} sheet{'s' * (many != 1)}"

    def state(self, result: Result | None, stale: bool) -> StepState:
        """How the step stands: laying out goes on beside the work."""
        state = super().state(result, stale)
        layout = self.layouts.layout
        if state.state == "done" and layout is None:
            return StepState("laying out" if not self.layouts.trouble else "needs a look", "stale")
        if state.state == "done" and layout is not None and (
            layout.too_large or any(one.clashes for sheet in layout.sheets for one in sheet.laid)
        ):  # fmt: skip
            return StepState("needs a look", "look")
        return state
