"""Lines of light as a picture: a hot core and an edge around it."""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.drawing.line import (
    RADIUS_FOR_WIDTH,
    averaged,
    held_by_grid,
    light_lines,
    merged_lines,
    splat_lines,
)
from handful.engine.kernels.forms.curve import Segments
from handful.engine.picture import Matte, Region, Tile, unset

Rgb = tuple[float, float, float]
"""Linear light."""

_MOST_FINER, _BROAD = 16, 2

_HELD_BY = 4.0
"""px across which what is broad looks the same as drawn finer and averaged."""

_WIDE_RADIUS = 6.0
"""px from which on a line looks the same drawn in place as drawn finer and averaged."""


def finer_at(scale: float) -> int:
    """How many times finer than its px a picture is drawn: below full size as fine as full size is,
    and then averaged. Thin lines that lie close have the light there that they have at full size;
    as wide as larger px would have them, they would hide one another."""
    return min(_MOST_FINER, max(1, math.ceil(1 / scale - 1e-6)))


def broad_at(scale: float, thinnest: float) -> int:
    """How many times finer than its px what is at least so many px of the canvas wide is drawn."""
    wanted = max(_BROAD, math.ceil(_HELD_BY / max(thinnest * scale, 1e-6)))
    return min(wanted, finer_at(scale))


def light_of(colour: Rgb, stops: float) -> NDArray[np.float32]:
    """A colour so many stops brighter, as RGB `(3,)`."""
    return np.array(colour, np.float32) * np.float32(2.0**stops)


def with_radius(segments: Segments, scale: float, times: float = 1.0) -> Segments:
    """Segments in px of the full-size canvas as lines at a scale, `times` as wide, with radii that
    the px grid holds in the place of widths."""
    lines = segments.copy()
    lines[:, [0, 1, 4, 5]] *= scale
    for width, light in ((2, 3), (6, 7)):
        lines[:, width], lines[:, light] = held_by_grid(
            np.maximum(lines[:, width], 0.05) * (RADIUS_FOR_WIDTH * times * scale), lines[:, light]
        )
    return lines


def bounds_of(lines: Segments, finer: int) -> Region:
    """The px of the picture that lines `finer` times finer can touch."""
    reach = float(lines[:, [2, 6]].max())
    x, y = lines[:, [0, 4]], lines[:, [1, 5]]
    return Region(
        math.floor((x.min() - reach) / finer),
        math.floor((y.min() - reach) / finer),
        math.ceil((x.max() + reach) / finer) + 1,
        math.ceil((y.max() + reach) / finer) + 1,
    )


class Planes(NamedTuple):
    """Light on a region: what is drawn `finer` times finer than its px, and what is wide enough to
    be drawn in them."""

    fine: Matte
    wide: Matte | None


def planes_of(lines: Segments, region: Region, finer: int) -> Planes:
    """Lines that are `finer` times finer than the region's px, the brighter where they overlap."""
    lines = merged_lines(lines)
    lines[:, [0, 4]] -= region.left * finer
    lines[:, [1, 5]] -= region.top * finer
    is_wide = np.minimum(lines[:, 2], lines[:, 6]) >= _WIDE_RADIUS * finer
    if finer == 1 or not is_wide.any():
        return Planes(_drawn(lines, region.width * finer, region.height * finer), None)
    thin = _drawn(lines[~is_wide], region.width * finer, region.height * finer)
    return Planes(thin, _drawn(averaged(lines[is_wide], finer), region.width, region.height))


def together(planes: Planes, region: Region) -> Matte:
    """Both planes as one in the region's px."""
    plane = planes.fine
    if plane.shape != (region.height, region.width):
        plane = cv2.resize(plane, (region.width, region.height), interpolation=cv2.INTER_AREA)
    if planes.wide is not None:
        np.maximum(plane, planes.wide, out=plane)
    return plane


class Look(NamedTuple):
    """Colours of the core and of the edge around it, and their light in stops."""

    core: Rgb
    edge: Rgb
    core_light: float
    edge_light: float


def lit_picture(core: Planes, edge: Planes | None, look: Look, region: Region) -> Tile:
    """A picture from planes of a core and of the edge around it, if it has one."""
    pixels = unset(region)
    light_lines(
        core.fine,
        core.wide,
        None if edge is None else together(edge, region),
        core.fine.shape[0] // region.height,
        light_of(look.core, look.core_light),
        light_of(look.edge, look.core_light),
        light_of(look.edge, look.edge_light),
        pixels,
    )
    return Tile(pixels, region)


def _drawn(lines: Segments, width: int, height: int) -> Matte:
    plane = np.zeros((height, width), np.float32)
    splat_lines(lines.astype(np.float32), plane)
    return plane
