"""The Separate step: how many inks, which, and what becomes of the ground."""

from collections.abc import Iterator

from sketchloom.app.canvas.tools import PickTool
from sketchloom.app.commands import Command
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.separate.colours import ColoursCard
from sketchloom.app.steps.separate.ground import GroundCard
from sketchloom.app.steps.separate.inks import InksCard
from sketchloom.app.steps.separate.marks import MarksCard
from sketchloom.app.steps.separate.photo import PhotoCard
from sketchloom.app.steps.separate.picks import PicksCard
from sketchloom.app.steps.separate.shades import ShadesCard
from sketchloom.app.steps.separate.threshold import ThresholdCard
from sketchloom.app.theme import theme
from sketchloom.core.job import Result, darkest_at
from sketchloom.core.palette import Ink, Palette
from sketchloom.core.picture import Point
from sketchloom.core.regions import dressed

__all__ = ["SeparateStep"]

_HELP = {
    "pick": "Click the detail that was missed, or the area that belongs elsewhere.",
    "ink-colour": "Click a stroke of the ink that counts.",
    "fill": "Click the areas that are to have the colour in hand.",
}


class SeparateStep(Step):
    """The cards that this kind of picture has."""

    key, name, view, before = "separate", "Separate", "Regions", "Picture"
    needs = ("road", "tones", "ground", "inks", "palette")

    def build(self) -> None:
        """Make the cards."""
        self._tool: PickTool | None = None
        self.inks, self.colours = InksCard(self), ColoursCard(self)
        self.shades = ShadesCard(self)
        self.split, self.marks, self.photo = ThresholdCard(self), MarksCard(self), PhotoCard(self)
        self.picks, self.ground = PicksCard(self), GroundCard(self)
        for card in (self.inks, self.shades, self.colours, self.split, self.marks, self.photo, self.picks):
            self.add(card)
        self.add(self.ground)

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give the number of inks, the ground, and the tools."""
        have = lambda: self.model.job is not None  # noqa: E731
        yield "fewer", Command("One ink fewer", lambda: self.inks.step_by(-1), "[", can=have)
        yield "more", Command("One ink more", lambda: self.inks.step_by(1), "]", can=have)
        yield "keep-ground", Command("Keep or clear the ground", self.ground.toggle, can=have)
        for identifier, words, press, modes in (
            ("pick", "pick a detail", self.picks.pick.click, ("flat", "photo")),
            ("ink-colour", "pick the ink that counts", self.marks.pick.click, ("ink", "lineart")),
            ("silhouette", "fill the outline, or not", self.marks.silhouette.click, ("ink",)),
            ("colour-areas", "colour areas by clicking", self.colours.brush.click, ("lineart",)),
        ):
            can = lambda modes=modes: self._mode() in modes  # noqa: E731
            yield f"separate-{identifier}", Command(f"Separate: {words}", self.here(press), can=can)

    def _mode(self) -> str:
        result = self.model.result
        return result.road.mode if result is not None and result.has("road") else ""

    def palette_now(self) -> Palette:
        """All inks of the newest result, as the recipe in force names and shows them."""
        result = self.model.result
        there = result is not None and result.has("inks")
        return dressed(result.plan, self.model.recipe.separate) if there and result is not None else Palette()

    def inks_now(self) -> tuple[Ink, ...]:
        """Those of them that are not sent to the ground."""
        settings = self.model.recipe.separate
        cleared = {pick.key for pick in settings.picks if pick.ground}
        return tuple(ink for ink in self.palette_now() if ink.key not in {*settings.grounded, *cleared})

    def name_of(self, key: str) -> str:
        """Name an ink, also one that this picture has not."""
        ink = self.palette_now().get(key)
        return ink.name if ink else key

    def colour_of(self, key: str) -> str:
        """Give the colour of an ink; of one that this picture has not, that which its key tells."""
        ink = self.palette_now().get(key)
        return ink.hex if ink else key[:7] or theme.tokens.faded

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool == self.drawing and tool is None:
            return
        self.drawing = tool
        self._tool = None
        if tool is not None:
            self._tool = PickTool()
            self._tool.help = _HELP[tool]
            self._tool.view = "Regions" if tool == "fill" else "Picture"
            self._tool.done.connect(self._take)
        self.picks.pick.setChecked(tool == "pick")
        self.marks.pick.setChecked(tool == "ink-colour")
        self.colours.brush.setChecked(tool == "fill")
        self.tool_changed.emit(self._tool)

    def _take(self, at: Point) -> None:
        """A place was clicked."""
        tool, result = self.drawing, self.model.result
        if tool == "fill":
            self.colours.fill(at)
            return
        self.draw_with(None)
        if tool == "pick":
            self.picks.add_pick(at)
        elif result is not None and (colour := darkest_at(result, at)) is not None:
            self.model.change("Ink of one colour", "separate", ink_colour=colour)

    def show_result(self, result: Result) -> None:
        """Show all cards that this kind of picture has."""
        if self.drawing == "fill" and result.road.mode != "lineart":
            self.draw_with(None)
        for card in (self.inks, self.shades, self.colours, self.split, self.marks, self.photo, self.picks):
            card.show_result(result)
        self.ground.show_result(result)

    def figure(self, result: Result) -> str:
        """Number of inks."""
        count = len(result.palette.cut)
        return f"{count} ink{'s' * (count != 1)}"
