"""Pictures that are wanted of recipes: which lies at which address, and for whom."""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from typing import NamedTuple

from handful.engine.files import PlateFiles, StillFile
from handful.engine.recipe import Recipe
from handful.engine.render import NO_MEDIA, PlateBend, plan, plan_bend
from handful.engine.render.nodes import Node
from handful.engine.render.view import View

MOST_RECIPES = 400
"""Of so many recipes pictures are placed at one time: each takes some tens of kilobytes, and a hand that drags asks for
ten a second."""

MOST_PLACED = 20_000


class Wanted(NamedTuple):
    """One picture of a recipe: a frame at a scale, the result or one layer's, and how to look at it.

    `plate` is the shot's, if there is one.
    """

    frame: int
    scale: float
    layer: str | None
    view: View
    plate: PlateFiles | None

    @property
    def behind(self) -> StillFile | None:
        """The still that lies behind it, if one does."""
        if self.plate is None or self.view.background != "plate" or self.view.channel != "picture":
            return None
        return self.plate.plate(self.frame)

    def planned(self, recipe: Recipe) -> Planned:
        """What is to be computed for it; the still behind it is bent if the picture is of all layers."""
        media = self.plate or NO_MEDIA
        bend = None
        if self.behind is not None and self.layer is None:
            bend = plan_bend(recipe, self.frame, self.scale, media)
        return Planned(plan(recipe, self.frame, self.scale, self.layer, media), bend)


class Planned(NamedTuple):
    """The picture, and how the still behind it is bent, if it is."""

    picture: Node
    bend: PlateBend | None

    def nodes(self) -> list[Node]:
        """All that is to be computed for it."""
        bend = self.bend
        return [
            self.picture,
            *([bend.offsets] if bend else []),
            *([bend.blur] if bend and bend.blur else []),
        ]


class Placed(NamedTuple):
    """A picture of a recipe."""

    recipe: Recipe
    wanted: Wanted


Key = tuple[str, str]
"""A person, and an address."""


class Placings:
    """Those that were placed last. Of a recipe all go at once, of the bench that has most recipes the oldest: one who still
    wants one of them places it again."""

    def __init__(self) -> None:
        self._placed: dict[Key, tuple[str, Placed]] = {}
        self._of: defaultdict[str, OrderedDict[int, set[Key]]] = defaultdict(OrderedDict)

    def __len__(self) -> int:
        return len(self._placed)

    def get(self, key: Key) -> Placed | None:
        """What somebody has placed at an address, if that is still known."""
        found = self._placed.get(key)
        return found and found[1]

    def put(self, bench: str, key: Key, placed: Placed) -> None:
        """Place a picture for a bench."""
        self._take(key)
        self._placed[key] = bench, placed
        own = self._of[bench]
        own.setdefault(id(placed.recipe), set()).add(key)
        own.move_to_end(id(placed.recipe))
        while self._are_too_many():
            self._drop_one(id(placed.recipe))

    def _take(self, key: Key) -> None:
        """Place it no longer, if it was."""
        before = self._placed.pop(key, None)
        if before is None:
            return
        bench, placed = before
        keys = self._of[bench][id(placed.recipe)]
        keys.discard(key)
        if not keys:
            del self._of[bench][id(placed.recipe)]
        if not self._of[bench]:
            del self._of[bench]

    def _are_too_many(self) -> bool:
        recipes = sum(map(len, self._of.values()))
        return recipes > MOST_RECIPES or (len(self._placed) > MOST_PLACED and recipes > 1)

    def _drop_one(self, placing: int) -> None:
        """A recipe, but not the one that is being placed."""
        others = [bench for bench, own in self._of.items() if len(own) > 1 or placing not in own]
        most = max(others, key=lambda bench: len(self._of[bench]))
        for each in list(next(iter(self._of[most].values()))):
            self._take(each)
