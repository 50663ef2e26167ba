"""The base classes of sources and steps."""

from __future__ import annotations

import dataclasses
import string
from typing import Any, ClassVar, NamedTuple, dataclass_transform, get_type_hints

from handful.engine.kernels.hash import Key, key_for
from handful.engine.kinds.setting import Setting, read_setting, setting
from handful.engine.picture import Region, Tile


class At(NamedTuple):
    """Where and how large a kind is asked to make its picture.

    `wanted` is in px of the scaled canvas; `scale` turns px of the full-size canvas into those.
    """

    wanted: Region
    scale: float
    seeds: tuple[object, ...]

    def key(self, purpose: str, *more: object) -> Key:
        """The key for random numbers of this layer for a purpose."""
        return key_for(*self.seeds, purpose, *more)


@dataclass_transform(kw_only_default=True, frozen_default=True, field_specifiers=(setting,))
class Kind:
    """A source or a step: its settings as class attributes, and what makes its picture.

    By the time a kind is asked for a picture, every setting is a plain value at that moment.
    """

    name: ClassVar[str]
    family: ClassVar[str]
    says: ClassVar[str]
    settings: ClassVar[tuple[Setting, ...]]

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        if "says" not in cls.__dict__:
            return
        dataclasses.dataclass(frozen=True, kw_only=True)(cls)
        cls.name = cls.__name__.lower()
        hints = get_type_hints(cls)
        cls.settings = tuple(
            read_setting(field.name, hints[field.name], field.metadata)
            for field in dataclasses.fields(cls)  # type: ignore[arg-type]
        )
        said = {field for _, field, _, _ in string.Formatter().parse(cls.says) if field}
        unknown = said - {known.name for known in cls.settings}
        if unknown:
            raise TypeError(
                f"{cls.__name__}.says names no such setting: {', '.join(sorted(unknown))}"
            )


class Source(Kind):
    """What a layer is made from."""

    def draw(self, at: At) -> Tile:
        """The source's picture, on any region that holds all of it that lies in `at.wanted`."""
        raise NotImplementedError


class Step(Kind):
    """Something done to a layer's picture."""

    def reach(self) -> float:
        """How far, in px of the full-size canvas, a px of the result looks around itself."""
        return 0.0

    def apply(self, tile: Tile, at: At) -> Tile:
        """The changed picture. `tile` holds all that `reach` asks for around `at.wanted`."""
        raise NotImplementedError
