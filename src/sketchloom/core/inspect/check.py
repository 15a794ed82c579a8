"""Check layers: all findings, worst first."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding
from sketchloom.core.inspect.kinds.crossing import find_crossings
from sketchloom.core.inspect.kinds.cut_twice import find_cut_twice
from sketchloom.core.inspect.kinds.deviation import find_deviations
from sketchloom.core.inspect.kinds.double_line import find_double_lines
from sketchloom.core.inspect.kinds.fine import find_fine
from sketchloom.core.inspect.kinds.gap import find_gaps
from sketchloom.core.inspect.kinds.hidden_window import find_hidden_windows
from sketchloom.core.inspect.kinds.island import find_islands
from sketchloom.core.inspect.kinds.like_inks import find_like_inks
from sketchloom.core.inspect.kinds.loose import find_loose
from sketchloom.core.inspect.kinds.many_objects import find_many_objects
from sketchloom.core.inspect.kinds.neck import find_necks
from sketchloom.core.inspect.kinds.nodes import find_nodes
from sketchloom.core.inspect.kinds.open_outline import find_open
from sketchloom.core.inspect.kinds.sharp import find_sharp
from sketchloom.core.inspect.kinds.sliver import find_slivers
from sketchloom.core.inspect.kinds.small import find_small
from sketchloom.core.inspect.kinds.stock_rule import find_stock_rules
from sketchloom.core.inspect.limits import KINDS
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.progress import Tick, no_tick

__all__ = ["FINDERS", "find_all", "shape_of"]


class _Finder(NamedTuple):
    find: Callable[[Subject, Cut], Iterator[Finding]]
    alone: bool
    """Whether what it finds hangs on the layer itself and the scale, and on nothing else."""


FINDERS: dict[str, _Finder] = {
    "neck": _Finder(find_necks, False),
    "island": _Finder(find_islands, False),
    "cut-twice": _Finder(find_cut_twice, True),
    "open": _Finder(find_open, True),
    "crossing": _Finder(find_crossings, True),
    "stock-rule": _Finder(find_stock_rules, False),
    "gap": _Finder(find_gaps, True),
    "small": _Finder(find_small, False),
    "sliver": _Finder(find_slivers, False),
    "loose": _Finder(find_loose, False),
    "hidden-window": _Finder(find_hidden_windows, False),
    "double-line": _Finder(find_double_lines, False),
    "many-objects": _Finder(find_many_objects, False),
    "sharp": _Finder(find_sharp, True),
    "nodes": _Finder(find_nodes, True),
    "fine": _Finder(find_fine, False),
    "deviation": _Finder(find_deviations, False),
    "like-inks": _Finder(find_like_inks, False),
}
"""One a kind, as in `KINDS`. Adding a kind is its file, a line here and one there."""


def find_all(subject: Subject, tick: Tick = no_tick) -> tuple[Finding, ...]:
    """Find all that spoils the cut or is worth a look, with the fixes that are thought of; worst first."""
    found = []
    if subject.layers:
        subject.warm()
    for number, layer in enumerate(subject.layers):
        tick(number / max(len(subject.layers), 1))
        for kind, finder in FINDERS.items():
            found += _found(subject, layer, kind, finder)
    return tuple(sorted(found, key=_rank))


def _found(subject: Subject, layer: Cut, kind: str, finder: _Finder) -> list[Finding]:
    if not finder.alone:
        return list(finder.find(subject, layer))
    scale = subject.origin.px_per_mm if subject.origin else None
    key = ("found", kind, layer.key, layer.name, layer.digest, tuple(sorted(subject.limits[layer.key].items())), scale,
           subject.bare)  # fmt: skip
    known: list[Finding] | None = subject.memory.findings.get(key)
    if known is None:
        known = list(finder.find(subject, layer))
        subject.memory.findings.put(key, known)
    return known


_PLACE = {kind: place for place, kind in enumerate(KINDS)}


def _rank(finding: Finding) -> tuple[bool, int, float, str, float, float]:
    """Worst first; of one kind the farthest beyond its limit."""
    measure, limit = round(finding.measure, 4), max(finding.limit, 1e-9)
    beyond = measure / limit if KINDS[finding.kind].most else limit / max(measure, 1e-9)
    return finding.severity != "spoils", _PLACE[finding.kind], -beyond, finding.layer, *finding.at


def shape_of(subject: Subject, key: str) -> tuple[int, int]:
    """Pieces and windows of a layer."""
    layer = subject.layer(key)
    if layer is None:
        return 0, 0
    shapes = subject.outline(layer).pieces.shapes
    return len(shapes), int(shapely.get_num_interior_rings(shapes).sum())
