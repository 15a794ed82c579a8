"""The card that says what the opened picture is good for."""

from PySide6.QtWidgets import QGridLayout, QLabel

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.source.desk import SourceDesk
from sketchloom.core.job import Result, px_per_mm_of
from sketchloom.core.measures import in_unit
from sketchloom.core.regions.kind import SHADED_SHARE
from sketchloom.core.survey import LIMITS, SourceReport, report_at

__all__ = ["ReportCard"]


_FROM = {"asked": "", "page": ", as its page is", "dpi": ", as its file says", "96": ", no size being set"}
"""Where the size comes from."""


def _figures(report: SourceReport, unit: str) -> list[tuple[str, str, str]]:
    """Name, value and explanation of every figure of the report."""
    drawn = report.kind in ("ink", "lineart")
    per_unit = report.px_per_mm * {"mm": 1, "cm": 10, "in": 25.4}[unit]
    rows = [
        (
            "Pixels a " + {"mm": "mm", "cm": "cm", "in": "inch"}[unit],
            f"{per_unit:.1f}{_FROM[report.size_from]}",
            "Of the opened picture, at the finished size. "
            f"Under {LIMITS.least_px_per_mm * 25.4:.0f} an inch it is coarse; 300 an inch is a good print.",
        ),
        (
            "Detail",
            f"{report.detail_px} px wide",
            "The width at which all that the picture shows would just fit. It is less than its own where it was "
            "enlarged or is blurred, and the drawing is worked at its true size.",
        ),
        (
            "Smallest detail",
            f"{in_unit(report.smallest_detail_mm, unit, 2)} {unit}",
            "Two pixels of the detail at the finished size; anything finer cannot be told from noise.",
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
                "Gaps in strokes, through which areas run into one. Tidy lists and closes them.",
            ),
        ]
    ground = report.ground if report.ground in ("clear", "none") else "one colour"
    rows.append(("Ground", ground, "What lies round the drawing: clear, one colour that can be left out, or neither."))
    return rows


class ReportCard(Card):
    """The verdict, and the figures behind it."""

    def __init__(self, step: SourceDesk) -> None:
        super().__init__("What it is good for")
        self._step = step
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        self.body.addWidget(self.verdict)
        self.figures = QGridLayout()
        self.figures.setVerticalSpacing(3)
        self.body.addLayout(self.figures)
        self._figures: list[tuple[QLabel, QLabel]] = []

    def show_result(self, result: Result) -> None:
        """Show the report at the finished size."""
        picture, measures = self._step.model.picture, self._step.model.measures
        if measures is None or picture is None:
            return
        width = picture.width / px_per_mm_of(result, picture) if result.has("finish") else None
        report = report_at(measures, width, result.scale.size_from if result.has("scale") else "asked")
        self.verdict.setText(report.verdict)
        rows = _figures(report, self._step.unit())
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
