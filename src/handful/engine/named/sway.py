"""Sway: a field of pushes that several layers can share, so that they move as one."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.hash import Key
from handful.engine.kernels.noise import MOST_PUSH, field_on
from handful.engine.kinds import Kind, Piece, setting
from handful.engine.picture import Region
from handful.engine.values import Point

Offsets = NDArray[np.float32]


class Pin(Piece):
    """Holds a sway still near a point."""

    says = "Still at {at}, free from {distance}."

    at: Point = setting([960, 540], unit="px", help="Where nothing moves.")
    distance: float = setting(
        300, unit="px", least=1, most=20000, usual=(10, 1500), help="How far away it moves in full."
    )


class Sway(Kind):
    """A field of pushes in px, from noise that boils in place and drifts."""

    family = "warp"
    says = (
        "Pushes by up to {amount} {along}, in waves of {size} with {turbulence} turbulence, "
        "boiling {boil} and drifting {drift}. {pins}"
    )

    amount: float = setting(
        40, unit="px", least=0, most=4000, usual=(0, 300), help="How far it pushes at most."
    )
    along: Literal["all ways", "across", "down"] = setting(
        "all ways", help="Whether it pushes to all sides or along one axis only."
    )
    size: float = setting(
        260, unit="px", least=4, most=20000, usual=(20, 1500), help="Size of its waves."
    )
    turbulence: float = setting(
        30, unit="%", least=0, most=100, help="Strength of each finer wave, of the one before."
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 0.5},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far the field has changed in place.",
    )
    drift: Point = setting([0, 0], unit="px", help="How far its waves have travelled.")
    pins: tuple[Pin, ...] = setting([], least=0, most=16, help="Points near which it holds still.")
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another field."
    )

    def farthest(self) -> float:
        """The longest push along one axis, in px."""
        return self.amount * MOST_PUSH

    def offsets(self, region: Region, scale: float, key: Key) -> Offsets:
        """Pushes `(H, W, 2)`, x then y, in px of the scaled canvas, at the px of a region."""
        count = 1 if self.turbulence == 0 else 3
        field = field_on(
            region.left,
            region.top,
            region.width,
            region.height,
            self.size * scale,
            count,
            self.turbulence / 100,
            (self.drift.x * scale, self.drift.y * scale),
            self.boil,
            key,
        )
        pins = np.array([(p.at.x, p.at.y, p.distance) for p in self.pins], np.float64) * scale
        amount = self.amount * scale
        across = 0.0 if self.along == "down" else amount
        down = 0.0 if self.along == "across" else amount
        in_bands(
            _strengthen,
            region.height,
            region.left,
            region.top,
            across,
            down,
            pins.reshape(-1, 3),
            field,
        )
        return field


@compiled
def _strengthen(
    first: int,
    last: int,
    left: int,
    top: int,
    across: float,
    down: float,
    pins: NDArray[np.float64],
    field: Offsets,
) -> None:
    for y in range(first, last):
        for x in range(field.shape[1]):
            free = 1.0
            for i in range(pins.shape[0]):
                away = math.hypot(x + left + 0.5 - pins[i, 0], y + top + 0.5 - pins[i, 1])
                part = min(1.0, away / pins[i, 2])
                free *= part * part * (3.0 - 2.0 * part)
            field[y, x, 0] *= np.float32(across * free)
            field[y, x, 1] *= np.float32(down * free)
