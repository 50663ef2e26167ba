"""From a recipe and a moment to pictures."""

from handful.engine.render.cache import Cache
from handful.engine.render.costs import Cost, cost_of
from handful.engine.render.curves import Curve, curves
from handful.engine.render.evaluate import NoRoom, Stopped, evaluate
from handful.engine.render.frame import render_bend, render_frame
from handful.engine.render.lasting import Lasting
from handful.engine.render.media import NO_MEDIA, Media
from handful.engine.render.places import Places, places
from handful.engine.render.plan import PlanError, PlateBend, plan, plan_bend
from handful.engine.render.remembered import Remembered, remembered, standing_in
from handful.engine.render.resolve import Resolver
from handful.engine.render.seam import Seam, seam_of

__all__ = [
    "NO_MEDIA",
    "Cache",
    "Cost",
    "Curve",
    "Lasting",
    "Media",
    "NoRoom",
    "Places",
    "PlanError",
    "PlateBend",
    "Remembered",
    "Resolver",
    "Seam",
    "Stopped",
    "cost_of",
    "curves",
    "evaluate",
    "places",
    "plan",
    "plan_bend",
    "remembered",
    "render_bend",
    "render_frame",
    "seam_of",
    "standing_in",
]
