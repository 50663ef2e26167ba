"""Stream: a ribbon of energy that sways away from its mouth."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.lit import Look, broad_at, finer_at, lit_picture
from handful.engine.kernels.drawing.ribbon import TIPS, Body, Unevenness, ribbon
from handful.engine.kernels.forms.coils import coiled
from handful.engine.kernels.forms.curve import Curve, Segments, curve_through, measured, waved
from handful.engine.kinds import At, Source, register, setting
from handful.engine.named import Path, Sway
from handful.engine.picture import Tile, clear_tile
from handful.engine.values import Point

_SPACING = 6.0
"""px of the canvas between the vertices that the sway moves."""

_CORE = 0.2
"""Width of the bright middle of its body, of the body's."""


@register
class Stream(Source):
    """A line or path of energy, held still at its mouth and carried by waves that travel along it.

    Round its soft, mottled body wind bright strands. With a sway of the recipe in place of its own
    waves, bolts and others that share it ride along.
    """

    family = "energy"
    begins_with = ("glow",)
    says = (
        "Flows from {start} to {end}. Waves of {waves} push it by up to {push} and have travelled "
        "{travel}, held {held} over {soft}. {width} wide, {far_width} at its far end, in {body} at "
        "{body_light}, mottled by {mottled} in pieces of {size} flowing {flow}. {strands} strands "
        "in {core} at {core_light}, {strand_width} wide, wind round it every {pitch}."
    )

    start: Point = setting([260, 600], unit="px", help="Its mouth, which holds still.")
    end: Point = setting([1700, 480], unit="px", help="Where it flows to.")
    path: Path | None = setting("", help="A path that it follows, in place of start and end.")
    reach_from: float = setting(
        0, unit="%", least=0, most=100, help="Where its tail is, of the way."
    )
    reach_to: float = setting(
        100, unit="%", least=0, most=100, help="Where its head is: let it rise to flow out."
    )
    sway: Sway | None = setting(
        "", help="A sway of the recipe that carries it, in place of its own waves."
    )
    push: float = setting(
        70, unit="px", least=0, most=4000, usual=(0, 300), help="How far its waves push it at most."
    )
    waves: float = setting(
        420, unit="px", least=10, most=20000, usual=(60, 1500), help="Length of its waves."
    )
    travel: float = setting(
        {"moves": "rate", "start": 0, "per_second": 520},
        unit="px",
        least=-1e7,
        most=1e7,
        usual=(0, 2000),
        help="How far the waves have travelled from its mouth.",
    )
    held: Literal["at its mouth", "at both ends"] = setting(
        "at its mouth", help="Which ends the waves leave still."
    )
    soft: float = setting(
        500,
        unit="px",
        least=0,
        most=20000,
        usual=(50, 1500),
        help="Distance from a held end over which the waves set in.",
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 0.35},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far waves and strands have changed in place.",
    )
    width: float = setting(
        34, unit="px", least=0.25, most=4000, usual=(2, 200), help="Width of its body at its mouth."
    )
    far_width: float = setting(
        64,
        unit="px",
        least=0.25,
        most=4000,
        usual=(2, 400),
        help="Width of its body at its far end.",
    )
    body: Colour = setting("#1f8fd0", help="Colour of its body.")
    body_light: float = setting(
        -0.5, unit="stops", least=-12, most=12, usual=(-6, 4), help="Brightness of its body."
    )
    mottled: float = setting(
        75, unit="%", least=0, most=100, help="How much darker its body is in places."
    )
    size: float = setting(
        130, unit="px", least=8, most=4000, usual=(20, 600), help="Length of those places."
    )
    flow: float = setting(
        {"moves": "rate", "start": 0, "per_second": 900},
        unit="px",
        least=-1e7,
        most=1e7,
        usual=(0, 4000),
        help="How far they have travelled along it.",
    )
    near_fade: float = setting(
        30, unit="px", least=1, most=10000, usual=(1, 600), help="Length over which it sets in."
    )
    far_fade: float = setting(
        420, unit="px", least=1, most=10000, usual=(1, 1500), help="Length over which it runs out."
    )
    strands: int = setting(5, least=0, most=24, help="Strands that wind round it.")
    strand_off: float = setting(
        70,
        unit="%",
        least=0,
        most=1000,
        usual=(0, 200),
        help="How far they stand off, of half its width.",
    )
    strand_width: float = setting(
        2.6, unit="px", least=0.25, most=100, usual=(0.5, 20), help="Width of a strand."
    )
    pitch: float = setting(
        420,
        unit="px",
        least=10,
        most=10000,
        usual=(60, 1500),
        help="Length of one turn of a strand.",
    )
    turned: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1.6},
        unit="turns",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="Turns that the strands have travelled.",
    )
    loose: float = setting(
        70, unit="%", least=0, most=100, help="How far each strand goes its own way."
    )
    core: Colour = setting("#f2fdff", help="Colour of the strands. White looks hot.")
    core_light: float = setting(
        2, unit="stops", least=-12, most=12, usual=(-4, 8), help="Brightness of the strands."
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, other waves.")

    def draw(self, at: At, *others: Tile) -> Tile:
        finer = broad_at(at.scale, _CORE * min(self.width, self.far_width))
        scale = at.scale * finer
        curve = self.curve(at)
        curve = Curve(curve.points * scale, curve.along * scale)
        reach = (self.reach_from / 100 * curve.length, self.reach_to / 100 * curve.length)
        if reach[1] <= reach[0]:
            return clear_tile(at.wanted)
        body = Body(
            reach,
            halves=(0.5 * self.width * scale, 0.5 * self.far_width * scale),
            feather=1.0,
            tips=(TIPS.index("faded"), TIPS.index("faded")),
            tip=(self.near_fade * scale, self.far_fade * scale),
            uneven=self.mottled / 100,
        )
        drawn = ribbon(
            curve,
            body._replace(halves=(_CORE * body.halves[0], _CORE * body.halves[1])),
            body,
            Unevenness(
                self.size * scale, self.flow * scale, self.boil, at.key("mottle", self.seed)
            ),
            self._strands(at, curve, reach, scale),
            finer,
            finer_at(at.scale),
            at.wanted,
        )
        if drawn is None:
            return clear_tile(at.wanted)
        look = Look(self.core, self.body, self.core_light, self.body_light)
        return lit_picture(drawn.core, drawn.sheath, look, drawn.region)

    def curve(self, at: At) -> Curve:
        """Its middle line, carried by its waves or its sway, in px of the full-size canvas."""
        way = np.array([self.start, self.end], np.float64)
        if self.path is not None:
            way = self.path.line(1.0)
        still = curve_through(way, _SPACING)
        if self.sway is not None:
            key = at.shared_key("sway", self.sway.seed)
            return measured(still.points + self.sway.pushes(still.points, key))
        soft = max(self.soft, 1e-3)
        return waved(
            still, at.key("waves", self.seed), self.push, self.waves, self.travel, self.boil,
            (soft, soft if self.held == "at both ends" else 0.0),
        )  # fmt: skip

    def _strands(self, at: At, curve: Curve, reach: tuple[float, float], scale: float) -> Segments:
        off = 0.5 * self.strand_off / 100 * scale
        return coiled(
            curve, at.key("strands", self.seed), self.strands,
            (off * self.width, off * self.far_width), self.pitch * scale, self.turned,
            self.loose / 100, self.boil, self.strand_width * scale, reach,
            (self.near_fade * scale, self.far_fade * scale),
        )  # fmt: skip
