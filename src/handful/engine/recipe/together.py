"""Two recipes that began as one, brought together: what either has changed is changed.

They are told apart by what they both began as. What has an id or a name is the same thing wherever it stands;
a value is what one sets at once, as a number, a colour, or a way of moving with all its keys.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from handful.engine.named import NAMED
from handful.engine.recipe.changes.names import Data, Names, Renaming, free_name, renamed
from handful.engine.recipe.reading import read_recipe
from handful.engine.recipe.upgrading import upgraded

SHARED = ("layers", "points", "tracks", *NAMED, "elements")
"""What a recipe has under an id or a name that other parts of it name."""

_GAPS: Mapping[str, str] = {"id": "-", "name": " "}


class Together(NamedTuple):
    """A recipe with the changes of both, and where these met: paths in it of values that both have set, where
    mine holds, and of what one has taken away and the other changed, which is kept."""

    recipe: Data
    both: list[str]
    kept: list[str]


def brought_together(base: Data, mine: Data, theirs: Data) -> Together:
    """What two recipes have become, in one, by what both began as; where both have set the same, mine holds.

    What both have added under one name is there twice, mine under another; what names something that either has
    taken away names it no longer. Raises `RecipeError` where one of the three is so written that it cannot be
    gone through.
    """
    try:
        return _by_parts(*(upgraded(recipe) for recipe in (base, mine, theirs)))
    except (KeyError, TypeError, ValueError, AttributeError):
        for recipe in (base, mine, theirs):
            read_recipe(recipe)
        raise


def _by_parts(base: Data, mine: Data, theirs: Data) -> Together:
    bringing = _Bringing()
    mine = _under_free_names(base, mine, theirs)
    recipe = bringing.value("", base, mine, theirs)
    places = {
        point["name"]: tuple(point["at"])
        for point in base.get("points", [])
        if isinstance(point["at"], list)
    }
    gone = {field: _gone(base, recipe, field) for field in SHARED}
    return Together(renamed(recipe, Renaming(gone, places)), bringing.both, bringing.kept)


class _Absent:
    """Stands where nothing is written."""


_ABSENT = _Absent()


class _Bringing:
    """Goes through three recipes at once, and notes where two of them have changed the same."""

    def __init__(self) -> None:
        self.both: list[str] = []
        self.kept: list[str] = []

    def value(self, path: str, base: Any, mine: Any, theirs: Any) -> Any:
        """What a value becomes: by its parts, where it has any in all three."""
        if mine == theirs or theirs == base:
            return mine
        if mine == base:
            return theirs
        if base is _ABSENT and type(mine) is type(theirs) and isinstance(mine, (dict, list)):
            base = type(mine)()
        if all(_has_parts(each) for each in (base, mine, theirs)) and _are_alike(mine, theirs):
            return self._parts(path, base, mine, theirs)
        if all(isinstance(each, list) for each in (base, mine, theirs)):
            key = _key_of(base, mine, theirs)
            if key:
                return self._things(path, key, base, mine, theirs)
            if len(base) == len(mine) == len(theirs) and all(map(_has_parts, base)):
                rows = zip(base, mine, theirs, strict=True)
                return [self.value(f"{path}[{i}]", *row) for i, row in enumerate(rows)]
        self.both.append(path)
        return mine

    def _parts(self, path: str, base: Data, mine: Data, theirs: Data) -> Data:
        made = {}
        for name in [*theirs, *(name for name in mine if name not in theirs)]:
            parts = (each.get(name, _ABSENT) for each in (base, mine, theirs))
            part = self.value(f"{path}.{name}" if path else name, *parts)
            if part is not _ABSENT:
                made[name] = part
        return made

    def _things(
        self, path: str, key: str, base: list[Data], mine: list[Data], theirs: list[Data]
    ) -> list[Data]:
        """Things by their ids or names, in the order of whoever has put them into another."""
        known, here, there = (
            {thing[key]: thing for thing in things} for things in (base, mine, theirs)
        )
        order = _order(list(known), list(here), list(there))
        stay = [name for name in order if self._stays(name, known, here, there)]
        return [
            self._thing(f"{path}[{i}]", known.get(name), here.get(name), there.get(name))
            for i, name in enumerate(stay)
        ]

    def _stays(self, name: str, known: Data, here: Data, there: Data) -> bool:
        """Whether nobody has taken it away, or somebody has changed it."""
        if name not in known or (name in here and name in there):
            return True
        left: Data | None = here.get(name) or there.get(name)
        return left is not None and left != known[name]

    def _thing(self, path: str, base: Data | None, mine: Data | None, theirs: Data | None) -> Data:
        if mine is not None and theirs is not None:
            made: Data = self.value(path, base or {}, mine, theirs)
            return made
        if base is not None:
            self.kept.append(path)
        left = mine or theirs
        assert left is not None, "it stays, so somebody has it"
        return left


def _has_parts(value: Any) -> bool:
    """Whether a value is made of parts that one sets one by one."""
    return isinstance(value, dict) and "moves" not in value


def _are_alike(mine: Data, theirs: Data) -> bool:
    """Whether two nodes are of one kind, so that the settings of one mean something to the other."""
    return bool(mine.get("kind") == theirs.get("kind"))


def _key_of(*lists: list[Any]) -> str | None:
    """By what the things of lists are told apart: their ids, or their names, or by nothing."""
    things = [thing for each in lists for thing in each]
    for key in _GAPS:
        if all(isinstance(thing, dict) and key in thing for thing in things) and all(
            len({thing[key] for thing in each}) == len(each) for each in lists
        ):
            return key
    return None


def _order(base: list[str], mine: list[str], theirs: list[str]) -> list[str]:
    """All names of two lists: in the order of mine where I have changed it, else of theirs; what only the other
    has comes after what it comes after there."""
    common = [name for name in base if name in mine]
    is_moved = common != [name for name in mine if name in base]
    order, other = (mine, theirs) if is_moved else (theirs, mine)
    made = list(order)
    for i, name in enumerate(other):
        if name not in made:
            before = next((each for each in reversed(other[:i]) if each in made), None)
            made.insert(0 if before is None else made.index(before) + 1, name)
    return made


def _under_free_names(base: Data, mine: Data, theirs: Data) -> Data:
    """Mine, with another name for what theirs has added under the same."""
    names = {
        field: _apart(*(each.get(field, []) for each in (base, mine, theirs))) for field in SHARED
    }
    made = renamed(mine, Renaming(names))
    for field, anew in names.items():
        if anew:
            made[field] = [_called(thing, _key(thing), anew) for thing in made[field]]
    for i, layer in enumerate(made.get("layers", [])):
        others = [_steps_of(each, layer["id"]) for each in (base, theirs)]
        anew = _apart(others[0], layer.get("steps", []), others[1])
        if anew:
            made = _liking(made, layer["id"], anew)
            made["layers"][i]["steps"] = [_called(step, "id", anew) for step in layer["steps"]]
    anew = _apart(*(each.get("finish", []) for each in (base, mine, theirs)))
    if anew:
        made["finish"] = [_called(step, "id", anew) for step in made["finish"]]
    return made


def _apart(base: list[Data], mine: list[Data], theirs: list[Data]) -> Names:
    """Free names for what both have added, and not the same."""
    known, here, there = (
        {each[_key(each)]: each for each in things} for things in (base, mine, theirs)
    )
    taken = {*known, *here, *there}
    found: dict[str, str | None] = {}
    for name, thing in here.items():
        if name in there and name not in known and there[name] != thing:
            found[name] = free_name(name, taken, _GAPS[_key(thing)])
            taken.add(str(found[name]))
    return found


def _liking(written: Any, layer: str, steps: Names) -> Any:
    """What is written, where what is like a setting of a layer's step names that step as it is called now."""
    if isinstance(written, list):
        return [_liking(part, layer, steps) for part in written]
    if not isinstance(written, dict):
        return written
    made = {name: _liking(part, layer, steps) for name, part in written.items()}
    setting = made.get("setting") if made.get("moves") == "like" else None
    if isinstance(setting, dict) and setting["layer"] == layer and setting.get("of") in steps:
        made["setting"] = setting | {"of": steps[setting["of"]]}
    return made


def _called(thing: Data, key: str, names: Names) -> Data:
    return thing | {key: names.get(thing[key], thing[key])}


def _key(thing: Data) -> str:
    return "id" if "id" in thing else "name"


def _steps_of(recipe: Data, layer_id: str) -> list[Data]:
    found = [layer for layer in recipe.get("layers", []) if layer["id"] == layer_id]
    steps: list[Data] = found[0].get("steps", []) if found else []
    return steps


def _gone(base: Data, recipe: Data, field: str) -> Names:
    """What there was, and is no longer."""
    left = {each[_key(each)] for each in recipe.get(field, [])}
    return {name: None for each in base.get(field, []) if (name := each[_key(each)]) not in left}
