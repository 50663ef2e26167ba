"""How a source or a step declares itself, and the register of all that did."""

from handful.engine.kinds.catalogue import catalogue
from handful.engine.kinds.declaration import At, Kind, Source, Step
from handful.engine.kinds.registry import register, sources, steps
from handful.engine.kinds.setting import Setting, setting

__all__ = [
    "At",
    "Kind",
    "Setting",
    "Source",
    "Step",
    "catalogue",
    "register",
    "setting",
    "sources",
    "steps",
]
