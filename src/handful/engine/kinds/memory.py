"""Sources with memory: what they are at a frame follows from all that they were before.

A state is a tuple of arrays, in px of the full-size canvas and seconds, that is never changed once it is
there. One frame leads to the next, in steps that the recipe sets and never what is asked for, so that a
picture is the same whatever was computed before. A state is named by the settings that move it, over all
frames up to it, and by those of no other: what only changes the look finds all states where they are.
"""

from __future__ import annotations

import dataclasses
import math
from typing import Any, ClassVar, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds.declaration import At, Source, TooMuch
from handful.engine.kinds.planning import Planned, Planning
from handful.engine.kinds.setting import setting
from handful.engine.picture import Tile
from handful.engine.values import Move

State = tuple[Any, ...]
"""Arrays."""


def too_long(written: Any, work: float, most: float) -> TooMuch | None:
    """Whether what goes on before a layer begins is more than can be waited for, at so much work a second.
    What moves is not asked."""
    preroll = written.preroll
    if isinstance(preroll, Move) or preroll * work <= most:
        return None
    return TooMuch(
        "preroll",
        f"{preroll:g} s before it begins would take minutes to compute; take less, or compute it less finely.",
        math.floor(most / work * 100) / 100,
    )


class Unstable(Exception):
    """A source with memory came to what cannot be: says which, when, and what helps."""


_MOST = 1e9
"""No number of a state is larger, in px and seconds, but where steps have built up on one another."""

_LASTS_EVERY = 10
"""Frames from one state that is kept for long to the next."""


class Stretch(NamedTuple):
    """A stretch of time that passes: from so many seconds after the memory begins, and after the layer
    does, at so many frames a second, in so many steps; and the source as it is a frame later, for one
    that looks ahead."""

    seconds: float
    since: float
    rate: float
    steps: int
    later: Stateful


def own_tempo(what: str) -> Any:
    """The setting of how quick the time of a source with memory goes, which each declares that has it."""
    return setting(
        100, unit="%", look=True, least=0, most=400, usual=(0, 200),
        help=f"How quick its own time goes: at 50 the same {what} takes twice as long, at 0 it stands still.",
    )  # fmt: skip


class OwnTime(NamedTuple):
    """How a source's own time goes beside its shot's: so many of its own frames `passed` `(N,)` since its layer began,
    at so many frames of the shot from 0; before that both go alike, and afterwards as at the end."""

    begins: float
    passed: NDArray[np.float64]

    def own(self, frame: float) -> float:
        """The frame of its own time at one of the shot's."""
        since = frame - self.begins
        if since <= 0:
            return frame
        return self.begins + float(np.interp(since, np.arange(len(self.passed)), self.passed))

    def shots(self, own: float) -> float:
        """The first frame of the shot at which its own time has come to one of its frames; where it never does,
        the last that is known."""
        since = own - self.begins
        if since <= 0:
            return own
        last = len(self.passed) - 1
        if since > self.passed[last]:
            quick = float(self.passed[last] - self.passed[last - 1]) if last else 1.0
            beyond = (since - float(self.passed[last])) / quick if quick > 0 else 0.0
            return self.begins + last + beyond
        after = int(np.searchsorted(self.passed, since))
        before = float(self.passed[after - 1])
        part = (since - before) / (float(self.passed[after]) - before)
        return self.begins + after - 1 + part


class Stateful(Source):
    """A source with memory. Settings declared with `look` do not move its state."""

    briefly: ClassVar[dict[str, Any]] = {}
    """Settings with which it is tried in little time."""

    steadier: ClassVar[str] = "let what moves it change less at once"
    """What helps where its steps build up on one another."""

    paced_by: ClassVar[str] = ""
    """The setting of how quick its own time goes, if it has one; see `own_tempo`."""

    looks_ahead: ClassVar[bool] = False
    """Whether what moves it goes evenly to what it is on the next frame."""

    def already(self) -> float:
        """For how many seconds it has gone on before its layer begins."""
        return 0.0

    def begin(self, at: At) -> State:
        """The state before anything has happened. `at` gives random numbers only."""
        raise NotImplementedError

    def steps(self, rate: float) -> int:
        """Into how many steps a frame is cut."""
        return 1

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        """The state after a stretch of at most a frame, from the one before it."""
        raise NotImplementedError

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        """The picture of a state, so many seconds after the beginning, and at most half a step ahead of it or
        behind, with the pictures that it wears."""
        raise NotImplementedError

    def watches(self) -> tuple[tuple[str, float], ...]:
        """Other layers that move the state, by id, and at which scale it looks at them."""
        return ()

    def watches_next(self) -> tuple[tuple[str, float], ...]:
        """Those of them of which it is seen as well how they are on the next frame; they are handed over after the others."""
        return ()

    def wears(self) -> tuple[tuple[str, float], ...]:
        """Other layers that it is drawn with, by id, and at which scale it looks at them."""
        return ()

    def planned(self, ask: Planning) -> Planned:
        """Its picture, from a state that follows from all those before."""
        (*_, state), seconds, ahead = self.remembered(ask)
        now = ask.clock().frame
        worn = [ask.seen(of, now, scale) for of, scale in self.wears()]
        return ask.drawn(_Draw(self, seconds, ahead), state, *worn)

    def remembered(self, ask: Planning) -> tuple[list[Planned], float, float]:
        """The states as each frame begins, and last at a moment, how many seconds after the beginning that is,
        and how far ahead of it."""
        clock, time = ask.clock(), self._time(ask)
        now = time.own(clock.frame)
        first = math.floor(clock.begins - self.already() * clock.rate)
        last = max(first, math.floor(now + 1e-6))
        names = [each.name for each in self.settings if not each.look]
        frames = range(first, last + 1)
        moments = [time.shots(own) for own in range(first, last + 2)]
        rows = ask.history(names, moments[: len(frames) + self.looks_ahead])
        made = [dataclasses.replace(self, **dict(zip(names, row, strict=True))) for row in rows]
        states = [ask.state(_Begin(made[0], rows[0]), frame=first)]
        part = max(0.0, now - last)
        cut = made[last - first].steps(clock.rate)
        begun = round(part * cut)
        for i, frame in enumerate(frames):
            then, later = made[i], i + self.looks_ahead
            steps = then.steps(clock.rate) if frame < last else begun
            if steps:
                stretch = Stretch(
                    (frame - first) / clock.rate, (frame - clock.begins) / clock.rate, clock.rate,
                    steps, made[later],
                )  # fmt: skip
                others = [ask.seen(of, moments[i], scale) for of, scale in then.watches()]
                others += [ask.seen(of, moments[i + 1], scale) for of, scale in then.watches_next()]
                by = _Advance(then, rows[i : later + 1], stretch)
                lasts = frame < last and (frame + 1 - first) % _LASTS_EVERY == 0
                at = math.ceil(moments[i + 1]) if frame < last else None
                states.append(ask.state(by, states[-1], *others, lasts=lasts, frame=at))
        ahead = (part - begun / cut) / clock.rate
        return states, (last + part - first) / clock.rate, ahead

    def _time(self, ask: Planning) -> OwnTime:
        clock = ask.clock()
        whole = max(0, math.ceil(clock.frame - clock.begins - 1e-6))
        if not self.paced_by:
            return OwnTime(clock.begins, np.arange(whole + 1, dtype=np.float64))
        frames = [clock.begins + i for i in range(whole + 1)]
        quick = np.array([row[0] for row in ask.history((self.paced_by,), frames)]) / 100
        passed = np.concatenate([[0.0], np.cumsum((quick[1:] + quick[:-1]) / 2)])
        return OwnTime(clock.begins, passed)


class _Begin(NamedTuple):
    source: Stateful
    row: tuple[Any, ...]

    def __repr__(self) -> str:
        return f"{self.source.name} begins {self.row}"

    def next(self, at: At) -> State:
        return self.source.begin(at)


class _Advance(NamedTuple):
    source: Stateful
    rows: list[tuple[Any, ...]]
    stretch: Stretch

    def __repr__(self) -> str:
        return f"{self.source.name} {self.rows} {self.stretch[:-1]}"

    def next(self, at: At, state: State, *others: Tile) -> State:
        found = self.source.advance(state, at, self.stretch, *others)
        if _is_sound(found):
            return found
        source = self.source
        raise Unstable(
            f"The {source.name} comes apart in its own steps {self.stretch.since:.2f} s after its layer begins, and "
            f"is not shown from there on: {source.steadier}"
        )


def _is_sound(state: State) -> bool:
    """Whether all numbers of a state are such as can be."""
    return all(
        bool(part.max(initial=0) < _MOST and part.min(initial=0) > -_MOST)
        for part in state
        if isinstance(part, np.ndarray) and part.dtype.kind == "f"
    )


class _Draw(NamedTuple):
    source: Stateful
    seconds: float
    ahead: float

    def draw(self, at: At, state: State, *others: Tile) -> Tile:
        return self.source.drawn_from(state, at, self.seconds, self.ahead, *others)
