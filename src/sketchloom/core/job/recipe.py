"""The recipe: one frozen value that says all that is done to a picture."""

import math
import re
from collections.abc import Callable
from typing import Any

import msgspec

from sketchloom.core.curves import TraceSettings
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import CheckSettings, check_checks
from sketchloom.core.layers import BASE, CLEAR, SHEET, LayerRule, LayerSettings, TakePiece, part_key
from sketchloom.core.palette import Colour, is_key
from sketchloom.core.picture import Row, check_row
from sketchloom.core.regions import SeparateSettings
from sketchloom.core.scale import FinishSettings, check_size
from sketchloom.core.sheets import OF, SheetSettings, check_sheets
from sketchloom.core.stock import check_stock
from sketchloom.core.tidy import TidySettings, check_tidy

__all__ = ["Recipe", "is_work_by_hand"]

MOST_INKS_ASKED = 48
MOST_ROWS = 200
"""Of Prepare; each keeps a picture."""
MOST_PICKS = 48
MOST_PLACES = 5000
MOST_COPIES = 20
FARTHEST_PLACE = 100.0
"""Of source coordinates, lengths of the longer side."""
_LONGEST_NAME = 40
_LONGEST = 100.0
"""mm"""
_FARTHEST = 100.0
"""CIE76"""
_HEAVIEST = 1e6
_PART_NAME = re.compile(r"[1-9][0-9]{0,5}")
_LAYER_KEY = re.compile(
    rf"(#[0-9a-f]{{6}}(-[1-9][0-9]{{0,5}})?|{BASE}|{SHEET}|{CLEAR})(/[1-9][0-9]{{0,5}}){{0,8}}(\+[1-9][0-9]?)?"
)


class LookSettings(msgspec.Struct, frozen=True):
    """How the work is shown; nothing that is cut hangs on it."""

    behind: Colour | None = None
    """Of what the work is laid on, a garment or a wall; None is no such thing."""


class Recipe(msgspec.Struct, frozen=True):
    """The settings of every stage, in working order."""

    prepare: tuple[Row, ...] = ()
    separate: SeparateSettings = SeparateSettings()
    tidy: TidySettings = TidySettings()
    trace: TraceSettings = TraceSettings()
    layers: LayerSettings = LayerSettings()
    finish: FinishSettings = FinishSettings()
    checks: CheckSettings = CheckSettings()
    look: LookSettings = LookSettings()
    sheets: SheetSettings = SheetSettings()

    def with_(self, stage: str, **changes: Any) -> "Recipe":
        """Give a recipe that differs in some settings of one stage."""
        return msgspec.structs.replace(self, **{stage: msgspec.structs.replace(getattr(self, stage), **changes)})

    def check(self) -> "Recipe":
        """Return itself if every value can be used.

        Raises
        ------
        ArgumentError
            Names the value and the range it must lie in.
        """
        for part in self.__struct_fields__:
            self.check_part(part)
        return self

    def check_part(self, part: str) -> None:
        """Check one part, such as ``trace``; raises ArgumentError."""
        _CHECKS[part](getattr(self, part))


def is_work_by_hand(before: Recipe, after: Recipe) -> bool:
    """Whether two recipes differ in the work on pieces, and in nothing else."""
    return before != after and before.with_("tidy", work=after.tidy.work) == after


def _check_prepare(rows: tuple[Row, ...]) -> None:
    if len(rows) > MOST_ROWS:
        raise ArgumentError(f"{len(rows)} changes in Prepare are too many; at most {MOST_ROWS} can be kept.")
    for row in rows:
        check_row(row)


def _check_tidy(tidy: TidySettings) -> None:
    check_tidy(tidy)
    for key in tidy.cut_away or ():
        _check_key(key)


def _check_finish(finish: FinishSettings) -> None:
    for side in (finish.width, finish.height):
        if side is not None:
            check_size(side)


def _check_layers(layers: LayerSettings) -> None:
    named = [rule.ink for rule in layers.rules]
    above = [key for rule in layers.rules for key in (*rule.above, *([rule.into] if rule.into else ()))]
    for key in (*layers.order, *above, *(window.show for window in layers.windows)):
        _check_layer_key(key)
    for key in named:
        _check_layer_key(key)
    for key in (*(join.ink for join in layers.joins), *(window.ink for window in layers.windows)):
        _check_key(key)
    if len(set(named)) < len(named):
        raise ArgumentError("Two rules are for one layer; keep one of them.")
    for rule in layers.rules:
        _check_rule(layers, rule)
    lengths = (
        ("A slip", layers.slip),
        ("A rim", layers.rim),
        ("A gap beside the rim", layers.rim_gap),
        ("A margin", layers.margin),
        *([("An overlap", layers.overlap)] if layers.overlap != "auto" else []),
    )
    for what, length in lengths:
        if not (math.isfinite(length) and 0 <= length <= _LONGEST):
            raise ArgumentError(f"{what} of {length:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    weights = layers.weights
    for what, weight in (("a loose piece", weights.loose), ("a metre of cut", weights.cut), ("material", weights.area)):
        if not (math.isfinite(weight) and 0 <= weight <= _HEAVIEST):
            raise ArgumentError(f"A weight of {weight:g} for {what} cannot be used; type 0 to {_HEAVIEST:g}.")
    if layers.base_colour is not None and not all(0 <= value <= 255 for value in layers.base_colour):
        raise ArgumentError(f"{layers.base_colour} is no colour of a base; its three values go from 0 to 255.")
    if layers.stock is not None:
        check_stock(layers.stock)
    _check_parts(layers)


def _check_rule(layers: LayerSettings, rule: LayerRule) -> None:
    if rule.name and (not rule.name.strip() or len(rule.name) > _LONGEST_NAME or not rule.name.isprintable()):
        raise ArgumentError(f"{rule.name[:20]!a} is no name for a layer; type 1 to {_LONGEST_NAME} letters.")
    if not 0 <= rule.copies <= MOST_COPIES:
        raise ArgumentError(f"{rule.copies} copies of a layer cannot be cut; type 0 to {MOST_COPIES}.")
    if rule.stock is not None:
        check_stock(rule.stock)
    if (rule.into and layers.root(rule.ink) == rule.ink) or rule.into == rule.ink:
        raise ArgumentError("Layers that are laid together lead round in a circle; take one of them apart.")


def _check_parts(layers: LayerSettings) -> None:
    """Parts of layers, windows and holes."""
    for part in layers.parts:
        _check_layer_key(part.layer)
        if not _PART_NAME.fullmatch(part.name):
            raise ArgumentError(f"{part.name[:20]!a} is no name of a part of a layer; it is a number.")
        if bool(part.places) == bool(part.line) or len(part.line) == 1:
            raise ArgumentError("A part of a layer is told by its pieces or by a line of two points or more.")
    keys = [part_key(part) for part in layers.parts]
    if len(set(keys)) < len(keys):
        raise ArgumentError("Two parts of a layer have one name; keep one of them.")
    for what, many in (("holes", layers.holes), ("windows", layers.windows), ("parts", layers.parts)):
        if len(many) > MOST_PLACES:
            raise ArgumentError(f"{len(many)} {what} of layers are too many; at most {MOST_PLACES} can be kept.")
    places = [join.first for join in layers.joins] + [join.last for join in layers.joins]
    places += [one.at for one in layers.holes] + [one.at for one in layers.windows]
    places += [place for part in layers.parts for place in (*part.places, *part.line)]
    if not all(math.isfinite(value) and abs(value) <= FARTHEST_PLACE for place in places for value in place):
        raise ArgumentError("A join, hole, window or part of a layer has no place that can be used; take it back.")


def _check_layer_key(key: str) -> None:
    """Of an ink, of a layer that is of none, or of a part or a copy of one."""
    if not _LAYER_KEY.fullmatch(key):
        raise ArgumentError(
            f"“{key[:20]}” is no key of a layer; it is that of its ink, #rrggbb, or base, sheet or clear."
        )


def _check_key(key: str) -> None:
    if not is_key(key):
        raise ArgumentError(f"“{key[:20]}” is no key of an ink; it is written #rrggbb, or #rrggbb-2 for a second one.")


def _check_trace(trace: TraceSettings) -> None:
    if not (math.isfinite(trace.smoothness) and 0 <= trace.smoothness <= _LONGEST):
        raise ArgumentError(f"A smoothness of {trace.smoothness:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    for what, length in (("A straightness", trace.straightness), ("A difference of halves", trace.mirror)):
        if not (math.isfinite(length) and 0 <= length <= _LONGEST):
            raise ArgumentError(f"{what} of {length:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    for what, angle, most in (("A corner", trace.corner or 0.0, 180), ("Squaring up", trace.square, 45)):
        if not 0 <= angle <= most:
            raise ArgumentError(f"{what} of {angle:g}° cannot be used; type 0 to {most}°.")
    for edit in trace.edits:
        points = (edit.first, edit.last, edit.through, *edit.curve)
        if not edit.straight or len(edit.curve) != 3 * len(edit.straight) + 1:
            raise ArgumentError(f"“{edit.what[:20]}” is no change by hand that can be used: its curve is not whole.")
        if not all(math.isfinite(value) and abs(value) <= FARTHEST_PLACE for point in points for value in point):
            raise ArgumentError(f"“{edit.what[:20]}” is no change by hand that can be used: its place is no number.")


def _check_separate(separate: SeparateSettings) -> None:
    inks = separate.inks
    if inks is not None and not 1 <= inks <= MOST_INKS_ASKED:
        raise ArgumentError(f"{inks} inks cannot be separated; type a number from 1 to {MOST_INKS_ASKED}.")
    for name in (*(name for _, name in separate.names), *(name for _, name in separate.layers)):
        if not name.strip() or len(name) > _LONGEST_NAME or not name.isprintable():
            raise ArgumentError(f"{name[:20]!a} is no name for an ink; type 1 to {_LONGEST_NAME} letters.")
    for what, count, most in (
        ("picked details", len(separate.picks), MOST_PICKS),
        ("layers laid together", len(separate.layers), MOST_INKS_ASKED),
        ("closed leaks", len(separate.closings), MOST_PLACES),
        ("coloured areas", len(separate.fills), MOST_PLACES),
    ):
        if count > most:
            raise ArgumentError(f"{count} {what} are too many; at most {most} can be kept.")
    for key, count in separate.shades:
        if key:
            _check_key(key)
        if not 1 <= count <= MOST_INKS_ASKED:
            raise ArgumentError(f"{count} shades cannot be told apart; type a number from 1 to {MOST_INKS_ASKED}.")
    for pick in separate.picks:
        if pick.key:
            _check_key(pick.key)
        if pick.to:
            _check_key(pick.to)
    keys = (*separate.grounded, *separate.locked, *(key for pair in separate.joined for key in pair))
    for key in (*keys, *(key for key, _ in separate.names), *(key for key, _ in separate.shown)):
        _check_key(key)
    places = [pick.at for pick in separate.picks] + [fill.at for fill in separate.fills]
    places += [end for closing in separate.closings for end in (closing.first, closing.last)]
    if not all(math.isfinite(value) and abs(value) <= FARTHEST_PLACE for place in places for value in place):
        raise ArgumentError("A pick, a fill or a closed leak has no place that can be used; take it back.")
    if not all(math.isfinite(one.width) and 0 <= one.width <= 1 for one in separate.closings):
        raise ArgumentError("A closed leak has no width that can be used; take it back.")
    shares = (
        ("A threshold", separate.threshold),
        ("A faint stroke's share", separate.faint),
        ("A strength", separate.strength),
    )
    for what, share in shares:
        if share is not None and not 0 < share < 1:
            raise ArgumentError(f"{what} of {share:g} splits nothing; type a share between 0 and 1.")
    for what, length in (("A detail", separate.detail), ("A gap", separate.gap)):
        if length is not None and not (math.isfinite(length) and 0 <= length <= _LONGEST):
            raise ArgumentError(f"{what} of {length:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    for pick in separate.picks:
        if not 0 <= pick.reach <= _FARTHEST:
            raise ArgumentError(f"A reach of {pick.reach:g} picks nothing of use; type 0 to {_FARTHEST:g}.")
    colours = [separate.ink_colour, *(fill.colour for fill in separate.fills)]
    colours += [colour for _, colour in separate.shown] + [colour for colour, _ in separate.layers]
    for colour in colours:
        if colour is not None and not all(0 <= value <= 255 for value in colour):
            raise ArgumentError(f"{colour} is no colour; its three values go from 0 to 255.")


def _check_look(look: LookSettings) -> None:
    if look.behind is not None and not all(0 <= value <= 255 for value in look.behind):
        raise ArgumentError(f"{look.behind} is no colour; its three values go from 0 to 255.")


def _check_findings(check: CheckSettings) -> None:
    check_checks(check)
    for key in (*(aside.layer for aside in check.aside), *(mend.layer for mend in check.mends)):
        _check_layer_key(key)
    for mend in check.mends:
        if isinstance(mend, TakePiece) and mend.to:
            _check_layer_key(mend.to)


def _check_sheets(sheets: SheetSettings) -> None:
    check_sheets(sheets)
    for one in sheets.placements:
        _check_layer_key(one.layer.rpartition(OF)[2].removesuffix(" centre"))


_CHECKS: dict[str, Callable[[Any], None]] = {
    "prepare": _check_prepare,
    "separate": _check_separate,
    "tidy": _check_tidy,
    "trace": _check_trace,
    "layers": _check_layers,
    "finish": _check_finish,
    "checks": _check_findings,
    "look": _check_look,
    "sheets": _check_sheets,
}
