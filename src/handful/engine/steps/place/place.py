"""Place: moves, sizes and turns the picture about a pivot."""

from __future__ import annotations

from handful.engine.kernels.forms.places import (
    Matrix,
    moved_bounds,
    places_by,
    shifted,
    sized,
    turned,
    undone,
)
from handful.engine.kernels.pixels.resample import resampled
from handful.engine.kinds import At, Step, clockwise, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Place(Step):
    """Sizes and turns the picture about a pivot, then moves it."""

    family = "place"
    example = {"move": [160, 0], "turn": 12}
    says = "Moves by {move}; sizes to {across} across and {down} down, turns {turn}, about {pivot}."

    move: Point = setting(
        [0, 0], unit="px", drawn="offset", about="pivot", help="How far it is moved."
    )
    across: float = setting(100, unit="%", least=1, most=5000, usual=(10, 300), help="Size across.")
    down: float = setting(100, unit="%", least=1, most=5000, usual=(10, 300), help="Size down.")
    turn: float = clockwise(0, about="pivot", help="Clockwise turn.")
    pivot: Point = setting([960, 540], unit="px", help="What stays in its place but for the move.")

    def needs(self, wanted: Region, at: At) -> Region:
        return moved_bounds(wanted, undone(self._matrix(at))).grown(2)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        return placed(tile, self._matrix(at), at)

    def _matrix(self, at: At) -> Matrix:
        x, y = self.pivot.x * at.scale, self.pivot.y * at.scale
        about = sized(self.across / 100, self.down / 100) @ shifted(-x, -y)
        back = shifted(x + self.move.x * at.scale, y + self.move.y * at.scale)
        return back @ turned(self.turn) @ about


def placed(tile: Tile, matrix: Matrix, at: At) -> Tile:
    """A picture after an affine map of its px, with nothing beyond its edge."""
    region = moved_bounds(tile.region, matrix).grown(2).meet(at.wanted)
    places = places_by(undone(matrix), region)
    return resampled(tile, places, region, "clear", at.canvas)
