"""One finished frame."""

from __future__ import annotations

import numpy as np

from handful.engine.mix import bent_plate
from handful.engine.picture import Bent, Picture
from handful.engine.recipe import Recipe
from handful.engine.render.cache import Cache
from handful.engine.render.evaluate import evaluate
from handful.engine.render.media import NO_MEDIA, Media, still_tile
from handful.engine.render.plan import canvas_region, plan, plan_bend, shown_region


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
    with_plate: bool = False,
) -> Bent | None:
    """How a frame bends the plate, and the bent plate if that is wanted; nothing for a recipe that bends none.
    Raises `PlanError` as `render_frame` does."""
    planned = plan_bend(recipe, frame, scale, media)
    if planned is None:
        return None
    cache = cache or Cache(0)
    offsets = np.ascontiguousarray(evaluate(planned.offsets, cache).pixels)
    blur = None if planned.blur is None else evaluate(planned.blur, cache).pixels
    still = media.plate(round(frame)) if with_plate else None
    if still is None:
        return Bent(offsets, blur)
    region = shown_region(recipe, scale)
    plate = still_tile(still, planned.seen.edge, canvas_region(recipe, scale), region)
    light = np.ascontiguousarray(plate.within(region)[..., :3])
    return Bent(offsets, blur, bent_plate(light, offsets, blur, planned.seen, scale))
