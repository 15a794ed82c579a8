"""PNG with its size in print."""

import io

from PIL import Image

from sketchloom.core.arrays import Bytes

__all__ = ["png_bytes"]


def png_bytes(rgba: Bytes, dpi: float) -> bytes:
    """Write (H, W, 4) uint8 as PNG that says its dots an inch."""
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", dpi=(dpi, dpi))
    return buffer.getvalue()
