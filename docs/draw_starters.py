"""Draw what shows the starters: `./handful python docs/draw_starters.py [NAME ...]`.

Beside each starter the still that stands for it where one chooses, and docs/starters.jpg with every
starter on three of its frames; that one only if no names are given.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine import Cache, Recipe, load_recipe, render_frame
from handful.engine.render.view import View, as_jpeg, shown

ROOT = Path(__file__).parents[1]
STILL_WIDTH = 480
WIDTH, GAP, LINE = 384, 4, 26
SHARES = (0.08, 0.3, 0.65)
"""Where in the time that a starter shows its three frames are taken."""


def main() -> None:
    """Draw the starters named on the command line, or all."""
    named = sys.argv[1:]
    strips = []
    for path in sorted((ROOT / "starters").glob("*/*.json")):
        if named and path.stem not in named:
            continue
        recipe = load_recipe(path)
        pictures = _pictures(recipe)
        telling = max(pictures, key=lambda picture: float(picture.mean()))
        path.with_suffix(".jpg").write_bytes(as_jpeg(telling, 84))
        strips.append(_strip(recipe.name, pictures))
    if named:
        return
    if len(strips) % 2:
        strips.append(np.zeros_like(strips[0]))
    rows = [np.hstack(strips[i : i + 2]) for i in range(0, len(strips), 2)]
    (ROOT / "docs" / "starters.jpg").write_bytes(as_jpeg(np.vstack(rows), 84))


def _pictures(recipe: Recipe) -> list[NDArray[np.uint8]]:
    cache = Cache(1 << 29)
    scale = STILL_WIDTH / recipe.canvas.width
    return [shown(render_frame(recipe, frame, scale, cache), View()) for frame in _frames(recipe)]


def _strip(name: str, pictures: list[NDArray[np.uint8]]) -> NDArray[np.uint8]:
    size = (WIDTH, WIDTH * 9 // 16)
    small = [cv2.resize(picture, size, interpolation=cv2.INTER_AREA) for picture in pictures]
    spaced = [np.pad(picture, ((0, 0), (0, GAP), (0, 0))) for picture in small]
    strip = np.pad(np.hstack(spaced), ((LINE, GAP), (0, 2 * GAP), (0, 0)))
    place = (2, LINE - 8)
    cv2.putText(strip, name, place, cv2.FONT_HERSHEY_SIMPLEX, 0.5, (190,) * 3, 1, cv2.LINE_AA)
    return strip


def _frames(recipe: Recipe) -> list[int]:
    """Three frames within the time that its layers show."""
    canvas = recipe.canvas
    shown_layers = [layer for layer in recipe.layers if layer.on]
    spans = [(layer.first or canvas.first, layer.last or canvas.last) for layer in shown_layers]
    first = max(canvas.first, min(first for first, _ in spans))
    last = min(canvas.last, max(last for _, last in spans))
    return [round(first + share * (last - first)) for share in SHARES]


if __name__ == "__main__":
    main()
