"""The figures of the ledger: a row a layer, and a total."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)

from sketchloom.app.handing import HandedPage
from sketchloom.core.curves import Path
from sketchloom.core.layers import LayerStack
from sketchloom.core.measures import in_unit, time_words
from sketchloom.core.send import Page, page_of_layers
from sketchloom.core.sheets import Figures

__all__ = ["ANY", "COLUMNS", "NODES", "SHEETS", "SHORT", "SIZE", "STOCK", "TIME", "TOTAL", "Index", "Rows"]

TOTAL, ANY = "total", "any"
COLUMNS = (
    "Layer",
    "Stock",
    "Pieces",
    "Place by hand",
    "Nodes",
    "Cut length",
    "Narrowest",
    "Wide × high",
    "Sheets",
    "Time",
)
SHORT = {3: "By hand", 5: "Cut"}
"""Heads of columns where there is little room."""
STOCK, NODES, SIZE, SHEETS, TIME = 1, 4, 7, 8, 9
_HELP = (
    "Top layer first",
    "What the layer is cut from",
    "Connected parts of the layer",
    "Pieces beyond the first, where the stock has no carrier that keeps them in place, as paper has none",
    "Corners and curve ends the blade runs through",
    "Length of all outlines of the layer",
    "Width of the narrowest place of the layer, pointed tips aside",
    "Width and height of what is cut of the layer, as it lies",
    "Sheets on which the layer lies, in all copies",
    "Time that the tool is down for the layer, in all copies; the total has travel, lifts and other jobs on its sheets",
)
Index = QModelIndex | QPersistentModelIndex
_TOP = QModelIndex()
_NEVER = -1.0
"""For the narrowest place of a layer that is not cut out."""
_DONE = {"cut": "", "draw": ", drawn", "score": ", scored", "engrave": ", engraved"}
_Box = tuple[float, float, float, float]


def _box_of(path: Path) -> _Box | None:
    return path.bounds if path.nodes else None


class Rows(QAbstractTableModel):
    """Rows top layer first, then a total; keeps the last change of every value."""

    def __init__(self, unit) -> None:
        super().__init__()
        self._unit = unit
        self.layers: list[tuple[str, str, str, str]] = []
        """Key, name, colour and stock of each; those of the total are empty, but for its name."""
        self.values: list[tuple[float, ...]] = []
        self.changes: dict[tuple[str, int], float] = {}
        """By a layer's key and a column."""
        self.chosen: dict[str, int] = {}
        """How many pieces of each layer are chosen, by its key."""
        self.figures: Figures | None = None
        """What the layers take of sheets and time, once it is known."""
        self.short = False
        """Whether heads are shortened."""
        self._shown_in = ""
        self._stack: LayerStack | None = None
        self._sizes: list[tuple[float, float]] = []
        self._boxes: list[tuple[Path, _Box | None]] = []

    def measured(self, stack: LayerStack) -> list[_Box | None]:
        """Extent of each layer, top layer first, mm; looked up where it is known."""
        known = {id(path): box for path, box in self._boxes}
        boxes = [(layer.path, known.get(id(layer.path)) or _box_of(layer.path)) for layer in reversed(stack.layers)]
        self._boxes = boxes
        return [box for _, box in boxes]

    def _measure(self, stack: LayerStack) -> None:
        """Width and height of each layer, top layer first, and of all that are cut together, mm."""
        layers = list(reversed(stack.layers))
        boxes = self.measured(stack)
        sent = [box for box, layer in zip(boxes, layers, strict=True) if box and not layer.hidden]
        whole = (*np.min(sent, axis=0)[:2], *np.max(sent, axis=0)[2:]) if sent else None
        self._sizes = [(box[2] - box[0], box[3] - box[1]) if box else (0.0, 0.0) for box in (*boxes, whole)]

    def show(self, stack: LayerStack | None, compare: bool, narrowest: Mapping[str, float]) -> bool:
        """Show a stack; while its layers stay, only what changes is drawn anew.

        `compare` says whether what is shown is of the same job, so that changes mean something.
        Gives whether there is more to show than narrowest places.
        """
        self._stack = stack
        layers: list[tuple[str, str, str, str]] = []
        values: list[tuple[float, ...]] = []
        if stack is not None:
            self._measure(stack)
            for layer in reversed(stack.layers):
                name = f"{layer.name} (hidden)" if layer.hidden else layer.name + _DONE[layer.kind]
                layers.append((layer.key, name, layer.colour, layer.stock.name if layer.stock else ANY))
                thin = narrowest.get(layer.key, 0.0) if layer.kind == "cut" else _NEVER
                figures = layer.pieces, layer.loose, layer.path.nodes, layer.cut_length, thin
                values.append(figures)
            sent = [row for row, layer in zip(values, reversed(stack.layers), strict=True) if not layer.hidden]
            layers.append((TOTAL, "Total", "", ""))
            thinnest = min((row[-1] for row in sent if row[-1] > 0), default=0.0)
            sums = [sum(column) for column in zip(*sent, strict=True)] or [0.0] * 5
            values.append((*sums[:-1], thinnest))
        alike = layers == self.layers and self._unit() == self._shown_in
        self._shown_in = self._unit()
        if alike and compare and [row[:-1] for row in values] == [row[:-1] for row in self.values]:
            self._measured(values)
            return False
        if not alike:
            self.beginResetModel()
        before = {key: row for (key, *_), row in zip(self.layers, self.values, strict=True)} if compare else {}
        flashed, old_values = set(self.changes), self.values
        self.layers, self.values = layers, values
        self.changes = {}
        for (key, *_), row in zip(self.layers, self.values, strict=True):
            for column, (new, old) in enumerate(zip(row, before.get(key, row), strict=True)):
                if round(new - old, 3 if column > 2 else 0) and (column < 4 or (new and old)):
                    self.changes[key, column + 2] = new - old
        if not alike:
            self.endResetModel()
            return True
        for place, ((key, *_), new_row, old_row) in enumerate(zip(layers, values, old_values, strict=True)):
            for column, (new, old) in enumerate(zip(new_row, old_row, strict=True)):
                if new != old or (key, column + 2) in flashed:
                    cell = self.index(place, column + 2)
                    self.dataChanged.emit(cell, cell)
        return True

    def _measured(self, values: list[tuple[float, ...]]) -> None:
        """Take over narrowest places, which come after the rest; what has changed before them goes on flashing."""
        old, self.values = self.values, values
        for place, (new_row, old_row) in enumerate(zip(values, old, strict=True)):
            if new_row[-1] != old_row[-1]:
                cell = self.index(place, SIZE - 1)
                self.dataChanged.emit(cell, cell)

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Each row can be dragged to another program, the total as all layers."""
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsDragEnabled if self.page_of(index.row()) is not None else flags

    def mimeData(self, indexes: Sequence[Index]) -> QMimeData:
        """Give a row as what is dragged."""
        row = indexes[0].row()
        return HandedPage(lambda: self.page_of(row) or Page("", (1.0, 1.0), ()), self.layers[row][1])

    def page_of(self, row: int) -> Page | None:
        """A layer on the page of all, or for the total all layers; None where nothing is sent."""
        stack = self._stack
        if stack is None or not 0 <= row < len(self.layers):
            return None
        key = self.layers[row][0]
        own = [cut for cut in stack.cuts.cuts if key in (TOTAL, cut.key)]
        return page_of_layers(stack.cuts, own, self.layers[row][1]) if own else None

    def rowCount(self, parent: Index = _TOP) -> int:
        """Layers, and the total."""
        return 0 if parent.isValid() else len(self.layers)

    def columnCount(self, parent: Index = _TOP) -> int:
        """All columns."""
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """Heads and their help."""
        if orientation == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                return SHORT.get(section, COLUMNS[section]) if self.short else COLUMNS[section]
            if role == Qt.ItemDataRole.ToolTipRole:
                return _HELP[section]
            if role == Qt.ItemDataRole.TextAlignmentRole:
                side = Qt.AlignmentFlag.AlignLeft if section <= STOCK else Qt.AlignmentFlag.AlignRight
                return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        """What a cell says, to the eye and to a screen reader."""
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            if column <= STOCK:
                return self.layers[row][1 if column == 0 else 3]
            if column == SIZE:
                unit = self._unit()
                return f"{' × '.join(in_unit(side, unit) for side in self._sizes[row])} {unit}"
            if column > SIZE:
                return self._taken(self.layers[row][0], column)
            return self._written(column, self.values[row][column - 2])
        if role == Qt.ItemDataRole.AccessibleTextRole:
            chosen = self.chosen.get(self.layers[row][0], 0) if column == 0 else 0
            more = f", {chosen} pieces chosen" if chosen else ""
            return f"{COLUMNS[column]}: {self.data(index, Qt.ItemDataRole.DisplayRole)}{more}"
        return None

    def _taken(self, key: str, column: int) -> str:
        """Sheets and time of a layer, or of all."""
        if self.figures is None:
            return "…"
        if key == TOTAL:
            return str(self.figures.sheets) if column == SHEETS else time_words(self.figures.timing.time)
        use = self.figures.layers.get(key)
        if use is None:
            return "none"
        return str(use.sheets) if column == SHEETS else time_words(use.cut_time)

    def show_figures(self, figures: Figures | None) -> bool:
        """Show what the layers take; gives whether that is new."""
        if figures is self.figures:
            return False
        self.figures = figures
        if self.layers:
            self.dataChanged.emit(self.index(0, SHEETS), self.index(len(self.layers) - 1, TIME))
        return True

    def _written(self, column: int, value: float) -> str:
        unit = self._unit()
        if column == 3 and not value:
            return "none"
        if column <= 4:
            return f"{value:,.0f}".replace(",", "\u2009")
        if column == 6 and value <= 0:
            return "…" if value == 0 else "none"
        return f"{in_unit(value, unit, 0 if column == 5 else 1)} {unit}"

    def change(self, row: int, column: int) -> str:
        """The change of a value since the last setting, with its sign, or nothing."""
        value = self.changes.get((self.layers[row][0], column))
        if value is None or column >= SIZE:
            return ""
        written = self._written(column, abs(value)).split(" ")[0]
        return ("+" if value > 0 else "\u2212") + written if any(c in written for c in "123456789") else ""
