"""The demo jobs: the badge, the stencil, the figure and the print of the allotment society's summer fair."""

from importlib.resources import files
from typing import NamedTuple

from sketchloom.core.job import Job, Recipe
from sketchloom.core.palette import hex_of
from sketchloom.core.regions import FILLS
from sketchloom.core.tidy import Anchor, Bridging, Draw, Give, Trim, ellipse

__all__ = ["DEMOS", "Demo", "demo_job"]

_SKY, _CORAL, _SKIN = (hex_of(FILLS[place]) for place in (1, 3, 4))
_BEET = hex_of((142, 42, 91))


class Demo(NamedTuple):
    """A demo job: what it is called, what it shows, its picture and its recipe."""

    name: str
    help: str
    file: str
    recipe: Recipe


def _pieces(*places: tuple[float, float]) -> tuple[Anchor, ...]:
    return tuple(Anchor(place) for place in places)


DEMOS: dict[str, Demo] = {
    "badge": Demo("Fair badge", "Flat art in five inks", "fair-badge.png", Recipe().with_("finish", width=180.0)),
    "snail": Demo(
        "Snail stencil",
        "An ink drawing as a stencil: two islands held by bridges, the seeds in an ink of their own",
        "snail.jpg",
        Recipe()
        .with_("finish", width=150.0)
        .with_(
            "tidy",
            bridges=Bridging(3.0, 2),
            work=(Give(pieces=_pieces((0.411, 0.493), (0.504, 0.497), (0.587, 0.5)), ink=_BEET),),
        ),
    ),
    "scarecrow": Demo(
        "Scarecrow in colour",
        "Line art with its leaks closed, recoloured piece by piece, a button drawn on its shirt",
        "scarecrow.png",
        Recipe()
        .with_("finish", width=150.0)
        .with_("separate", mode="lineart", close_gaps=True)
        .with_(
            "tidy",
            work=(
                Give(pieces=_pieces((0.4, 0.2563)), ink=_SKIN),
                Give(pieces=_pieces((0.4, 0.62)), ink=_SKY),
                Draw(curve=ellipse((0.385, 0.44), (0.415, 0.47)), ink=_CORAL),
            ),
        ),
    ),
    "lantern": Demo(
        "Lantern print",
        "A photo in four colours, trimmed to an oval",
        "lantern.jpg",
        Recipe()
        .with_("finish", width=120.0)
        .with_("separate", steps_by="colour", inks=4)
        .with_("tidy", work=(Trim(curve=ellipse((0.04, 0.06), (0.76, 0.96))),)),
    ),
}
"""By key, in the order in which they are offered."""


def demo_job(key: str = "badge") -> Job:
    """Give a demo job."""
    demo = DEMOS[key]
    picture = (files("sketchloom") / "demo" / demo.file).read_bytes()
    return Job(demo.name, demo.file, picture, demo.recipe)
