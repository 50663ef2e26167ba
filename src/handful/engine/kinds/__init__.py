"""How a source, a step or a limit declares itself, and the register of all that did."""

from handful.engine.kinds.catalogue import catalogue
from handful.engine.kinds.declaration import (
    At,
    Changer,
    Kind,
    Limit,
    Piece,
    Pointwise,
    Source,
    Step,
    Timed,
    changed,
)
from handful.engine.kinds.registry import limits, register, sources, steps
from handful.engine.kinds.setting import (
    ElementName,
    LayerId,
    OwnSettings,
    Setting,
    SettingName,
    clockwise,
    setting,
)

__all__ = [
    "At",
    "Changer",
    "ElementName",
    "Kind",
    "LayerId",
    "Limit",
    "OwnSettings",
    "Piece",
    "Pointwise",
    "Setting",
    "SettingName",
    "Source",
    "Step",
    "Timed",
    "catalogue",
    "changed",
    "clockwise",
    "limits",
    "register",
    "setting",
    "sources",
    "steps",
]
