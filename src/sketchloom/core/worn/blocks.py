"""Blocks of cosines, and planes of light and colour, as JPEG lays them out."""

import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = [
    "BLOCK",
    "COSINES",
    "SIDE",
    "blocks_of",
    "coefficients",
    "cut_up",
    "enlarged_chroma",
    "from_coefficients",
    "halved_chroma",
    "laid_out",
    "padded",
    "planes_of",
    "reduced",
    "spread_evenly",
    "squares_of",
    "to_rgb",
    "to_ycc",
]

SIDE, BLOCK = 16, 8
"""px of a square, in which chroma at half the size fills one block; and of a block."""
_TO_YCC = np.array([[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], np.float32)
"""ITU-R BT.601, as JFIF takes it."""
_TO_RGB: Floats = np.linalg.inv(_TO_YCC).astype(np.float32)


def _cosines() -> Floats:
    """The 64 x 64 matrix of the two-dimensional cosine transform of a block, row by row; orthonormal."""
    k = np.arange(BLOCK)
    one = np.cos((2 * k[None] + 1) * k[:, None] * np.pi / 16) * np.where(k[:, None] == 0, np.sqrt(1 / 8), 0.5)
    return np.kron(one, one).astype(np.float32)


COSINES = _cosines()


def to_ycc(rgb: Floats | Bytes) -> Floats:
    """Luma and chroma of (H, W, 3) RGB, all about nought; (3, H, W) float32."""
    planes = np.ascontiguousarray((rgb.astype(np.float32) @ _TO_YCC.T).transpose(2, 0, 1))
    planes[0] -= 128
    return planes


def to_rgb(planes: Floats) -> Floats:
    """The inverse of `to_ycc`."""
    return np.asarray((planes.transpose(1, 2, 0) + np.array([128, 0, 0], np.float32)) @ _TO_RGB.T)


def padded(picture: np.ndarray) -> np.ndarray:
    """Repeat the last row and column up to whole squares of 16 px; (H, W, N)."""
    rows, columns = (-side % SIDE for side in picture.shape[:2])
    return np.pad(picture, ((0, rows), (0, columns), (0, 0)), mode="edge")


def blocks_of(squares: np.ndarray) -> np.ndarray:
    """Cut squares (n, R, C), of sides that are 8 or 16 px, to blocks, row by row; (n * blocks, 64)."""
    count, rows, columns = squares.shape
    cut = squares.reshape(count, rows // BLOCK, BLOCK, columns // BLOCK, BLOCK).transpose(0, 1, 3, 2, 4)
    return cut.reshape(-1, BLOCK * BLOCK)


def squares_of(blocks: Floats, sides: tuple[int, int]) -> Floats:
    """The inverse of `blocks_of`."""
    down, across = sides[0] // BLOCK, sides[1] // BLOCK
    laid = blocks.reshape(-1, down, across, BLOCK, BLOCK).transpose(0, 1, 3, 2, 4)
    return laid.reshape(-1, *sides)


def reduced(squares: Floats, halving: tuple[int, int]) -> Floats:
    """Means of so many rows and columns; (n, 16, 16) to (n, 16 / rows, 16 / columns)."""
    if halving == (1, 1):
        return squares
    down, across = halving
    return np.asarray(squares.reshape(len(squares), SIDE // down, down, SIDE // across, across).mean((2, 4)))


def spread_evenly(squares: Floats, halving: tuple[int, int]) -> Floats:
    """Repeat each value over the rows and columns that it is the mean of."""
    return np.asarray(squares.repeat(halving[0], 1).repeat(halving[1], 2))


def cut_up(plane: np.ndarray, sides: tuple[int, int] = (SIDE, SIDE)) -> np.ndarray:
    """Cut a plane (H, W) to squares, row by row; (n, *sides)."""
    rows, columns = plane.shape[0] // sides[0], plane.shape[1] // sides[1]
    return plane.reshape(rows, sides[0], columns, sides[1]).transpose(0, 2, 1, 3).reshape(-1, *sides)


def laid_out(squares: Floats, rows: int) -> Floats:
    """The inverse of `cut_up`, of so many rows of squares."""
    _, down, across = squares.shape
    return squares.reshape(rows, -1, down, across).transpose(0, 2, 1, 3).reshape(rows * down, -1)


def coefficients(squares: Floats) -> Floats:
    """Cosine coefficients of the blocks of some squares; (n * blocks, 64)."""
    return blocks_of(squares) @ COSINES.T


def from_coefficients(values: Floats, sides: tuple[int, int]) -> Floats:
    """The inverse of `coefficients`."""
    return squares_of(values @ COSINES, sides)


def planes_of(blocks: Floats, halving: tuple[int, int], shape: tuple[int, int]) -> Floats:
    """Lay blocks of a plane out; (H / rows, W / columns)."""
    sides = SIDE // halving[0], SIDE // halving[1]
    return laid_out(squares_of(blocks, sides), -(-shape[0] // SIDE))


def enlarged_chroma(plane: Floats, halving: tuple[int, int]) -> Floats:
    """Enlarge a plane of chroma as common decoders do: three parts of the nearer value, one of the next."""
    for axis in (0, 1):
        if halving[axis] == 2:
            low, high = _beside(plane, axis)
            pair = np.stack([0.75 * plane + 0.25 * low, 0.75 * plane + 0.25 * high], axis + 1)
            shape = list(plane.shape)
            shape[axis] *= 2
            plane = pair.reshape(shape)
    return plane


def halved_chroma(plane: Floats, halving: tuple[int, int]) -> Floats:
    """Undo `enlarged_chroma`: means of pairs, an eighth of either neighbour and the rest of the value itself."""
    for axis in (0, 1):
        if halving[axis] == 2:
            first, second = (plane[0::2], plane[1::2]) if axis == 0 else (plane[:, 0::2], plane[:, 1::2])
            seen = (first + second) / 2
            plane = seen
            for _ in range(8):  # what is left over falls to under a tenth in each round
                low, high = _beside(plane, axis)
                plane = plane + 1.33 * (seen - 0.75 * plane - 0.125 * (low + high))
    return plane


def _beside(plane: Floats, axis: int) -> tuple[Floats, Floats]:
    """The values before and after, the outermost repeated."""
    along = np.moveaxis(plane, axis, 0)
    low, high = np.concatenate([along[:1], along[:-1]]), np.concatenate([along[1:], along[-1:]])
    return np.moveaxis(low, 0, axis), np.moveaxis(high, 0, axis)
