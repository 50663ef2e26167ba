"""One finished frame."""

from __future__ import annotations

import numpy as np

from handful.engine.picture import Picture
from handful.engine.recipe import Recipe
from handful.engine.render.cache import Cache
from handful.engine.render.evaluate import evaluate
from handful.engine.render.media import NO_MEDIA, Media
from handful.engine.render.plan import plan, plan_bend


def render_frame(
    recipe: Recipe,
    frame: float,
    scale: float = 1.0,
    cache: Cache | None = None,
    layer: str | None = None,
    media: Media = NO_MEDIA,
) -> Picture:
    """A frame `(H, W, 4)` of the recipe at a scale: linear light, premultiplied, under its cover rule; or
    one layer's own picture as a pass, by its id, with its cover as drawn.

    It is to be read only where a cache was given. Raises `PlanError` for a frame or scale that
    the recipe does not have.
    """
    tile = evaluate(plan(recipe, frame, scale, layer, media), cache or Cache(0))
    return np.ascontiguousarray(tile.pixels)


def render_bend(
    recipe: Recipe,
    frame: float,
    scale: float = 1.0,
    cache: Cache | None = None,
    media: Media = NO_MEDIA,
) -> Picture | None:
    """By how much a frame pushes the plate about: offsets `(H, W, 2)` in px of the full-size canvas, to the
    right and down, so that what is seen at a px is the plate's at the px less them; nothing for a recipe
    that bends none. Raises `PlanError` as `render_frame` does."""
    planned = plan_bend(recipe, frame, scale, media)
    if planned is None:
        return None
    return np.ascontiguousarray(evaluate(planned[0], cache or Cache(0)).pixels)
