"""A 3 x 3 matrix on light. It is linear, so premultiplied pictures need no division."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import Picture


@compiled
def mix_channels(rows: Picture, matrix: NDArray[np.float32]) -> None:
    """Light times a matrix `(3, 3)`, in place and never below nothing; cover as it is."""
    a, b, c = matrix[0, 0], matrix[0, 1], matrix[0, 2]
    d, e, f = matrix[1, 0], matrix[1, 1], matrix[1, 2]
    g, h, i = matrix[2, 0], matrix[2, 1], matrix[2, 2]
    zero = np.float32(0.0)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            red, green, blue = line[x, 0], line[x, 1], line[x, 2]
            line[x, 0] = max(zero, a * red + b * green + c * blue)
            line[x, 1] = max(zero, d * red + e * green + f * blue)
            line[x, 2] = max(zero, g * red + h * green + i * blue)
