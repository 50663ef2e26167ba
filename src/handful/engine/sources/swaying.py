"""What stands on its foot and sways with what else is in the same air."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np

from handful.engine.kernels.easing import smooth
from handful.engine.kernels.pixels.resample import resampled
from handful.engine.kinds import At
from handful.engine.named import Sway
from handful.engine.picture import Tile, clear_tile


def swayed(draw: Callable[[At], Tile], sway: Sway, at: At, foot: float, free: float) -> Tile:
    """What `draw` draws, pushed aside by a sway: nothing at the foot and below it, and in full from `free` px above it
    on; `foot` in px of the full-size canvas."""
    reach = math.ceil(sway.farthest() * at.scale) + 2
    still = draw(at._replace(wanted=at.wanted.grown(reach)))
    region = still.region.grown(reach).meet(at.wanted)
    if region.empty or still.region.empty:
        return clear_tile(at.wanted, still.kind)
    pushes = sway.offsets(region, at.scale, at.shared_key("sway", sway.seed))
    rows, columns = np.mgrid[region.top : region.bottom, region.left : region.right].astype(
        np.float32
    )
    above = np.clip((foot * at.scale - rows[:, :1] - 0.5) / (free * at.scale), 0, 1)
    places = np.stack([columns, rows], axis=2) + np.float32(0.5) - pushes * smooth(above)[..., None]
    if still.kind == "light":
        return resampled(still, places, region, "clear", at.canvas)
    taken = places - np.array([still.region.left + 0.5, still.region.top + 0.5], np.float32)
    pixels = cv2.remap(still.pixels, taken, None, cv2.INTER_LINEAR, borderValue=0)
    return Tile(pixels, region)
