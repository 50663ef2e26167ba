"""Shake: the picture trembles."""

from __future__ import annotations

from handful.engine.kernels.chance.hash import level_at
from handful.engine.kernels.forms.places import Matrix, moved_bounds, shifted, turned, undone
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.steps.place.place import placed
from handful.engine.values import Point


@register
class Shake(Step):
    """Trembles: moves and turns at random around its place, never faster than its rate."""

    family = "place"
    says = "Shakes by up to {across} across, {down} down and {turn} about {pivot}, at {phase}."

    across: float = setting(
        12, unit="px", least=0, most=4000, usual=(0, 200), help="Farthest push across."
    )
    down: float = setting(
        12, unit="px", least=0, most=4000, usual=(0, 200), help="Farthest push down."
    )
    turn: float = setting(0, unit="°", least=0, most=180, usual=(0, 20), help="Farthest turn.")
    phase: float = setting(
        {"moves": "rate", "start": 0, "per_second": 12},
        unit="changes",
        least=-1e7,
        most=1e7,
        usual=(0, 100),
        help="A new place at each whole number: its rate is how many there are a second.",
    )
    pivot: Point = setting([960, 540], unit="px", help="What it turns about.")
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another shake."
    )

    def needs(self, wanted: Region, at: At) -> Region:
        return moved_bounds(wanted, undone(self._matrix(at))).grown(2)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        return placed(tile, self._matrix(at), at)

    def _matrix(self, at: At) -> Matrix:
        x, y = self.pivot.x * at.scale, self.pivot.y * at.scale
        across, down, turn = (
            level_at(at.key("shake", self.seed, axis), self.phase) for axis in range(3)
        )
        moved = shifted(x + self.across * at.scale * across, y + self.down * at.scale * down)
        return moved @ turned(self.turn * turn) @ shifted(-x, -y)
