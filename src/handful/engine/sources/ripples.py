"""Ripples: waves on still water, from drops and from what moves through it."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key, uniform
from handful.engine.kernels.fluid.laid import covered, laid
from handful.engine.kernels.fluid.tank import MOST_COURANT, Field, ripple
from handful.engine.kinds import (
    At,
    LayerId,
    Others,
    State,
    Stretch,
    own_tempo,
    register,
    setting,
)
from handful.engine.picture import PictureKind, Tile, blank
from handful.engine.sources.area import Area
from handful.engine.values import Move

_MOST_STEPS = 64
_WHERE, _WHERE_ELSE, _HOW_DEEP = 0, 1, 2


class _Water(NamedTuple):
    """A state: heights `(R, C)` in px now and a step before, and the cover of what moves in it."""

    heights: Field
    before: Field
    moved: Field


@register
class Ripples(Area):
    """A sheet of still water with ripples on it: of drops that fall, and of another layer that moves
    through it. They run at one speed, meet, and come back from walls and edges.

    As a height it bends what is below it (with *bend*), or lies under a light; as light it is lit itself.
    """

    family = "water"
    paced_by = "tempo"
    briefly = {"preroll": 0.2, "detail": 64, "drops": 60, "deep": 60, "amount": 400}
    says = (
        "Water {width} by {height} about {at}, {preroll} before, its time {tempo}. Waves run at {speed}, half as high in {fades}; "
        "{edges}, and from {walls} they come back. {drops} drops a second fall, {drop} wide and {deep} deep, "
        "{uneven} uneven, and {by} pushes it {pushes}. It makes {comes_as}, {amount} as strong, in {colour} at {light} from "
        "{lit_from}. Computed in {detail} cells."
    )

    preroll: float = setting(
        1, unit="s", least=0, most=30, usual=(0, 6), help="How long drops have fallen already."
    )
    tempo: float = own_tempo("water")
    speed: float = setting(
        260, unit="px/s", least=1, most=20_000, usual=(20, 1500), help="How fast its waves run."
    )
    fades: float = setting(
        0.8,
        unit="s",
        least=0.02,
        most=600,
        usual=(0.1, 6),
        help="In what time they are half as high.",
    )
    edges: Literal["at its edges they come back", "they run out at its edges"] = setting(
        "they run out at its edges", help="Whether its edges are walls."
    )
    walls: LayerId = setting("", help="A layer whose cover they come back from.")
    drops: float = setting(
        3, unit="a second", least=0, most=2000, usual=(0, 60), help="How many drops fall."
    )
    drop: float = setting(
        26, unit="px", least=2, most=2000, usual=(6, 120), help="How wide what they press in is."
    )
    deep: float = setting(
        14, unit="px", least=0, most=2000, usual=(0, 60), help="How deep they press it in."
    )
    uneven: float = setting(
        60, unit="%", least=0, most=100, help="How much less deep some do: evenly spread."
    )
    by: LayerId = setting("", help="A layer that moves in it: where its cover comes, water goes.")
    pushes: float = setting(
        20, unit="px", least=-2000, most=2000, usual=(-80, 80), help="How deep that is pressed in."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is other drops."
    )
    comes_as: Literal["height", "light"] = setting(
        "height", look=True, help="Whether it is a height for others, or is lit itself."
    )
    amount: float = setting(
        100, unit="%", look=True, least=0, most=5000, usual=(0, 400), help="How high it counts, or how much its slopes gleam."
    )  # fmt: skip
    colour: Colour = setting("#cfe4ff", look=True, help="The colour of its light.")
    light: float = setting(
        1, unit="stops", look=True, least=-12, most=16, usual=(-4, 8), help="How bright that is."
    )
    lit_from: float = setting(
        -90, unit="°", look=True, drawn="direction", least=-36000, most=36000, usual=(-180, 180),
        help="Where it is lit from.",
    )  # fmt: skip

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "height" if written.comes_as == "height" else "light"

    @classmethod
    def steps_a_second(cls, written: Any) -> float:
        cell = max(written.width, written.height) / written.detail
        speed = 1.0 if isinstance(written.speed, Move) else float(written.speed)
        return float(min(_MOST_STEPS * 25.0, speed / cell / MOST_COURANT))

    def already(self) -> float:
        return self.preroll

    def watches(self) -> tuple[tuple[str, float], ...]:
        return tuple((named, self.seen_at()) for named in (self.walls, self.by) if named)

    def begin(self, at: At) -> State:
        still = np.zeros(self.size(), np.float32)
        return _Water(still, still, still)

    def steps(self, rate: float) -> int:
        return min(_MOST_STEPS, max(1, math.ceil(self.speed / self.cell() / rate / MOST_COURANT)))

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        water, cell = _Water(*state), self.cell()
        left, top = self.corner()
        place = (left, top, cell, self.seen_at(), *self.size())
        seen = dict(zip((named for named, _ in self.watches()), others, strict=True))
        walls = covered(seen[self.walls], *place) if self.walls else np.zeros_like(water.heights)
        moved = covered(seen[self.by], *place) if self.by else water.moved
        steps = self.steps(stretch.rate)
        lasts = 1 / stretch.rate / steps
        courant = min(MOST_COURANT, self.speed * lasts / cell)
        loses = math.log(2) / self.fades * 2 * lasts
        sponge = 0 if self.edges.startswith("at its") else max(4, round(0.06 * self.detail))
        heights, before = water.heights, water.before
        pressed = (water.moved - moved) * np.float32(self.pushes / steps) if self.by else None
        key = at.key("ripples", self.seed)
        for step in range(stretch.steps):
            heights, before = ripple(heights, before, walls, courant, loses, sponge), heights
            more = self._dropped(key, stretch.seconds + step * lasts, lasts)
            if pressed is not None:
                more = pressed if more is None else more + pressed
            if more is not None:
                heights += more
                before = before + more
        return _Water(heights, before, moved)

    def _dropped(self, key: Key, seconds: float, lasts: float) -> Field | None:
        """What drops press in, in a step from a moment on."""
        first, last = (math.ceil(self.drops * moment) for moment in (seconds, seconds + lasts))
        if first == last or self.deep == 0:
            return None
        rows, columns = self.size()
        wide = self.drop / 2 / self.cell()
        pressed = np.zeros((rows, columns), np.float32)
        for n in range(first, last):
            x, y = uniform(*key, n, _WHERE) * columns, uniform(*key, n, _WHERE_ELSE) * rows
            deep = self.deep * (1 - self.uneven / 100 * uniform(*key, n, _HOW_DEEP))
            reach = math.ceil(3 * wide)
            r0, r1 = max(0, int(y) - reach), min(rows, int(y) + reach + 1)
            c0, c1 = max(0, int(x) - reach), min(columns, int(x) + reach + 1)
            far = (
                (np.arange(r0, r1)[:, None] + 0.5 - y) ** 2 + (np.arange(c0, c1) + 0.5 - x) ** 2
            ) / wide**2
            # As much is thrown up about it as is pressed in.
            pressed[r0:r1, c0:c1] -= (deep * (1 - far) * np.exp(-far)).astype(np.float32)
        return pressed

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        heights = _Water(*state).heights
        left, top = self.corner()
        cell = self.cell()
        high, covers = laid(heights, left * at.scale, top * at.scale, cell * at.scale, at.wanted)
        strong = np.float32(self.amount / 100)
        if self.comes_as == "height":
            return Tile(high * strong, covers)
        picture = blank(covers)
        if covers.empty:
            return Tile(picture, covers)
        down, across = np.gradient(heights, axis=0), np.gradient(heights, axis=1)
        turn = math.radians(self.lit_from)
        slope = (across * math.cos(turn) + down * math.sin(turn)) / -cell
        gleam, _ = laid(
            slope.astype(np.float32),
            left * at.scale,
            top * at.scale,
            cell * at.scale,
            at.wanted,
        )
        gleam = np.maximum(0, gleam * strong) ** 1.5
        tint = np.array(self.colour, np.float32) * np.float32(2.0**self.light)
        picture[..., :3] = gleam[..., None] * tint
        return Tile(picture, covers)
