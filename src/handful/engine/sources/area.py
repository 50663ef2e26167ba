"""What is computed on a grid that lies on an area of the canvas."""

from __future__ import annotations

import math
from typing import Any, ClassVar

from handful.engine.kinds import Stateful, TooMuch, setting, too_long
from handful.engine.values import Point


class Area(Stateful):
    """A source with memory on a grid of square cells. Its size does not move, as the grid's does not."""

    most_cells: ClassVar[int] = 500_000
    most_work: ClassVar[float] = 2e9
    """So many steps of a cell before it begins are computed at most."""

    at: Point = setting([960, 540], unit="px", help="The middle of the area that it is on.")
    width: int = setting(
        1920,
        unit="px",
        drawn="width",
        about="at",
        least=16,
        most=40_000,
        usual=(200, 4000),
        help="How wide that is.",
    )
    height: int = setting(
        1080,
        unit="px",
        drawn="height",
        about="at",
        least=16,
        most=40_000,
        usual=(200, 4000),
        help="How high that is.",
    )
    detail: int = setting(
        320,
        least=16,
        most=2000,
        usual=(100, 640),
        help="Cells along its longer side: more is finer.",
    )

    @classmethod
    def too_much(cls, written: Any) -> TooMuch | None:
        longer, shorter = max(written.width, written.height), min(written.width, written.height)
        cells = written.detail**2 * shorter / longer
        if cells <= cls.most_cells:
            return too_long(written, cells * cls.steps_a_second(written), cls.most_work)
        return TooMuch(
            "detail",
            f"{written.detail} cells along it are more than {cls.most_cells:,} in all; take fewer.",
            int(math.sqrt(cls.most_cells * longer / shorter)),
        )

    @classmethod
    def steps_a_second(cls, written: Any) -> float:
        """How many steps a second takes, as a recipe writes it, about."""
        raise NotImplementedError

    def cell(self) -> float:
        """How wide a cell is, in px."""
        return max(self.width, self.height) / self.detail

    def size(self) -> tuple[int, int]:
        """Rows and columns."""
        return max(2, round(self.height / self.cell())), max(2, round(self.width / self.cell()))

    def corner(self) -> tuple[float, float]:
        """Where its left upper corner is, in px."""
        return self.at.x - self.width / 2, self.at.y - self.height / 2

    def seen_at(self) -> float:
        """The scale at which a px of another layer is about a cell."""
        return min(1.0, 1 / self.cell())
