"""Cloth: a sheet that hangs, flies, falls and folds, in the wind."""

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.gusts import gust
from handful.engine.kernels.forms.sheet import WHOLE, Points, Sheet, hang
from handful.engine.kernels.forms.tear import ties_left
from handful.engine.kinds import (
    At,
    Piece,
    State,
    Stateful,
    Stretch,
    TooMuch,
    own_tempo,
    register,
    setting,
    too_long,
)
from handful.engine.named import Path
from handful.engine.picture import Tile
from handful.engine.sources.cloth.worn import PRINT, WORN_SAYS, Torn, Worn, printed_on, tear_of
from handful.engine.values import Point

_GRAVITY = 9.81
_AIR = 1.2
"""Kilograms of a cubic metre of air."""

_PLATE = 1.2
"""The drag coefficient of a flat plate across the wind (handbook value)."""

_MOST_POINTS = 160
_RUBS = 0.4
_MOST_WORK = 3e8
"""So many steps of a point before it begins are computed at most."""


class Peg(Piece):
    """A point of a cloth that is held at a place of its own."""

    says = "pegged {across} across and {down} down at {at}"

    across: float = setting(
        50,
        unit="%",
        least=0,
        most=100,
        help="Which point of it: how far across from its left edge.",
    )
    down: float = setting(
        0, unit="%", least=0, most=100, help="How far down from its upper edge that is."
    )
    at: Point = setting([960, 190], unit="px", help="Where that point is held.")


class _Hung(NamedTuple):
    """A state: where the points `(R, C, 3)` are and how fast; and where the upper left corner lay at its beginning."""

    places: Points
    speeds: Points
    rate: NDArray[np.float64]
    corner: NDArray[np.float64]


class Hanging(Stateful):
    """How a sheet of cloth hangs and moves. Its size does not move."""

    looks_ahead: ClassVar[bool] = True
    steadier = "take more steps a frame, let it give more, or less wind"
    paced_by = "tempo"
    briefly = {"preroll": 0.08, "detail": 16, "steps_a_frame": 4, "torn": 50}

    at: Point = setting([960, 190], unit="px", help="The middle of its upper edge, as it is held.")
    held: Literal[
        "its upper edge",
        "its upper corners",
        "rings",
        "its left edge",
        "its left corners",
        "nothing",
    ] = setting("its upper edge", help="By what it is held.")
    pegs: tuple[Peg, ...] = setting(
        [], least=0, most=24, help="Points of it that are held at places of their own."
    )
    lies: Literal["hanging", "lying"] = setting(
        "hanging",
        help="How it is at its very beginning: hanging down, or lying flat as on a table.",
    )
    width: int = setting(
        760, unit="px", drawn="width", about="at", least=4, most=20000, usual=(50, 2500), help="How wide it is."
    )  # fmt: skip
    height: int = setting(
        760, unit="px", least=4, most=20000, usual=(50, 2500), help="How long it hangs."
    )
    tall: float = setting(
        2, unit="m", least=0.02, most=500, usual=(0.2, 20), help="How long that is in the world."
    )
    gathered: float = setting(
        0, unit="%", least=0, most=80, help="How much closer than it is wide it is held."
    )
    folds: int = setting(
        7, least=1, most=60, help="In how many folds it is gathered, or rings hang."
    )
    preroll: float = setting(
        2, unit="s", least=0, most=30, usual=(0, 6), help="How long it has hung already."
    )
    tempo: float = own_tempo("cloth")
    weight: float = setting(
        180, unit="g/m²", least=10, most=20_000, usual=(50, 1000), help="How heavy it is."
    )
    stretch: float = setting(
        1, unit="%", least=0, most=100, usual=(0, 10), help="How far it gives under its own weight, about."
    )  # fmt: skip
    bend: float = setting(
        40, unit="%", least=0, most=100, help="How easily it bends: stiff, or soft as silk."
    )
    calms: float = setting(
        0.5, unit="1/s", least=0, most=50, usual=(0, 4), help="How soon it comes to rest by itself."
    )
    wind: float = setting(
        3, unit="m/s", least=-60, most=60, usual=(-15, 15), help="Wind to the right."
    )
    blows: float = setting(
        1, unit="m/s", least=-60, most=60, usual=(-15, 15), help="Wind towards the eye."
    )
    gusts: float = setting(
        40, unit="%", least=0, most=300, usual=(0, 100), help="How much the wind comes and goes."
    )
    eddies: float = setting(
        50, unit="%", least=0, most=300, usual=(0, 120), help="How much it whirls as it passes."
    )
    eddy: float = setting(
        420, unit="px", least=10, most=20_000, usual=(50, 1500), help="How wide its eddies are."
    )
    ball: float = setting(
        0, unit="px", drawn="radius", about="ball_at", least=0, most=10_000, usual=(0, 600),
        help="How large a ball is that it lies on; nothing is none.",
    )  # fmt: skip
    ball_at: Point = setting([960, 620], unit="px", help="Where the ball is.")
    ball_far: float = setting(
        0, unit="px", least=-20_000, most=20_000, usual=(-600, 600), help="How far behind its place it is."
    )  # fmt: skip
    floor: float = setting(
        4000,
        unit="px",
        least=-20_000,
        most=40_000,
        usual=(0, 4000),
        help="How far down the floor is.",
    )
    apart: float = setting(
        70, unit="%", least=0, most=95, help="How far it keeps from itself, of the way between two of its points; at nothing it passes."
    )  # fmt: skip
    torn_along: Path | None = setting(
        "", help="A path over it, as it hangs flat at first, that it tears along."
    )
    torn: float = setting(
        0, unit="%", least=0, most=100, help="How far along that path it is torn."
    )
    frayed: float = setting(
        5, unit="px", look=True, least=0, most=400, usual=(0, 20), help="How far threads stand out where it is torn."
    )  # fmt: skip
    detail: int = setting(
        64, least=4, most=_MOST_POINTS, usual=(24, 128), help="Points along its longer side."
    )
    steps_a_frame: int = setting(
        14, least=1, most=100, usual=(6, 30), help="Steps in which a frame is computed."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another wind."
    )

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        if written.held == "rings" and written.folds + 1 > written.detail:
            return TooMuch(
                "folds",
                f"{written.folds + 1} rings are more than {written.detail} points across; take fewer, or more points.",
                written.detail - 1,
            )
        longer, shorter = max(written.width, written.height), min(written.width, written.height)
        points = written.detail**2 * shorter / longer
        return too_long(written, points * written.steps_a_frame * 25, _MOST_WORK)

    def already(self) -> float:
        return self.preroll

    def steps(self, rate: float) -> int:
        return self.steps_a_frame

    def begin(self, at: At) -> State:
        rows, columns = self._size()
        across, down = np.meshgrid(np.linspace(-0.5, 0.5, columns), np.linspace(0, 1, rows))
        places = np.empty((rows, columns, 3))
        closer = 1 - self.gathered / 100
        places[..., 0] = self.at.x + across * self.width * closer
        places[..., 1] = self.at.y + down * self.height * (self.lies == "hanging")
        wave = 2 * math.pi * self.folds * across
        # As steep as takes up what is gathered, and a little even so: what is flat for ever never folds.
        steep = math.sqrt(1 / closer**2 - 1) * 1.15
        deep = steep * self.width * closer / (2 * math.pi * self.folds) * math.sqrt(2)
        places[..., 2] = deep * np.sin(wave) + self.width * 2e-3 * np.sin(9 * across + 5 * down)
        if self.lies == "lying":
            places[..., 1], places[..., 2] = self.at.y + places[..., 2], (down - 0.5) * self.height
        corner = np.array([self.at.x - self.width / 2, self.at.y])
        return _Hung(places + self._to_pegs(places), np.zeros_like(places), np.ones(1), corner)

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        hung = _Hung(*state)
        places, speeds = hung.places.copy(), hung.speeds.copy()
        later = stretch.later
        assert isinstance(later, Cloth)
        driven = np.zeros_like(places)
        driven[..., :2] = later.at.x - self.at.x, later.at.y - self.at.y
        for peg, place in self._pegs(later.pegs):
            driven[place] = np.array([peg.at.x, peg.at.y, 0]) - places[place]
        key = at.key("cloth", self.seed)
        torn, left = later.torn_so_far(hung.corner), WHOLE
        if torn is not None:
            left = ties_left(tear_of(torn, (self.width, self.height), self._size()))
        hang(
            places, speeds, self._free(), left, driven * stretch.rate, self._sheet(at, stretch.since), stretch.since,
            1 / stretch.rate / self.steps_a_frame, stretch.steps, *key,
        )  # fmt: skip
        if not np.isfinite(places).all():
            places, speeds = hung.places, np.zeros_like(speeds)
        return _Hung(places, speeds, np.array([stretch.rate]), hung.corner)

    def _size(self) -> tuple[int, int]:
        longer = max(self.width, self.height)
        rows, columns = (
            max(3, round(self.detail * side / longer)) for side in (self.height, self.width)
        )
        return rows, columns

    def _free(self) -> NDArray[np.float64]:
        """Which points nothing holds."""
        rows, columns = self._size()
        free = np.ones((rows, columns))
        match self.held:
            case "its upper edge":
                free[0] = 0
            case "its upper corners":
                free[0, [0, -1]] = 0
            case "rings":
                free[0, np.round(np.linspace(0, columns - 1, self.folds + 1)).astype(int)] = 0
            case "its left edge":
                free[:, 0] = 0
            case "its left corners":
                free[[0, -1], 0] = 0
        for _, place in self._pegs(self.pegs):
            free[place] = 0
        return free

    def _pegs(self, pegs: tuple[Peg, ...]) -> list[tuple[Peg, tuple[int, int]]]:
        """Pegs, and the row and column of the point that each holds, which does not move as they do."""
        rows, columns = self._size()
        return [
            (peg, (round(own.down / 100 * (rows - 1)), round(own.across / 100 * (columns - 1))))
            for peg, own in zip(pegs, self.pegs, strict=True)
        ]

    def _to_pegs(self, places: Points) -> Points:
        """How far each point is from where it lies at its beginning, so that what is held is at its place: the nearer
        to a point that is held, the more as far as that (Shepard 1968)."""
        pegs = self._pegs(self.pegs)
        if not pegs:
            return np.zeros_like(places)
        rows, columns = self._size()
        held = {place: np.zeros(3) for place in map(tuple, np.argwhere(self._free() == 0).tolist())}
        held |= {place: np.array([peg.at.x, peg.at.y, 0]) - places[place] for peg, place in pegs}
        r, c = np.mgrid[:rows, :columns]
        summed, weights = np.zeros_like(places), np.zeros((rows, columns, 1))
        for (row, column), shift in held.items():
            weight = 1 / ((r - row) ** 2 + (c - column) ** 2 + 1e-6)[..., None]
            summed += weight * shift
            weights += weight
        return summed / weights

    def _sheet(self, at: At, since: float) -> Sheet:
        rows, columns = self._size()
        metre = self.height / self.tall
        strong = 1 + self.gusts / 100 * gust(since, at.key("gusts", self.seed))
        pull = _GRAVITY * metre
        down = self.height / (rows - 1)
        # A row bears all below it; so that it gives as much in all as is said.
        gives = self.stretch / 100 * self.height / (pull * rows * rows / 2)
        soft = 10.0 ** (4 * self.bend / 100 - 4.5) * down / pull
        return Sheet(
            across=self.width / (columns - 1),
            down=down,
            stretch=gives,
            shear=4 * gives + 0.02 * soft,
            bend=soft,
            loses=self.calms,
            gravity=pull,
            held=0.5 * _AIR * _PLATE / (self.weight / 1000) / metre,
            wind_x=self.wind * metre * strong,
            wind_z=self.blows * metre * strong,
            eddies=self.eddies / 100,
            eddy=self.eddy,
            ball_x=self.ball_at.x,
            ball_y=self.ball_at.y,
            ball_z=-self.ball_far,
            ball=self.ball,
            floor=self.floor,
            rubs=_RUBS,
            apart=self.apart / 100 * min(down, self.width / (columns - 1)),
        )


@register
class Cloth(Worn, Hanging):
    """A sheet of cloth: a flag, a sail, a curtain, a wet sheet. It is held by an edge, by corners or by
    rings, has weight, and air holds and drives it.

    It is computed from its beginning on in its real size, so that a small one is quick and a great one
    heavy. What changes only its look is seen at once.
    """

    family = "cloth"
    says = (
        "Held by {held} at {at}, {lies} at first, {width} by {height} and {tall} high in the world, gathered {gathered} in {folds} "
        "folds, {preroll} before, its time {tempo}. {pegs}\nIt weighs {weight}, gives {stretch}, bends {bend} and calms {calms}.\nIn wind "
        "{wind}, {blows} towards the eye, with gusts {gusts} and eddies {eddies} of {eddy}.\nKept out of a "
        "ball of {ball} at {ball_at}, {ball_far} off, above a floor at {floor}, and {apart} apart from itself. Torn along {torn_along} by {torn}, frayed {frayed}. Computed in {detail} points and {steps_a_frame} steps.\n"
        + WORN_SAYS
    )

    def wears(self) -> tuple[tuple[str, float], ...]:
        return ((self.printed, PRINT),) if self.printed else ()

    def torn_so_far(self, corner: NDArray[np.float64]) -> Torn | None:
        """Where it is torn, by where its upper left corner lay at its beginning; nothing where it is whole."""
        if self.torn_along is None or self.torn <= 0:
            return None
        line = self.torn_along.line(1.0) - corner
        long = float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())
        if long <= 0:
            return None
        return Torn(line, self.torn / 100 * long, self.frayed, self.threads, self.seed)

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        hung = _Hung(*state)
        places = hung.places + ahead * hung.speeds
        printed = printed_on(others[0], at, PRINT) if others else None
        goes = hung.speeds / float(hung.rate[0])
        size, torn = (self.width, self.height), self.torn_so_far(hung.corner)
        return self.worn(places, goes, size, printed, at, torn)
