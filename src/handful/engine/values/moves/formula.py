"""Formula: arithmetic on time, and on the value underneath."""

from __future__ import annotations

import math
from typing import Annotated, Any, Generic, Literal

from pydantic import AfterValidator, Field

from handful.engine.kernels.chance.hash import key_for, uniform
from handful.engine.values.arithmetic import MOST_CHARACTERS, read_formula, work_out
from handful.engine.values.moves.move import (
    D,
    Move,
    Plain,
    Surroundings,
    T,
    V,
    W,
    axes,
    rejoined,
    told,
    value_at,
)

NAMES = {
    "t": "seconds since the first frame",
    "f": "the frame",
    "fps": "frames a second",
    "n": "which copy, from 0",
    "seed": "a number from 0 to 1 that differs with the recipe's seed, the layer and the copy",
    "still": "the value underneath",
    "life": "how far the layer's life has come, from 0 to 1",
}
"""What a formula may name."""

_KNOWN = frozenset(NAMES)


def _readable(text: str) -> str:
    read_formula(text, _KNOWN)
    return text


FormulaText = Annotated[
    str, AfterValidator(_readable), Field(min_length=1, max_length=MOST_CHARACTERS)
]


class Formula(Move, Generic[V, D, W, T]):
    """A formula in plain mathematical notation, or one for each axis.

    One formula for a point or a colour is worked out for each axis, on that axis's `still`. Where
    it has no number, as for 1 / 0, the value underneath holds.
    """

    suits = frozenset({"number", "point", "colour"})
    parts = ("still", "change", "under", "text")
    help = "Is worked out by a formula from time and a value."
    says = "{formula}"
    carried = ("value",)
    mark = "M9.5 2C7.5 1.4 6.8 2.2 6.4 4L5 9.5C4.6 11 3.6 11 2.5 10.5M3.5 5h5"

    moves: Literal["formula"]
    formula: T = Field(
        title="Formula of t, f, fps, n, seed, life and still",
        json_schema_extra=told(begins="still"),
    )
    value: W = Field(title="Value")

    def at(self, around: Surroundings) -> Plain:
        underneath = value_at(self.value, around)
        numbers = axes(underneath)
        written: Any = self.formula
        texts = (written,) * len(numbers) if isinstance(written, str) else written
        names = _names(around)
        worked_out = [
            _worked_out(text, names | {"still": float(number)})
            for text, number in zip(texts, numbers, strict=False)
        ]
        return rejoined(underneath, worked_out)


def _names(around: Surroundings) -> dict[str, float]:
    moment = around.moment
    return {
        "t": moment.seconds,
        "f": float(moment.frame),
        "fps": float(moment.rate),
        "n": float(around.copy),
        "seed": float(uniform(*key_for(*around.seeds, "formula"), 0, 0)),
        "life": around.life,
    }


def _worked_out(text: str, names: dict[str, float]) -> float:
    result = work_out(read_formula(text, _KNOWN), names)
    return names["still"] if math.isnan(result) else result
