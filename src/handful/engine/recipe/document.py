"""The recipe document, version 1."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self, Union

from pydantic import BaseModel, ConfigDict, Field, model_validator

from handful.engine.kinds import sources, steps
from handful.engine.mix import BLENDS
from handful.engine.mix.cover import CoverRule
from handful.engine.recipe.fields import Change, Identifier, Node, Percent, Place, moving, node_type
from handful.engine.values import Life, Moment, exact_rate

MOST_PIXELS = 67_108_864
MOST_FRAMES = 100_000


class StepNode(Node):
    """A step in a recipe."""

    id: Identifier = Field(description="Stays the same when steps are moved about.")
    on: bool = True


class SourceNode(Node):
    """A source in a recipe."""


if TYPE_CHECKING:
    AnySource = SourceNode
    AnyStep = StepNode
else:
    AnySource = Annotated[
        Union[tuple(node_type(kind, SourceNode) for kind in sources().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]
    AnyStep = Annotated[
        Union[tuple(node_type(kind, StepNode) for kind in steps().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Canvas(_Part):
    """The size in px, the rate in frames a second, and the first and last frame."""

    width: int = Field(1920, ge=16, le=16384, strict=True)
    height: int = Field(1080, ge=16, le=16384, strict=True)
    rate: float = Field(25, ge=1, le=240, allow_inf_nan=False)
    first: int = Field(1001, ge=0, le=9_000_000, strict=True)
    last: int = Field(1075, ge=0, le=9_000_000, strict=True)

    @property
    def exact_rate(self) -> Fraction:
        return exact_rate(self.rate)

    @model_validator(mode="after")
    def _within_limits(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the last frame, {self.last}, comes before the first, {self.first}")
        if self.last - self.first >= MOST_FRAMES:
            raise ValueError(f"a shot has at most {MOST_FRAMES} frames")
        if self.width * self.height > MOST_PIXELS:
            raise ValueError(f"a canvas has at most {MOST_PIXELS} px; make it narrower or lower")
        return self


class NamedPoint(_Part):
    """A named position that settings can follow."""

    name: Identifier
    at: moving(  # type: ignore[valid-type]
        Place, tuple[Change, Change], ("keys", "rate", "jitter", "pulse")
    )


class Layer(_Part):
    """One picture in the recipe, made by a source and changed by steps in order."""

    id: Identifier
    name: Identifier
    on: bool = True
    source: AnySource
    steps: list[AnyStep] = Field(default_factory=list, max_length=50)
    blend: Literal[BLENDS] = "normal"  # type: ignore[valid-type]
    opacity: moving(  # type: ignore[valid-type]
        Percent, Change, ("keys", "rate", "jitter", "pulse", "formula", "life")
    ) = 100.0
    life: Life = Field(default_factory=Life)
    first: int | None = Field(
        None, description="First frame on which it shows; the shot's if absent."
    )
    last: int | None = Field(
        None, description="Last frame on which it shows; the shot's if absent."
    )


class Recipe(_Part):
    """The whole recipe."""

    version: Literal[1]
    name: Identifier
    canvas: Canvas = Field(default_factory=Canvas)
    seed: int = Field(0, ge=0, le=2**31 - 1, strict=True)
    cover: CoverRule = "as drawn"
    points: list[NamedPoint] = Field(default_factory=list, max_length=200)
    layers: list[Layer] = Field(default_factory=list, max_length=100)
    finish: list[AnyStep] = Field(default_factory=list, max_length=50)

    def moment(self, frame: float) -> Moment:
        """The moment of a frame of this recipe."""
        return Moment(frame, self.canvas.exact_rate, self.canvas.first, self.canvas.last)


def recipe_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the recipe document."""
    return Recipe.model_json_schema()
