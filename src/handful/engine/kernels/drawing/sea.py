"""A sea seen from a low camera: how it mirrors the sky, lets a lamp glitter, and shows what is in it.

What is reflected follows Schlick, "An inexpensive BRDF model for physically-based rendering", Computer
Graphics Forum 13(3), 1994, and for waves too small to be seen the mean of Bruneton, Neyret and Holzschuch,
"Real-time realistic ocean lighting", Computer Graphics Forum 29(2), 2010; a lamp glitters where slopes that
are normally spread about those seen throw its light to the eye (Cox and Munk, J. Opt. Soc. Am. 44, 1954).
"""

from __future__ import annotations

import math
from statistics import NormalDist
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along, in_bands
from handful.engine.kernels.fading import fades
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Field = NDArray[np.float32]
Colours = tuple[float, float, float]

_MIRRORS = 0.0204
"""What water reflects of what comes straight down: ((n - 1) / (n + 1))² for n = 1.333."""

_MOST_LOOKS, _LOOKS_AT_MOVES = 4, 32
"""A px far away is looked at in so many places, one behind the other: for its light, and for how far it is moved."""

_LEAST_FACING = 0.02

_SOFT_FOAM = 0.5
"""How softly foam begins, of how much water is pushed together as a rule."""

_LEAST_FOAM = 1e-9
"""Foam that covers less of the water is as this: it is not seen, and less could not be told from none."""

_THIN = 0.7
"""How white what is left of foam is."""

_LEAST_AHEAD = 0.1
"""What is thrown back sideways or to behind is taken to come from so much ahead."""

_FACES = 256
"""Steps of a table of how much is reflected, by how far aside it comes from."""

_SECOND, _TURNED = 0.271, 1.1
"""The waves are laid a second time so much smaller, and turned by so much, so that nothing repeats."""

_THIRD, _TURNED_ON = 0.047, 2.3
"""And foam a third time."""

_LARGE, _SMALL, _FINEST = 0.76, 0.56, 0.33
"""How strong each layer is in what pushes water together: the sum of squares is 1."""

_TORN = 2.2
"""By what power of e the finest tears what is left of foam."""

_AS_NORMAL = 1.702
"""What makes the logistic curve the nearest to the integral of the normal one."""

_FIRST_STRONG, _SECOND_STRONG = 0.8, 0.6
"""How strong each is: their squares are 1."""


class Slopes(NamedTuple):
    """A square of slopes in sizes that halve `(M, 2)`, each with its first row and column once more at its ends: where each
    begins, how wide it is without these, and how much of the square of each slope is lost in it `(L, 2)`."""

    slopes: Field
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    lost: Field


class Finer(NamedTuple):
    """One of the sizes of a square: where it begins, and how wide it is."""

    begins: int
    side: int


class Room(NamedTuple):
    """Room for what is found along a row of a picture."""

    firsts: NDArray[np.int32]
    behind: Field
    first: Field
    second: Field
    third: Field


class Layer(NamedTuple):
    """How a square lies on the water once more: so much smaller, and turned by radians."""

    small: float
    turned: float


class Eye(NamedTuple):
    """The point where the water vanishes, how far off a px is a px, and how many metres above the water it
    all is seen from, in px of the full-size canvas; how many metres the square of slopes is wide."""

    x: float
    y: float
    lens: float
    high: float
    side: float


class Sky(NamedTuple):
    """What is mirrored: light low and high in the sky, light out of the water, a lamp's way (right, up,
    forward), its light, and the variance of slopes that it is as wide as; and how much of what is far is as
    the sky is low down."""

    low: Colours
    high: Colours
    body: Colours
    way: Colours
    lamp: Colours
    wide: float
    mist: float


class Foam(NamedTuple):
    """How much water is pushed together, and how much of it is covered by foam that is left from before, on the square that
    the slopes are on; how much of the water new foam covers, and its light."""

    folds: Slopes
    covers: float
    light: Colours

    def begins(self) -> float:
        """From how much on there is foam."""
        return foam_begins(self.covers) if self.covers > 0 else math.inf


def foam_begins(covers: float) -> float:
    """From how much on water that is pushed together is foam, so that this covers so much of it: what is pushed together
    is spread as a normal curve, and the edge of foam as another."""
    return NormalDist(0, math.sqrt(1 + _SOFT_FOAM**2)).inv_cdf(1 - max(covers, _LEAST_FOAM))


def foam_on(folds: Field, covers: float) -> Field:
    """How much of each place is new foam, where water is pushed together so much."""
    off = (folds - np.float32(foam_begins(covers))) * np.float32(-_AS_NORMAL / _SOFT_FOAM)
    foam: Field = 1 / (1 + np.exp(np.minimum(off, 60)))
    return foam


def sizes_of(slopes: Field) -> Slopes:
    """Slopes `(N, N, 2)` on a square that repeats, N a power of two, in sizes that halve."""
    count = len(slopes).bit_length()
    sides = len(slopes) >> np.arange(count)
    starts = np.concatenate([[0], np.cumsum((sides + 1) ** 2)])
    sizes, squares = np.empty((starts[-1], 2), np.float32), np.empty((count, 2))
    last = slopes
    for k in range(count):
        to = sizes[starts[k] : starts[k + 1]].reshape(sides[k] + 1, -1, 2)
        level = slopes
        if k:
            level = np.empty((sides[k], sides[k], 2), np.float32)
            _halve_rows(0, int(sides[k]), last, level)
        to[:-1, :-1], to[-1, :-1] = level, level[0]
        to[:, -1] = to[:, 0]
        squares[k] = [
            float(np.vdot(part, part)) / part.size for part in (level[..., 0], level[..., 1])
        ]
        last = level
    return Slopes(sizes, starts[:-1], sides, np.maximum(0, squares[0] - squares).astype(np.float32))


def draw_sea(
    slopes: Slopes, foam: Foam | None, eye: Eye, sky: Sky, scale: float, region: Region
) -> Tile:
    """Water from its horizon down, at a scale, on what it covers of a region."""
    shared = _below_horizon(eye, scale, region)
    if shared is None:
        return clear_tile(region)
    picture = blank(shared)
    foam = foam or Foam(slopes, 0.0, (0.0, 0.0, 0.0))
    in_bands(
        _sea_rows,
        shared.height,
        shared.left,
        shared.top,
        scale,
        slopes,
        foam,
        foam.begins(),
        eye,
        sky,
        picture,
    )
    return Tile(picture, shared)


def sea_offsets(slopes: Slopes, eye: Eye, scale: float, region: Region) -> Tile:
    """How far what is mirrored in that water from far off is moved by its waves `(H, W, 2)`, in px of the full size."""
    shared = _below_horizon(eye, scale, region)
    if shared is None:
        return clear_tile(region, "offsets")
    offsets = np.zeros((shared.height, shared.width, 2), np.float32)
    in_bands(_offset_rows, shared.height, shared.left, shared.top, scale, slopes, eye, offsets)
    return Tile(offsets, shared)


def _below_horizon(eye: Eye, scale: float, region: Region) -> Region | None:
    top = math.floor(eye.y * scale)
    shared = Region(region.left, max(region.top, top), region.right, region.bottom)
    return None if shared.empty or shared.height <= 0 else shared


@compiled
def mirrored(facing: float, rough: float) -> float:
    """How much water reflects of what comes from so far aside (the cosine), with waves of so large a
    deviation of slopes that are not seen."""
    steep = math.pow(1.0 - facing, 5.0 * math.exp(-2.69 * rough))
    return _MIRRORS + (1.0 - _MIRRORS) * steep / (1.0 + 22.7 * math.pow(rough, 1.5))


@compiled_along
def _halve_rows(first: int, last: int, finer: Field, level: Field) -> None:
    quarter = np.float32(0.25)
    for y in range(first, last):
        above, below, to = (
            finer[2 * y].reshape(-1),
            finer[2 * y + 1].reshape(-1),
            level[y].reshape(-1),
        )
        for x in range(level.shape[1]):
            for k in range(2):
                n = 4 * x + k
                to[2 * x + k] = quarter * (above[n] + above[n + 2] + below[n] + below[n + 2])


@compiled_along
def _between(
    begins: tuple[float, float],
    step: tuple[float, float],
    size: Finer,
    firsts: NDArray[np.int32],
    behind: Field,
) -> None:
    """Along a row of a picture, from a place of a square in its parts on: the first of the four that each px is between,
    and how far behind it that is across and down `(2, W)`."""
    wide, last = np.int32(size.side + 1), np.int32(size.side - 1)
    begin = np.int32(2 * size.begins)
    u, v = np.float32(begins[0] % size.side), np.float32(begins[1] % size.side)
    du, dv = np.float32(step[0]), np.float32(step[1])
    aside, below = behind[0], behind[1]
    for x in range(firsts.shape[0]):
        far = np.float32(np.int32(x))
        a, b = u + far * du, v + far * dv
        left, top = np.floor(a), np.floor(b)
        aside[x], below[x] = a - left, b - top
        i, j = np.int32(np.int32(left) & last), np.int32(np.int32(top) & last)
        firsts[x] = np.int32(begin + np.int32(2 * np.int32(np.int32(j * wide) + i)))


@compiled
def _take(flat: Field, side: int, firsts: NDArray[np.int32], behind: Field, taken: Field) -> None:
    """The two slopes `(2, W)` straight between the four places about each px."""
    one, two, three, below = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(2 * (side + 1))
    for x in range(firsts.shape[0]):
        i = np.uint64(firsts[x])
        j = i + below
        s, t = behind[0, x], behind[1, x]
        a, b = (
            flat[i] + t * (flat[j] - flat[i]),
            flat[i + one] + t * (flat[j + one] - flat[i + one]),
        )
        c = flat[i + two] + t * (flat[j + two] - flat[i + two])
        d = flat[i + three] + t * (flat[j + three] - flat[i + three])
        taken[0, x], taken[1, x] = a + s * (c - a), b + s * (d - b)


@compiled_along
def _tilt(first: Field, second: Field, tilted: Field) -> None:
    """Both layers of waves as one: the second is turned."""
    strong = np.float32(_FIRST_STRONG)
    turned = np.float32(_SECOND_STRONG * math.cos(_TURNED))
    askew = np.float32(_SECOND_STRONG * math.sin(_TURNED))
    ax, az, bx, bz = first[0], first[1], second[0], second[1]
    across, away = tilted[0], tilted[1]
    for x in range(ax.shape[0]):
        across[x] = strong * ax[x] + turned * bx[x] + askew * bz[x]
        away[x] = strong * az[x] + turned * bz[x] - askew * bx[x]


@compiled
def _take_layer(
    flat: Field,
    size: Finer,
    layer: Layer,
    side: float,
    first_x: float,
    step_x: float,
    z: float,
    room: Room,
    taken: Field,
) -> None:
    """What a square of so many metres holds so far aside and before one along a row, in one of its sizes and layers."""
    by = size.side / (side * layer.small)
    cosine, sine = math.cos(layer.turned) * by, math.sin(layer.turned) * by
    begins = first_x * cosine - z * sine - 0.5, first_x * sine + z * cosine - 0.5
    _between(begins, (step_x * cosine, step_x * sine), size, room.firsts, room.behind)
    _take(flat, size.side, room.firsts, room.behind, taken)


@compiled_along
def _face(
    tilted: Field,
    aside: np.float32,
    step: np.float32,
    below: np.float32,
    lens: np.float32,
    facing: Field,
) -> None:
    """How far what is seen along a row faces one `(W,)`: the cosine. The first is `aside`, and the next a `step` from it."""
    across, away = tilted[0], tilted[1]
    one, least = np.float32(1.0), np.float32(_LEAST_FACING)
    for x in range(facing.shape[0]):
        dx = aside + np.float32(np.int32(x)) * step
        sx, sz = across[x], away[x]
        long = dx * dx + below * below + lens * lens
        size = one + sx * sx + sz * sz
        facing[x] = max(least, (below + sx * dx + sz * lens) / np.sqrt(long * size))


@compiled
def _reflect(facing: Field, shares: Field, reflected: Field) -> None:
    """How much of what they mirror comes from what faces one so far, by a table of that."""
    most = np.float32(_FACES)
    for x in range(facing.shape[0]):
        aside = (np.float32(1.0) - min(np.float32(1.0), facing[x])) * most
        whole = np.uint64(aside)
        share = shares[whole]
        reflected[x] = share + (aside - np.float32(whole)) * (shares[whole + np.uint64(1)] - share)


@compiled_along
def _shine(
    tilted: Field,
    facing: Field,
    reflected: Field,
    aside: np.float32,
    step: np.float32,
    below: np.float32,
    lens: np.float32,
    way: tuple[np.float32, np.float32, np.float32],
    spread: np.float32,
    shines: Field,
) -> None:
    """Add what is seen along a row `(3, W)`: how much of the sky low down, how much more of it as high as is mirrored, and
    how much a lamp glitters."""
    across, away = tilted[0], tilted[1]
    mirrors, highs, glitters = shines[0], shines[1], shines[2]
    one, two, zero = np.float32(1.0), np.float32(2.0), np.float32(0.0)
    flat, most, least = np.float32(0.05), np.float32(30.0), np.float32(1e-4)
    strong = np.float32(1.0 / (8.0 * math.pi)) / spread
    for x in range(facing.shape[0]):
        dx = aside + np.float32(np.int32(x)) * step
        sx, sz, share = across[x], away[x], reflected[x]
        by = one / np.sqrt(dx * dx + below * below + lens * lens)
        down = below * by
        size = one / np.sqrt(one + sx * sx + sz * sz)
        high = min(one, abs(two * facing[x] * size - down))
        mirrors[x] += share
        highs[x] += share * high * (two - high)
        hx, hy, hz = way[0] - dx * by, way[1] + down, way[2] - lens * by
        shown = hy > least
        hy = max(hy, least)
        px, pz = -hx / hy - sx, -hz / hy - sz
        off = min(most, (px * px + pz * pz) / (two * spread))
        shown = shown and off < most
        wide = (hx * hx + hy * hy + hz * hz) / (hy * hy)
        bright = share * fades(off) * strong * wide * wide / max(flat, down)
        glitters[x] += bright if shown else zero


@compiled_along
def _whiten(
    first: Field, second: Field, third: Field, begins: np.float32, soft: np.float32, covers: Field
) -> None:
    """Add how much of each px is foam along a row, from its three layers: where water is pushed together by more than so
    much, and in part where foam is left, which the finest tears. How much of what pushes is not seen makes the edge as soft
    (Dupuy and Bruneton, "Real-time animation and rendering of ocean whitecaps", SIGGRAPH Asia technical briefs 2012)."""
    zero, one, thin, by = (
        np.float32(0.0),
        np.float32(1.0),
        np.float32(_THIN),
        np.float32(_AS_NORMAL) / soft,
    )
    large, small, finest, torn = (
        np.float32(_LARGE),
        np.float32(_SMALL),
        np.float32(_FINEST),
        np.float32(_TORN),
    )
    for x in range(covers.shape[0]):
        lace = third[0, x]
        off = by * (large * first[0, x] + small * second[0, x] + finest * lace - begins)
        far = fades(abs(off))
        fresh = (one if off > zero else far) / (one + far)
        left = first[1, x]
        tear = fades(abs(torn * lace))
        more, less = (left, tear) if lace > zero else (left * tear, one)
        old = thin * more / (more + less * (one - left))
        covers[x] += fresh + old * (one - fresh)


class Row(NamedTuple):
    """What of a water is seen along a row: how far its px are below the horizon, so far off and as deep, in metres, in how
    many looks, and in which sizes of its squares."""

    below: float
    far: float
    deep: float
    looks: int
    level: int
    level2: int
    level3: int


@compiled
def _row_of(
    y: int, top: int, scale: float, eye: Eye, sides: NDArray[np.int64], most_looks: int
) -> Row:
    below = max((y + top + 0.5) / scale - eye.y, 0.25 / scale)
    far = eye.lens * eye.high / below
    across = far / eye.lens / scale
    deep = far * far / (eye.lens * eye.high) / scale
    looks = max(1, min(most_looks, int(deep / across)))
    most, cell = sides.shape[0] - 1, eye.side / sides[0]
    fine = math.log2(max(across, deep / looks) / cell)
    sizes = [
        min(most, int(max(0.0, fine - math.log2(small)) + 0.5)) for small in (1.0, _SECOND, _THIRD)
    ]
    return Row(below, far, deep, looks, sizes[0], sizes[1], sizes[2])


@compiled
def _unseen(row: Row, lost: Field) -> float:
    """The mean square of what is lost of slopes in the sizes that are seen along a row."""
    first, second = lost[row.level], lost[row.level2]
    whole: float = _FIRST_STRONG * _FIRST_STRONG * (first[0] + first[1])
    whole += _SECOND_STRONG * _SECOND_STRONG * (second[0] + second[1])
    return 0.5 * whole


@compiled
def _softened(row: Row, lost: Field) -> np.float32:
    """How softly foam begins along a row: by itself, and for what is not seen of its layers there."""
    square = _SOFT_FOAM * _SOFT_FOAM
    square += _LARGE * _LARGE * lost[row.level, 0] + _SMALL * _SMALL * lost[row.level2, 0]
    return np.float32(math.sqrt(square + _FINEST * _FINEST * lost[row.level3, 0]))


@compiled
def _look(
    n: int,
    row: Row,
    of: Slopes,
    flat: Field,
    aside: float,
    step: float,
    eye: Eye,
    is_laced: bool,
    room: Room,
) -> None:
    """What a square holds in one of the looks along a row, whose first px is so far aside, and the next a step from it: as
    it is, smaller, and once more if it is laced."""
    z = row.far + row.deep * ((n + 0.5) / row.looks - 0.5)
    by = z / eye.lens
    first, on = aside * by, step * by
    size = Finer(of.starts[row.level], of.sides[row.level])
    _take_layer(flat, size, Layer(1.0, 0.0), eye.side, first, on, z, room, room.first)
    size = Finer(of.starts[row.level2], of.sides[row.level2])
    _take_layer(flat, size, Layer(_SECOND, _TURNED), eye.side, first, on, z, room, room.second)
    if is_laced:
        size = Finer(of.starts[row.level3], of.sides[row.level3])
        _take_layer(flat, size, Layer(_THIRD, _TURNED_ON), eye.side, first, on, z, room, room.third)


@compiled
def _room(width: int) -> Room:
    two = (2, width)
    return Room(
        np.empty(width, np.int32), np.empty(two, np.float32), np.empty(two, np.float32), np.empty(two, np.float32),
        np.empty(two, np.float32),
    )  # fmt: skip


@compiled
def _sea_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    scale: float,
    slopes: Slopes,
    foam: Foam,
    begins: float,
    eye: Eye,
    sky: Sky,
    picture: Picture,
) -> None:
    width, room = picture.shape[1], _room(picture.shape[1])
    shares = np.empty(_FACES + 2, np.float32)
    tilted, shines = np.empty((2, width), np.float32), np.empty((3, width), np.float32)
    whites = np.empty(width, np.float32)
    facing, reflected = np.empty(width, np.float32), np.empty(width, np.float32)
    way = np.float32(sky.way[0]), np.float32(sky.way[1]), np.float32(sky.way[2])
    aside, step = (left + 0.5) / scale - eye.x, 1.0 / scale
    flat, flat_folds = slopes.slopes.reshape(-1), foam.folds.slopes.reshape(-1)
    is_white = begins < np.inf
    for y in range(first, last):
        cover = min(1.0, max(0.0, (y + top + 0.5) - eye.y * scale + 0.5))
        row = _row_of(y, top, scale, eye, slopes.sides, _MOST_LOOKS)
        unseen = _unseen(row, slopes.lost)
        for n in range(_FACES + 2):
            shares[n] = mirrored(max(0.0, 1.0 - n / _FACES), math.sqrt(2.0 * unseen))
        mist = sky.mist * row.far / (row.far + 400.0 * eye.high)
        shines[:], whites[:] = np.float32(0.0), np.float32(0.0)
        place = np.float32(aside), np.float32(step), np.float32(row.below), np.float32(eye.lens)
        soft = _softened(row, foam.folds.lost)
        for n in range(row.looks):
            _look(n, row, slopes, flat, aside, step, eye, False, room)
            _tilt(room.first, room.second, tilted)
            _face(tilted, *place, facing)
            _reflect(facing, shares, reflected)
            _shine(tilted, facing, reflected, *place, way, np.float32(unseen + sky.wide), shines)
            if is_white:
                _look(n, row, foam.folds, flat_folds, aside, step, eye, True, room)
                _whiten(room.first, room.second, room.third, np.float32(begins), soft, whites)
        _colour(
            shines,
            whites,
            row.looks,
            np.float32(cover),
            np.float32(mist),
            foam.light,
            sky,
            picture,
            y,
        )


@compiled_along
def _colour(
    shines: Field,
    whites: Field,
    looks: int,
    cover: np.float32,
    mist: np.float32,
    white: Colours,
    sky: Sky,
    picture: Picture,
    y: int,
) -> None:
    """The light of a row of the picture, from what has been added up for it in some looks."""
    share, whole = np.float32(1.0 / looks), np.float32(looks)
    hazy, part = cover * mist, cover * (np.float32(1.0) - mist) * share
    low, high, body = _as_light(sky.low), _as_light(sky.high), _as_light(sky.body)
    lamp, foam, found = _as_light(sky.lamp), _as_light(white), picture[y].reshape(-1)
    for x in range(np.uint64(whites.shape[0])):
        mirrors, highs, glitters = shines[0, x], shines[1, x], shines[2, x]
        within, of_foam = whole - mirrors, share * whites[x]
        bare, covered = part * (np.float32(1.0) - of_foam), part * of_foam * whole
        lower = mirrors - highs
        red = low[0] * lower + high[0] * highs + body[0] * within + lamp[0] * glitters
        green = low[1] * lower + high[1] * highs + body[1] * within + lamp[1] * glitters
        blue = low[2] * lower + high[2] * highs + body[2] * within + lamp[2] * glitters
        i = np.uint64(4) * x
        found[i] = hazy * low[0] + bare * red + covered * foam[0]
        found[i + np.uint64(1)] = hazy * low[1] + bare * green + covered * foam[1]
        found[i + np.uint64(2)] = hazy * low[2] + bare * blue + covered * foam[2]
        found[i + np.uint64(3)] = cover


@compiled
def _as_light(colour: Colours) -> tuple[np.float32, np.float32, np.float32]:
    return np.float32(colour[0]), np.float32(colour[1]), np.float32(colour[2])


@compiled
def _offset_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    scale: float,
    slopes: Slopes,
    eye: Eye,
    offsets: Field,
) -> None:
    width, room = offsets.shape[1], _room(offsets.shape[1])
    tilted, flat = np.empty((2, width), np.float32), slopes.slopes.reshape(-1)
    aside, step = (left + 0.5) / scale - eye.x, 1.0 / scale
    for y in range(first, last):
        row = _row_of(y, top, scale, eye, slopes.sides, _LOOKS_AT_MOVES)
        share = 1.0 / row.looks
        for n in range(row.looks):
            _look(n, row, slopes, flat, aside, step, eye, False, room)
            _tilt(room.first, room.second, tilted)
            for x in range(width):
                dx = aside + x * step
                sx, sz = float(tilted[0, x]), float(tilted[1, x])
                # Twice as much as its way goes into the slope a ray is thrown back.
                twice = 2.0 * (row.below + sx * dx + sz * eye.lens) / (1.0 + sx * sx + sz * sz)
                gone = max(_LEAST_AHEAD * eye.lens, eye.lens - twice * sz)
                across, up = (dx - twice * sx) / gone, (twice - row.below) / gone
                offsets[y, x, 0] += np.float32(share * (eye.lens * across - dx))
                offsets[y, x, 1] += np.float32(share * (row.below - eye.lens * up))
