"""What must be computed for a frame: nodes from the result back to the sources.

A layer is first resolved as a whole. Then planning goes back through its steps, asks each what it
needs of the picture before it, so that nothing ever shows the edge of a layer, and gives each node a
key made of all that its picture depends on. A source says itself what it is made of.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, cast

from handful.engine.kernels.forms.places import sized
from handful.engine.kernels.pixels.blur import reach_of
from handful.engine.kernels.pixels.resample import Edge
from handful.engine.kinds import (
    Again,
    At,
    Bends,
    Clock,
    Draws,
    Kind,
    Leads,
    Placing,
    Pointwise,
    Source,
    Step,
)
from handful.engine.mix import (
    Bending,
    Seen,
    averaged,
    bent,
    bent_after,
    blur_of,
    joined,
    limited,
    with_cover,
)
from handful.engine.picture import PictureKind, Region, Tile
from handful.engine.recipe.document import Layer, Recipe, spans
from handful.engine.recipe.made import Made, bends
from handful.engine.recipe.references import with_own
from handful.engine.render.media import NO_MEDIA, Media, still_tile
from handful.engine.render.nodes import (
    Around,
    Node,
    applied,
    mix_of,
    node_of,
    nothing,
    run_over,
    sum_of,
)
from handful.engine.render.resolve import FINISH, Limited, Resolved, Resolver, Take
from handful.engine.steps.place.place import placed

LEAST_SCALE, MOST_SCALE = 1 / 64, 4.0
MOST_PIXELS = 100_000_000
_REACH_STEP, _NEAR_STEP = 128, 32
_STEPS = (16, 32, 64)

_MEASURED_AT = 1 / 8
"""The scale at which a layer is looked at of which no more than its brightness matters."""

_MOST_MARGIN = 1.6
"""Beyond the edge of the canvas a layer is drawn at most so many times its longer side, or 512 px."""


_WIDE = 1.5
"""From so many times what is wanted a margin is worth a coarser picture of its own."""

Shown = tuple[Layer, float]
"""A layer and its opacity."""


class PlanError(ValueError):
    """A frame, scale or layer that the recipe does not have."""


def plan(
    recipe: Recipe,
    frame: float,
    scale: float = 1.0,
    layer: str | None = None,
    media: Media = NO_MEDIA,
) -> Node:
    """The node for the finished frame, or for one layer's own picture, on the scaled canvas, with what
    the recipe takes from outside.

    Raises `PlanError` for a frame outside the shot, a scale out of range or an unknown layer.
    """
    planner = _planner(recipe, frame, scale, media)
    take = Take.of(frame)
    if layer is None:
        return planner.result(take)
    chosen = planner.layers.get(layer)
    if chosen is None:
        raise PlanError(f"there is no layer {layer!r}")
    return planner.turned(take, lambda each: planner.own_picture(chosen, each))


def _planner(recipe: Recipe, frame: float, scale: float, media: Media) -> _Planner:
    canvas = recipe.canvas
    if not canvas.first <= frame <= canvas.last:
        raise PlanError(f"frame {frame:g} is not within {canvas.first} to {canvas.last}")
    if not LEAST_SCALE <= scale <= MOST_SCALE:
        raise PlanError(f"scale {scale:g} is not within {LEAST_SCALE:g} to {MOST_SCALE:g}")
    region = shown_region(recipe, scale)
    if region.width * region.height > MOST_PIXELS:
        raise PlanError(f"a picture of {region.width} × {region.height} px is too large")
    return _Planner(recipe, scale, media)


class PlateBend(NamedTuple):
    """How the plate is bent: the nodes for its offsets and for how much it is blurred, if it is, both in px of
    the full size, and how that is seen."""

    offsets: Node
    blur: Node | None
    seen: Seen


def plan_bend(
    recipe: Recipe, frame: float, scale: float = 1.0, media: Media = NO_MEDIA
) -> PlateBend | None:
    """How the plate is bent, on the scaled canvas; nothing for a recipe that bends none. Raises `PlanError` as
    `plan` does."""
    if not any(bends(layer) for layer in recipe.layers):
        return None
    return _planner(recipe, frame, scale, media).plate_bend(Take.of(frame))


def canvas_region(recipe: Recipe, scale: float) -> Region:
    """The canvas in px at a scale, from its corner."""
    return Region(
        0,
        0,
        max(1, math.ceil(recipe.canvas.width * scale - 1e-6)),
        max(1, math.ceil(recipe.canvas.height * scale - 1e-6)),
    )


def shown_region(recipe: Recipe, scale: float) -> Region:
    """What a picture shows: the canvas and its overscan."""
    return canvas_region(recipe, scale).grown(recipe.canvas.overscan_at(scale))


class _Planner:
    def __init__(self, recipe: Recipe, scale: float, media: Media) -> None:
        self.recipe = recipe
        self.scale = scale
        self.media = media
        self.canvas = canvas_region(recipe, scale)
        self.shown = shown_region(recipe, scale)
        self.resolver = Resolver(recipe)
        self.layers = {layer.id: layer for layer in recipe.layers}
        self.made = Made(recipe)
        self.elements = {element.name: element.recipe for element in recipe.elements}
        self._scaled: dict[float, _Planner] = {}
        margin = max(512.0, _MOST_MARGIN * max(recipe.canvas.width, recipe.canvas.height))
        self.most = self.shown.grown(math.ceil(margin * scale)).aligned(_REACH_STEP)

    def at_scale(self, scale: float) -> _Planner:
        """One for pictures of the same recipe at another scale."""
        found = self._scaled.get(scale)
        if found is None:
            found = self._scaled[scale] = _Planner(self.recipe, scale, self.media)
        return found

    def result(self, take: Take) -> Node:
        def finished(each: Take) -> Node:
            return self._stepped(self.resolver.whole(None, each), self.shown)

        node = self.turned(take, finished)
        rule, region = self.recipe.cover, self.shown
        if self.made.result() != "light":
            return _cut(node, region)
        return node_of(
            "cover",
            (rule, region),
            (node,),
            lambda inputs: Tile(with_cover(inputs[0].within(region), rule), region),
        )

    def turned(self, take: Take, make: Callable[[Take], Node]) -> Node:
        """A picture, on the last frames of a loop mixed with that of a loop before."""
        node = make(take)
        share = self.recipe.turned(take.frame)
        if share == 0:
            return node
        before = make(take._replace(back=float(self.recipe.canvas.length)))
        if before.key == node.key:
            return node
        region, shares = self.shown, (1 - share, share)
        return node_of(
            "loop",
            (region, shares),
            (node, before),
            lambda tiles: averaged(tiles, region, shares),
        )

    def layer(self, layer: Layer, take: Take, region: Region) -> Node:
        """A layer's own picture: source, steps and limits, over the time that its shutter is open."""
        if region.empty:
            return nothing(region, self.made.of(layer.id))
        opened = [
            self._limited_layer(self.resolver.whole(layer, self._round(take.within(by))), region)
            for by in layer.shutter.moments()
        ]
        if all(node.key == opened[0].key for node in opened):
            return opened[0]
        return node_of("shutter", (region,), tuple(opened), lambda tiles: averaged(tiles, region))

    def shed(self, layer: Layer, take: Take) -> Node:
        """A layer as much as it shows, whether or not it is on, on the whole canvas."""
        region, share = self.canvas, self.resolver.shed(layer, take)
        return _cut(sum_of([self.layer(layer, take, region)], [share], region), region)

    def own_picture(self, layer: Layer, take: Take) -> Node:
        """A layer by itself, as large as the pictures of the shot."""
        region = self.shown
        return _cut(self.layer(layer, take, region), region)

    def members(self, group: str | None, take: Take, region: Region) -> Node:
        """The layers of a group, or those of none, mixed; heights and offsets are added up. What is
        not of the kind of the whole is there for others to look at."""
        kind = self.made.members(group)
        shown = self._shown(group, take, kind)
        if kind != "light":
            nodes = [self.layer(layer, take, region) for layer, _ in shown]
            shares = [opacity for _, opacity in shown]
            return sum_of(nodes, shares, region) if shown else nothing(region, kind)
        return self._mixed(shown, take, region)

    def _shown(self, group: str | None, take: Take, kind: PictureKind) -> list[Shown]:
        """The layers of a group that show and are of a kind, or bend what is, with their opacities."""
        opacities = (
            (layer, self.resolver.opacity(layer, take))
            for layer in self.recipe.layers
            if layer.within == group
            and (self.made.of(layer.id) == kind or (kind == "light" and bends(layer)))
        )
        return [(layer, opacity) for layer, opacity in opacities if opacity > 0]

    def _mixed(self, shown: list[Shown], take: Take, region: Region) -> Node:
        """Layers mixed from first to last; one that bends does so to all that were mixed before."""
        last = next((i for i in reversed(range(len(shown))) if bends(shown[i][0])), -1)
        nodes, ways = [], []
        if last >= 0:
            layer, opacity = shown[last]
            how, reach = self._bending(layer, opacity, take)
            below = self._mixed(shown[:last], take, self._bounded(region.grown(reach), region))
            offsets = self.layer(layer, take, region)
            nodes.append(
                node_of(
                    "bent",
                    (how, region),
                    (below, offsets),
                    lambda tiles: bent(tiles[0], tiles[1], how, region),
                )
            )
            ways.append(("normal", 1.0, "light"))
        for layer, opacity in shown[last + 1 :]:
            nodes.append(self.layer(layer, take, region))
            ways.append((layer.blend, opacity, layer.blends_in))
        return mix_of(nodes, ways, region)

    def _bending(self, layer: Layer, opacity: float, take: Take) -> tuple[Bending, int]:
        """How a layer bends, and how many px of this scale it reaches."""
        source = self.resolver.source(layer, take)
        assert isinstance(source, Bends)
        seen = Seen(source.spread / 100, source.colours, source.blur / 100, source.edge)
        far = source.most * opacity * self.scale
        reach = math.ceil(far * (1 + seen.spread / 2)) + reach_of(seen.blur * far) + 2
        return Bending(opacity, seen, self.scale, self.canvas), reach

    def plate_bend(self, take: Take) -> PlateBend | None:
        """How the plate is bent by all layers that bend it, by nothing where none of them shows, so that every
        frame of a recipe delivers the same. It is seen as through the one on top."""
        bending = [
            (layer, self.resolver.opacity(layer, take))
            for layer in self.recipe.layers
            if layer.on and layer.within is None and bends(layer)
        ]
        if not bending:
            return None
        hows = [self._bending(*each, take)[0] for each in bending]
        top = next((how for how in reversed(hows) if how.share > 0), hows[-1])
        blur = None
        if any(how.seen.blur for how in hows):
            blur = _cut(self.turned(take, self._plate_blur), self.shown)
        offsets = _cut(self.turned(take, self._plate_offsets), self.shown)
        return PlateBend(offsets, blur, top.seen)

    def _plate_blur(self, take: Take) -> Node:
        """By how many px the plate is blurred, each layer that bends by its share of how far that does."""
        region, own = self.shown, self._plate_layers(take)
        shares = [how.seen.blur for _, how in own]
        nodes = tuple(node for node, _ in own)
        return node_of(
            "blurs", (region, shares), nodes, lambda tiles: blur_of(tiles, shares, region)
        )

    def _plate_layers(self, take: Take) -> list[tuple[Node, Bending]]:
        """The offsets of each layer that bends the plate and shows, from first to last, and how it bends."""
        region = self.shown
        return [
            (
                sum_of([self.layer(layer, take, region)], [opacity], region),
                self._bending(layer, opacity, take)[0],
            )
            for layer, opacity in self._shown(None, take, "light")
            if bends(layer)
        ]

    def _plate_offsets(self, take: Take) -> Node:
        """How far the plate is pushed by all layers that bend it, from first to last."""
        found = nothing(self.shown, "offsets")
        for own, _ in self._plate_layers(take):
            found = self._both(own, found)
        return found

    def _both(self, own: Node, before: Node) -> Node:
        region, scale = self.shown, self.scale
        return node_of(
            "bent twice",
            (region, scale),
            (own, before),
            lambda tiles: bent_after(tiles[0], tiles[1], scale, region),
        )

    def _round(self, take: Take) -> Take:
        """In a loop, a moment before the first frame is one after the last, turned into it."""
        canvas = self.recipe.canvas
        if self.recipe.loop == 0 or take.frame >= canvas.first:
            return take
        turned = take.later(canvas.length)
        shown = turned.shown if take.shown < canvas.first else take.shown
        return turned._replace(shown=shown, back=take.back + canvas.length)

    def _limited_layer(self, known: Resolved, region: Region) -> Node:
        region = self._left_by(known, region)
        if region.empty:
            return nothing(region, self._kind(known))
        node = self._stepped(known, region)
        if not known.limits:
            return node
        matte = self._limits(known, known.limits, region)
        return node_of("limited layer", (region,), (node, matte), lambda tiles: limited(*tiles))

    def _left_by(self, known: Resolved, region: Region) -> Region:
        """What of a region a layer's limits can leave anything on, in steps, so that a limit that moves
        a little leaves what is before as it is."""
        if any(limit.joins == "add" for limit, _ in known.limits):
            return region
        for limit, place in known.limits:
            bounds = limit.bounds(self._at(known, region, place))
            if limit.joins == "intersect" and bounds is not None:
                region = region.meet(bounds.aligned(_REACH_STEP))
        return region

    def _stepped(self, known: Resolved, wanted: Region) -> Node:
        """The picture after the last step of a chain: of a layer, or of the finish."""
        if wanted.empty:
            return nothing(wanted, self._kind(known))
        if not known.chain:
            return self._beginning(known, wanted)
        run = self._run(known, wanted)
        if run:
            before = self._stepped(known._replace(chain=known.chain[: -len(run)]), wanted)
            return node_of("pointwise", run, (before,), lambda tiles: run_over(run, tiles[0]))
        step, place, limits = known.chain[-1]
        at = self._at(known, wanted, place)
        moments = self._moments(step, known)
        needed, around = wanted, None
        if moments is None:
            needed = step.needs(wanted, at)
            if limits:
                needed = needed.around(wanted)  # where it is kept out, what was before shows
            needed = self._bounded(needed, wanted)
            moments = [known]
        if moments == [known]:
            inputs, around = self._around(known, wanted, needed, *step.coarser(at))
        else:
            inputs = [self._before(each, needed) for each in moments]
        others = self._others(step, known.take, needed)
        after = node_of(
            "step",
            (step, at, around),
            (*inputs, *others),
            lambda tiles: applied(step, at, tiles, len(inputs), around),
        )
        if not limits:
            return after
        matte = self._limits(known, limits, wanted)
        before = inputs[0] if moments == [known] else self._before(known, wanted)
        return node_of(
            "limited step", (wanted,), (after, matte, before), lambda tiles: limited(*tiles)
        )

    def _before(self, known: Resolved | None, wanted: Region) -> Node:
        """The picture before the last step; nothing where there is no such moment."""
        return nothing(wanted) if known is None else self._stepped(known.before(), wanted)

    def _around(
        self, known: Resolved, wanted: Region, needed: Region, within: int, times: int
    ) -> tuple[list[Node], Around | None]:
        """The picture before the last step, which far from what is wanted may be so many times coarser:
        where that saves work there is another of that, and where it begins."""
        scale = self.scale / times
        near = wanted.grown(within).aligned(_NEAR_STEP).meet(needed)
        is_wide = needed.width * needed.height > _WIDE * near.width * near.height
        if times == 1 or scale < LEAST_SCALE or not is_wide:
            return [self._before(known, needed)], None
        found = self._before(known, near)
        if not found.fills:
            return [self._before(known, needed)], None
        coarse = Region(*(edge // times for edge in needed.aligned(times)))
        far = self.at_scale(scale)._before(known, coarse)
        return [found, far], Around(near, times)

    def _kind(self, known: Resolved) -> PictureKind:
        if known.layer is None:
            return self.made.result()
        source = known.take.source
        return self.made.of_source(known.layer, source) if source else self.made.of(known.layer.id)

    def _run(self, known: Resolved, wanted: Region) -> tuple[tuple[Pointwise, At], ...]:
        """The unlimited pointwise steps at the end of a chain, which pass over the px together."""
        run: list[tuple[Pointwise, At]] = []
        for step, place, limits in reversed(known.chain):
            if limits or not step.fuses:
                break
            run.insert(0, (cast(Pointwise, step), self._at(known, wanted, place)))
        return tuple(run)

    def _moments(self, step: Step, known: Resolved) -> list[Resolved | None] | None:
        """What a step looks at that looks at other moments: nothing where the layer does not show."""
        take, layer, canvas = known.take, known.layer, self.recipe.canvas
        first, last = (canvas.first, canvas.last) if layer is None else spans(self.recipe, layer)
        frames = step.moments(take.frame, first, last)
        if frames is None:
            return None
        goes_round = self.recipe.loop > 0 and first <= canvas.first and canvas.last <= last
        is_bound = take.life is None and not goes_round
        takes = [take.later(frame - take.frame) for frame in frames]
        chain = len(known.chain)
        return [
            None
            if is_bound and not first <= each.shown <= last
            else self.resolver.whole(layer, self._round(each)).until(chain)
            for each in takes
        ]

    def _limits(self, known: Resolved, limits: Sequence[Limited], wanted: Region) -> Node:
        nodes, ways = [], []
        for limit, place in limits:
            at = self._at(known, wanted, place)
            margin = limit.margin(at)
            around = wanted.grown(margin).aligned(_REACH_STEP) if margin else wanted
            others = self._others(limit, known.take, around)
            nodes.append(
                node_of(
                    "limit",
                    (limit, at),
                    others,
                    lambda tiles, limit=limit, at=at: Tile(limit.draw(at, *tiles), wanted),
                )
            )
            ways.append(limit.joins)
        return node_of(
            "limits",
            tuple(ways),
            tuple(nodes),
            lambda tiles: Tile(joined([tile.pixels for tile in tiles], ways), wanted),
        )

    def _others(self, kind: Kind, take: Take, region: Region) -> tuple[Node, ...]:
        """The pictures of the layers that a kind names, in the order of its settings."""
        plain = Take(take.now, take.now, take.shown, back=take.back)
        found = []
        for setting in kind.settings:
            named = (
                self.layers.get(getattr(kind, setting.name)) if setting.type == "layer" else None
            )
            if named is not None and setting.measured:
                found.append(self.at_scale(_MEASURED_AT).shed(named, plain))
            elif named is not None:
                found.append(self.layer(named, plain, region))
        return tuple(found)

    def _beginning(self, known: Resolved, wanted: Region) -> Node:
        """What the first step is done to: a layer's source, or all layers mixed."""
        if known.source is None:
            return self.members(None, known.take, wanted)
        planned: Node = known.source.planned(_Asked(self, known, wanted))
        return planned

    def _bounded(self, needed: Region, wanted: Region) -> Region:
        """Margins grow in steps, so that a small change of a reach leaves what is before as it is: the wider
        they are, the larger."""
        if needed == wanted:
            return wanted
        reach = max(
            wanted.left - needed.left, wanted.top - needed.top,
            needed.right - wanted.right, needed.bottom - wanted.bottom,
        )  # fmt: skip
        step = next((step for step in _STEPS if 5 * step > reach), _REACH_STEP)
        return needed.aligned(step).meet(self.most)

    def _at(self, known: Resolved, wanted: Region, *place: object) -> At:
        owner = FINISH if known.layer is None else known.layer.id
        seeds = (self.recipe.seed, *known.take.salt, owner, *place)
        return At(wanted, self.scale, seeds, self.canvas)


def _cut(node: Node, region: Region) -> Node:
    """A picture exactly on a region."""
    return node_of("cut", (region,), (node,), lambda tiles: Tile(tiles[0].within(region), region))


class _Asked:
    """Answers a source that asks for the pictures it is made of."""

    def __init__(self, planner: _Planner, known: Resolved, wanted: Region) -> None:
        assert known.layer is not None and known.source is not None
        self._planner = planner
        self._known = known
        self._wanted = wanted
        self._layer = known.layer
        self._source = known.source

    def drawn(self, by: Draws | None = None, *before: Node) -> Node:
        at = self._planner._at(self._known, self._wanted)
        if by is not None:
            return node_of("part", (by, at), before, lambda tiles: by.draw(at, *tiles))._replace(
                fills=self._source.fills
            )
        source = self._source
        node = node_of("source", (source, at), self.others(), lambda tiles: source.draw(at, *tiles))
        return node._replace(fills=source.fills)

    def others(self) -> tuple[Node, ...]:
        return self._planner._others(self._source, self._known.take, self._planner.canvas)

    def state(
        self, by: Leads, *before: Node, lasts: bool = False, frame: float | None = None
    ) -> Node:
        seeds = self._planner._at(self._known, self._wanted).seeds
        nowhere = At(Region(0, 0, 0, 0), 1.0, seeds)
        node = node_of("state", (by, seeds), before, lambda held: by.next(nowhere, *held))
        if frame is None:
            return node._replace(lasts=lasts)
        take = self._known.take
        return node._replace(lasts=lasts, frame=math.floor(frame + take.now - take.frame + 0.5))

    def seen(self, layer: str, frame: float, scale: float, shed: bool = False) -> Node:
        planner = self._planner.at_scale(scale)
        original = planner.layers.get(layer)
        if original is None:
            return nothing(planner.canvas)
        if shed:
            return planner.shed(original, Take.of(frame))
        return planner.layer(original, Take.of(frame), planner.canvas)

    def members(self) -> Node:
        take = self._known.take._replace(life=None, begins=None, source=None)
        return self._planner.members(self._layer.id, take, self._wanted)

    def other(self, layer: str, again: Again) -> Node:
        original = self._planner.layers.get(layer)
        if original is None:
            return nothing(self._wanted)
        take = self._known.take
        life = self._planner.resolver.life(self._layer, take) if take.life is None else take.life
        drawn = Take(
            frame=take.frame + again.ahead,
            now=take.now,
            shown=take.shown + again.ahead,
            salt=(*take.salt, again.seed) if again.seed else take.salt,
            copy=take.copy if again.copy is None else again.copy,
            life=life or 0.0,
            begins=self._layer.first if take.begins is None else take.begins,
            source=with_own(original.source, again.own) if again.own else None,
            back=take.back,
        )
        return self._planner.layer(original, drawn, self._wanted)

    def element(self, name: str) -> _PlacedRecipe | None:
        recipe = self._planner.elements.get(name)
        at = self._planner._at(self._known, self._wanted)
        return None if recipe is None else _PlacedRecipe(name, recipe, at, self._planner.media)

    def plate(self, ahead: float, edge: Edge) -> Node:
        planner, wanted = self._planner, self._wanted
        still = planner.media.plate(math.floor(self._known.take.frame + ahead + 0.5))
        if still is None:
            return nothing(wanted)
        canvas = planner.canvas
        return node_of(
            "plate",
            (still.mark, edge, canvas, wanted),
            (),
            lambda _: still_tile(still, edge, canvas, wanted),
        )

    def clock(self) -> Clock:
        take = self._known.take
        around = self._planner.resolver.around(self._layer, take, "source")
        rate = float(self._planner.recipe.canvas.exact_rate)
        return Clock(take.frame, rate, around.begins + take.back)

    def history(self, names: Sequence[str], frames: Sequence[float]) -> list[tuple[Any, ...]]:
        return self._planner.resolver.history(self._layer, self._known.take, names, frames)

    def as_shown(self) -> Source:
        take = self._known.take
        return self._planner.resolver.source(self._layer, take._replace(frame=take.shown))

    def mixed(self, pictures: Sequence[Node], blend: str) -> Node:
        if self._planner.made.of(self._layer.id) != "light" and pictures:
            return sum_of(pictures, [1.0] * len(pictures), self._wanted)
        return mix_of(pictures, [(blend, 1.0)] * len(pictures), self._wanted)


class _PlacedRecipe:
    """Another recipe's finished pictures, each planned near the size at which it is shown."""

    def __init__(self, name: str, recipe: Recipe, at: At, media: Media) -> None:
        self.frames = recipe.canvas.length
        self.rate = float(recipe.canvas.exact_rate)
        self._name = name
        self._recipe = recipe
        self._at = at
        self._media = media

    def placed(self, how: Placing) -> Node:
        at, recipe = self._at, self._recipe
        shown = at.scale * how.size
        scale = min(MOST_SCALE, max(LEAST_SCALE, 2 ** (math.ceil(2 * math.log2(shown)) / 2)))
        region = shown_region(recipe, scale)
        if region.width * region.height > MOST_PIXELS:
            raise PlanError(f"the element {self._name} would be larger than {MOST_PIXELS} px")
        take = Take.of(recipe.canvas.first + how.frame)
        take = take._replace(salt=(how.seed,) if how.seed else ()).within(how.within)
        whole = _Planner(recipe, scale, self._media).result(take)
        matrix = sized(at.scale, at.scale) @ how.matrix @ sized(1 / scale, 1 / scale)
        return node_of(
            "placed",
            (matrix.tolist(), at.wanted),
            (whole,),
            lambda tiles: placed(tiles[0], matrix, at),
        )
