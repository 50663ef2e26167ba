"""Flare: what a lens and an eye make of a bright point."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import uniform, uniforms
from handful.engine.kernels.chance.purposes import (
    GHOST_PLACE,
    GHOST_SIZE,
    GHOST_TINT,
    SPOT_ACROSS,
    SPOT_DOWN,
    SPOT_SHINE,
    SPOT_SIZE,
)
from handful.engine.kernels.drawing.aperture import star
from handful.engine.kernels.drawing.glare import Ghosts, Glare, add_ghosts, draw_glare
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kinds import At, LayerId, Source, clockwise, register, setting
from handful.engine.picture import Region, Tile, clear_tile, unset
from handful.engine.values import Point

_LEAST_HOT = 0.8
"""px of the canvas; a smaller hot spot would fall between px."""

_SPOT_EVERY = 130.0
"""px of the canvas between two spots of dirt."""

_NOT_SEEN = 1e-4


@register
class Flare(Source):
    """A bright point as a lens sees it: hot spot, halo, ring, streaks, a star, ghosts and dirt.

    The star is the diffraction of its aperture, the ghosts are images of it along the line from
    the point through the middle of the picture. It adds light and covers nothing.
    """

    family = "flare"
    says = (
        "At {at} in {colour} at {light}: a hot spot of {hot}, a halo of {halo} in {halo_colour} at {halo_light}, a "
        "ring of {ring} at {ring_light}, streaks {across} across and {down} down at "
        "{streak_light} in {streak}. Through {blades} blades a star of {star} at {star_light} and "
        "{ghosts} ghosts at {ghost_light}; dirt at {dirt}."
    )

    at: Point = setting([960, 540], unit="px", help="The bright point.")
    colour: Colour = setting("#fff2e0", help="Its colour.")
    light: float = setting(
        4, unit="stops", least=-12, most=12, usual=(-4, 8), help="Brightness of the point."
    )
    hot: float = setting(
        14, unit="px", least=0, most=1000, usual=(0, 120), help="Radius of the hot spot."
    )
    halo: float = setting(
        110,
        unit="px",
        drawn="radius",
        about="at",
        least=1,
        most=5000,
        usual=(10, 800),
        help="Radius of the halo.",
    )
    halo_colour: Colour = setting("#ffd2a0", help="Colour of the halo: purer than the point's.")
    halo_light: float = setting(
        -6,
        unit="stops",
        least=-20,
        most=4,
        usual=(-12, 0),
        help="Light of the halo, against the point.",
    )
    ring: float = setting(
        300,
        unit="px",
        drawn="radius",
        about="at",
        least=1,
        most=5000,
        usual=(20, 800),
        help="Radius of the ring.",
    )
    ring_width: float = setting(
        16, unit="px", least=0.5, most=500, usual=(1, 80), help="Width of the ring."
    )
    ring_light: float = setting(
        -12,
        unit="stops",
        least=-20,
        most=4,
        usual=(-14, 0),
        help="Light of the ring, against the point; −20 is none.",
    )
    across: float = setting(
        1100, unit="px", least=0, most=20000, usual=(0, 2500), help="Length of the streak across."
    )
    down: float = setting(
        260, unit="px", least=0, most=20000, usual=(0, 2500), help="Length of the streak down."
    )
    thickness: float = setting(
        2.2, unit="px", least=0.5, most=200, usual=(0.5, 20), help="Thickness of the streaks."
    )
    streak: Colour = setting("#9ec4ff", help="Colour of the streaks.")
    streak_light: float = setting(
        -3,
        unit="stops",
        least=-20,
        most=4,
        usual=(-12, 0),
        help="Light of the streaks, against the point.",
    )
    blades: int = setting(
        6,
        least=3,
        most=16,
        help="Blades of the aperture. An odd number makes twice as many spikes.",
    )
    turn: float = clockwise(8, about="at", help="Turn of star and ghosts.")
    streak_turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-90, 90), help="Turn of the streaks."
    )
    star: float = setting(
        420, unit="px", least=1, most=5000, usual=(20, 1200), help="Radius of the star."
    )
    star_light: float = setting(
        6,
        unit="stops",
        least=-20,
        most=16,
        usual=(-4, 12),
        help="Light of the star at its middle, against the point; −20 is none.",
    )
    ghosts: int = setting(7, least=0, most=24, help="Images of the aperture.")
    ghost_size: float = setting(
        120, unit="px", least=2, most=3000, usual=(10, 400), help="Size of the largest ghost."
    )
    ghost_light: float = setting(
        -10,
        unit="stops",
        least=-20,
        most=4,
        usual=(-14, -2),
        help="Light of the ghosts, against the point.",
    )
    dispersion: float = setting(
        3, unit="%", least=0, most=60, usual=(0, 30), help="How much larger red is drawn than blue."
    )
    dirt: float = setting(
        -11,
        unit="stops",
        least=-20,
        most=4,
        usual=(-14, -2),
        help="Light of spots on the lens near the point; −20 is none.",
    )
    behind: LayerId = setting("", help="The layer behind whose cover it hides.")
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, other ghosts and dirt.")

    def draw(self, at: At, *others: Tile) -> Tile:
        seen = self._seen(at, others)
        region = at.wanted
        if seen < _NOT_SEEN or region.empty:
            return clear_tile(region)
        pixels = unset(region)
        lit = self.light + math.log2(seen)
        draw_glare(self._glare(at.scale, lit), star(self.blades), region, pixels)
        for ghosts in (self._ghosts(at, lit), self._dirt(at, lit)):
            add_ghosts(
                ghosts, self.blades, math.radians(self.turn), self.dispersion / 100, region, pixels
            )
        return Tile(pixels, region)

    def _seen(self, at: At, others: tuple[Tile, ...]) -> float:
        """How much of the point is not hidden, from 0 to 1."""
        if not others:
            return 1.0
        reach = max(1.5, self.hot * at.scale)
        x, y = self.at.x * at.scale, self.at.y * at.scale
        around = Region(
            math.floor(x - reach), math.floor(y - reach), math.ceil(x + reach), math.ceil(y + reach)
        )
        return float(1 - others[0].within(around)[..., 3].mean())

    def _glare(self, scale: float, lit: float) -> Glare:
        turn = math.radians(self.turn)
        spread = self.dispersion / 100 * np.array([1, 0, -1], np.float32)
        return Glare(
            x=self.at.x * scale,
            y=self.at.y * scale,
            hot=max(_LEAST_HOT, self.hot) * scale,
            hot_light=self._light(lit, 0.0 if self.hot > 0 else None),
            halo=max(_LEAST_HOT, self.halo) * scale,
            halo_light=self._light(lit, self.halo_light, self.halo_colour),
            ring=(self.ring * scale * (1 + spread)).astype(np.float32),
            ring_width=max(1.0, self.ring_width) * scale,
            ring_light=self._light(lit, self.ring_light),
            streaks=self._streaks(scale, spread),
            streak_lights=np.array(
                [light_of(self.streak, lit + self.streak_light) * (length > 0)
                 for length in (self.across, self.down)], np.float32,
            ),
            star=np.array([self.star * scale, math.cos(turn), math.sin(turn)], np.float32),
            star_light=self._light(lit, self.star_light),
        )  # fmt: skip

    def _light(
        self, lit: float, stops: float | None, colour: Colour | None = None
    ) -> NDArray[np.float32]:
        if stops is None or stops <= _NONE:
            return np.zeros(3, np.float32)
        return light_of(colour or self.colour, lit + stops)

    def _streaks(self, scale: float, spread: NDArray[np.float32]) -> NDArray[np.float32]:
        rows = []
        for length, turn in ((self.across, self.streak_turn), (self.down, self.streak_turn + 90)):
            reach = np.maximum(1.0, 0.5 * length * (1 + spread)) * scale
            thin = max(1.0, self.thickness) * scale
            angle = math.radians(turn)
            rows.append([*(1 / reach), 1 / (thin * thin), math.cos(angle), math.sin(angle)])
        return np.array(rows, np.float32)

    def _ghosts(self, at: At, lit: float) -> Ghosts:
        """Along the line through the canvas's middle, each with its own size and tint."""
        key = at.key("ghosts", self.seed)
        middle = _middle(at)
        point = np.array(self.at) * at.scale
        places, lights = [], []
        for i in range(self.ghosts):
            where, size, tint = (uniform(*key, i, purpose) for purpose in _OF_GHOSTS)
            along = -1.3 + 2.0 * where
            places.append(
                [*(middle + (point - middle) * along),
                 max(1.5, self.ghost_size * (0.12 + 0.88 * size * size)) * at.scale]
            )  # fmt: skip
            fainter = light_of(self.colour, lit + self.ghost_light - 2 * size)
            lights.append(fainter * _tinted(tint))
        return _as_ghosts(places, lights)

    def _dirt(self, at: At, lit: float) -> Ghosts:
        """Spots on the lens, which stay where they are and shine where the point is near."""
        if self.dirt <= _NONE:
            return _as_ghosts([], [])
        key = at.key("dirt", self.seed)
        width, height = (size / at.scale for size in (at.canvas.width, at.canvas.height))
        columns, rows = max(1, round(width / _SPOT_EVERY)), max(1, round(height / _SPOT_EVERY))
        spots = np.arange(columns * rows)
        x, y, size, shine = (uniforms(*key, len(spots), purpose) for purpose in _OF_SPOTS)
        across = (spots % columns + x) * width / columns
        down = (spots // columns + y) * height / rows
        away = np.hypot(across - self.at[0], down - self.at[1]) / (2.5 * self.halo)
        level = shine**3 / (1 + away * away) ** 2
        seen = level >= _FAINT
        places = np.column_stack([across, down, 5 + 26 * size**3])[seen] * at.scale
        lights = light_of(self.colour, lit + self.dirt) * level[seen, None]
        return Ghosts(places.astype(np.float32), lights.astype(np.float32))


_NONE = -20.0
_OF_GHOSTS = (GHOST_PLACE, GHOST_SIZE, GHOST_TINT)
_OF_SPOTS = (SPOT_ACROSS, SPOT_DOWN, SPOT_SIZE, SPOT_SHINE)
_FAINT = 1e-3


def _middle(at: At) -> NDArray[np.float64]:
    return np.array([at.canvas.left + at.canvas.right, at.canvas.top + at.canvas.bottom]) / 2


def _tinted(tint: float) -> NDArray[np.float32]:
    """A pale colour of its own for each ghost, as coatings give them."""
    hues = [0.65 + 0.35 * math.cos(2 * math.pi * (tint + shift)) for shift in (0, 1 / 3, 2 / 3)]
    return np.array(hues, np.float32)


def _as_ghosts(places: list[list[float]], lights: list[NDArray[np.float32]]) -> Ghosts:
    return Ghosts(
        np.array(places, np.float32).reshape(-1, 3), np.array(lights, np.float32).reshape(-1, 3)
    )
