"""Lit by: as bright as another layer is at the moment."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.kernels.pixels.bounds import hold_bounds
from handful.engine.kinds import At, LayerId, Step, register, setting
from handful.engine.picture import Tile, luminance


@register
class LitBy(Step):
    """As bright as another layer is at the moment: a tint, a flash or a flare that flickers with a fire.

    What is measured is the luminance of all of that layer's picture, in the mean over the canvas, the same at
    every size at which one looks.
    """

    family = "light"
    says = (
        "{follows} as bright as {layer} is, by {amount}; as it comes where that is {level} in the mean, and no more "
        "than {most} brighter."
    )
    example = {"amount": 0}

    layer: LayerId = setting("", measured=True, help="The layer whose light it follows.")
    level: float = setting(
        2, unit="%", least=0.0001, most=100_000, usual=(0.1, 20), help="How bright that layer is, in the mean over the canvas, where this one is as it comes."
    )  # fmt: skip
    amount: float = setting(
        100, unit="%", least=0, most=400, usual=(0, 200), help="How much it follows: 100 in proportion, 200 twice as many stops."
    )  # fmt: skip
    most: float = setting(
        4,
        unit="stops",
        least=-12,
        most=16,
        usual=(0, 8),
        help="How much brighter it becomes at most.",
    )
    follows: Literal["its light is", "it shows"] = setting(
        "its light is", help="Whether only its light follows, or how much of it there is."
    )

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if not others or self.amount == 0:
            return tile
        gain = np.float32(self.gain(mean_light(others[0])))
        pixels = tile.pixels.copy()
        if self.follows == "it shows":
            pixels *= min(gain, np.float32(1.0))
        else:
            pixels[..., :3] *= gain
        hold_bounds(pixels)
        return Tile(pixels, tile.region)

    def gain(self, mean: float) -> float:
        """By how much light is multiplied where the other layer's is so much in the mean."""
        followed = (max(0.0, mean) / (self.level / 100)) ** (self.amount / 100)
        return float(min(followed, 2.0**self.most))


def mean_light(tile: Tile) -> float:
    """The mean luminance of a picture on all that it was asked for."""
    return float(luminance(tile.pixels).mean(dtype=np.float64)) if tile.pixels.size else 0.0
