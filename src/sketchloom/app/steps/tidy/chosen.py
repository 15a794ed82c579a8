"""The card with the chosen pieces: what they are, and all that can be done with them."""

from PySide6.QtWidgets import QGridLayout, QMenu, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.app.steps.tidy.new_ink import ask_for_ink
from sketchloom.core.job import Result
from sketchloom.core.measures import area_words, in_unit
from sketchloom.core.tidy import FillHoles, Give, JoinBeside, Pieces

__all__ = ["ChosenCard", "told"]


def told(step: TidyDesk, pieces: Pieces, piece: int, narrowest: bool = False) -> str:
    """Say what a piece is: its ink, width x height, area and, if asked, its narrowest place."""
    measure, unit = pieces.measure(piece), step.unit()
    size = f"{in_unit(measure.width, unit)} × {in_unit(measure.height, unit)} {unit}"
    area = area_words(measure.area, unit)
    narrow = f", narrowest {in_unit(pieces.narrowest(piece), unit, 2)} {unit}" if narrowest else ""
    return f"{step.name_of(measure.key)}, {size}, {area}{narrow}"


class ChosenCard(Card):
    """What is chosen, what else belongs to it, and what to do with it."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Chosen")
        self._step = step
        self.words = faded()
        self.words.setMinimumHeight(2 * self.words.fontMetrics().lineSpacing())  # what is told grows as the hand rests
        self.body.addWidget(self.words)
        self.choose = QPushButton("Choose")
        self.choose.setCheckable(True)
        self.choose.clicked.connect(lambda on: step.draw_with("choose" if on else None))
        self.by_hand = QPushButton("By a line round")
        self.by_hand.setCheckable(True)
        self.by_hand.clicked.connect(lambda on: step.draw_with("lasso" if on else "choose"))
        self.more = QPushButton("Choose more")
        self._more_menu = QMenu(self)
        self.more.setMenu(self._more_menu)
        line = self.row(self.choose)
        line.addWidget(self.by_hand)
        self.body.addWidget(self.more)
        self.ways = {
            "ink": ("All of this ink", lambda pieces, chosen: pieces.same_ink(chosen[-1])),
            "smaller": ("All no larger than this", lambda pieces, chosen: pieces.smaller(chosen[-1])),
            "alike": ("All like this one", lambda pieces, chosen: pieces.alike(chosen[-1])),
            "inside": ("Everything inside", lambda pieces, chosen: pieces.inside(chosen)),
            "touching": ("What touches it", lambda pieces, chosen: pieces.touching(chosen)),
            "others": ("All others instead", lambda pieces, chosen: pieces.others(chosen)),
        }
        for way, (words, _) in self.ways.items():
            self._more_menu.addAction(words, lambda way=way: self.widen(way))
        self._more_menu.addAction("Nothing", lambda: step.choose(()))
        grid = QGridLayout()
        grid.setSpacing(6)
        self.give = QPushButton("Give to")
        self._give_menu = QMenu(self)
        self._give_menu.aboutToShow.connect(self._fill_menu)
        self.give.setMenu(self._give_menu)
        self.ground = QPushButton("To the ground")
        self.ground.clicked.connect(lambda: self.give_to(""))
        self.holes = QPushButton("Fill holes")
        self.holes.clicked.connect(lambda: self.do("Fill holes", FillHoles))
        self.join = QPushButton("Join beside")
        self.join.setToolTip("Each piece goes to the neighbour with which it shares the longest edge")
        self.join.clicked.connect(lambda: self.do("Join to the neighbour", JoinBeside))
        for place, button in enumerate((self.give, self.ground, self.holes, self.join)):
            grid.addWidget(button, place // 2, place % 2)
        self.body.addLayout(grid)

    def widen(self, way: str) -> None:
        """Choose what belongs to the choice in one of `ways`."""
        pieces = self._step.pieces
        if pieces is None:
            return
        chosen = pieces.found(self._step.choice)
        if chosen:
            self._step.choose(pieces.anchors(self.ways[way][1](pieces, chosen)))

    def do(self, name: str, kind: type[FillHoles] | type[JoinBeside]) -> None:
        """Do a kind of work on the choice."""
        if self._step.choice:
            self._step.add_work(name, kind(pieces=self._step.choice))

    def give_to(self, key: str) -> None:
        """Give the choice to an ink, or to the ground."""
        if self._step.choice:
            where = self._step.name_of(key) if key else "the ground"
            self._step.add_work(f"Give to {where}", Give(pieces=self._step.choice, ink=key))

    def give_to_new(self) -> None:
        """Give the choice to an ink of a colour that is asked for."""
        key = ask_for_ink(self, self._step.inks_now())
        if key:
            self.give_to(key)

    def _fill_menu(self) -> None:
        self._give_menu.clear()
        for ink in self._step.inks_now():
            self._give_menu.addAction(swatch(ink.hex), ink.name, lambda key=ink.key: self.give_to(key))
        self._give_menu.addAction("A new ink…", self.give_to_new)

    def tell_narrowest(self, pieces: Pieces) -> None:
        """Tell the narrowest place of a single piece too."""
        chosen = pieces.found(self._step.choice)
        if len(chosen) == 1 and pieces.is_cut(chosen[0]):
            self.words.setText(told(self._step, pieces, chosen[0], narrowest=True))

    def show_result(self, result: Result) -> None:
        """Say what is chosen."""
        pieces = self._step.pieces
        chosen = pieces.found(self._step.choice) if pieces else []
        for button in (self.more, self.give, self.ground, self.holes, self.join):
            button.setVisible(bool(chosen))
        self.aside.setText(f"{len(chosen)} of {len(pieces.cut)}" if pieces and chosen else "")
        if pieces is None or not chosen:
            self.words.setText("Click a piece on the canvas, or drag a box round several.")
        elif len(chosen) == 1:
            self.words.setText(told(self._step, pieces, chosen[0]))
        else:
            area = sum(pieces.measure(piece).area for piece in chosen)
            self.words.setText(f"{len(chosen)} pieces, {area_words(area, self._step.unit())} together")
