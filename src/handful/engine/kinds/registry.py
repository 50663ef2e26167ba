"""The register of sources and steps. A kind is known once its class carries `@register`."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import TypeVar

from handful.engine.kinds.declaration import Kind, Source, Step

_sources: dict[str, type[Source]] = {}
_steps: dict[str, type[Step]] = {}

K = TypeVar("K", bound=Kind)


def register(kind: type[K]) -> type[K]:
    """Class decorator: make a source or a step known under its name."""
    if issubclass(kind, Source):
        known: dict[str, type] = _sources
    elif issubclass(kind, Step):
        known = _steps
    else:
        raise TypeError(f"{kind.__name__} is neither a source nor a step")
    if kind.name in known:
        raise TypeError(f"two kinds are called {kind.name}")
    known[kind.name] = kind
    return kind


@cache
def _load(room: str) -> None:
    package = import_module(f"handful.engine.{room}")
    for module in iter_modules(package.__path__):
        import_module(f"{package.__name__}.{module.name}")


def sources() -> dict[str, type[Source]]:
    """Every source by name; every file in `sources/` is read for it."""
    _load("sources")
    return _sources


def steps() -> dict[str, type[Step]]:
    """Every step by name; every file in `steps/` is read for it."""
    _load("steps")
    return _steps
