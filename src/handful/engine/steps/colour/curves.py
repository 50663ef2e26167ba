"""Curves: light, each channel and cover along drawn curves."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.colour.transfer import as_light, as_seen
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.pixels.monotone import Numbers, curve_through
from handful.engine.kernels.pixels.tables import Table, table_of, through
from handful.engine.kinds import At, Changer, Piece, Pointwise, register, setting
from handful.engine.picture import Picture


class CurvePoint(Piece):
    """A point that a curve goes through."""

    pictured = "curve"

    says = "{level} to {becomes}"

    level: float = setting(
        50, unit="%", least=0, most=10_000, usual=(0, 100), help="The level before."
    )
    becomes: float = setting(
        50, unit="%", least=0, most=10_000, usual=(0, 100), help="The level that it becomes."
    )


_STRAIGHT = [{"level": 0, "becomes": 0}, {"level": 100, "becomes": 100}]


@register
class Curves(Pointwise):
    """Light along a curve for all channels and one for each, and cover along its own.

    The curves are monotone between their points and go straight on beyond them, so that light
    above 1 keeps its differences.
    """

    family = "colour"
    says = "All {master}; red {red}, green {green}, blue {blue}; cover {cover}; levels as {levels}."

    master: tuple[CurvePoint, ...] = setting(
        [{"level": 0, "becomes": 0}, {"level": 50, "becomes": 45}, {"level": 100, "becomes": 100}],
        least=1, most=16, help="The curve of all channels.",
    )  # fmt: skip
    red: tuple[CurvePoint, ...] = setting(_STRAIGHT, least=1, most=16, help="The curve of red.")
    green: tuple[CurvePoint, ...] = setting(_STRAIGHT, least=1, most=16, help="The curve of green.")
    blue: tuple[CurvePoint, ...] = setting(_STRAIGHT, least=1, most=16, help="The curve of blue.")
    cover: tuple[CurvePoint, ...] = setting(_STRAIGHT, least=1, most=16, help="The curve of cover.")
    levels: Literal["seen", "light"] = setting(
        "seen", help="Levels as they look (sRGB signal), or in proportion to light."
    )

    def changer(self, at: At) -> Changer:
        tables = np.stack([self._table(own) for own in (self.red, self.green, self.blue)])
        cover = np.clip(_curve(self.cover, np.linspace(0, 1, 1025)), 0, 1).astype(np.float32)
        changes_cover = not np.array_equal(cover, np.linspace(0, 1, 1025, dtype=np.float32))

        def change(rows: Picture, place: object) -> None:
            through(rows, tables)
            if changes_cover:
                _recover(rows, cover)

        return change

    def _table(self, own: tuple[CurvePoint, ...]) -> Table:
        if self.levels == "light":
            return table_of(lambda light: _curve(own, _curve(self.master, light)))
        return table_of(lambda light: as_light(_curve(own, _curve(self.master, as_seen(light)))))


def _curve(points: tuple[CurvePoint, ...], levels: Numbers) -> Numbers:
    """The curve through points, never below nothing."""
    through_them = curve_through(
        ((point.level / 100, point.becomes / 100) for point in points), levels
    )
    return np.maximum(through_them, 0)


@compiled
def _recover(rows: Picture, table: Table) -> None:
    """Cover through its table; the light of what is covered goes with it."""
    last = table.shape[0] - 1
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            cover = line[x, 3]
            if cover <= np.float32(0.0):
                continue
            place = min(np.float32(1.0), cover) * np.float32(last)
            index = min(last - 1, int(place))
            part = place - np.float32(index)
            new = table[index] + (table[index + 1] - table[index]) * part
            by = new / cover
            line[x, 0] *= by
            line[x, 1] *= by
            line[x, 2] *= by
            line[x, 3] = new
