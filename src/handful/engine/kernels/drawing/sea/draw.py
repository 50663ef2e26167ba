"""A sea seen from a low camera: how it mirrors the sky, lets a lamp glitter, and shows what is in it."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.sea.foam import Foam, softened, whiten
from handful.engine.kernels.drawing.sea.light import (
    FACES,
    Sky,
    face,
    lay_light,
    mirrored,
    reflect,
    shine,
)
from handful.engine.kernels.drawing.sea.looks import (
    Water,
    Waves,
    look,
    look_at_waves,
    part_of,
    room_for,
    set_off,
    unseen,
    waves_of,
)
from handful.engine.kernels.drawing.sea.squares import (
    Along,
    Eye,
    Field,
    parts_in,
    reach_number,
    reach_of,
)
from handful.engine.kernels.drawing.sea.standing import (
    LEAST_BELOW,
    Stood,
    mend_cuts,
    rises,
    stood_up,
)
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

_MOST_LOOKS, _LOOKS_AT_MOVES = 4, 32
"""A px far away is looked at in so many places, one behind the other: for its light, and for how far it is moved."""

_LEAST_AHEAD = 0.1
"""What is thrown back sideways or to behind is taken to come from so much ahead."""


def draw_sea(
    water: Water, foam: Foam | None, eye: Eye, sky: Sky, scale: float, region: Region
) -> Tile:
    """Water from its horizon and the crests above it down, at a scale, on what it covers of a region."""
    shared, around = _covered(water, eye, scale, region)
    if shared.empty:
        return clear_tile(region)
    stood = stood_up(water.heights, eye, scale, around)
    foam = foam or Foam(water.slopes, 0.0, (0.0, 0.0, 0.0))
    waves = waves_of(water)
    nearest, shares = _reflected_by(waves, eye, scale, stood)
    picture = blank(around)
    in_bands(
        _sea_rows, around.height, around.left, around.top, scale, waves, foam, foam.begins(),
        eye, sky, stood, nearest, shares, picture,
    )  # fmt: skip
    mend_cuts(picture, stood)
    return Tile(picture[1:-1], shared)


def sea_offsets(water: Water, eye: Eye, scale: float, region: Region) -> Tile:
    """How far what is mirrored in that water from far off is moved by its waves `(H, W, 2)`, in px of the full size.

    As if they did not hide one another, and without ripples: beside the edge of a crest it would change by hundreds of px,
    and nothing could be bent by the mean of that.
    """
    level = Water(water.slopes, water.heights._replace(highest=0.0), 0.0)
    shared, around = _covered(level, eye, scale, region)
    if shared.empty:
        return clear_tile(region, "offsets")
    stood = stood_up(level.heights, eye, scale, around)
    offsets = np.zeros((around.height, around.width, 2), np.float32)
    in_bands(
        _offset_rows, around.height, around.left, around.top, scale, waves_of(level), eye, stood, offsets
    )  # fmt: skip
    return Tile(offsets[1:-1], shared)


def _covered(water: Water, eye: Eye, scale: float, region: Region) -> tuple[Region, Region]:
    """What water may cover of a region, and the same with a row more above and below, which is seen behind crests."""
    top = math.floor((eye.y - rises(water.heights, eye)) * scale)
    shared = region._replace(top=max(region.top, top), bottom=max(region.bottom, top))
    return shared, shared._replace(top=shared.top - 1, bottom=shared.bottom + 1)


def _reflected_by(waves: Waves, eye: Eye, scale: float, stood: Stood) -> tuple[int, Field]:
    """How much is reflected of what comes from how far aside, in each reach that is seen; and the nearest of these."""
    farthest = reach_number(eye.lens * eye.high * scale / LEAST_BELOW)
    nearest = min(farthest, reach_number(1 / max(1e-9, float(stood.near.max()))))
    shares = np.empty((farthest + 1 - nearest, FACES + 2), np.float32)
    in_bands(_share_rows, len(shares), nearest, scale, eye, waves, shares)
    return nearest, shares


@compiled
def _share_rows(
    first: int, last: int, nearest: int, scale: float, eye: Eye, waves: Waves, shares: Field
) -> None:
    """How much is reflected in each reach from the `nearest` on, by how far aside it comes from."""
    for n in range(first, last):
        reach = reach_of(nearest + n, scale, eye, waves.slopes.sides, _MOST_LOOKS, 2)
        rough = math.sqrt(2.0 * unseen(reach, waves))
        for k in range(FACES + 2):
            shares[n, k] = mirrored(max(0.0, 1.0 - k / FACES), rough)


@compiled
def _sea_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    scale: float,
    waves: Waves,
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
    whole, parts = room_for(width), np.empty((width, 3), np.int64)
    way = np.float32(sky.way[0]), np.float32(sky.way[1]), np.float32(sky.way[2])
    a_row = np.float32(1.0 / (eye.lens * eye.high * scale))
    flat, flat_folds = waves.slopes.slopes.reshape(-1), foam.folds.slopes.reshape(-1)
    is_white = begins < np.inf
    for y in range(first, last):
        below = (y + top + 0.5) / scale - eye.y
        set_off(stood.near[y], a_row, whole.fars, whole.deeps)
        for n in range(parts_in(whole.fars, parts)):
            x0, x1, number = parts[n]
            reach = reach_of(number, scale, eye, waves.slopes.sides, _MOST_LOOKS, 2)
            room = part_of(whole, x0, x1)
            room.shines[:], room.whites[:] = np.float32(0.0), np.float32(0.0)
            along = Along((left + x0 + 0.5) / scale - eye.x, 1.0 / scale)
            spread = np.float32(unseen(reach, waves) + sky.wide)
            place = (
                np.float32(along.aside), np.float32(along.step), np.float32(below), np.float32(eye.lens),
            )  # fmt: skip
            for k in range(reach.looks):
                look_at_waves(k, reach, waves, flat, eye, along, room)
                face(room.tilted, *place, room.facing)
                reflect(room.facing, shares[number - nearest], room.reflected)
                shine(room.tilted, room.facing, room.reflected, *place, way, spread, room.shines)
            laced = reach_of(number, scale, eye, foam.folds.sides, _MOST_LOOKS, 3)
            soft = softened(laced, foam.folds.lost)
            for k in range(laced.looks if is_white else 0):
                look(k, laced, foam.folds, flat_folds, eye, along, True, room)
                whiten(room.first, room.second, room.third, np.float32(begins), soft, room.whites)
            lay_light(
                room.shines, room.whites, np.float32(1.0 / reach.looks), np.float32(1.0 / laced.looks),
                np.float32(y + 1), stood.tops[x0:x1], room.fars, np.float32(400.0 * eye.high),
                foam.light, sky, picture[y, x0:x1],
            )  # fmt: skip


@compiled
def _offset_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    scale: float,
    waves: Waves,
    eye: Eye,
    stood: Stood,
    offsets: Field,
) -> None:
    width = offsets.shape[1]
    whole, parts = room_for(width), np.empty((width, 3), np.int64)
    flat = waves.slopes.slopes.reshape(-1)
    a_row = np.float32(1.0 / (eye.lens * eye.high * scale))
    for y in range(first, last):
        below = (y + top + 0.5) / scale - eye.y
        set_off(stood.near[y], a_row, whole.fars, whole.deeps)
        for n in range(parts_in(whole.fars, parts)):
            x0, x1, number = parts[n]
            reach = reach_of(number, scale, eye, waves.slopes.sides, _LOOKS_AT_MOVES, 3)
            room = part_of(whole, x0, x1)
            along = Along((left + x0 + 0.5) / scale - eye.x, 1.0 / scale)
            share = 1.0 / reach.looks
            for k in range(reach.looks):
                look_at_waves(k, reach, waves, flat, eye, along, room)
                for x in range(x1 - x0):
                    dx = along.aside + x * along.step
                    sx, sz = float(room.tilted[0, x]), float(room.tilted[1, x])
                    # Twice as much as its way goes into the slope a ray is thrown back.
                    twice = 2.0 * (below + sx * dx + sz * eye.lens) / (1.0 + sx * sx + sz * sz)
                    gone = max(_LEAST_AHEAD * eye.lens, eye.lens - twice * sz)
                    across, up = (dx - twice * sx) / gone, (twice - below) / gone
                    offsets[y, x0 + x, 0] += np.float32(share * (eye.lens * across - dx))
                    offsets[y, x0 + x, 1] += np.float32(share * (below - eye.lens * up))
