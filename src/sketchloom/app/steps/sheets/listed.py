"""The cards that say what sheets there are, what they take, and how they are saved."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout

from sketchloom.app.fields import Card, Elided, faded
from sketchloom.app.handing import drag_page
from sketchloom.app.log_model import LogModel
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.core.job import sheet_names
from sketchloom.core.logbook import RULE, Correction
from sketchloom.core.measures import in_unit, length_words, time_words
from sketchloom.core.send import names_of, page_of_sheet
from sketchloom.core.sheets import Figures, Laid, Layout, StockUsed, Work, why_not
from sketchloom.core.stock import PLAIN_KNIFE, Cutter, refusal

__all__ = ["FiguresCard", "SheetsCard"]

_MOST_ROWS = 12
_HIDDEN = 0.05
"""mm of all seams; what is seen on less is hidden."""


class SheetsCard(Card):
    """The sheets, and what found no place on them."""

    saving = Signal()
    """They are to be saved in a folder."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Sheets")
        self._step = step
        self._shown: object = None
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setProperty("role", "madder")
        self.body.addWidget(self.told)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.more = faded()
        self.body.addWidget(self.more)
        self.save = QPushButton("Save one SVG a sheet…")
        self.save.setProperty("primary", True)
        self.save.setToolTip("The page is the sheet, in mm. Every file is read back before it is saved.")
        self.save.clicked.connect(self.saving)
        self.body.addWidget(self.save)

    def show_layout(self, layout: Layout | None, trouble: str) -> None:
        """List the sheets; they can be saved where all lies well."""
        cutter = self._step.model.recipe.sheets.cutter
        self.save.setEnabled(layout is not None and not why_not(layout, cutter))
        unit = self._step.unit()
        if (id(layout), trouble, unit) == self._shown:
            return
        self._shown = id(layout), trouble, unit
        sheets = layout.sheets if layout is not None else ()
        work = self._step.layouts.work
        is_own = lambda layer: work is None or work.is_own(layer)  # noqa: E731
        self.aside.setText(str(len(sheets)) if layout is not None else "")
        told = [trouble] if trouble else [] if layout is None else _told(layout, cutter, unit)
        if layout is not None and work is not None and work.guests and not _has_guests(layout, work):
            told.append("No other open job has a layer of a stock and colour that is cut here; give both one stock.")
        told += [f"“{name}” has nothing to lay: look at what is wrong with it." for name in self._step.layouts.left_out]
        self.told.setText("\n".join(told))
        self.told.setVisible(bool(told))
        with refilled(self.rows):
            for number, sheet in enumerate(sheets[:_MOST_ROWS], 1):
                many = sum(_pieces(one) for one in sheet.laid)
                others = sum(_pieces(one) for one in sheet.laid if not is_own(one.item.body.layer))
                words = Elided(f"{number}  {sheet.group.name}, {_counted(many - others, others)}")
                words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
                look = icon_button("maximize", f"Look at sheet {number}", lambda n=number: self._step.look_at(n))
                row = ListRow(words, swatch(sheet.group.colour, 14), behind=(look,))
                row.setToolTip("Drag it to another program: there it is an SVG")
                row.dragged = lambda row=row, number=number: self._drag(row, number)
                self.rows.addWidget(row)
        left = len(sheets) - _MOST_ROWS
        self.more.setText(f"and {left} more" if left > 0 else "")
        self.more.setVisible(left > 0)

    def _drag(self, row: ListRow, number: int) -> None:
        """Let a sheet be dragged to another program."""
        layout, work = self._step.layouts.layout, self._step.layouts.work
        if layout is not None and work is not None and number <= len(layout.sheets):
            sheet = layout.sheets[number - 1]
            drag_page(row, lambda: page_of_sheet(sheet, names_of(work.every)), sheet_names(layout)[number - 1])


def _has_guests(layout: Layout, work: Work) -> bool:
    return any(not work.is_own(cut.key) for group in layout.groups for cut in group.cuts)


def _pieces(laid: Laid) -> int:
    """How many pieces are cut of something; of what is only drawn, one."""
    return max(1, sum(part.cut.kind == "cut" and not part.role for part in laid.item.body.parts))


def _counted(own: int, others: int) -> str:
    """Say how many pieces lie on a sheet, and how many of other jobs beside them."""
    beside = f" + {others}" if others else ""
    return f"{own}{beside} piece{'s' * (own + others != 1)}"


def _told(layout: Layout, cutter: Cutter | None, unit: str) -> list[str]:
    """What must not be cut and what does not fit, in sentences."""
    kinds = {group.stock.kind for group in layout.groups if group.stock is not None}
    out = [said for kind in sorted(kinds) if cutter is not None and (said := refusal(cutter, kind))]
    names = {cut.key: cut.name for group in layout.groups for cut in group.cuts}
    if layout.too_large:
        item = max(layout.too_large, key=lambda one: one.body.area)
        left, top, right, bottom = item.body.largest.shape.bounds
        many = len(layout.too_large)
        size = f"{in_unit(right - left, unit)} × {in_unit(bottom - top, unit)} {unit}"
        out.append(
            f"{many} piece{'s fit' if many > 1 else ' fits'} on no sheet; the largest, of {names[item.body.layer]}, "
            f"is {size}. Take a larger sheet or cutter, or a smaller design."
        )
    if layout.seams:
        seen = sum(seam.visible for seam in layout.seams)
        many = len(layout.seams)
        shown = (
            f"{length_words(seen, unit, 0)} of {'them' if many > 1 else 'it'} is seen" if seen > _HIDDEN else "hidden"
        )
        of = ", ".join(dict.fromkeys(names[seam.layer] for seam in layout.seams))
        out.append(f"{of}: too large for a sheet, so parted by {many} seam{'s' * (many > 1)}, {shown}.")
    if layout.apart:
        some = ", ".join(names[key] for key in layout.apart)
        out.append(f"{some}: too large to lie in register on a sheet, so its pieces lie one by one.")
    clashes = sum(one.clashes for sheet in layout.sheets for one in sheet.laid)
    if clashes:
        out.append(
            f"{clashes} piece{'s lie' if clashes > 1 else ' lies'} too near to another, or beyond what can be cut."
        )
    if layout.unplaced:
        many = len(layout.unplaced)
        out.append(f"{many} piece{'s' * (many > 1)} that a hand laid found no place any more, and was laid anew.")
    if not layout.groups:
        out.append("There is nothing to lay: every layer is hidden.")
    return out


class FiguresCard(Card):
    """Stock, cost and time."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("What it takes")
        self._step = step
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        self.values: dict[str, QLabel] = {}
        for row, words in enumerate(("Cut", "Travel", "Time, tool down", "Time in all", "Cost")):
            self.values[words] = QLabel()
            grid.addWidget(faded(words, wrap=False), row, 0)
            grid.addWidget(self.values[words], row, 1)
        grid.setColumnStretch(1, 1)
        self.body.addLayout(grid)
        self.logged = faded()
        self.logged.setToolTip(RULE)
        self.logged.hide()
        self.body.addWidget(self.logged)
        self.cutter = faded()
        self.body.addWidget(self.cutter)
        self._shown: object = None
        self._log: LogModel | None = None

    def follow(self, log: LogModel) -> None:
        """Correct times by what was logged."""
        self._log = log
        log.changed.connect(self._correct)

    def _correct(self) -> None:
        figures, cutter = self._step.layouts.figures, self._step.model.recipe.sheets.cutter
        if self._log is None or figures is None or cutter is None:
            self.logged.hide()
            return

        def done(found: Correction) -> None:
            self.logged.setVisible(found.times != 1.0)
            corrected = time_words(figures.timing.time * found.times)
            self.logged.setText(f"As {found.cuts} logged cuts on it went, {corrected} in all.")

        self._log.correct(cutter.name, done)

    def show_figures(self, figures: Figures | None) -> None:
        """Show what all takes."""
        unit = self._step.unit()
        known = id(figures), unit
        if known == self._shown:
            return
        self._shown = known
        self.aside.setText(time_words(figures.timing.time) if figures is not None else "")
        timing = figures.timing if figures is not None else None
        for words, text in (
            ("Cut", length_words(timing.cut, unit, 0) if timing else ""),
            ("Travel", length_words(timing.travel, unit, 0) if timing else ""),
            ("Time, tool down", time_words(timing.cut_time) if timing else ""),
            ("Time in all", time_words(timing.time) if timing else ""),
            ("Cost", f"{figures.cost:.2f}" if figures is not None and figures.cost else "no prices known"),
        ):
            self.values[words].setText(text)
        with refilled(self.rows):
            for one in figures.stocks if figures is not None else ():
                self.rows.addWidget(ListRow(_used(one, unit), swatch(one.group.colour, 14)))
        work, layout = self._step.layouts.work, self._step.layouts.layout
        beside = work is not None and layout is not None and _has_guests(layout, work)
        cutter = self._step.model.recipe.sheets.cutter
        machine = cutter or PLAIN_KNIFE
        self.cutter.setText(
            f"By {cutter.name if cutter else 'a plain knife'}: {in_unit(machine.speed, unit, 0)} {unit}/s, "
            f"{in_unit(machine.acceleration, unit, 0)} {unit}/s², a full stop at every corner of more than 30°."
            + (" The work of other jobs on these sheets is counted." if beside else "")
        )
        self._correct()


def _used(one: StockUsed, unit: str) -> str:
    """What is used of one stock."""
    taken = (
        f"{length_words(one.roll, unit, 0)} of roll"
        if one.group.roll
        else f"{one.sheets} sheet{'s' * (one.sheets != 1)}"
    )
    weight = f", {one.weight:.1f} g" if one.weight is not None else ""
    cost = f", {one.cost:.2f}" if one.cost else ""
    return f"{one.group.name}: {taken}, {100 * one.waste_share:.0f} % waste{weight}{cost}"
