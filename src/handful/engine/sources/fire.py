"""Fire: gas that burns, rises, tears and cools, and the smoke it leaves."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, STEP_OF_TABLE, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.gusts import gust
from handful.engine.kernels.drawing.flames import Seen, draw_flames, shade
from handful.engine.kernels.fluid.burning import HEAT, SOOT, Burning, burn, noise_sheet
from handful.engine.kernels.fluid.grid import LEVELS, mark
from handful.engine.kernels.fluid.guiding import guide
from handful.engine.kernels.fluid.laid import covered, laid
from handful.engine.kernels.fluid.pressure import COARSENINGS, open_sides
from handful.engine.kernels.fluid.walls import shut, wall_flow
from handful.engine.kinds import (
    At,
    LayerId,
    Others,
    State,
    Stateful,
    Stretch,
    TooMuch,
    own_tempo,
    register,
    setting,
)
from handful.engine.named import Path, Sway
from handful.engine.picture import PictureKind, Tile, clear_tile
from handful.engine.sources.swaying import swayed
from handful.engine.values import Point

_AIR, _FLAME = 300.0, 1500.0
"""Kelvin of still air, and of flame as it lifts."""

_GRAVITY = 9.81
_COMMON = 0.5
"""Metres of a foot that burns and cools in the times that are set, where its size paces it."""

_CELLS_A_STEP, _MOST_STEPS = 8.0, 32
"""A frame is cut into so many steps that what rises goes about so far in each."""

_FREE = 0.35
"""Of the air above it, from so high on a sway carries it in full."""

_EVEN = 2**COARSENINGS


class _Gas(NamedTuple):
    """A state: where the grid lies, as left, top and side of a cell in px; see `burn`."""

    place: NDArray[np.float32]
    across: NDArray[np.float32]
    down: NDArray[np.float32]
    levels: NDArray[np.float32]
    pressure: NDArray[np.float32]


@register
class Fire(Stateful):
    """Gas on a grid that burns: fuel lights where it is hot, swells, is lifted by its heat, cools by the
    fourth power and leaves soot, which is smoke.

    It is computed from its beginning on, in the real size of what burns: small fires are quick. What
    changes only its look is seen at once.
    """

    family = "fire"
    paced_by = "tempo"
    briefly = {"at": [480, 500], "preroll": 0.08, "detail": 48}
    says = (
        "Burns {stands} at {at}, {width} by {height}, in the shape of {fuel}, among {walls} along {path}, in a room {breadth} by {room}, "
        "{tall} high in the world, {preroll} before, its time {tempo}. Fuel {feed}, {uneven} uneven in waves of {wave} that "
        "change {pace}; it burns in {burns} and cools in {cools}, {paced}.\nLifted {lift}, swelling {swell}, with "
        "eddies {eddies}, in wind {wind} with gusts {gusts}, swaying with {sway}.\nIt leaves {soot} soot, half of it gone in "
        "{clears}.\nFlames are {kelvin} hot, at {light}, {dense} dense, blue {blue} at the foot, frayed "
        "{fray} in {threads} and {finer} finer; smoke {smoke} dense in {smoke_colour}, lit {lit} by the flames and from {lit_from}, {shade} in its own shadow with relief {relief}.\nComputed in "
        "{detail} rows and {sheets} sheets. It comes as {comes_as}, {shimmer} high where air is all but gone."
    )

    at: Point = setting([960, 940], unit="px", help="The middle of its foot.")
    width: float = setting(
        260,
        unit="px",
        drawn="width",
        about="at",
        least=1,
        most=20000,
        usual=(10, 1500),
        help="How wide the foot is.",
    )
    height: float = setting(
        50, unit="px", drawn="height", about="at", least=1, most=20000, usual=(4, 400),
        help="How high the foot is.",
    )  # fmt: skip
    stands: Literal["on the ground", "in the air", "above"] = setting(
        "on the ground", help="Whether there is ground under it, or air to sink into."
    )
    fuel: LayerId = setting("", help="A layer whose cover burns in place of the foot.")
    walls: LayerId = setting("", help="A layer whose cover nothing passes: flames go round it.")
    path: Path | None = setting(
        "", help="A path that flames go along from their foot, as high as it goes, whatever their size and pace."
    )  # fmt: skip
    breadth: int = setting(
        1000,
        unit="px",
        least=32,
        most=16000,
        usual=(200, 3000),
        help="How broad the air is about it.",
    )
    room: int = setting(
        1000,
        unit="px",
        least=32,
        most=16000,
        usual=(200, 3000),
        help="How high the air is above it.",
    )
    tall: float = setting(
        2,
        unit="m",
        least=0.02,
        most=500,
        usual=(0.1, 20),
        help="How high that is in the world: small fires are quick, great ones slow.",
    )
    preroll: float = setting(
        1.5, unit="s", least=0, most=20, usual=(0, 4), help="How long it has burnt already."
    )
    tempo: float = own_tempo("fire")
    feed: float = setting(100, unit="%", least=0, most=100, help="How much fuel comes.")
    uneven: float = setting(70, unit="%", least=0, most=100, help="How unevenly it comes.")
    wave: float = setting(
        40,
        unit="%",
        least=5,
        most=400,
        usual=(10, 100),
        help="How wide its waves are, of the foot.",
    )
    pace: float = setting(
        2.5, unit="times a second", least=0, most=50, usual=(0, 10), help="How often they change."
    )
    burns: float = setting(
        0.25, unit="s", least=0.01, most=20, usual=(0.05, 2), help="In what time fuel burns."
    )
    cools: float = setting(
        0.3,
        unit="s",
        least=0.01,
        most=60,
        usual=(0.05, 3),
        help="In what time flame is half as hot.",
    )
    paced: Literal["as it is set", "by its size"] = setting(
        "by its size",
        help="Whether it burns and cools in those times, or one half a metre wide does: one four times as wide is "
        "half as quick. Where a layer burns, the width that is set counts too.",
    )
    lift: float = setting(
        100, unit="%", least=-100, most=500, usual=(0, 200), help="How strongly heat lifts it."
    )
    swell: float = setting(
        100, unit="%", least=0, most=1000, usual=(0, 300), help="How much it swells as it burns."
    )
    eddies: float = setting(
        40, unit="%", least=0, most=300, usual=(0, 120), help="How much its eddies are kept alive."
    )
    wind: float = setting(
        0, unit="m/s", least=-50, most=50, usual=(-5, 5), help="Wind to the right."
    )
    gusts: float = setting(
        30, unit="%", least=0, most=300, usual=(0, 100), help="How much the wind comes and goes."
    )
    sway: Sway | None = setting(
        "", look=True, help="A sway that carries it, more and more above its foot, as what else is in that air."
    )  # fmt: skip
    soot: float = setting(
        60, unit="%", least=0, most=400, usual=(0, 200), help="How much soot it leaves."
    )
    clears: float = setting(
        1.5,
        unit="s",
        least=0.05,
        most=600,
        usual=(0.3, 20),
        help="In what time half the smoke is gone.",
    )
    detail: int = setting(
        176,
        least=32,
        most=640,
        usual=(96, 320),
        help="Rows of the grid it is computed on.",
    )
    sheets: int = setting(
        2, least=1, most=8, help="How many sheets of it stand behind one another."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another fire."
    )
    kelvin: float = setting(
        1900,
        unit="K",
        look=True,
        least=900,
        most=5500,
        usual=(1300, 2600),
        help="How hot flames are.",
    )
    light: float = setting(
        3, unit="stops", look=True, least=-12, most=16, usual=(-4, 8), help="How bright they are."
    )
    dense: float = setting(
        100, unit="%", look=True, least=0, most=1000, usual=(10, 300), help="How thick they look."
    )
    blue: float = setting(
        6, unit="%", look=True, least=0, most=500, usual=(0, 100), help="How blue the foot is."
    )
    fray: float = setting(
        40, unit="%", look=True, least=0, most=300, usual=(0, 100), help="How frayed they are."
    )
    threads: float = setting(
        24, unit="px", look=True, least=2, most=1000, usual=(6, 80), help="How wide the frays are."
    )
    finer: float = setting(
        0, unit="%", look=True, least=0, most=200, usual=(0, 100), help="How much finer frays lie in them: more detail of the same motion."
    )  # fmt: skip
    smoke: float = setting(
        12, unit="%", look=True, least=0, most=1000, usual=(0, 200), help="How dense smoke is."
    )
    smoke_colour: Colour = setting("#4a4644", look=True, help="Its colour, in plain light.")
    lit: float = setting(
        100,
        unit="%",
        look=True,
        least=0,
        most=1000,
        usual=(0, 300),
        help="How much flames light it.",
    )
    lit_from: float = setting(
        -120,
        unit="°",
        look=True,
        least=-160,
        most=-20,
        help="Where plain light comes from: -90 is straight above.",
    )
    shade: float = setting(
        70, unit="%", look=True, least=0, most=100, help="How dark smoke is in its own shadow."
    )
    relief: float = setting(
        60, unit="%", look=True, least=0, most=100, help="How much its billows stand out in plain light."
    )  # fmt: skip
    comes_as: Literal["light", "heat"] = setting(
        "light",
        look=True,
        help="Whether it is seen, or is a height that says how thin its hot air is, to bend what is behind.",
    )
    shimmer: float = setting(
        4, unit="px", look=True, least=0, most=2000, usual=(0.5, 20), help="As heat: how high that height is where air is all but gone."
    )  # fmt: skip

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "height" if written.comes_as == "heat" else "light"

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        rows, columns = _grid(written.detail, written.room, written.breadth)
        if rows * columns * written.sheets <= _MOST_CELLS:
            return None
        fits = math.sqrt(_MOST_CELLS / written.sheets * written.room / written.breadth)
        nearest = max(32, int(fits) // _EVEN * _EVEN - _EVEN)
        return TooMuch(
            "detail",
            f"A grid of {rows} by {columns} in {written.sheets} sheets is more than {_MOST_CELLS:,} cells; "
            "take fewer rows or sheets, or less air about it.",
            nearest,
        )

    def already(self) -> float:
        return self.preroll

    def watches(self) -> tuple[tuple[str, float], ...]:
        return tuple((named, self._seen_at()) for named in (self.fuel, self.walls) if named)

    def watches_next(self) -> tuple[tuple[str, float], ...]:
        return ((self.walls, self._seen_at()),) if self.walls else ()

    def begin(self, at: At) -> State:
        rows, columns = self._size()
        count, cell = self.sheets, self._cell()
        left = self.at.x - columns * cell / 2
        top = self.at.y + _BELOW[self.stands] * rows * cell - rows * cell
        levels = np.zeros((count, rows, columns, LEVELS), np.float32)
        for sheet in levels:
            for which in (0, 1):
                mark(sheet, which)
        return _Gas(
            np.array([left, top, cell], np.float32),
            np.zeros((count, rows, columns + 1), np.float32),
            np.zeros((count, rows + 1, columns), np.float32),
            levels,
            np.zeros((count, rows + 2, columns + 2), np.float32),
        )

    def steps(self, rate: float) -> int:
        rises = 2 * math.sqrt(_GRAVITY * self.tall * max(0.1, abs(self.lift) / 100))
        rows, _ = self._size()
        cells = (rises + abs(self.wind)) * rows / self.tall / rate
        return min(_MOST_STEPS, max(1, math.ceil(cells / _CELLS_A_STEP)))

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        gas = _Gas(*(array.copy() for array in state))
        rows, columns = gas.levels.shape[1:3]
        covers = iter([self._on_grid(other, gas) for other in others])
        fed = self._fed(gas, next(covers) if self.fuel else None)
        sides = open_sides(rows, columns, self.stands == "on the ground")
        flow = (np.zeros_like(sides[0]), np.zeros_like(sides[1]))
        if self.walls:
            cover, later = next(covers), next(covers)
            shut(*sides, cover)
            flow = wall_flow(cover, later, 1 / stretch.rate)
        across, down, levels = burn(
            gas.across, gas.down, gas.levels, gas.pressure, fed, sides, flow, self._guide(gas),
            noise_sheet(at.key("fire", self.seed)),
            self._burning(gas, at, stretch.seconds), stretch.seconds,
            1 / stretch.rate / self.steps(stretch.rate), stretch.steps,
        )  # fmt: skip
        return gas._replace(across=across, down=down, levels=levels)

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        gas = _Gas(*state)
        if not gas.levels[..., (HEAT, SOOT)].any():
            return clear_tile(at.wanted, "height" if self.comes_as == "heat" else "light")
        if self.sway is None:
            return self._drawn(gas, at, seconds, ahead)
        free = _FREE * self.room
        return swayed(
            lambda wider: self._drawn(gas, wider, seconds, ahead), self.sway, at, self.at.y, free
        )

    def _drawn(self, gas: _Gas, at: At, seconds: float, ahead: float) -> Tile:
        left, top, cell = (float(part) * at.scale for part in gas.place)
        if self.comes_as == "heat":
            heat = np.maximum(gas.levels[..., HEAT], 0)
            kelvins = np.float32(_AIR) + heat * np.float32(self.kelvin - _AIR)
            thin = thinness(kelvins).mean(axis=0)
            found, region = laid(thin, left, top, cell, at.wanted)
            return Tile(found * np.float32(self.shimmer), region)
        table = heat_table(self.kelvin) * np.float32(2.0**self.light)
        turned = [seconds / self._marked() + 0.5 * which for which in (0, 1)]
        phases = [turn % 1.0 for turn in turned]
        weights = [1 - abs(2 * phase - 1) for phase in phases]
        turns = [math.floor(turn) for turn in turned]
        strong = math.hypot(*weights) or 1.0
        seen = Seen(
            left=left,
            top=top,
            cell=cell,
            ahead=ahead,
            coldest=(_AIR - COLDEST) / STEP_OF_TABLE,
            hotter=(self.kelvin - _AIR) / STEP_OF_TABLE,
            dense=self.dense / 100 * 3 / gas.levels.shape[0],
            blue=self.blue / 100 * 2.0**self.light / gas.levels.shape[0],
            smoky=self.smoke / 100 * 6 / gas.levels.shape[0],
            billowy=10 * (cell / at.scale) / (2 * self.threads) if self.relief else 0.0,
            billows=_BILLOWS * self.relief / 100,
            frayed=self.fray / 100 * self.threads / (cell / at.scale) * 0.35,
            finely=10 * (cell / at.scale) / self.threads,
            finer=0.45 * self.finer / 100,
            streaked=0.03 * self.fray / 40,
            hollow=_HOLLOW,
            weights=(weights[0] / strong, weights[1] / strong),
            apart=(31.7 * turns[0] % 256, 57.3 * turns[1] % 256),
        )
        smoke = np.array(self.smoke_colour, np.float32)
        return draw_flames(
            gas.across, gas.down, gas.levels, self._lit(gas, table),
            noise_sheet(at.key("fire", self.seed)), table, smoke, seen, at.wanted,
        )  # fmt: skip

    def wide(self) -> float:
        """How wide the foot is in the world, in metres."""
        return self.width * self.tall / self.room

    def _cell(self) -> float:
        """The side of a cell in px."""
        return self.room / self.detail

    def _size(self) -> tuple[int, int]:
        return _grid(self.detail, self.room, self.breadth)

    def _burning(self, gas: _Gas, at: At, seconds: float) -> Burning:
        metre = gas.levels.shape[1] / self.tall
        hot = (_FLAME - _AIR) / _AIR
        foot = max(2.0, self.width / float(gas.place[2]))
        strong = self.gusts / 100 * gust(seconds, at.key("gusts", self.seed))
        wind = self.wind + strong * max(0.4, abs(self.wind))
        return Burning(
            burns=1 / self.burns / self._slow(),
            heats=_HEATS,
            swells=SWELLS * self.swell / 100 * min(1.0, self._longer()),
            cools=7 / (3 * self.cools * self._slow()),
            lift=_GRAVITY * metre * hot * 0.9 * self.lift / 100,
            weight=_GRAVITY * metre * _SOOT_WEIGHS,
            soots=self.soot / 100,
            clears=math.log(2) / self.clears,
            eddies=self.eddies / 100 * 0.25 * math.sqrt(_GRAVITY * self.tall) * metre / 16,
            wind=wind * metre,
            hold=_HOLDS / math.sqrt(self.tall),
            uneven=self.uneven / 100,
            wave=max(2.0, foot * self.wave / 100),
            pace=self.pace / 4,
            marked=self._marked(),
        )

    def _slow(self) -> float:
        """How many times as long as it is set it takes to burn and to cool."""
        by_size = math.sqrt(self.wide() / _COMMON)
        if self.path is None:
            return by_size if self.paced == "by its size" else 1.0
        return by_size * self._longer() * _LASTS / (self.burns + _COOLING * self.cools)

    def _longer(self) -> float:
        """How many times as long as it comes it shines to be as high as a path is long."""
        if self.path is None:
            return 1.0
        high = float(np.hypot(*np.diff(self.path.line(1.0), axis=0).T).sum()) / self.width
        return min(_LONGEST, max(1 / _LONGEST, math.pow(high / _HIGH, 1 / _HIGHER)))

    def _guide(self, gas: _Gas) -> NDArray[np.float32]:
        rows, columns = gas.levels.shape[1:3]
        if self.path is None:
            return np.empty((0, 0, 3), np.float32)
        line = self.path.line(1.0)
        if math.dist(line[-1], self.at) < math.dist(line[0], self.at):
            line = line[::-1]
        cells = (line - gas.place[:2]) / gas.place[2]
        broad = self.width / float(gas.place[2])
        return guide(tuple((float(x), float(y)) for x, y in cells), broad, rows, columns)

    def _marked(self) -> float:
        """Seconds after which a set of marks begins anew: great ones roll slowly."""
        return _MARKED * min(_LONGEST_MARKED, max(1.0, math.sqrt(self.tall / 2)))

    def _seen_at(self) -> float:
        """The scale at which a px of another layer is about a cell."""
        return min(1.0, 1 / self._cell())

    def _on_grid(self, other: Tile, gas: _Gas) -> NDArray[np.float32]:
        left, top, cell = (float(part) for part in gas.place)
        return covered(other, left, top, cell, self._seen_at(), *gas.levels.shape[1:3])

    def _fed(self, gas: _Gas, cover: NDArray[np.float32] | None) -> NDArray[np.float32]:
        """How much fuel comes into each cell of each sheet."""
        count, rows, columns = gas.levels.shape[:3]
        left, top, cell = (float(part) for part in gas.place)
        if cover is not None:
            fed = np.repeat(cover[None], count, axis=0)
            return np.ascontiguousarray(fed * np.float32(self.feed / 100))
        place = (left - self.at.x, top - self.at.y, cell)
        foot = _foot(count, rows, columns, place, self.width, self.height)
        return foot * np.float32(self.feed / 100)

    def _lit(self, gas: _Gas, table: NDArray[np.float32]) -> NDArray[np.float32]:
        """How brightly smoke is lit: by day's light, and by the flames near it."""
        heat = gas.levels[..., HEAT].max(axis=0)
        place = np.clip(
            (_AIR - COLDEST + heat * (self.kelvin - _AIR)) / STEP_OF_TABLE, 0, len(table) - 1
        )
        shine = table[place.astype(np.int32)].mean(axis=2)
        near = cv2.GaussianBlur(shine, (0, 0), max(1.0, heat.shape[0] / 14))
        near += cv2.GaussianBlur(shine, (0, 0), max(1.0, heat.shape[0] / 40))
        soot = np.ascontiguousarray(gas.levels[..., SOOT].sum(axis=0))
        come = np.empty_like(soot)
        turn = math.radians(self.lit_from)
        dense = self.smoke / 100 * _IN_SHADOW / gas.levels.shape[0] / soot.shape[0]
        shade(soot, -math.cos(turn) / math.sin(-turn), dense, come)
        dark = np.float32(self.shade / 100)
        plain = (1 - dark + dark * (_FRONT + (1 - _FRONT) * come)) * self._relief(soot)
        lit: NDArray[np.float32] = plain + np.float32(self.lit / 100 * 0.8) * near
        return lit

    def _relief(self, soot: NDArray[np.float32]) -> NDArray[np.float32]:
        """How brightly plain light falls on smoke that bulges towards the eye where it is thick, beside one that is flat:
        by Lambert's law."""
        thick = np.log1p(soot * np.float32(self.smoke / 100 * 6))
        x, y = math.cos(math.radians(self.lit_from)), math.sin(math.radians(self.lit_from))
        across, down = np.zeros_like(thick), np.zeros_like(thick)
        for wide in _BULGES:
            soft = cv2.GaussianBlur(thick, (0, 0), max(0.8, wide * len(soot)))
            steep = np.float32(_STEEP * wide * len(soot))
            across += steep * cv2.Sobel(soft, cv2.CV_32F, 1, 0, scale=1 / 8)
            down += steep * cv2.Sobel(soft, cv2.CV_32F, 0, 1, scale=1 / 8)
        faces = 1 - np.float32(_SIDEWAYS) * (across * np.float32(x) + down * np.float32(y))
        faces = np.maximum(0, faces) / np.sqrt(1 + across * across + down * down)
        much = np.float32(self.relief / 100)
        found: NDArray[np.float32] = 1 - much + much * faces
        return found


def thinness(kelvins: NDArray[np.float32]) -> NDArray[np.float32]:
    """How much thinner air is at some temperatures than around, as a part: 1 - T0 / T at one pressure. So much less
    of what slows light in it is there, as n - 1 goes with density (Gladstone and Dale 1863)."""
    thin: NDArray[np.float32] = (1 - _AIR / np.maximum(kelvins, _AIR)).astype(np.float32)
    return thin


@lru_cache(maxsize=8)
def _foot(
    count: int,
    rows: int,
    columns: int,
    place: tuple[float, float, float],
    width: float,
    height: float,
) -> NDArray[np.float32]:
    """How much of each cell of each sheet is in a foot: an ellipse, narrower in the sheets before and behind the
    middle one. `place` is where the grid begins from its middle, and the side of a cell, in px."""
    left, top, cell = place
    x = (np.arange(columns, dtype=np.float32) + np.float32(0.5)) * np.float32(cell) + left
    y = (np.arange(rows, dtype=np.float32) + np.float32(0.5)) * np.float32(cell) + top
    foot = np.empty((count, rows, columns), np.float32)
    for s in range(count):
        deep = (s + 0.5) / count * 2 - 1
        narrower = math.sqrt(1 - 0.8 * deep * deep)
        away = np.hypot(
            x[None, :] / max(cell, width / 2 * narrower), y[:, None] / max(cell, height / 2)
        )
        foot[s] = np.clip((1 - away) * 4, 0, 1)
    foot.setflags(write=False)
    return foot


_BELOW = {"on the ground": 0.03, "in the air": 0.2, "above": 0.88}
"""The part of the grid's height that lies below the foot's middle."""

_IN_SHADOW = 40.0
"""How much denser smoke is to light that comes from above than to the eye, through a whole grid of it."""

_BULGES, _STEEP, _SIDEWAYS = (0.008, 0.03), 1.5, 1.3
"""How wide the bulges of smoke are, as parts of the grid's height; how steep; and how much more of the light comes
from the side than from the front."""

_BILLOWS, _FRONT = 0.6, 0.25
"""How much lighter and darker the sides of finer billows are; and how much of plain light comes to what smoke turns to
the eye, however much of it there is above."""

_MARKED, _LONGEST_MARKED = 0.5, 1.6
"""Seconds after which a set of marks begins anew where a room is 2 m high, and how many times as long at most."""


_MOST_CELLS = 1_500_000

_HEATS, SWELLS, _SOOT_WEIGHS = 3.0, 2.0, 0.02
"""By how much a share of fuel heats what is cold and lets it swell, and the weight of soot beside air's."""

_HOLDS = 5.7
"""How firmly still air holds what is cool, a second, in a room 1 m high: it stands for the air that in the
world comes from before and behind."""

_COOLING, _LASTS = 1.43, 0.68
"""Flame shines until it has cooled for so many times its half-life, and in all for so many seconds as it comes."""

_HIGH, _HIGHER, _LONGEST = 2.8, 1.45, 8.0
"""As wide as its foot times this it stands then, a little too high for what a line holds down; and if it shines
longer, higher by that power. Measured from 0.1 to 2 m, from half to six times as high as wide."""

_HOLLOW = 0.75
"""How much less fuel shines that does not burn yet."""


def _grid(detail: int, room: int, breadth: int) -> tuple[int, int]:
    """Rows and columns of the grid, which are even as often as its pressure needs."""
    columns = breadth / (room / detail)
    return _EVEN * math.ceil(detail / _EVEN), _EVEN * max(2, math.ceil(columns / _EVEN))
