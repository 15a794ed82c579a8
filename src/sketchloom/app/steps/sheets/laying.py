"""The cards that say how pieces are laid: the way, copies, turns and distances; the sheet and the cutter."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QToolButton

from sketchloom.app.controls import Choice, Number, narrow_box
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.steps.list_row import way_button
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.app.theme import theme
from sketchloom.core.measures import in_unit, length_words
from sketchloom.core.sheets import Group, SheetSettings
from sketchloom.core.stock import StockKind, refusal

__all__ = ["LayingCard", "MachineCard", "RoomCard"]

_WIDE, _HIGH = 108, 34
_WAYS = {
    False: ("In register", "Each layer keeps its pieces where they are to each other",
            ((0.08, 0.2, 0.26, 0.3), (0.38, 0.14, 0.2, 0.46), (0.64, 0.3, 0.26, 0.5), (0.2, 0.62, 0.3, 0.24))),
    True: ("Nested", "Pieces are laid one by one, as close as the distance lets them",
           ((0.05, 0.08, 0.26, 0.3), (0.33, 0.08, 0.2, 0.46), (0.55, 0.08, 0.26, 0.5), (0.05, 0.42, 0.26, 0.24))),
}  # fmt: skip
"""Name, words, and boxes of a little sheet: left, top, width and height."""
_TURNS = (("none", "As they are"), ("quarter", "By quarters"), ("any", "By any angle"))
_FLIPS = (("auto", "As the stock asks"), ("off", "Never mirrored"), ("on", "Always mirrored"))
_SIZES: tuple[tuple[str, tuple[float, float] | None], ...] = (
    ("That of the stock", None),
    ("12 × 12 in", (304.8, 304.8)),
    ("12 × 24 in", (304.8, 609.6)),
    ("A4", (210.0, 297.0)),
    ("A3", (297.0, 420.0)),
)


def _picture(nested: bool) -> QPixmap:
    """Draw the little sheet."""
    t = theme.tokens
    pixmap = QPixmap(2 * _WIDE, 2 * _HIGH)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(0, 0, 0, 0))
    painter = QPainter(pixmap)
    painter.setPen(QColor(t.line))
    painter.drawRect(QRectF(30, 1, _WIDE - 60, _HIGH - 2))
    for number, (left, top, width, height) in enumerate(_WAYS[nested][2]):
        code = (t.indigo, t.moss, t.faded)[number % 3]
        area = QRectF(30 + (_WIDE - 60) * left, 1 + _HIGH * top, (_WIDE - 60) * width, (_HIGH - 2) * height)
        painter.fillRect(area, QColor(code))
    painter.end()
    return pixmap


class LayingCard(Card):
    """How pieces are laid."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("How it is laid")
        self._step = step
        line = QHBoxLayout()
        line.setSpacing(6)
        self.ways: dict[bool, QToolButton] = {}
        for nested, (name, words, _) in _WAYS.items():
            button = way_button(name, f"{words}.", (_WIDE, _HIGH), (113, 62))
            button.clicked.connect(lambda _=False, nested=nested: self._take_way(nested))
            self.ways[nested] = button
            line.addWidget(button)
        line.addStretch()
        self.body.addLayout(line)
        self.stock = narrow_box("Stock that is laid this way")
        self.stock.activated.connect(lambda _: self._show_way(step.model.recipe.sheets))
        self.body.addWidget(self.stock)
        self.copies = Number()
        self.copies.setRange(1, 1000)
        self.copies.setButtonSymbols(Number.ButtonSymbols.NoButtons)
        self.copies.setFixedWidth(60)
        self.copies.setAccessibleName("Copies of the whole design")
        self.copies.valueChanged.connect(lambda many: step.change("Copies", copies=many))
        self.row("Copies of the design", self.copies)
        self.shared = QCheckBox("With the other open jobs")
        self.shared.setToolTip("Their layers of the same stock and colour go on the same sheets")
        self.shared.clicked.connect(lambda on: step.change("Common sheets", shared=on))
        self.body.addWidget(self.shared)
        self.search = QPushButton("Find a tighter layout")
        self.search.setToolTip("Tries other orders and turns for 10 seconds and keeps what takes less; Esc stops it")
        self.anew = QPushButton("Lay all anew")
        self.anew.setToolTip("Takes back what a hand or a search laid")
        self.anew.clicked.connect(lambda: step.change("Laid anew", placements=()))
        self.body.addWidget(self.search)
        self.body.addWidget(self.anew)
        theme.changed.connect(self._draw)
        self._draw()

    def _draw(self) -> None:
        for nested, button in self.ways.items():
            button.setIcon(QIcon(_picture(nested)))

    def _take_way(self, nested: bool) -> None:
        """Lay all stocks, or the one that is chosen, in a way."""
        settings, key = self._step.model.recipe.sheets, self.stock.currentData()
        if not key:
            self._step.change("Way of laying", nested=nested, otherwise=())
            return
        others = tuple(one for one in settings.otherwise if one != key)
        self._step.change("Way of laying", otherwise=others if nested == settings.nested else (*others, key))

    def _show_way(self, settings: SheetSettings) -> None:
        key = self.stock.currentData()
        self.ways[settings.nests(key) if key else settings.nested].setChecked(True)

    def show_stocks(self, groups: Sequence[Group]) -> None:
        """Offer the stocks, where there are several."""
        entries = [("All stocks are laid so", ""), *((f"Only {group.name}", group.key) for group in groups)]
        settings = self._step.model.recipe.sheets
        self.stock.setVisible(len(groups) > 1 and (settings.nested or bool(settings.otherwise)))
        if entries != [(self.stock.itemText(i), self.stock.itemData(i)) for i in range(self.stock.count())]:
            key = self.stock.currentData()
            self.stock.clear()
            for words, own in entries:
                self.stock.addItem(words, own)
            self.stock.setCurrentIndex(max(0, self.stock.findData(key)))

    def show_settings(self, settings: SheetSettings, searching: bool, can_search: bool) -> None:
        """Show what is in force."""
        self._show_way(settings)
        self.copies.blockSignals(True)
        self.copies.setValue(settings.copies)
        self.copies.blockSignals(False)
        self.shared.setChecked(settings.shared)
        self.shared.setVisible(settings.shared or bool(self._step.layouts.others))
        self.search.setEnabled(can_search and not searching)
        self.search.setText("Looking…" if searching else "Find a tighter layout")
        self.anew.setVisible(bool(settings.placements))
        self.aside.setText("by hand" if settings.placements else "")


class RoomCard(Card):
    """How much room pieces keep, and how they may be turned."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Turns and distances")
        self._step = step
        self.turn, self.flip = Choice("How pieces may be turned"), Choice("Whether sheets are mirrored")
        for box, entries, setting, what in (
            (self.turn, _TURNS, "turn", "Turns"),
            (self.flip, _FLIPS, "flip", "Mirroring"),
        ):
            for key, words in entries:
                box.addItem(words, key)
            box.activated.connect(
                lambda _, box=box, setting=setting, what=what: step.change(what, **{setting: box.currentData()})
            )
        self.row("Turned", self.turn)
        self.row("Mirrored", self.flip)
        self.distance = LengthField("Distance between pieces", step.unit)
        self.border = LengthField("Border of a sheet", step.unit)
        for field, setting, words in (
            (self.distance, "distance", "Distance between pieces"),
            (self.border, "border", "Border that stays free"),
        ):
            field.setFixedWidth(90)
            field.committed.connect(lambda mm, setting=setting, words=words: step.length(words, setting, mm))
            self.row(words, field)

    def show_settings(self, settings: SheetSettings) -> None:
        """Show what is in force."""
        self.turn.setCurrentIndex(self.turn.findData(settings.turn))
        self.flip.setCurrentIndex(self.flip.findData(settings.flip))
        self.distance.show_mm(settings.distance)
        self.border.show_mm(settings.border)
        self.aside.setText(f"{length_words(settings.distance, self._step.unit())} apart")


class MachineCard(Card):
    """The sheet, and the machine that cuts it."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Sheet and cutter")
        self._step = step
        self.size = narrow_box("Size of a sheet")
        for words, _ in _SIZES:
            self.size.addItem(words)
        self.size.activated.connect(self._take_size)
        self.body.addWidget(self.size)
        self.across, self.down = (
            LengthField("Width of a sheet", step.unit),
            LengthField("Height of a sheet", step.unit),
        )
        for field, place in ((self.across, 0), (self.down, 1)):
            field.setFixedWidth(90)
            field.committed.connect(lambda mm, place=place: self._take_side(place, mm))
        self.row("Width", self.across)
        self.row("Height", self.down)
        self.fit = QPushButton("Fit the design to the sheet")
        self.fit.setToolTip("Gives the design the finished size at which its largest layer just fits in register")
        self.body.addWidget(self.fit)
        self.measure = QPushButton("Size by two points…")
        self.measure.setCheckable(True)
        self.measure.setToolTip("Drag between two places of the design whose distance you know, then type it")
        self.measure.clicked.connect(lambda on: step.draw_with("measure" if on else "lay"))
        self.body.addWidget(self.measure)
        self.between = LengthField("Distance of the two points", step.unit, decimals=2)
        self.between.setFixedWidth(90)
        line = self.row("Between the points", self.between)
        self._between = line.itemAt(0).widget(), self.between
        self.cutter = narrow_box("Cutter")
        self._step.model.machines.changed.connect(self._list)
        self._list()
        self.cutter.activated.connect(self._take_cutter)
        self.body.addWidget(self.cutter)
        self.caution = faded()
        self.body.addWidget(self.caution)

    def show_between(self, mm: float | None) -> None:
        """Show how far apart the two points lie."""
        for part in self._between:
            part.setVisible(mm is not None)
        self.between.show_mm(mm)

    def _list(self) -> None:
        self.cutter.clear()
        self.cutter.addItem("Any cutter")
        self.cutter.addItems([cutter.name for cutter in self._step.model.machines.things])

    def _take_size(self, place: int) -> None:
        if place < len(_SIZES):
            self._step.change("Size of sheets", size=_SIZES[place][1])

    def _take_side(self, place: int, mm: float) -> None:
        size = self._step.model.recipe.sheets.size or (self.across.mm or 304.8, self.down.mm or 304.8)
        new = (mm, size[1]) if place == 0 else (size[0], mm)
        self._step.change("Size of sheets", size=new)

    def _take_cutter(self, place: int) -> None:
        machines = self._step.model.machines.things
        if place <= len(machines):
            self._step.change("Cutter", cutter=machines[place - 1] if place else None)

    def show_settings(self, settings: SheetSettings, first: Group | None, kinds: set[StockKind]) -> None:
        """Show what is in force; `first` is what is cut first, `kinds` are those of the stocks that are cut."""
        named = next((place for place, (_, size) in enumerate(_SIZES) if size == settings.size), None)
        while self.size.count() > len(_SIZES):
            self.size.removeItem(len(_SIZES))
        if named is None:
            self.size.addItem("A size of its own")
        self.size.setCurrentIndex(len(_SIZES) if named is None else named)
        size = settings.size or (first.size if first is not None else None)
        roll = first is not None and first.roll and settings.size is None
        self.across.show_mm(size[0] if size is not None else None)
        self.down.show_mm(size[1] if size is not None and not roll else None)
        unit = self._step.unit()
        sides = [in_unit(side, unit, 0) for side in size or ()]
        self.aside.setText(f"roll, {sides[0]} {unit}" if roll else f"{' × '.join(sides)} {unit}" if sides else "")
        cutter, machines = settings.cutter, self._step.model.machines.things
        while self.cutter.count() > 1 + len(machines):
            self.cutter.removeItem(1 + len(machines))
        if cutter is not None and cutter not in machines:
            self.cutter.addItem(f"{cutter.name} (of this job)")
        known = machines.index(cutter) + 1 if cutter in machines else 1 + len(machines)
        self.cutter.setCurrentIndex(0 if cutter is None else known)
        said = [refusal(cutter, kind) for kind in sorted(kinds)] if cutter is not None else []
        self.caution.setText("\n".join(words for words in said if words))
        self.caution.setVisible(any(said))
