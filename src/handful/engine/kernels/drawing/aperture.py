"""The star that an aperture makes of a bright point.

Far away (Fraunhofer) the light behind an aperture is the squared Fourier transform of its shape
(Hecht, "Optics", 10.2): straight blades send light along their normals, to both sides. So n blades
make n spikes if n is even, as opposite blades share theirs, and 2n if it is odd. Its size goes with
the wavelength, which draws the spikes out into colours.
"""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.easing import smooth
from handful.engine.kernels.pixels.area import filled
from handful.engine.picture import Matte, Region

STAR = 512
"""px of the table of a star, from end to end."""

_APERTURE = 150
_WAVELENGTHS = 25
_SHORTEST, _LONGEST = 420.0, 680.0
_PEAKS = (600.0, 548.0, 455.0)
"""nm at which red, green and blue are strongest; from memory, near the peaks of the eye's response."""

_SPREAD = 36.0


def opening(blades: int, size: int, radius: float) -> Matte:
    """How much of each px `(size, size)` lies within an aperture of straight blades, 0 to 1.

    A corner points to the right.
    """
    angles = 2 * math.pi * np.arange(blades) / blades
    outline = size / 2 + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    return filled(outline, Region(0, 0, size, size))


def diffracted(aperture: Matte) -> Matte:
    """The light `(N, N)` far behind an aperture `(N, N)` at one wavelength, 1 at its middle."""
    spectrum = np.fft.fftshift(np.fft.fft2(aperture.astype(np.float64)))
    power = spectrum.real**2 + spectrum.imag**2
    light: Matte = (power / power.max()).astype(np.float32)
    return light


@lru_cache(maxsize=8)
def star(blades: int) -> NDArray[np.float32]:
    """The star `(STAR, STAR, 3)` of an aperture in all colours together; it is to be read only.

    Each channel is 1 at the middle, and is at nothing at the edge of the largest circle.
    """
    one = diffracted(opening(blades, 2 * STAR, _APERTURE))
    total = np.zeros((STAR, STAR, 3), np.float32)
    whole = np.zeros(3, np.float32)
    for wavelength in np.linspace(_SHORTEST, _LONGEST, _WAVELENGTHS):
        size = wavelength / _LONGEST
        grow = np.array([[size, 0, STAR / 2 - size * STAR], [0, size, STAR / 2 - size * STAR]])
        sized = cv2.warpAffine(one, grow, (STAR, STAR), flags=cv2.INTER_LINEAR)
        shares = np.exp(-0.5 * ((wavelength - np.array(_PEAKS)) / _SPREAD) ** 2).astype(np.float32)
        total += sized[..., None] * shares
        whole += shares
    y, x = np.mgrid[:STAR, :STAR] - (STAR - 1) / 2
    inside = np.clip((1 - np.hypot(x, y) / (STAR / 2)) * 4, 0, 1)
    soft = smooth(inside).astype(np.float32)
    table: NDArray[np.float32] = total / whole * soft[..., None]
    table.flags.writeable = False
    return table
