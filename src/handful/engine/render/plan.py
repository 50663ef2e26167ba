"""What must be computed for a frame: nodes from the result back to the sources.

Planning resolves moving values, asks each step what it needs of the picture before it so that
nothing ever shows the edge of a layer, and gives each node a key made of all that its picture
depends on.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from handful.engine.kernels.forms.places import sized
from handful.engine.kinds import At, Kind, Pointwise, Timed
from handful.engine.mix import averaged, joined, limited, with_cover
from handful.engine.picture import Region, Tile, clear_tile
from handful.engine.recipe.document import Layer, LimitNode, Recipe, StepNode, spans
from handful.engine.recipe.references import kind_of, with_own
from handful.engine.render.nodes import Node, applied, mix_of, node_of, run_over
from handful.engine.render.resolve import FINISH, Resolver, Take
from handful.engine.sources.copy import Copy
from handful.engine.sources.element import Element
from handful.engine.sources.group import Group
from handful.engine.sources.repeat import Repeat
from handful.engine.steps.place.place import placed

LEAST_SCALE, MOST_SCALE = 1 / 64, 4.0
MOST_PIXELS = 100_000_000
_REACH_STEP = 128

_MOST_MARGIN = 1.6
"""Beyond the edge of the canvas a layer is drawn at most so many times its longer side, or 512 px."""


class PlanError(ValueError):
    """A frame, scale or layer that the recipe does not have."""


def plan(recipe: Recipe, frame: float, scale: float = 1.0, layer: str | None = None) -> Node:
    """The node for the finished frame, or for one layer's own picture, on the scaled canvas.

    Raises `PlanError` for a frame outside the shot, a scale out of range or an unknown layer.
    """
    canvas = recipe.canvas
    if not canvas.first <= frame <= canvas.last:
        raise PlanError(f"frame {frame:g} is not within {canvas.first} to {canvas.last}")
    if not LEAST_SCALE <= scale <= MOST_SCALE:
        raise PlanError(f"scale {scale:g} is not within {LEAST_SCALE:g} to {MOST_SCALE:g}")
    region = shown_region(recipe, scale)
    if region.width * region.height > MOST_PIXELS:
        raise PlanError(f"a picture of {region.width} × {region.height} px is too large")
    planner = _Planner(recipe, scale)
    take = Take.of(frame)
    if layer is None:
        return planner.result(take)
    chosen = planner.layers.get(layer)
    if chosen is None:
        raise PlanError(f"there is no layer {layer!r}")
    return planner.turned(take, lambda each: planner.own_picture(chosen, each))


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


Chain = Sequence[StepNode]


class _Planner:
    def __init__(self, recipe: Recipe, scale: float) -> None:
        self.recipe = recipe
        self.scale = scale
        self.canvas = canvas_region(recipe, scale)
        self.shown = shown_region(recipe, scale)
        self.resolved = Resolver(recipe)
        self.layers = {layer.id: layer for layer in recipe.layers}
        self.elements = {element.name: element.recipe for element in recipe.elements}
        margin = max(512.0, _MOST_MARGIN * max(recipe.canvas.width, recipe.canvas.height))
        self.most = self.shown.grown(math.ceil(margin * scale)).aligned(_REACH_STEP)

    def result(self, take: Take) -> Node:
        chain = [step for step in self.recipe.finish if step.on]
        node = self.turned(take, lambda each: self._stepped(None, each, chain, self.shown))
        rule, region = self.recipe.cover, self.shown
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

    def _round(self, take: Take) -> Take:
        """In a loop, a moment before the first frame is one after the last, turned into it."""
        canvas = self.recipe.canvas
        if self.recipe.loop == 0 or take.frame >= canvas.first:
            return take
        turned = take.later(canvas.length)
        shown = turned.shown if take.shown < canvas.first else take.shown
        return turned._replace(shown=shown, back=take.back + canvas.length)

    def layer(self, layer: Layer, take: Take, region: Region) -> Node:
        """A layer's own picture: source, steps and limits, over the time that its shutter is open."""
        if region.empty:
            return self._nothing(region)
        chain = [step for step in layer.steps if step.on]
        opened = [
            self._limited_layer(layer, self._round(take.within(by)), chain, region)
            for by in layer.shutter.moments()
        ]
        if all(node.key == opened[0].key for node in opened):
            return opened[0]
        return node_of("shutter", (region,), tuple(opened), lambda tiles: averaged(tiles, region))

    def own_picture(self, layer: Layer, take: Take) -> Node:
        """A layer by itself, as large as the pictures of the shot."""
        region = self.shown
        node = self.layer(layer, take, region)
        return node_of(
            "cut", (region,), (node,), lambda inputs: Tile(inputs[0].within(region), region)
        )

    def _limited_layer(self, layer: Layer, take: Take, chain: Chain, region: Region) -> Node:
        node = self._stepped(layer, take, chain, region)
        if not layer.limits:
            return node
        matte = self._limits(layer.limits, layer, take, "limits", region)
        return node_of("limited layer", (region,), (node, matte), lambda tiles: limited(*tiles))

    def _stepped(self, layer: Layer | None, take: Take, chain: Chain, wanted: Region) -> Node:
        """The picture after the last step of a chain: of a layer, or of the finish."""
        if wanted.empty:
            return self._nothing(wanted)
        if not chain:
            return self._beginning(layer, take, wanted)
        run = self._pointwise_run(layer, take, chain, wanted)
        if run:
            before = self._stepped(layer, take, chain[: -len(run)], wanted)
            return node_of("pointwise", run, (before,), lambda tiles: run_over(run, tiles[0]))
        written = chain[-1]
        step = self.resolved.step(written, layer, take)
        at = self._at(wanted, layer, take, written.id)
        if isinstance(step, Timed):
            return self._timed(step, at, layer, take, chain, wanted)
        needed = step.needs(wanted, at)
        if written.limits:
            needed = needed.around(wanted)  # where it is kept out, what was before shows
        needed = self._bounded(needed, wanted)
        before = self._stepped(layer, take, chain[:-1], needed)
        others = self._others(step, take, needed)
        after = node_of(
            "step", (step, at), (before, *others), lambda tiles: applied(step, at, tiles)
        )
        return self._limited_step(written, layer, take, before, after, wanted)

    def _pointwise_run(
        self, layer: Layer | None, take: Take, chain: Chain, wanted: Region
    ) -> tuple[tuple[Pointwise, At], ...]:
        """The unlimited pointwise steps at the end of a chain, which pass over the px together."""
        run: list[tuple[Pointwise, At]] = []
        for written in reversed(chain):
            if written.limits or not issubclass(kind_of(written), Pointwise):
                break
            step: Any = self.resolved.step(written, layer, take)
            run.insert(0, (step, self._at(wanted, layer, take, written.id)))
        return tuple(run)

    def _timed(
        self,
        step: Timed,
        at: At,
        layer: Layer | None,
        take: Take,
        chain: Chain,
        wanted: Region,
    ) -> Node:
        canvas = self.recipe.canvas
        first, last = (canvas.first, canvas.last)
        if layer is not None:
            first, last = spans(self.recipe, layer)
        frames = step.moments(take.frame, first, last)
        goes_round = self.recipe.loop > 0 and first <= canvas.first and canvas.last <= last
        is_bound = take.life is None and not goes_round
        inputs = tuple(
            self._stepped(layer, self._round(each), chain[:-1], wanted)
            if not is_bound or first <= each.shown <= last
            else self._nothing(wanted)
            for each in (take.later(frame - take.frame) for frame in frames)
        )
        after = node_of("timed", (step, at), inputs, lambda tiles: step.merge(tuple(tiles), at))
        written = chain[-1]
        if not written.limits:
            return after
        before = self._stepped(layer, take, chain[:-1], wanted)
        return self._limited_step(written, layer, take, before, after, wanted)

    def _limited_step(
        self,
        written: StepNode,
        layer: Layer | None,
        take: Take,
        before: Node,
        after: Node,
        wanted: Region,
    ) -> Node:
        """The picture before where the step is kept out, and after where it acts."""
        if not written.limits:
            return after
        matte = self._limits(written.limits, layer, take, written.id, wanted)
        return node_of(
            "limited step", (wanted,), (after, matte, before), lambda tiles: limited(*tiles)
        )

    def _limits(
        self,
        written: Sequence[LimitNode],
        layer: Layer | None,
        take: Take,
        place: str,
        wanted: Region,
    ) -> Node:
        nodes, ways = [], []
        for i, each in enumerate(written):
            name = f"{place}/limit {i}"
            limit = self.resolved.limit(each, layer, name, take)
            at = self._at(wanted, layer, take, name)
            others = self._others(limit, take, wanted.grown(limit.margin(at)).aligned(_REACH_STEP))
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
        named = [
            getattr(kind, setting.name) for setting in kind.settings if setting.type == "layer"
        ]
        plain = Take(take.now, take.now, take.shown, back=take.back)
        return tuple(
            self.layer(self.layers[name], plain, region) for name in named if name in self.layers
        )

    def _beginning(self, layer: Layer | None, take: Take, wanted: Region) -> Node:
        """What the first step is done to: a layer's source, or all layers mixed."""
        if layer is None:
            return self._mixed(None, take, wanted)
        source = self.resolved.source(layer, take).settled()
        if isinstance(source, Group):
            return self._mixed(layer.id, take._replace(life=None, source=None), wanted)
        if isinstance(source, Copy):
            return self._copied(layer, source, take, wanted)
        if isinstance(source, Repeat):
            return self._repeated(layer, source, take, wanted)
        if isinstance(source, Element):
            return self._element(layer, source, take, wanted)
        at = self._at(wanted, layer, take)
        others = self._others(source, take, self.canvas)
        return node_of("source", (source, at), others, lambda tiles: source.draw(at, *tiles))

    def _copied(self, layer: Layer, source: Copy, take: Take, wanted: Region) -> Node:
        original = self.layers.get(source.of)
        if original is None:
            return self._nothing(wanted)
        written: Any = take.source or layer.source
        again = Take(
            frame=take.frame + source.ahead,
            now=take.now,
            shown=take.shown + source.ahead,
            salt=(*take.salt, source.seed) if source.seed else take.salt,
            copy=take.copy,
            life=self._life(layer, take),
            back=take.back,
            source=with_own(original.source, written.own) if written.own else None,
        )
        return self.layer(original, again, wanted)

    def _repeated(self, layer: Layer, source: Repeat, take: Take, wanted: Region) -> Node:
        original = self.layers.get(source.of)
        if original is None:
            return self._nothing(wanted)
        nodes = []
        for i in range(len(source.spots) or source.count):
            seed = i * source.seed_step
            placed = None
            if source.spots and source.takes:
                x, y = source.spots[i].at
                placed = original.source.model_copy(update={source.takes: (x, y)})
            again = Take(
                frame=take.frame + i * source.ahead_step,
                now=take.now,
                shown=take.shown + i * source.ahead_step,
                salt=(*take.salt, seed) if seed else take.salt,
                copy=i,
                life=self._life(layer, take),
                back=take.back,
                source=placed,
            )
            nodes.append(self.layer(original, again, wanted))
        return mix_of(nodes, [(source.blend, 1.0)] * len(nodes), wanted)

    def _element(self, layer: Layer, source: Element, take: Take, wanted: Region) -> Node:
        """Another recipe's finished pictures, each planned near the size at which it is shown."""
        recipe = self.elements.get(source.of)
        if recipe is None:
            return self._nothing(wanted)
        shown = self.scale * source.size / 100
        scale = min(MOST_SCALE, max(LEAST_SCALE, 2 ** (math.ceil(2 * math.log2(shown)) / 2)))
        region = shown_region(recipe, scale)
        if region.width * region.height > MOST_PIXELS:
            raise PlanError(f"the element {source.of} would be larger than {MOST_PIXELS} px")
        planner = _Planner(recipe, scale)
        at = self._at(wanted, layer, take)
        first, frames = recipe.canvas.first, recipe.canvas.length
        rate = float(recipe.canvas.exact_rate)
        steady = self.resolved.source(layer, take._replace(frame=take.shown))
        assert isinstance(steady, Element)
        within = (source.time - steady.time) * rate
        nodes = []
        for i in range(source.count):
            into = steady.frame_of(i, frames, rate)
            if into is None:
                continue
            salt = (source.seed + i,) if source.seed else ()
            placed_take = Take.of(first + into)._replace(salt=salt)
            whole = planner.result(placed_take.within(within))
            matrix = sized(self.scale, self.scale) @ source.matrix(i) @ sized(1 / scale, 1 / scale)
            nodes.append(
                node_of(
                    "placed",
                    (matrix.tolist(), wanted),
                    (whole,),
                    lambda tiles, matrix=matrix: placed(tiles[0], matrix, at),
                )
            )
        return mix_of(nodes, [(source.blend, 1.0)] * len(nodes), wanted)

    def _life(self, layer: Layer, take: Take) -> float:
        if take.life is not None:
            return take.life
        return self.resolved.life(layer, take) or 0.0

    def _mixed(self, group: str | None, take: Take, region: Region) -> Node:
        """The layers of a group, or those of none, mixed."""
        members = [layer for layer in self.recipe.layers if layer.within == group]
        opacities = [(layer, self.resolved.opacity(layer, take)) for layer in members]
        shown = [(layer, opacity) for layer, opacity in opacities if opacity > 0]
        nodes = [self.layer(layer, take, region) for layer, _ in shown]
        return mix_of(
            nodes, [(layer.blend, opacity, layer.blends_in) for layer, opacity in shown], region
        )

    def _nothing(self, region: Region) -> Node:
        return node_of("nothing", (region,), (), lambda _: clear_tile(region))

    def _bounded(self, needed: Region, wanted: Region) -> Region:
        """Margins grow in steps, so that a small change of a reach leaves what is before as it is."""
        if needed == wanted:
            return wanted
        return needed.aligned(_REACH_STEP).meet(self.most)

    def _at(self, wanted: Region, layer: Layer | None, take: Take, *place: object) -> At:
        owner = FINISH if layer is None else layer.id
        seeds = (self.recipe.seed, *take.salt, owner, *place)
        return At(wanted, self.scale, seeds, self.canvas)
