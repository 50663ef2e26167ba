"""Bead: the picture seen through a ball of glass or water."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.lit import Rgb, light_of
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.lengths import way_length
from handful.engine.kernels.pixels.blur import gaussian
from handful.engine.kernels.pixels.resample import Edge, sampled
from handful.engine.kinds import At, LayerId, Step, clockwise, register, setting
from handful.engine.picture import Matte, Picture, Region, Tile, blank, unset
from handful.engine.values import Point


@register
class Bead(Step):
    """The picture seen through a clear ball, bent by Snell's law where a ray goes in and comes out.

    The picture is a plane behind the ball, looked at from far away. The rim is darker by what
    Fresnel's equations reflect there, times the darkening, and there it reflects its surroundings and
    a soft box. Glass bends blue more than red. A layer's height may shape its front: waves, bumps,
    frost, each px a thin wedge of glass. Outside may stand the picture turned over, darker and out of
    focus.
    """

    family = "warp"
    says = (
        "Through a ball of index {index} at {centre}, {radius} in radius, {thickness} thick, {distance} "
        "before the picture, its front shaped by {raised} of {surface}, its rim darkened by {darkening} "
        "and shaded by {shade}, colours {spread} apart, wobbling by {wobble} along {lean}. It reflects "
        "{reflects} around it in {colour}, and a soft box {box} from {box_from}. Outside it shows {outside}, {behind} out of focus and {darker} "
        "darker; its edge is {edge}."
    )

    centre: Point = setting([960, 540], unit="px", help="Middle of the ball.")
    radius: float = setting(
        260,
        unit="px",
        drawn="radius",
        about="centre",
        least=1,
        most=10_000,
        usual=(10, 1500),
        help="Radius of the ball.",
    )
    index: float = setting(
        1.33, least=1, most=2.5, help="Refractive index: water 1.33, glass about 1.5."
    )
    distance: float = setting(
        300,
        unit="%",
        least=0,
        most=1000,
        usual=(0, 800),
        help="From the ball's back to the picture, of its radius.",
    )
    darkening: float = setting(
        100, unit="%", least=0, most=400, help="How much of what the rim reflects is taken away."
    )
    thickness: float = setting(
        100, unit="%", least=0, most=100, help="From a flat pane to a whole ball."
    )
    spread: float = setting(
        0,
        unit="%",
        least=0,
        most=20,
        usual=(0, 6),
        help="How much more blue is bent than red: crown glass about 2.",
    )
    shade: float = setting(
        0, unit="%", least=0, most=100, help="How much darker it is inside towards its rim."
    )
    surface: LayerId = setting(
        "",
        takes=("height",),
        help="A layer whose height is raised on its front; none leaves it smooth.",
    )
    raised: float = setting(
        10, unit="%", least=-1000, most=1000, usual=(-50, 50), help="How much of that height."
    )
    wobble: float = setting(
        0,
        unit="%",
        least=-50,
        most=50,
        help="How much longer it is one way, and thinner the other.",
    )
    lean: float = clockwise(0, about="centre", help="Which way it is longer.")
    colour: Colour = setting("#cfe2f2", help="Colour of what its rim reflects.")
    reflects: float = setting(
        -20,
        unit="stops",
        least=-20,
        most=12,
        usual=(-8, 4),
        help="How bright that is; −20 is nothing.",
    )
    box: float = setting(
        -20,
        unit="stops",
        least=-20,
        most=12,
        usual=(-4, 6),
        help="How bright a soft box is that it reflects; −20 is none.",
    )
    box_from: float = clockwise(-125, about="centre", help="Where the soft box stands.")
    outside: Literal["the picture", "nothing", "it turned over"] = setting(
        "the picture", help="What there is around the ball."
    )
    behind: float = setting(
        24,
        unit="px",
        least=0,
        most=500,
        usual=(0, 100),
        help="Turned over: how far out of focus.",
    )
    darker: float = setting(
        1.5, unit="stops", least=0, most=12, help="Turned over: how much darker."
    )
    edge: Edge = setting("mirror", help="What comes from beyond the canvas's edge.")

    def needs(self, wanted: Region, at: At) -> Region:
        if self.outside == "it turned over":
            return wanted.around(at.canvas).grown(math.ceil(3 * self.behind * at.scale))
        reach = math.ceil(2 * self.radius * (2 + self.distance / 100) * at.scale)
        needed = at.canvas if self.edge != "clear" else self._ball(at).grown(reach)
        return needed if self.outside == "nothing" else needed.around(wanted)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        region = self._ball(at).meet(at.wanted)
        covered = region if self.outside == "nothing" else at.wanted
        around = self._around(tile, at, covered)
        if region.empty:
            return around
        shares = np.empty((region.height, region.width, 2), np.float32)
        heights = np.ascontiguousarray(others[0].within(region.grown(1))) if others else None
        picture = sampled(tile, self.edge, at.canvas, shrinks=False)
        half = self.spread / 200
        if half > 0:
            red, green, blue = self._through(at, region, (-half, 0.0, half), shares, heights)
            ball = picture.taken_apart(red, green, blue, region).pixels
        else:
            ball = picture.taken(
                self._through(at, region, (0.0,), shares, heights)[0], region
            ).pixels
        lights = np.stack([_light(self.colour, self.reflects), _light((1.0, 1.0, 1.0), self.box)])
        in_bands(
            _lay_rows, region.height, region.left, region.top, *self._shape(at), ball, shares,
            lights, math.radians(self.box_from), self.index, self.shade / 100,
            around.within(region),
        )  # fmt: skip
        return around

    def _around(self, tile: Tile, at: At, covered: Region) -> Tile:
        """What stands around the ball, to be written on."""
        if self.outside == "nothing":
            return Tile(blank(covered), covered)
        if self.outside == "the picture":
            return Tile(tile.within(covered).copy(), covered)
        canvas = at.canvas
        sides = canvas.left + canvas.right
        turned = Region(sides - covered.right, covered.top, sides - covered.left, covered.bottom)
        deviation = self.behind * at.scale / 2
        room = turned.grown(math.ceil(6 * deviation))
        picture = tile.within(room)
        if deviation > _SHARP:
            picture = gaussian(picture, deviation)
        over = unset(covered)
        shown = Tile(picture, room).within(turned)
        in_bands(_turn_rows, covered.height, shown, np.float32(2.0**-self.darker), over)
        return Tile(over, covered)

    def _through(
        self, at: At, region: Region, more: tuple[float, ...], shares: Places, heights: Matte | None
    ) -> Places:
        """Where each px in the ball comes from `(N, H, W, 2)`, at indices that are more by some shares, and how much of
        it passes at the middle one."""
        indices = [1 + (self.index - 1) * (1 + share) for share in more]
        places = np.empty((len(more), region.height, region.width, 2), np.float32)
        rays = np.stack([_rays(index, self.distance / 100) for index in indices])
        in_bands(
            _refract_rows, region.height, region.left, region.top, *self._shape(at),
            rays, self.darkening / 100, self.thickness / 100, places, shares,
        )  # fmt: skip
        if heights is not None and self.raised != 0:
            far = self.radius * at.scale * (2 * self.thickness + self.distance) / 100
            steep = at.scale * self.raised / 100
            for index, each in zip(indices, places, strict=True):
                in_bands(_tilt_rows, region.height, heights, steep, index, far, each)
        return places

    def _shape(self, at: At) -> tuple[float, ...]:
        """Middle and radius in px, how much longer it is, and which way: its cosine and sine."""
        return (
            self.centre.x * at.scale, self.centre.y * at.scale, self.radius * at.scale,
            1 + self.wobble / 100, math.cos(math.radians(self.lean)), math.sin(math.radians(self.lean)),
        )  # fmt: skip

    def _ball(self, at: At) -> Region:
        x, y, r = (part * at.scale for part in (*self.centre, self.radius))
        r *= max(1 + self.wobble / 100, 1 / (1 + self.wobble / 100))
        return Region(
            math.floor(x - r) - 1, math.floor(y - r) - 1, math.ceil(x + r) + 1, math.ceil(y + r) + 1
        )


_NONE = -20.0
_SHARP = 0.2
"""px by which a blur changes nothing that is seen."""


def _light(colour: Rgb, stops: float) -> NDArray[np.float32]:
    return light_of(colour, stops) if stops > _NONE else np.zeros(3, np.float32)


@compiled
def _turn_rows(first: int, last: int, picture: Picture, light: np.float32, over: Picture) -> None:
    """A picture turned over from left to right, with so much of its light."""
    width = picture.shape[1]
    for y in range(first, last):
        for x in range(width):
            at = width - 1 - x
            for c in range(3):
                over[y, x, c] = light * picture[y, at, c]
            over[y, x, 3] = picture[y, at, 3]


@compiled
def _unwobbled(
    dx: float, dy: float, longer: float, cosine: float, sine: float
) -> tuple[float, float]:
    """The place on a round ball that one on the wobbling one stands for: its area stays."""
    p, q = (dx * cosine + dy * sine) / longer, (dy * cosine - dx * sine) * longer
    return p * cosine - q * sine, p * sine + q * cosine


@compiled
def ray_through(height: float, index: float, distance: float) -> tuple[float, float]:
    """Where a ray at a height on a ball of radius 1 meets the plane, and the share that passes.

    The ray comes along the axis. The plane is `distance` behind the ball's back. The share is
    Fresnel's for unpolarised light, for going in and coming out alike.
    """
    entering = math.asin(min(1.0, height))
    within = math.asin(min(1.0, height) / index)
    turned = entering - within
    chord = 2.0 * math.cos(within)
    out = height - chord * math.sin(turned)
    depth = chord * math.cos(turned) - math.cos(entering)
    place = out - (1.0 + distance - depth) * math.tan(min(_STEEPEST, 2.0 * turned))
    cos_in, cos_within = math.cos(entering), math.cos(within)
    across = (cos_in - index * cos_within) / (cos_in + index * cos_within)
    along = (index * cos_in - cos_within) / (index * cos_in + cos_within)
    passes = 1.0 - 0.5 * (across * across + along * along)
    return place, passes * passes


@compiled
def _rays(index: float, distance: float) -> NDArray[np.float32]:
    """Of rays that come to a ball of radius 1 less and less steeply, by the cosine: where they meet the plane,
    of their height, and the share that passes."""
    found = np.empty((_RAYS + 1, 2), np.float32)
    for i in range(_RAYS + 1):
        height = math.sqrt(1.0 - (i / _RAYS) ** 2)
        height = min(0.9999, max(1e-4, height))
        place, passes = ray_through(height, index, distance)
        found[i, 0], found[i, 1] = place / height, passes
    return found


_RAYS = 1024
"""So many rays are followed; between them what they do is even."""

_STEEPEST = 1.5
"""Radians; a ray turned farther never comes to the picture, and is taken from as far as this."""


@compiled
def _refract_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    x0: float,
    y0: float,
    radius: float,
    longer: float,
    lean_across: float,
    lean_down: float,
    rays: NDArray[np.float32],
    darkening: float,
    thickness: float,
    places: Places,
    shares: Places,
) -> None:
    """Where each px of the ball comes from, for each of some rays; its light by the middle ones, and how much of the px is
    in the ball."""
    count, middle = rays.shape[0], rays.shape[0] // 2
    for y in range(first, last):
        dy = y + top + 0.5 - y0
        for x in range(places.shape[2]):
            dx = x + left + 0.5 - x0
            p, q = _unwobbled(dx, dy, longer, lean_across, lean_down)
            away = math.sqrt(p * p + q * q)
            inside = min(1.0, max(0.0, radius - away + 0.5))
            shares[y, x, 1] = np.float32(inside)
            shares[y, x, 0] = np.float32(0.0)
            if inside == 0.0:
                for k in range(count):
                    places[k, y, x, 0], places[k, y, x, 1] = np.float32(np.nan), np.float32(np.nan)
                continue
            height = away / radius
            steep = _RAYS * math.sqrt(max(0.0, 1.0 - height * height))
            i = min(_RAYS - 1, int(steep))
            part = steep - i
            for k in range(count):
                by = rays[k, i, 0] + part * (rays[k, i + 1, 0] - rays[k, i, 0])
                places[k, y, x, 0] = x0 + dx + thickness * (p * by - dx)
                places[k, y, x, 1] = y0 + dy + thickness * (q * by - dy)
            passes = rays[middle, i, 1] + part * (rays[middle, i + 1, 1] - rays[middle, i, 1])
            shares[y, x, 0] = np.float32(max(0.0, 1.0 - darkening * (1.0 - passes)))


@compiled
def through_wedge(slope: float, index: float) -> float:
    """The tangent of the angle by which a wedge of a slope turns a ray that meets its other side
    squarely, after Snell; where all would be reflected, that of the steepest ray that comes out."""
    steep = math.atan(abs(slope))
    out = math.asin(min(_GRAZING, index * math.sin(steep)))
    return math.copysign(math.tan(min(_STEEPEST, max(0.0, out - steep))), slope)


_GRAZING = 0.999
"""The sine of the angle to its surface's normal at which a ray is taken to leave it no more."""


@compiled
def _tilt_rows(
    first: int,
    last: int,
    heights: Matte,
    steep_by: float,
    index: float,
    far: float,
    places: Places,
) -> None:
    """A height's slopes turn the rays, which come from higher up the slope as they go to the picture."""
    for y in range(first, last):
        for x in range(places.shape[1]):
            across = 0.5 * steep_by * (heights[y + 1, x + 2] - heights[y + 1, x])
            down = 0.5 * steep_by * (heights[y + 2, x + 1] - heights[y, x + 1])
            steep = way_length(across, down)
            if steep > 0.0:
                push = far * through_wedge(steep, index) / steep
                places[y, x, 0] += across * push
                places[y, x, 1] += down * push


_BOX_HIGH, _BOX_WIDE = 0.62, 0.42
"""How far from the middle of the ball the soft box is mirrored, and how wide, of its radius."""


@compiled
def _lay_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    x0: float,
    y0: float,
    radius: float,
    longer: float,
    lean_across: float,
    lean_down: float,
    ball: Picture,
    shares: Places,
    lights: NDArray[np.float32],
    box_from: float,
    index: float,
    shade: float,
    around: Picture,
) -> None:
    """The ball over what is around: what passes through it, shaded, and what it reflects."""
    zero, one = np.float32(0.0), np.float32(1.0)
    bx, by = _BOX_HIGH * math.cos(box_from), _BOX_HIGH * math.sin(box_from)
    cosine, sine = math.cos(box_from), math.sin(box_from)
    normal = ((index - 1.0) / (index + 1.0)) ** 2
    for y in range(first, last):
        for x in range(ball.shape[1]):
            light, inside = shares[y, x, 0], shares[y, x, 1]
            if inside <= zero:
                continue
            p, q = _unwobbled(
                x + left + 0.5 - x0, y + top + 0.5 - y0, longer, lean_across, lean_down
            )
            p, q = p / radius, q / radius
            high = min(1.0, way_length(p, q))
            facing = math.sqrt(1.0 - high * high)
            mirrored = np.float32(normal + (1.0 - normal) * (1.0 - facing) ** 5)
            light *= np.float32(1.0 - shade * high**4)
            u, v = (p - bx) * cosine + (q - by) * sine, (q - by) * cosine - (p - bx) * sine
            edge = 0.04 + 0.10 * high
            across = min(1.0, max(0.0, (0.5 * _BOX_WIDE - abs(v)) / edge))
            along = min(1.0, max(0.0, (0.3 * _BOX_WIDE - abs(u)) / edge))
            box = np.float32(across * along)
            kept = one - inside
            for c in range(3):
                own = ball[y, x, c] * light + mirrored * lights[0, c]
                own += box * lights[1, c] * (np.float32(0.06) + mirrored)
                around[y, x, c] = around[y, x, c] * kept + own * inside
            around[y, x, 3] = around[y, x, 3] * kept + ball[y, x, 3] * inside
