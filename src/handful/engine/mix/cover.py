"""What the cover of a finished picture is. It is never guessed: the recipe names the rule."""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture

CoverRule = Literal["as drawn", "from light", "solid"]
COVER_RULES: tuple[CoverRule, ...] = get_args(CoverRule)


def with_cover(picture: Picture, rule: CoverRule) -> Picture:
    """The picture under a cover rule.

    as drawn: unchanged. from light: cover is at least the brightest channel, up to 1, so that a
    plain "over" lays the element down and straight files keep its glow. solid: on black, cover 1.
    """
    if rule == "as drawn":
        return picture
    changed = np.empty_like(picture)
    in_bands(_rewrite_rows, picture.shape[0], picture, rule == "solid", changed)
    return changed


@compiled
def _rewrite_rows(first: int, last: int, picture: Picture, solid: bool, changed: Picture) -> None:
    for y in range(first, last):
        for x in range(picture.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            brightest = np.float32(1.0) if solid else min(np.float32(1.0), max(r, max(g, b)))
            changed[y, x, 0], changed[y, x, 1], changed[y, x, 2] = r, g, b
            changed[y, x, 3] = max(picture[y, x, 3], brightest)
