"""Kernels that pictures are enlarged by, as matrices, and their least-squares inverse."""

from typing import Any, Literal, get_args

import numpy as np

from sketchloom.core.arrays import Floats

__all__ = ["KERNELS", "Kernel", "SmoothKernel", "enlarging", "solved", "spread_by"]

SmoothKernel = Literal["bilinear", "bicubic", "sharp bicubic", "lanczos"]
Kernel = Literal["nearest", "bilinear", "bicubic", "sharp bicubic", "lanczos"]
KERNELS: tuple[SmoothKernel, ...] = get_args(SmoothKernel)
_REACH: dict[SmoothKernel, int] = {"bilinear": 1, "bicubic": 2, "sharp bicubic": 2, "lanczos": 3}
_SHARPNESS = {"bicubic": -0.5, "sharp bicubic": -0.75}
"""The free parameter of Keys' kernel: -0.5 is third-order exact, -0.75 is as common."""
_RIDGE = 1e-6


def _weight(kernel: SmoothKernel, away: Floats) -> Floats:
    """What a pixel of the small picture gives to a place so many of its pixels away.

    References
    ----------
    .. [1] R. G. Keys, "Cubic convolution interpolation for digital image processing", 1981.
    .. [2] C. Duchon, "Lanczos filtering in one and two dimensions", 1979.
    """
    x = np.abs(away)
    if kernel == "bilinear":
        return np.asarray(np.clip(1 - x, 0, None))
    if kernel == "lanczos":
        return np.where(x < 3, np.sinc(x) * np.sinc(x / 3), 0)
    a = _SHARPNESS[kernel]
    near = ((a + 2) * x - (a + 3)) * x * x + 1
    far = (((x - 5) * x + 8) * x - 4) * a
    return np.where(x < 1, near, np.where(x < 2, far, 0))


def spread_by(kernel: SmoothKernel, places: Floats) -> tuple[np.ndarray, Floats]:
    """First pixel of the small picture, and the weights of it and the next, at places in its pixels; (N,), (N, 2 r)."""
    reach = _REACH[kernel]
    first = np.floor(places).astype(np.int64) - reach + 1
    return first, _weight(kernel, places[:, None] - (first[:, None] + np.arange(2 * reach)))


def enlarging(large: int, small: int, kernel: SmoothKernel) -> Any:
    """Matrix that makes `large` pixels of `small` ones, centre on centre; weights cut off and made whole at the ends.

    Returns
    -------
    (large, small) sparse array, rows adding up to 1
    """
    from scipy.sparse import csr_array

    places = (np.arange(large) + 0.5) * small / large - 0.5
    first, weight = spread_by(kernel, places)
    column = first[:, None] + np.arange(weight.shape[1])
    weight = np.where((column < 0) | (column >= small), 0, weight)
    weight /= weight.sum(1, keepdims=True)
    row = np.repeat(np.arange(large), weight.shape[1])
    good = (weight != 0).ravel()
    return csr_array((weight.ravel()[good], (row[good], column.ravel()[good])), (large, small))


def solved(matrix: Any, values: Floats) -> Floats:
    """Least-squares pre-image of values along their first axis: banded normal equations by Cholesky's method."""
    from scipy.linalg import cho_solve_banded, cholesky_banded

    normal = (matrix.T @ matrix).todia()
    band = max(0, int(normal.offsets.max()))
    size = normal.shape[0]
    lower = np.zeros((band + 1, size))
    dense = normal.tocsr()
    for k in range(min(band, size - 1) + 1):
        lower[k, : size - k] = dense.diagonal(-k)
    lower[0] += _RIDGE
    right = matrix.T @ values.reshape(len(values), -1)
    made = cho_solve_banded((cholesky_banded(lower, lower=True), True), right)
    return np.asarray(made.reshape(size, *values.shape[1:]))
