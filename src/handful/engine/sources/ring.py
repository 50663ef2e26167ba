"""Ring: a shock wave or a ripple that runs outwards, or gathers."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.noise import octaves
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.fronts import (
    BODY,
    CONE,
    HEIGHT,
    LIGHT,
    MIST,
    OFFSETS,
    RING,
    Placing,
    front_rows,
    on_ground,
)
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.blast import front_of
from handful.engine.kernels.forms.fronts import (
    Profile,
    Push,
    drop_reach,
    drop_waves,
    gathered,
    profile,
    steps_over,
)
from handful.engine.kernels.pixels.monotone import curve_through
from handful.engine.kinds import (
    At,
    LayerId,
    Others,
    Piece,
    Planned,
    Planning,
    Source,
    clockwise,
    register,
    setting,
)
from handful.engine.picture import PictureKind, Region, Tile, clear_tile
from handful.engine.values import Point


class Across(Piece):
    """How strong a ring is at a part of its way from its front to the end of its tail."""

    pictured = "curve"

    says = "{strength} at {part}"

    part: float = setting(
        50, unit="%", least=0, most=100,
        help="Where: 0 is before the front's rise, 100 the end of the tail.",
    )  # fmt: skip
    strength: float = setting(
        100, unit="%", least=-400, most=400, usual=(-100, 100),
        help="How strongly it shines or pushes there; below 0 it pulls.",
    )  # fmt: skip


@register
class Ring(Source):
    """A front that runs outwards, or gathers, with what it leaves behind: a steep rise, a long fall, and the
    pull that follows it.

    It is a ring about a point, a ball of air seen from aside, the cone of what flies faster than sound, or
    comes from the outline of a layer. As light it is seen, as mist where the air is pulled thin, and as a
    height or as offsets it bends what another layer shows. It begins with its layer.
    """

    family = "shock"
    says = (
        "It is {shape} at {at} of the layer {body}, at Mach {mach}, and {lies} with its vanishing point at "
        "{horizon}, {near} above where it is measured. It runs {runs} and grows {grows}: {radius}, {speed}, "
        "or {energy} on {metre} a metre, or from a drop of {drop} in {depth} of water, after {delay}. "
        "Its front is {front} steep and falls over {tail}, {falls}, {sharp} sharp or {across}, in {rings} rings {gap} apart, "
        "each {fainter} of the one before. Over {reaches} it is down to half. Broken by {rough} in {waves} "
        "waves round, {patchy} patchy, boiling {boil}; it spans {span} about {direction}, {feather} soft, "
        "{flat} flat. It makes {comes_as}, in {colour} at {light}, pushing {amount} and covering {dense}."
    )

    shape: Literal["a ring", "a ball", "a cone", "around a body"] = setting(
        "a ring",
        help="A ring about a point; a ball, brightest at its rim; the cone behind what outruns it; or what "
        "spreads from the outline of a layer.",
    )
    at: Point = setting([960, 540], unit="px", help="Where it comes from; of a cone, its tip.")
    body: LayerId = setting(
        "", help="Around a body: the layer that it spreads from, where that covers or is bright."
    )
    mach: float = setting(
        1.6, least=1.001, most=40, usual=(1.05, 6),
        help="Of a cone: how many times as fast as its waves the tip is.",
    )  # fmt: skip
    lies: Literal["on the picture", "on the ground"] = setting(
        "on the picture", help="On the picture, or on ground that goes back to a horizon."
    )
    horizon: Point = setting(
        [960, 400], unit="px", help="On the ground: the point where the ground vanishes."
    )
    near: float = setting(
        500, unit="px", least=-20000, most=20000, usual=(50, 2000),
        help="On the ground: how far below the horizon a px is a px; above for a ceiling.",
    )  # fmt: skip
    runs: Literal["outwards", "inwards"] = setting(
        "outwards", help="Whether it runs away from where it comes from, or gathers there."
    )
    grows: Literal["by hand", "at a speed", "as a blast", "as water does"] = setting(
        "at a speed",
        help="How its radius grows: as set, evenly, as a strong blast does; or waves of many lengths from "
        "a drop, each at its own speed.",
    )
    radius: float = setting(
        0, unit="px", drawn="radius", about="at", least=0, most=40000, usual=(0, 2000),
        help="By hand: its radius. Else: where it begins; inwards, 0 is from beyond the canvas.",
    )  # fmt: skip
    speed: float = setting(
        1600,
        unit="px/s",
        least=0,
        most=200_000,
        usual=(0, 6000),
        help="At a speed: how fast it runs.",
    )
    energy: float = setting(
        4, unit="MJ", least=0.001, most=1e9, usual=(0.01, 100), help="As a blast: 4.2 MJ are a kilogram of TNT."
    )  # fmt: skip
    metre: float = setting(
        60,
        unit="px",
        least=0.01,
        most=10_000,
        usual=(1, 400),
        help="As a blast, or as water does: how many px a metre is.",
    )
    drop: float = setting(
        6, unit="cm", least=0.2, most=1000, usual=(1, 60),
        help="As water does: how wide the hollow is that it begins with.",
    )  # fmt: skip
    depth: float = setting(
        20,
        unit="m",
        least=0.005,
        most=1000,
        usual=(0.02, 50),
        help="As water does: how deep it is.",
    )
    delay: float = setting(
        0, unit="s", least=0, most=3600, usual=(0, 4), help="How long after its layer it begins."
    )
    front: float = setting(
        10, unit="px", least=0.5, most=4000, usual=(1, 120), help="Over how far it rises."
    )
    tail: float = setting(
        150,
        unit="px",
        least=1,
        most=20000,
        usual=(10, 800),
        help="Over how far the push lasts; then it pulls.",
    )
    sharp: float = setting(
        1.6, least=0, most=20, usual=(0, 6), help="How much quicker it falls at first."
    )
    falls: Literal["by hand", "as air does"] = setting(
        "as air does",
        help="What it is across: what a curve says; or a steep push, a long fall and the pull after it.",
    )
    across: tuple[Across, ...] = setting(
        [
            {"part": 0, "strength": 0},
            {"part": 12, "strength": 100},
            {"part": 40, "strength": 0},
            {"part": 60, "strength": -25},
            {"part": 100, "strength": 0},
        ],
        least=1, most=24,
        help="By hand: how strong it is from before its front to the end of its tail.",
    )  # fmt: skip
    rings: int = setting(
        1, least=1, most=24, usual=(1, 8), help="How many run one behind the other."
    )
    gap: float = setting(
        120, unit="px", least=1, most=20000, usual=(10, 600), help="How far apart they are."
    )
    fainter: float = setting(
        60, unit="%", least=0, most=100, help="How strong each is, of the one before it."
    )
    reaches: float = setting(
        700,
        unit="px",
        least=1,
        most=100_000,
        usual=(50, 3000),
        help="Radius at which it is down to half.",
    )
    rough: float = setting(
        14, unit="px", least=0, most=4000, usual=(0, 200), help="How far the front is before and behind a circle."
    )  # fmt: skip
    waves: float = setting(
        5, least=0.2, most=200, usual=(1, 30), help="How many waves of that there are round it."
    )
    patchy: float = setting(
        40, unit="%", least=0, most=100, help="How much fainter it is in places."
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1},
        unit="cycles", least=-1e6, most=1e6, usual=(0, 10),
        help="How far that has changed.",
    )  # fmt: skip
    span: float = setting(360, unit="°", least=0, most=360, help="How much of a circle it is.")
    direction: float = clockwise(-90, about="at", help="The middle of that.")
    feather: float = setting(30, unit="°", least=0, most=180, help="How softly it ends there.")
    flat: float = setting(
        100,
        unit="%",
        least=1,
        most=100,
        help="How high it is of its width: a ring on ground that lies back.",
    )
    comes_as: Literal["light", "mist", "height", "offsets"] = setting(
        "light",
        help="What comes of it: light; mist, or darkness, where it pulls; or what bends other layers.",
    )
    colour: Colour = setting("#cfe6ff", help="Colour of its light or mist.")
    light: float = setting(
        0, unit="stops", least=-12, most=16, usual=(-4, 8), help="How bright it is at first."
    )
    amount: float = setting(
        40, unit="px", least=-4000, most=4000, usual=(-200, 200),
        help="As a height or offsets: how high it is, or how far it pushes outwards, at first.",
    )  # fmt: skip
    dense: float = setting(
        60,
        unit="%",
        least=0,
        most=100,
        help="As mist: how much it covers where the pull is strongest.",
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed, other waves."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return _KINDS[written.comes_as]

    def planned(self, ask: Planning) -> Planned:
        clock = ask.clock()
        age = (clock.frame - clock.begins) / clock.rate - self.delay
        return ask.drawn(_Front(self, age, self._gone(age)), *ask.others())

    def _gone(self, age: float) -> float:
        """How far the front has gone after so many seconds; not before it begins."""
        if self.grows == "by hand":
            return 0.0
        if age < 0:
            return -math.inf
        if self.grows == "as a blast":
            return front_of(self.energy * 1e6, age) * self.metre
        return self.speed * age


_ROUND = 4096
"""Directions for which the waves round it are worked out."""

_TO_A_FRONT, _TO_A_TAIL = 6.0, 16.0
"""Into so many steps the rise and the fall are divided at the least."""

_TO_A_CURVE = 400.0
"""And what is drawn by hand from end to end: its points may be a hundredth apart."""

_BALL_STEPS = 1024


class _Front(NamedTuple):
    """The ring at an age in seconds, when its front has gone so far."""

    made: Ring
    age: float
    gone: float

    def draw(self, at: At, *others: Tile) -> Tile:
        made = self.made
        kind = _KINDS[made.comes_as]
        radius = self._radius(at)
        has_begun = self.age >= 0 if self._is_wave() or made.shape == "a cone" else radius > 0
        body = self._body(at, others)
        if not has_begun or at.wanted.empty or (made.shape == "around a body" and body is None):
            return clear_tile(at.wanted, kind)
        placing = self._placing(at, radius)
        known = self._known(radius, self._farthest(at))
        region = (
            at.wanted.meet(at.canvas) if body is not None else self._touched(at, placing, known)
        )
        if region.empty:
            return clear_tile(at.wanted, kind)
        channels: tuple[int, ...] = {"light": (4,), "height": (), "offsets": (2,)}[kind]
        pixels = np.empty((region.height, region.width, *channels), np.float32)
        outside = np.zeros((1, 1), np.float32)
        if body is not None:
            outside = np.ascontiguousarray(Tile(body, at.canvas).within(region))
        amount = made.amount
        if made.comes_as == "mist":
            amount = made.dense / 100 / max(1e-9, -self._push().strongest_pull())
        in_bands(
            front_rows, region.height, region.left, region.top, placing, known, self._round(at), outside,
            _DRAWN_AS[made.comes_as], amount, light_of(made.colour, made.light),
            pixels.reshape(region.height, region.width, -1),
        )  # fmt: skip
        return Tile(pixels, region)

    def _radius(self, at: At) -> float:
        """Where the front is; below 0 before it begins and after it has gathered."""
        made = self.made
        if made.runs == "outwards" or made.grows == "by hand":
            return made.radius + self.gone
        begins = made.radius or self._farthest(at._replace(wanted=at.canvas))
        return begins - abs(self.gone)

    def _is_wave(self) -> bool:
        return self.made.grows == "as water does"

    def _placing(self, at: At, radius: float) -> Placing:
        made = self.made
        shape = {"a cone": CONE, "around a body": BODY}.get(made.shape, RING)
        near = (made.near or 1e-3) if made.lies == "on the ground" else 0.0
        return Placing(
            shape, made.at.x, made.at.y, 1e9 if shape != RING or self._is_wave() else radius,
            radius if made.shape == "a ball" else 0.0, 1.0 if near else made.flat / 100, 1 / at.scale, (made.horizon.x, made.horizon.y), near,
            math.radians(made.direction), math.asin(1 / made.mach), self._push().falls(),
        )  # fmt: skip

    def _push(self) -> Push:
        made = self.made
        return Push(
            made.front, made.tail, made.sharp, made.rings, made.gap, made.fainter / 100, made.reaches,
            made.runs == "inwards" and made.shape != "a cone",
            self._across if made.falls == "by hand" else None,
        )  # fmt: skip

    def _across(self, along: NDArray[np.float64]) -> NDArray[np.float64]:
        """The curve drawn by hand, even before its first point and after its last."""
        strengths = [(piece.part / 100, piece.strength / 100) for piece in self.made.across]
        ends = min(at for at, _ in strengths), max(at for at, _ in strengths)
        return curve_through(strengths, np.clip(along, *ends))

    def _farthest(self, at: At) -> float:
        """px of the full size from the place to the farthest that is asked for, where it is on the picture."""
        if self.made.lies == "on the ground":
            return _OUT_OF_SIGHT
        x, y = self.made.at.x * at.scale, self.made.at.y * at.scale
        return (
            at.wanted.farthest_from(x, y) / at.scale / (self.made.flat / 100) + self.made.rough * 2
        )

    def _known(self, radius: float, farthest: float) -> Profile:
        """What there is by the distance, as far as is asked for."""
        made, push = self.made, self._push()
        if self._is_wave():
            wide = made.drop / 100
            reach = drop_reach(self.age, wide, made.depth) * made.metre
            away, step = steps_over(0, min(farthest, reach), _wave_step(made))
            heights = drop_waves(away / made.metre, self.age, wide, made.depth)
            return profile(heights, 0, step)
        if made.shape == "a cone":
            radius = 0.0
        first, last = push.span(radius)
        finest = min(made.front / _TO_A_FRONT, made.tail / _TO_A_TAIL)
        if push.across:
            finest = min(finest, (made.front + made.tail) / _TO_A_CURVE)
        if made.shape != "a ball":
            away, step = steps_over(first, last, finest)
            return profile(push.at(away, radius), first, step)
        away, step = steps_over(0, last, last / _BALL_STEPS)
        through = gathered(push.at(away, radius), step)
        if made.comes_as == "offsets":
            through = -np.gradient(through, step)
        through *= np.abs(push.at(away, radius)).max() / max(1e-12, np.abs(through).max())
        return profile(through, 0, step)

    def _touched(self, at: At, placing: Placing, known: Profile) -> Region:
        made = self.made
        if placing.shape != RING:
            return at.wanted
        out = known.first + known.step * (len(known.sums) - 1) + 2 * made.rough
        if placing.near:
            return on_ground(placing, at.wanted, out)
        reach = out * at.scale + 1
        x, y = made.at.x * at.scale, made.at.y * at.scale
        high = reach * placing.flat + 1
        return Region(
            math.floor(x - reach), math.floor(y - high), math.ceil(x + reach), math.ceil(y + high)
        ).meet(at.wanted)

    def _body(self, at: At, others: tuple[Tile, ...]) -> NDArray[np.float32] | None:
        """How far each px of the canvas is from the body, in px of the full size."""
        if self.made.shape != "around a body" or not others:
            return None
        inside = (others[0].within(at.canvas).max(axis=2) > 0.5).astype(np.uint8)
        if not inside.any():
            return None
        away = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        smooth: NDArray[np.float32] = cv2.GaussianBlur(np.maximum(0, away - 0.5), (0, 0), 1.0)
        return np.where(inside > 0, 0, smooth / at.scale).astype(np.float32)

    def _round(self, at: At) -> NDArray[np.float32]:
        """For each direction: how far the front is before a circle, in px, and how strong it is."""
        made = self.made
        table = np.empty((_ROUND + 1, 2), np.float32)
        whole = made.shape == "a cone"
        _waves_round(
            made.rough, made.patchy / 100, made.waves, made.boil, math.radians(made.direction),
            2 * math.pi if whole else math.radians(made.span), math.radians(made.feather),
            *at.key("ring", made.seed), table,
        )  # fmt: skip
        return table


_KINDS: dict[str, PictureKind] = {
    "light": "light", "mist": "light", "height": "height", "offsets": "offsets",
}  # fmt: skip

_DRAWN_AS = {"light": LIGHT, "mist": MIST, "height": HEIGHT, "offsets": OFFSETS}

_OUT_OF_SIGHT = 20_000.0
"""px of ground beyond which no wave of water is looked for."""


def _wave_step(made: Ring) -> float:
    """px between which a wave of water is even: a part of the shortest that the hollow holds."""
    return max(0.25, made.drop / 100 / 2 * made.metre / 4)


@compiled
def _waves_round(
    rough: float,
    patchy: float,
    waves: float,
    boil: float,
    direction: float,
    span: float,
    feather: float,
    k0: int,
    k1: int,
    table: NDArray[np.float32],
) -> None:
    """Noise on a circle in the plane of noise, so that it closes; and where the ring spans."""
    far = waves / (2.0 * math.pi)
    for i in range(table.shape[0]):
        angle = 2.0 * math.pi * i / (table.shape[0] - 1)
        first, second = octaves(
            far * math.cos(angle) + 31.7, far * math.sin(angle) + 11.3, boil, k0, k1, 4, 0.55
        )
        aside = abs((angle - direction + math.pi) % (2.0 * math.pi) - math.pi)
        there = 1.0
        if span < 2.0 * math.pi:
            there = min(1.0, max(0.0, (0.5 * span + 0.5 * feather - aside) / max(feather, 1e-3)))
        table[i, 0] = 1.6 * rough * first
        table[i, 1] = smooth(there) * (1.0 - patchy * min(1.0, max(0.0, 0.5 - 1.2 * second)))
