"""The step where pieces are worked on: chosen, given, parted, drawn; what is too small goes, islands are held."""

from collections.abc import Iterator, Sequence

import msgspec
import numpy as np
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QPainterPath

from sketchloom.app.canvas import Outlines, marks_path, outline_path
from sketchloom.app.canvas.tools import BridgeTool, ChooseTool, Chosen, Tool
from sketchloom.app.commands import Command
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.tidy.chosen import ChosenCard, told
from sketchloom.app.steps.tidy.drawing import FORMS, DrawingCard
from sketchloom.app.steps.tidy.halves import HalvesCard
from sketchloom.app.steps.tidy.islands import IslandsCard
from sketchloom.app.steps.tidy.leaks import LeaksCard
from sketchloom.app.steps.tidy.listed import WorkCard
from sketchloom.app.steps.tidy.placing import Placing
from sketchloom.app.steps.tidy.shape import ShapeCard
from sketchloom.app.steps.tidy.small import SmallCard
from sketchloom.core.arrays import Floats
from sketchloom.core.job import Result
from sketchloom.core.palette import Ink
from sketchloom.core.picture import Point, source_points
from sketchloom.core.tidy import Anchor, AnyWork, Bridge, Pieces, Tidied

__all__ = ["TidyStep"]

_REST = 180
"""ms that the pointer rests before the narrowest place is told."""
_MOST_OUTLINED = 400
"""Pieces; more are not outlined one by one."""


class TidyStep(Step):
    """Pieces under the hand."""

    key, name, view, before = "tidy", "Tidy", "Regions", "Picture"
    needs = ("road", "tones", "scale", "palette", "tidy")
    resting = "choose"
    outlined = Signal(object)
    """Outlines to show on the canvas."""
    chosen_changed = Signal(object)
    """How many pieces of each ink are chosen, by its key."""

    def build(self) -> None:
        """Make the cards."""
        self.choice: tuple[Anchor, ...] = ()
        """What is chosen, by places that outlive a result."""
        self._pieces: tuple[Tidied, Pieces] | None = None
        self._under = 0
        self._measuring = False
        self._tool: Tool | None = None
        self._outlines = Outlines()
        self.chosen, self.shape, self.drawing_card = ChosenCard(self), ShapeCard(self), DrawingCard(self)
        self.halves, self.leaks, self.small = HalvesCard(self), LeaksCard(self), SmallCard(self)
        self.islands, self.work = IslandsCard(self), WorkCard(self)
        self._placing = Placing(self, self.shape.put)
        for card in (self.chosen, self.small, self.leaks):
            self.add(card)
        for card in (self.shape, self.drawing_card, self.halves, self.islands, self.work):
            self.add(card, folded=True)
        self._rests = QTimer(self, interval=_REST, singleShot=True)
        self._rests.timeout.connect(self._tell_narrowest)

    def _shown_cards(self):
        """Cards that follow the result."""
        return self.chosen, self.shape, self.drawing_card, self.leaks, self.small, self.islands, self.work

    def new_job(self) -> None:
        """Let go of the choice, the axis and what is drawn."""
        super().new_job()
        self.choice = ()
        self._placing.wait_no_more()
        self.halves.forget()
        self.drawing_card.forget()
        self.show_axis()
        self.chosen_changed.emit({})

    def attach(self, frame: Frame) -> None:
        """Show outlines, and follow the layer that is chosen in the ledger while this step is in hand."""
        self.outlined.connect(frame.canvas.show_outlines)
        self.chosen_changed.connect(frame.ledger.show_chosen)
        frame.ledger.selected.connect(lambda key: frame.step is self and self.choose_ink(key))

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give what can be done with the choice, and the tools."""
        there = lambda: self.model.job is not None  # noqa: E731
        some = lambda: bool(self.choice) and there()  # noqa: E731
        yield "tidy-choose", Command("Tidy: choose pieces", self.here(lambda: self.draw_with("choose")), can=there)
        yield "tidy-ground", Command("Tidy: send the choice to the ground", self.chosen.ground.click, can=some)
        yield "tidy-join", Command("Tidy: join the choice to its neighbours", self.chosen.join.click, can=some)
        yield "tidy-holes", Command("Tidy: fill the holes of the choice", self.chosen.holes.click, can=some)
        for way, (words, _) in self.chosen.ways.items():
            act = lambda way=way: self.chosen.widen(way)  # noqa: E731
            yield f"tidy-choose-{way}", Command(f"Tidy: choose {words[0].lower()}{words[1:]}", self.here(act), can=some)
        lasso = Command("Tidy: choose by a line round", self.here(lambda: self.draw_with("lasso")), can=there)
        yield "tidy-lasso", lasso
        for key, words, act in self.drawing_card.offered():
            yield f"tidy-{key}", Command(f"Tidy: {words}", self.here(act, self.drawing_card), can=there)
        for words, button in self.shape.shaping.items():
            name = f"Tidy: the choice: {words[0].lower()}{words[1:]}"
            yield f"tidy-shape-{words.split()[0].lower()}", Command(name, self.here(button.click, self.shape), can=some)
        yield (
            "tidy-bridge",
            Command("Tidy: lay a bridge", self.here(lambda: self.draw_with("bridge"), self.islands), can=there),
        )
        yield "tidy-hold", Command("Tidy: hold all islands", self.here(self.islands.hold_all, self.islands), can=there)
        lines = lambda: there() and not self.leaks.isHidden()  # noqa: E731
        yield "tidy-close-leaks", Command("Tidy: close all leaks", self.here(self.leaks.close_all), can=lines)

    @property
    def pieces(self) -> Pieces | None:
        """The pieces of the newest result."""
        result = self.model.result
        if result is None or not result.has("tidy", "scale", "picture"):
            return None
        if self._pieces is None or self._pieces[0] is not result.tidied:
            self._pieces = result.tidied, Pieces(result.tidied, result.picture, result.scale.px_per_mm)
        return self._pieces[1]

    def gaps(self) -> Sequence[tuple[Point, Point]]:
        """Give where line art leaks, unless gaps are closed."""
        result = self.model.result
        if result is None or not result.has("tones") or self.model.recipe.separate.close_gaps:
            return ()
        return tuple((leak.first, leak.last) for leak in result.tones.leaks)

    def chosen_area(self) -> tuple[Point, Point] | None:
        """Give the corners of the chosen pieces."""
        return self._area_if(self.pieces.found(self.choice) if self.pieces is not None else [])

    def area_of_ink(self, key: str) -> tuple[Point, Point] | None:
        """Give the corners of an ink's pieces."""
        return self._area_if(self.pieces.of_ink(key) if self.pieces is not None and key else [])

    def _area_if(self, pieces: list[int]) -> tuple[Point, Point] | None:
        return self.area_of(pieces) if pieces else None

    def area_of(self, pieces: list[int]) -> tuple[Point, Point]:
        """Source coordinates of the corners of a box round some pieces."""
        known = self.pieces
        assert known is not None
        left, top, right, bottom = known.box(pieces)
        return self.source_of((left, top)), self.source_of((right, bottom))

    def source_of(self, at: tuple[float, float] | Floats) -> Point:
        """Source coordinates of a place of the newest result, px."""
        result = self.model.result
        assert result is not None
        return source_points(result.picture, np.array([at], float))[0]

    def inks_now(self) -> tuple[Ink, ...]:
        """The inks that are cut."""
        result = self.model.result
        return result.palette.cut if result is not None and result.has("palette") else ()

    def name_of(self, key: str) -> str:
        """Name an ink; of none, the ground."""
        if not key:
            return "Ground"
        result = self.model.result
        ink = result.palette.get(key) if result is not None and result.has("palette") else None
        return ink.name if ink else key

    def add_work(self, name: str, *work: AnyWork, mirrored: bool = True, gesture: int | None = None) -> None:
        """Do more work by hand, if it can be `mirrored` and there is an axis on both halves; one step of undo."""
        axis = self.halves.axis if mirrored else None
        if axis is not None:
            work = tuple(msgspec.structs.replace(one, axis=axis) for one in work)
        self.model.change(name, "tidy", gesture, work=(*self.model.recipe.tidy.work, *work))
        self.model.rest()

    def choose(self, anchors: tuple[Anchor, ...]) -> None:
        """Choose pieces."""
        self.choice = anchors
        self._rests.start()
        self._show_outlines()
        self._tell_chosen()
        if self.model.result is not None and self.model.result.has(*self.needs):
            self.chosen.show_result(self.model.result)
            self.shape.show_result(self.model.result)

    def choose_ink(self, key: str) -> None:
        """Choose all pieces of an ink."""
        pieces = self.pieces
        if pieces is not None and key:
            self.choose(pieces.anchors(pieces.of_ink(key)))

    def _tell_chosen(self) -> None:
        pieces = self.pieces
        keys = [pieces.measure(piece).key for piece in pieces.found(self.choice)] if pieces is not None else []
        self.chosen_changed.emit({key: keys.count(key) for key in dict.fromkeys(keys) if key})

    def show_marks(self, work: AnyWork | None) -> None:
        """Show on the canvas where a row of work is; None hides it."""
        self._outlines.work = marks_path(work.marks() if work is not None else ())
        self.outlined.emit(self._outlines)

    def show_axis(self) -> None:
        """Show the line over which work is mirrored."""
        axis = self.halves.axis
        path = QPainterPath()
        if axis is not None:
            path.moveTo(*axis[0])
            path.lineTo(*axis[1])
        self._outlines.axis = path
        self.outlined.emit(self._outlines if self.drawing else Outlines())

    def enter(self) -> None:
        """Take the tool that chooses in hand."""
        if self.model.job is not None:
            self.draw_with("choose")
        self._show_outlines()

    def leave(self) -> None:
        """Put the tool away, and the outlines."""
        super().leave()
        self._outlines.work = QPainterPath()
        self.outlined.emit(Outlines())
        self.chosen_changed.emit({})

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool == self.drawing:
            return
        if tool == "handles" and not (self.pieces and self.pieces.found(self.choice)):
            tool = "choose"
        if tool in FORMS and not self.drawing_card.tools[tool].isEnabled():
            self.drawing_card.choose_effect("draw")
        self.drawing = tool
        self._tool = self._made(tool) if tool else None
        self.chosen.choose.setChecked(tool == "choose")
        self.chosen.by_hand.setChecked(tool == "lasso")
        self.islands.tool.setChecked(tool == "bridge")
        self.drawing_card.show_tool(tool)
        self._under = 0
        if tool != "handles":
            self._placing.end()
        self.tool_changed.emit(self._tool)

    def _made(self, tool: str) -> Tool:
        if tool in FORMS:
            return self.drawing_card.made(tool)
        if tool == "axis":
            return self.halves.made()
        pieces = self.pieces
        chosen = pieces.found(self.choice) if tool == "handles" and pieces is not None else []
        if pieces is not None and chosen:
            return self._placing.handles(pieces, chosen)
        if tool in ("move", "copy"):
            return self._placing.across(tool)
        if tool == "bridge":
            bridge = BridgeTool(
                "Drag from the island across the ink to what holds it; a bridge is dragged along by its handle.",
                self.islands.laid,
            )
            bridge.done.connect(self._lay)
            bridge.moved.connect(self.islands.move_bridge)
            return bridge
        choose = ChooseTool(by_hand=tool == "lasso")
        choose.hovered.connect(self._on_hover)
        choose.done.connect(self._on_chosen)
        choose.sent_away.connect(self.chosen.ground.click)
        return choose

    def _lay(self, ends: tuple[Point, Point]) -> None:
        self.add_work("Lay a bridge", Bridge(first=ends[0], last=ends[1], width=self.islands.width.mm or 2.0))

    def _on_hover(self, at: Point | None) -> None:
        pieces, tool = self.pieces, self._tool
        if pieces is None or not isinstance(tool, ChooseTool):
            return
        under = pieces.at(at) if at is not None else 0
        if under == self._under:
            return
        self._under = under
        self._rests.start()
        tool.words = told(self, pieces, under) if under else ""
        self._outlines.under = outline_path(pieces.outlines([under]) if under else [], pieces.picture)
        self.outlined.emit(self._outlines)

    def _tell_narrowest(self) -> None:
        """The hand rests: tell the narrowest place of what is chosen, and of what is under the pointer."""
        pieces, tool, result = self.pieces, self._tool, self.model.result
        if pieces is None or result is None or result.preview:
            return
        chosen = pieces.found(self.choice)
        told_of = [*(chosen if len(chosen) == 1 else []), *([self._under] if isinstance(tool, ChooseTool) else [])]
        unknown = [one for one in told_of if one and pieces.is_cut(one) and not pieces.knows_narrowest(one)]
        if unknown:
            if not self._measuring:
                self._measuring = True
                self.model.side.enqueue(
                    lambda _: pieces.narrowest(unknown[0]), self._on_measured, "tidy", self._end_measuring
                )
            return
        self.chosen.tell_narrowest(pieces)
        if isinstance(tool, ChooseTool) and self._under and pieces.is_cut(self._under):
            tool.words = told(self, pieces, self._under, narrowest=True)
            self.outlined.emit(self._outlines)

    def _end_measuring(self) -> None:
        self._measuring = False

    def _on_measured(self, _: float) -> None:
        self._end_measuring()
        self._tell_narrowest()

    def _on_chosen(self, chosen: Chosen) -> None:
        pieces = self.pieces
        if pieces is None:
            return
        single = len(chosen.places) == 1
        if single:
            one = pieces.at(chosen.places[0])
            found = pieces.together([one], self.model.recipe.tidy.work) if one else []
        else:
            found = pieces.in_outline(list(chosen.places))
        if chosen.add:
            before = pieces.found(self.choice)
            again = [piece for piece in found if piece in before] if single else []
            found = [piece for piece in (*before, *(p for p in found if p not in before)) if piece not in again]
        self.choose(pieces.anchors(found))

    def _show_outlines(self) -> None:
        pieces, result = self.pieces, self.model.result
        if pieces is None or result is None:
            return
        chosen = pieces.found(self.choice)
        self._outlines.chosen = outline_path(pieces.outlines(chosen[:_MOST_OUTLINED]), pieces.picture)
        taken = QPainterPath()
        boxes = []
        for one in result.cleaned.taken[:_MOST_OUTLINED]:
            left, top, right, bottom = one.box
            boxes.append(np.array([[left, top], [right, top], [right, bottom], [left, bottom]], float))
        if boxes:
            taken = outline_path(boxes, pieces.picture)
        self._outlines.taken = taken
        self._outlines.under = QPainterPath()
        self._under = 0
        self.outlined.emit(self._outlines)

    def show_result(self, result: Result) -> None:
        """Show all cards."""
        for card in self._shown_cards():
            card.show_result(result)
        self._rests.start()
        self._placing.go_on()
        if self.drawing == "handles" and not result.preview:  # they lie where the choice lies now
            self.drawing = None
            self.draw_with("handles")
        if self.drawing:
            self.show_axis()
            self._show_outlines()
            self._tell_chosen()

    def figure(self, result: Result) -> str:
        """Number of pieces."""
        count = int(np.count_nonzero(result.tidied.faces.label))
        return f"{count} piece{'s' * (count != 1)}"
