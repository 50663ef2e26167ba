"""Reveal: the picture comes or goes as a front passes over it."""

from __future__ import annotations

import math
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.chance.patterns import Laid, Octaves, Warping, pattern_on
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.easing import smooth
from handful.engine.kinds import At, LayerId, Step, clockwise, register, setting
from handful.engine.picture import Matte, Picture, Region, Tile, clear_tile, luminance, unset
from handful.engine.values import Point


@register
class Reveal(Step):
    """The picture comes, or goes, as a front of noise or of another layer's brightness passes over it.

    The front may run from a side, from a point, or in from the edge of a body. Behind it lies a band
    that glows and one that is charred; before it bits of the picture come loose and drift off.
    """

    family = "matte"
    says = (
        "Shows {shown}, by {noise} of noise in waves of {size} and else {way} at {at}, {direction} on, "
        "of the body {body}, or by the layer {by}. Its front is {softness} soft; behind it {band} glows "
        "in {colour} at {light}, and as much is charred by {char}. {bits} of it comes loose in bits of "
        "{bit_size} that drift {drift}. Seed {seed}."
    )
    example = {"shown": 50}

    shown: float = setting(
        {"moves": "rate", "start": 0, "per_second": 66.7, "since": "layer"},
        unit="%",
        least=0,
        most=100,
        help="How much shows, from nothing to all. About a second and a half is common.",
    )
    noise: float = setting(
        60, unit="%", least=0, most=100, help="How much noise decides, and not the way."
    )
    size: float = setting(
        180, unit="px", least=4, most=20000, usual=(20, 1000), help="Size of that noise's waves."
    )
    way: Literal["from a side", "from a point", "from the edge", "to the edge"] = setting(
        "from a side", help="Where the front comes from: a side, a point, or the edge of a body."
    )
    at: Point = setting([960, 540], unit="px", help="The point that it comes from.")
    direction: float = clockwise(0, about="at", help="Where it goes to, from a side.")
    body: LayerId = setting(
        "", help="Whose cover has the edge; the picture's own if none is named."
    )
    by: LayerId = setting(
        "", help="A layer whose brightness decides in the place of noise, dark first."
    )
    softness: float = setting(
        4, unit="%", least=0, most=100, help="How soft the front is, of the whole way."
    )
    band: float = setting(
        5, unit="%", least=0, most=50, usual=(0, 20), help="How wide the glow is, of the whole way."
    )
    colour: Colour = setting("#ff8a2a", help="Colour of the glow.")
    light: float = setting(
        2, unit="stops", least=-12, most=12, usual=(-4, 6), help="How bright it glows."
    )
    char: float = setting(60, unit="%", least=0, most=100, help="How dark it is behind the glow.")
    bits: float = setting(0, unit="%", least=0, most=100, help="How much of it comes loose.")
    bit_size: float = setting(
        14, unit="px", least=2, most=1000, usual=(2, 80), help="Size of the bits."
    )
    drift: Point = setting(
        [60, -140], unit="px", elsewhere=True, help="How far they drift until they are gone."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed, another front."
    )

    def needs(self, wanted: Region, at: At) -> Region:
        around = self._flown(wanted, at, -1)
        return around.around(at.canvas) if self._is_about_a_body() else around

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        wanted = self._flown(tile.region, at, 1).meet(at.wanted)
        if wanted.empty or self.shown <= 0:
            return clear_tile(wanted)
        if self.shown >= 100:
            return Tile(tile.within(wanted), wanted)
        region = self._flown(wanted, at, -1)
        body = self._named(others, self.body) or tile
        when = self._when(region, at, body, self._named(others, self.by))
        soft, band = self.softness / 100, self.band / 100
        front = self.shown / 100 * (1 + soft + 2 * band) - soft / 2
        result = unset(wanted)
        top, left = wanted.top - region.top, wanted.left - region.left
        source = np.ascontiguousarray(tile.within(region))
        in_bands(
            _reveal_rows, wanted.height, source, when, top, left, np.float32(front),
            np.float32(max(soft, 1e-3)), np.float32(band), light_of(self.colour, self.light),
            np.float32(self.char / 100), result,
        )  # fmt: skip
        if self.bits > 0:
            drift = np.array(self.drift) * at.scale
            glow = light_of(self.colour, self.light) * np.float32(band > 0)
            flakes = _flying(
                when, region.left, region.top, front - soft / 2, self.bits / 100,
                max(1.0, self.bit_size * at.scale), drift, *at.key("bits", self.seed),
            )  # fmt: skip
            in_bands(_lay_rows, wanted.height, source, flakes, left, top, glow, result)
        return Tile(result, wanted)

    def _flown(self, region: Region, at: At, way: int) -> Region:
        """Where bits of a region drift to, or with a `way` of -1 where those that are in it come from."""
        if self.bits == 0:
            return region
        x, y = (way * _FASTEST * at.scale * part for part in self.drift)
        aside = _ASIDE * math.hypot(x, y) + _LARGEST * max(1.0, self.bit_size * at.scale) + 2
        return Region(
            region.left + math.floor(min(0.0, x) - aside),
            region.top + math.floor(min(0.0, y) - aside),
            region.right + math.ceil(max(0.0, x) + aside),
            region.bottom + math.ceil(max(0.0, y) + aside),
        )

    def _is_about_a_body(self) -> bool:
        return self.way in ("from the edge", "to the edge") and self.noise < 100

    def _named(self, others: tuple[Tile, ...], layer: str) -> Tile | None:
        """The picture of a named layer, if it is named and there."""
        names = [str(name) for name in (self.body, self.by) if name]
        return others[names.index(layer)] if layer and len(others) == len(names) else None

    def _when(self, region: Region, at: At, body: Tile, by: Tile | None) -> Matte:
        """When the front comes to each px, from 0 to 1 of the whole way."""
        if by is not None:
            chance = np.clip(luminance(by.within(region)), 0, 1).astype(np.float32)
        else:
            waves = Octaves(4, 0.5, 2.0, 0.6, 0.5, 0, (0.0, 0.0), 1.0)
            laid = Laid("flat", (0.0, 0.0), (self.size, self.size), 0.0, 1.0, 1)
            key = at.key("reveal", self.seed)
            still = Warping(0, 0.0)
            field = pattern_on(region, at.scale, "gradient", waves, laid, still, 0.0, (key,))
            chance = np.ascontiguousarray(field[..., 0])
            in_bands(_even_rows, region.height, chance, _EVEN)
        share = np.float32(self.noise / 100)
        if self._is_about_a_body():
            way = self._inward(body.within(region))
            in_bands(_weigh_rows, region.height, chance, share, way)
        elif self.noise < 100:
            in_bands(
                _lead_rows, region.height, region.left, region.top, self._runs(at), share, chance
            )
        return chance

    def _inward(self, body: Picture) -> Matte:
        """How far from a body's edge each px is, from 0 to 1, or how near it."""
        cover = (body[..., 3] > 0.5).astype(np.uint8)
        inward = cv2.distanceTransform(cover, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        inward /= max(1.0, float(inward.max()))
        way: Matte = inward if self.way == "from the edge" else 1 - inward
        return way

    def _runs(self, at: At) -> tuple[float, float, float, float, float]:
        """Of a front from a side, whither it goes and where it begins and ends along that; of one from a
        point no direction, that point, and how far it goes."""
        canvas = at.canvas
        if self.way == "from a point":
            x, y = self.at.x * at.scale, self.at.y * at.scale
            return 0.0, 0.0, x, y, canvas.farthest_from(x, y)
        cosine, sine = (
            math.cos(math.radians(self.direction)),
            math.sin(math.radians(self.direction)),
        )
        ends = [
            x * cosine + y * sine
            for x in (canvas.left, canvas.right)
            for y in (canvas.top, canvas.bottom)
        ]
        return cosine, sine, min(ends), 0.0, max(ends) - min(ends)


_FASTEST = 1.5
"""So many times as far as is set the quickest bits drift."""

_ASIDE = 0.25
"""Part of the way that bits drift aside at most."""

_LARGEST = 0.9
"""Radius of the largest bits, of the size that is set."""

_LOOSE_FOR = 0.22
"""Part of the whole way for which a bit is on its way before the front comes to it, or after."""


_EVEN_FROM, _EVEN_EACH = -1.75, 1024
_EVEN = np.array(
    [0.5 * math.erfc(-3.0 * (_EVEN_FROM + i / _EVEN_EACH) / math.sqrt(2.0)) for i in range(3585)],
    np.float32,
)
"""Of noise with a deviation of a third, how much is less: so many entries for each 1, from some level."""


@compiled
def _even_rows(first: int, last: int, field: Matte, even: NDArray[np.float32]) -> None:
    """Noise as shares from 0 to 1 that are all as common."""
    end = np.float32(even.shape[0] - 1.001)
    for y in range(first, last):
        for x in range(field.shape[1]):
            place = (field[y, x] - np.float32(_EVEN_FROM)) * np.float32(_EVEN_EACH)
            place = min(end, max(np.float32(0.0), place))
            i = np.int32(place)
            field[y, x] = even[i] + (place - np.float32(i)) * (even[i + 1] - even[i])


@compiled
def _weigh_rows(first: int, last: int, chance: Matte, share: np.float32, way: Matte) -> None:
    """Chance, as much as its share says, and the way."""
    for y in range(first, last):
        for x in range(chance.shape[1]):
            chance[y, x] = share * chance[y, x] + (np.float32(1.0) - share) * way[y, x]


@compiled
def _lead_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    runs: tuple[float, float, float, float, float],
    share: np.float32,
    chance: Matte,
) -> None:
    """Chance, as much as its share says, and how far along its way a front is at each px, from 0 to 1."""
    cosine, sine, x0, y0, far = runs
    is_straight = cosine != 0.0 or sine != 0.0
    for y in range(first, last):
        down = y + top + 0.5 - y0
        for x in range(chance.shape[1]):
            across = x + left + 0.5
            if is_straight:
                way = (across * cosine + down * sine - x0) / far
            else:
                way = math.sqrt((across - x0) ** 2 + down * down) / far
            held = np.float32(min(1.0, max(0.0, way)))
            chance[y, x] = share * chance[y, x] + (np.float32(1.0) - share) * held


@compiled
def _reveal_rows(
    first: int,
    last: int,
    source: Picture,
    when: Matte,
    top: int,
    left: int,
    front: np.float32,
    soft: np.float32,
    band: np.float32,
    colour: NDArray[np.float32],
    char: np.float32,
    result: Picture,
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    for y in range(first, last):
        for x in range(result.shape[1]):
            px = source[y + top, x + left]
            past = front - when[y + top, x + left]
            shows = np.float32(smooth(min(one, max(zero, past / soft + half))))
            glow, kept = zero, one
            if band > zero:
                near = min(one, max(zero, one - past / band))
                glow = near * near
                kept = one - char * min(one, max(zero, np.float32(2.0) - past / band))
            there = max(px[3], min(one, max(px[0], max(px[1], px[2]))))
            for c in range(3):
                result[y, x, c] = shows * (px[c] * kept + there * glow * colour[c])
            result[y, x, 3] = shows * px[3]


@compiled
def _flying(
    when: Matte,
    region_left: int,
    region_top: int,
    front: float,
    share: float,
    size: float,
    drift: NDArray[np.float64],
    k0: int,
    k1: int,
) -> NDArray[np.float64]:
    """The bits that are on their way, each a flake that turns over as it drifts: whence and where to in px
    of the region, radius, turn, how it stands, how far on its way it is, and how much it still glows. They
    lie on the canvas, one in each square of their size."""
    height, width = when.shape
    row, column = int(np.floor(region_top / size)), int(np.floor(region_left / size))
    rows = int(np.ceil((region_top + height) / size)) - row
    columns = int(np.ceil((region_left + width) / size)) - column
    found = np.empty((max(0, rows * columns), 9))
    count = 0
    for j in range(row, row + rows):
        for i in range(column, column + columns):
            a, b = hashed(i, j, 0, k0, k1)
            x, y = (i + a * _SHARE) * size - region_left, (j + b * _SHARE) * size - region_top
            if x < 0.0 or y < 0.0 or x >= width or y >= height:
                continue
            on = (when[int(y), int(x)] - front) / _LOOSE_FOR
            if on <= 0.0 or on >= 1.0:
                continue
            c, d = hashed(i, j, 1, k0, k1)
            if c * _SHARE > share:
                continue
            chance = d * _SHARE
            pace = 0.4 + (_FASTEST - 0.6) * chance
            aside = _ASIDE * math.sin(5.0 * on + 40.0 * chance) * on
            flake = found[count]
            flake[0], flake[1] = x, y
            flake[2] = x + drift[0] * pace * on**1.4 - drift[1] * aside
            flake[3] = y + drift[1] * pace * on**1.4 + drift[0] * aside
            flake[4] = (
                _LARGEST * size * math.sqrt(1.0 - on) * (0.38 + 0.62 * ((a ^ d) & 255) / 255.0)
            )
            flake[5] = 20.0 * chance + 3.0 * on
            flake[6] = math.cos(9.0 * on * (0.4 + chance) + 30.0 * chance)
            flake[7] = on
            flake[8] = (1.0 - on) ** 4
            count += 1
    return found[:count]


@compiled
def _lay_rows(
    first: int,
    last: int,
    source: Picture,
    flakes: NDArray[np.float64],
    left: int,
    top: int,
    glow: NDArray[np.float32],
    result: Picture,
) -> None:
    """Flakes over some rows of what shows, each as thin as it stands."""
    zero, one = np.float32(0.0), np.float32(1.0)
    for n in range(flakes.shape[0]):
        x, y, to_x, to_y, radius, turn, stands, on, ember = flakes[n]
        to_x, to_y = to_x - left, to_y - top
        reach = max(radius, 0.7)
        low, high = max(first, int(to_y - reach - 1)), min(last, int(to_y + reach + 2))
        begin, end = max(0, int(to_x - reach - 1)), min(result.shape[1], int(to_x + reach + 2))
        if high <= low or end <= begin:
            continue
        thin = max(abs(stands), 0.2)
        faint = (radius / reach) ** 2 * min(1.0, 3.0 * (1.0 - on))
        lit, ash = np.float32(0.55 + 0.45 * abs(stands)), np.float32(ember)
        cosine, sine = math.cos(turn), math.sin(turn)
        for v in range(low, high):
            for u in range(begin, end):
                dx, dy = u + 0.5 - to_x, v + 0.5 - to_y
                p, q = (dx * cosine + dy * sine) / thin, dy * cosine - dx * sine
                away = math.sqrt(p * p + q * q)
                # The edge has three corners: the cosine of three times the angle, and a turn.
                ahead, beside = p / max(away, 1e-9), q / max(away, 1e-9)
                thrice = cosine * ahead * (4.0 * ahead * ahead - 3.0)
                thrice -= sine * beside * (3.0 - 4.0 * beside * beside)
                edge = reach * (0.78 + 0.22 * thrice)
                there = np.float32(min(1.0, max(0.0, (edge - away) * thin + 0.5)) * faint)
                if there <= zero:
                    continue
                m = min(source.shape[0] - 1, max(0, int(y + q)))
                k = min(source.shape[1] - 1, max(0, int(x + p)))
                cover = source[m, k, 3] * there
                kept = one - cover
                for c in range(3):
                    light = source[m, k, c] * lit + source[m, k, 3] * glow[c] * ash
                    result[v, u, c] = result[v, u, c] * kept + light * there
                result[v, u, 3] = result[v, u, 3] * kept + cover


_SHARE = 1.0 / 4294967296.0
