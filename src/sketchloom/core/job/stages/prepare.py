"""Stages of Prepare: the picture as it was put right, and at the size that it has detail for."""

from typing import Any

from sketchloom.core.job.stages.stage import PREVIEW_PIXELS, Ask, stage
from sketchloom.core.picture import Done, Enlarge, Picture, Prepared, Sharpen, do_row, reduce_picture
from sketchloom.core.progress import Tick
from sketchloom.core.worn import Restored, restored


@stage("prepare", "prepare", (), lambda recipe: recipe.prepare, preview="full")
def prepare(ask: Ask, rows: Any, tick: Tick) -> Prepared:
    """The picture after every row of Prepare, each remembered by itself."""
    done: list[Done] = []
    for place, row in enumerate(rows):
        here = done[-1].picture if done else ask.opened
        if row.on:
            above = [other for other in rows[: place + 1] if other.on]
            done.append(ask.once("row", (), above, lambda tick, here=here, row=row: do_row(here, row, tick)))  # type: ignore[misc]
        else:
            done.append(Done(here, 0))
    return Prepared(ask.opened, tuple(done))


@stage("restored", "prepare", ("prepare",), lambda recipe: recipe.prepare, preview="full")
def undone(ask: Ask, rows: Any, tick: Tick) -> Restored:
    """Undo an enlargement, one made just now or an earlier one.

    A picture that was enlarged is sharpened at the size that it has detail
    for, by the blur that it has there: else its edges would ring, and nothing
    could tell any more what it was.
    """
    prepared: Prepared = ask("prepare")
    width = prepared.picture.width
    plain = len(rows)
    while plain and (not rows[plain - 1].on or isinstance(rows[plain - 1], Enlarge)):
        plain -= 1  # what was enlarged just now is known as it was
    sharp = plain
    while sharp and (not rows[sharp - 1].on or isinstance(rows[sharp - 1], Enlarge | Sharpen)):
        sharp -= 1
    if any(row.on and isinstance(row, Sharpen) for row in rows[sharp:plain]):
        found = restored(prepared.before(sharp), width)
        if found.factor > 1:
            return found._replace(picture=do_row(found.picture, Sharpen(), tick).picture, told=False)
    return restored(prepared.before(plain), width)


@stage("picture", "prepare", ("restored",))
def picture(ask: Ask, settings: None, tick: Tick) -> Picture:
    """The picture that all later stages read; reduced for a preview."""
    picture: Picture = ask("restored").picture
    return reduce_picture(picture, PREVIEW_PIXELS)[0] if ask.preview else picture
