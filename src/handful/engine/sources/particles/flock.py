"""What flies, from where it is born to where it lies or is gone, however it looks."""

from __future__ import annotations

import math
from typing import Any, ClassVar, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import HOW_DEEP, HOW_FAR
from handful.engine.kernels.drawing.sheets import Album
from handful.engine.kernels.forms.sowing import Sown
from handful.engine.kinds import (
    At,
    Clock,
    Planned,
    Planning,
    State,
    Stateful,
    Stretch,
    TooMuch,
    too_long,
)
from handful.engine.named import Pose
from handful.engine.picture import Tile
from handful.engine.sources.particles.albums import Bind
from handful.engine.sources.particles.alive import RIBBON_POINTS, Alive
from handful.engine.sources.particles.births import (
    MOST_ALIVE,
    OF_BIRTH,
    SHORTEST,
    Birth,
    Lot,
    Numbers,
    births_on,
    joined,
    shares_of,
)
from handful.engine.sources.particles.flights import BY_STEPS, Flight
from handful.engine.sources.particles.sheds import SHED, Shed, shed_from
from handful.engine.sources.particles.sights import SEEN_FROM, Flying, Sight
from handful.engine.values import Move

_MOST_WORK = 2e8
"""So many frames of a particle before it begins are gone through step by step at most."""

_BOUNCES_EACH = 4
"""So often something bounces in its life, as a rule."""

_MOMENT = 1e-3
"""Seconds over which a speed is measured."""

_SEEN_AT = 1 / 3
"""The scale at which other layers are looked at."""


Ends = tuple[Numbers, Numbers]
"""As the shutter opens, and as it closes."""


FLOCK_SAYS = (
    "{rate} are born {born} at {at}, {width} by {height}, turned {turn}, along {path}, of {of}; "
    "{burst} at once, again every {burst_every}, and {preroll} before.\nThey go {heads} {direction} within {cone} at {speed}, "
    "{uneven} uneven, taking {inherits} of what they are born from; live {life}, {life_uneven} "
    "uneven.\nPulled {gravity}, in wind {wind} with gusts {gusts} and drag {drag}, {drag_fast} more when fast; "
    "stirred {stir} in swirls of {stir_size} that change {stir_pace}.\nWhat draws them is {draws}: {draws_at}, "
    "{draws_path} or {draws_of}, with {pull}, whirling {whirl} and along it {along}, most at {reach}, swallowing within {swallows}. "
    "\nOf those within {near} each is drawn to the middle with {together}, goes as they go within {alike} and keeps off with {keeps_off}. "
    "\nSwaying with {sway}, fluttering "
    "{flutter} at {flutter_pace}, {deep} deep.\nIn a space of {depth}, through a lens of {lens}, {dolly} on and {track} aside, looking {aside} aside and {upwards} up, or with {camera}, "
    "hazy {haze}, sharp at {focus}, blurred {blurs}; coming in again where they fly out {wraps}.\nThey {lands} at {floor} or off {walls}, bouncing {bounce} and "
    "sliding {slide}; {sticks} of them stick.\nEach sheds {sheds}, bursts into {bursts_into} at its end and {bounces_into} as it bounces, of {shed_size} of its width, that live {shed_life}, fly "
    "apart at {shed_speed} and keep {shed_keeps} of its speed. "
)
"""What a sentence says of all but how they look."""


class Flock(Shed, Sight, Flight, Birth, Stateful):
    """Many things, each born, thrown, carried and falling.

    How many are born, from where and which way is as it was when each was born, and that is between
    frames as well. Where air only holds them and blows evenly, all that comes after is as it is now, for
    all of them; stirred, drawn, gusting air and walls are gone through step by step. Number so and so is the
    same one whatever the others are.
    """

    looks_ahead: ClassVar[bool] = True
    briefly = {"stir": 200, "alike": 1, "life": 0.5, "preroll": 0.08}

    def shutter(self) -> float:
        """For how many frames before and after the shutter is open."""
        return 0.0

    def widest(self) -> float:
        """How wide any of them is, in px."""
        return 0.0

    def pictures(self) -> tuple[tuple[str, float, float], ...]:
        """The pictures that they are, if they are any: a layer, how many frames ahead, at which scale."""
        return ()

    def ribbons(self) -> float:
        """How many seconds of its way each draws behind itself."""
        return 0.0

    def minds_speed(self) -> bool:
        """Whether it is seen how fast each goes."""
        return False

    def drawn(self, at: At, key: Key, flying: Flying, album: Album | None) -> Tile:
        """The picture of all of them."""
        raise NotImplementedError

    @classmethod
    def strokes(cls, written: Any) -> int:
        """In how many strokes each is drawn, as a recipe writes it."""
        return 1

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        most = MOST_ALIVE // cls.strokes(written)
        rate, life = written.rate, written.life
        if isinstance(rate, Move) or isinstance(life, Move):
            return None
        sheds, bursts_into, shed_life = written.sheds, written.bursts_into, written.shed_life
        if isinstance(sheds, Move) or isinstance(shed_life, Move):
            sheds = shed_life = 0.0
        each = 1 + sheds * min(life, shed_life) + max(bursts_into, written.bounces_into)
        every = written.burst_every
        if written.burst and not isinstance(every, Move):
            times = 1 + (life + shed_life) / max(SHORTEST, every) if every > 0 else 1.0
            if written.burst * each * times > most:
                return TooMuch(
                    "burst",
                    f"With what they shed, and all bursts that there are at once, {written.burst} are more than "
                    f"{most:,}; let fewer be born at once or shed, or less often.",
                    math.floor(most / each / times),
                )
        life += life * sheds * shed_life
        life += (bursts_into + _BOUNCES_EACH * written.bounces_into) * shed_life
        if rate * life <= most:
            is_stepped = any(getattr(written, name) for name in BY_STEPS)
            return too_long(written, rate * life * 25, _MOST_WORK) if is_stepped else None
        return TooMuch(
            "rate",
            f"Of {rate:g} a second that live {written.life:g} s, and what they shed, more than {most:,} would be "
            "alive at once; let fewer be born or shed, or live less long.",
            math.floor(most / life),
        )

    def most(self) -> int:
        """How many are seen at most; of more, the latest. A state holds more of them: it knows no look."""
        return MOST_ALIVE // self.strokes(self)

    def already(self) -> float:
        return self.preroll

    def lives(self, key: Key, which: NDArray[np.int64]) -> Numbers:
        lives = super().lives(key, which)
        if not self.is_shedding():
            return lives
        return np.where(which >= SHED, lives * (self.shed_life / self.life), lives)

    def steps(self, rate: float) -> int:
        return self.cut(rate)

    def watches(self) -> tuple[tuple[str, float], ...]:
        looked_at = (self.of if self.sows() else "", self._drawing(), self.walls)
        return tuple((layer, _SEEN_AT) for layer in looked_at if layer)

    def planned(self, ask: Planning) -> Planned:
        clock = ask.clock()
        first = math.floor(clock.begins - math.ceil(self.preroll * clock.rate))
        last = math.floor(clock.frame + self.shutter()) + 1
        before = [float(frame) for frame in range(first, max(first + 1, last) + 1)]
        opened = self.shutter()
        ends = ask.history(SEEN_FROM, [clock.frame - opened, clock.frame + opened])
        opens, closes = (self.pose(*row) for row in ends)
        shows = _Shows(self, clock.rate, opened, (opens, closes))
        album = []
        if self.pictures():
            seen = [
                ask.seen(of, clock.frame + ahead, scale) for of, ahead, scale in self.pictures()
            ]
            album = [ask.state(Bind(), *seen)]
        if any(any(row) for row in ask.history(BY_STEPS, before)):
            states, seconds, ahead = self.remembered(ask)
            back = math.ceil(self.ribbons() * clock.rate) + 1 if self.ribbons() else 0
            # A ribbon needs no more of them than it has points, twice over.
            apart = max(1, back // (2 * RIBBON_POINTS))
            whole = range(len(states) - 1)[-back:][::-apart] if back else ()
            since = tuple(seconds - i / clock.rate for i in whole)
            before_now = [states[i] for i in whole]
            stepped = _Stepped(shows, seconds, ahead, since)
            return ask.drawn(stepped, states[-1], *before_now, *album)
        rates = [rate for (rate,) in ask.history(("rate",), before)]
        counts = np.concatenate([[0.0], np.cumsum(np.array(rates[:-1]) / clock.rate)])
        lasts = self.life + (self.shed_life if self.is_shedding() else 0.0)
        oldest = clock.frame - math.ceil(lasts * clock.rate) - 2
        kept = [i for i, frame in enumerate(before) if frame >= oldest]
        frames = [before[i] for i in kept]
        rows = ask.history(OF_BIRTH, frames)
        sown = []
        if self.sows():
            sow = _Sow(self, self.born)
            sown = [ask.state(sow, ask.seen(self.of, at, _SEEN_AT)) for at in frames[:-1]]
        births = tuple((frames[i], float(counts[k]), rows[i]) for i, k in enumerate(kept))
        return ask.drawn(_Closed(shows, clock, births, len(album)), *album, *sown)

    def begin(self, at: At) -> State:
        nobody, nowhere = np.empty(0), np.empty((0, 2))
        dyes = np.empty((0, 3 if self.sows() else 0), np.float32)
        return Alive(
            np.zeros(1),
            np.empty(0, np.int64),
            nobody,
            nowhere,
            nowhere,
            nowhere,
            nobody,
            nowhere,
            dyes,
        )

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        flock, key = Alive(*state), at.key("particles", self.seed)
        seen = dict(zip((layer for layer, _ in self.watches()), others, strict=True))
        sown = self.sown(seen[self.of], _SEEN_AT) if self.sows() else None
        bodies = self.bodies(seen.get(self._drawing()), seen.get(self.walls), _SEEN_AT)
        lasts = 1 / stretch.rate / self.steps(stretch.rate)
        for step in range(stretch.steps):
            flock = self._joined(flock, key, stretch, step * lasts, lasts, sown)
            now = stretch.seconds + (step + 1) * lasts
            places, speeds = flock.places.copy(), flock.speeds.copy()
            hits = np.full((len(places) if self.bounces_into else 0, 7), -1.0)
            spans = np.minimum(lasts, now - flock.born)
            clings = self.clinging(key, flock.which)
            left = self.carried(
                at, clings, places, speeds, spans, stretch.since + step * lasts, *bodies, hits
            )
            lives = self.lives(key, flock.which)
            landed = self.taken(flock.places, places)
            left &= (now - flock.born < lives) & ~landed
            lain = flock.lain + np.where(speeds.any(axis=1), 0.0, spans)
            after = flock._replace(places=places, speeds=speeds, lain=lain)
            ends = np.minimum(now, flock.born + lives)
            ends[landed] -= self.since_landed(places[landed], speeds[landed], lasts)
            flock = after.some(left)
            if self.is_shedding():
                shed = self._left_by(key, after, left, ends, now, lasts)
                bounced = self._bounced(key, after, hits, now - spans, now)
                flock = flock.and_those(shed).and_those(bounced)
        return flock

    def _bounced(self, key: Key, flock: Alive, hits: Numbers, begun: Numbers, now: float) -> Alive:
        """What flew off as some bounced in a step that began at some times and ends now; `hits` says when in it,
        where, how fast they went on, and which way is off what they met."""
        met = np.flatnonzero((hits[:, 0] >= 0) & (flock.which[: len(hits)] < SHED))
        born = begun[met] + hits[met, 0]
        of, which = self.bounced_off(flock.which[met], born - flock.born[met])
        born, hit = born[of], hits[met[of]]
        places, off = hit[:, 1:3], hit[:, 5:]
        speeds = self.scattered(key, which, hit[:, 3:5])
        speeds -= 2 * np.minimum(0, (speeds * off).sum(axis=1))[:, None] * off
        moved = places + speeds * (now - born)[:, None]
        whence = np.zeros(len(which)), flock.roots[met[of]], flock.dyes[met[of]]
        return Alive(flock.counted, which, born, places, moved, speeds, *whence)

    def _left_by(
        self,
        key: Key,
        flock: Alive,
        left: NDArray[np.bool_],
        ends: Numbers,
        now: float,
        lasts: float,
    ) -> Alive:
        """What all have shed in a step that ends now, and what those that are not left burst into as each ended."""
        parents = flock.which < SHED
        sheds = np.flatnonzero(parents & left)
        age = now - flock.born[sheds]
        of, which, ages = self.left_behind(key, flock.which[sheds], age - lasts, age)
        of = sheds[of]
        gone = np.flatnonzero(parents & ~left) if self.bursts_into else np.empty(0, np.int64)
        parts, numbers = self.burst_of(flock.which[gone])
        from_burst = gone[parts]
        born = np.concatenate([flock.born[of] + ages, ends[from_burst]])
        came = np.concatenate([flock.speeds[of], self.thrown_back(flock.speeds[from_burst])])
        which, of = np.concatenate([which, numbers]), np.concatenate([of, from_burst])
        places = flock.places[of] - flock.speeds[of] * (now - born)[:, None]
        speeds = self.scattered(key, which, came)
        moved = places + speeds * (now - born)[:, None]
        whence = np.zeros(len(which)), flock.roots[of], flock.dyes[of]
        return Alive(flock.counted, which, born, places, moved, speeds, *whence)

    def _joined(
        self,
        flock: Alive,
        key: Key,
        stretch: Stretch,
        gone: float,
        lasts: float,
        sown: Sown | None,
    ) -> Alive:
        """A flock with those that are born in a step, which begins when so much of the stretch is gone."""
        later = stretch.later
        assert isinstance(later, Flock)
        rows = births_on(
            [[getattr(made, name) for name in OF_BIRTH] for made in (self, later)], stretch.rate
        )
        parts = np.array([[gone], [gone + lasts]]) * stretch.rate
        rows = rows[0] + (rows[1] - rows[0]) * parts
        counts = flock.counted + np.array([0.0, self.rate * lasts])
        moments = stretch.seconds + np.array([gone, gone + lasts])
        which, _, born, rows_then = self.born_between(key, counts, moments, rows, MOST_ALIVE)
        lots = [self.thrown(key, which, born, rows_then, sown)]
        before = stretch.since + gone
        for turn, since in self.bursts_between(before, before + lasts):
            moment = moments[0] + since - before
            row = rows[0] + (rows[1] - rows[0]) * ((since - before) / lasts)
            lots.append(self.thrown(key, *self.burst_at(turn, moment, row), sown))
        all_of = joined(flock.lot(), *lots)
        places = np.concatenate([flock.places, *(lot.starts for lot in lots)])
        lain = np.concatenate([flock.lain, np.zeros(len(places) - len(flock.lain))])
        latest = slice(-MOST_ALIVE, None)
        return Alive(
            counts[1:], all_of.which[latest], all_of.born[latest], all_of.starts[latest], places[latest],
            all_of.speeds[latest], lain[latest], all_of.roots[latest], all_of.dyes[latest],
        )  # fmt: skip

    def _drawing(self) -> str:
        """The layer that draws them, if one does."""
        return self.draws_of if self.draws in ("a layer", "a layer's edge") else ""


class _Shows(NamedTuple):
    """How particles are shown: at so many frames a second, while the shutter is open for so many frames
    before and after, from where the camera is as it opens and as it closes."""

    made: Flock
    rate: float
    opened: float
    poses: tuple[Pose, Pose]

    def drawn(
        self,
        at: At,
        key: Key,
        lot: Lot,
        ages: Numbers,
        moved: Numbers,
        then: Ends,
        places: Ends,
        behind: Numbers,
        album: Album | None,
    ) -> Tile:
        """Particles of an age in seconds `(N,)`, of which each has moved for so many, from how old and where each is as the
        shutter opens and as it closes, and where it was at times before, evenly back over its ribbon `(K, N, 2)`."""
        made = self.made
        whence = shed_from(lot.which)
        near = 1 - made.deep / 100 * shares_of(key, whence, HOW_DEEP)
        lain = ages - moved
        opens, closes = (
            made.swayed(at, key, lot, places[i], np.maximum(0, then[i] - lain), near)
            for i in (0, 1)
        )
        middle = (at.canvas.width / 2 / at.scale, at.canvas.height / 2 / at.scale)
        share = shares_of(key, whence, HOW_FAR)
        backs = np.linspace(0, made.ribbons(), len(behind))
        past = [
            made.swayed(at, key, lot, before, np.maximum(0, moved - back), near)
            for back, before in zip(backs, behind, strict=True)
        ]
        seen = made.seen(
            share, opens, closes, np.array(past).reshape(behind.shape), self.poses, middle
        )
        seen = made.wrapped(seen, 2 * middle[0], 2 * middle[1], made.widest())
        shed = np.where(lot.which >= SHED, made.shed_size / 100, 1.0)
        seen = seen._replace(large=seen.large * near * shed)
        lives = made.lives(key, lot.which)
        flying = Flying(
            lot.which, ages, ages / lives, seen, np.hypot(*lot.speeds.T), lot.dyes, moved
        )
        return made.drawn(at, key, flying, album)


class _Stepped(NamedTuple):
    """All that are alive at a moment, from a state."""

    shows: _Shows
    seconds: float
    ahead: float
    since: tuple[float, ...]
    """How many seconds ago each of the states was that come before it, if a ribbon is made of them."""

    def draw(self, at: At, state: State, *others: Any) -> Tile:
        made = self.shows.made
        flock = Alive(*state).latest(made.most())
        earlier, album = others[: len(self.since)], others[len(self.since) :]
        key = at.key("particles", made.seed)
        lives = made.lives(key, flock.which)
        ages = np.clip(self.seconds - flock.born, 0, lives)
        side = self.shows.opened / self.shows.rate
        then = (np.clip(ages - side, 0, lives), np.clip(ages + side, 0, lives))
        places = (
            flock.places + flock.speeds * (then[0] - ages + self.ahead)[:, None],
            flock.places + flock.speeds * (then[1] - ages + self.ahead)[:, None],
        )
        lies = ~flock.speeds.any(axis=1)
        moved = np.maximum(0, ages - flock.lain - np.where(lies, self.ahead, 0.0))
        lot = flock.lot()
        before = [Alive(*state) for state in earlier]
        behind = flock.behind(before, self.since, self.ahead, made.ribbons())
        return self.shows.drawn(
            at, key, lot, ages, moved, then, places, behind, album[0] if album else None
        )


class _Sow(NamedTuple):
    """Takes the places where they may be born from a picture."""

    made: Flock
    born: str

    def __repr__(self) -> str:
        return f"sown {self.born} {_SEEN_AT}"

    def next(self, at: At, tile: Tile) -> Sown:
        return self.made.sown(tile, _SEEN_AT)


class _Closed(NamedTuple):
    """All that are alive at a moment, where flight is known in closed form."""

    shows: _Shows
    clock: Clock
    births: tuple[tuple[float, float, tuple[Any, ...]], ...]
    """On each frame: how many were born till then, and the settings of birth."""

    albums: int
    """How many albums come before what is sown."""

    def draw(self, at: At, *before: Any) -> Tile:
        made, now, rate = self.shows.made, *self.clock[:2]
        key = at.key("particles", made.seed)
        lot = self._alive(key, before[self.albums :])
        ends, side = made.ends(lot, made.lives(key, lot.which)), self.shows.opened
        is_there = (now - side - lot.born) / rate < ends
        shed, shed_ends = self._shed_by(key, lot, ends)
        lot = joined(lot.some(is_there), shed)
        ends = np.concatenate([ends[is_there], shed_ends])
        then = (
            np.clip((now - side - lot.born) / rate, 0, ends),
            np.clip((now + side - lot.born) / rate, 0, ends),
        )
        places = made.flown(lot, then[0]), made.flown(lot, then[1])
        ages = np.maximum(0.0, (now - lot.born) / rate)
        album = before[0] if self.albums else None
        backs = np.linspace(0, made.ribbons(), RIBBON_POINTS) if made.ribbons() else ()
        past = [made.flown(lot, np.clip((now - lot.born) / rate - back, 0, ends)) for back in backs]
        behind = np.array(past).reshape(len(backs), len(ages), 2)
        if made.minds_speed():
            lot = lot._replace(speeds=self._speeds(lot, np.clip(ages, _MOMENT, ends)))
        return self.shows.drawn(at, key, lot, ages, ages, then, places, behind, album)

    def _speeds(self, lot: Lot, ages: Numbers) -> Numbers:
        """How fast things are that are so many seconds old, a moment and more `(N, 2)`."""
        made = self.shows.made
        found: Numbers = (made.flown(lot, ages) - made.flown(lot, ages - _MOMENT)) / _MOMENT
        return found

    def _shed_by(self, key: Key, lot: Lot, ends: Numbers) -> tuple[Lot, Numbers]:
        """What things that get so old have shed and is there, and how old each of that gets."""
        made, now, rate = self.shows.made, *self.clock[:2]
        if not made.is_shedding():
            return lot.some(np.empty(0, np.int64)), np.empty(0)
        age, opened = (now - lot.born) / rate, self.shows.opened / rate
        of, which, ages = made.left_behind(
            key, lot.which, age - made.shed_life - opened, np.minimum(age + opened, ends)
        )
        over = np.flatnonzero(age + opened > ends) if made.bursts_into else np.empty(0, np.int64)
        parts, numbers = made.burst_of(lot.which[over])
        from_burst = over[parts]
        of, ages = np.concatenate([of, from_burst]), np.concatenate([ages, ends[from_burst]])
        bursts = np.arange(len(of)) >= len(which)
        which = np.concatenate([which, numbers])
        parent = lot.some(of)
        starts = made.flown(parent, ages)
        came = (starts - made.flown(parent, np.maximum(0, ages - _MOMENT))) / np.minimum(
            np.maximum(ages, 1e-9), _MOMENT
        )[:, None]
        came[bursts] = made.thrown_back(came[bursts])
        speeds = made.scattered(key, which, came)
        shed = Lot(which, parent.born + ages * rate, starts, speeds, parent.roots, parent.dyes)
        lives = made.lives(key, which)
        left = (now - shed.born) / rate < lives + opened
        return shed.some(left), lives[left]

    def _alive(self, key: Key, sown: tuple[Sown, ...]) -> Lot:
        """Those that live at some time while the shutter is open, or of which something may that they shed."""
        made, now, rate = self.shows.made, *self.clock[:2]
        counts = np.array([count for _, count, _ in self.births])
        frames = np.array([frame for frame, _, _ in self.births])
        rows = births_on([row for _, _, row in self.births], rate)
        which, place, born, then = made.born_between(key, counts, frames, rows, made.most())
        oldest, latest = (
            (frame - self.clock.begins) / rate for frame in (frames[0], now + self.shows.opened)
        )
        born_so = [(which, place, born, then)]
        room = math.ceil(made.most() / max(1, made.burst))
        for turn, since in made.bursts_between(oldest, latest + 1e-9)[-room:]:
            frame = self.clock.begins + since * rate
            at = int(np.clip(np.searchsorted(frames, frame, side="right") - 1, 0, len(frames) - 2))
            row = rows[at] + (rows[at + 1] - rows[at]) * (frame - frames[at])
            numbers, moments, settings = made.burst_at(turn, frame, row)
            born_so.append((numbers, np.full(made.burst, at), moments, settings))
        which, place, born, then = (np.concatenate(parts) for parts in zip(*born_so, strict=True))
        age = (now - born) / rate
        after = made.shed_life if made.is_shedding() else 0.0
        seen = (age > -self.shows.opened / rate) & (age < made.lives(key, which) + after)
        kept = np.flatnonzero(seen)
        if len(kept) > made.most():
            kept = np.sort(kept[np.argsort(born[kept], kind="stable")[-made.most() :]])
        which, place, born, then = which[kept], place[kept], born[kept], then[kept]
        if not made.sows():
            return made.thrown(key, which, born, then)
        lots = [made.thrown(key, which[:0], born[:0], then[:0], sown[0])]
        for frame in np.unique(place):
            of = place == frame
            lots.append(made.thrown(key, which[of], born[of], then[of], sown[frame]))
        return joined(*lots)
