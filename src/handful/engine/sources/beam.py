"""Beam: a ribbon of light from one place to another."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import level_at
from handful.engine.kernels.drawing.lit import Look, broad_at, finer_at, lit_picture
from handful.engine.kernels.drawing.ribbon import TIPS, Body, Tip, Unevenness, ribbon
from handful.engine.kernels.forms.coils import coiled
from handful.engine.kernels.forms.curve import Curve, Segments, measured
from handful.engine.kinds import At, Source, register, setting
from handful.engine.named import Path
from handful.engine.picture import Tile, clear_tile
from handful.engine.values import Point


@register
class Beam(Source):
    """A ribbon of light between two points or along a path: a cutting beam, a lamp's, a signal bolt.

    Its core is half as bright at half its width, so that across it holds width times light.
    """

    family = "energy"
    begins_with = ("glow",)
    says = (
        "Shines from {start} to {end}, of the way {reach_from} to {reach_to}, its tips {near_tip} and {far_tip}. "
        "{width} wide, {far_width} at its far end, soft over {feather}; core {core} at "
        "{core_light}, sheath {sheath} at {sheath_light}. Uneven by {uneven} in pieces of {size}, "
        "flowing {flow}; its edge is rough by {rough}. {strands} strands."
    )

    start: Point = setting([320, 540], unit="px", help="Where it comes from.")
    end: Point = setting([1600, 540], unit="px", help="Where it goes.")
    path: Path | None = setting("", help="A path that it follows, in place of start and end.")
    mode: Literal["reaching", "flying"] = setting(
        "reaching", help="Reaching: it shows a part of the way. Flying: a piece flies along it."
    )
    reach_from: float = setting(
        0, unit="%", least=0, most=100, help="Where its tail is, of the way."
    )
    reach_to: float = setting(
        100, unit="%", least=0, most=100, help="Where its head is: let it rise to shoot out."
    )
    travelled: float = setting(
        {"moves": "rate", "start": 0, "per_second": 9000, "since": "layer"},
        unit="px",
        least=-1e7,
        most=1e7,
        usual=(0, 20000),
        help="Of a flying piece: how far its head has come.",
    )
    length: float = setting(
        420, unit="px", least=1, most=20000, usual=(20, 2000), help="Of a flying piece: how long."
    )
    width: float = setting(
        9,
        unit="px",
        least=0.25,
        most=4000,
        usual=(1, 120),
        help="Width where it comes from, at half its light.",
    )
    far_width: float = setting(
        9, unit="px", least=0.25, most=4000, usual=(1, 400), help="Width where it goes."
    )
    near_tip: Tip = setting("round", help="How it begins.")
    far_tip: Tip = setting("round", help="How it ends.")
    tip: float = setting(
        160, unit="px", least=1, most=10000, usual=(10, 1000), help="Length of faded tips."
    )
    feather: float = setting(
        60,
        unit="%",
        least=0,
        most=100,
        help="How softly the core falls off; 100 has no flat middle.",
    )
    fades: float = setting(
        0, unit="%", least=0, most=100, help="Light that it has lost at its far end."
    )
    core: Colour = setting("#ffffff", help="Colour of the core. White looks hot.")
    core_light: float = setting(
        3,
        unit="stops",
        least=-12,
        most=12,
        usual=(-4, 8),
        help="Brightness of the core above white.",
    )
    sheath: Colour = setting("#7fb4ff", help="Colour around the core.")
    sheath_light: float = setting(
        0,
        unit="stops",
        least=-12,
        most=12,
        usual=(-6, 4),
        help="Brightness of the sheath; −12 is none.",
    )
    sheath_width: float = setting(
        3, unit="× width", least=1, most=12, help="How wide the sheath is, against the core."
    )
    uneven: float = setting(
        30, unit="%", least=0, most=100, help="How much darker it is in places."
    )
    size: float = setting(
        120, unit="px", least=8, most=4000, usual=(20, 600), help="Length of those places."
    )
    flow: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1400},
        unit="px",
        least=-1e7,
        most=1e7,
        usual=(0, 4000),
        help="How far they have travelled along it.",
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far they have changed in place.",
    )
    rough: float = setting(
        6, unit="%", least=0, most=100, help="How much its edge wanders, of its width."
    )
    strands: int = setting(0, least=0, most=12, help="Strands that wind round it.")
    strand_off: float = setting(
        160,
        unit="%",
        least=0,
        most=1000,
        usual=(50, 400),
        help="How far they stand off, of half its width.",
    )
    strand_width: float = setting(
        2, unit="px", least=0.25, most=100, usual=(0.5, 20), help="Width of a strand."
    )
    pitch: float = setting(
        260,
        unit="px",
        least=10,
        most=10000,
        usual=(40, 1200),
        help="Length of one turn of a strand.",
    )
    turned: float = setting(
        {"moves": "rate", "start": 0, "per_second": 2.5},
        unit="turns",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="Turns that the strands have travelled.",
    )
    flicker: float = setting(
        0.25,
        unit="stops",
        least=0,
        most=6,
        usual=(0, 2),
        help="How far its light goes up and down.",
    )
    flickers: float = setting(
        {"moves": "rate", "start": 0, "per_second": 25},
        unit="levels",
        least=-1e7,
        most=1e7,
        usual=(0, 100),
        help="A new level at each whole number.",
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, other places.")

    def draw(self, at: At, *others: Tile) -> Tile:
        finer = broad_at(at.scale, min(self.width, self.far_width))
        scale = at.scale * finer
        curve = self._curve(scale)
        reach = self._reach(curve.length, scale)
        if reach[1] <= reach[0]:
            return clear_tile(at.wanted)
        core = self._body(reach, scale)
        wider = (core.halves[0] * self.sheath_width, core.halves[1] * self.sheath_width)
        strands = self._strands(at, curve, reach, scale)
        drawn = ribbon(
            curve,
            core,
            core._replace(halves=wider, feather=1.0) if self.sheath_light > _NONE else None,
            Unevenness(
                self.size * scale, self.flow * scale, self.boil, at.key("mottle", self.seed)
            ),
            strands,
            finer,
            finer_at(at.scale),
            at.wanted,
        )
        if drawn is None:
            return clear_tile(at.wanted)
        level = self.flicker * level_at(at.key("flicker", self.seed), self.flickers, 0.3)
        look = Look(self.core, self.sheath, self.core_light + level, self.sheath_light + level)
        return lit_picture(drawn.core, drawn.sheath, look, drawn.region)

    def _curve(self, scale: float) -> Curve:
        if self.path is not None:
            return measured(self.path.line(scale))
        return measured(np.array([self.start, self.end], np.float64) * scale)

    def _reach(self, length: float, scale: float) -> tuple[float, float]:
        """Where its tail and its head are along the way, in px of the picture."""
        if self.mode == "reaching":
            return self.reach_from / 100 * length, self.reach_to / 100 * length
        head = self.travelled * scale
        return max(0.0, head - self.length * scale), min(length, head)

    def _body(self, reach: tuple[float, float], scale: float) -> Body:
        tip = min(self.tip * scale, 0.5 * (reach[1] - reach[0]))
        return Body(
            reach,
            halves=(0.5 * self.width * scale, 0.5 * self.far_width * scale),
            feather=self.feather / 100,
            tips=(TIPS.index(self.near_tip), TIPS.index(self.far_tip)),
            tip=(tip, tip),
            uneven=self.uneven / 100,
            rough=self.rough / 100,
            fades=self.fades / 100,
        )

    def _strands(self, at: At, curve: Curve, reach: tuple[float, float], scale: float) -> Segments:
        off = 0.5 * self.strand_off / 100 * scale
        return coiled(
            curve, at.key("strands", self.seed), self.strands,
            (off * self.width, off * self.far_width), self.pitch * scale, self.turned, 0.25,
            self.boil, self.strand_width * scale, reach, (0.0, 0.0),
        )  # fmt: skip


_NONE = -12.0
