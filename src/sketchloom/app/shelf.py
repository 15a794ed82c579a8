"""The maker's stocks, as the window shows and changes them."""

from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, Signal

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.stock import GENERIC, Shelf, Stock, check_stock, encode_shelf, read_shelf, write_shelf

__all__ = ["StockShelf"]


class StockShelf(QObject):
    """Reads the shelf once, and keeps every change of it."""

    changed = Signal()
    kept = Signal(str, object, object)
    """A change that can be undone: its name, and the stocks before and after it."""
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.stocks: Shelf = GENERIC
        self.trouble = ""
        try:
            self.stocks = read_shelf()
        except SketchLoomError as error:
            self.trouble = f"{error} The stocks that come with the program are shown; yours stay as they are."

    def stock(self, name: str) -> Stock | None:
        """Give a stock by its name, or None."""
        return next((stock for stock in self.stocks if stock.name == name), None)

    def free_name(self, name: str) -> str:
        """A name like this that no stock has."""
        taken = {stock.name.casefold() for stock in self.stocks}
        number, free = 2, name[:34]
        while free.casefold() in taken:
            free, number = f"{name[:34]} {number}", number + 1
        return free

    def add(self, stock: Stock) -> Stock:
        """Put a stock on the shelf under a free name, and give it as it is there."""
        own = msgspec.structs.replace(stock, name=self.free_name(stock.name))
        self._keep("Stock added", (*self.stocks, own))
        return own

    def change(self, name: str, /, **values: object) -> bool:
        """Change a stock; what cannot be is said, and left."""
        old = self.stock(name)
        if old is None:
            return False
        new = msgspec.structs.replace(old, **values)
        try:
            check_stock(new)
        except SketchLoomError as error:
            self.said.emit(str(error))
            return False
        if new.name.casefold() != name.casefold() and self.free_name(new.name) != new.name:
            self.said.emit(f"There is a stock “{new.name}” already; give this one another name.")
            return False
        return self._keep("Stock changed", tuple(new if stock is old else stock for stock in self.stocks))

    def remove(self, name: str) -> None:
        """Take a stock off the shelf; layers that are cut from it stay so."""
        self._keep("Stock removed", tuple(stock for stock in self.stocks if stock.name != name))

    def take_in(self, path: Path) -> None:
        """Add the stocks of a file."""
        try:
            found = read_shelf(path)
        except SketchLoomError as error:
            self.said.emit(str(error))
            return
        fresh: list[Stock] = []
        for stock in found:
            if stock not in self.stocks:
                taken = {other.name.casefold() for other in (*self.stocks, *fresh)}
                name, number = stock.name, 2
                while name.casefold() in taken:
                    name, number = f"{stock.name[:34]} {number}", number + 1
                fresh.append(msgspec.structs.replace(stock, name=name))
        if self._keep("Stocks added", (*self.stocks, *fresh)):
            self.said.emit(f"{len(fresh)} stock{'' if len(fresh) == 1 else 's'} added from {path.name}.")

    def give_out(self, path: Path) -> None:
        """Write the shelf to a file."""
        try:
            path.write_bytes(encode_shelf(self.stocks))
            self.said.emit(f"Saved {len(self.stocks)} stocks as {path.name} in {path.parent}.")
        except OSError as error:
            self.said.emit(f"{path.name} cannot be written: {(error.strerror or str(error)).lower()}.")

    def _keep(self, name: str, stocks: Shelf) -> bool:
        before = self.stocks
        if not self.put(stocks):
            return False
        if stocks != before:
            self.kept.emit(name, before, stocks)
        return True

    def put(self, stocks: Shelf) -> bool:
        """Keep other stocks on the shelf; whether that could be done."""
        try:
            write_shelf(stocks)
        except OSError as error:
            self.said.emit(f"Your stocks cannot be kept: {(error.strerror or str(error)).lower()}.")
            return False
        self.stocks = stocks
        self.changed.emit()
        return True
