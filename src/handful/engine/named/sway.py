"""Sway: a field of pushes that several layers can share, so that they move as one."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.noise import MOST_PUSH, field_on, octaves
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.lengths import way_length
from handful.engine.kinds import Kind, Piece, setting
from handful.engine.picture import Region
from handful.engine.values import Point

Offsets = NDArray[np.float32]


class Pin(Piece):
    """Holds a sway still near a point."""

    says = "Still at {at}, free from {distance}."

    at: Point = setting([960, 540], unit="px", help="Where nothing moves.")
    distance: float = setting(
        300,
        unit="px",
        drawn="radius",
        about="at",
        least=1,
        most=20000,
        usual=(10, 1500),
        help="How far away it moves in full.",
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
    drift: Point = setting(
        [0, 0], unit="px", elsewhere=True, help="How far its waves have travelled."
    )
    pins: tuple[Pin, ...] = setting([], least=0, most=16, help="Points near which it holds still.")
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another field."
    )

    def farthest(self) -> float:
        """The longest push along one axis, in px."""
        return self.amount * MOST_PUSH

    def pushes(self, places: NDArray[np.float64], key: Key) -> NDArray[np.float64]:
        """Pushes `(N, 2)` at places `(N, 2)`, both in px of the full-size canvas."""
        return _pushes(
            np.ascontiguousarray(places), self.size, self._octaves(), self.turbulence / 100,
            *self.drift, self.boil, *key, *self._strengths(1.0), self._pins(1.0),
        )  # fmt: skip

    def offsets(self, region: Region, scale: float, key: Key) -> Offsets:
        """Pushes `(H, W, 2)`, x then y, in px of the scaled canvas, at the px of a region."""
        field = field_on(
            region.left,
            region.top,
            region.width,
            region.height,
            self.size * scale,
            self._octaves(),
            self.turbulence / 100,
            (self.drift.x * scale, self.drift.y * scale),
            self.boil,
            key,
        )
        in_bands(
            _strengthen,
            region.height,
            region.left,
            region.top,
            *self._strengths(scale),
            self._pins(scale),
            field,
        )
        return field

    def _octaves(self) -> int:
        return 1 if self.turbulence == 0 else 3

    def _strengths(self, scale: float) -> tuple[float, float]:
        amount = self.amount * scale
        return (
            0.0 if self.along == "down" else amount,
            0.0 if self.along == "across" else amount,
        )

    def _pins(self, scale: float) -> NDArray[np.float64]:
        """`(N, 3)`: x, y and distance of each."""
        pins = np.array([(p.at.x, p.at.y, p.distance) for p in self.pins], np.float64) * scale
        return pins.reshape(-1, 3)


@compiled
def _free(x: float, y: float, pins: NDArray[np.float64]) -> float:
    """How freely a place moves, from 0 at a pin to 1."""
    free = 1.0
    for i in range(pins.shape[0]):
        part = min(1.0, way_length(x - pins[i, 0], y - pins[i, 1]) / pins[i, 2])
        free *= smooth(part)
    return free


@compiled
def _pushes(
    places: NDArray[np.float64],
    size: float,
    count: int,
    gain: float,
    drift_x: float,
    drift_y: float,
    boil: float,
    k0: int,
    k1: int,
    across: float,
    down: float,
    pins: NDArray[np.float64],
) -> NDArray[np.float64]:
    pushes = np.empty(places.shape)
    for i in range(places.shape[0]):
        x, y = places[i, 0], places[i, 1]
        first, second = octaves(
            (x - drift_x) / size, (y - drift_y) / size, boil, k0, k1, count, gain
        )
        free = _free(x, y, pins)
        pushes[i, 0], pushes[i, 1] = first * across * free, second * down * free
    return pushes


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
            free = _free(x + left + 0.5, y + top + 0.5, pins)
            field[y, x, 0] *= np.float32(across * free)
            field[y, x, 1] *= np.float32(down * free)
