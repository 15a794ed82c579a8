"""The window: warp, canvas, ledger and the step in hand around one job model."""

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QBuffer, QEvent, QIODevice, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QMainWindow,
    QMessageBox,
    QScrollArea,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.bars import CanvasBars, TopBar
from sketchloom.app.canvas import VIEWS, Canvas
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.catalogue import declare
from sketchloom.app.commands import Commands
from sketchloom.app.demo import demo_job
from sketchloom.app.job_model import JobModel
from sketchloom.app.ledger import Ledger
from sketchloom.app.settings import load_settings, save_settings
from sketchloom.app.steps import LayersStep, PrepareStep, SendStep, SeparateStep, SourceStep, TraceStep
from sketchloom.app.steps.base import Step
from sketchloom.app.theme import icon, theme
from sketchloom.app.warp import StepState, Warp
from sketchloom.core.job import Job, ink_at
from sketchloom.core.picture import Point
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Window"]

_PICTURES = (
    "Pictures and jobs (*.png *.jpg *.jpeg *.webp *.heic *.heif *.tif *.tiff *.bmp *.gif *.pdf *.loom);;All files (*)"
)
_SHOW_AFTER = 300
_MOST_RECENT = 8


class Window(QMainWindow):
    """Everything happens in this one window."""

    def __init__(self) -> None:
        super().__init__()
        self.settings = load_settings()
        self.model = JobModel()
        self.unit = self.settings.unit if self.settings.unit in ("mm", "cm", "in") else "mm"
        self.setWindowTitle("Sketch Loom")
        self.resize(1280, 800)
        self.setMinimumSize(900, 600)
        self.commands = Commands(self)
        self.canvas = Canvas(self.model, lambda: self.unit)
        self.ledger = Ledger(lambda: self.unit)
        kinds = (SourceStep, PrepareStep, SeparateStep, TraceStep, LayersStep, SendStep)
        self.steps: list[Step] = [kind(self.model, lambda: self.unit) for kind in kinds]
        self.by_key = {step.key: step for step in self.steps}
        self.warp = Warp([step.name for step in self.steps], first_thread=2)
        self.compare = True
        self._working: tuple[str, float] | None = None
        self._build()
        declare(self)
        self._connect()
        theme.choose(self.settings.theme)
        self.show_step(0)
        self.canvas.setFocus()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self.commands.follow_focus(app)

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
        for step in self.steps:
            scroll = QScrollArea()
            scroll.setWidgetResizable(True)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setWidget(step)
            self.panels.addWidget(scroll)
        box.addWidget(self.panels)
        return side

    def _connect(self) -> None:
        model = self.model
        model.job_changed.connect(self._on_job)
        model.recipe_changed.connect(self._refresh_warp)
        model.result_ready.connect(self._on_result)
        model.failed.connect(self._on_failed)
        model.progress.connect(self._on_progress)
        model.busy_changed.connect(self._on_busy)
        model.said.connect(self.say)
        self.over.views.idClicked.connect(lambda place: self.show_view(VIEWS[place]))
        self.lift.valueChanged.connect(self._on_lift)
        self.warp.chosen.connect(self.show_step)
        self.ledger.selected.connect(self._on_selected)
        self.canvas.zoom_changed.connect(lambda _: self._show_zoom())
        self.canvas.resized.connect(self.over.place)
        self.canvas.clicked.connect(self._on_clicked)
        self.canvas.dropped.connect(lambda paths: self.open(*paths))
        self.width_field.committed.connect(lambda mm: self._set_size("width", mm))
        self.height_field.committed.connect(lambda mm: self._set_size("height", mm))
        theme.changed.connect(self._dress)
        source, send = self.steps[0], self.steps[-1]
        assert isinstance(source, SourceStep) and isinstance(send, SendStep)
        source.open.clicked.connect(self.ask_open)
        source.first_open.clicked.connect(self.ask_open)
        source.demo.clicked.connect(self.open_demo)
        source.show_recent(self.settings.recent, lambda name: self.open(Path(name)))
        for step in self.warp.steps[1:]:
            step.setEnabled(False)
        prepare = self.by_key["prepare"]
        assert isinstance(prepare, PrepareStep)
        for step in self.steps:
            step.tool_changed.connect(self._take_tool)
        prepare.looked.connect(self.canvas.scene.look_at)
        prepare.save_print.connect(self.ask_save_print)
        trace = self.trace_step()
        trace.heat_changed.connect(self._show_heat)
        trace.go_to.connect(self._go_to)
        source.put_away.connect(self._put_away)
        send.save_all.connect(lambda: self.ask_send(False))
        send.save_each.connect(lambda: self.ask_send(True))
        send.save_job.connect(self.ask_save_job)
        self._slow = QTimer(self, interval=_SHOW_AFTER, singleShot=True)
        self._slow.timeout.connect(self._refresh_warp)

    def trace_step(self) -> TraceStep:
        """The Trace step."""
        step = self.by_key["trace"]
        assert isinstance(step, TraceStep)
        return step

    def at_trace(self, press: Callable[[], None]) -> None:
        """Go to the Trace step and press one of its buttons."""
        self.show_step(self.steps.index(self.trace_step()))
        press()

    def _show_heat(self, on: bool) -> None:
        self.canvas.scene.heat = on
        self.show_view("Paths", alone=on)

    def _go_to(self, place: Point) -> None:
        self.show_view("Paths", alone=True)
        self.canvas.go_to(place, 8.0)

    def separate_step(self) -> SeparateStep:
        """The Separate step."""
        step = self.by_key["separate"]
        assert isinstance(step, SeparateStep)
        return step

    def at_separate(self, press: Callable[[], None]) -> None:
        """Do something at the Separate step."""
        self.show_step(self.steps.index(self.separate_step()))
        press()

    def step_inks(self, by: int) -> None:
        """Take so many inks more or fewer."""
        if self.model.result is not None and self.model.result.tones.kind in ("flat", "photo"):
            self.separate_step().set_count(self.model.result.plan.taken + by)

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
        self._refresh_steps()

    def open(self, *paths: Path) -> None:
        """Open pictures and jobs; the first comes in hand, the job in hand is laid aside as it is."""
        if paths:
            self._clear_trouble()
            self._opening = paths[0]
            self.model.open(*paths)

    def open_demo(self) -> None:
        """Open the demo job."""
        self._clear_trouble()
        self._opening = None
        self.model.open_job(demo_job())

    def paste(self) -> None:
        """Open the picture, or the files, on the clipboard."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData()  # None on some systems when it is empty
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data else []
        image = clipboard.image()
        if paths:
            self.open(*paths)
        elif not image.isNull():
            store = QBuffer()
            store.open(QIODevice.OpenModeFlag.WriteOnly)
            image.save(store, "PNG")
            self._opening = None
            self.model.open_job(Job("Pasted picture", "pasted.png", bytes(store.data())))
        else:
            self.say("There is no picture on the clipboard; copy one first, or open a file.")

    def ask_open(self) -> None:
        """Choose files to open."""
        names, _ = QFileDialog.getOpenFileNames(self, "Open pictures or jobs", self._folder(), _PICTURES)
        self.open(*map(Path, names))

    def ask_save_print(self) -> None:
        """Choose the dots an inch and where the PNG goes, and save it with its cut line."""
        dpi, sure = QInputDialog.getInt(self, "To print, then cut round", "Dots an inch", 300, 30, 2400)
        if not sure:
            return
        suggestion = Path(self._folder()) / f"{self.job_name.text()}.png"
        name, _ = QFileDialog.getSaveFileName(self, "Save the prepared picture", str(suggestion), "PNG (*.png)")
        if name:
            path = Path(name)
            self.model.save_print(path if path.suffix else path.with_suffix(".png"), dpi)

    def _put_away(self, place: int) -> None:
        held = self.model.held[place]
        if not held.dirty or self._sure(f"“{held.job.name}” has changes that are not saved as a job. Close it?"):
            self.model.put_away(place)

    def _folder(self) -> str:
        recent = self.settings.recent
        return str(Path(recent[0]).parent) if recent else ""

    def ask_send(self, each: bool) -> None:
        """Choose where the SVG goes, and save it."""
        self.show_step(len(self.steps) - 1)
        suggestion = Path(self._folder()) / f"{self.job_name.text()}.svg"
        name, _ = QFileDialog.getSaveFileName(self, "Save the layers", str(suggestion), "SVG (*.svg)")
        if name:
            path = Path(name)
            self.model.send(path if path.suffix else path.with_suffix(".svg"), each)

    def save_job(self) -> None:
        """Save the job where it was, or ask."""
        if self.model.path is not None:
            self.model.save(self.model.path)
        else:
            self.ask_save_job()

    def ask_save_job(self) -> None:
        """Choose where the job goes, and save it."""
        suggestion = Path(self._folder()) / f"{self.job_name.text()}.loom"
        name, _ = QFileDialog.getSaveFileName(self, "Save the job", str(suggestion), "Sketch Loom job (*.loom)")
        if name:
            path = Path(name)
            self.model.save(path if path.suffix else path.with_suffix(".loom"))

    def _may_leave(self) -> bool:
        """Ask before unsaved work is left."""
        names = [f"“{held.job.name}”" for held in self.model.held if held.dirty]
        have = "has" if len(names) == 1 else "have"
        return not names or self._sure(f"{', '.join(names)} {have} changes that are not saved as a job. Leave them?")

    def _sure(self, question: str) -> bool:
        answer = QMessageBox.question(
            self,
            "Sketch Loom",
            question,
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
            QMessageBox.StandardButton.Cancel,
        )
        return answer == QMessageBox.StandardButton.Discard

    def show_step(self, place: int) -> None:
        """Go to a step; the canvas shows its view."""
        self.warp.show_current(place)
        self.panels.setCurrentIndex(place)
        for step in self.steps:
            if step is not self.steps[place]:
                step.draw_with(None)
        prepare = self.by_key["prepare"]
        if isinstance(prepare, PrepareStep) and self.steps[place] is not prepare:
            prepare.choose(None)
        if self.model.result is not None:
            self.steps[place].show_result(self.model.result)
        self.show_view(self.steps[place].view)

    def show_view(self, view: str, alone: bool = False) -> None:
        """Show a view of the canvas, beside the one before if that is wanted, or alone."""
        step = self.steps[self.warp.current]
        before = step.before if self.compare and view == step.view and not alone else None
        opened = step.key == "source" and view == "Picture"
        self._show_gaps()
        self.canvas.marks = self.model.drawings if opened else ()
        self.canvas.show_view("Source" if opened else view, before)
        self.over.views.button(VIEWS.index(view)).setChecked(True)
        self.over.lift_box.setEnabled(view == "Layers")
        self._refresh_warp()

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
        """Call off the work in hand; with none, let go of the selected layer."""
        step = self.steps[self.warp.current]
        if step.drawing:
            step.draw_with(None)
        elif self.model.runner.busy:
            self.model.cancel()
        else:
            self.ledger.let_go()

    def _take_tool(self, tool: Tool | None) -> None:
        self.show_view(tool.view if tool else self.steps[self.warp.current].view)
        self.canvas.take(tool)
        if tool and tool.help and self.steps[self.warp.current].key in ("separate", "trace"):
            self.say(tool.help + " Esc puts the tool away.")

    def prepare_step(self) -> PrepareStep:
        """The Prepare step."""
        step = self.by_key["prepare"]
        assert isinstance(step, PrepareStep)
        return step

    def add_change(self, words: str) -> None:
        """Press one of the buttons of Prepare."""
        self.show_step(self.steps.index(self.prepare_step()))
        self.prepare_step().adders[words].click()

    def next_unit(self) -> None:
        """Show lengths in the next unit."""
        units = ("mm", "cm", "in")
        self.unit = units[(units.index(self.unit) + 1) % 3]
        self._remember(unit=self.unit)
        self._refresh_steps()
        self.canvas.update()

    def show_keys(self) -> None:
        """List every command with its key in the finder."""
        self.finder.start()

    def _remember(self, **changes: object) -> None:
        self.settings = msgspec.structs.replace(self.settings, **changes)
        save_settings(self.settings)

    def _set_size(self, side: str, mm: float) -> None:
        if not 0.1 <= mm <= 100_000:
            self.say(f"A finished size of {mm:g} mm cannot be cut; type one from 0.1 mm to 100 m.")
            self._show_size()
            return
        other = "height" if side == "width" else "width"
        self.model.change("Finished size", "finish", **{side: mm, other: None})

    def say(self, sentence: str) -> None:
        """Show a sentence over the canvas for a while."""
        self.over.say(sentence)

    def _on_job(self) -> None:
        job = self.model.job
        if job is None:
            return
        self.job_name.setText(job.name)
        self.setWindowTitle(f"{job.name} – Sketch Loom")
        for part in (self.width_field, self.height_field, *self.warp.steps):
            part.setEnabled(True)
        path = self.model.path or getattr(self, "_opening", None)
        if path is not None:
            kept = tuple(name for name in self.settings.recent if name != str(path))
            self._remember(recent=(str(path), *kept)[:_MOST_RECENT])

    def _on_result(self) -> None:
        self._clear_trouble()
        self._refresh_steps()

    def _clear_trouble(self) -> None:
        for step in self.steps:
            step.show_trouble("", "")

    def _refresh_steps(self) -> None:
        result = self.model.result
        if result is None:
            return
        self.steps[self.warp.current].show_result(result)
        if self.canvas.view == "Source":
            self.canvas.marks = self.model.drawings
        self._show_gaps()
        self._show_size()
        self.ledger.show_stack(result.stack, self.canvas.selected)
        self.warp.show_inks([layer.ink.hex for layer in result.stack.layers])
        self._refresh_warp()

    def _show_gaps(self) -> None:
        """Show where line art leaks, at the step that lists it."""
        result, step = self.model.result, self.steps[self.warp.current]
        listed = result is not None and step.key == "separate" and not self.model.recipe.separate.close_gaps
        self.canvas.gaps = tuple((leak.first, leak.last) for leak in result.tones.leaks) if result and listed else ()

    def _show_size(self) -> None:
        if self.model.result is not None:
            width, height = self.model.result.stack.size
            self.width_field.show_mm(width)
            self.height_field.show_mm(height)

    def _show_zoom(self) -> None:
        result = self.model.result
        if result is None:
            self.zoom_label.setText("–")
            return
        percent = 100 * self.canvas.zoom * result.finished.px_per_mm / result.scale / PX_PER_MM_UNSET
        self.zoom_label.setText(f"{percent:.0f} %")

    def _on_selected(self, layer: int) -> None:
        self.canvas.selected = layer
        self.canvas.update()

    def _on_clicked(self, at: Point) -> None:
        """Select the layer of the ink that lies at a place."""
        result = self.model.result
        if result is None or self.steps[self.warp.current].key in ("source", "prepare"):
            return
        ink = ink_at(result, at)
        layers = [layer.ink.key for layer in result.stack.layers]
        self.ledger.select(layers.index(ink.key) if ink is not None and ink.key in layers else -1)

    def _on_lift(self, value: int) -> None:
        self.canvas.lift = value / 100
        if value and self.canvas.view != "Layers":
            self.show_view("Layers")
        self.canvas.update()

    def _on_failed(self, step_key: str, sentence: str, details: str) -> None:
        place = next(i for i, step in enumerate(self.steps) if step.key == step_key)
        self.steps[place].show_trouble(sentence, details)
        self.show_step(place)
        self.say(sentence)
        self._working = None
        self._refresh_warp()

    def _on_progress(self, step: str, done: float) -> None:
        self._working = step, done
        if not self._slow.isActive() and self.warp.steps:
            self._refresh_warp()

    def _on_busy(self, busy: bool) -> None:
        if busy:
            self._slow.start()
        else:
            self._slow.stop()
            self._working = None
            self._refresh_warp()

    def _refresh_warp(self) -> None:
        working = self._working if not getattr(self, "_slow", None) or not self._slow.isActive() else None
        result = self.model.result
        waiting = False
        for place, step in enumerate(self.steps):
            if working is not None and step.key == working[0]:
                self.warp.show_state(place, StepState("", "working", working[1]))
                waiting = True
            else:
                self.warp.show_state(place, step.state(result, waiting))
        self._show_zoom()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Hold S for the source and N for nodes; a field that is typed in keeps its keys."""
        if not self._hold(event, True):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """Let go of S and N."""
        if not self._hold(event, False):
            super().keyReleaseEvent(event)

    def _hold(self, event: QKeyEvent, down: bool) -> bool:
        if event.key() not in (Qt.Key.Key_S, Qt.Key.Key_N) or event.modifiers():
            return False
        if not event.isAutoRepeat():
            if event.key() == Qt.Key.Key_S:
                self.canvas.show_source = down
            else:
                self.canvas.show_nodes = down
            self.canvas.update()
        return True

    def changeEvent(self, event: QEvent) -> None:
        """Let go of held keys when another window is used."""
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.canvas.show_source = self.canvas.show_nodes = False
            self.canvas.update()
        super().changeEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask before unsaved work is left."""
        if self._may_leave():
            self.model.close()
            event.accept()
        else:
            event.ignore()
