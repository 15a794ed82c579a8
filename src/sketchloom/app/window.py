"""The window: warp, canvas, ledger and the step in hand around one job model."""

from pathlib import Path

import msgspec
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.all_commands import AllCommands
from sketchloom.app.bars import CanvasBars, TopBar
from sketchloom.app.canvas import VIEWS, Canvas
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.catalogue import declare
from sketchloom.app.commands import Commands
from sketchloom.app.demo import demo_job
from sketchloom.app.dialogs import Dialogs
from sketchloom.app.fields import AreaField, LengthField
from sketchloom.app.held import Held
from sketchloom.app.held_keys import HeldKeys
from sketchloom.app.job_model import JobModel
from sketchloom.app.ledger import Ledger
from sketchloom.app.measured import Measured
from sketchloom.app.quiet import Quiet, QuietWork
from sketchloom.app.settings import load_settings, save_settings
from sketchloom.app.status import Status
from sketchloom.app.steps import STEPS, Step
from sketchloom.app.tab_order import order_tabs
from sketchloom.app.theme import icon, theme
from sketchloom.app.thing_menu import show_menu
from sketchloom.app.warp import Warp
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import layer_key_at
from sketchloom.core.picture import Point
from sketchloom.core.scale import check_size
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Window"]

_MOST_RECENT = 8
_SIZE, _WIDEST = (1280, 800), 16_000
"""px, at the first start; and what no screen has."""


class Window(QMainWindow):
    """Everything happens in this one window."""

    def __init__(self) -> None:
        super().__init__()
        self.settings = load_settings()
        self.model = JobModel()
        self.unit = self.settings.unit if self.settings.unit in ("mm", "cm", "in") else "mm"
        self.setWindowTitle("Sketch Loom")
        wide, high = self.settings.size or _SIZE
        self.resize(min(wide, _WIDEST), min(high, _WIDEST))
        self.setMinimumSize(900, 600)
        self.setAcceptDrops(True)
        self.measured = Measured(self.model)
        self.commands = Commands(self)
        self.canvas = Canvas(self.model, lambda: self.unit)
        self.ledger = Ledger(lambda: self.unit)
        self.steps: list[Step] = [kind(self.model, lambda: self.unit) for kind in STEPS]
        self.by_key = {step.key: step for step in self.steps}
        first_thread = next(place for place, step in enumerate(self.steps) if step.threads)
        self.warp = Warp([step.name for step in self.steps], first_thread)
        self.status = Status(self.model, self.steps, self.warp)
        self.dialogs = Dialogs(self)
        self.compare = True
        self._in_ledger: Held | None = None
        self._build()
        declare(self)
        self._connect()
        theme.choose(self.settings.theme)
        self._dress()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self._held_keys = HeldKeys(self.canvas, app)
        self.show_step("source")
        self.canvas.setFocus()
        side = QuietWork(self.model.side, lambda: "looking", self.model.side.cancel)
        self.quiet = Quiet((self.by_key["check"].checks.quiet, self.measured.quiet, side))
        self.quiet.told.connect(self.over.tell_quiet)
        self.commands.follow_focus(app)
        app.focusChanged.connect(self._on_focus)

    def _build(self) -> None:
        middle = QWidget()
        middle.setObjectName("panel")
        middle.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.top = TopBar(self.commands, lambda: self.unit, middle)
        self.width_field, self.height_field = self.top.width_field, self.top.height_field
        self.job_name, self.finder = self.top.job_name, self.top.finder
        self.all_commands = AllCommands(self.commands, middle)
        column.addWidget(self.top)
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addWidget(self.warp)
        work = QVBoxLayout()
        work.setSpacing(0)
        work.addWidget(self.canvas, 1)
        work.addWidget(self.ledger)
        row.addLayout(work, 1)
        row.addWidget(self._side())
        column.addLayout(row, 1)
        self.setCentralWidget(middle)
        self.over = CanvasBars(self.canvas, self.commands)
        self.lift, self.zoom_label, self.notice = self.over.lift, self.over.zoom_label, self.over.notice

    def _side(self) -> QFrame:
        side = QFrame()
        side.setObjectName("side")
        side.setFixedWidth(300)
        box = QVBoxLayout(side)
        box.setContentsMargins(1, 0, 0, 0)
        self.panels = QStackedWidget()
        folds = dict(self.settings.folds)
        for step in self.steps:
            scroll = QScrollArea()
            scroll.setWidgetResizable(True)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setWidget(step)
            self.panels.addWidget(scroll)
            for card in step.cards:
                name = f"{step.key}/{card.name}"
                card.fold(folds.get(name, card.folded))
                card.folding.connect(lambda folded, name=name: self._remember_fold(name, folded))
        box.addWidget(self.panels)
        return side

    def _connect(self) -> None:
        model, canvas = self.model, self.canvas
        model.ahead.append(lambda result, _: self.ledger.make_ahead(result.stack) if result.has("mended") else None)
        model.job_changed.connect(self._on_job)
        model.job_saved.connect(self._name_job)
        model.jobs_changed.connect(self._refresh)
        model.recipe_changed.connect(self._refresh)
        model.result_ready.connect(self._on_result)
        model.failed.connect(self._on_failed)
        self.measured.ready.connect(self._show_ledger)
        model.said.connect(self.say)
        self.over.views.idClicked.connect(lambda place: self.show_view(VIEWS[place]))
        self.lift.valueChanged.connect(self._on_lift)
        self.warp.chosen.connect(lambda place: self.show_step(self.steps[place].key))
        self.ledger.selected.connect(self._on_selected)
        canvas.zoom_changed.connect(lambda _: self._show_zoom())
        canvas.resized.connect(self.over.place)
        canvas.clicked.connect(self._on_clicked)
        canvas.double_clicked.connect(self._open_layer)
        canvas.asked.connect(lambda at, where: show_menu(self, at, where))
        self.width_field.committed.connect(lambda mm: self.set_size("width", mm))
        self.height_field.committed.connect(lambda mm: self.set_size("height", mm))
        theme.changed.connect(self._dress)
        for row in self.warp.steps[1:]:
            row.setEnabled(False)
        for step in self.steps:
            step.tool_changed.connect(self._take_tool)
            step.wanted.connect(lambda key=step.key: self.show_step(key))
            step.attach(self)

    @property
    def step(self) -> Step:
        """The step in hand."""
        return self.steps[self.warp.current]

    def _dress(self) -> None:
        t = theme.tokens
        for button in self.findChildren(QToolButton):
            identifier = button.property("command")
            if identifier:
                command = self.commands[identifier]
                name = "sun" if identifier == "theme" and theme.is_dark else command.icon
                button.setIcon(icon(name, t.ink))
                button.setToolTip(command.name + (f"  ({command.key})" if command.key else ""))
                button.setAccessibleName(command.name)
        self.notice.setStyleSheet(
            f"background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 8px; padding: 9px 14px;"
        )
        self._refresh()

    def open(self, *paths: Path) -> None:
        """Open pictures and jobs; the first comes in hand, the job in hand is laid aside as it is."""
        if paths:
            self._clear_trouble()
            self.model.open(*paths)

    def open_demo(self, key: str = "badge") -> None:
        """Open a demo job."""
        self._clear_trouble()
        self.model.open_job(demo_job(key))

    def paste(self) -> None:
        """Open the picture, or the files, on the clipboard."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData()  # None on some systems when it is empty
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data else []
        image = clipboard.image()
        if paths:
            self.open(*paths)
        elif not image.isNull():
            self._clear_trouble()
            self.model.open_image(image)
        else:
            self.say("There is no picture on the clipboard; copy one first, or open a file.")

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
        opened = step.key == "source" and view == "Picture"
        self._show_gaps()
        self.canvas.marks = self.model.drawings if opened else ()
        self.canvas.show_view("Source" if opened else view, before)
        self.over.views.button(VIEWS.index(view)).setChecked(True)
        self._show_parts()
        self.status.refresh()

    def toggle_compare(self) -> None:
        """Show or hide the divider."""
        self.compare = not self.compare
        self.show_view(VIEWS[self.over.views.checkedId()])

    def toggle_theme(self) -> None:
        """Switch between light and dark, and keep it."""
        choice = "light" if theme.is_dark else "dark"
        self._remember(theme=choice)
        theme.choose(choice)

    def stop(self) -> None:
        """Put the tool away; with none in hand call off the work; with none of that let go of the selected layer."""
        if self.step.drawing:
            self.step.draw_with(None)
        elif self.model.runner.busy:
            self.model.cancel()
        elif self.quiet.busy:
            self.quiet.stop()
        else:
            self.ledger.let_go()

    def _take_tool(self, tool: Tool | None) -> None:
        self.show_view(tool.view if tool else self.step.view)
        self.canvas.take(tool)

    def next_unit(self) -> None:
        """Show lengths in the next unit."""
        units = ("mm", "cm", "in")
        self.unit = units[(units.index(self.unit) + 1) % 3]
        self._remember(unit=self.unit)
        for field in (*self.findChildren(LengthField), *self.findChildren(AreaField)):
            field.follow_unit()
        self._refresh()
        self.canvas.update()

    def _remember(self, **changes: object) -> None:
        self.settings = msgspec.structs.replace(self.settings, **changes)
        save_settings(self.settings)

    def _remember_fold(self, name: str, folded: bool) -> None:
        self._remember(folds=(*(fold for fold in self.settings.folds if fold[0] != name), (name, folded)))

    def remember_start(self) -> None:
        """Show no demo at the next start."""
        self._remember(started_before=True)

    def set_size(self, side: str, mm: float) -> None:
        """Ask for a finished width or height, if it can be cut."""
        try:
            check_size(mm)
        except ArgumentError as error:
            self.say(str(error))
            self._show_size()
            return
        other = "height" if side == "width" else "width"
        self.model.change("Finished size", "finish", **{side: mm, other: None})

    def say(self, sentence: str) -> None:
        """Show a sentence over the canvas for a while."""
        self.over.say(sentence)

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

    def _name_job(self) -> None:
        """Show the name of the job in hand, and whether it has changes that no file holds; remember its file."""
        held = self.model.current
        if held is None:
            return
        self.job_name.setText(held.job.name)
        self.setWindowTitle(f"{held.job.name}[*] – Sketch Loom")
        self._show_history()
        path = held.path or held.source
        if path is not None:
            kept = tuple(name for name in self.settings.recent if name != str(path))
            self._remember(recent=(str(path), *kept)[:_MOST_RECENT])

    def warn(self) -> None:
        """Tell at Send what Check knows, or that it has not ended."""
        check = self.by_key["check"]
        self.by_key["send"].show_warning(check.warning, check.ended)

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
        for field in (self.width_field, self.height_field):
            field.setVisible(have)
        lifted = VIEWS[self.over.views.checkedId()] == "Layers" if self.over.views.checkedId() >= 0 else False
        self.over.show_parts(have, lifted and result is not None and result.has("mended"))

    def _refresh(self) -> None:
        """Show the recipe in force and the newest result, whichever of them has changed."""
        result = self.model.result
        self._show_history()
        if result is None:
            return
        self.step.refresh()
        if self.canvas.view == "Source":
            self.canvas.marks = self.model.drawings
        self._show_gaps()
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
            self.warp.show_inks([layer.colour for layer in result.stack.sent])
        else:
            self.ledger.show_stack(None, "", compare=False)
            self.warp.show_inks([])

    def _show_gaps(self) -> None:
        """Show where line art leaks, at the step that lists it."""
        result = self.model.result
        listed = self.step.key == "tidy" and not self.model.recipe.separate.close_gaps
        leaks = result.tones.leaks if result is not None and result.has("tones") and listed else ()
        self.canvas.gaps = tuple((leak.first, leak.last) for leak in leaks)

    def _show_size(self) -> None:
        result, finish = self.model.result, self.model.recipe.finish
        width, height = result.finished.size if result is not None and result.has("finish") else (None, None)
        typed = finish.width is not None, finish.height is not None and finish.width is None
        self.width_field.show_mm(finish.width if typed[0] else width)
        self.height_field.show_mm(finish.height if typed[1] else height)

    def _order_tabs(self) -> None:
        """Tab goes over the canvas, the panel, the ledger, and then round the edge."""
        order_tabs((self.canvas, *self.over.bars, self.step, self.ledger, self.top, self.warp))

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Go on in the order in which things stand now."""
        self._order_tabs()
        return super().focusNextPrevChild(forward)

    def _show_zoom(self) -> None:
        result = self.model.result
        if result is None or not result.has("finish"):
            self.zoom_label.setText("–")
            return
        percent = 100 * self.canvas.zoom * result.finished.px_per_mm / result.reduction / PX_PER_MM_UNSET
        self.zoom_label.setText(f"{percent:.0f} %")

    def _on_selected(self, key: str) -> None:
        self.canvas.selected = key
        self.step.select(key)

    def _on_clicked(self, at: Point) -> None:
        """Select the layer of the ink that lies at a place."""
        result = self.model.result
        if result is None or not self.step.threads or not result.has("tidy", "palette", "mended"):
            return
        self.ledger.select(layer_key_at(result, at))

    def _open_layer(self, at: Point) -> None:
        """Go to the card of the layer that lies at a place; where none lies, show all."""
        result = self.model.result
        known = result is not None and result.has("tidy", "palette", "mended")
        key = layer_key_at(result, at) if known and result is not None else ""
        if not key:
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

    def _on_focus(self, old: QWidget | None, new: QWidget | None) -> None:
        """Give the canvas the keys that a field has let go of."""
        if new is None and self.isActiveWindow() and QApplication.activePopupWidget() is None:
            self.canvas.setFocus()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files, wherever they are dropped."""
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open them."""
        self.open(*(Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()))

    def zoom_to_chosen(self) -> None:
        """Show what is chosen: pieces at Tidy, else the selected layer; with neither all of it."""
        tidy, result = self.by_key["tidy"], self.model.result
        pieces = tidy.pieces.found(tidy.choice) if self.step is tidy and tidy.pieces is not None else []
        if not pieces and tidy.pieces is not None and result is not None and self.canvas.selected:
            pieces = tidy.pieces.of_ink(self.canvas.selected)
        if pieces:
            self.canvas.show_area(*tidy.area_of(pieces))
        else:
            self.canvas.fit()

    def changeEvent(self, event: QEvent) -> None:
        """Let go of held keys when another window is used."""
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self._held_keys.let_go()
        super().changeEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask before unsaved work is left; where it is saved first, the window closes once that is done."""
        if self.dialogs.may_leave(self.close):
            if not self.isMaximized() and not self.isFullScreen():
                self._remember(size=(self.width(), self.height()))
            self.measured.close()
            for step in self.steps:
                step.close_down()
            self.model.close()
            event.accept()
        else:
            event.ignore()
