"""Drops: balls of liquid that run together and part."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, HOTTEST, heat_of, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import HOW_LARGE
from handful.engine.kernels.drawing.drops import Surface, draw_surface, heights_of, surface_of
from handful.engine.kernels.drawing.sheets import Album
from handful.engine.kinds import At, Others, register, setting
from handful.engine.picture import PictureKind, Tile
from handful.engine.sources.particles.births import Numbers, shares_of
from handful.engine.sources.particles.flock import FLOCK_SAYS, Flock
from handful.engine.sources.particles.sights import Flying


@register
class Drops(Flock):
    """Drops and blobs of liquid: they are born, thrown and fall as particles do, and where two come near each
    other they run together into one surface.

    As a height they bend what is below them (with *bend*); as light they glow, gleam, and mirror what is
    about them.
    """

    family = "liquid"
    says = FLOCK_SAYS + (
        "\nEach is {size} wide to {size_end}, {size_uneven} uneven, comes in {comes} and goes in {goes} of its life, and "
        "merges {merges}; {flat} as high as a ball, making {comes_as}, glowing {glows} {colour} to {colour_end} at {light}, "
        "{kelvin} hot, half as hot in {cools}, shaded {shade}; gleaming {gleams}, {narrow} sharp, from {lit_from}, mirroring "
        "{mirrors} of {around} at {around_light}, and hiding {hides}."
    )

    size: float = setting(
        90, unit="px", look=True, least=0.5, most=8000, usual=(4, 400), help="How wide each is at first."
    )  # fmt: skip
    size_end: float = setting(
        100, unit="%", look=True, least=0, most=2000, usual=(0, 300), help="How wide at last, of that."
    )  # fmt: skip
    size_uneven: float = setting(
        60, unit="%", look=True, least=0, most=100, help="How much smaller some are: evenly spread."
    )
    comes: float = setting(
        10, unit="%", look=True, least=0, most=100, help="The part of its life in which each grows."
    )
    goes: float = setting(
        20,
        unit="%",
        look=True,
        least=0,
        most=100,
        help="The part of its life in which each shrinks.",
    )
    merges: float = setting(
        50, unit="%", look=True, least=0, most=100, help="From how far off they run together."
    )
    flat: float = setting(
        100, unit="%", look=True, least=0, most=1000, usual=(5, 150), help="How high they stand, of a ball."
    )  # fmt: skip
    comes_as: Literal["light", "height"] = setting(
        "light", look=True, help="Whether they are seen, or are a height for others."
    )
    glows: Literal["in", "by its heat, not in"] = setting(
        "in", look=True, help="Whether they have a colour, or glow by how hot they are."
    )
    colour: Colour = setting("#2a5a6a", look=True, help="Their colour at first.")
    colour_end: Colour = setting("#2a5a6a", look=True, help="Their colour at last.")
    light: float = setting(
        -1, unit="stops", look=True, least=-12, most=16, usual=(-6, 6), help="How bright that is."
    )
    kelvin: float = setting(
        1400, unit="K", look=True, least=700, most=6000, usual=(1000, 2200), help="How hot they are at first."
    )  # fmt: skip
    cools: float = setting(
        4, unit="s", look=True, least=0.01, most=1000, usual=(0.2, 20), help="In what time they are half as hot."
    )  # fmt: skip
    shade: float = setting(
        40,
        unit="%",
        look=True,
        least=0,
        most=100,
        help="How much darker they are away from the lamp, and at their rims.",
    )
    gleams: float = setting(
        3, unit="stops", look=True, least=-12, most=16, usual=(-4, 8), help="How bright the lamp is that gleams on them."
    )  # fmt: skip
    narrow: float = setting(
        60, unit="%", look=True, least=0, most=100, help="How sharp that gleam is."
    )
    lit_from: float = setting(
        -120, unit="°", look=True, drawn="direction", least=-36000, most=36000, usual=(-180, 180),
        help="Where that lamp is.",
    )  # fmt: skip
    mirrors: float = setting(
        4, unit="%", look=True, least=0, most=100, help="How much they mirror straight ahead: water 2, glass 4, mercury 70."
    )  # fmt: skip
    around: Colour = setting("#a8bccb", look=True, help="The colour of what they mirror.")
    around_light: float = setting(
        -1, unit="stops", look=True, least=-12, most=16, usual=(-6, 4), help="How bright that is."
    )
    hides: float = setting(
        100, unit="%", look=True, least=0, most=100, help="How much of what is behind they hide: clear ones nothing."
    )  # fmt: skip

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "height" if written.comes_as == "height" else "light"

    def widest(self) -> float:
        """How wide any of them is, in px."""
        return self.size * max(1.0, self.size_end / 100)

    def drawn(self, at: At, key: Key, flying: Flying, album: Album | None) -> Tile:
        """The surface of all of them."""
        which, age, part, seen = flying[:4]
        size = self.size * (1 - self.size_uneven / 100 * shares_of(key, which, HOW_LARGE))
        size *= seen.large * (1 + (self.size_end / 100 - 1) * part)
        if self.comes > 0:
            size *= np.sqrt(np.clip(part / (self.comes / 100), 0, 1))
        if self.goes > 0:
            size *= np.sqrt(np.clip((1 - part) / (self.goes / 100), 0, 1))
        balls = np.empty((len(which), 6), np.float32)
        balls[:, :2] = (seen.opens + seen.closes) / 2 * at.scale
        balls[:, 2] = size / 2 * at.scale
        balls[:, 3:] = self._coloured(age, part)
        balls = balls[balls[:, 2] > _LEAST]
        # What gleams depends on what is beside a px.
        surface, region = surface_of(balls, self.merges / 100, at.wanted.grown(1))
        high = self.flat / 100
        if self.comes_as == "height":
            heights = heights_of(surface, high / at.scale)
            return Tile(
                Tile(heights, region).within(region.meet(at.wanted)), region.meet(at.wanted)
            )
        tile = draw_surface(surface, self._surface(high), region)
        shared = region.meet(at.wanted)
        return Tile(tile.within(shared), shared)

    def _coloured(self, age: Numbers, part: Numbers) -> NDArray[np.float32]:
        strong = np.float32(2.0**self.light)
        if self.glows == "in":
            first, last = np.array(self.colour, np.float32), np.array(self.colour_end, np.float32)
            return (first + (last - first) * part.astype(np.float32)[:, None]) * strong
        kelvins = self.kelvin * (1 + 7 * age / self.cools) ** (-1 / 3)
        return heat_of(np.clip(kelvins, COLDEST, HOTTEST), heat_table(self.kelvin)) * strong

    def _surface(self, high: float) -> Surface:
        turn = math.radians(self.lit_from)
        around = np.array(self.around, np.float32) * np.float32(2.0**self.around_light)
        return Surface(
            high=high,
            deep=self.shade / 100,
            way=(_ASLANT * math.cos(turn), _ASLANT * math.sin(turn), math.sqrt(1 - _ASLANT**2)),
            gleams=2.0**self.gleams if self.gleams > _NONE else 0.0,
            narrow=8 * 400 ** (self.narrow / 100),
            around=(float(around[0]), float(around[1]), float(around[2])),
            mirrors=self.mirrors / 100,
            hides=self.hides / 100,
        )


_NONE = -12.0
_LEAST = 0.05
"""px of a radius below which a drop is not seen."""

_ASLANT = 0.6
"""How far from straight ahead the lamp is: the sine."""
