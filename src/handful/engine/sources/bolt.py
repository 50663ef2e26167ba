"""Bolt: a discharge that grows between two points."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.channel import MOST_LEVELS, grow_channel, tilt_for_turn
from handful.engine.kernels.hash import Key, boiling_normal, key_for, uniform
from handful.engine.kernels.line import RADIUS_FOR_WIDTH, held_by_grid, light_lines, splat_lines
from handful.engine.kinds import At, Source, register, setting
from handful.engine.picture import Region, Tile, blank, clear_tile
from handful.engine.values import Point

_LEAST_PIECES = 4


class Channel(NamedTuple):
    """One channel: vertices `(n + 1, 2)`, and at each its width in px and its light from 0 to 1."""

    points: NDArray[np.float64]
    widths: NDArray[np.float64]
    light: NDArray[np.float64]


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
        6, unit="px", least=1, most=400, usual=(2, 60), help="Length of the shortest straight pieces."
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
        2.5, unit="px", least=0.5, most=200, usual=(1, 40), help="Width of the core at half its light."
    )
    thinning: float = setting(
        60, unit="%", least=0, most=100, help="Width at the far end, of the width at the start."
    )
    core: Colour = setting("#ffffff", help="Colour of the core. White looks hot.")
    core_light: float = setting(
        3, unit="stops", least=-10, most=12, usual=(-2, 8), help="Brightness of the core above white."
    )
    edge: Colour = setting("#9fc3ff", help="Colour of the light around the core.")
    edge_light: float = setting(
        -1, unit="stops", least=-10, most=12, usual=(-6, 4), help="Brightness of the edge around the core."
    )
    edge_width: float = setting(
        3.2, unit="× width", least=1, most=12, help="How wide the edge is, against the core."
    )
    uneven: float = setting(
        35, unit="%", least=0, most=100, help="How much the brightness varies along the channel."
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, another shape.")

    def channels(self, at: At) -> list[Channel]:
        """The main channel, then its branches, in px of the full-size canvas."""
        key = at.key("bolt", self.seed)
        length = math.dist(self.start, self.end)
        end = self.end
        if self.far_end == "free":
            end = _led_astray(key, self.start, math.atan2(end.y - self.start.y, end.x - self.start.x),
                              length * (0.75 + 0.25 * uniform(*key, 0, 21)), 0.16, self.boil)
        thin = self.thinning / 100
        main = self._grown(key, self.start, end, (self.width, self.width * thin), (1.0, 1.0))
        return [main, *self._branches(key, main, self.branches, 1)]

    def _grown(
        self,
        key: Key,
        start: Point,
        end: Point,
        width: tuple[float, float],
        light: tuple[float, float],
    ) -> Channel:
        length = math.dist(start, end)
        levels = min(float(MOST_LEVELS), max(1.0, math.log2(max(length, 1.0) / self.finest)))
        tilt = tilt_for_turn(math.radians(self.wander))
        points = grow_channel(*key, *start, *end, levels, tilt, self.boil)
        along = np.linspace(0.0, 1.0, len(points))
        pulse = _unevenness(key, along, length, self.boil)
        return Channel(
            points,
            width[0] + (width[1] - width[0]) * along,
            (light[0] + (light[1] - light[0]) * along) * (1 - self.uneven / 100 * pulse),
        )

    def _branches(self, key: Key, parent: Channel, count: int, depth: int) -> Iterator[Channel]:
        pieces = len(parent.points) - 1
        if count == 0 or pieces < _LEAST_PIECES:
            return
        length = math.dist(parent.points[0], parent.points[-1])
        for i in range(count):
            own = key_for(*key, "branch", i)
            draw = [uniform(*own, j, 11) for j in range(5)]
            place = 0.06 + 0.82 * (i + draw[0]) / count
            index = min(pieces - 1, max(1, round(place * pieces)))
            span = max(1, pieces // 8)
            behind = parent.points[max(0, index - span)]
            ahead = parent.points[min(pieces, index + span)]
            heading = math.atan2(ahead[1] - behind[1], ahead[0] - behind[0])
            side = 1 if draw[1] < 0.5 else -1
            angle = heading + side * math.radians(self.branch_angle) * (0.65 + 0.7 * draw[2])
            reach = length * self.branch_reach / 100 * (0.3 + 0.9 * draw[3] ** 1.5) * (1.1 - 0.6 * place)
            if reach < 2 * self.finest:
                continue
            start = Point(*parent.points[index])
            end = _led_astray(own, start, angle, reach, 0.12, self.boil)
            width = float(parent.widths[index]) * (0.45 + 0.2 * draw[4])
            light = float(parent.light[index]) * (0.5 + 0.25 * draw[4])
            branch = self._grown(own, start, end, (width, width * 0.35), (light, light * 0.12))
            yield branch
            if depth <= self.forks:
                yield from self._branches(own, branch, max(1, count // 2), depth + 1)

    def draw(self, at: At) -> Tile:
        segments = _segments(self.channels(at), at.scale)
        core = _with_radius(segments, RADIUS_FOR_WIDTH * at.scale)
        edge = _with_radius(segments, RADIUS_FOR_WIDTH * self.edge_width * at.scale)
        region = _bounds(edge).meet(at.wanted)
        if region.empty:
            return clear_tile(at.wanted)
        planes = [np.zeros((region.height, region.width), np.float32) for _ in range(2)]
        for plane, lines in zip(planes, (core, edge), strict=True):
            splat_lines(_moved(lines, region), plane)
        pixels = blank(region)
        light_lines(
            *planes, _light(self.core, self.core_light), _light(self.edge, self.edge_light), pixels
        )
        return Tile(pixels, region)


def _light(colour: Colour, stops: float) -> NDArray[np.float32]:
    return np.array(colour, np.float32) * np.float32(2.0**stops)


def _led_astray(
    key: Key, start: Point, heading: float, length: float, spread: float, phase: float
) -> Point:
    """A free end: off the heading by a slowly boiling angle of deviation `spread` radians."""
    turned = heading + spread * boiling_normal(*key, 0, 22, 0.35 * phase)
    return Point(start.x + length * math.cos(turned), start.y + length * math.sin(turned))


def _unevenness(
    key: Key, along: NDArray[np.float64], length: float, phase: float
) -> NDArray[np.float64]:
    """Smooth dips from 0 to 1 along a channel, one for about every 90 px, boiling with it."""
    knots = 3 + int(min(length, 20000) // 90)
    heights = [boiling_normal(*key, i, 23, 2.0 * phase + uniform(*key, i, 24)) for i in range(knots)]
    dips = 0.5 - 0.5 * np.tanh(np.interp(along * (knots - 1), np.arange(knots), heights))
    return np.asarray(dips, np.float64)


def _segments(channels: list[Channel], scale: float) -> NDArray[np.float64]:
    """Rows x, y, width, light at one end then at the other; places in px of the scaled canvas."""
    rows = []
    for points, widths, light in channels:
        ends = np.column_stack([points * scale, widths, light])
        rows.append(np.hstack([ends[:-1], ends[1:]]))
    return np.vstack(rows)


def _with_radius(segments: NDArray[np.float64], radius_for_width: float) -> NDArray[np.float64]:
    """The segments with widths turned into radii that the px grid holds."""
    lines = segments.copy()
    for width, light in ((2, 3), (6, 7)):
        lines[:, width], lines[:, light] = held_by_grid(
            np.maximum(lines[:, width], 0.05) * radius_for_width, lines[:, light]
        )
    return lines


def _bounds(lines: NDArray[np.float64]) -> Region:
    reach = float(lines[:, [2, 6]].max())
    x, y = lines[:, [0, 4]], lines[:, [1, 5]]
    return Region(
        math.floor(x.min() - reach),
        math.floor(y.min() - reach),
        math.ceil(x.max() + reach) + 1,
        math.ceil(y.max() + reach) + 1,
    )


def _moved(lines: NDArray[np.float64], region: Region) -> NDArray[np.float32]:
    moved = lines - np.array([region.left, region.top, 0, 0] * 2)
    return moved.astype(np.float32)
