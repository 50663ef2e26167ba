"""Particles: whatever flies, from where it is born to where it lies or is gone."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, HOTTEST, heat_of, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import (
    HOW_DEEP,
    HOW_FAST,
    HOW_LARGE,
    HOW_LIT,
    HOW_LONG,
    PHASE,
    SIDE,
    WHEN_BORN,
    WHERE,
    WHERE_ELSE,
    WHITHER,
    WHITHER_ELSE,
)
from handful.engine.kernels.drawing.spots import draw_spots
from handful.engine.kernels.drawing.sprites import draw_sprites, sheet_of
from handful.engine.kernels.forms.flight import fly, shares
from handful.engine.kinds import (
    At,
    Clock,
    Planned,
    Planning,
    Source,
    TooMuch,
    clockwise,
    register,
    setting,
)
from handful.engine.named import Path, Sway
from handful.engine.picture import Tile
from handful.engine.values import Move, Point

MOST_ALIVE = 1_000_000
"""So many are drawn at most: of more, the latest."""

Numbers = NDArray[np.float64]


@register
class Particles(Source):
    """Sparks, embers, dust, rain, snow, spray: many small things, each thrown, carried and falling.

    How many are born, from where and which way is as it was when each was born, and that is between
    frames as well. All that comes after is as it is now, for all of them. Particle number so and so is the
    same one whatever the others are.
    """

    family = "particles"
    says = (
        "{rate} are born {born} at {at}, {width} by {height}, turned {turn}, along {path}; "
        "{burst} at once, and {preroll} before. They go {heads} {direction} within {cone} at {speed}, "
        "{uneven} uneven, taking {inherits} of what they are born from; live {life}, {life_uneven} "
        "uneven. Pulled {gravity}, in wind {wind} with drag {drag}, swaying with {sway}, fluttering "
        "{flutter} at {flutter_pace}, {deep} deep. They {lands} at {floor}, bouncing {bounce} and "
        "sliding {slide}. Each is {look}, {size} wide to {size_end}, {size_uneven} uneven, drawn over "
        "{streak}, spinning {spin}, lit from {lit_from}, shaded {shade}, making {comes_as} {glows} {colour} to {colour_end} at {light}, {kelvin} hot, half as "
        "hot in {cools}, {light_uneven} uneven, twinkling {twinkle} at {twinkle_pace}; it comes in "
        "{comes} and goes in {goes} of its life."
    )

    rate: float = setting(
        300, unit="a second", least=0, most=500_000, usual=(0, 4000), help="How many are born."
    )
    born: Literal[
        "at a point", "on a line", "in a box", "in an ellipse", "on a ring", "on a path"
    ] = setting("at a point", help="What they are born from.")
    at: Point = setting([960, 540], unit="px", help="Where they are born: the middle of it.")
    width: float = setting(
        300,
        unit="px",
        drawn="width",
        about="at",
        least=0,
        most=40000,
        usual=(0, 2000),
        help="How wide that is.",
    )
    height: float = setting(
        120,
        unit="px",
        drawn="height",
        about="at",
        least=0,
        most=40000,
        usual=(0, 2000),
        help="How high that is.",
    )
    turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-180, 180), help="How far it is turned."
    )
    path: Path | None = setting("", help="The path that they are born on.")
    burst: int = setting(
        0, least=0, most=200_000, usual=(0, 5000), help="How many are born at once as it begins."
    )
    preroll: float = setting(
        0, unit="s", least=0, most=60, usual=(0, 10), help="How long they have been born already."
    )
    heads: Literal["towards", "away from the middle, and"] = setting(
        "towards", help="Whether their way counts from the right, or from the middle outwards."
    )
    direction: float = clockwise(-90, about="at", help="Which way they go.")
    cone: float = setting(
        60,
        unit="°",
        least=0,
        most=360,
        help="How wide the fan is that they go in: denser in its middle the narrower it is.",
    )
    speed: float = setting(
        500, unit="px/s", least=0, most=50_000, usual=(0, 3000), help="How fast they go."
    )
    uneven: float = setting(
        60,
        unit="%",
        least=0,
        most=100,
        help="How much slower some are: evenly spread down to that.",
    )
    inherits: float = setting(
        0,
        unit="%",
        least=-200,
        most=200,
        usual=(0, 100),
        help="How much of its motion they take along.",
    )
    life: float = setting(
        1.2, unit="s", least=0.02, most=120, usual=(0.1, 8), help="How long they live."
    )
    life_uneven: float = setting(
        50, unit="%", least=0, most=100, help="How much shorter some live: evenly spread."
    )
    gravity: Point = setting(
        [0, 900], unit="px/s²", elsewhere=True, help="How they are pulled; up is a lift."
    )
    wind: Point = setting([0, 0], unit="px/s", elsewhere=True, help="How the air moves.")
    drag: float = setting(
        0.8, unit="1/s", least=0, most=100, usual=(0, 10), help="How strongly the air holds them."
    )
    sway: Sway | None = setting("", help="A sway that carries them, more and more as they go.")
    flutter: float = setting(
        0, unit="px", least=0, most=2000, usual=(0, 100), help="How far they go from side to side."
    )
    flutter_pace: float = setting(
        1.5, unit="times a second", least=0, most=50, usual=(0, 6), help="How often they do."
    )
    deep: float = setting(
        0, unit="%", least=0, most=95, help="How much smaller and slower the far ones are."
    )
    lands: Literal["land nowhere", "bounce on a floor"] = setting(
        "land nowhere", help="Whether there is a floor."
    )
    floor: float = setting(
        900, unit="px", least=-20000, most=40000, usual=(0, 1080), help="How far down the floor is."
    )
    bounce: float = setting(
        45, unit="%", least=0, most=100, help="How much of their speed they come back up with."
    )
    slide: float = setting(
        75, unit="%", least=0, most=100, help="How much of their speed along it they keep."
    )
    look: Literal["a soft spot", "a disc", "a puff", "a shard", "a ring", "a glint"] = setting(
        "a soft spot", help="What each is."
    )
    size: float = setting(
        7, unit="px", least=0.1, most=4000, usual=(0.5, 60), help="How wide each is at first."
    )
    size_end: float = setting(
        30, unit="%", least=0, most=2000, usual=(0, 300), help="How wide at last, of that."
    )
    size_uneven: float = setting(
        50, unit="%", least=0, most=100, help="How much smaller some are: evenly spread."
    )
    spin: float = setting(
        90,
        unit="°/s",
        least=-7200,
        most=7200,
        usual=(-720, 720),
        help="How fast shapes turn, one way or the other; shards tumble as well.",
    )
    lit_from: float = clockwise(
        -120, help="Where the light comes from that puffs and shards are in."
    )
    shade: float = setting(
        60, unit="%", least=0, most=100, help="How much darker they are on the other side."
    )
    streak: float = setting(
        180,
        unit="°",
        least=0,
        most=720,
        usual=(0, 360),
        help="How long the shutter draws spots and discs out.",
    )
    comes_as: Literal["light", "cover"] = setting("light", help="Whether they shine or hide.")
    glows: Literal["in", "by its heat, not in"] = setting(
        "in", help="Whether each has a colour, or glows by how hot it is."
    )
    colour: Colour = setting("#ffd9a0", help="Its colour at first.")
    colour_end: Colour = setting("#ff5a1e", help="Its colour at last.")
    light: float = setting(
        3,
        unit="stops",
        least=-12,
        most=16,
        usual=(-4, 10),
        help="How bright its middle is at first.",
    )
    kelvin: float = setting(
        1900, unit="K", least=700, most=6000, usual=(1200, 3000), help="How hot it is at first."
    )
    cools: float = setting(
        1, unit="s", least=0.01, most=1000, usual=(0.1, 5), help="In what time it is half as hot."
    )
    light_uneven: float = setting(
        60, unit="%", least=0, most=100, help="How much fainter some are: evenly spread."
    )
    twinkle: float = setting(
        0, unit="%", least=0, most=100, help="How much each goes dark and bright."
    )
    twinkle_pace: float = setting(
        6, unit="times a second", least=0, most=100, usual=(0, 20), help="How often it does."
    )
    comes: float = setting(
        2, unit="%", least=0, most=100, help="The part of its life in which each comes."
    )
    goes: float = setting(
        40, unit="%", least=0, most=100, help="The part of its life in which each goes."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another lot."
    )

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        rate, life = written.rate, written.life
        if isinstance(rate, Move) or isinstance(life, Move) or rate * life <= MOST_ALIVE:
            return None
        return TooMuch(
            "rate",
            f"Of {rate:g} a second that live {life:g} s more than {MOST_ALIVE:,} would be alive at once; "
            "let fewer be born, or live less long.",
            math.floor(MOST_ALIVE / life),
        )

    def planned(self, ask: Planning) -> Planned:
        clock = ask.clock()
        first = clock.begins - math.ceil(self.preroll * clock.rate)
        oldest = clock.frame - math.ceil(self.life * clock.rate) - 2
        last = math.floor(clock.frame + self.streak / 720) + 1
        before = [float(frame) for frame in range(math.floor(first), last + 1)]
        rates = [rate for (rate,) in ask.history(("rate",), before)]
        counts = np.concatenate([[0.0], np.cumsum(np.array(rates[:-1]) / clock.rate)])
        kept = [i for i, frame in enumerate(before) if frame >= oldest]
        frames = [before[i] for i in kept]
        rows = ask.history(_OF_BIRTH, frames)
        births = tuple(
            (frame, float(counts[i]), *(float(part) for part in (*row[0], *row[1:])))
            for i, frame, row in zip(kept, frames, rows, strict=True)
        )
        return ask.drawn(_Lot(self, clock, births))


_OF_BIRTH = ("at", "width", "height", "turn", "direction", "cone", "speed")
_FRAME, _COUNT, _X, _Y, _WIDTH, _HEIGHT, _TURN, _DIRECTION, _CONE, _SPEED = range(10)
_BURST = 1 << 40
"""What is born in a burst is numbered from here."""


class _Lot(NamedTuple):
    """All that are alive at a moment."""

    made: Particles
    clock: Clock
    births: tuple[tuple[float, ...], ...]
    """On each frame: how many were born till then, and the settings of birth."""

    def draw(self, at: At, *others: Tile) -> Tile:
        made, key = self.made, at.key("particles", self.made.seed)
        which, born, rows = self._born(key)
        now = self.clock.frame
        opened = made.streak / 360 / 2
        alive = (now - born) / self.clock.rate
        lives = made.life * (1 - made.life_uneven / 100 * _shares(key, which, HOW_LONG))
        seen = (alive > -opened / self.clock.rate) & (alive < lives)
        which, born, rows, lives = which[seen], born[seen], rows[seen], lives[seen]
        age = np.maximum(0.0, (now - born) / self.clock.rate)
        starts, speeds = self._thrown(key, which, rows)
        deep = 1 - made.deep / 100 * _shares(key, which, HOW_DEEP)
        ends = []
        for side in (-opened, opened):
            t = np.clip((now + side - born) / self.clock.rate, 0.0, lives)
            ends.append(self._places(at, key, which, starts, speeds, t, deep))
        spots = np.empty((len(which), 9), np.float32)
        spots[:, :2], spots[:, 2:4] = ends[0] * at.scale, ends[1] * at.scale
        part = age / lives
        size = made.size * (1 - made.size_uneven / 100 * _shares(key, which, HOW_LARGE)) * deep
        size *= 1 + (made.size_end / 100 - 1) * part
        spots[:, 4] = (
            np.maximum(size, 1e-3) / 2 * at.scale * (_SOFTER if made.look == "a soft spot" else 1)
        )
        shown = self._shown(key, which, age, part)
        spots[:, 5:8] = self._colours(age, part) * np.float32(2.0**made.light) * shown[:, None]
        spots[:, 8] = np.minimum(1, shown) if made.comes_as == "cover" else 0
        if made.comes_as == "cover":
            spots[:, 5:8] = self._colours(age, part) * spots[:, 8:9]
        covers = made.comes_as == "cover"
        order = np.argsort(deep, kind="stable") if covers else slice(None)
        if made.look in ("a soft spot", "a disc"):
            return draw_spots(spots[order], at.wanted, made.look == "a disc", covers)
        sprites = self._sprites(key, which, age, spots)
        turn = math.radians(made.lit_from)
        lit_from = (math.cos(turn), math.sin(turn))
        return draw_sprites(sheet_of(made.look), sprites[order], at.wanted, lit_from, covers)

    def _sprites(
        self, key: Key, which: NDArray[np.int64], age: Numbers, spots: NDArray[np.float32]
    ) -> NDArray[np.float32]:
        """Spots as shapes that turn: shards tumble, so that they are thin and bright by turns."""
        made = self.made
        phase, side = _shares(key, which, PHASE), _shares(key, which, SIDE)
        way = np.where(side < 0.5, -1.0, 1.0) * (0.4 + 1.2 * phase)
        turn = np.radians(made.spin * way * age + 360 * side * 7)
        sprites = np.empty((len(which), 12), np.float32)
        sprites[:, :2] = (spots[:, :2] + spots[:, 2:4]) / 2
        sprites[:, 2] = sprites[:, 3] = spots[:, 4]
        sprites[:, 4], sprites[:, 5] = np.cos(turn), np.sin(turn)
        sprites[:, 6] = np.floor(phase * 6)
        sprites[:, 7:11] = spots[:, 5:9]
        sprites[:, 11] = made.shade / 100
        if made.look == "a shard":
            tumbled = np.cos(np.radians(1.7 * made.spin * way * age) + 2 * math.pi * phase)
            sprites[:, 3] *= np.maximum(0.12, np.abs(tumbled))
            lit = 1 - made.shade / 100 * (0.5 - 0.5 * tumbled)
            sprites[:, 7:10] *= lit[:, None].astype(np.float32)
            sprites[:, 11] = 0
        return sprites

    def _born(self, key: Key) -> tuple[NDArray[np.int64], Numbers, Numbers]:
        """The numbers of those born of late, the frames on which they were, and how it was then."""
        table = np.array(self.births)
        counts = table[:, _COUNT]
        first, last = math.ceil(counts[0]), math.ceil(counts[-1])
        which = np.arange(max(first, last - MOST_ALIVE), last, dtype=np.int64)
        early = which - _shares(key, which, WHEN_BORN) + 0.5
        early = np.clip(early, counts[0], counts[-1])
        place = np.clip(np.searchsorted(counts, early, side="right") - 1, 0, len(table) - 2)
        before, after = table[place], table[place + 1]
        step = np.maximum(after[:, _COUNT] - before[:, _COUNT], 1e-12)
        part = np.clip((early - before[:, _COUNT]) / step, 0, 1)[:, None]
        rows = before + (after - before) * part
        born = rows[:, _FRAME].copy()
        moved = (after[:, _X : _Y + 1] - before[:, _X : _Y + 1]) * self.clock.rate
        begins = self.clock.begins
        at_once = table[np.abs(table[:, _FRAME] - begins) < 0.5]
        if self.made.burst and len(at_once):
            more = np.arange(self.made.burst, dtype=np.int64) + _BURST
            which = np.concatenate([which, more])
            born = np.concatenate([born, np.full(len(more), begins)])
            rows = np.concatenate([rows, np.repeat(at_once[:1], len(more), axis=0)])
            moved = np.concatenate([moved, np.zeros((len(more), 2))])
        return which, born, np.concatenate([rows, moved], axis=1)

    def _thrown(self, key: Key, which: NDArray[np.int64], rows: Numbers) -> tuple[Numbers, Numbers]:
        """Where each begins, and how fast it goes which way."""
        made = self.made
        one, other = _shares(key, which, WHERE), _shares(key, which, WHERE_ELSE)
        aside = np.zeros((len(which), 2))
        round_it = 2 * math.pi * one
        match made.born:
            case "on a line":
                aside[:, 0] = one - 0.5
            case "in a box":
                aside[:, 0], aside[:, 1] = one - 0.5, other - 0.5
            case "in an ellipse":
                far = 0.5 * np.sqrt(other)
                aside[:, 0], aside[:, 1] = far * np.cos(round_it), far * np.sin(round_it)
            case "on a ring":
                aside[:, 0], aside[:, 1] = 0.5 * np.cos(round_it), 0.5 * np.sin(round_it)
        aside *= rows[:, [_WIDTH, _HEIGHT]]
        turn = np.radians(rows[:, _TURN])
        cosine, sine = np.cos(turn), np.sin(turn)
        aside = np.stack(
            [aside[:, 0] * cosine - aside[:, 1] * sine, aside[:, 0] * sine + aside[:, 1] * cosine],
            1,
        )
        starts = rows[:, [_X, _Y]] + aside
        if made.born == "on a path" and made.path is not None:
            starts = _along(made.path.line(1.0), one)
        even, other_way = _shares(key, which, WHITHER), _shares(key, which, WHITHER_ELSE)
        narrow = 1 - rows[:, _CONE] / 360
        aim = even - 0.5 + 0.5 * narrow * (other_way - even)
        way = np.radians(rows[:, _DIRECTION] + aim * rows[:, _CONE])
        if made.heads != "towards":
            middle = starts - rows[:, [_X, _Y]]
            away = np.hypot(*middle.T) > 1e-6
            outward = np.where(away, np.arctan2(middle[:, 1], middle[:, 0]), round_it)
            way = way + outward
        fast = rows[:, _SPEED] * (1 - made.uneven / 100 * _shares(key, which, HOW_FAST))
        speeds = np.stack([fast * np.cos(way), fast * np.sin(way)], axis=1)
        return starts, speeds + made.inherits / 100 * rows[:, -2:]

    def _places(
        self,
        at: At,
        key: Key,
        which: NDArray[np.int64],
        starts: Numbers,
        speeds: Numbers,
        t: Numbers,
        deep: Numbers,
    ) -> Numbers:
        """Where each is after `t` seconds, in px of the full-size canvas."""
        made = self.made
        floor = made.floor if made.lands == "bounce on a floor" else np.inf
        places = np.empty_like(starts)
        fly(
            starts, speeds, t, (made.gravity.x, made.gravity.y), (made.wind.x, made.wind.y), made.drag, floor,
            made.bounce / 100, made.slide / 100, places,
        )  # fmt: skip
        if made.sway is not None:
            pushes = made.sway.pushes(places, at.shared_key("sway", made.sway.seed))
            places += pushes * (1 - np.exp(-1.5 * t))[:, None]
        if made.flutter > 0:
            phase = _shares(key, which, SIDE)
            angle = 2 * math.pi * (made.flutter_pace * t * (0.6 + 0.8 * phase) + 7 * phase)
            places[:, 0] += made.flutter * (np.sin(angle) - np.sin(2 * math.pi * 7 * phase))
            places[:, 1] += 0.35 * made.flutter * (np.cos(2 * angle) - 1)
        return starts + (places - starts) * deep[:, None]

    def _shown(
        self, key: Key, which: NDArray[np.int64], age: Numbers, part: Numbers
    ) -> NDArray[np.float32]:
        """How much of each shows: as it comes, goes, and twinkles."""
        made = self.made
        shown = 1 - made.light_uneven / 100 * _shares(key, which, HOW_LIT)
        if made.comes > 0:
            shown *= np.minimum(1, part / (made.comes / 100))
        if made.goes > 0:
            shown *= np.minimum(1, (1 - part) / (made.goes / 100))
        if made.twinkle > 0:
            phase = _shares(key, which, PHASE)
            wave = np.sin(2 * math.pi * (made.twinkle_pace * age * (0.7 + 0.6 * phase) + 9 * phase))
            shown *= 1 - made.twinkle / 100 * (0.5 - 0.5 * wave)
        return np.maximum(0, shown).astype(np.float32)

    def _colours(self, age: Numbers, part: Numbers) -> NDArray[np.float32]:
        """The colour of each, in light, at its age."""
        made = self.made
        if made.glows == "in":
            first, last = np.array(made.colour, np.float32), np.array(made.colour_end, np.float32)
            return first + (last - first) * part.astype(np.float32)[:, None]
        kelvins = made.kelvin * (1 + 7 * age / made.cools) ** (-1 / 3)
        return heat_of(np.clip(kelvins, COLDEST, HOTTEST), heat_table(made.kelvin))


_SOFTER = 1.55
"""A soft spot ends so many times as far out as half its width, which is where it is half as bright."""


def _shares(key: Key, which: NDArray[np.int64], purpose: int) -> Numbers:
    found = np.empty(len(which))
    shares(*key, which, purpose, found)
    return found


def _along(line: Numbers, share: Numbers) -> Numbers:
    """Places on a line of straight pieces, by shares of its length."""
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = share * lengths[-1]
    return np.stack([np.interp(at, lengths, line[:, axis]) for axis in (0, 1)], axis=1)
