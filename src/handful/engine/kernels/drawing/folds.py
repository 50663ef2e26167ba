"""A sheet in folds, drawn: which of it is in front, how it is lit, and its edge without fringes."""

from __future__ import annotations

import math
from functools import reduce
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.angle import cosine_of
from handful.engine.kernels.compiled import compiled, compiled_along, compiled_in, in_bands
from handful.engine.kernels.drawing.bands import BAND, by_band, touched
from handful.engine.kernels.forms.sheet import facing
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Field = NDArray[np.float32]

_SAMPLES = 2
"""A px is looked at in so many places across and down."""

_SHADOW_SIDE = 160
_NOTHING_BEHIND = np.float32(-1e30)
_FAR = 1e9


class Lighting(NamedTuple):
    """How a sheet is lit: where from, in px of its picture; how much light comes from everywhere, shines
    through, gleams at its edge and from its gloss; how narrow that is; and how dark creases and shadows are."""

    light: tuple[float, float, float]
    around: float
    through: float
    sheen: float
    gloss: float
    narrow: float
    creases: float
    shadow: float


class Stuff(NamedTuple):
    """What a sheet is of: the colours of its two sides, how much darker its threads are at their edges, and
    how many there are across and down."""

    front: tuple[float, float, float]
    back: tuple[float, float, float]
    weave: float
    across: float
    down: float


class Rent(NamedTuple):
    """Where a sheet is torn, which comes once for each side of the tear, `rows` rows of it below one another. Of each point
    `(R, C, 2)`: how far on its own side of the tear it is, and how far the tear has gone on from it, in px. Threads stand out
    by up to `frayed` px, each by its own part of it `(2, N)`: those across and those down."""

    rows: int
    edges: Field
    frayed: np.float32
    threads: Field


WHOLE = Rent(0, np.empty((0, 0, 2), np.float32), np.float32(0), np.empty((2, 0), np.float32))
"""Of a sheet that is not torn."""


def finer(places: Field) -> Field:
    """A sheet `(R, C, 3)` with points between its points, on smooth curves through them (Dyn, Levin and
    Gregory, "A 4-point interpolatory subdivision scheme", CAGD 1987)."""
    for axis in (0, 1):
        lines = np.swapaxes(places, 0, axis)
        if len(lines) < 2:
            continue
        before, after = 2 * lines[:1] - lines[1:2], 2 * lines[-1:] - lines[-2:-1]
        framed = np.concatenate([before, lines, after])
        between = (9 * (framed[1:-2] + framed[2:-1]) - framed[:-3] - framed[3:]) / 16
        made = np.empty((2 * len(lines) - 1, *lines.shape[1:]), np.float32)
        made[::2], made[1::2] = lines, between
        places = np.swapaxes(made, 0, axis)
    return np.ascontiguousarray(places)


def normals_of(places: Field) -> Field:
    """How a sheet `(R, C, 3)` faces at each of its points, towards the eye if it hangs flat."""
    normals = np.empty(places.shape, np.float32)
    in_bands(_face_rows, len(places), places, normals)
    return normals


@compiled
def _face_rows(first: int, last: int, places: Field, normals: Field) -> None:
    for r in range(first, last):
        for c in range(places.shape[1]):
            normals[r, c, 0], normals[r, c, 1], normals[r, c, 2] = facing(places, r, c)


def shades_of(places: Field, how: Lighting) -> Field:
    """How bright each point of a sheet `(R, C, 3)` is: light that takes its colour, and light that does not,
    in front, and the same behind, `(R, C, 4)`."""
    normals = normals_of(places)
    ways = np.empty(places.shape, np.float32)
    in_bands(_way_rows, len(places), places, how, ways)
    shadows = _shadowed(places, ways)
    wide = max(places.shape[:2]) / 26
    means = cv2.GaussianBlur(places, (0, 0), wide, borderType=cv2.BORDER_REFLECT)
    steps = (
        np.linalg.norm(np.diff(places[0], axis=0), axis=1) if places.shape[1] > 1 else np.ones(1)
    )
    deepest = np.float32(0.9 * wide * max(float(steps.mean()), 1e-6))
    shades = np.empty((*places.shape[:2], 4), np.float32)
    in_bands(_shade_rows, len(places), places, normals, ways, shadows, means, deepest, how, shades)
    return shades


@compiled_along
def _way_rows(first: int, last: int, places: Field, how: Lighting, ways: Field) -> None:
    """The way from each point to the light."""
    lx, ly, lz = np.float32(how.light[0]), np.float32(how.light[1]), np.float32(how.light[2])
    for r in range(first, last):
        for c in range(places.shape[1]):
            x, y, z = lx - places[r, c, 0], ly - places[r, c, 1], lz - places[r, c, 2]
            long = max(np.float32(1e-6), np.float32(math.sqrt(x * x + y * y + z * z)))
            ways[r, c, 0], ways[r, c, 1], ways[r, c, 2] = x / long, y / long, z / long


@compiled_along
def _shade_rows(
    first: int,
    last: int,
    places: Field,
    normals: Field,
    ways: Field,
    shadows: Field,
    means: Field,
    deepest: np.float32,
    how: Lighting,
    shades: Field,
) -> None:
    """On both sides what faces the light, what gleams at its edge, and its gloss (Blinn 1977), all darker deep in folds:
    against the `means` of what is about."""
    zero, one = np.float32(0.0), np.float32(1.0)
    around, through = np.float32(how.around), np.float32(how.through)
    sheen, gloss, narrow = np.float32(how.sheen), np.float32(how.gloss), np.float32(how.narrow)
    creases, shadow = np.float32(how.creases), np.float32(how.shadow)
    for r in range(first, last):
        for c in range(places.shape[1]):
            nx, ny, nz = normals[r, c, 0], normals[r, c, 1], normals[r, c, 2]
            wx, wy, wz = ways[r, c, 0], ways[r, c, 1], ways[r, c, 2]
            lit = one - shadow * shadows[r, c]
            deep = (means[r, c, 0] - places[r, c, 0]) * nx
            deep += (means[r, c, 1] - places[r, c, 1]) * ny
            deep += (means[r, c, 2] - places[r, c, 2]) * nz
            deep /= deepest
            towards = nx * wx + ny * wy + nz * wz
            hz = wz + one
            long = max(np.float32(1e-6), np.float32(math.sqrt(wx * wx + wy * wy + hz * hz)))
            half = (nx * wx + ny * wy + nz * hz) / long
            for side in range(2):
                sign = one if side == 0 else -one
                facing = sign * towards
                own = max(zero, facing) * lit + through * max(zero, -facing)
                dark = one - creases * min(one, max(zero, sign * deep))
                edge = one - min(one, max(zero, sign * nz))
                edge *= edge
                white = (
                    sheen
                    * edge
                    * edge
                    * (np.float32(0.3) + np.float32(0.7) * max(zero, facing) * lit)
                )
                shine = max(zero, sign * half)
                if gloss > zero and shine > zero:
                    white += gloss * lit * shine**narrow
                shades[r, c, 2 * side] = (around + (one - around) * own) * dark
                shades[r, c, 2 * side + 1] = white * dark


def _shadowed(places: Field, ways: Field) -> Field:
    """How much each point is in the shadow of others, from 0 to 1, by a map of what the light meets first."""
    along = ways.mean(axis=(0, 1))
    along /= max(1e-6, float(np.linalg.norm(along)))
    aside = np.cross(along, (0, 1, 0))
    aside /= max(1e-6, float(np.linalg.norm(aside)))
    beside = np.cross(along, aside)
    u, v, near = np.moveaxis(places @ np.stack([aside, beside, along], 1).astype(np.float32), 2, 0)
    cell = max(float(np.ptp(u)), float(np.ptp(v)), 1e-3) / (_SHADOW_SIDE - 3)
    x, y = (u - u.min()) / cell + 1, (v - v.min()) / cell + 1
    first = np.full((_SHADOW_SIDE, _SHADOW_SIDE), _NOTHING_BEHIND)
    _meet_first(x, y, near, first)
    first = cv2.dilate(first, np.ones((3, 3), np.uint8))
    met = cv2.remap(first, x, y, cv2.INTER_NEAREST, borderValue=float(_NOTHING_BEHIND))
    shadow = np.clip((met - near) / cell / 3 - 1, 0, 1).astype(np.float32)
    soft: Field = cv2.GaussianBlur(shadow, (0, 0), 1.2)
    return soft


@compiled
def _meet_first(x: Field, y: Field, near: Field, first: Field) -> None:
    """On each cell of a map how near to the light what lies on it comes."""
    for r in range(x.shape[0]):
        for c in range(x.shape[1]):
            j, i = int(np.rint(y[r, c])), int(np.rint(x[r, c]))
            first[j, i] = max(first[j, i], near[r, c])


def draw_folds(
    places: Field,
    shades: Field,
    stuff: Stuff,
    printed: Picture,
    strong: float,
    region: Region,
    rent: Rent = WHOLE,
) -> Tile:
    """A sheet `(R, C, 3)` in px of the scaled canvas, of some stuff with a picture printed on its front
    (none if it is empty), so strongly lit; on what it covers of a region."""
    flat = places[..., :2]
    corners = flat[:-1, :-1], flat[:-1, 1:], flat[1:, :-1], flat[1:, 1:]
    low, high = reduce(np.minimum, corners) - 1, reduce(np.maximum, corners) + 1
    if rent.rows:
        low[_hidden(rent)], high[_hidden(rent)] = _FAR, -_FAR
    low, high = low.reshape(-1, 2), high.reshape(-1, 2)
    _, shared = touched(low, high, region)
    if shared.empty:
        return clear_tile(region)
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        _fold_rows, shared.height, shared.left, shared.top, places, shades, starts, listed, stuff,
        printed, rent, np.float32(strong), picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


def _hidden(rent: Rent) -> NDArray[np.bool_]:
    """Which pieces of a torn sheet lie beyond its tear, or between its two sides."""
    own = rent.edges[..., 0] > 0
    hidden = ~(own[:-1, :-1] | own[:-1, 1:] | own[1:, :-1] | own[1:, 1:])
    hidden[rent.rows - 1] = True
    return hidden


def draw_colours(places: Field, colours: Field, region: Region, rent: Rent = WHOLE) -> Tile:
    """The same with a colour `(R, C, 3)` at each point, as it is, on both sides."""
    shades = np.ascontiguousarray(np.pad(colours, ((0, 0), (0, 0), (0, 1))))
    plain = Stuff((-1.0, 0.0, 0.0), (0.0, 0.0, 0.0), 0.0, 1.0, 1.0)
    none = np.empty((0, 0, 4), np.float32)
    return draw_folds(places, shades, plain, none, 1.0, region, rent)


@compiled_along
def _fold_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    places: Field,
    shades: Field,
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    stuff: Stuff,
    printed: Picture,
    rent: Rent,
    strong: np.float32,
    picture: Picture,
) -> None:
    width, columns = picture.shape[1], places.shape[1]
    fine = np.float32(1.0 / _SAMPLES)
    nearest = np.empty((BAND * _SAMPLES, width * _SAMPLES), np.float32)
    found = np.empty((BAND * _SAMPLES, width * _SAMPLES, 3), np.float32)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        begins = band * BAND
        rows = min(BAND, picture.shape[0] - begins)
        nearest[:] = _NOTHING_BEHIND
        for k in listed[starts[band] : starts[band + 1]]:
            r, c = k // (columns - 1), k % (columns - 1)
            for half in range(2):
                _triangle(
                    r, c, half, left, top + begins, rows, width, places, shades, stuff, printed, rent,
                    nearest, found,
                )  # fmt: skip
        for y in range(rows):
            for x in range(width):
                red, green, blue, count = np.float32(0), np.float32(0), np.float32(0), 0
                for j in range(_SAMPLES):
                    for i in range(_SAMPLES):
                        v, u = y * _SAMPLES + j, x * _SAMPLES + i
                        if nearest[v, u] > _NOTHING_BEHIND:
                            red += found[v, u, 0]
                            green += found[v, u, 1]
                            blue += found[v, u, 2]
                            count += 1
                if count:
                    share = fine * fine * strong
                    picture[begins + y, x, 0] = red * share
                    picture[begins + y, x, 1] = green * share
                    picture[begins + y, x, 2] = blue * share
                    picture[begins + y, x, 3] = fine * fine * np.float32(count)


@compiled_in
def _stands_out(rent: Rent, across: np.float32, down: np.float32, gone: np.float32) -> np.float32:
    """How far from the line of a tear a sheet ends at a place of it, in px."""
    if gone <= np.float32(0.0):
        return np.float32(0.0)
    count = rent.threads.shape[1]
    i = min(count - 1, max(0, int(across * np.float32(count))))
    j = min(count - 1, max(0, int(down * np.float32(count))))
    part = np.float32(0.5) * (rent.threads[0, i] + rent.threads[1, j])
    return np.float32(min(rent.frayed, np.float32(0.25) * gone) * part)


@compiled_in
def _triangle(
    r: int,
    c: int,
    half: int,
    left: int,
    top: int,
    rows: int,
    width: int,
    places: Field,
    shades: Field,
    stuff: Stuff,
    printed: Picture,
    rent: Rent,
    nearest: Field,
    found: NDArray[np.float32],
) -> None:
    """One half of a piece of a sheet, on samples where nothing nearer was met."""
    ra, ka, rb, kb, rc, kc = (
        (r, c, r, c + 1, r + 1, c) if half == 0 else (r + 1, c + 1, r + 1, c, r, c + 1)
    )
    n, zero, one = np.float32(_SAMPLES), np.float32(0.0), np.float32(1.0)
    ax, ay = (places[ra, ka, 0] - np.float32(left)) * n, (places[ra, ka, 1] - np.float32(top)) * n
    bx, by = (places[rb, kb, 0] - np.float32(left)) * n, (places[rb, kb, 1] - np.float32(top)) * n
    cx, cy = (places[rc, kc, 0] - np.float32(left)) * n, (places[rc, kc, 1] - np.float32(top)) * n
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    if abs(area) < np.float32(1e-6):
        return
    side = 0 if area > zero else 2
    inverse = one / area
    v0 = max(0, int(np.floor(min(ay, by, cy))))
    v1 = min(rows * _SAMPLES, int(np.ceil(max(ay, by, cy))) + 1)
    za, zb, zc = places[ra, ka, 2], places[rb, kb, 2], places[rc, kc, 2]
    above = r // rent.rows * rent.rows if rent.rows > 0 else 0
    long, wide = np.float32(places.shape[0] - 1), np.float32(places.shape[1] - 1)
    if rent.rows > 0:
        long = np.float32(rent.rows - 1)
    ab, bc, ca = (bx - ax) / (by - ay), (cx - bx) / (cy - by), (ax - cx) / (ay - cy)
    reaches = np.float32(0.52)
    bxa, bya, cxa, cya = bx - ax, by - ay, cx - ax, cy - ay
    red0, green0, blue0 = stuff.front if side == 0 else stuff.back
    red1, green1, blue1 = np.float32(red0), np.float32(green0), np.float32(blue0)
    # A turn is two threads: one is over the others that the next is under.
    half_across, half_down = np.float32(0.5 * stuff.across), np.float32(0.5 * stuff.down)
    weave = np.float32(0.5 * stuff.weave)
    is_plain = stuff.front[0] < 0.0
    # What is written meanwhile might be the same place as these, for all that a compiler knows.
    own_a, own_b, own_c = shades[ra, ka, side], shades[rb, kb, side], shades[rc, kc, side]
    white_a, white_b = shades[ra, ka, side + 1], shades[rb, kb, side + 1]
    white_c = shades[rc, kc, side + 1]
    has_print = printed.shape[0] > 0 and side == 0
    for v in range(v0, v1):
        y = np.float32(v) + np.float32(0.5)
        low, high = np.float32(_FAR), np.float32(-_FAR)
        if (ay < y) != (by < y):
            x = ax + (y - ay) * ab
            low, high = min(low, x), max(high, x)
        if (by < y) != (cy < y):
            x = bx + (y - by) * bc
            low, high = min(low, x), max(high, x)
        if (cy < y) != (ay < y):
            x = cx + (y - cy) * ca
            low, high = min(low, x), max(high, x)
        u0 = max(0, int(np.floor(low - reaches)))
        u1 = min(width * _SAMPLES, int(np.floor(high - np.float32(0.5) + reaches)) + 1)
        yc, yb = (y - ay) * cxa, (y - ay) * bxa
        for u in range(u0, u1):
            x = np.float32(u) + np.float32(0.5)
            q = ((x - ax) * cya - yc) * inverse
            s = (yb - bya * (x - ax)) * inverse
            p = one - q - s
            if p < zero or q < zero or s < zero:
                continue
            z = p * za + q * zb + s * zc
            if z <= nearest[v, u]:
                continue
            if rent.rows > 0:
                across = (p * np.float32(ka) + q * np.float32(kb) + s * np.float32(kc)) / wide
                down = p * np.float32(ra) + q * np.float32(rb) + s * np.float32(rc)
                down = (down - np.float32(above)) / long
                own = (
                    p * rent.edges[ra, ka, 0]
                    + q * rent.edges[rb, kb, 0]
                    + s * rent.edges[rc, kc, 0]
                )
                gone = (
                    p * rent.edges[ra, ka, 1]
                    + q * rent.edges[rb, kb, 1]
                    + s * rent.edges[rc, kc, 1]
                )
                if own <= _stands_out(rent, across, down, gone):
                    continue
            nearest[v, u] = z
            if is_plain:
                for k in range(3):
                    found[v, u, k] = (
                        p * shades[ra, ka, k] + q * shades[rb, kb, k] + s * shades[rc, kc, k]
                    )
                continue
            own = p * own_a + q * own_b + s * own_c
            white = p * white_a + q * white_b + s * white_c
            red, green, blue = red1, green1, blue1
            if weave > zero or has_print:
                across = (p * np.float32(ka) + q * np.float32(kb) + s * np.float32(kc)) / wide
                down = p * np.float32(ra) + q * np.float32(rb) + s * np.float32(rc)
                down = (down - np.float32(above)) / long
                if weave > zero:
                    threads = cosine_of(across * half_across) * cosine_of(down * half_down)
                    own *= one - weave * (one - threads)
                if has_print:
                    i = min(printed.shape[1] - 1, max(0, int(across * printed.shape[1])))
                    j = min(printed.shape[0] - 1, max(0, int(down * printed.shape[0])))
                    left_over = one - min(one, printed[j, i, 3])
                    red = red * left_over + printed[j, i, 0]
                    green = green * left_over + printed[j, i, 1]
                    blue = blue * left_over + printed[j, i, 2]
            found[v, u, 0] = red * own + white
            found[v, u, 1] = green * own + white
            found[v, u, 2] = blue * own + white
