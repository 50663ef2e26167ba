"""Molten: glass, metal or lava that creeps, cools, and tears its skin."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, STEP_OF_TABLE, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.noise import MOST_PUSH, field_on
from handful.engine.kernels.drawing.melt import Glow, draw_melt
from handful.engine.kernels.fluid.grid import LEVELS, Carried, Field, mark
from handful.engine.kernels.fluid.laid import covered, laid
from handful.engine.kernels.fluid.molten import Creeping, all_sides, creep, sides_within, stir
from handful.engine.kernels.fluid.skin import CORE, SKIN, Skin, fare
from handful.engine.kinds import (
    At,
    LayerId,
    Others,
    State,
    Stretch,
    clockwise,
    own_tempo,
    register,
    setting,
)
from handful.engine.named import Path
from handful.engine.picture import PictureKind, Tile
from handful.engine.sources.area import Area
from handful.engine.values import Point

_AS_THICK = 40.0
"""px that it stands when it runs as fast as is said."""

_STEPS_A_SECOND = 250.0


class _Melt(NamedTuple):
    """A state: how thick it stands `(R, C)`, in cells, and what it carries `(R, C, 8)`."""

    thick: Field
    levels: Carried


@register
class Molten(Area):
    """Molten glass, metal or lava, seen from above: it is poured, creeps by its weight, and cools by the fourth
    power. Its skin darkens, is pulled apart over what is brighter, and folds.

    It is computed from its beginning on; how hot it looks, its cracks and its gleam are seen at once.
    """

    family = "liquid"
    looks_ahead = True
    paced_by = "tempo"
    briefly = {
        "preroll": 0.4,
        "detail": 48,
        "start": [480, 270],
        "wide": 300,
        "stands": 8,
        "within": "",
    }
    says = (
        "Poured {pours} at {start}, {wide} wide, along {path} or from {of}, {feed} thick, over {stands} that stand already, on {width} by {height} about {at}, "
        "within {within}; {preroll} before, its time {tempo}. It runs at {runs} towards {falls}, {steep} steep, and is {stiffens} stiffer when cold; "
        "it is stirred by {stirs} in eddies of {eddies} that change {pace}. Its skin cools in {cools} and it in {chills}, warmed {warms} "
        "from below; it tears {tears}, heals in {heals} and is the same for {lasts}. It makes {comes_as}, {amount} as high, from {cold} to {kelvin} hot at {light}, {clear} "
        "deep, in plates of {plates} with cracks {cracks} and {always} always, {uneven} uneven, folds {folds}, rims {rims}, dull in {dull}, gleaming "
        "{gleams} from {lit_from}. Computed in {detail} cells."
    )

    pours: Literal["at a point", "along a path", "from a layer", "not at all"] = setting(
        "at a point", help="Where it is poured."
    )
    start: Point = setting([960, 540], unit="px", help="The point that it is poured at.")
    wide: float = setting(
        120, unit="px", drawn="radius", about="start", least=2, most=10_000, usual=(20, 600), help="How wide what is poured is."
    )  # fmt: skip
    path: Path | None = setting("", help="The path that it is poured along.")
    of: LayerId = setting("", help="The layer whose cover it comes from.")
    feed: float = setting(
        120, unit="px/s", least=0, most=5000, usual=(0, 400), help="How much thicker it gets there."
    )
    stands: float = setting(
        0, unit="px", least=0, most=1000, usual=(0, 100), help="How thick it stands everywhere at first."
    )  # fmt: skip
    within: LayerId = setting("", help="A layer whose cover holds it: nothing runs out of that.")
    preroll: float = setting(
        2, unit="s", least=0, most=60, usual=(0, 10), help="For how long it has run already."
    )
    tempo: float = own_tempo("pour")
    runs: float = setting(
        500, unit="px/s", least=0, most=10_000, usual=(5, 1000), help="How fast it runs straight down where it is 40 px thick: less is heavier."
    )  # fmt: skip
    steep: float = setting(
        0, unit="°", least=0, most=90, help="From 0 for a floor to 90 for a wall."
    )
    falls: float = clockwise(90, about="start", help="Which way it runs down.")
    stiffens: float = setting(
        60, unit="%", least=0, most=300, usual=(0, 150), help="How much stiffer it is when it is cold."
    )  # fmt: skip
    stirs: float = setting(
        0, unit="px/s", least=0, most=2000, usual=(0, 120), help="How fast its surface is stirred from below."
    )  # fmt: skip
    eddies: float = setting(
        420, unit="px", least=20, most=20_000, usual=(80, 1500), help="How wide what stirs it is."
    )
    pace: float = setting(
        0.05, unit="times a second", least=0, most=20, usual=(0, 1), help="How often that changes."
    )
    cools: float = setting(
        3, unit="s", least=0.05, most=3600, usual=(0.3, 30), help="In what time its skin is half as hot."
    )  # fmt: skip
    chills: float = setting(
        60, unit="s", least=0.5, most=36_000, usual=(5, 600), help="In what time all of it is, where it is 40 px thick."
    )  # fmt: skip
    warms: float = setting(
        20,
        unit="%",
        least=0,
        most=1000,
        usual=(0, 200),
        help="How much warmth comes up to its skin.",
    )
    tears: float = setting(
        15, unit="%", least=0, most=1000, usual=(0, 300), help="How much brighter it is where its skin is stretched."
    )  # fmt: skip
    heals: float = setting(
        4, unit="s", least=0.05, most=600, usual=(0.5, 30), help="In what time cracks close and folds go by half."
    )  # fmt: skip
    lasts: float = setting(
        8,
        unit="s",
        least=0.5,
        most=120,
        usual=(2, 30),
        help="How long a piece of skin is the same piece.",
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed has other plates and eddies."
    )
    comes_as: Literal["light", "height"] = setting(
        "light", look=True, help="Whether it shines, or is a height for others."
    )
    amount: float = setting(
        100, unit="%", look=True, least=0, most=5000, usual=(0, 300), help="How high it stands out, and how round."
    )  # fmt: skip
    kelvin: float = setting(
        1450, unit="K", look=True, least=700, most=4000, usual=(1000, 2200), help="How hot it is as it is poured: glass about 1400, steel 1900."
    )  # fmt: skip
    cold: float = setting(
        700, unit="K", look=True, least=300, most=2000, usual=(400, 1200), help="How hot what is quite cold still is."
    )  # fmt: skip
    light: float = setting(
        0, unit="stops", look=True, least=-12, most=16, usual=(-4, 8), help="How bright it is when poured."
    )  # fmt: skip
    clear: float = setting(
        0, unit="px", look=True, least=0, most=1000, usual=(0, 80), help="How thick it is when half its light comes from within: clear glass much, metal none."
    )  # fmt: skip
    plates: float = setting(
        110, unit="px", look=True, least=4, most=4000, usual=(20, 400), help="How wide plates of skin are."
    )  # fmt: skip
    cracks: float = setting(
        100, unit="%", look=True, least=0, most=1000, usual=(0, 300), help="How wide cracks get where skin is pulled apart."
    )  # fmt: skip
    always: float = setting(
        0, unit="%", look=True, least=0, most=100, usual=(0, 20), help="How wide they are everywhere, of a plate."
    )  # fmt: skip
    uneven: float = setting(
        12, unit="%", look=True, least=0, most=100, help="How unevenly hot its skin is."
    )
    folds: float = setting(
        40, unit="%", look=True, least=0, most=1000, usual=(0, 300), help="How deep folds are where it is pushed together."
    )  # fmt: skip
    rims: float = setting(
        30, unit="%", look=True, least=0, most=300, usual=(0, 100), help="How far rims of plates are bent up."
    )  # fmt: skip
    dull: Colour = setting("#2a2421", look=True, help="The colour of cold skin, in plain light.")
    gleams: float = setting(
        30, unit="%", look=True, least=0, most=1000, usual=(0, 200), help="How much it gleams: glass much, lava little."
    )  # fmt: skip
    lit_from: float = setting(
        -120, unit="°", look=True, drawn="direction", least=-36000, most=36000, usual=(-180, 180),
        help="Where plain light comes from.",
    )  # fmt: skip

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "height" if written.comes_as == "height" else "light"

    @classmethod
    def steps_a_second(cls, written: Any) -> float:
        return _STEPS_A_SECOND

    def already(self) -> float:
        return self.preroll

    def watches(self) -> tuple[tuple[str, float], ...]:
        named = (self.of if self.pours == "from a layer" else "", self.within)
        return tuple((layer, self.seen_at()) for layer in named if layer)

    def begin(self, at: At) -> State:
        levels = np.zeros((*self.size(), LEVELS), np.float32)
        levels[..., (SKIN, CORE)] = 1.0
        for which in (0, 1):
            mark(levels, which)
        return _Melt(np.full(self.size(), np.float32(self.stands / self.cell())), levels)

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        melt, cell = _Melt(*state), self.cell()
        place = (*self.corner(), cell, self.seen_at(), *self.size())
        seen = {
            layer: covered(other, *place)
            for (layer, _), other in zip(self.watches(), others, strict=True)
        }
        seconds, within = 1 / stretch.rate, seen.get(self.within)
        levels = self._remarked(melt.levels, stretch.seconds, seconds)
        poured = self._poured(seen.get(self.of), stretch) * np.float32(self.feed / cell * seconds)
        if within is None:
            thick, sides = melt.thick, all_sides(*self.size())
        else:
            thick, sides = melt.thick * (within > _HALF), sides_within(within)
            poured *= within > _HALF
        thick, across, down = creep(thick, levels, sides, poured, self._creeping(), seconds)
        if self.stirs > 0:
            self._stir(at, stretch.seconds, sides, (across, down))
        return _Melt(thick, fare(thick, levels, (across, down), poured, self._skin(), seconds))

    def _creeping(self) -> Creeping:
        cell, turn, tilt = self.cell(), math.radians(self.falls), math.radians(self.steep)
        return Creeping(
            runs=self.runs / cell / (_AS_THICK / cell) ** 2,
            across=math.sin(tilt) * math.cos(turn),
            down=math.sin(tilt) * math.sin(turn),
            flat=math.cos(tilt),
            stiffens=5 * self.stiffens / 100,
        )

    def _skin(self) -> Skin:
        # Half as hot after that time: heat goes as (1 + 3 c t) to the power of -1/3.
        return Skin(
            cools=_TO_HALF / self.cools,
            chills=_TO_HALF / self.chills * _AS_THICK / self.cell(),
            warms=self.warms / 100 / self.cools,
            heals=math.log(2) / self.heals,
            tears=self.tears / 100,
        )

    def _poured(self, cover: Field | None, stretch: Stretch) -> Field:
        """How much is poured on each cell, from nothing to 1, over a frame in which the point moves."""
        rows, columns = self.size()
        left, top = self.corner()
        cell = self.cell()
        if self.pours == "not at all":
            return np.zeros((rows, columns), np.float32)
        if self.pours == "from a layer":
            return np.zeros((rows, columns), np.float32) if cover is None else cover
        if self.pours == "along a path":
            if self.path is None:
                return np.zeros((rows, columns), np.float32)
            line = self.path.line(1.0)
        else:
            later = stretch.later
            assert isinstance(later, Molten)
            line = np.array([self.start, later.start])
        return _near((line - (left, top)) / cell, self.wide / 2 / cell, rows, columns)

    def _stir(
        self, at: At, seconds: float, sides: tuple[Field, Field], flow: tuple[Field, Field]
    ) -> None:
        """Add to a flow how its surface is stirred: it wells up and spreads, and turns on its way."""
        rows, columns = self.size()
        wide = self.eddies / self.cell()
        field = field_on(
            0, 0, columns + 2, rows + 2, wide, 2, 0.5, (0.0, 0.0), self.pace * seconds,
            at.key("molten", self.seed),
        )  # fmt: skip
        strong = self.stirs / self.cell() * wide * _AS_STEEP / MOST_PUSH
        stir(field, strong, sides, flow)

    def _remarked(self, levels: Carried, seconds: float, lasts: float) -> Carried:
        for which in (0, 1):
            if self._turn(seconds, which) != self._turn(seconds - lasts, which):
                levels = levels.copy()
                mark(levels, which)
        return levels

    def _turn(self, seconds: float, which: int) -> int:
        return math.floor(seconds / self.lasts + 0.5 * which)

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        melt, cell = _Melt(*state), self.cell()
        left, top = (part * at.scale for part in self.corner())
        if self.comes_as == "height":
            high, covers = laid(melt.thick, left, top, cell * at.scale, at.wanted)
            return Tile(np.maximum(0, high) * np.float32(cell * self.amount / 100), covers)
        phases = [seconds / self.lasts + 0.5 * which for which in (0, 1)]
        weights = [
            min(1.0, max(0.0, _KEPT * (1 - abs(2 * (phase % 1) - 1)) - (_KEPT - 1) / 2))
            for phase in phases
        ]
        turn = math.radians(self.lit_from)
        round_by = self.amount / 100
        plates = cell / self.plates
        glow = Glow(
            left=left,
            top=top,
            cell=cell * at.scale,
            ends=min(0.3, 2 / cell),
            clear=self.clear / cell,
            plates=plates,
            torn=0.25 * self.cracks / 100,
            always=self.always / 200,
            uneven=self.uneven / 100,
            folds=3 * self.folds / 100,
            way=(
                _ASLANT * math.cos(turn),
                _ASLANT * math.sin(turn),
                math.sqrt(1 - _ASLANT * _ASLANT),
            ),
            dull=self.dull,
            gleams=self.gleams / 100,
            raised=self.rims / 100,
            round=round_by,
            coldest=(self.cold - COLDEST) / STEP_OF_TABLE,
            hotter=(self.kelvin - self.cold) / STEP_OF_TABLE,
            weights=(weights[0], weights[1]),
            apart=(31.7 * (math.floor(phases[0]) % 64), 31.7 * (math.floor(phases[1]) % 64) + 13.3),
        )
        table = heat_table(self.kelvin) * np.float32(2.0**self.light)
        key = at.key("molten", self.seed)
        return draw_melt(melt.thick, melt.levels, table, glow, key, at.wanted)


_HALF = 0.5
_TO_HALF = 7 / 3
"""What makes heat that goes as (1 + 3 c t) to the power of -1/3 half after a time: c, of that time."""

_AS_STEEP = 0.35
"""How steep noise is on the mean, of what it is at most for each cell of its own: about."""

_KEPT = 6.0
"""How quickly one set of marks takes over from the other."""

_ASLANT = 0.72
"""How far from straight above light comes: the sine."""


def _near(line: NDArray[np.float64], reach: float, rows: int, columns: int) -> Field:
    """Which cells are within reach of a line `(N, 2)`, in cells, with a soft edge: from nothing to 1."""
    soft = max(1.0, _SOFT * reach)
    found = np.zeros((rows, columns), np.float32)
    for (ax, ay), (bx, by) in pairwise(line):
        far = reach + soft
        c0, c1 = max(0, int(min(ax, bx) - far)), min(columns, int(max(ax, bx) + far) + 2)
        r0, r1 = max(0, int(min(ay, by) - far)), min(rows, int(max(ay, by) + far) + 2)
        if c0 >= c1 or r0 >= r1:
            continue
        x, y = np.arange(c0, c1) + 0.5 - ax, np.arange(r0, r1)[:, None] + 0.5 - ay
        dx, dy = bx - ax, by - ay
        along = np.clip((x * dx + y * dy) / max(dx * dx + dy * dy, 1e-12), 0, 1)
        away = np.sqrt((x - along * dx) ** 2 + (y - along * dy) ** 2)
        part = np.clip((reach - away) / soft + 0.5, 0, 1)
        part = (part * part * (3 - 2 * part)).astype(np.float32)
        np.maximum(found[r0:r1, c0:c1], part, out=found[r0:r1, c0:c1])
    return found


_SOFT = 0.4
