"""The cards with the readiness of the job and the list of findings."""

import time
from collections import Counter, deque
from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QLabel, QListWidget, QListWidgetItem, QPushButton

from sketchloom.app.controls import narrow_box
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.check.desk import CheckDesk
from sketchloom.app.steps.check.place import place_picture
from sketchloom.app.steps.check.words import ROLE, measure_words, title_of
from sketchloom.app.theme import theme
from sketchloom.core.inspect import KINDS, Finding, readiness
from sketchloom.core.job import Checked
from sketchloom.core.measures import in_words

__all__ = ["FindingsCard", "ReadyCard"]

_MOST_SHOWN = 100
_ROWS = 4
_ICON = QSize(56, 40)
_MOMENT = 0.02
"""s in which pictures of rows are drawn at a time."""
_PLACE = Qt.ItemDataRole.UserRole


def _blank() -> QIcon:
    """Where a picture will be."""
    pixmap = QPixmap(_ICON)
    pixmap.fill(QColor(theme.tokens.kraft))
    return QIcon(pixmap)


class ReadyCard(Card):
    """Whether it can be cut, in a sentence, and what mends all that is safe."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("Will it cut")
        self._step = step
        self.sentence = QLabel()
        self.sentence.setWordWrap(True)
        self.body.addWidget(self.sentence)
        self.all = QPushButton("Mend all that is safe")
        self.all.setProperty("primary", True)
        self.all.setToolTip("Does what removes a finding and brings nothing as bad; one step of undo")
        self.all.clicked.connect(step.mend_all)
        self.body.addWidget(self.all)

    def show_checked(self, checked: Checked | None, trouble: str) -> None:
        """Show the sentence; what is not known is said to be so."""
        found = checked.open if checked is not None else ()
        self.sentence.setText(readiness(found) if checked is not None else trouble or "Checking…")
        worst = "moss" if checked is not None else "faded"
        worst = ROLE[found[0].severity] if found else worst
        self.sentence.setProperty("role", worst)
        self.sentence.style().unpolish(self.sentence)
        self.sentence.style().polish(self.sentence)
        self.all.setVisible(any(fix.mends for one in found for fix in one.fixes))


class _Findings(QListWidget):
    """Findings, worst first; arrows walk them, Enter does the fix, Delete leaves one so."""

    mend = Signal()
    leave = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Findings, worst first")
        self.setToolTip("Arrows walk the findings; Enter does the first fix, Delete leaves one so.")
        self.setIconSize(_ICON)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTabKeyNavigation(False)
        self.setWordWrap(True)
        self.setProperty("framed", True)

    def keyPressEvent(self, event) -> None:
        """Enter mends and Delete leaves; S and N, which are held, go to the window."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.mend.emit()
        elif event.key() == Qt.Key.Key_Delete:
            self.leave.emit()
        elif event.key() in (Qt.Key.Key_S, Qt.Key.Key_N):
            event.ignore()
        else:
            super().keyPressEvent(event)


class FindingsCard(Card):
    """The list of what was found."""

    chosen = Signal(int)
    narrowed = Signal()
    """Other kinds are listed."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("Findings", "worst first")
        self._step = step
        self._shown: object = None
        self._kind = ""
        """The kind that alone is listed; empty for all."""
        self.kinds = narrow_box("Kinds of finding that are listed")
        self.kinds.activated.connect(lambda _: self._list_only(self.kinds.currentData()))
        self.body.addWidget(self.kinds)
        self.rows = _Findings()
        self.rows.currentItemChanged.connect(self._on_current)
        self.rows.mend.connect(step.mend_one)
        self.rows.leave.connect(step.leave_one)
        self.body.addWidget(self.rows)
        self.more = faded()
        self.body.addWidget(self.more)
        self._undrawn: deque[tuple[QListWidgetItem, Checked, int]] = deque()
        """Rows whose pictures are still to be drawn: those of a hundred would hold the window up."""
        self._drawing = QTimer(self, interval=0)
        self._drawing.timeout.connect(self._draw_some)

    def _on_current(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.chosen.emit(int(item.data(_PLACE)))

    def _list_only(self, kind: str) -> None:
        self._kind = kind
        self.narrowed.emit()

    def walk(self, by: int) -> None:
        """Go to the next finding, or the one before; round and round."""
        count = self.rows.count()
        if count:
            self.rows.setCurrentRow((self.rows.currentRow() + by) % count)

    def show_checked(self, checked: Checked | None, place: int) -> int:
        """List the findings; gives the place of the one in hand, -1 where there is none."""
        if checked is None:  # another list is on its way; of the same kind, if there are any
            self.hide()
            return -1
        places = [p for p in range(len(checked.findings)) if p not in checked.aside]
        self.setVisible(bool(places))
        self.aside.setText(f"{len(places)}, worst first")
        self._show_kinds(checked.open)
        if self._kind:
            places = [p for p in places if checked.findings[p].kind == self._kind]
        unit = self._step.unit()
        key = (checked, tuple(places), unit, theme.is_dark)
        if key != self._shown:
            self._shown = key
            self.rows.blockSignals(True)
            self._undrawn.clear()
            self.rows.clear()
            for at in places[:_MOST_SHOWN]:
                self.rows.addItem(self._row(checked, at, unit))
                self._undrawn.append((self.rows.item(self.rows.count() - 1), checked, at))
            self._draw_some()
            self.rows.setFixedHeight(min(len(places), _ROWS) * (_ICON.height() + 9) + 8)
            self.rows.blockSignals(False)
        shown = places[:_MOST_SHOWN]
        place = place if place in shown else shown[0] if shown else -1
        if place >= 0 and self.rows.currentRow() != shown.index(place):
            self.rows.blockSignals(True)
            self.rows.setCurrentRow(shown.index(place))
            self.rows.blockSignals(False)
        self.more.setText(f"and {len(places) - _MOST_SHOWN} more, once these are mended or left")
        self.more.setVisible(len(places) > _MOST_SHOWN)
        return place

    def _draw_some(self) -> None:
        """Draw pictures of rows for a moment, the first ones first; the others follow when the window has time."""
        end = time.monotonic() + _MOMENT
        while self._undrawn and time.monotonic() < end:
            item, checked, at = self._undrawn.popleft()
            picture = place_picture(checked.subject, checked.findings[at], _ICON.width(), _ICON.height())
            item.setIcon(QIcon(picture))
        if self._undrawn:
            self._drawing.start()
        else:
            self._drawing.stop()

    def _show_kinds(self, found: Sequence[Finding]) -> None:
        """Offer the kinds that there are; where the one that was asked for is gone, all are listed again."""
        counts = Counter(one.kind for one in found)
        self._kind = self._kind if self._kind in counts else ""
        self.kinds.setVisible(len(counts) > 1)
        rows = [(f"All kinds ({len(found)})", ""), *((f"{KINDS[k].title} ({n})", k) for k, n in counts.items())]
        if rows != [(self.kinds.itemText(i), self.kinds.itemData(i)) for i in range(self.kinds.count())]:
            self.kinds.clear()
            for words, kind in rows:
                self.kinds.addItem(words, kind)
        self.kinds.setCurrentIndex(self.kinds.findData(self._kind))

    def _row(self, checked: Checked, place: int, unit: str) -> QListWidgetItem:
        finding: Finding = checked.findings[place]
        layer = checked.subject.layer(finding.layer)
        mark = "✕" if finding.severity == "spoils" else "•"
        figures = measure_words(finding.measure, finding.unit, unit) if finding.unit else ""
        words = f"{mark} {title_of(finding)}\n{', '.join(filter(None, [layer.name if layer else '', figures]))}"
        item = QListWidgetItem(_blank(), words)
        item.setData(_PLACE, place)
        item.setForeground(QColor(getattr(theme.tokens, ROLE[finding.severity])))
        sentence = in_words(finding.sentence, unit)
        item.setToolTip(sentence)
        severity = "spoils the cut" if KINDS[finding.kind].severity == "spoils" else "worth a look"
        item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{title_of(finding)}, {severity}: {sentence}")
        return item
