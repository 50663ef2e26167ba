"""How particles look: their size, light and colour over their lives, and what shape each has."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, HOTTEST, heat_of, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import HOW_LARGE, HOW_LIT, PHASE, SIDE
from handful.engine.kernels.drawing.sheets import Album, sheet_of, sheet_of_figures
from handful.engine.kernels.drawing.spots import ALONG, LEAST_DISC, draw_spots
from handful.engine.kernels.drawing.sprites import draw_album, draw_sprites
from handful.engine.kinds import At, LayerId, Words, setting
from handful.engine.picture import Tile, clear_tile, laid
from handful.engine.sources.particles.births import Numbers, shares_of
from handful.engine.sources.particles.overs import Overs, over_life
from handful.engine.sources.particles.sights import Flying


class Look(Overs):
    """The settings of how they look."""

    look: Literal[
        "a soft spot",
        "a disc",
        "a puff",
        "a shard",
        "a ring",
        "a glint",
        "a figure",
        "a layer's picture",
    ] = setting("a soft spot", look=True, help="What each is.")
    figures: Words = setting(
        "0123456789", look=True, help="The letters, digits and signs of which each figure is one."
    )
    pictured: LayerId = setting("", look=True, help="The layer whose picture each is.")
    apart: float = setting(
        0,
        unit="frames",
        look=True,
        least=0,
        most=1000,
        usual=(0, 25),
        help="How far apart in its time each sixth of them shows it.",
    )
    size: float = setting(
        7,
        unit="px",
        look=True,
        least=0.1,
        most=4000,
        usual=(0.5, 60),
        help="How wide each is at first.",
    )
    size_end: float = setting(
        30,
        unit="%",
        look=True,
        least=0,
        most=2000,
        usual=(0, 300),
        help="How wide at last, of that.",
    )
    size_uneven: float = setting(
        50, unit="%", look=True, least=0, most=100, help="How much smaller some are: evenly spread."
    )
    spin: float = setting(
        90,
        unit="°/s",
        look=True,
        least=-7200,
        most=7200,
        usual=(-720, 720),
        help="How fast shapes turn, one way or the other; shards tumble as well.",
    )
    tilt: float = setting(
        180,
        unit="°",
        look=True,
        least=0,
        most=180,
        help="How far each is turned at first, one way or the other: evenly spread.",
    )
    lit_from: float = setting(
        -120,
        unit="°",
        look=True,
        drawn="direction",
        least=-36000,
        most=36000,
        usual=(-180, 180),
        help="Where the light comes from that puffs and shards are in.",
    )
    shade: float = setting(
        60,
        unit="%",
        look=True,
        least=0,
        most=100,
        help="How much darker they are on the other side.",
    )
    streak: float = setting(
        180,
        unit="°",
        look=True,
        least=0,
        most=720,
        usual=(0, 360),
        help="How long the shutter draws spots and discs out.",
    )
    ribbon: float = setting(
        0,
        unit="s",
        look=True,
        least=0,
        most=4,
        usual=(0, 1.5),
        help="How long a part of its way each draws behind itself as a ribbon.",
    )
    ribbon_end: float = setting(
        20, unit="%", look=True, least=0, most=500, usual=(0, 100), help="How wide that is at its end, of it."
    )  # fmt: skip
    comes_as: Literal[
        "light", "cover", "offsets", "their depth", "their motion", "a colour for each"
    ] = setting(
        "light",
        look=True,
        help="Whether they shine, hide, or push what is seen through them; or how far off they are of the "
        "whole depth, how many px they go in a frame, or which is which.",
    )
    push: float = setting(
        12,
        unit="px",
        look=True,
        least=0,
        most=2000,
        usual=(0, 60),
        help="How far each pushes, this way or that.",
    )
    glows: Literal[
        "in",
        "along a ramp, not in",
        "by its heat, not in",
        "as its picture does, not in",
        "as what it is born from, not in",
    ] = setting(
        "in",
        look=True,
        help="Whether each has a colour, or glows by how hot it is, as its picture is coloured, or as its layer "
        "was where and when it was born.",
    )
    colour: Colour = setting("#ffd9a0", look=True, help="Its colour at first.")
    colour_end: Colour = setting("#ff5a1e", look=True, help="Its colour at last.")
    light: float = setting(
        3,
        unit="stops",
        look=True,
        least=-12,
        most=16,
        usual=(-4, 10),
        help="How bright its middle is at first.",
    )
    kelvin: float = setting(
        1900,
        unit="K",
        look=True,
        least=700,
        most=6000,
        usual=(1200, 3000),
        help="How hot it is at first.",
    )
    cools: float = setting(
        1,
        unit="s",
        look=True,
        least=0.01,
        most=1000,
        usual=(0.1, 5),
        help="In what time it is half as hot.",
    )
    light_uneven: float = setting(
        60, unit="%", look=True, least=0, most=100, help="How much fainter some are: evenly spread."
    )
    twinkle: float = setting(
        0, unit="%", look=True, least=0, most=100, help="How much each goes dark and bright."
    )
    twinkle_pace: float = setting(
        6,
        unit="times a second",
        look=True,
        least=0,
        most=100,
        usual=(0, 20),
        help="How often it does.",
    )
    comes: float = setting(
        2, unit="%", look=True, least=0, most=100, help="The part of its life in which each comes."
    )
    goes: float = setting(
        40, unit="%", look=True, least=0, most=100, help="The part of its life in which each goes."
    )

    def shutter(self) -> float:
        """For how many frames before and after the shutter is open."""
        return 0.5 if self.comes_as == "their motion" else self.streak / 720

    def ribbons(self) -> float:
        """How many seconds of its way each draws behind itself."""
        return self.ribbon

    def minds_speed(self) -> bool:
        """Whether it is seen how fast each goes."""
        return self.glows == "along a ramp, not in" and self.hued_by == "speed"

    def widest(self) -> float:
        """How wide any of them is, in px."""
        most = max(point.share for point in self.size_over) / 100
        return self.size * max(1.0, self.size_end / 100) * most

    def pictures(self) -> tuple[tuple[str, float, float], ...]:
        """The pictures that they are, if they are any: a layer, how many frames ahead, at which scale."""
        if self.look != "a layer's picture" or not self.pictured:
            return ()
        scale = 1.0 if self.size * max(1, self.size_end / 100) > _LARGE else 0.5
        moments = range(_MOMENTS) if self.apart else (0,)
        return tuple((self.pictured, -self.apart * moment, scale) for moment in moments)

    def drawn(self, at: At, key: Key, flying: Flying, album: Album | None) -> Tile:
        """The picture of all of them."""
        which, age, part, seen = flying[:4]
        spots = np.empty((len(which), 9), np.float32)
        spots[:, :2], spots[:, 2:4] = seen.opens * at.scale, seen.closes * at.scale
        size = self.size * (1 - self.size_uneven / 100 * shares_of(key, which, HOW_LARGE))
        size *= seen.large * (1 + (self.size_end / 100 - 1) * part)
        size *= over_life(self.size_over, part)
        size = np.maximum(size, 1e-3)
        wide = np.hypot(size, seen.blurred)
        softer = SOFTER if self.look == "a soft spot" else 1
        spots[:, 4] = wide / 2 * at.scale * softer
        shown = self._shown(key, which, age, part)
        shown *= (seen.faint * (size / wide) ** 2).astype(np.float32)
        spots[:, 5:9] = self._painted(key, flying, shown)
        covers = self.comes_as not in ("light", "offsets")
        if self.comes_as == "their motion":
            spots[:, :2] = spots[:, 2:4] = (spots[:, :2] + spots[:, 2:4]) / 2
        order = np.argsort(seen.large, kind="stable") if covers else slice(None)
        tile = self._drawn(at, key, which, flying.moved, spots, order, album)
        if len(seen.behind):
            bands = self._bands(seen.behind[:, order] * at.scale, spots[order])
            tile = laid(tile, draw_spots(bands, at.wanted, covers, covers))
        if self.comes_as in ("offsets", "their motion"):
            return Tile(np.ascontiguousarray(tile.pixels[..., :2]), tile.region)
        return tile

    def _painted(self, key: Key, flying: Flying, shown: NDArray[np.float32]) -> NDArray[np.float32]:
        """The light and cover in the middle of each `(N, 4)`, of which so much is shown."""
        which, seen = flying.which, flying.seen
        paint = np.zeros((len(which), 4), np.float32)
        if self.comes_as == "light":
            paint[:, :3] = self.coloured(key, flying) * np.float32(2.0**self.light) * shown[:, None]
            return paint
        if self.comes_as == "offsets":
            way = 2 * math.pi * shares_of(key, which, PHASE)
            paint[:, 0], paint[:, 1] = np.cos(way), np.sin(way)
            return paint * np.float32(self.push) * shown[:, None]
        match self.comes_as:
            case "cover":
                paint[:, :3] = self.coloured(key, flying)
            case "their depth":
                paint[:, :3] = seen.far[:, None]
            case "their motion":
                paint[:, :2] = seen.closes - seen.opens
            case _:
                for channel, purpose in enumerate((PHASE, SIDE, HOW_LIT)):
                    paint[:, channel] = shares_of(key, which, purpose)
        paint[:, 3] = np.minimum(1, shown)
        paint[:, :3] *= paint[:, 3:]
        return paint

    def _bands(
        self, behind: NDArray[np.float64], spots: NDArray[np.float32]
    ) -> NDArray[np.float32]:
        """The ribbons of spots as spots that have moved, from the farthest back on. Each is so bright that where
        one follows another they are together as bright as what draws them."""
        points, count = behind.shape[:2]
        back = (np.arange(points - 1) + 0.5)[::-1, None] / (points - 1)
        bands = np.empty((points - 1, count, 9), np.float32)
        bands[..., :2], bands[..., 2:4] = behind[:0:-1], behind[-2::-1]
        bands[..., 4] = spots[:, 4] * (1 + (self.ribbon_end / 100 - 1) * back)
        long = np.hypot(*np.moveaxis(bands[..., 2:4] - bands[..., :2], 2, 0))
        radius = np.maximum(bands[..., 4], 1e-3)
        covers = spots[:, 8] > 0
        strong = long / (radius * np.where(covers, 2, 1) * ALONG)
        strong = np.where(covers & (radius >= LEAST_DISC), 1 + 2 * long / (np.pi * radius), strong)
        bands[..., 5:] = spots[:, 5:] * (strong * (1 - back))[..., None]
        return bands.reshape(-1, 9)

    def _drawn(
        self,
        at: At,
        key: Key,
        which: NDArray[np.int64],
        moved: Numbers,
        spots: NDArray[np.float32],
        order: NDArray[np.int64] | slice,
        album: Album | None,
    ) -> Tile:
        covers = self.comes_as not in ("light", "offsets")
        if self.look in ("a soft spot", "a disc"):
            return draw_spots(spots[order], at.wanted, self.look == "a disc", covers)
        if self.look == "a layer's picture":
            if album is None or not album.pages:
                return clear_tile(at.wanted)
            sprites = self._sprites(key, which, moved, spots, album.pages)
            sprites[:, 2:4] /= album.fills
            return draw_album(album, sprites[order], at.wanted, covers)
        sheet = sheet_of_figures(self.figures) if self.look == "a figure" else sheet_of(self.look)
        sprites = self._sprites(key, which, moved, spots, len(sheet.reaches))
        turn = math.radians(self.lit_from)
        lit_from = (math.cos(turn), math.sin(turn))
        return draw_sprites(sheet, sprites[order], at.wanted, lit_from, covers)

    def _sprites(
        self,
        key: Key,
        which: NDArray[np.int64],
        moved: Numbers,
        spots: NDArray[np.float32],
        kinds: int,
    ) -> NDArray[np.float32]:
        """Spots as shapes that turn while they move, each one of some kinds: shards tumble, so that they are thin and bright
        by turns."""
        phase, side = shares_of(key, which, PHASE), shares_of(key, which, SIDE)
        way = np.where(side < 0.5, -1.0, 1.0) * (0.4 + 1.2 * phase)
        turn = np.radians(self.spin * way * moved + self.tilt * (2 * (side * 7 % 1) - 1))
        sprites = np.empty((len(which), 12), np.float32)
        sprites[:, :2] = (spots[:, :2] + spots[:, 2:4]) / 2
        sprites[:, 2] = sprites[:, 3] = spots[:, 4]
        sprites[:, 4], sprites[:, 5] = np.cos(turn), np.sin(turn)
        sprites[:, 6] = np.floor(phase * kinds)
        sprites[:, 7:11] = spots[:, 5:9]
        sprites[:, 11] = self.shade / 100
        if self.look == "a shard":
            tumbled = np.cos(np.radians(1.7 * self.spin * way * moved) + 2 * math.pi * phase)
            sprites[:, 3] *= np.maximum(0.12, np.abs(tumbled))
            lit = 1 - self.shade / 100 * (0.5 - 0.5 * tumbled)
            sprites[:, 7:10] *= lit[:, None].astype(np.float32)
            sprites[:, 11] = 0
        return sprites

    def _shown(
        self, key: Key, which: NDArray[np.int64], age: Numbers, part: Numbers
    ) -> NDArray[np.float32]:
        """How much of each shows: as it comes, goes, and twinkles."""
        shown = 1 - self.light_uneven / 100 * shares_of(key, which, HOW_LIT)
        if self.comes > 0:
            shown *= np.minimum(1, part / (self.comes / 100))
        if self.goes > 0:
            shown *= np.minimum(1, (1 - part) / (self.goes / 100))
        if self.twinkle > 0:
            phase = shares_of(key, which, PHASE)
            wave = np.sin(2 * math.pi * (self.twinkle_pace * age * (0.7 + 0.6 * phase) + 9 * phase))
            shown *= 1 - self.twinkle / 100 * (0.5 - 0.5 * wave)
        shown *= over_life(self.light_over, part)
        return np.maximum(0, shown).astype(np.float32)

    def coloured(self, key: Key, flying: Flying) -> NDArray[np.float32]:
        """The colour of each, in light `(N, 3)`."""
        age, part = flying.age, flying.part
        if self.glows == "as its picture does, not in":
            return np.ones((len(age), 3), np.float32)
        if self.glows == "as what it is born from, not in":
            return flying.dyes if flying.dyes.shape[1] else np.ones((len(age), 3), np.float32)
        if self.glows == "in":
            first, last = np.array(self.colour, np.float32), np.array(self.colour_end, np.float32)
            return first + (last - first) * part.astype(np.float32)[:, None]
        if self.glows == "along a ramp, not in":
            by_chance = shares_of(key, flying.which, HOW_LIT)
            places = {"age": part, "speed": flying.fast / self.full_speed, "chance": by_chance}
            return self.hued(places[self.hued_by])
        kelvins = self.kelvin * (1 + 7 * age / self.cools) ** (-1 / 3)
        return heat_of(np.clip(kelvins, COLDEST, HOTTEST), heat_table(self.kelvin))


_LARGE = 240.0
"""px from which on a picture is looked at in full size."""

_MOMENTS = 6

SOFTER = 1.55
"""A soft spot ends so many times as far out as half its width, which is where it is half as bright."""
