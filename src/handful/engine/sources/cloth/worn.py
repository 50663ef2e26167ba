"""How a sheet of cloth is seen: its colour, its light, its weave, what is printed on it, and its passes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.folds import (
    WHOLE,
    Lighting,
    Rent,
    Stuff,
    draw_colours,
    draw_folds,
    finer,
    normals_of,
    shades_of,
)
from handful.engine.kernels.forms.sheet import Points
from handful.engine.kernels.forms.tear import Tear, each_side, tear_along
from handful.engine.kinds import At, LayerId, Others, Source, setting
from handful.engine.picture import Picture, PictureKind, Region, Tile
from handful.engine.values import Point

_FINE, _MOST_DRAWN = 6.5, 240
"""px of the full size between points of what is drawn, and most of them across or down."""

PRINT = 0.5
"""The scale at which what is printed on a sheet with memory is looked at."""


class Torn(NamedTuple):
    """A line `(N, 2)` from a sheet's upper left corner on, as it lies flat, along which it is torn so far, and frayed, in
    px; by how many threads across, which are uneven by a seed."""

    line: NDArray[np.float64]
    far: float
    frayed: float
    threads: float
    seed: int


WORN_SAYS = (
    "It shows {shows}, in {colour} and behind {colour_behind}, printed with {printed}, at {light}, lit from "
    "{light_at}, {light_near} before it, {around} all round; light comes {through} through, with sheen "
    "{sheen}, wet {wet}, woven {weave} in {threads}, creases {creases} and shadows {shadow} dark, seen through a "
    "lens of {lens}."
)


class Worn(Source):
    """What is seen of a sheet."""

    shows: Literal["the cloth", "its normals", "its depth", "its coordinates", "its motion"] = (
        setting(
            "the cloth", look=True, help="What is seen of it; motion is offsets, in px a frame."
        )
    )
    colour: Colour = setting("#c8bfa8", look=True, help="The colour of its front.")
    colour_behind: Colour = setting("#b3a98f", look=True, help="The colour of its back.")
    printed: LayerId = setting("", look=True, help="A layer whose picture is printed on its front.")
    light: float = setting(
        0,
        unit="stops",
        look=True,
        least=-12,
        most=16,
        usual=(-4, 4),
        help="How brightly it is lit.",
    )
    light_at: Point = setting(
        [380, -300], unit="px", look=True, help="Where the light comes from that it is in."
    )
    light_near: float = setting(
        900, unit="px", look=True, least=-20_000, most=20_000, usual=(-2000, 3000),
        help="How far before it that light is; below nothing it is behind.",
    )  # fmt: skip
    around: float = setting(
        14, unit="%", look=True, least=0, most=100, help="How much light comes from everywhere."
    )
    through: float = setting(
        30, unit="%", look=True, least=0, most=100, help="How much light shines through it."
    )
    sheen: float = setting(
        10,
        unit="%",
        look=True,
        least=0,
        most=300,
        usual=(0, 80),
        help="How its turned edges gleam.",
    )
    wet: float = setting(
        0, unit="%", look=True, least=0, most=100, help="How wet it is: darker and glossy."
    )
    weave: float = setting(
        0, unit="%", look=True, least=0, most=100, help="How much its threads are seen."
    )
    threads: float = setting(
        160,
        look=True,
        least=4,
        most=4000,
        usual=(40, 400),
        help="How many threads there are across.",
    )
    creases: float = setting(
        70, unit="%", look=True, least=0, most=100, help="How dark it is deep in its folds."
    )
    shadow: float = setting(
        70, unit="%", look=True, least=0, most=100, help="How dark its shadow on itself is."
    )
    lens: float = setting(
        2600, unit="px", look=True, least=200, most=50_000, usual=(800, 6000),
        help="From how far it is seen: less draws near parts larger.",
    )  # fmt: skip

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "offsets" if written.shows == "its motion" else "light"

    def worn(
        self,
        places: Points,
        goes: Points,
        size: tuple[float, float],
        printed: Picture | None,
        at: At,
        torn: Torn | None = None,
    ) -> Tile:
        """A sheet `(R, C, 3)` so wide and long in px of the full-size canvas, each point of which goes so far in a frame,
        with a picture of the whole canvas printed on it."""
        wide, long = size
        if self.shows == "its motion":
            return self._motion(places, goes, size, at, torn)
        sides = [self._seen(side, at) for side in _sides(places, size, torn)]
        while max(sides[0].shape[:2]) < _MOST_DRAWN / 2 and _widest(sides) > _FINE * at.scale:
            sides = [finer(side) for side in sides]
        seen, rent = np.concatenate(sides), _rent(sides, size, torn)
        if self.shows != "the cloth":
            colours = np.concatenate([self._passes(side, long, at) for side in sides])
            return draw_colours(seen, colours, at.wanted, rent)
        wet, scale = self.wet / 100, at.scale
        how = Lighting(
            light=(self.light_at.x * scale, self.light_at.y * scale, self.light_near * scale),
            around=self.around / 100,
            through=self.through / 100 * (1 + wet),
            sheen=self.sheen / 100 * (1 - wet),
            gloss=0.5 * wet,
            narrow=14 + 90 * wet,
            creases=self.creases / 100,
            shadow=self.shadow / 100,
        )
        darker = 1 - 0.6 * wet
        red, green, blue = (float(part) * darker for part in self.colour)
        red_behind, green_behind, blue_behind = (
            float(part) * darker for part in self.colour_behind
        )
        stuff = Stuff(
            (red, green, blue), (red_behind, green_behind, blue_behind),
            self.weave / 100 * self._threads_seen(wide, at), self.threads, self.threads * long / wide,
        )  # fmt: skip
        picture = np.empty((0, 0, 4), np.float32) if printed is None else printed
        shades = np.concatenate([shades_of(side, how) for side in sides])
        return draw_folds(seen, shades, stuff, picture, 2.0**self.light, at.wanted, rent)

    def _motion(
        self, places: Points, goes: Points, size: tuple[float, float], at: At, torn: Torn | None
    ) -> Tile:
        """How far each part of it goes in a frame, in px of the full-size canvas."""
        opens, closes = (
            np.concatenate([self._seen(side, at) for side in _sides(moved, size, torn)])
            for moved in (places - goes / 2, places + goes / 2)
        )
        seen = (opens + closes) * np.float32(0.5)
        motion = np.zeros_like(opens)
        motion[..., :2] = (closes - opens)[..., :2] / at.scale
        tile = draw_colours(seen, motion, at.wanted, _rent([places], size, torn))
        return Tile(np.ascontiguousarray(tile.pixels[..., :2]), tile.region)

    def _seen(self, places: Points, at: At) -> NDArray[np.float32]:
        """Where points are seen, in px of the scaled canvas, and how near they are."""
        middle = np.array([at.canvas.width / 2, at.canvas.height / 2])
        near = np.minimum(places[..., 2], 0.9 * self.lens)
        large = self.lens / (self.lens - near)
        seen = np.empty(places.shape, np.float32)
        seen[..., :2] = middle + (places[..., :2] * at.scale - middle) * large[..., None]
        seen[..., 2] = near * at.scale
        return seen

    def _passes(self, places: NDArray[np.float32], long: float, at: At) -> NDArray[np.float32]:
        """What is shown in place of the cloth: normals from -1 to 1 as 0 to 1; how near it is, 0.5
        where it hangs and 1 half its height nearer; or how far across and down its print one is."""
        rows, columns = places.shape[:2]
        colours = np.zeros((rows, columns, 3), np.float32)
        match self.shows:
            case "its normals":
                colours[:] = 0.5 + 0.5 * normals_of(places) * (1, -1, 1)
            case "its depth":
                colours[:] = 0.5 + places[..., 2:] / (long * at.scale)
            case _:
                across, down = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
                colours[..., 0], colours[..., 1] = across, down
        return colours

    def _threads_seen(self, wide: float, at: At) -> float:
        """Threads narrower than a px or two are not seen."""
        return float(np.clip(wide / self.threads * at.scale - 1.5, 0, 1))


def _widest(sides: list[NDArray[np.float32]]) -> float:
    """How far the points of a sheet are apart, about, as they are seen."""
    return max(float(np.abs(np.diff(side[..., :2], axis=1)).max()) for side in sides)


def _sides(places: Points, size: tuple[float, float], torn: Torn | None) -> list[Points]:
    """A sheet, or what each side of a tear has of it."""
    if torn is None:
        return [places]
    rows, columns = places.shape[:2]
    apart = max(size[0] / (columns - 1), size[1] / (rows - 1))
    return list(each_side(places, tear_of(torn, size, (rows, columns)), apart))


def _rent(sides: Sequence[NDArray[Any]], size: tuple[float, float], torn: Torn | None) -> Rent:
    """Where that is torn, for as many points as each side has."""
    if torn is None:
        return WHOLE
    rows, columns = sides[0].shape[:2]
    beside, gone = tear_of(torn, size, (rows, columns))
    edges = np.concatenate(
        [np.stack([side * beside, gone], axis=2) for side in (np.float32(1), np.float32(-1))]
    )
    threads = np.random.Generator(np.random.Philox(key=torn.seed)).random(
        (2, max(1, round(torn.threads))), np.float32
    )
    return Rent(rows, edges, np.float32(torn.frayed), threads)


def tear_of(torn: Torn, size: tuple[float, float], points: tuple[int, int]) -> Tear:
    """That tear of a sheet so wide and long, in so many rows and columns of points."""
    apart = size[0] / (points[1] - 1), size[1] / (points[0] - 1)
    return tear_along(torn.line, torn.far, *apart, *points)


def printed_on(tile: Tile, at: At, scale: float) -> Picture:
    """A picture of the whole canvas, seen at a scale."""
    wide, high = at.canvas.width / at.scale * scale, at.canvas.height / at.scale * scale
    return np.ascontiguousarray(tile.within(Region(0, 0, max(1, round(wide)), max(1, round(high)))))
