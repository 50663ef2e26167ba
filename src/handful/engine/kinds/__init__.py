"""How a source, a step or a limit declares itself, and the register of all that did."""

from handful.engine.kinds.declaration import (
    At,
    Changer,
    Kind,
    Limit,
    Others,
    Piece,
    Pointwise,
    Source,
    Step,
    Timed,
    changed,
)
from handful.engine.kinds.memory import State, Stateful
from handful.engine.kinds.planning import Again, Clock, Draws, Leads, Placing, Planned, Planning
from handful.engine.kinds.registry import further_modules, limits, register, sources, steps
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
    "Again",
    "At",
    "Changer",
    "Clock",
    "Draws",
    "ElementName",
    "Kind",
    "LayerId",
    "Leads",
    "Limit",
    "Others",
    "OwnSettings",
    "Piece",
    "Placing",
    "Planned",
    "Planning",
    "Pointwise",
    "Setting",
    "SettingName",
    "Source",
    "State",
    "Stateful",
    "Step",
    "Timed",
    "changed",
    "clockwise",
    "further_modules",
    "limits",
    "register",
    "setting",
    "sources",
    "steps",
]
