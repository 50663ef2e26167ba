"""Bend: what bends all that is behind it, the layers below and the plate."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import Edge
from handful.engine.kinds import At, Bends, LayerId, Others, Source, register, setting
from handful.engine.picture import Matte, PictureKind, Tile, clear_tile


@register
class Bend(Bends, Source):
    """Bends all layers below it in its group by another layer's offsets or the slope of its height; one
    that is in no group bends the plate as well.

    Light is not its own: it is seen by what it does to what is behind, a shock by the lines that it
    breaks, hot air by the lights that it makes dance. How far the plate is bent is delivered with a
    render, as offsets.
    """

    family = "layers"
    says = (
        "Bends what is below by {by} {bends}, {strength} as strongly and by {most} at most; a surface of an "
        "index of {index} lies {thickness} before it. Colours are {spread} apart, in {colours} of them, and "
        "it is blurred by {blur} of that; from beyond the edge comes {edge}."
    )

    by: LayerId = setting("", takes=("height", "offsets"), help="The layer whose shape bends.")
    bends: Literal["by its slope", "as a clear surface"] = setting(
        "by its slope",
        help="A height, by how steep it is; or as water or glass of such a surface does, after Snell.",
    )
    index: float = setting(
        1.333, least=1.0, most=3.0, usual=(1.0, 2.0),
        help="As a clear surface: how much slower light is in it; 1.333 in water, about 1.5 in glass.",
    )  # fmt: skip
    thickness: float = setting(
        300, unit="px", least=0, most=20000, usual=(20, 2000),
        help="As a clear surface: how far below it lies what is seen through it.",
    )  # fmt: skip
    strength: float = setting(
        100,
        unit="%",
        least=-2000,
        most=2000,
        usual=(-200, 300),
        help="Of its offsets; a height bends by its slope in px, times so many px.",
    )
    most: float = setting(
        200, unit="px", least=1, most=2000, usual=(10, 400), help="How far it bends at most."
    )
    spread: float = setting(
        0,
        unit="%",
        least=0,
        most=50,
        usual=(0, 15),
        help="How much farther blue is bent than red.",
    )
    colours: int = setting(3, least=3, most=9, help="Of how many colours that spectrum is made.")
    blur: float = setting(
        0, unit="%", least=0, most=200, usual=(0, 60),
        help="How much what is bent is blurred, of how far it is bent.",
    )  # fmt: skip
    edge: Edge = setting("mirror", help="What comes from beyond the canvas's edge.")

    @classmethod
    def makes(cls, written: object, others: Others) -> PictureKind:
        return "offsets"

    def draw(self, at: At, *others: Tile) -> Tile:
        if not others or others[0].region.empty or self.strength == 0:
            return clear_tile(at.wanted, "offsets")
        region = others[0].region.meet(at.wanted)
        strength = self.strength / 100
        if others[0].kind == "offsets":
            offsets = others[0].within(region) * np.float32(strength)
        else:
            heights = np.ascontiguousarray(others[0].within(region.grown(1)))
            offsets = np.empty((region.height, region.width, 2), np.float32)
            if self.bends == "by its slope":
                amount = strength * _SLOPE_PX * at.scale
                in_bands(_slope_rows, region.height, heights, amount, offsets)
            else:
                far = strength * self.thickness
                in_bands(_through_rows, region.height, heights, at.scale, self.index, far, offsets)
        far = np.hypot(offsets[..., 0], offsets[..., 1], dtype=np.float32)
        share = np.minimum(1, np.float32(self.most) / np.maximum(far, np.float32(1e-6)))
        return Tile(offsets * share[..., None], region)


_SLOPE_PX = 100.0
"""px by which a slope of 1 px in 1 bends at full strength."""


@compiled
def _through_rows(
    first: int, last: int, heights: Matte, scale: float, index: float, far: float, offsets: Places
) -> None:
    """Down the slope of a height, as far as rays that go straight down are turned by a clear surface of it
    (Snell) on their way to what lies below."""
    for y in range(first, last):
        for x in range(offsets.shape[1]):
            across = 0.5 * scale * (heights[y + 1, x + 2] - heights[y + 1, x])
            down = 0.5 * scale * (heights[y + 2, x + 1] - heights[y, x + 1])
            steep = math.sqrt(across * across + down * down)
            by = far * turned_by(steep, index) / max(steep, 1e-12)
            offsets[y, x, 0], offsets[y, x, 1] = by * across, by * down


@compiled
def turned_by(slope: float, index: float) -> float:
    """The tangent of the angle by which a ray that goes straight down is turned as it enters a clear surface
    of a slope: sin(a) = n sin(b), where a is the angle of the slope (Snell's law)."""
    angle = math.atan(slope)
    return math.tan(angle - math.asin(math.sin(angle) / index))


@compiled
def _slope_rows(first: int, last: int, heights: Matte, amount: float, offsets: Places) -> None:
    """Down the slope of a height."""
    half = np.float32(0.5 * amount)
    for y in range(first, last):
        for x in range(offsets.shape[1]):
            offsets[y, x, 0] = half * (heights[y + 1, x + 2] - heights[y + 1, x])
            offsets[y, x, 1] = half * (heights[y + 2, x + 1] - heights[y, x + 1])
