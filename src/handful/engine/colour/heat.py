"""Light of what glows by its heat, from dull red to white."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.temperature import colour_of

COLDEST, HOTTEST = 600.0, 6000.0
_LEAST_KNOWN = 1667.0
STEP_OF_TABLE = 10.0
_SECOND = 14_388.0 / 0.555
"""Planck's second radiation constant in µm K, over the wavelength that eyes see best."""


def heat_table(reference: float) -> NDArray[np.float32]:
    """RGB `(N, 3)` of a black body from `COLDEST` to `HOTTEST` in steps of 10 K, whose luminance is 1 at a
    reference temperature and goes by Wien's law.

    Below what chromaticities are published for, green and blue fade on at Wien's rate for 550 and 470
    nm beside red's 620.
    """
    kelvins = np.arange(COLDEST, HOTTEST + STEP_OF_TABLE, STEP_OF_TABLE)
    wien = np.exp(_SECOND / reference - _SECOND / kelvins)
    return (_colours() * wien[:, None]).astype(np.float32)


@cache
def _colours() -> NDArray[np.float64]:
    """Colours of luminance 1."""
    kelvins = np.arange(COLDEST, HOTTEST + STEP_OF_TABLE, STEP_OF_TABLE)
    edge = np.array(colour_of(_LEAST_KNOWN))
    rows = []
    for kelvin in kelvins:
        if kelvin >= _LEAST_KNOWN:
            rows.append(np.array(colour_of(kelvin)))
            continue
        more = 1 / kelvin - 1 / _LEAST_KNOWN
        faded = np.exp(-14_388.0 * more * (1 / np.array([0.62, 0.55, 0.47]) - 1 / 0.62))
        rows.append(edge * faded)
    colours = np.array(rows)
    luminance = colours @ np.array([0.2126, 0.7152, 0.0722])
    return np.asarray(colours / luminance[:, None])


def heat_of(kelvins: NDArray[np.float64], table: NDArray[np.float32]) -> NDArray[np.float32]:
    """RGB `(N, 3)` of temperatures `(N,)`, from a table."""
    place = np.clip((kelvins - COLDEST) / STEP_OF_TABLE, 0, len(table) - 1.001)
    low = place.astype(np.int64)
    part = (place - low)[:, None]
    found: NDArray[np.float32] = (table[low] * (1 - part) + table[low + 1] * part).astype(
        np.float32
    )
    return found
