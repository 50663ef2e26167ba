"""The register of sources, steps and limits. A kind is known once its class carries `@register`.

A studio's own kinds are in modules of its own, which `HANDFUL_KINDS` names, with spaces between.
"""

from __future__ import annotations

import os
from functools import cache
from importlib import import_module
from pkgutil import walk_packages
from typing import Any, TypeVar

from handful.engine.kinds.declaration import Kind, Limit, Source, Step

_sources: dict[str, type[Source]] = {}
_steps: dict[str, type[Step]] = {}
_limits: dict[str, type[Limit]] = {}

_REGISTERS: dict[type[Kind], dict[str, Any]] = {Source: _sources, Step: _steps, Limit: _limits}

K = TypeVar("K", bound=Kind)


def register(kind: type[K]) -> type[K]:
    """Class decorator: make a source, a step or a limit known under its name."""
    known = next((names for base, names in _REGISTERS.items() if issubclass(kind, base)), None)
    if known is None:
        raise TypeError(f"{kind.__name__} is neither a source nor a step nor a limit")
    if kind.name in known:
        raise TypeError(f"two kinds are called {kind.name}")
    known[kind.name] = kind
    return kind


def further_modules() -> list[str]:
    """The names of the modules with kinds that the program does not ship."""
    return os.environ.get("HANDFUL_KINDS", "").split()


@cache
def _load(room: str) -> None:
    package = import_module(f"handful.engine.{room}")
    for module in walk_packages(package.__path__, f"{package.__name__}."):
        import_module(module.name)
    for name in further_modules():
        import_module(name)


def sources() -> dict[str, type[Source]]:
    """Every source by name; every file in `sources/` is read for it."""
    _load("sources")
    return _sources


def steps() -> dict[str, type[Step]]:
    """Every step by name; every file in `steps/` and its families is read for it."""
    _load("steps")
    return _steps


def limits() -> dict[str, type[Limit]]:
    """Every limit by name; every file in `limits/` is read for it."""
    _load("limits")
    return _limits
