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
    """Those that were placed last. Of a recipe all go at once, of whoever has most recipes the oldest: one who still wants
    one of them places it again."""

    def __init__(self) -> None:
        self._placed: dict[Key, Placed] = {}
        self._of: defaultdict[str, OrderedDict[int, set[Key]]] = defaultdict(OrderedDict)

    def __len__(self) -> int:
        return len(self._placed)

    def get(self, key: Key) -> Placed | None:
        """What somebody has placed at an address, if that is still known."""
        return self._placed.get(key)

    def put(self, key: Key, placed: Placed) -> None:
        """Place a picture."""
        own = self._of[key[0]]
        before = self._placed.pop(key, None)
        if before is not None:
            keys = own[id(before.recipe)]
            keys.discard(key)
            if not keys:
                del own[id(before.recipe)]
        self._placed[key] = placed
        own.setdefault(id(placed.recipe), set()).add(key)
        own.move_to_end(id(placed.recipe))
        while self._are_too_many():
            self._drop_one(id(placed.recipe))

    def _are_too_many(self) -> bool:
        recipes = sum(map(len, self._of.values()))
        return recipes > MOST_RECIPES or (len(self._placed) > MOST_PLACED and recipes > 1)

    def _drop_one(self, placing: int) -> None:
        """A recipe, but not the one that is being placed."""
        others = [person for person, own in self._of.items() if len(own) > 1 or placing not in own]
        most = max(others, key=lambda person: len(self._of[person]))
        _, keys = self._of[most].popitem(last=False)
        for each in keys:
            del self._placed[each]
        if not self._of[most]:
            del self._of[most]
