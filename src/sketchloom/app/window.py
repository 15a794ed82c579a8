"""The window put together: warp, canvas, ledger and the steps' panels around one job model."""

from pathlib import Path

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.all_commands import AllCommands
from sketchloom.app.bars import CanvasBars, TopBar
from sketchloom.app.canvas import Canvas
from sketchloom.app.catalogue import declare
from sketchloom.app.choices import Choices
from sketchloom.app.commands import Commands
from sketchloom.app.demo import demo_job
from sketchloom.app.dialogs import Dialogs
from sketchloom.app.handing import svg_data
from sketchloom.app.held_keys import HeldKeys
from sketchloom.app.job_model import JobModel
from sketchloom.app.keeping import Keeper
from sketchloom.app.ledger import Ledger
from sketchloom.app.log_model import LogModel
from sketchloom.app.measured import Measured
from sketchloom.app.paged import Paged
from sketchloom.app.panels import Panels
from sketchloom.app.quiet import Quiet, QuietWork
from sketchloom.app.routing import Routed
from sketchloom.app.settings import load_settings
from sketchloom.app.status import Status
from sketchloom.app.steps import STEPS, Step
from sketchloom.app.theme import icon, theme
from sketchloom.app.thing_menu import show_menu
from sketchloom.app.warp import Warp
from sketchloom.core.errors import ArgumentError
from sketchloom.core.scale import check_size

__all__ = ["Window"]

_MOST_RECENT = 40
_SIZE, _WIDEST = (1280, 800), 16_000
"""px, at the first start; and what no screen has."""


class Window(Routed, Choices, Paged):
    """Everything happens in this one window."""

    def __init__(self) -> None:
        super().__init__()
        self.settings = load_settings()
        self.model = JobModel()
        self.keeper = Keeper(self.model)
        self.keeper.said.connect(self.say)
        self.log = LogModel()
        self.log.said.connect(self.say)
        self.unit = self.settings.unit
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
        for step in self.steps:
            for view in step.views():
                self.canvas.add_view(view)
        first_thread = next(place for place, step in enumerate(self.steps) if step.threads)
        self.warp = Warp([step.name for step in self.steps], first_thread)
        self.status = Status(self.model, self.steps, self.warp)
        self.dialogs = Dialogs(self)
        self.compare = True
        self._build()
        declare(self)
        self._connect()
        self.model.begin = self.first_recipe
        self.take_choices()
        self._dress()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self._held_keys = HeldKeys(self.canvas, app)
        self.show_step("source")
        self.canvas.setFocus()
        side = QuietWork(self.model.side, lambda: "looking", self.model.side.cancel)
        sheets = self.by_key["sheets"].layouts
        many = QuietWork(self.many.runner, self.many.words, self.many.runner.cancel)
        self.quiet = Quiet((self.by_key["check"].checks.quiet, self.measured.quiet, *sheets.quiet, side, many))
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
        self.make_pages(middle)
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
        self.panels = Panels(self.steps, dict(self.settings.folds), self._remember_fold)
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
        self.over.view_chosen.connect(self.show_view)
        self.lift.valueChanged.connect(self._on_lift)
        self.warp.chosen.connect(lambda place: self.show_step(self.steps[place].key))
        self.ledger.selected.connect(self._on_selected)
        canvas.zoom_changed.connect(lambda _: self._show_zoom())
        canvas.resized.connect(self.over.place)
        canvas.resized.connect(self._place_pages)
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

    def stop(self) -> None:
        """Put away what lies over the work, or the tool; with none call the work off, or let go of the layer."""
        if self.page is not None:
            self.page.put_away()
        elif self.step.drawing:
            self.step.draw_with(None)
        elif self.model.runner.busy:
            self.model.cancel()
        elif self.quiet.busy:
            self.quiet.stop()
        else:
            self.ledger.let_go()

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

    def forget(self, name: str) -> None:
        """List a file that was opened before no more."""
        self._remember(recent=tuple(one for one in self.settings.recent if one != name))
        self.by_key["source"].recent.show_recent(self.settings.recent)

    def copy_svg(self) -> None:
        """Copy the layer that is selected, or all of them, as SVG."""

        def take(svg: bytes) -> None:
            QApplication.clipboard().setMimeData(svg_data(svg))
            self.say("Copied as SVG.")

        self.model.make_svg(self.ledger.key_in_hand, take)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Go on in the order in which things stand now."""
        self._order_tabs()
        return super().focusNextPrevChild(forward)

    def _on_focus(self, old: QWidget | None, new: QWidget | None) -> None:
        """Give the canvas the keys that a field has let go of."""
        if new is None and self.isActiveWindow() and QApplication.activePopupWidget() is None:
            self.canvas.setFocus()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files, wherever they are dropped."""
        if event.source() is None and any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open them."""
        self.open(*(Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()))

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
            held = sorted(self.model.held, key=lambda one: one is not self.model.current)
            self._remember(last=tuple(str(one.path or one.source) for one in held if one.path or one.source))
            self.keeper.close()
            self.measured.close()
            self.close_pages()
            self.log.close()
            for step in self.steps:
                step.close_down()
            self.model.close()
            event.accept()
        else:
            event.ignore()
