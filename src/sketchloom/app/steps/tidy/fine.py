"""What is too fine for a picture's pixels, said before it is done."""

__all__ = ["too_fine"]

_LEAST = 1.5
"""px"""


def too_fine(what: str, mm: float, px_per_mm: float) -> str:
    """Say that a width is too fine to be drawn, and the way out; nothing where it is not."""
    if not px_per_mm or not mm or mm * px_per_mm >= _LEAST:
        return ""
    pixel = f"{1 / px_per_mm:.2g} mm"
    return f"A {what} of {mm:g} mm is finer than the picture's pixels ({pixel}); enlarge it in Prepare first."
