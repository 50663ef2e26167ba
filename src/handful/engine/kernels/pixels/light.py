"""Small changes of light that several steps share."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import LUMINANCE_WEIGHTS, MOST_LIGHT, Picture, Region, Tile, unset


def above(picture: Picture, threshold: float, knee: float) -> Picture:
    """The picture's light above a luminance, hue kept; below it nothing, and no cover.

    Within half a knee of the threshold it sets in along a parabola that joins both smoothly.
    """
    if threshold == 0 and knee == 0:
        return picture
    bright = np.empty_like(picture)
    in_bands(_keep_rows, picture.shape[0], picture, threshold, knee, bright)
    return bright


def plus(tile: Tile, light: Tile, gain: tuple[float, float, float], region: Region) -> Tile:
    """A picture with light added on a region, each channel by its gain; cover stays as it is."""
    result = unset(region)
    gains = np.array(gain, np.float32)
    in_bands(_plus_rows, region.height, tile.within(region), light.within(region), gains, result)
    return Tile(result, region)


@compiled
def brighten(rows: Picture, gain: np.float32) -> None:
    """Light times a gain, in place; cover as it is."""
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            for c in range(3):
                line[x, c] *= gain


@compiled
def _keep_rows(
    first: int, last: int, picture: Picture, threshold: float, knee: float, bright: Picture
) -> None:
    red, green, blue = LUMINANCE_WEIGHTS
    r, g, b = np.float32(red), np.float32(green), np.float32(blue)
    least, half = np.float32(threshold), np.float32(0.5 * knee)
    bend = np.float32(1.0 / (2.0 * knee) if knee > 0.0 else 0.0)
    zero, nearly = np.float32(0.0), np.float32(1e-9)
    for y in range(first, last):
        row, line = picture[y], bright[y]
        for x in range(row.shape[0]):
            light = r * row[x, 0] + g * row[x, 1] + b * row[x, 2]
            over = light - least
            if abs(over) < half:
                over = (over + half) * (over + half) * bend
            share = max(zero, over) / max(light, nearly)
            for c in range(3):
                line[x, c] = row[x, c] * share
            line[x, 3] = np.float32(0.0)


@compiled
def _plus_rows(
    first: int, last: int, base: Picture, light: Picture, gains: Picture, result: Picture
) -> None:
    most = np.float32(MOST_LIGHT)
    for y in range(first, last):
        row, shine, line = base[y], light[y], result[y]
        for x in range(row.shape[0]):
            for c in range(3):
                line[x, c] = min(most, row[x, c] + shine[x, c] * gains[c])
            line[x, 3] = row[x, 3]
