"""The card with the file that was opened, and its pages."""

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from sketchloom.app.controls import Number
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.source.desk import SourceDesk
from sketchloom.core.job import Result

__all__ = ["PictureCard"]

_DPI = (72, 1200)


class PictureCard(Card):
    """Name and pixels; which page, and how finely it is drawn."""

    def __init__(self, step: SourceDesk) -> None:
        super().__init__("Picture")
        self._step = step
        self.file = QLabel()
        self.file.setWordWrap(True)
        self.size = faded()
        self.body.addWidget(self.file)
        self.body.addWidget(self.size)
        self.page_box = QWidget()
        line = QHBoxLayout(self.page_box)
        line.setContentsMargins(0, 0, 0, 0)
        self.page, self.dpi = Number(), Number()
        self.page.setAccessibleName("Page")
        self.page.setPrefix("page ")
        self.page.valueChanged.connect(lambda page: self._take(page, None))
        self.dpi.setAccessibleName("Dots an inch at which the page is drawn")
        self.dpi.setToolTip("Dots an inch at which the page is drawn")
        self.dpi.setRange(*_DPI)
        self.dpi.setSingleStep(50)
        self.dpi.setSuffix(" dpi")
        self.dpi.valueChanged.connect(lambda dpi: self._take(None, dpi))
        for field in (self.page, self.dpi):
            field.setKeyboardTracking(False)
            line.addWidget(field, 1)
        self.body.addWidget(self.page_box)
        self.open = QPushButton("Open more…")
        self.body.addWidget(self.open)

    def _take(self, page: int | None, dpi: float | None) -> None:
        job = self._step.model.job
        if job is not None:
            self._step.model.take_page(page or job.page, dpi or job.dpi)

    def show_result(self, result: Result) -> None:
        """Show the file, and the page in hand."""
        job, picture = self._step.model.job, self._step.model.picture
        if job is None or picture is None:
            return
        self.file.setText(job.picture_name)
        self.size.setText(self._step.pixels())
        is_pdf = job.picture_name.lower().endswith(".pdf")
        self.page_box.setVisible(is_pdf or picture.pages > 1)
        self.dpi.setVisible(is_pdf)
        for field, top, value in ((self.page, picture.pages, job.page), (self.dpi, _DPI[-1], round(job.dpi))):
            field.blockSignals(True)
            field.setMaximum(max(top, value))
            field.setValue(value)
            field.blockSignals(False)
        self.page.setMinimum(1)
        self.page.setSuffix(f" of {picture.pages}")
