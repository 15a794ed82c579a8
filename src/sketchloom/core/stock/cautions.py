"""Cautions that appear with a kind of stock; they defer to the maker's manual and local rules."""

from sketchloom.core.stock.stock import StockKind

__all__ = ["cautions_for"]

_BLADE = "Keep hands clear while the cutter moves, cut away from yourself when weeding, and cap the blade."
_PRESS = "A heat press burns: follow the film maker's temperature and time."
_NO_LASER = "Never cut vinyl (PVC), or plastic of unknown kind, with a laser: it gives off chlorine."
_LASER = "If a laser cuts it: extraction, the machine's manual and local rules come first, and never leave it alone."
_ROUTER = (
    "If a router cuts it: eye and ear protection, clamp the work; the machine's manual and local rules come first."
)

_CAUTIONS: dict[StockKind, tuple[str, ...]] = {
    "adhesive vinyl": (
        _BLADE,
        _NO_LASER,
        "Permanent vinyl is not for surfaces that touch food, nor for children's mouths.",
    ),
    "heat-transfer film": (_BLADE, _PRESS, _NO_LASER),
    "glitter film": (_BLADE, _PRESS, _NO_LASER),
    "paper": (_BLADE,),
    "card": (_BLADE,),
    "board": (_BLADE, _LASER),
    "wood": (_LASER, _ROUTER),
    "acrylic": (_LASER, _ROUTER),
    "fabric": (_BLADE,),
}


def cautions_for(kind: StockKind) -> tuple[str, ...]:
    """Sentences to show wherever a stock of this kind is chosen; common practice."""
    return _CAUTIONS[kind]
