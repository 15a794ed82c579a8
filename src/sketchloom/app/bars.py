"""The top bar, and the bars that float over the canvas."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QLabel, QToolButton, QWidget

from sketchloom.app.canvas import Canvas
from sketchloom.app.commands import Commands
from sketchloom.app.controls import Slide
from sketchloom.app.fields import Elided, LengthField, faded
from sketchloom.app.finder import Finder

__all__ = ["CanvasBars", "TopBar"]

_NOTICE = 6000
_LINES = 11, 49
"""px from the top of the canvas at which bars float."""


def _button(commands: Commands, identifier: str) -> QToolButton:
    """Make a button for a command; its icon and help follow from the command."""
    button = QToolButton()
    button.setIconSize(QSize(18, 18))
    button.setProperty("command", identifier)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.clicked.connect(lambda: commands.run(identifier))
    return button


class TopBar(QFrame):
    """Job name, finished size, undo, finder, theme and help."""

    def __init__(self, commands: Commands, unit: Callable[[], str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("bar")
        self.setFixedHeight(44)
        self.job_name = Elided("Sketch Loom")
        self.job_name.setProperty("role", "job")
        self.width_field = LengthField("Finished width", unit, " wide")
        self.height_field = LengthField("Finished height", unit, " high")
        for field in (self.width_field, self.height_field):
            field.setFixedWidth(124)
            field.hide()
        self.finder = Finder(commands, parent)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        line.addWidget(_button(commands, "open"))
        line.addWidget(self.job_name)
        line.addSpacing(4)
        line.addWidget(self.width_field)
        line.addWidget(self.height_field)
        line.addStretch(1)
        self._undo, self._redo = _button(commands, "undo"), _button(commands, "redo")
        line.addWidget(self._undo)
        line.addWidget(self._redo)
        line.addSpacing(8)
        line.addWidget(self.finder)
        line.addStretch(1)
        line.addWidget(_button(commands, "theme"))
        line.addWidget(_button(commands, "keys"))

    def show_history(self, undo: str | None, redo: str | None) -> None:
        """Say what can be undone and done again; a button that can do nothing is off."""
        for button, words, what, key in (
            (self._undo, "Undo", undo, "Ctrl+Z"),
            (self._redo, "Redo", redo, "Ctrl+Shift+Z or Ctrl+Y"),
        ):
            button.setEnabled(what is not None)
            button.setToolTip(f"{words}: {what}  ({key})" if what is not None else f"Nothing to {words.lower()}")


class CanvasBars(QObject):
    """Tabs, lift, zoom and notices; they float over the canvas."""

    view_chosen = Signal(str)
    """Key of the view whose tab was clicked."""

    def __init__(self, canvas: Canvas, commands: Commands) -> None:
        super().__init__(canvas)
        self._canvas = canvas
        self._tabs, tabs = self._floating(2, 2)
        tabs.setSpacing(1)
        one_of = QButtonGroup(self)
        self.views: dict[str, QToolButton] = {}
        """The tabs, by the keys of their views."""
        for view in canvas.views.values():
            if view.tab:
                button = self.views[view.key] = QToolButton()
                button.setText(view.tab)
                button.setCheckable(True)
                button.setProperty("tab", True)
                button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
                button.clicked.connect(lambda _, key=view.key: self.view_chosen.emit(key))
                one_of.addButton(button)
                tabs.addWidget(button)
        self.lift_box, lift = self._floating(11, 4)
        lift.addWidget(faded("Lift", wrap=False))
        self.lift = Slide("Lift the layers apart")
        self.lift.setRange(0, 100)
        self.lift.setFixedWidth(110)
        self.lift.setToolTip("Lifts the layers apart to see what each one is; the files do not change")
        lift.addWidget(self.lift)
        self._zoom_box, zoom = self._floating(2, 2)
        self.zoom_label = QLabel("–")
        self.zoom_label.setMinimumWidth(50)
        self.zoom_label.setAlignment(Qt.AlignmentFlag.AlignCenter)
        zoom.addWidget(_button(commands, "zoom-out"))
        zoom.addWidget(self.zoom_label)
        zoom.addWidget(_button(commands, "zoom-in"))
        self.quiet_box, quiet = self._floating(10, 3)
        self.quiet_words = faded("", wrap=False)
        quiet.addWidget(self.quiet_words)
        quiet.addWidget(_button(commands, "stop"))
        self.quiet_box.hide()
        self.notice = QLabel(canvas)
        self.notice.setWordWrap(True)
        self.notice.hide()
        self._timer = QTimer(self, interval=_NOTICE, singleShot=True)
        self._timer.timeout.connect(self.notice.hide)
        self.place()

    def _floating(self, across: int, down: int) -> tuple[QFrame, QHBoxLayout]:
        frame = QFrame(self._canvas)
        frame.setObjectName("floating")
        line = QHBoxLayout(frame)
        line.setContentsMargins(across, down, across, down)
        return frame, line

    @property
    def bars(self) -> tuple[QFrame, ...]:
        """The tabs, the lift, the zoom, and what works quietly."""
        return self._tabs, self.lift_box, self._zoom_box, self.quiet_box

    @property
    def view(self) -> str:
        """Key of the view whose tab is down, or nothing."""
        return next((key for key, button in self.views.items() if button.isChecked()), "")

    def say(self, sentence: str) -> None:
        """Show a sentence for a while."""
        self.notice.setText(sentence)
        self.notice.show()
        self.place()
        self.notice.raise_()
        self._timer.start()

    def show_parts(self, tabs: bool, lift: bool) -> None:
        """Show what can do something now: tabs and zoom where there is a picture, the lift where layers are shown."""
        self._tabs.setVisible(tabs)
        self._zoom_box.setVisible(tabs)
        self.lift_box.setVisible(lift)
        self.place()

    def tell_quiet(self, words: str) -> None:
        """Say what works quietly; nothing takes the strip away."""
        self.quiet_words.setText(f"{words[:1].upper()}{words[1:]}")
        self.quiet_box.setVisible(bool(words))
        if words:
            self.place()

    def hush(self) -> None:
        """Take the sentence away."""
        self._timer.stop()
        self.notice.hide()

    def place(self) -> None:
        """Put the bars where they belong at the canvas's size; lift and zoom go under the tabs where room is short."""
        room = self._canvas.width()
        for bar in (self._tabs, self.lift_box, self._zoom_box):
            bar.adjustSize()
            bar.resize(bar.width(), 32)
        self._tabs.move(12, 11)
        free = self._tabs.geometry().right() + 10
        zoom = room - self._zoom_box.width() - 12
        line = _LINES[0] if zoom > free else _LINES[1]
        self._zoom_box.move(zoom, line)
        lift = zoom - self.lift_box.width() - 10
        beside = lift > (free if line == _LINES[0] else 12)
        self.lift_box.move(lift if beside else room - self.lift_box.width() - 12, line if beside else _LINES[1])
        self.quiet_box.adjustSize()
        self.quiet_box.move(room - self.quiet_box.width() - 12, self._canvas.height() - self.quiet_box.height() - 12)
        self.notice.setFixedWidth(min(460, max(200, room - 260)))
        self.notice.adjustSize()
        self.notice.move((room - self.notice.width()) // 2, self._canvas.height() - self.notice.height() - 20)
