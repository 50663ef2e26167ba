"""Bolt: a discharge that grows between two points."""

from __future__ import annotations

import math
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.channel import grow_tree, tilt_for_turn
from handful.engine.kernels.hash import Key, boiling_normal, uniform
from handful.engine.kernels.line import (
    RADIUS_FOR_WIDTH,
    averaged,
    held_by_grid,
    light_lines,
    merged_lines,
    splat_lines,
)
from handful.engine.kinds import At, Source, register, setting
from handful.engine.picture import Matte, Region, Tile, blank, clear_tile
from handful.engine.values import Point

_FINER = 2
"""Below full size lines are drawn twice as fine, so that half size is full size averaged."""

_WIDE_RADIUS = 6.0
"""px from which on a line looks the same drawn in place as drawn finer and averaged."""


@register
class Bolt(Source):
    """A discharge between two points: a forked, crooked channel with a white-hot core.

    The channel is grown by midpoint displacement to the tortuosity measured on natural
    lightning, and forks as Reed and Wyvill describe it ("Visual simulation of lightning",
    SIGGRAPH 1994): branches leave the channel forwards at an angle, shorter, thinner and dimmer.
    """

    family = "electric"
    says = (
        "Strikes from {start} to {end}, far end {far_end}. Turns {wander} at each bend, bends down "
        "to {finest}, boiling {boil}. {branches} branches reach {branch_reach}. {width} wide, "
        "thinning to {thinning}; core {core} at {core_light}, edge {edge} at {edge_light}."
    )

    start: Point = setting([640, 120], unit="px", help="Where it starts.")
    end: Point = setting([1280, 960], unit="px", help="Where it strikes.")
    far_end: Literal["pinned", "free"] = setting(
        "pinned", help="Pinned: it touches its end. Free: it only aims at it."
    )
    wander: float = setting(
        16,
        unit="°",
        least=0,
        most=40,
        help="Mean change of direction along the channel. Natural lightning turns 16°; 0 is straight.",
    )
    finest: float = setting(
        6,
        unit="px",
        least=1,
        most=400,
        usual=(2, 60),
        help="Length of the shortest straight pieces.",
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1.2},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far the shape has changed in place. Let it move to keep it alive.",
    )
    branches: int = setting(7, least=0, most=24, help="Branches that leave the main channel.")
    branch_reach: float = setting(
        35, unit="%", least=0, most=100, help="Length of a branch, of the channel it leaves."
    )
    branch_angle: float = setting(
        32, unit="°", least=0, most=90, help="Angle at which a branch leaves its channel."
    )
    forks: int = setting(2, least=0, most=2, help="How often branches branch again.")
    width: float = setting(
        2.5,
        unit="px",
        least=0.5,
        most=200,
        usual=(1, 40),
        help="Width of the core at half its light.",
    )
    thinning: float = setting(
        60, unit="%", least=0, most=100, help="Width at the far end, of the width at the start."
    )
    core: Colour = setting("#ffffff", help="Colour of the core. White looks hot.")
    core_light: float = setting(
        3,
        unit="stops",
        least=-10,
        most=12,
        usual=(-2, 8),
        help="Brightness of the core above white.",
    )
    edge: Colour = setting(
        "#9fc3ff", help="Colour of the light around the core, and of a core that fades."
    )
    edge_light: float = setting(
        -1,
        unit="stops",
        least=-10,
        most=12,
        usual=(-6, 4),
        help="Brightness of the edge around the core.",
    )
    edge_width: float = setting(
        3.2, unit="× width", least=1, most=12, help="How wide the edge is, against the core."
    )
    uneven: float = setting(
        35, unit="%", least=0, most=100, help="How much the brightness varies along the channel."
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, another shape.")

    def segments(self, at: At) -> NDArray[np.float64]:
        """The channel and its branches `(N, 8)`: x, y, width, light at both ends of each piece,
        in px of the full-size canvas."""
        key = at.key("bolt", self.seed)
        end = self.end if self.far_end == "pinned" else _led_astray(key, self)
        return grow_tree(
            *key,
            np.array([*self.start, *end]),
            self.finest,
            tilt_for_turn(math.radians(self.wander)),
            self.boil,
            np.array([self.width, self.width * self.thinning / 100]),
            self.branches,
            self.branch_reach / 100,
            math.radians(self.branch_angle),
            self.forks,
            self.uneven / 100,
        )

    def draw(self, at: At) -> Tile:
        finer = 1 if at.scale >= 1 else _FINER
        segments = self.segments(at)
        segments[:, [0, 1, 4, 5]] *= at.scale * finer
        core = _with_radius(segments, RADIUS_FOR_WIDTH * at.scale * finer)
        edge = _with_radius(segments, RADIUS_FOR_WIDTH * self.edge_width * at.scale * finer)
        region = _bounds(edge, finer).meet(at.wanted)
        if region.empty:
            return clear_tile(at.wanted)
        pixels = blank(region)
        light_lines(
            _plane(core, region, finer),
            _plane(edge, region, finer),
            _light(self.core, self.core_light),
            _light(self.edge, self.core_light),
            _light(self.edge, self.edge_light),
            pixels,
        )
        return Tile(pixels, region)


def _light(colour: Colour, stops: float) -> NDArray[np.float32]:
    return np.array(colour, np.float32) * np.float32(2.0**stops)


def _led_astray(key: Key, bolt: Bolt) -> Point:
    """A free end: short of the point aimed at, and off its direction by a slowly boiling angle."""
    dx, dy = bolt.end.x - bolt.start.x, bolt.end.y - bolt.start.y
    turned = math.atan2(dy, dx) + 0.16 * boiling_normal(*key, 0, 22, 0.35 * bolt.boil)
    length = math.hypot(dx, dy) * (0.75 + 0.25 * uniform(*key, 0, 21))
    return Point(bolt.start.x + length * math.cos(turned), bolt.start.y + length * math.sin(turned))


def _with_radius(segments: NDArray[np.float64], radius_for_width: float) -> NDArray[np.float64]:
    """The segments with widths turned into radii that the px grid holds."""
    lines = segments.copy()
    for width, light in ((2, 3), (6, 7)):
        lines[:, width], lines[:, light] = held_by_grid(
            np.maximum(lines[:, width], 0.05) * radius_for_width, lines[:, light]
        )
    return lines


def _bounds(lines: NDArray[np.float64], finer: int) -> Region:
    reach = float(lines[:, [2, 6]].max())
    x, y = lines[:, [0, 4]], lines[:, [1, 5]]
    return Region(
        math.floor((x.min() - reach) / finer),
        math.floor((y.min() - reach) / finer),
        math.ceil((x.max() + reach) / finer) + 1,
        math.ceil((y.max() + reach) / finer) + 1,
    )


def _plane(lines: NDArray[np.float64], region: Region, finer: int) -> Matte:
    """The lines drawn `finer` times finer than the region's px, and averaged down to them.

    What is wide enough to need no averaging is drawn in the region's own px.
    """
    lines = merged_lines(lines)
    lines[:, [0, 4]] -= region.left * finer
    lines[:, [1, 5]] -= region.top * finer
    if finer == 1:
        return _drawn(lines, region.width, region.height)
    is_wide = np.minimum(lines[:, 2], lines[:, 6]) >= _WIDE_RADIUS * finer
    thin = _drawn(lines[~is_wide], region.width * finer, region.height * finer)
    plane: Matte = cv2.resize(thin, (region.width, region.height), interpolation=cv2.INTER_AREA)
    if is_wide.any():
        wide = averaged(lines[is_wide], finer)
        np.maximum(plane, _drawn(wide, region.width, region.height), out=plane)
    return plane


def _drawn(lines: NDArray[np.float64], width: int, height: int) -> Matte:
    plane = np.zeros((height, width), np.float32)
    splat_lines(lines.astype(np.float32), plane)
    return plane
