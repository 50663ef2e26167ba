"""Changes to a recipe that need a rule: what comes with them, and what happens to all that names what
they change. Plain setting of a value needs none.

Each takes a recipe as plain data and gives another, and the id or name of what it made, if anything.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field

from handful.engine.kinds import Setting, Source, Step, sources, steps
from handful.engine.named import NAMED
from handful.engine.recipe.changes.names import (
    Absent,
    Data,
    Renaming,
    free_name,
    lookers,
    renamed,
)
from handful.engine.recipe.document import Canvas
from handful.engine.recipe.made import Made
from handful.engine.recipe.problems import Problem, RecipeError
from handful.engine.recipe.reading import read_recipe
from handful.engine.recipe.upgrading import upgraded

Name = Annotated[str, Field(min_length=1, max_length=80)]
Shared = Literal[("points", "tracks", *NAMED)]  # type: ignore[valid-type]

_MOST_STEM = 70


class Changed(NamedTuple):
    """A recipe after a change, and what was made: a layer's id, a step's, or a name."""

    recipe: Data
    made: str | None = None


class Change(BaseModel):
    """The base of all changes; `does` says which one it is."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    def apply(self, recipe: Data) -> Changed:
        """The changed recipe. Raises `RecipeError` where what it names is not there."""
        raise NotImplementedError


class AddLayer(Change):
    """A layer of a kind at the end, as it comes, its ends on the first two points if there are two."""

    does: Literal["add a layer"]
    kind: Name
    of: str | None = None

    def apply(self, recipe: Data) -> Changed:
        kind = sources().get(self.kind)
        if kind is None:
            raise RecipeError([Problem("kind", f"There is no source called {self.kind!r}.")])
        layer_id, name = _free(recipe, kind.name, kind.name.capitalize())
        source = _begun(kind, recipe, self.of)
        chain = [{"kind": step, "id": step} for step in kind.begins_with]
        layer = {"id": layer_id, "name": name, "source": source, "steps": chain, "blend": "add"}
        return Changed(_with_layers(recipe, [*_layers(recipe), layer]), layer_id)


class AddElement(Change):
    """A layer with another shot's recipe as an element, in the middle of the canvas."""

    does: Literal["place an element"]
    name: Name
    shot: str = Field("", max_length=80)
    revision: int = 0
    recipe: Data

    def apply(self, recipe: Data) -> Changed:
        own = _whole(self.recipe)
        elements = recipe.get("elements", [])
        name = free_name(self.name[:_MOST_STEM], [each["name"] for each in elements], " ")
        layer_id, _ = _free(recipe, "element", name)
        source = {
            "kind": "element", "of": name, "at": _middle(recipe), "pivot": _middle(own),
        }  # fmt: skip
        element = {
            "name": name, "shot": self.shot, "revision": self.revision, "recipe": own,
        }  # fmt: skip
        layer = {"id": layer_id, "name": name, "source": source, "steps": [], "blend": "add"}
        placed = {**recipe, "elements": [*elements, element]}
        return Changed(_with_layers(placed, [*_layers(recipe), layer]), layer_id)


class Duplicate(Change):
    """A copy of a layer right after it, with another seed, so that it does not repeat it; of a group
    with all that is in it."""

    does: Literal["duplicate"]
    layer: Name

    def apply(self, recipe: Data) -> Changed:
        inside = _inside(recipe, self.layer)
        taken = [layer["id"] for layer in _layers(recipe)]
        names: dict[str, str | None] = {}
        for layer in inside:
            names[layer["id"]] = free_name(
                layer["id"], [*taken, *filter(None, names.values())], "-"
            )
        copies = []
        for layer in renamed({"layers": inside}, Renaming({"layers": names}))["layers"]:
            copy = layer | {"id": names[layer["id"]], "source": _reseeded(layer["source"])}
            if layer["id"] == self.layer:
                _, copy["name"] = _free(recipe, layer["id"], layer["name"])
            copies.append(copy)
        copies[0]["within"] = inside[0].get("within")
        if copies[0]["within"] is None:
            del copies[0]["within"]
        at = _place(recipe, inside[-1]["id"]) + 1
        layers = _layers(recipe)
        return Changed(_with_layers(recipe, [*layers[:at], *copies, *layers[at:]]), copies[0]["id"])


class Link(Change):
    """A layer that shows another one again, right after it, linked and with another seed."""

    does: Literal["link"]
    layer: Name

    def apply(self, recipe: Data) -> Changed:
        return _made_from(recipe, self.layer, "Copy", {"kind": "copy", "of": self.layer})


class Repeat(Change):
    """A layer that shows another one several times, which is off by itself from then on."""

    does: Literal["repeat"]
    layer: Name

    def apply(self, recipe: Data) -> Changed:
        source = {"kind": "repeat", "of": self.layer, "count": 3}
        return _made_from(recipe, self.layer, "Repeat", source, on=False)


class RemoveLayer(Change):
    """Without a layer: what named it names none, and what belonged to it as a group stands alone."""

    does: Literal["remove a layer"]
    layer: Name

    def apply(self, recipe: Data) -> Changed:
        _place(recipe, self.layer)
        left = [layer for layer in _layers(recipe) if layer["id"] != self.layer]
        return Changed(
            renamed(_with_layers(recipe, left), Renaming({"layers": {self.layer: None}}))
        )


class Group(Change):
    """Layers put into a group of their own, where the first of them stood."""

    does: Literal["group"]
    layers: list[Name] = Field(min_length=1, max_length=100)

    def apply(self, recipe: Data) -> Changed:
        places = sorted(_place(recipe, layer) for layer in set(self.layers))
        known = _layers(recipe)
        group_id, name = _free(recipe, "group", "Group")
        within = known[places[0]].get("within")
        group = {"id": group_id, "name": name, "source": {"kind": "group"}, "steps": []}
        if within is not None:
            group["within"] = within
        members = [known[place] | {"within": group_id} for place in places]
        before = [layer for i, layer in enumerate(known) if i < places[0]]
        after = [layer for i, layer in enumerate(known) if i > places[0] and i not in places]
        return Changed(_with_layers(recipe, [*before, group, *members, *after]), group_id)


class Merge(Change):
    """Another recipe's layers in a group of their own at the end, with all that they name, beginning
    with this shot."""

    does: Literal["merge"]
    recipe: Data

    def apply(self, recipe: Data) -> Changed:
        other = _whole(self.recipe)
        ids = [layer["id"] for layer in _layers(recipe)]
        group_id, name = _free(recipe, "group", other["name"])
        layers = _apart([each["id"] for each in _layers(other)], [*ids, group_id], "-")
        names = {
            field: _apart(_named(other, field), _named(recipe, field), " ")
            for field in ("points", "tracks", *NAMED, "elements")
        }
        later = _canvas(recipe)["first"] - _canvas(other)["first"]
        renaming = Renaming({"layers": layers, **names}, later=later)
        moved = renamed(other, renaming)
        group = {
            "id": group_id, "name": name, "source": {"kind": "group"},
            "steps": moved.get("finish", []), "blend": "add",
        }  # fmt: skip
        members = [
            layer | {"id": layers[layer["id"]], "within": layer.get("within") or group_id}
            for layer in _layers(moved)
        ]
        whole = _with_layers(recipe, [*_layers(recipe), group, *members])
        for field, new in names.items():
            if moved.get(field):
                come = [each | {"name": new[each["name"]]} for each in moved[field]]
                whole[field] = [*recipe.get(field, []), *come]
        return Changed(whole, group_id)


class ReturnWithLoop(Change):
    """What boils in a layer's source is after one round of the shot what it was, to the bit: it returns
    after a whole number of cycles, as near as can be to its pace."""

    does: Literal["return with the loop"]
    layer: Name

    def apply(self, recipe: Data) -> Changed:
        at = _place(recipe, self.layer)
        layers = _layers(recipe)
        canvas = Canvas.model_validate(recipe.get("canvas", {}))
        seconds = canvas.length / float(canvas.exact_rate)
        source = dict(layers[at]["source"])
        for setting in sources()[source["kind"]].settings:
            if not setting.returns:
                continue
            now = source.get(setting.name, setting.default)
            moving = now if isinstance(now, dict) and now.get("moves") == "rate" else {}
            pace = moving.get("per_second", 1.0)
            cycles = max(1, round(abs(pace) * seconds))
            source[setting.returns] = cycles
            source[setting.name] = {
                "moves": "rate", "start": 0, **moving,
                "per_second": math.copysign(cycles / seconds, pace),
            }  # fmt: skip
        changed = [*layers[:at], layers[at] | {"source": source}, *layers[at + 1 :]]
        return Changed(_with_layers(recipe, changed), self.layer)


class AddStep(Change):
    """A step at the end of a layer's, or of the finish: as it comes, or with settings taken along."""

    does: Literal["add a step"]
    layer: str | None = None
    kind: Name
    settings: Data | None = None

    def apply(self, recipe: Data) -> Changed:
        kind = steps().get(self.kind)
        if kind is None:
            raise RecipeError([Problem("kind", f"There is no step called {self.kind!r}.")])
        others = _free_to_look(recipe, self.layer)
        looks = {
            setting.name: fitting[0]
            for setting in kind.settings
            if setting.type == "layer" and (fitting := _fitting(recipe, setting, others))
        }
        settings = {**kind.example, **looks} if self.settings is None else self.settings
        chain = _chain(recipe, self.layer)
        step_id = free_name(self.kind, [step["id"] for step in chain], "-")
        step = {"kind": self.kind, "id": step_id, **_at_home(recipe, settings, kind, others)}
        return Changed(_with_chain(recipe, self.layer, [*chain, step]), step_id)


class AddPoint(Change):
    """Another point, standing still at a place."""

    does: Literal["add a point"]
    at: tuple[float, float]

    def apply(self, recipe: Data) -> Changed:
        return _shared(recipe, "points", "point", at=[round(part, 1) for part in self.at])


class AddNamed(Change):
    """Another of what layers share by name, as it comes."""

    does: Literal["add by name"]
    what: Literal[tuple(NAMED)]  # type: ignore[valid-type]

    def apply(self, recipe: Data) -> Changed:
        return _shared(recipe, self.what, NAMED[self.what].name)


class Rename(Change):
    """Another name for what has one, wherever it is named."""

    does: Literal["rename"]
    what: Shared
    name: Name
    to: Name

    def apply(self, recipe: Data) -> Changed:
        _known(recipe, self.what, self.name)
        name = free_name(self.to, set(_named(recipe, self.what)) - {self.name}, " ")
        changed = renamed(recipe, Renaming({self.what: {self.name: name}}))
        changed[self.what] = [
            each | {"name": name} if each["name"] == self.name else each
            for each in changed[self.what]
        ]
        return Changed(changed, name)


class Remove(Change):
    """Without a thing that has a name: what followed it stays where it was at a frame."""

    does: Literal["remove"]
    what: Shared
    name: Name
    place: tuple[float, float] = (0.0, 0.0)

    def apply(self, recipe: Data) -> Changed:
        _known(recipe, self.what, self.name)
        left = [each for each in recipe[self.what] if each["name"] != self.name]
        gone = Renaming({self.what: {self.name: None}}, {self.name: self.place})
        return Changed(renamed({**recipe, self.what: left}, gone))


class Retime(Change):
    """Everything so many frames later, the shot's own frames with it."""

    does: Literal["retime"]
    later: int = Field(ge=-9_000_000, le=9_000_000)

    def apply(self, recipe: Data) -> Changed:
        canvas = _canvas(recipe)
        moved = {edge: canvas[edge] + self.later for edge in ("first", "last")}
        changed = renamed(recipe, Renaming(later=self.later))
        return Changed({**changed, "canvas": {**recipe.get("canvas", {}), **moved}})


AnyChange = Annotated[
    AddLayer
    | AddElement
    | Duplicate
    | Link
    | Repeat
    | RemoveLayer
    | Group
    | Merge
    | ReturnWithLoop
    | AddStep
    | AddPoint
    | AddNamed
    | Rename
    | Remove
    | Retime,
    Field(discriminator="does"),
]


def _layers(recipe: Data) -> list[Data]:
    layers: list[Data] = recipe.get("layers", [])
    return layers


def _with_layers(recipe: Data, layers: list[Data]) -> Data:
    return {**recipe, "layers": layers}


def _place(recipe: Data, layer_id: str) -> int:
    for i, layer in enumerate(_layers(recipe)):
        if layer["id"] == layer_id:
            return i
    raise RecipeError([Problem("layer", f"There is no layer {layer_id!r}.")])


def _inside(recipe: Data, layer_id: str) -> list[Data]:
    """A layer, and all that belongs to it, in the order of the recipe."""
    known = {layer_id}
    _place(recipe, layer_id)
    for _ in _layers(recipe):
        known |= {layer["id"] for layer in _layers(recipe) if layer.get("within") in known}
    return [layer for layer in _layers(recipe) if layer["id"] in known]


def _free(recipe: Data, layer_id: str, name: str) -> tuple[str, str]:
    layers = _layers(recipe)
    return (
        free_name(layer_id, [layer["id"] for layer in layers], "-"),
        free_name(name[:_MOST_STEM], [layer["name"] for layer in layers], " "),
    )


def _named(recipe: Data, field: str) -> list[str]:
    return [each["name"] for each in recipe.get(field, [])]


def _shared(recipe: Data, field: Shared, stem: str, **settings: Any) -> Changed:
    """With another one of what a recipe shares by name."""
    name = free_name(stem, _named(recipe, field), " ")
    return Changed({**recipe, field: [*recipe.get(field, []), {"name": name, **settings}]}, name)


def _known(recipe: Data, field: str, name: str) -> None:
    if name not in _named(recipe, field):
        one = field.removesuffix("s")
        raise RecipeError([Problem("name", f"There is no {one} called {name!r}.")])


def _apart(names: list[str], taken: list[str], gap: str) -> dict[str, str | None]:
    """A free name for each of some."""
    found: dict[str, str | None] = {}
    for name in names:
        found[name] = free_name(name, [*taken, *filter(None, found.values())], gap)
    return found


def _whole(recipe: Data) -> Data:
    """Another recipe that is to come in, if it can be read."""
    read_recipe(recipe)
    return upgraded(recipe)


def _canvas(recipe: Data) -> Data:
    return {**Canvas().model_dump(), **recipe.get("canvas", {})}


def _middle(recipe: Data) -> list[float]:
    canvas = _canvas(recipe)
    return [canvas["width"] / 2, canvas["height"] / 2]


def _begun(kind: type[Source], recipe: Data, of: str | None) -> Data:
    """A source as it comes, with a seed of its own, made from a layer if it is, and its ends on points."""
    source: Data = {"kind": kind.name}
    known = {setting.name: setting for setting in kind.settings}
    if "seed" in known:
        source["seed"] = len(_layers(recipe)) + 1
    if of and "of" in known and known["of"].type == "layer":
        source["of"] = of
    for end, point in zip(("start", "end"), _named(recipe, "points"), strict=False):
        if end in known:
            source[end] = {"moves": "follow", "point": point}
    return source


def _reseeded(source: Data) -> Data:
    known = {setting.name: setting for setting in sources()[source["kind"]].settings}
    if "seed" not in known:
        return source
    return source | {"seed": source.get("seed", known["seed"].default) + 1}


def _made_from(recipe: Data, layer_id: str, verb: str, source: Data, on: bool = True) -> Changed:
    """A layer made from another one, right after it, that mixes and lives as it does."""
    at = _place(recipe, layer_id)
    layers = _layers(recipe)
    original = layers[at]
    made_id, name = _free(recipe, source["kind"], f"{verb} of {original['name']}")
    alike = ("blend", "blends_in", "opacity", "life", "first", "last", "within")
    shared = {field: original[field] for field in alike if field in original}
    made = {"id": made_id, "name": name, "source": source, "steps": [], **shared}
    kept = original if on else original | {"on": False}
    return Changed(_with_layers(recipe, [*layers[:at], kept, made, *layers[at + 1 :]]), made_id)


def _chain(recipe: Data, layer: str | None) -> list[Data]:
    chain: list[Data] = (
        recipe.get("finish", [])
        if layer is None
        else _layers(recipe)[_place(recipe, layer)].get("steps", [])
    )
    return chain


def _with_chain(recipe: Data, layer: str | None, chain: list[Data]) -> Data:
    if layer is None:
        return {**recipe, "finish": chain}
    layers = [each | {"steps": chain} if each["id"] == layer else each for each in _layers(recipe)]
    return _with_layers(recipe, layers)


def _free_to_look(recipe: Data, layer: str | None) -> list[str]:
    """The layers that one may look at: those that do not look at it."""
    ids = [each["id"] for each in _layers(recipe)]
    looking = set() if layer is None else lookers(recipe, layer)
    return [each for each in ids if each not in looking]


def _fitting(recipe: Data, setting: Setting, layers: list[str]) -> list[str]:
    """Those of some layers whose pictures a setting takes; all where that cannot be told."""
    try:
        made = Made(read_recipe(recipe))
    except RecipeError:
        return layers
    return [layer for layer in layers if made.of(layer) in setting.takes]


def _at_home(recipe: Data, settings: Data, kind: type[Step], others: list[str]) -> Data:
    """Settings that were taken along, naming only what there is here and may be looked at."""
    known = {field: Absent(set(_named(recipe, field))) for field in ("points", "tracks", *NAMED)}
    gone = Renaming({"layers": Absent(set(others)), **known})
    [step] = renamed({"finish": [{"kind": kind.name, **settings}], "layers": []}, gone)["finish"]
    return {name: value for name, value in step.items() if name not in ("kind", "id")}
