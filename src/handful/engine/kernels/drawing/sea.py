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
from handful.engine.kernels.drawing.squares import (
    FIRST_STRONG,
    SECOND,
    SECOND_STRONG,
    THIRD,
    TURNED,
    TURNED_ON,
    Along,
    Eye,
    Field,
    Finer,
    Layer,
    Reach,
    Slopes,
    find,
    reach_number,
    reach_of,
    take,
)
from handful.engine.kernels.drawing.standing import (
    LEAST_BELOW,
    Heights,
    Stood,
    mend_cuts,
    rises,
    stood_up,
)
from handful.engine.kernels.fading import fades
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

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

_LARGE, _SMALL, _FINEST = 0.76, 0.56, 0.33
"""How strong each layer is in what pushes water together: the sum of squares is 1."""

_TORN = 2.2
"""By what power of e the finest tears what is left of foam."""

_AS_NORMAL = 1.702
"""What makes the logistic curve the nearest to the integral of the normal one."""


class Room(NamedTuple):
    """Room for what is found along a part of a row of a picture, and how far off each of its px is and how deep what that
    shows."""

    firsts: NDArray[np.int32]
    behind: Field
    first: Field
    second: Field
    third: Field
    tilted: Field
    shines: Field
    whites: Field
    facing: Field
    reflected: Field
    looked: Field
    fars: Field
    deeps: Field


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


class Water(NamedTuple):
    """A square of water at a moment: how it slopes, and how high it is."""

    slopes: Slopes
    heights: Heights


def draw_sea(
    water: Water, foam: Foam | None, eye: Eye, sky: Sky, scale: float, region: Region
) -> Tile:
    """Water from its horizon and the crests above it down, at a scale, on what it covers of a region."""
    shared, around = _covered(water, eye, scale, region)
    if shared.empty:
        return clear_tile(region)
    stood = stood_up(water.heights, eye, scale, around)
    foam = foam or Foam(water.slopes, 0.0, (0.0, 0.0, 0.0))
    nearest, shares = _reflected_by(water.slopes, eye, scale, stood)
    picture = blank(around)
    in_bands(
        _sea_rows, around.height, around.left, around.top, scale, water.slopes, foam, foam.begins(),
        eye, sky, stood, nearest, shares, picture,
    )  # fmt: skip
    mend_cuts(picture, stood)
    return Tile(picture[1:-1], shared)


def sea_offsets(water: Water, eye: Eye, scale: float, region: Region) -> Tile:
    """How far what is mirrored in that water from far off is moved by its waves `(H, W, 2)`, in px of the full size."""
    shared, around = _covered(water, eye, scale, region)
    if shared.empty:
        return clear_tile(region, "offsets")
    stood = stood_up(water.heights, eye, scale, around)
    offsets = np.zeros((around.height, around.width, 2), np.float32)
    in_bands(
        _offset_rows,
        around.height,
        around.left,
        around.top,
        scale,
        water.slopes,
        eye,
        stood,
        offsets,
    )
    mend_cuts(offsets, stood)
    return Tile(offsets[1:-1], shared)


def _covered(water: Water, eye: Eye, scale: float, region: Region) -> tuple[Region, Region]:
    """What water may cover of a region, and the same with a row more above and below, which is seen behind crests."""
    top = math.floor((eye.y - rises(water.heights, eye)) * scale)
    shared = region._replace(top=max(region.top, top), bottom=max(region.bottom, top))
    return shared, shared._replace(top=shared.top - 1, bottom=shared.bottom + 1)


def _reflected_by(slopes: Slopes, eye: Eye, scale: float, stood: Stood) -> tuple[int, Field]:
    """How much is reflected of what comes from how far aside, in each reach that is seen; and the nearest of these."""
    farthest = reach_number(eye.lens * eye.high * scale / LEAST_BELOW)
    nearest = min(farthest, reach_number(1 / max(1e-9, float(stood.near.max()))))
    shares = np.empty((farthest + 1 - nearest, _FACES + 2), np.float32)
    in_bands(_share_rows, len(shares), nearest, scale, eye, slopes, shares)
    return nearest, shares


@compiled
def mirrored(facing: float, rough: float) -> float:
    """How much water reflects of what comes from so far aside (the cosine), with waves of so large a
    deviation of slopes that are not seen."""
    steep = math.pow(1.0 - facing, 5.0 * math.exp(-2.69 * rough))
    return _MIRRORS + (1.0 - _MIRRORS) * steep / (1.0 + 22.7 * math.pow(rough, 1.5))


@compiled_along
def _tilt(first: Field, second: Field, tilted: Field) -> None:
    """Both layers of waves as one: the second is turned."""
    strong = np.float32(FIRST_STRONG)
    turned = np.float32(SECOND_STRONG * math.cos(TURNED))
    askew = np.float32(SECOND_STRONG * math.sin(TURNED))
    ax, az, bx, bz = first[0], first[1], second[0], second[1]
    across, away = tilted[0], tilted[1]
    for x in range(ax.shape[0]):
        across[x] = strong * ax[x] + turned * bx[x] + askew * bz[x]
        away[x] = strong * az[x] + turned * bz[x] - askew * bx[x]


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


@compiled
def _unseen(reach: Reach, lost: Field) -> float:
    """The mean square of what is lost of slopes in the sizes that are seen of a reach."""
    first, second = lost[reach.level], lost[reach.level2]
    whole: float = FIRST_STRONG * FIRST_STRONG * (first[0] + first[1])
    whole += SECOND_STRONG * SECOND_STRONG * (second[0] + second[1])
    return 0.5 * whole


@compiled
def _softened(reach: Reach, lost: Field) -> np.float32:
    """How softly foam begins in a reach: by itself, and for what is not seen of its layers there."""
    square = _SOFT_FOAM * _SOFT_FOAM
    square += _LARGE * _LARGE * lost[reach.level, 0] + _SMALL * _SMALL * lost[reach.level2, 0]
    return np.float32(math.sqrt(square + _FINEST * _FINEST * lost[reach.level3, 0]))


@compiled
def _look(
    n: int,
    reach: Reach,
    of: Slopes,
    flat: Field,
    eye: Eye,
    along: Along,
    is_laced: bool,
    room: Room,
) -> None:
    """What a square holds in one of the looks along a part of a row: as it is, smaller, and once more if it is laced."""
    _go_on(room.fars, room.deeps, np.float32((n + 0.5) / reach.looks - 0.5), room.looked)
    size = Finer(of.starts[reach.level], of.sides[reach.level])
    find(eye, size, Layer(1.0, 0.0), along, room.looked, room.firsts, room.behind)
    take(flat, size.side, room.firsts, room.behind, room.first)
    size = Finer(of.starts[reach.level2], of.sides[reach.level2])
    find(eye, size, Layer(SECOND, TURNED), along, room.looked, room.firsts, room.behind)
    take(flat, size.side, room.firsts, room.behind, room.second)
    if is_laced:
        size = Finer(of.starts[reach.level3], of.sides[reach.level3])
        find(eye, size, Layer(THIRD, TURNED_ON), along, room.looked, room.firsts, room.behind)
        take(flat, size.side, room.firsts, room.behind, room.third)


@compiled_along
def _go_on(fars: Field, deeps: Field, part: np.float32, looked: Field) -> None:
    """How far off what is looked at in each px is: part of a px on from its middle."""
    for x in range(fars.shape[0]):
        looked[x] = fars[x] + part * deeps[x]


@compiled_along
def _set_off(near: Field, a_row: np.float32, fars: Field, deeps: Field) -> None:
    """How far off what is seen along a row is, and how deep a px of it: what is not seen is nowhere."""
    zero, one = np.float32(0.0), np.float32(1.0)
    for x in range(near.shape[0]):
        far = one / near[x] if near[x] > zero else zero
        fars[x], deeps[x] = far, far * far * a_row


@compiled
def _room(width: int) -> Room:
    two, one = (2, width), (width,)
    return Room(
        np.empty(width, np.int32), np.empty(two, np.float32), np.empty(two, np.float32),
        np.empty(two, np.float32), np.empty(two, np.float32), np.empty(two, np.float32),
        np.empty((3, width), np.float32), np.empty(one, np.float32), np.empty(one, np.float32),
        np.empty(one, np.float32), np.empty(one, np.float32), np.empty(one, np.float32),
        np.empty(one, np.float32),
    )  # fmt: skip


@compiled
def _part_of(room: Room, x0: int, x1: int) -> Room:
    """Room for a part of a row, of which it is known how far off it is."""
    n = x1 - x0
    return Room(
        room.firsts[:n], _rows(room.behind, n), _rows(room.first, n), _rows(room.second, n),
        _rows(room.third, n), _rows(room.tilted, n), _rows(room.shines, n), room.whites[:n],
        room.facing[:n], room.reflected[:n], room.looked[:n], room.fars[x0:x1], room.deeps[x0:x1],
    )  # fmt: skip


@compiled
def _rows(field: Field, width: int) -> Field:
    """Rows of a field as they are when each is only so wide, one right behind the other."""
    return field.reshape(-1)[: field.shape[0] * width].reshape(field.shape[0], width)


@compiled
def _end_of(reach: Reach, x0: int, fars: Field) -> int:
    """The first px behind one along a row that is not in the same reach."""
    nearest, farthest = np.float32(reach.nearest), np.float32(reach.farthest)
    x = x0 + 1
    while x < fars.shape[0] and nearest <= fars[x] < farthest:
        x += 1
    return x


@compiled
def _share_rows(
    first: int, last: int, nearest: int, scale: float, eye: Eye, slopes: Slopes, shares: Field
) -> None:
    """How much is reflected in each reach from the `nearest` on, by how far aside it comes from."""
    for n in range(first, last):
        reach = reach_of(nearest + n, scale, eye, slopes.sides, _MOST_LOOKS, 2)
        rough = math.sqrt(2.0 * _unseen(reach, slopes.lost))
        for k in range(_FACES + 2):
            shares[n, k] = mirrored(max(0.0, 1.0 - k / _FACES), rough)


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
    stood: Stood,
    nearest: int,
    shares: Field,
    picture: Picture,
) -> None:
    width = picture.shape[1]
    whole = _room(width)
    way = np.float32(sky.way[0]), np.float32(sky.way[1]), np.float32(sky.way[2])
    a_row = np.float32(1.0 / (eye.lens * eye.high * scale))
    flat, flat_folds = slopes.slopes.reshape(-1), foam.folds.slopes.reshape(-1)
    is_white = begins < np.inf
    for y in range(first, last):
        below = (y + top + 0.5) / scale - eye.y
        _set_off(stood.near[y], a_row, whole.fars, whole.deeps)
        x1 = 0
        while x1 < width:
            x0 = x1
            if whole.fars[x0] <= np.float32(0.0):
                x1 += 1
                continue
            number = reach_number(whole.fars[x0])
            reach = reach_of(number, scale, eye, slopes.sides, _MOST_LOOKS, 2)
            x1 = _end_of(reach, x0, whole.fars)
            room = _part_of(whole, x0, x1)
            room.shines[:], room.whites[:] = np.float32(0.0), np.float32(0.0)
            along = Along((left + x0 + 0.5) / scale - eye.x, 1.0 / scale)
            spread = np.float32(_unseen(reach, slopes.lost) + sky.wide)
            place = (
                np.float32(along.aside), np.float32(along.step), np.float32(below), np.float32(eye.lens),
            )  # fmt: skip
            for n in range(reach.looks):
                _look(n, reach, slopes, flat, eye, along, False, room)
                _tilt(room.first, room.second, room.tilted)
                _face(room.tilted, *place, room.facing)
                _reflect(room.facing, shares[number - nearest], room.reflected)
                _shine(room.tilted, room.facing, room.reflected, *place, way, spread, room.shines)
            laced = reach_of(number, scale, eye, foam.folds.sides, _MOST_LOOKS, 3)
            soft = _softened(laced, foam.folds.lost)
            for n in range(laced.looks if is_white else 0):
                _look(n, laced, foam.folds, flat_folds, eye, along, True, room)
                _whiten(room.first, room.second, room.third, np.float32(begins), soft, room.whites)
            _colour(
                room.shines, room.whites, np.float32(1.0 / reach.looks), np.float32(1.0 / laced.looks),
                np.float32(y + 1), stood.tops[x0:x1], room.fars, np.float32(400.0 * eye.high),
                foam.light, sky, picture[y, x0:x1],
            )  # fmt: skip


@compiled_along
def _colour(
    shines: Field,
    whites: Field,
    share: np.float32,
    of_white: np.float32,
    bottom: np.float32,
    tops: Field,
    fars: Field,
    half_lost: np.float32,
    white: Colours,
    sky: Sky,
    row: Picture,
) -> None:
    """The light of a part of a row of the picture, from what has been added up for it: each look has its share."""
    mists, zero, one = np.float32(sky.mist), np.float32(0.0), np.float32(1.0)
    low, high, body = _as_light(sky.low), _as_light(sky.high), _as_light(sky.body)
    lamp, foam, found = _as_light(sky.lamp), _as_light(white), row.reshape(-1)
    for x in range(np.uint64(whites.shape[0])):
        cover = min(one, max(zero, bottom - tops[x]))
        mist = mists * fars[x] / (fars[x] + half_lost)
        hazy, part, of_foam = cover * mist, cover * (one - mist), of_white * whites[x]
        mirrors, highs, glitters = share * shines[0, x], share * shines[1, x], share * shines[2, x]
        within, bare, covered = one - mirrors, part * (one - of_foam), part * of_foam
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
    stood: Stood,
    offsets: Field,
) -> None:
    width = offsets.shape[1]
    whole = _room(width)
    flat = slopes.slopes.reshape(-1)
    a_row = np.float32(1.0 / (eye.lens * eye.high * scale))
    for y in range(first, last):
        below = (y + top + 0.5) / scale - eye.y
        _set_off(stood.near[y], a_row, whole.fars, whole.deeps)
        x1 = 0
        while x1 < width:
            x0 = x1
            if whole.fars[x0] <= np.float32(0.0):
                x1 += 1
                continue
            number = reach_number(whole.fars[x0])
            reach = reach_of(number, scale, eye, slopes.sides, _LOOKS_AT_MOVES, 2)
            x1 = _end_of(reach, x0, whole.fars)
            room = _part_of(whole, x0, x1)
            along = Along((left + x0 + 0.5) / scale - eye.x, 1.0 / scale)
            share = 1.0 / reach.looks
            for n in range(reach.looks):
                _look(n, reach, slopes, flat, eye, along, False, room)
                _tilt(room.first, room.second, room.tilted)
                for x in range(x1 - x0):
                    dx = along.aside + x * along.step
                    sx, sz = float(room.tilted[0, x]), float(room.tilted[1, x])
                    # Twice as much as its way goes into the slope a ray is thrown back.
                    twice = 2.0 * (below + sx * dx + sz * eye.lens) / (1.0 + sx * sx + sz * sz)
                    gone = max(_LEAST_AHEAD * eye.lens, eye.lens - twice * sz)
                    across, up = (dx - twice * sx) / gone, (twice - below) / gone
                    offsets[y, x0 + x, 0] += np.float32(share * (eye.lens * across - dx))
                    offsets[y, x0 + x, 1] += np.float32(share * (below - eye.lens * up))
