"""Every colour and size of the window; no other file holds a colour literal."""

from typing import NamedTuple

__all__ = ["CANVAS_GROUNDS", "DARK", "LIGHT", "SIZES", "Tokens", "contrast", "edge_on", "legible_on"]

SIZES = (11, 13, 16, 22)
"""px: small, text, heading, figure."""


class Tokens(NamedTuple):
    """Colours by what they are for."""

    linen: str  # panels
    paper: str  # fields, tables
    line: str  # rules, borders
    ink: str  # text
    faded: str  # secondary text
    indigo: str  # accent, focus, selection
    madder: str  # will spoil the cut
    ochre: str  # worth a look
    moss: str  # in order
    kraft: str  # the canvas ground
    wash: str  # a chosen row
    on_indigo: str  # text on the accent


LIGHT = Tokens(
    linen="#F5F1EA", paper="#FFFDF9", line="#DCD4C6", ink="#25221C", faded="#6F6658", indigo="#35508C",
    madder="#A5402F", ochre="#8A6710", moss="#4C7046", kraft="#C9B48F", wash="#E4E7F0", on_indigo="#FFFFFF",
)  # fmt: skip
DARK = Tokens(
    linen="#26241F", paper="#302D27", line="#454037", ink="#EFE9DD", faded="#A79E8E", indigo="#8FA8E0",
    madder="#E08A78", ochre="#D9B65A", moss="#9CC08F", kraft="#6E6453", wash="#383B4B", on_indigo="#1B1D24",
)  # fmt: skip

CANVAS_GROUNDS = ("#C9B48F", "#6E6453", "#8FA39B", "#9A8FA6", "#59636B")
"""Mid tones to choose from; the one furthest from all inks is taken."""


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours as WCAG 2.1 defines it, 1 to 21."""

    def luminance(code: str) -> float:
        parts = [int(code[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        red, green, blue = (v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in parts)
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def legible_on(ground: str) -> str:
    """Give the text colour, dark or light, that stands out more on a ground."""
    return max((LIGHT.ink, DARK.ink), key=lambda code: contrast(code, ground))


_SEEN = 1.6
"""Contrast under which a colour can hardly be told from what it lies on."""


def edge_on(tokens: Tokens, colour: str, ground: str) -> str:
    """Give the edge of a swatch or a thread: a faint one, a clear one where the colour can hardly be seen."""
    return tokens.faded if contrast(colour, ground) >= _SEEN else tokens.ink
