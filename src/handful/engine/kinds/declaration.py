"""The base classes of sources, steps and all else that a recipe declares by kind."""

from __future__ import annotations

import dataclasses
import inspect
import math
import string
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, Literal, NamedTuple, Protocol, dataclass_transform, get_type_hints

import numpy as np

from handful.engine.kernels.chance.hash import Key, key_for
from handful.engine.kernels.compiled import NEAR_ROWS, in_bands
from handful.engine.kernels.pixels.area import (
    reach_of_softness,
    reduced,
    reduction_for,
    softened_from,
)
from handful.engine.kernels.pixels.bounds import hold_bounds
from handful.engine.kinds.planning import Plans
from handful.engine.kinds.setting import Setting, read_setting, setting
from handful.engine.picture import Matte, Picture, PictureKind, Region, Tile, unset


class At(NamedTuple):
    """Where and how large a kind is asked to make its picture.

    `wanted` and `canvas` are in px of the scaled canvas; `scale` turns px of the full-size canvas
    into those.
    """

    wanted: Region
    scale: float
    seeds: tuple[object, ...]
    canvas: Region = Region(0, 0, 0, 0)

    def key(self, purpose: str, *more: object) -> Key:
        """The key for random numbers of this layer for a purpose."""
        return key_for(*self.seeds, purpose, *more)

    def shared_key(self, purpose: str, *more: object) -> Key:
        """The key for random numbers that all layers of the recipe share."""
        return key_for(self.seeds[0], purpose, *more)


@dataclass_transform(kw_only_default=True, frozen_default=True, field_specifiers=(setting,))
class Kind:
    """Anything declared by its settings: they are class attributes, and `says` is its sentence.

    By the time a kind is asked for a picture, every setting is a plain value at that moment.
    """

    name: ClassVar[str]
    family: ClassVar[str]
    says: ClassVar[str]
    settings: ClassVar[tuple[Setting, ...]]

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        dataclasses.dataclass(frozen=True, kw_only=True)(cls)
        if "says" not in cls.__dict__:
            return
        cls.name = "".join(f" {c.lower()}" if c.isupper() else c for c in cls.__name__).strip()
        _check_said_once(cls)
        hints = get_type_hints(cls)
        cls.settings = tuple(
            read_setting(field.name, hints[field.name], field.metadata)
            for field in dataclasses.fields(cls)  # type: ignore[arg-type]
        )
        said = {field for _, field, _, _ in string.Formatter().parse(cls.says) if field}
        unknown = said - {known.name for known in cls.settings}
        if unknown:
            raise TypeError(
                f"{cls.__name__}.says names no such setting: {', '.join(sorted(unknown))}"
            )


def _check_said_once(cls: type[Kind]) -> None:
    """Raises TypeError if two kinds that a kind is put together of say one setting, of which one would be lost."""
    said: dict[str, type] = {}
    for base in cls.__mro__:
        for name in inspect.get_annotations(base):
            other = said.setdefault(name, base)
            if not issubclass(other, base):
                raise TypeError(
                    f"{cls.__name__} has {name} of {other.__name__} and of {base.__name__}"
                )


class Piece(Kind):
    """One of several alike in a setting: a lobe, a stop, a vertex.

    `pictured` says what a list of them is shown and edited as, if not as words: a `curve` through
    points given by its first two settings, or a `ramp` of colours at its first setting.
    """

    pictured: ClassVar[str] = ""


class Others(Protocol):
    """Tells what kinds of picture other layers are."""

    def of(self, layer: str, own: Mapping[str, Any] | None = None) -> PictureKind:
        """Of a layer by its id, with some settings of its source replaced; light where there is none."""

    def members(self) -> PictureKind:
        """Of the layers that belong to this one, which are all alike."""


class TooMuch(NamedTuple):
    """A setting that is too much beside the others, why, and the nearest value that would do."""

    setting: str
    says: str
    nearest: float


class Source(Plans, Kind):
    """What a layer is made from."""

    begins_with: ClassVar[tuple[str, ...]] = ()
    """The steps of a new layer of it."""

    fills: ClassVar[bool] = False
    """Whether it has no end, and each px that is asked for costs as much as any."""

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        """What kind of picture it makes, as a recipe writes it, from the kinds of other layers."""
        return "light"

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        """What its settings ask for together, as a recipe writes them, that is more than can be made."""
        return None

    def draw(self, at: At, *others: Tile) -> Tile:
        """The source's picture, on any region that holds all of it that lies in `at.wanted`.

        `others` are the pictures of the layers that its settings name, in that order, on the canvas.
        """
        raise NotImplementedError


class Step(Kind):
    """Something done to a layer's picture.

    A setting that names another layer hands that layer's picture to `apply` as one of `others`,
    in the order of those settings.
    """

    takes: ClassVar[tuple[PictureKind, ...]] = ("light",)
    """The kinds of picture that it may be done to; it leaves them what they are."""

    fuses: ClassVar[bool] = False
    """Whether several in a row pass over the px together; see `Pointwise`."""

    example: ClassVar[dict[str, Any]] = {}
    """Settings with which a picture shows what it does, where its defaults do little or nothing."""

    def reach(self) -> float:
        """How far, in px of the full-size canvas, a px of the result looks around itself."""
        return 0.0

    def needs(self, wanted: Region, at: At) -> Region:
        """What must be known of the picture before, for the result on `wanted`."""
        return wanted.grown(math.ceil(self.reach() * at.scale))

    def coarser(self, at: At) -> tuple[int, int]:
        """Beyond how many px around what is wanted the picture before is seen so blurred that it may be how
        many times coarser. A step that says so is asked to `apply_around`."""
        return 0, 1

    def apply_around(self, near: Tile, inner: Region, far: Tile, times: int, at: At) -> Tile:
        """The changed picture of one that is known finely on an inner region, and around it from another whose px
        are so many times as large."""
        raise NotImplementedError

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...] | None:
        """The frames at which it looks at the picture before, of a layer that shows from `first` to
        `last`, if it is not this one."""
        return None

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        """The changed picture. `tile` holds all of `needs` that is not clear."""
        raise NotImplementedError

    def apply_to(self, tiles: Sequence[Tile], at: At, others: Sequence[Tile]) -> Tile:
        """The changed picture, from those at the moments it looks at."""
        return self.apply(tiles[0], at, *others)


class Pointwise(Step):
    """A step for which each px of the result depends on nothing but that px.

    Several in a row pass over the same few rows one after the other, so that the picture is
    fetched once for all of them.
    """

    fuses = True

    def changer(self, at: At) -> Changer:
        """What changes a few rows in place, made once for a picture."""
        raise NotImplementedError

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        """The picture with every px changed by itself."""
        return changed(tile, [self.changer(at)])


Changer = Callable[[Picture, Region], None]
"""Takes rows of a picture to be changed in place, and where they lie."""


def changed(tile: Tile, changers: list[Changer]) -> Tile:
    """A picture after pointwise changes, one after the other, a few rows at a time."""
    region = tile.region
    result = unset(region)

    def change_rows(first: int, last: int) -> None:
        rows = result[first:last]
        rows[...] = tile.pixels[first:last]
        place = Region(region.left, region.top + first, region.right, region.top + last)
        for change in changers:
            change(rows, place)
        hold_bounds(rows)

    in_bands(change_rows, region.height, band=NEAR_ROWS)
    return Tile(result, region)


class Timed(Step):
    """A step that looks at the layer at other moments."""

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        """The frames it looks at, for a layer that shows from `first` to `last`."""
        raise NotImplementedError

    @classmethod
    def how_many(cls, written: Any) -> int:
        """How many moments the step looks at, as a recipe writes it."""
        return 1

    def merge(self, tiles: tuple[Tile, ...], at: At) -> Tile:
        """One picture from those at the moments it looked at."""
        return tiles[0]

    def apply_to(self, tiles: Sequence[Tile], at: At, others: Sequence[Tile]) -> Tile:
        """The pictures at its moments, merged."""
        return self.merge(tuple(tiles), at)


class Limit(Kind):
    """Where a layer shows or a step acts: a matte made from a shape or from another layer."""

    outline: ClassVar[str] = ""
    """`rectangle` or `ellipse`, of its width and height about its centre, if it has one of these."""

    scales: ClassVar[bool] = False
    """Whether it covers the share of each px that lies inside, at any scale: so that where its edge is soft
    it is made no finer than that shows."""

    joins: Literal["intersect", "add", "subtract"] = setting(
        "intersect", help="What it does to the limits before it."
    )
    inverted: bool = setting(False, help="Whether the outside counts.")
    feather: float = setting(
        24,
        unit="px",
        drawn="feather",
        least=0,
        most=2000,
        usual=(0, 400),
        help="Width of its soft edge.",
    )

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        """How much each px of a region is inside, from 0 to 1, before its edge is softened."""
        raise NotImplementedError

    def extent(self, at: At) -> Region | None:
        """What of the canvas it can be about, in scaled px before its edge is softened, if that ends."""
        return None

    def bounds(self, at: At) -> Region | None:
        """Beyond what it leaves nothing, if there is such a region."""
        extent = None if self.inverted else self.extent(at)
        return None if extent is None else extent.grown(self.margin(at) + 1)

    def margin(self, at: At) -> int:
        """Whole px around what is wanted that the soft edge looks at."""
        return reach_of_softness(self._deviation(at))

    def draw(self, at: At, *others: Tile) -> Matte:
        """From 0 to 1 on exactly `at.wanted`. The soft edge goes up over `feather` px."""
        deviation = self._deviation(at)
        by = reduction_for(deviation)
        region = at.wanted.grown(self.margin(at)).aligned(max(by, _SOFT_GRID))
        if self.scales:
            small = Region(*(edge // by for edge in region))
            means = self.coverage(small, at._replace(scale=at.scale / by))
        else:
            means = reduced(self.coverage(region, at, *others), by)
        top, left = at.wanted.top - region.top, at.wanted.left - region.left
        part = Region(left, top, left + at.wanted.width, top + at.wanted.height)
        soft = softened_from(means, by, deviation, part)
        return np.subtract(1, soft) if self.inverted else np.ascontiguousarray(soft)

    def _deviation(self, at: At) -> float:
        return self.feather * at.scale * _DEVIATION_FOR_FEATHER


_DEVIATION_FOR_FEATHER = 0.25
"""A normal curve goes from 2 % to 98 % over four deviations."""

_SOFT_GRID = 64
"""Regions are aligned to it, so that a soft edge is reduced on the same grid whatever is asked for."""
