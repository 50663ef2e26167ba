"""Blends on premultiplied pictures in linear light.

`normal` is over and `add` is plus of Porter and Duff, "Compositing digital images", SIGGRAPH
1984. Light is not limited; cover stays within 0 to 1.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Tile


@compiled
def _over(first: int, last: int, below: Picture, above: Picture, amount: float) -> None:
    part = np.float32(amount)
    for y in range(first, last):
        for x in range(below.shape[1]):
            kept = np.float32(1.0) - above[y, x, 3] * part
            for c in range(4):
                below[y, x, c] = above[y, x, c] * part + below[y, x, c] * kept


@compiled
def _plus(first: int, last: int, below: Picture, above: Picture, amount: float) -> None:
    part = np.float32(amount)
    for y in range(first, last):
        for x in range(below.shape[1]):
            for c in range(3):
                below[y, x, c] += above[y, x, c] * part
            below[y, x, 3] = min(np.float32(1.0), below[y, x, 3] + above[y, x, 3] * part)


BLENDS: dict[str, Callable[[int, int, Picture, Picture, float], None]] = {
    "normal": _over,
    "add": _plus,
}


def mix_into(target: Tile, layer: Tile, blend: str, opacity: float) -> None:
    """Mix a layer over what the target holds, in place; `opacity` is from 0 to 1.

    Where the layer has nothing the target stays as it is, which holds for every blend here.
    """
    shared = layer.region.meet(target.region)
    if shared.empty or opacity <= 0:
        return
    part = target.within(shared)
    in_bands(BLENDS[blend], shared.height, part, layer.within(shared), opacity)
