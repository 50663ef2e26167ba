"""The colour of light of a temperature, and balancing one light to another.

CIE 15:2004, "Colorimetry": daylight of a correlated colour temperature from 4000 K up. Kim and
others, "Color temperature conversion system", US patent 7024034, 2006: the Planckian locus from
1667 K. Lam, "Metamerism and colour constancy", Bradford, 1985: the cone responses in which one
white is turned into another.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import BT709_CHROMATICITIES, Colour

Matrix = NDArray[np.float64]

LEAST_KELVIN, MOST_KELVIN = 1667.0, 25000.0

_DAYLIGHT_FROM, _PLANCK_TO = 5000.0, 4000.0
"""K; between the two the loci are mixed evenly, as daylight does not reach below."""

BRADFORD = np.array(
    [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
)


def chromaticity(kelvin: float) -> tuple[float, float]:
    """CIE 1931 x, y of light of a temperature, held to `LEAST_KELVIN` to `MOST_KELVIN`."""
    kelvin = min(MOST_KELVIN, max(LEAST_KELVIN, kelvin))
    if kelvin >= _DAYLIGHT_FROM:
        return _daylight(kelvin)
    if kelvin <= _PLANCK_TO:
        return planckian(kelvin)
    part = (kelvin - _PLANCK_TO) / (_DAYLIGHT_FROM - _PLANCK_TO)
    low, high = planckian(kelvin), _daylight(kelvin)
    return low[0] + (high[0] - low[0]) * part, low[1] + (high[1] - low[1]) * part


def _daylight(kelvin: float) -> tuple[float, float]:
    k = 1000 / kelvin
    if kelvin <= 7000:
        x = 0.244063 + 0.09911 * k + 2.9678 * k**2 - 4.6070 * k**3
    else:
        x = 0.237040 + 0.24748 * k + 1.9018 * k**2 - 2.0064 * k**3
    return x, -3.000 * x**2 + 2.870 * x - 0.275


def planckian(kelvin: float) -> tuple[float, float]:
    """CIE 1931 x, y of a black body from 1667 K to 25000 K."""
    k = 1000 / kelvin
    if kelvin <= 4000:
        x = -0.2661239 * k**3 - 0.2343589 * k**2 + 0.8776956 * k + 0.179910
    else:
        x = -3.0258469 * k**3 + 2.1070379 * k**2 + 0.2226347 * k + 0.240390
    if kelvin <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif kelvin <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, y


def rgb_to_xyz() -> Matrix:
    """BT.709 light to CIE XYZ, from the chromaticities of its primaries and of its white."""
    pairs = np.array(BT709_CHROMATICITIES).reshape(4, 2)
    primaries = np.array([_xyz(x, y) for x, y in pairs[:3]]).T
    return primaries * np.linalg.solve(primaries, _xyz(*pairs[3]))


def balancing(kelvin: float) -> Matrix:
    """What turns BT.709 light seen under D65 into the same things under light of a temperature.

    White keeps its luminance. At 6504 K, where daylight is D65, it is nearly nothing.
    """
    to_xyz = rgb_to_xyz()
    white, new_white = _xyz(*BT709_CHROMATICITIES[6:]), _xyz(*chromaticity(kelvin))
    cones = np.diag((BRADFORD @ new_white) / (BRADFORD @ white))
    adapted = np.linalg.inv(BRADFORD) @ cones @ BRADFORD
    matrix: Matrix = np.linalg.inv(to_xyz) @ adapted @ to_xyz
    return matrix


def colour_of(kelvin: float) -> Colour:
    """The colour of light of a temperature, its brightest channel at 1.

    What BT.709 cannot show, below some 1900 K, is held to its edge.
    """
    light = np.maximum(0, np.linalg.solve(rgb_to_xyz(), _xyz(*chromaticity(kelvin))))
    return Colour(*(float(part) for part in light / light.max()))


def _xyz(x: float, y: float) -> Matrix:
    return np.array([x / y, 1.0, (1 - x - y) / y])
