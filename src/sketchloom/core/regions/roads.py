"""The roads that a picture may take to its tones."""

from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.flat.tones import flat_tones
from sketchloom.core.regions.ink.drawing import InkDrawing
from sketchloom.core.regions.ink.tones import find_drawing, ink_tones
from sketchloom.core.regions.kind import Kind, find_kind, road_of
from sketchloom.core.regions.photo.tones import photo_tones
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.tones import Tones
from sketchloom.core.units import PX_PER_MM_UNSET
from sketchloom.core.worn import Wear

__all__ = ["find_tones"]


def find_tones(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind | None = None,
    tick: Tick = no_tick,
    decided: Tones | None = None,
    px_per_mm: float = PX_PER_MM_UNSET,
    drawing: InkDrawing | None = None,
    wear: Wear | None = None,
) -> Tones:
    """Find the even colours of a picture and give every pixel to one.

    Parameters
    ----------
    picture : Picture
    settings : SeparateSettings
        The number of inks counts only where more are wanted than stand out.
    mode : str, optional
        The road; None finds it.
    decided : Tones, optional
        Of the full picture, when `picture` is its reduced preview.
    px_per_mm : float
        At the finished size.
    drawing : InkDrawing, optional
        What `find_drawing` gave, when it is known already.
    wear : Wear, optional
        Of an opaque picture, when it was measured already.
    """
    if mode is None:
        asked = settings.mode != "auto" or bool(settings.layers)
        mode = road_of(None if asked else find_kind(picture, settings.ground == "keep"), settings).mode
    if mode == "photo":
        return photo_tones(picture, settings, tick, decided, px_per_mm)
    if mode in ("ink", "lineart"):
        known = decided.reading if decided else None
        drawing = drawing or find_drawing(picture, settings, mode, tick, known)
        return ink_tones(picture, settings, mode, tick, decided, px_per_mm, drawing)
    return flat_tones(picture, settings, tick, decided, wear)
