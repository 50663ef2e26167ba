"""Growth: veins, coral, mazes and spots that spread by themselves."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key, uniform
from handful.engine.kernels.fluid.laid import covered, laid
from handful.engine.kernels.fluid.reaction import Field, react
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
from handful.engine.values import Move, Point

_FORMS: dict[str, tuple[float, float]] = {
    "veins": (0.037, 0.0600),
    "coral": (0.0545, 0.0620),
    "mazes": (0.0290, 0.0570),
    "spots": (0.0300, 0.0620),
    "holes": (0.0390, 0.0580),
}
"""How fast what feeds them comes and how fast they die, as Pearson maps what grows from that."""

_FULL = 0.34
"""About as much of the second stuff as there is where it stands."""


class _Grown(NamedTuple):
    """A state: what feeds, and what grows, `(R, C)`."""

    feeds: Field
    grows: Field


@register
class Growth(Area):
    """A pattern that grows from where it is sown, by two stuffs of which one feeds on the other: veins,
    coral, mazes, spots. It spreads, fills what it may, and stays alive.

    It is computed from its beginning on; how much of it shows, and as what, is seen at once.
    """

    family = "texture"
    paced_by = "tempo"
    briefly = {"detail": 48, "preroll": 0.4, "start": [480, 270], "wide": 200, "within": ""}
    says = (
        "Grows as {form} from {sown} at {start}, {seeds} of them {wide} wide, or from {of}, on {width} by {height} about {at}, within {within}; "
        "{pace} and {preroll} before, its time {tempo}, fed {uneven} unevenly. It makes {comes_as}, {amount} as strong, at {brightness} with edges {soft} soft, in {colour} and "
        "{colour_thin} where it is thin, at {light}. Computed in {detail} cells."
    )

    form: Literal["veins", "coral", "mazes", "spots", "holes"] = setting(
        "veins", help="What it grows as."
    )
    sown: Literal["a point", "many points", "a layer"] = setting(
        "a point", help="From what it grows."
    )
    start: Point = setting([960, 540], unit="px", help="The point that it grows from.")
    seeds: int = setting(
        12, least=1, most=2000, usual=(1, 60), help="From how many points, if many."
    )
    wide: float = setting(
        40, unit="px", drawn="radius", about="start", least=4, most=2000, usual=(10, 200), help="How wide what it grows from is."
    )  # fmt: skip
    of: LayerId = setting("", help="The layer whose cover it grows from.")
    within: LayerId = setting("", help="A layer whose cover it stays within.")
    pace: float = setting(
        100, unit="%", least=0, most=500, usual=(0, 300), help="How fast it grows."
    )
    preroll: float = setting(
        0, unit="s", least=0, most=60, usual=(0, 10), help="How long it has grown already."
    )
    tempo: float = own_tempo("growth")
    uneven: float = setting(
        30, unit="%", least=0, most=100, help="How much what feeds it comes and goes."
    )  # fmt: skip
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another growth."
    )
    comes_as: Literal["light", "cover", "height"] = setting(
        "light", look=True, help="Whether it shines, hides, or is a height for others."
    )
    amount: float = setting(
        100, unit="%", look=True, least=0, most=5000, usual=(0, 300), help="How strong it is."
    )
    brightness: float = setting(
        0, unit="%", look=True, least=-100, most=100, help="How much of it shows: less or more than half."
    )  # fmt: skip
    soft: float = setting(
        60, unit="%", look=True, least=0, most=100, help="How soft its edges are."
    )
    colour: Colour = setting("#ff8a3c", look=True, help="Its colour.")
    colour_thin: Colour = setting("#b01e0a", look=True, help="Its colour where it is thin.")
    light: float = setting(
        1.5, unit="stops", look=True, least=-12, most=16, usual=(-4, 8), help="How bright it is."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "height" if written.comes_as == "height" else "light"

    @classmethod
    def steps_a_second(cls, written: Any) -> float:
        pace = written.pace
        return _PACE * (1 if isinstance(pace, Move) else max(pace / 100, 0.01))

    def already(self) -> float:
        return self.preroll

    def watches(self) -> tuple[tuple[str, float], ...]:
        named = (self.of if self.sown == "a layer" else "", self.within)
        return tuple((layer, self.seen_at()) for layer in named if layer)

    def begin(self, at: At) -> State:
        rows, columns = self.size()
        grows = np.zeros((rows, columns), np.float32)
        if self.sown != "a layer":
            key = at.key("growth", self.seed)
            left, top = self.corner()
            many = self.sown == "many points"
            for n in range(self.seeds if many else 1):
                x = left + uniform(*key, n, 0) * self.width if many else self.start.x
                y = top + uniform(*key, n, 1) * self.height if many else self.start.y
                self._sow(grows, (x - left) / self.cell(), (y - top) / self.cell(), key, n)
        return _Grown((1 - 2 * grows).astype(np.float32), grows)

    def _sow(self, grows: Field, x: float, y: float, key: Key, n: int) -> None:
        """A ragged spot of what grows; evenly round it would grow as rings."""
        rows, columns = grows.shape
        across = np.arange(columns) + 0.5 - x
        down = np.arange(rows)[:, None] + 0.5 - y
        turn = np.arctan2(down, across)
        waves = sum(
            np.cos(k * turn + 6.28 * uniform(key.first, key.second, 97 * n + k, 2))
            for k in (2, 3, 5)
        )
        reach = max(2.0, self.wide / 2 / self.cell()) * (1 + 0.16 * waves)
        grows[np.hypot(across, down) < reach] = 0.25

    def steps(self, rate: float) -> int:
        return max(1, round(self.pace / 100 * _PACE / rate))

    def advance(self, state: State, at: At, stretch: Stretch, *others: Tile) -> State:
        if self.pace <= 0:
            return state
        feeds, grows = state
        place = (*self.corner(), self.cell(), self.seen_at(), *self.size())
        seen = dict(zip((layer for layer, _ in self.watches()), others, strict=True))
        within = covered(seen[self.within], *place) if self.within else np.ones_like(grows)
        if self.sown == "a layer" and self.of:
            sown = covered(seen[self.of], *place) > 0.5
            grows = np.where(sown & (grows < 0.1), np.float32(0.25), grows)
        feed, dies = _FORMS[self.form]
        fed = feed * (1 + 0.12 * self.uneven / 100 * math.sin(1.7 * stretch.since + self.seed))
        for _ in range(stretch.steps):
            feeds, grows = react(feeds, grows, within, fed, dies)
        return _Grown(feeds, grows)

    def drawn_from(self, state: State, at: At, seconds: float, ahead: float, *others: Tile) -> Tile:
        left, top = self.corner()
        scaled = (left * at.scale, top * at.scale, self.cell() * at.scale)
        level, covers = laid(_Grown(*state).grows / _FULL, *scaled, at.wanted)
        soft = max(0.02, self.soft / 100)
        middle = 0.5 - 0.45 * self.brightness / 100
        shown = np.clip((level - middle) / soft + 0.5, 0, 1)
        shown = shown * shown * (3 - 2 * shown)
        if self.comes_as == "height":
            return Tile((shown * np.float32(self.amount / 100 * _HIGH)).astype(np.float32), covers)
        picture = blank(covers)
        if covers.empty:
            return Tile(picture, covers)
        thick, thin = np.array(self.colour, np.float32), np.array(self.colour_thin, np.float32)
        colours = thin + (thick - thin) * shown[..., None]
        if self.comes_as == "cover":
            cover = np.minimum(1, shown * self.amount / 100)
            picture[..., :3], picture[..., 3] = colours * cover[..., None], cover
        else:
            bright = np.float32(2.0**self.light * self.amount / 100)
            picture[..., :3] = colours * (shown * bright)[..., None]
        return Tile(picture, covers)


_PACE = 500.0
"""Units of time a second at a pace of all."""

_HIGH = 20.0
"""px that it stands out as a height."""
