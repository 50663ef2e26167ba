"""Hue: colours turned, and made stronger or weaker."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import LUMINANCE_WEIGHTS, Picture


@register
class Hue(Pointwise):
    """Turns hues around grey and makes colours stronger or weaker. Luminance stays as it is.

    Haeberli, "Matrix operations for image processing", 1993. A strong colour that would need less
    than no light in a channel is made paler, just as far as it must be to stay within what light
    can show; light above white is not held.
    """

    family = "colour"
    example = {"turn": 120}
    says = "Turns hues by {turn}, saturation {saturation}."

    turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-180, 180), help="From red towards green."
    )
    saturation: float = setting(
        100, unit="%", least=0, most=1000, usual=(0, 300), help="0 is grey, 100 as it is."
    )

    def changer(self, at: At) -> Changer:
        matrix = hue_matrix(self.turn, self.saturation / 100).astype(np.float32)
        return lambda rows, place: _turn(rows, matrix)


def hue_matrix(turn: float, saturation: float) -> NDArray[np.float64]:
    """The matrix of a turn around the grey axis, with luminance planes made level before it."""
    weights = np.array(LUMINANCE_WEIGHTS)
    axis = np.full(3, 1 / math.sqrt(3))
    level = _level_planes(weights)
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    crossed = np.array([[0, -1, 1], [1, 0, -1], [-1, 1, 0]]) / math.sqrt(3)
    turned = cos * np.eye(3) + sin * crossed + (1 - cos) * np.outer(axis, axis)
    kept = np.linalg.inv(level) @ turned @ level
    grey = np.outer(np.ones(3), weights)
    matrix: NDArray[np.float64] = grey + saturation * (kept - grey)
    return matrix


@compiled
def _turn(rows: Picture, matrix: NDArray[np.float32]) -> None:
    """Light times a matrix that keeps luminance, in place, and towards grey where it is negative."""
    wr, wg, wb = LUMINANCE_WEIGHTS
    zero = np.float32(0.0)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            red, green, blue = line[x, 0], line[x, 1], line[x, 2]
            r = matrix[0, 0] * red + matrix[0, 1] * green + matrix[0, 2] * blue
            g = matrix[1, 0] * red + matrix[1, 1] * green + matrix[1, 2] * blue
            b = matrix[2, 0] * red + matrix[2, 1] * green + matrix[2, 2] * blue
            least = min(r, min(g, b))
            if least < zero:
                grey = np.float32(wr) * red + np.float32(wg) * green + np.float32(wb) * blue
                share = grey / (grey - least)
                r, g, b = (
                    grey + (r - grey) * share,
                    grey + (g - grey) * share,
                    grey + (b - grey) * share,
                )
            line[x, 0], line[x, 1], line[x, 2] = max(zero, r), max(zero, g), max(zero, b)


def _level_planes(weights: NDArray[np.float64]) -> NDArray[np.float64]:
    """A shear along grey after which the plain mean of the channels is the luminance."""
    return np.eye(3) + np.outer(np.ones(3), weights - 1 / 3)
