"""The shelves of Sheets: cutters, and presets of a cutter for a stock."""

from PySide6.QtWidgets import QCheckBox

from sketchloom.app.fields import faded
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.app.steps.shelf_card import ShelfCard
from sketchloom.core.stock import CUTTER_KINDS, KINDS, Cutter, Preset, StockKind, preset_for

__all__ = ["CuttersCard", "PresetsCard"]

_LENGTHS = {
    "width": ("Width of mat or bed", 1),
    "height": ("Its height; 0 for a roll", 1),
    "usable_width": ("Width that can be cut", 1),
    "usable_height": ("Height that can be cut", 1),
    "tool": ("Tool's diameter, or kerf", 2),
    "blade_offset": ("Blade offset", 2),
    "overcut": ("Overcut", 2),
    "depth": ("Depth of a pass", 2),
}
_NUMBERS = {"speed": "Speed, mm/s", "acceleration": "Acceleration, mm/s²"}


class CuttersCard(ShelfCard):
    """One cutter at a time."""

    def __init__(self, step: SheetsDesk) -> None:
        note = "What is changed here holds for jobs that take the cutter from now on."
        super().__init__(step, step.model.machines, "Cutters on the shelf", note, lambda: Cutter("New cutter"))

    def build(self) -> None:
        """Make the fields of a cutter."""
        self.add_choice("kind", "Kind of cutter", [(kind.capitalize(), kind) for kind in CUTTER_KINDS])
        self.add_lengths(_LENGTHS, unset=("height", "usable_height"))
        self.add_numbers(_NUMBERS)
        self.body.addWidget(faded("Must never be cut on it:"))
        self.never: dict[StockKind, QCheckBox] = {}
        for kind in KINDS:
            box = QCheckBox(kind.capitalize())
            box.clicked.connect(lambda on, kind=kind: self._take_never(kind, on))
            self.never[kind] = box
            self.body.addWidget(box)

    def show_thing(self) -> None:
        """Show the cutter that is chosen."""
        super().show_thing()
        for kind, box in self.never.items():
            box.setEnabled(self.thing is not None)
            box.setChecked(self.thing is not None and kind in self.thing.never)

    def _take_never(self, kind: StockKind, on: bool) -> None:
        if self.thing is not None:
            self.change(never=tuple(one for one in KINDS if (one in self.thing.never) != (one == kind)))


class PresetsCard(ShelfCard):
    """How a cutter is set for a stock."""

    def __init__(self, step: SheetsDesk) -> None:
        note = "What worked: blade, force and speed, in your machine's own numbers."
        super().__init__(step, step.model.presets, "Presets", note, self._made)

    def build(self) -> None:
        """Make the fields of a preset."""
        self.add_texts({"stock": "Stock, or its kind", "cutter": "Cutter, or its kind", "tool": "Blade, bit or pen"})
        self.add_numbers({"force": "Force, or power", "speed": "Speed, mm/s; 0 for its own", "passes": "Passes"})
        self.add_texts({"note": "Note"})
        self.fits = faded()
        self.body.addWidget(self.fits)

    def _made(self) -> Preset:
        """A preset for the first stock of the job and its cutter."""
        layout, cutter = self._step.layouts.layout, self._step.model.recipe.sheets.cutter
        groups = layout.groups if layout is not None else ()
        stock = next((group.stock for group in groups if group.stock is not None), None)
        return Preset(
            "New preset", stock.name[:40] if stock is not None else "", cutter.name[:40] if cutter is not None else ""
        )

    def show_fitting(self) -> None:
        """Say which preset fits the stocks and the cutter of the job."""
        layout, cutter = self._step.layouts.layout, self._step.model.recipe.sheets.cutter
        said = []
        for group in layout.groups if layout is not None else ():
            found = preset_for(self._shelf.things, group.stock, cutter)
            if found is not None:
                force = f", force {found.force:g}" if found.force else ""
                passes = f", {found.passes} passes" if found.passes > 1 else ""
                said.append(f"{group.name}: {found.name} ({found.tool or 'any tool'}{force}{passes}).")
        self.fits.setText("\n".join(said))
        self.fits.setVisible(bool(said))
