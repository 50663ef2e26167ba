"""What a recipe names, told by the declarations: rewritten wherever it stands.

It works on recipes as plain data, as they are written, so that what is not written stays so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple

from handful.engine.kinds import Kind, Setting, limits, sources, steps
from handful.engine.named import NAMED

Data = dict[str, Any]
Names = Mapping[str, str | None]
"""What things are called now, by what they were called before; nothing where they are gone."""

_NONE: Names = {}
_LISTS: Mapping[Any, str] = {kind: what for what, kind in NAMED.items()}


class Renaming(NamedTuple):
    """What things in a recipe are called now, by the recipe's list that they are in, and by how many frames everything
    happens later.

    Where a point or a track is gone, what followed it stands still at `places`, by its name.
    """

    names: Mapping[str, Names] = {}
    places: Mapping[str, tuple[float, float]] = {}
    later: int = 0

    def of(self, what: str) -> Names:
        """The names of what is in one of the recipe's lists."""
        return self.names.get(what, _NONE)


def renamed(recipe: Data, names: Renaming) -> Data:
    """A recipe in which everything that names something names it by what it is called now.

    What is gone is named no longer: a setting names nothing, what followed a place stands still, what
    was like another setting is as it comes. The things themselves keep their names.
    """
    writer = _Writer(recipe, names)
    changed = dict(recipe)
    for field, kind in NAMED.items():
        if field in recipe:
            changed[field] = [writer.settings(each, kind) for each in recipe[field]]
    if "points" in recipe:
        changed["points"] = [
            point | {"at": writer.value(point["at"])} for point in recipe["points"]
        ]
    if "tracks" in recipe:
        changed["tracks"] = [track | {"marks": writer.marks(track)} for track in recipe["tracks"]]
    if "markers" in recipe:
        changed["markers"] = [
            mark | {"frame": max(0, mark["frame"] + names.later)} for mark in recipe["markers"]
        ]
    if "layers" in recipe:
        changed["layers"] = [writer.layer(layer) for layer in recipe["layers"]]
    if "finish" in recipe:
        changed["finish"] = [writer.step(step) for step in recipe["finish"]]
    return changed


def free_name(wish: str, taken: Iterable[str], gap: str) -> str:
    """The name wished for, or with a number behind it if it is taken."""
    known = set(taken)
    name, number = wish, 2
    while name in known:
        name = f"{wish[: 80 - len(gap) - len(str(number))]}{gap}{number}"
        number += 1
    return name


def lookers(recipe: Data, layer_id: str) -> set[str]:
    """The layers whose pictures rest on a layer's, itself among them; a group rests on what is in it."""
    above: dict[str, list[str]] = {}
    for layer in recipe.get("layers", []):
        seen = _Seen()
        renamed({"layers": [layer]}, Renaming({"layers": seen}))
        for below in seen.names - {layer.get("within")}:
            above.setdefault(below, []).append(layer["id"])
        if layer.get("within"):
            above.setdefault(layer["id"], []).append(layer["within"])
    found, waiting = {layer_id}, [layer_id]
    while waiting:
        new = [each for each in above.get(waiting.pop(), []) if each not in found]
        found |= set(new)
        waiting += new
    return found


class _Seen(dict[str, str | None]):
    """Names that stay as they are, and are noted as they are met."""

    def __init__(self) -> None:
        super().__init__()
        self.names: set[str] = set()

    def __contains__(self, name: object) -> bool:
        if isinstance(name, str) and name:
            self.names.add(name)
        return False


class Absent(dict[str, str | None]):
    """All names but some: what is named so is gone."""

    def __init__(self, here: set[str]) -> None:
        super().__init__()
        self.here = here

    def __contains__(self, name: object) -> bool:
        return isinstance(name, str) and name != "" and name not in self.here

    def __getitem__(self, name: str) -> str | None:
        return None


class _Writer:
    def __init__(self, recipe: Data, names: Renaming) -> None:
        self.names = names
        self.kinds = {layer["id"]: layer["source"]["kind"] for layer in recipe.get("layers", [])}
        self.of: dict[str, Callable[[Setting], Names]] = {
            "layer": lambda setting: names.of("layers"),
            "element": lambda setting: names.of("elements"),
            "named": lambda setting: names.of(_LISTS[setting.of]),
        }

    def layer(self, written: Data) -> Data:
        changed = dict(written)
        changed["source"] = self.node(written["source"], sources())
        if "steps" in written:
            changed["steps"] = [self.step(step) for step in written["steps"]]
        if "limits" in written:
            changed["limits"] = [self.node(limit, limits()) for limit in written["limits"]]
        if "opacity" in written:
            opacity = self.value(written["opacity"])
            changed["opacity"] = 100.0 if opacity is None else opacity
        within: str = written.get("within") or ""
        if within in self.names.of("layers"):
            changed["within"] = self.names.of("layers")[within]
        for edge in ("first", "last"):
            if written.get(edge) is not None:
                changed[edge] = written[edge] + self.names.later
        return changed

    def step(self, written: Data) -> Data:
        changed = self.node(written, steps())
        if "limits" in written:
            changed["limits"] = [self.node(limit, limits()) for limit in written["limits"]]
        return changed

    def node(self, written: Data, known: Mapping[str, type[Kind]]) -> Data:
        changed = self.settings(written, known[written["kind"]])
        original = sources().get(self.kinds.get(written.get("of", ""), ""))
        if original is not None and isinstance(written.get("own"), dict):
            changed["own"] = self.settings(written["own"], original)
        return changed

    def settings(self, written: Data, kind: type[Kind]) -> Data:
        """A node, or one of several alike. A setting that is like what is gone is left out."""
        changed = dict(written)
        for setting in kind.settings:
            if setting.name not in written:
                continue
            value = written[setting.name]
            if setting.type in self.of:
                names = self.of[setting.type](setting)
                changed[setting.name] = (names[value] or "") if value in names else value
            elif setting.type == "pieces" and setting.of is not None:
                changed[setting.name] = [self.settings(piece, setting.of) for piece in value]
            elif isinstance(value, dict) and setting.type != "own":
                now = self.value(value)
                if now is None:
                    del changed[setting.name]
                else:
                    changed[setting.name] = now
        return changed

    def value(self, written: Any) -> Any:
        """A value and what it rests on; nothing where it was like a setting that is gone."""
        if not isinstance(written, dict):
            return written
        changed = dict(written)
        if "value" in written:
            below = self.value(written["value"])
            if below is None:
                return None
            changed["value"] = below
        match written.get("moves"):
            case "follow":
                return self._following(changed)
            case "like":
                return self._like(changed)
            case "keys":
                changed["keys"] = [
                    key | {"frame": key["frame"] + self.names.later} for key in written["keys"]
                ]
        return changed

    def marks(self, track: Data) -> list[list[float]]:
        return [[frame + self.names.later, *rest] for frame, *rest in track["marks"]]

    def _following(self, follow: Data) -> Any:
        for field in ("point", "track"):
            names = self.names.of(f"{field}s")
            name: str = follow.get(field) or ""
            if name in names:
                now = names[name]
                if now is not None:
                    return follow | {field: now}
                x, y = self.names.places.get(name, (0.0, 0.0))
                dx, dy = follow.get("offset") or (0.0, 0.0)
                return [round(x + dx, 1), round(y + dy, 1)]
        return follow

    def _like(self, like: Data) -> Any:
        reference = like["setting"]
        layers = self.names.of("layers")
        if reference["layer"] not in layers:
            return like
        now = layers[reference["layer"]]
        return None if now is None else like | {"setting": reference | {"layer": now}}
