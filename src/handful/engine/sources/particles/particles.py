"""Particles: sparks, embers, dust and whatever else is small and flies."""

from __future__ import annotations

from typing import Any

from handful.engine.kinds import Others, register
from handful.engine.picture import PictureKind
from handful.engine.sources.particles.alive import RIBBON_POINTS
from handful.engine.sources.particles.flock import FLOCK_SAYS, Flock
from handful.engine.sources.particles.looks import Look
from handful.engine.values import Move


@register
class Particles(Look, Flock):
    """Sparks, embers, dust, rain, snow, spray: many small things, each thrown, carried and falling.

    How many are born, from where and which way is as it was when each was born, and that is between
    frames as well. Where air only holds them and blows evenly, all that comes after is as it is now, for
    all of them; stirred, drawn, gusting air and walls are gone through step by step. Particle number so
    and so is the same one whatever the others are.
    """

    family = "particles"
    says = FLOCK_SAYS + (
        "\nEach is {look}, one of {figures}, of {pictured} {apart} apart, {size} wide to {size_end}, {size_uneven} uneven, drawn over "
        "{streak}, with ribbons of {ribbon} behind that end {ribbon_end} wide, spinning {spin} from {tilt}, lit from {lit_from}, shaded {shade}, making {comes_as} of {push}, {size_over} wide and {light_over} there over its life, glowing {glows} {colour} to {colour_end}, of {hues} by {hued_by}, full at {full_speed}, at {light}, {kelvin} hot, half as "
        "hot in {cools}, {light_uneven} uneven, twinkling {twinkle} at {twinkle_pace}; it comes in "
        "{comes} and goes in {goes} of its life."
    )

    @classmethod
    def strokes(cls, written: Any) -> int:
        has_ribbons = isinstance(written.ribbon, Move) or written.ribbon > 0
        return RIBBON_POINTS if has_ribbons else 1

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return "offsets" if written.comes_as in ("offsets", "their motion") else "light"
