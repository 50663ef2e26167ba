"""Draw docs/starters.jpg: every starter on three of its frames. `./handful python docs/draw_starters.py`."""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine import Cache, Recipe, load_recipe, render_frame
from handful.engine.render.view import View, as_jpeg, shown

ROOT = Path(__file__).parents[1]
WIDTH, GAP, LINE = 384, 4, 26
SHARES = (0.08, 0.3, 0.65)
"""Where in the time that a starter shows its three frames are taken."""


def main() -> None:
    """Draw the starters named on the command line, or all, two in a row."""
    paths = sorted((ROOT / "starters").glob("*/*.json"))
    named = sys.argv[2:]
    strips = [_strip(load_recipe(path)) for path in paths if not named or path.stem in named]
    if len(strips) % 2:
        strips.append(np.zeros_like(strips[0]))
    rows = [np.hstack(strips[i : i + 2]) for i in range(0, len(strips), 2)]
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "starters.jpg"
    target.write_bytes(as_jpeg(np.vstack(rows), 88))


def _strip(recipe: Recipe) -> NDArray[np.uint8]:
    cache = Cache(1 << 29)
    scale = WIDTH / recipe.canvas.width
    pictures = [
        np.pad(shown(render_frame(recipe, frame, scale, cache), View()), ((0, 0), (0, GAP), (0, 0)))
        for frame in _frames(recipe)
    ]
    strip = np.pad(np.hstack(pictures), ((LINE, GAP), (0, 2 * GAP), (0, 0)))
    place = (2, LINE - 8)
    cv2.putText(
        strip, recipe.name, place, cv2.FONT_HERSHEY_SIMPLEX, 0.5, (190,) * 3, 1, cv2.LINE_AA
    )
    return strip


def _frames(recipe: Recipe) -> list[int]:
    """Three frames within the time that its layers show."""
    canvas = recipe.canvas
    shown_layers = [layer for layer in recipe.layers if layer.on]
    first = min(layer.first or canvas.first for layer in shown_layers)
    last = max(layer.last or canvas.last for layer in shown_layers)
    return [round(first + share * (last - first)) for share in SHARES]


if __name__ == "__main__":
    main()
