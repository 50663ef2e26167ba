"""Bolt: a discharge that grows between two points or along a path."""

from __future__ import annotations

import dataclasses
import math
from typing import Literal, Self

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key, boiling_normal, normal, uniform
from handful.engine.kernels.chance.purposes import ABOUT_EDGE, ASTRAY, MEETING, SHORT_OF
from handful.engine.kernels.drawing.lit import (
    Look,
    bounds_of,
    finer_at,
    lit_picture,
    planes_of,
    with_radius,
)
from handful.engine.kernels.forms.breakdown import breakdown_tree
from handful.engine.kernels.forms.channel import (
    Growth,
    grow_channel,
    grow_tree,
    tilt_for_turn,
)
from handful.engine.kernels.forms.curve import Points, Segments, curve_through, laid_along, measured
from handful.engine.kernels.forms.edges import nearest_edge, way_past
from handful.engine.kernels.forms.strokes import Stroke, stroke_at
from handful.engine.kinds import At, LayerId, Source, register, setting
from handful.engine.named import Path, Sway
from handful.engine.picture import Tile, clear_tile
from handful.engine.values import Point

End = Literal["pinned", "free", "reaching"]

_GUIDE_SPACING = 4.0
"""px between the vertices of the way that a channel follows."""


@register
class Bolt(Source):
    """A discharge between two points: a forked, crooked channel with a white-hot core.

    The channel is grown by midpoint displacement to the tortuosity measured on natural
    lightning, and forks as Reed and Wyvill describe it ("Visual simulation of lightning",
    SIGGRAPH 1994): branches leave the channel forwards at an angle, shorter, thinner and dimmer.
    Or it is grown as dielectric breakdown (Niemeyer, Pietronero and Wiesmann 1984), which makes
    the creeping figures of sparks on a surface.
    """

    family = "energy"
    begins_with = ("glow",)
    says = (
        "Strikes from {start} to {end}, far end {far_end}, {way}, grown {growth}. Turns {wander} at "
        "each bend, bends down to {finest}, boiling {boil}. {branches} branches reach "
        "{branch_reach}. {width} wide, thinning to {thinning}; core {core} at {core_light}, edge "
        "{edge} at {edge_light}. Struck {strokes} times, at {clock}."
    )

    start: Point = setting([640, 120], unit="px", help="Where it starts.")
    end: Point = setting([1280, 960], unit="px", help="Where it strikes.")
    path: Path | None = setting("", help="A path that it follows, in place of start and end.")
    near_end: End = setting(
        "pinned",
        help="Pinned: it touches its start. Free: it only begins near it. Reaching: it "
        "begins on the edge of a matte.",
    )
    far_end: End = setting(
        "pinned",
        help="Pinned: it touches its end. Free: it only aims at it. Reaching: it strikes "
        "the edge of a matte.",
    )
    reaches: LayerId = setting("", help="The layer whose cover's edge a reaching end touches.")
    reach_spread: float = setting(
        0,
        unit="px",
        least=0,
        most=10000,
        usual=(0, 800),
        help="How far around its point a reaching end may look for the edge.",
    )
    way: Literal["in one channel", "from both ends"] = setting(
        "in one channel", help="One channel, or discharges from both ends that meet on the way."
    )
    growth: Literal["by displacement", "by breakdown"] = setting(
        "by displacement", help="A crooked channel with branches, or a figure of breakdown."
    )
    eta: float = setting(
        2,
        least=0.5,
        most=6,
        usual=(1, 4),
        help="Of a breakdown: 1 is bushy, as sparks on glass; the higher, the fewer branches.",
    )
    aimed: float = setting(
        50,
        unit="%",
        least=0,
        most=100,
        help="How much a breakdown is drawn to its end; at 0 it grows to all sides.",
    )
    wander: float = setting(
        16,
        unit="°",
        least=0,
        most=40,
        help="Mean change of direction along the channel. Natural lightning turns 16°; 0 is straight.",
    )
    finest: float = setting(
        6,
        unit="px",
        least=1,
        most=400,
        usual=(2, 60),
        help="Length of the shortest straight pieces.",
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1.2},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far the shape has changed in place. Let it move to keep it alive.",
    )
    restrike: float = setting(
        0,
        unit="paths",
        least=-1e6,
        most=1e6,
        usual=(0, 20),
        help="A new path at each whole number: its rate is how many there are a second.",
    )
    sway: Sway | None = setting("", help="A sway that carries it along.")
    keeps: Literal["no distance", "away from", "close to"] = setting(
        "no distance", help="Whether it keeps away from the edge of a matte, or clings to it."
    )
    matte: LayerId = setting("", help="The layer whose cover it keeps away from or clings to.")
    distance: float = setting(
        40, unit="px", least=1, most=2000, usual=(5, 300), help="How far away, or how close."
    )
    branches: int = setting(7, least=0, most=24, help="Branches that leave the main channel.")
    branch_reach: float = setting(
        35, unit="%", least=0, most=100, help="Length of a branch, of the channel it leaves."
    )
    branch_angle: float = setting(
        32, unit="°", least=0, most=90, help="Angle at which a branch leaves its channel."
    )
    branch_width: float = setting(
        55, unit="%", least=5, most=100, help="Width of a branch, of the channel it leaves."
    )
    branch_light: float = setting(
        -0.7, unit="stops", least=-8, most=0, help="Light of a branch, of the channel it leaves."
    )
    dying: float = setting(
        88, unit="%", least=0, most=100, help="Light that a branch loses towards its tip."
    )
    forks: int = setting(2, least=0, most=2, help="How often branches branch again.")
    width: float = setting(
        2.5,
        unit="px",
        least=0.5,
        most=200,
        usual=(1, 40),
        help="Width of the core at half its light.",
    )
    thinning: float = setting(
        60,
        unit="%",
        least=0,
        most=400,
        usual=(0, 100),
        help="Width at the far end, of the width at the start.",
    )
    core: Colour = setting("#ffffff", help="Colour of the core. White looks hot.")
    core_light: float = setting(
        3,
        unit="stops",
        least=-10,
        most=12,
        usual=(-2, 8),
        help="Brightness of the core above white.",
    )
    edge: Colour = setting(
        "#9fc3ff", help="Colour of the light around the core, and of a core that fades."
    )
    edge_light: float = setting(
        -1,
        unit="stops",
        least=-10,
        most=12,
        usual=(-6, 4),
        help="Brightness of the edge around the core.",
    )
    edge_width: float = setting(
        3.2, unit="× width", least=1, most=12, help="How wide the edge is, against the core."
    )
    uneven: float = setting(
        35, unit="%", least=0, most=100, help="How much the brightness varies along the channel."
    )
    strokes: int = setting(
        0,
        least=0,
        most=12,
        help="Strokes of the flash, the first the brightest. Natural flashes have 3 to 5; 0 burns "
        "without end.",
    )
    clock: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1, "since": "layer"},
        unit="s",
        least=-1e5,
        most=1e5,
        usual=(0, 1),
        help="Time since the leader of the flash set out.",
    )
    leader: float = setting(
        0.06,
        unit="s",
        least=0,
        most=10,
        usual=(0, 0.5),
        help="How long the dim leader takes to come down before the first stroke.",
    )
    apart: float = setting(
        0.05,
        unit="s",
        least=0.005,
        most=5,
        usual=(0.02, 0.3),
        help="Time between strokes. In nature it is some 40 to 60 ms.",
    )
    afterglow: float = setting(
        0.06,
        unit="s",
        least=0.001,
        most=10,
        usual=(0.01, 0.5),
        help="Time in which the light of a stroke goes down to about a third.",
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, another shape.")

    def settled(self) -> Self:
        return self if self.strokes else dataclasses.replace(self, clock=0.0)

    def draw(self, at: At, *others: Tile) -> Tile:
        segments = self.segments(at, *others)
        if not len(segments):
            return clear_tile(at.wanted)
        finer = finer_at(at.scale)
        core = with_radius(segments, at.scale * finer)
        edge = with_radius(segments, at.scale * finer, self.edge_width)
        region = bounds_of(edge, finer).meet(at.wanted)
        if region.empty:
            return clear_tile(at.wanted)
        return lit_picture(
            planes_of(core, region, finer),
            planes_of(edge, region, finer),
            Look(self.core, self.edge, self.core_light, self.edge_light),
            region,
        )

    def segments(self, at: At, *others: Tile) -> Segments:
        """The channel and its branches `(N, 8)`: x, y, width, light at both ends of each piece,
        in px of the full-size canvas."""
        path = math.floor(self.restrike)
        key = at.key("bolt", self.seed, *([path] if path else []))
        stroke = stroke_at(
            at.key("flash", self.seed), self.clock, self.strokes, self.apart, self.leader,
            self.afterglow,
        )  # fmt: skip
        if stroke.grown <= 0 or stroke.channel < _DARK:
            return np.empty((0, 8))
        guide = self._guide(key, at, others)
        if self.growth == "by breakdown":
            segments = self._breakdown(key, guide, stroke)
        elif self.way == "in one channel":
            segments = self._tree(key, guide, stroke, (1.0, self.thinning / 100))
        else:
            segments = self._meeting(key, at, guide, stroke)
        if self.sway is not None:
            self._carry(segments, self.sway, at)
        return segments

    def _guide(self, key: Key, at: At, others: tuple[Tile, ...]) -> Points:
        """The way that the channel follows, from its start to its end: two vertices or many."""
        if self.path is not None:
            return self.path.line(1.0)
        mattes = dict(
            zip([name for name in (self.reaches, self.matte) if name], others, strict=False)
        )
        start, end = self.start, self.end
        ends = []
        for i, (aim, other, how) in enumerate(
            ((start, end, self.near_end), (end, start, self.far_end))
        ):
            place = aim
            if how == "free":
                place = _led_astray(key, other, aim, self.boil, 2 * i)
            elif how == "reaching" and self.reaches in mattes:
                place = self._on_edge(key, aim, mattes[self.reaches], at, i)
            ends.append(place)
        guide = np.array(ends, np.float64)
        if self.keeps == "no distance" or self.matte not in mattes or at.canvas.empty:
            return guide
        cover = mattes[self.matte].within(at.canvas)[..., 3]
        way = way_past(
            cover, guide[0] * at.scale, guide[1] * at.scale, self.distance * at.scale,
            self.keeps == "close to",
        ) / at.scale  # fmt: skip
        way[0], way[-1] = guide
        return way

    def _on_edge(self, key: Key, aim: Point, tile: Tile, at: At, which: int) -> Point:
        """The place on the matte's edge nearest to a place drawn at random around the aim."""
        about = [
            (part + self.reach_spread * normal(*key, which, ABOUT_EDGE + axis, 0)) * at.scale
            for axis, part in enumerate(aim)
        ]
        found = nearest_edge(tile.within(at.canvas)[..., 3], *about)
        return aim if found is None else Point(found[0] / at.scale, found[1] / at.scale)

    def _tree(
        self, key: Key, guide: Points, stroke: Stroke, share: tuple[float, float]
    ) -> Segments:
        tilt = tilt_for_turn(math.radians(self.wander))
        length = measured(guide).length
        if len(guide) == 2:
            (ax, ay), (bx, by) = guide
            trunk = grow_channel(*key, ax, ay, bx, by, self.finest, tilt, self.boil)
        else:
            straight = grow_channel(*key, 0.0, 0.0, length, 0.0, self.finest, tilt, self.boil)
            trunk = laid_along(straight, *curve_through(guide, _GUIDE_SPACING))
            trunk[0], trunk[-1] = guide[0], guide[-1]
        how = Growth(
            self.finest, tilt, self.boil, self.branches, self.forks, self.branch_reach / 100,
            math.radians(self.branch_angle), self.branch_width / 100, 2.0**self.branch_light,
            self.dying / 100, self.uneven / 100,
        )  # fmt: skip
        widths = (self.width * share[0], self.width * share[1])
        return grow_tree(key, trunk, length, widths, how, stroke)

    def _meeting(self, key: Key, at: At, guide: Points, stroke: Stroke) -> Segments:
        """Two discharges, one from each end, that meet about half way and off the straight line."""
        curve = curve_through(guide, _GUIDE_SPACING)
        share = 0.5 + 0.08 * boiling_normal(*key, 0, MEETING, 0.3 * self.boil)
        off = 0.03 * self.wander / 16 * boiling_normal(*key, 1, MEETING, 0.3 * self.boil)
        place = np.array([[share * curve.length, off * curve.length]])
        meeting = laid_along(place, *curve)[0]
        cut = int(np.searchsorted(curve.along, place[0, 0]))
        first = np.concatenate([curve.points[:cut], [meeting]])
        second = np.concatenate([curve.points[cut:][::-1], [meeting]])
        if len(guide) == 2:
            first, second = first[[0, -1]], second[[0, -1]]
        thinner = self.thinning / 100
        return np.concatenate(
            [
                self._tree(key, first, stroke, (1.0, thinner)),
                self._tree(at.key("bolt", self.seed, "other end"), second, stroke, (1.0, thinner)),
            ]
        )

    def _breakdown(self, key: Key, guide: Points, stroke: Stroke) -> Segments:
        """The figure of breakdown laid along the way, shaken by boil."""
        curve = curve_through(guide, _GUIDE_SPACING)
        return breakdown_tree(
            key, self.eta, self.aimed / 100, curve.points, curve.along, self.wander / 16, self.boil,
            (self.width, self.width * self.thinning / 100), self.dying / 100, stroke,
        )  # fmt: skip

    def _carry(self, segments: Segments, sway: Sway, at: At) -> None:
        for x in (0, 4):
            segments[:, x : x + 2] += sway.pushes(
                segments[:, x : x + 2], at.shared_key("sway", sway.seed)
            )


_DARK = 1e-4
"""Light below which a discharge has gone out."""


def _led_astray(key: Key, start: Point, aim: Point, boil: float, index: int) -> Point:
    """A free end: short of the point aimed at, and off its direction by a slowly boiling angle."""
    dx, dy = aim.x - start.x, aim.y - start.y
    turned = math.atan2(dy, dx) + 0.16 * boiling_normal(*key, index, ASTRAY, 0.35 * boil)
    length = math.hypot(dx, dy) * (0.75 + 0.25 * uniform(*key, index, SHORT_OF))
    return Point(start.x + length * math.cos(turned), start.y + length * math.sin(turned))
