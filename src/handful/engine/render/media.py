"""What a picture takes from outside its recipe. A recipe opens nothing: whoever renders it hands over
what there is."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import decode_srgb
from handful.engine.kernels.pixels.resample import Edge
from handful.engine.picture import Region, Tile, clear_tile


class Still(Protocol):
    """A display picture."""

    @property
    def mark(self) -> str:
        """What changes when the picture does."""

    def read(self, width: int, height: int) -> NDArray[np.uint8] | None:
        """Its 8-bit sRGB levels `(height, width, 3)`; nothing if it cannot be had."""


class Media(Protocol):
    """What there is for a shot."""

    def plate(self, frame: int) -> Still | None:
        """The plate behind a frame, if there is one."""


class _Nothing:
    def plate(self, frame: int) -> None:
        """No plate."""


NO_MEDIA: Media = _Nothing()


_LIGHT = decode_srgb(np.arange(256, dtype=np.float32) / 255).astype(np.float32)


def still_tile(still: Still, edge: Edge, canvas: Region, wanted: Region) -> Tile:
    """A still that fills the canvas, as linear light, on a region; beyond its edges as they say."""
    levels = still.read(canvas.width, canvas.height)
    seen = canvas.meet(wanted) if edge == "clear" else wanted
    if levels is None or seen.empty:
        return clear_tile(wanted)
    rows = _within(np.arange(seen.top, seen.bottom) - canvas.top, canvas.height, edge)
    columns = _within(np.arange(seen.left, seen.right) - canvas.left, canvas.width, edge)
    pixels = np.ones((seen.height, seen.width, 4), np.float32)
    pixels[..., :3] = _LIGHT[levels[rows[:, None], columns]]
    return Tile(pixels, seen)


def _within(at: NDArray[np.intp], length: int, edge: Edge) -> NDArray[np.intp]:
    """Which of so many px each place shows."""
    if edge == "wrap":
        return at % length
    if edge == "mirror":
        turned = at % (2 * length)
        return np.where(turned < length, turned, 2 * length - 1 - turned)
    return np.clip(at, 0, length - 1)
