"""The sRGB transfer functions, IEC 61966-2-1:1999, and colours as people write them."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

BT709_CHROMATICITIES = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""x, y of red, green, blue and white (Rec. ITU-R BT.709-6, item 1.3), as EXR headers want them."""

_HEX = re.compile(r"#[0-9a-fA-F]{6}")


class Colour(NamedTuple):
    """Linear light on BT.709 primaries."""

    red: float
    green: float
    blue: float


def encode_srgb(linear: NDArray[np.floating]) -> NDArray[np.float64]:
    """sRGB signal in [0, 1] from linear light; values outside [0, 1] are clipped to it."""
    clipped = np.clip(np.asarray(linear, np.float64), 0.0, 1.0)
    return np.where(clipped <= 0.0031308, 12.92 * clipped, 1.055 * clipped ** (1 / 2.4) - 0.055)


def decode_srgb(signal: NDArray[np.floating]) -> NDArray[np.float64]:
    """Linear light from an sRGB signal in [0, 1]."""
    value = np.asarray(signal, np.float64)
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


_SLOPE = 1.055 / 2.4
"""Of the sRGB signal at white."""


def as_seen(light: NDArray[np.floating]) -> NDArray[np.float64]:
    """The sRGB signal of linear light, and above white straight on by its slope there."""
    return encode_srgb(light) + np.maximum(np.asarray(light, np.float64) - 1, 0) * _SLOPE


def as_light(signal: NDArray[np.floating]) -> NDArray[np.float64]:
    """The linear light of a signal that `as_seen` gives."""
    value = np.asarray(signal, np.float64)
    return decode_srgb(np.clip(value, 0, 1)) + np.maximum(value - 1, 0) / _SLOPE


def hex_of(colour: Colour) -> str:
    """A colour as `#rrggbb`; light beyond 0 to 1 is held to it."""
    levels = np.round(encode_srgb(np.array(colour)) * 255).astype(int)
    return "#" + "".join(f"{level:02x}" for level in levels)


def is_hex(text: object) -> bool:
    """Whether this is a colour written as `#rrggbb`."""
    return isinstance(text, str) and _HEX.fullmatch(text) is not None


@lru_cache(maxsize=4096)
def colour_from_hex(text: str) -> Colour:
    """Linear light from `#rrggbb`. Raises `ValueError` on anything else."""
    if not is_hex(text):
        raise ValueError(f"{text!r} is not a colour; write it as #rrggbb")
    red, green, blue = decode_srgb(np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0)
    return Colour(float(red), float(green), float(blue))
