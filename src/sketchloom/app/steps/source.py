"""Step 1, Source: what was opened, and what it is good for."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QSpinBox, QVBoxLayout, QWidget

from sketchloom.app.fields import Card, faded, in_unit
from sketchloom.app.held import Held
from sketchloom.app.steps.base import Step, empty_rows
from sketchloom.app.theme import icon, theme
from sketchloom.core.inspect import LIMITS, SourceReport, report_at
from sketchloom.core.job import Result
from sketchloom.core.picture import Crop, unit_at
from sketchloom.core.regions import SHADED_SHARE

__all__ = ["SourceStep"]

_KINDS = {
    "auto": "Found by itself",
    "flat": "Flat art",
    "ink": "Ink drawing",
    "lineart": "Line art to colour in",
    "photo": "Photo",
}
_WORDS = {"flat": "flat art", "ink": "an ink drawing", "lineart": "line art to colour in", "photo": "a photo"}
_DPI = (72, 150, 200, 300, 400, 600, 1200)


def _figures(report: SourceReport, unit: str) -> list[tuple[str, str, str]]:
    """Name, value and explanation of every figure of the report."""
    drawn = report.kind in ("ink", "lineart")
    per_unit = report.px_per_mm * {"mm": 1, "cm": 10, "in": 25.4}[unit]
    rows = [
        (
            "Pixels a " + {"mm": "mm", "cm": "cm", "in": "inch"}[unit],
            f"{per_unit:.1f}",
            "Of the opened picture, at the finished size. "
            f"Under {LIMITS.least_px_per_mm * 25.4:.0f} an inch it is coarse; 300 an inch is a good print.",
        ),
        (
            "Smallest detail",
            f"{in_unit(report.smallest_detail_mm, unit, 2)} {unit}",
            "Two pixels at the finished size; anything finer cannot be told from noise.",
        ),
        ("Inks", str(report.inks), f"Colours that stand out, ground left out. Over {LIMITS.inks} mean many sheets."),
        (
            "Flat",
            f"{100 * report.flat_share:.0f} %",
            "Share of the area in even patches; the rest is shading, edges and texture. "
            f"Flat art has at least {100 * SHADED_SHARE:.0f} %.",
        ),
        (
            "Noise",
            f"{report.noise:.1f}",
            f"How far an even patch strays, in steps of 255. Over {LIMITS.noise:g} specks may come; "
            "scans and saved-again JPEGs have some.",
        ),
        (
            "Blur",
            f"{report.blur:.1f} px",
            f"How far the sharpest edges reach from light to dark. Over {LIMITS.blur:g} corners turn round.",
        ),
    ]
    if drawn:
        rows += [
            (
                "Light",
                f"{100 * report.evenness:.0f} %",
                "Darkest bare paper against the lightest. "
                f"Under {100 * LIMITS.evenness:.0f} % the light should be evened in Prepare.",
            ),
            (
                "Open outlines",
                str(report.open_outlines),
                "Gaps in strokes, through which areas run into one. Line art to colour in lists them, with bridges.",
            ),
        ]
    ground = report.ground if report.ground in ("clear", "none") else "one colour"
    rows.append(("Ground", ground, "What lies round the drawing: clear, one colour that can be left out, or neither."))
    return rows


class SourceStep(Step):
    """The picture, its report at the finished size, its kind, and what else is open."""

    put_away = Signal(int)

    key, name, view = "source", "Source", "Picture"

    def build(self) -> None:
        """Make the cards."""
        self.start = self.add(Card("Start"))
        self.start.body.addWidget(faded("Open pictures, or look round with the demo first."))
        self.first_open, self.demo = QPushButton("Open pictures or a job…"), QPushButton("Open the demo job")
        self.first_open.setProperty("primary", True)
        self.start.body.addWidget(self.first_open)
        self.start.body.addWidget(self.demo)
        self.recent = QVBoxLayout()
        self.start.body.addLayout(self.recent)
        self.filled = [self._build_picture(), self._build_detail(), self._build_kind()]
        for card in self.filled:
            card.hide()
        self._build_drawings()
        self._build_open()
        rights = self.add(Card("Before you cut"))
        rights.body.addWidget(
            faded("Make sure you may use the picture. Keep an untouched copy; this program never changes it.")
        )

    def show_recent(self, names: tuple[str, ...], choose: Callable[[str], None]) -> None:
        """Offer files opened before that are still there."""
        there = [name for name in names if Path(name).is_file()][:5]
        if there:
            self.recent.addWidget(faded("Opened before"))
        for name in there:
            button = QPushButton(Path(name).name)
            button.setToolTip(name)
            button.setProperty("choice", True)
            button.clicked.connect(lambda _=False, name=name: choose(name))
            self.recent.addWidget(button)

    def _build_picture(self) -> Card:
        picture = self.add(Card("Picture"))
        self.file = QLabel()
        self.file.setWordWrap(True)
        self.size = faded()
        picture.body.addWidget(self.file)
        picture.body.addWidget(self.size)
        self.page_box = QWidget()
        line = QHBoxLayout(self.page_box)
        line.setContentsMargins(0, 0, 0, 0)
        self.page = QSpinBox()
        self.page.setAccessibleName("Page")
        self.page.setPrefix("page ")
        self.page.setKeyboardTracking(False)
        self.page.valueChanged.connect(lambda page: self._take_page(page, None))
        line.addWidget(self.page, 1)
        self.dpi = QSpinBox()
        self.dpi.setAccessibleName("Dots an inch at which the page is drawn")
        self.dpi.setToolTip("Dots an inch at which the page is drawn")
        self.dpi.setRange(_DPI[0], _DPI[-1])
        self.dpi.setSingleStep(50)
        self.dpi.setSuffix(" dpi")
        self.dpi.setKeyboardTracking(False)
        self.dpi.valueChanged.connect(lambda dpi: self._take_page(None, dpi))
        line.addWidget(self.dpi, 1)
        picture.body.addWidget(self.page_box)
        self.open = QPushButton("Open more…")
        picture.body.addWidget(self.open)
        return picture

    def _take_page(self, page: int | None, dpi: float | None) -> None:
        job = self.model.job
        if job is not None:
            self.model.take_page(page or job.page, dpi or job.dpi)

    def _build_detail(self) -> Card:
        detail = self.add(Card("What it is good for"))
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        detail.body.addWidget(self.verdict)
        self.figures = QGridLayout()
        self.figures.setVerticalSpacing(3)
        detail.body.addLayout(self.figures)
        self._figures: list[tuple[QLabel, QLabel]] = []
        return detail

    def _build_kind(self) -> Card:
        kind = self.add(Card("Kind of picture"))
        self.kinds: dict[str, QPushButton] = {}
        for mode, words in _KINDS.items():
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.clicked.connect(
                lambda _=False, mode=mode: self.model.change("Kind of picture", "separate", mode=mode)
            )
            self.kinds[mode] = button
            kind.body.addWidget(button)
        self.why = faded()
        kind.body.addWidget(self.why)
        return kind

    def _build_drawings(self) -> None:
        self.drawings = self.add(Card("Drawings on this page"))
        self.found = faded()
        self.drawings.body.addWidget(self.found)
        self.takers = QGridLayout()
        self.takers.setSpacing(6)
        self.drawings.body.addLayout(self.takers)
        self.apart = QPushButton("Make a job of each")
        self.apart.clicked.connect(self.model.drawings_apart)
        self.drawings.body.addWidget(self.apart)
        self.drawings.hide()
        self._taken: tuple = ()

    def _build_open(self) -> None:
        self.open_jobs = self.add(Card("Open jobs"))
        self.jobs = QVBoxLayout()
        self.jobs.setSpacing(4)
        self.open_jobs.body.addLayout(self.jobs)
        self.open_jobs.hide()
        self._jobs_shown: list[tuple] = []

    def show_result(self, result: Result) -> None:
        """Show all that is known of the picture."""
        job, picture = self.model.job, self.model.picture
        if job is None or picture is None:
            return
        self.start.hide()
        for card in self.filled:
            card.show()
        self.file.setText(job.picture_name)
        self.size.setText(self._pixels())
        self._show_page()
        self._show_report(result)
        self.kinds[self.model.recipe.separate.mode].setChecked(True)
        self.why.setText(f"It is treated as {_WORDS[result.tones.kind]}: {result.tones.why}.")
        self._show_drawings()
        self._show_jobs()

    def _show_page(self) -> None:
        job, picture = self.model.job, self.model.picture
        assert job is not None and picture is not None
        is_pdf = job.picture_name.lower().endswith(".pdf")
        self.page_box.setVisible(is_pdf or picture.pages > 1)
        self.dpi.setVisible(is_pdf)
        for field, top, value in ((self.page, picture.pages, job.page), (self.dpi, _DPI[-1], round(job.dpi))):
            field.blockSignals(True)
            field.setMaximum(top)
            field.setValue(value)
            field.blockSignals(False)
        self.page.setMinimum(1)
        self.page.setSuffix(f" of {picture.pages}")

    def _show_report(self, result: Result) -> None:
        picture, measures = self.model.picture, self.model.measures
        if measures is None or picture is None:
            return
        scale = result.finished.px_per_mm / result.scale * unit_at(picture) / unit_at(result.prepared.picture)
        report = report_at(measures, picture.width / scale)
        self.verdict.setText(report.verdict)
        rows = _figures(report, self.unit())
        while len(self._figures) < len(rows):
            pair = faded(wrap=False), QLabel()
            for column, label in enumerate(pair):
                self.figures.addWidget(label, len(self._figures), column)
            self._figures.append(pair)
        for place, pair in enumerate(self._figures):
            there = place < len(rows)
            for label, words in zip(pair, rows[place][:2] if there else ("", ""), strict=True):
                label.setText(words)
                label.setToolTip(rows[place][2] if there else "")
                label.setVisible(there)

    def _show_drawings(self) -> None:
        found = self.model.drawings
        self.drawings.setVisible(bool(found))
        self.found.setText(f"{len(found)} drawings stand apart, numbered on the picture.")
        if found == self._taken:
            return
        self._taken = found
        while self.takers.count():
            self.takers.takeAt(0).widget().deleteLater()
        for number in range(1, len(found) + 1):
            button = QPushButton(f"Take {number}")
            button.setProperty("small", True)
            button.setAccessibleName(f"Take drawing {number} alone")
            button.clicked.connect(lambda _=False, place=number - 1: self._take_drawing(place))
            self.takers.addWidget(button, (number - 1) // 3, (number - 1) % 3)

    def _take_drawing(self, place: int) -> None:
        first, last = self.model.drawings[place]
        rows = (*self.model.recipe.prepare, Crop(first=first, last=last))
        self.model.change_rows(f"Take drawing {place + 1}", rows)

    def _show_jobs(self) -> None:
        held = self.model.held
        self.open_jobs.setVisible(len(held) > 1)
        shown = [(id(one), one is self.model.current, one.dirty, theme.is_dark) for one in held]
        if shown == self._jobs_shown:
            return
        self._jobs_shown = shown
        empty_rows(self.jobs)
        for place, one in enumerate(held):
            self.jobs.addWidget(self._job(place, one))

    def _job(self, place: int, held: Held) -> QWidget:
        made = QWidget()
        line = QHBoxLayout(made)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        in_hand = held is self.model.current
        button = QPushButton(held.job.name + (" *" if held.dirty else ""))
        button.setProperty("choice", True)
        button.setCheckable(True)
        button.setChecked(in_hand)
        button.setToolTip("In hand" if in_hand else "Take it in hand; the other is laid aside as it is")
        button.clicked.connect(lambda: self.model.take(place))
        line.addWidget(button, 1)
        away = QPushButton()
        away.setIcon(icon("x", theme.tokens.line if in_hand else theme.tokens.ink, 14))
        away.setFixedSize(26, 26)
        away.setStyleSheet("padding: 1px;")
        away.setEnabled(not in_hand)
        away.setAccessibleName(f"Close {held.job.name}")
        away.setToolTip(away.accessibleName())
        away.clicked.connect(lambda: self.put_away.emit(place))
        line.addWidget(away)
        return made

    def _pixels(self) -> str:
        picture = self.model.picture
        return f"{picture.width} × {picture.height} px" if picture else ""

    def figure(self, result: Result) -> str:
        """Pixels."""
        return self._pixels()
