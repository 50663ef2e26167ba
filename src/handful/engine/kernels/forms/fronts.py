"""What there is at each distance from where a front comes from, as sums over the distance, so that a px
takes the mean of all that it holds, however thin it is.

- a push and its pull: Friedlander's curve (see `blast`), in rings one behind the other;
- a ball of air that is seen from aside: Abel's transform of that, what a line of sight gathers
  (Bracewell, "The Fourier Transform and its Applications", 1978, ch. 12);
- a drop in water: Cauchy and Poisson's waves of a round hollow, whose speed depends on their length by
  gravity, the pull of the surface and the depth (Lamb, "Hydrodynamics", 1932, arts. 228, 255, 267), and
  which die by viscosity (art. 348).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.fluid.water import GRAVITY

Line = NDArray[np.float64]

_GONE = 6.0
"""Times the length of a push after which nothing is left of it."""

NEAR = 60.0
"""px of a radius below which a front does not grow much stronger."""

_TENSION, _VISCOSITY = 7.28e-5, 1.0e-6
"""Of water at 20 °C: surface tension by density, m³/s², and kinematic viscosity, m²/s (handbook)."""


class Push(NamedTuple):
    """Rings of a push and a pull: over how far it rises, lasts, and how sharply it falls, in px; how many
    there are, how far apart, each of what share of the one before; at which radius it is down to half;
    and whether they run inwards. With `across`, each goes along that curve instead, from where its rise begins, 0,
    to the end of its tail, 1."""

    front: float
    tail: float
    sharp: float
    rings: int
    gap: float
    fainter: float
    reaches: float
    inwards: bool
    across: Callable[[Line], Line] | None = None

    def falls(self) -> float:
        """The power of the radius by which it grows weaker."""
        return math.log(2) / math.log1p(self.reaches / NEAR)

    def span(self, radius: float) -> tuple[float, float]:
        """Between which distances there is anything."""
        back = self._lasts() + (self.rings - 1) * self.gap
        if self.inwards:
            return radius - self.front, radius + back
        return radius - back, radius + self.front

    def at(self, away: Line, radius: float) -> Line:
        """What there is at some distances when the first ring is at a radius."""
        total = np.zeros(len(away))
        for n in range(self.rings):
            runs = radius + n * self.gap if self.inwards else radius - n * self.gap
            if runs < 0 < radius:
                break  # not begun; those of a cone, which has no radius, begin behind it
            behind = away - runs if self.inwards else runs - away
            weak = self.fainter**n * (1 + max(0.0, runs) / NEAR) ** -self.falls()
            total += np.where(behind < self._lasts(), weak * self._one(behind), 0)
        return total

    def strongest_pull(self) -> float:
        """What there is where one ring pulls most, below 0; or 0 where it only pushes."""
        behind, _ = steps_over(-self.front, self._lasts(), self._lasts() / _PULL_STEPS)
        return min(0.0, float(self._one(behind).min()))

    def _lasts(self) -> float:
        """How far behind its front one has an end."""
        return self.tail if self.across else _GONE * self.tail

    def _one(self, behind: Line) -> Line:
        """What there is of one of strength 1, so many px behind its front."""
        if self.across:
            along = (behind + self.front) / (self.front + self.tail)
            return np.where((along >= 0) & (along <= 1), self.across(np.clip(along, 0, 1)), 0)
        rise = np.clip((behind + self.front) / self.front, 0, 1)
        part = np.maximum(0, behind) / self.tail
        pressure: Line = rise * rise * (3 - 2 * rise) * (1 - part) * np.exp(-self.sharp * part)
        return pressure


_PULL_STEPS = 1024
"""Places at which the strongest pull is looked for."""


class Profile(NamedTuple):
    """What there is by distance: sums from `first` on in steps, px."""

    sums: Line
    first: float
    step: float


def profile(values: Line, first: float, step: float) -> Profile:
    """From values at the middles of steps."""
    return Profile(np.concatenate([[0.0], np.cumsum(values) * step]), first, step)


def steps_over(first: float, last: float, finest: float) -> tuple[Line, float]:
    """The middles of steps between two distances, as fine as is wanted but for a bound, and their length."""
    count = int(min(_MOST_STEPS, max(8, math.ceil((last - first) / finest))))
    step = (last - first) / count
    return np.asarray(first + (np.arange(count) + 0.5) * step, np.float64), step


_MOST_STEPS = 1 << 16


@compiled
def gathered(values: Line, step: float) -> Line:
    """Of what there is by the distance from a middle, at the middles of steps from 0 on: what a line that
    passes at each of these distances gathers over its length, px."""
    found = np.zeros(values.shape[0])
    for i in range(values.shape[0]):
        square = ((i + 0.5) * step) ** 2
        before = 0.0
        for j in range(i, values.shape[0]):
            after = math.sqrt(max(0.0, ((j + 1.0) * step) ** 2 - square))
            found[i] += 2.0 * values[j] * (after - before)
            before = after
    return found


def pace(waves: Line, depth: float) -> Line:
    """How fast waves of so many radians a metre turn, radians a second: ω² = (g k + σ k³ / ρ) tanh(k h)."""
    pulled: Line = np.sqrt((GRAVITY * waves + _TENSION * waves**3) * np.tanh(waves * depth))
    return pulled


def drop_reach(seconds: float, wide: float, depth: float) -> float:
    """Metres within which all waves are that can be seen of a drop so long after it."""
    half = wide / 2
    return _HOLLOW * half + _fastest(_LONGEST / half, _STEEPEST / half, depth) * seconds


def _fastest(first: float, last: float, depth: float) -> float:
    """How fast a group of waves goes at most, metres a second."""
    waves = np.asarray(np.linspace(first, last, 64), np.float64)
    return float(np.max(np.gradient(pace(waves, depth), waves)))


_HOLLOW, _LONGEST = 8.0, 0.05
"""Of half a hollow: as far as it goes itself; and the longest waves that it sends out, by their number."""


def drop_waves(away: Line, seconds: float, wide: float, depth: float) -> Line:
    """The height of water at some distances in metres so long after it stood in a hollow, as deep as 1 and
    `wide` metres across (twice the deviation of a normal curve)."""
    half = wide / 2
    last = min(_STEEPEST / half, math.sqrt(_FADED / (2 * _VISCOSITY * max(seconds, 1e-9))))
    fastest = _fastest(last / 64, last, depth)
    count = math.ceil(last * (float(away[-1]) + fastest * seconds) / _TURN)
    count = min(_MOST_WAVES, max(64, count))
    waves = np.asarray((np.arange(count) + 0.5) * (last / count), np.float64)
    strength = half * half * np.exp(-0.5 * (waves * half) ** 2) * waves * (waves[1] - waves[0])
    strength *= np.cos(pace(waves, depth) * seconds) * np.exp(-2 * _VISCOSITY * waves**2 * seconds)
    height = np.empty(len(away))
    in_bands(_add_waves, len(away), away, waves, strength, height, band=64)
    return height


@compiled
def _add_waves(
    first: int, last: int, away: Line, waves: Line, strength: Line, height: Line
) -> None:
    for i in range(first, last):
        total = 0.0
        for n in range(waves.shape[0]):
            total -= strength[n] * bessel(away[i] * waves[n])
        height[i] = total


@compiled
def bessel(x: float) -> float:
    """Bessel's function of the first kind and order 0, of what is not below 0 (Abramowitz and Stegun, 1964,
    9.4.1 and 9.4.3: within 2e-7)."""
    if x < 3.0:
        t = x * x / 9.0
        found = 0.0
        for by in (0.00021, -0.0039444, 0.0444479, -0.3163866, 1.2656208, -2.2499997, 1.0):
            found = found * t + by
        return found
    t = 3.0 / x
    high, turn = 0.0, 0.0
    for by in (
        0.00014476,
        -0.00072805,
        0.00137237,
        -0.00009512,
        -0.0055274,
        -0.00000077,
        0.79788456,
    ):
        high = high * t + by
    for by in (
        0.00013558,
        -0.00029333,
        -0.00054125,
        0.00262573,
        -0.00003954,
        -0.04166397,
        -0.78539816,
    ):
        turn = turn * t + by
    return high / math.sqrt(x) * math.cos(x + turn)


_STEEPEST, _FADED = 5.0, 8.0
"""Waves are left out that are finer than the hollow holds or viscosity leaves."""

_TURN = 0.5
"""Radians from one wave to the next at most, as far out and as late as is asked for."""

_MOST_WAVES = 4096
