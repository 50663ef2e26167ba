"""The recipe document."""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self, Union

from pydantic import BaseModel, ConfigDict, Field, model_validator

from handful.engine.kinds import Setting, limits, sources, steps
from handful.engine.mix import BlendSpace, blends
from handful.engine.mix.cover import CoverRule
from handful.engine.named import Camera, Path, Sway
from handful.engine.recipe.fields import POINT, Identifier, Node, field_type, moving, node_type
from handful.engine.recipe.upgrading import VERSION
from handful.engine.values import MOVES, Life, Moment, Track, drops_frames, eased, exact_rate

MOST_PIXELS = 67_108_864
MOST_FRAMES = 100_000
MOST_STEPS = 50


class LimitNode(Node):
    """A limit in a recipe."""


class SourceNode(Node):
    """A source in a recipe."""


class _StepNode(Node):
    id: Identifier = Field(description="Stays the same when steps are moved about.")
    on: bool = True


if TYPE_CHECKING:
    AnySource = SourceNode
    AnyLimit = LimitNode

    class StepNode(_StepNode):
        """A step in a recipe, and where it acts."""

        limits: list[LimitNode]

    AnyStep = StepNode
else:
    AnySource = Annotated[
        Union[tuple(node_type(kind, SourceNode) for kind in sources().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]
    AnyLimit = Annotated[
        Union[tuple(node_type(kind, LimitNode) for kind in limits().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]
    Limits = Annotated[
        list[AnyLimit], Field(max_length=20, description="Where it acts; everywhere if empty.")
    ]

    class StepNode(_StepNode):
        """A step in a recipe, and where it acts."""

        limits: Limits = Field(default_factory=list)

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
    drop_frame: bool = Field(
        False, description="Whether timecode drops numbers to stay with the clock."
    )
    overscan: int = Field(
        0, ge=0, le=4096, strict=True, description="Px that pictures show beyond each edge."
    )

    def overscan_at(self, scale: float) -> int:
        """Whole px of overscan beyond each edge of a picture at a scale."""
        return math.ceil(self.overscan * scale - 1e-6)

    @property
    def length(self) -> int:
        """How many frames there are."""
        return self.last - self.first + 1

    @property
    def exact_rate(self) -> Fraction:
        """Frames a second as SMPTE ST 12-1 means them: 29.97 is 30000/1001."""
        return exact_rate(self.rate)

    @model_validator(mode="after")
    def _within_limits(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the last frame, {self.last}, comes before the first, {self.first}")
        if self.last - self.first >= MOST_FRAMES:
            raise ValueError(f"a shot has at most {MOST_FRAMES} frames")
        if self.drop_frame and not drops_frames(self.rate):
            raise ValueError(
                f"at {self.rate:g} frames a second timecode drops no numbers; only at 29.97 and 59.94"
            )
        if (self.width + 2 * self.overscan) * (self.height + 2 * self.overscan) > MOST_PIXELS:
            raise ValueError(
                f"a canvas with its overscan has at most {MOST_PIXELS} px; make it smaller"
            )
        return self


_WAYS_OF_POINTS = tuple(
    name for name, move in MOVES.items() if "point" in move.suits and not move.of_layers
)


class NamedPoint(_Part):
    """A named position that settings can follow."""

    name: Identifier
    at: moving(POINT, _WAYS_OF_POINTS)  # type: ignore[valid-type]


class _Named(_Part):
    name: Identifier


NamedSway: Any = node_type(Sway, _Named)
NamedPath: Any = node_type(Path, _Named)
NamedCamera: Any = node_type(Camera, _Named)


class Shutter(_Part):
    """How long a frame is open: its picture is the mean, in linear light, over that time."""

    model_config = ConfigDict(
        json_schema_extra={"says": "Open for {angle} of each frame, seen in {samples}."}
    )

    angle: float = Field(
        0,
        ge=0,
        le=720,
        allow_inf_nan=False,
        description="In degrees; 360 is a whole frame.",
        json_schema_extra={"unit": "°", "usual": [0, 360]},
    )
    samples: int = Field(
        12,
        ge=2,
        le=64,
        strict=True,
        description="Pictures in that time.",
        json_schema_extra={"unit": "pictures"},
    )

    def moments(self) -> tuple[float, ...]:
        """When it looks, in frames from the one that is shown, spread evenly around it."""
        if self.angle == 0:
            return (0.0,)
        open_for = self.angle / 360
        return tuple(open_for * ((i + 0.5) / self.samples - 0.5) for i in range(self.samples))


OPACITY = Setting(
    "opacity", "number", 100.0, "How much of the layer is mixed in.", "%", least=0, most=100
)
"""A layer's own value, which no kind declares."""


class Layer(_Part):
    """One picture in the recipe, made by a source and changed by steps in order."""

    id: Identifier
    name: Identifier
    on: bool = True
    within: Identifier | None = Field(None, description="The id of the group that it belongs to.")
    source: AnySource
    steps: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)
    limits: list[AnyLimit] = Field(
        default_factory=list, max_length=20, description="Where it shows; everywhere if empty."
    )
    blend: Literal[blends()] = "normal"  # type: ignore[valid-type]
    blends_in: BlendSpace = Field(
        "light",
        description="Whether the blend acts on linear light, or on the signal as it is seen.",
    )
    opacity: field_type(OPACITY) = OPACITY.default  # type: ignore[valid-type]
    life: Life = Field(default_factory=Life)
    shutter: Shutter = Field(default_factory=Shutter)
    first: int | None = Field(
        None, description="First frame on which it shows; the shot's if absent."
    )
    last: int | None = Field(
        None, description="Last frame on which it shows; the shot's if absent."
    )


class Marker(_Part):
    """A frame to be found again, and why."""

    frame: int = Field(ge=0, le=9_000_000, strict=True)
    says: str = Field("", max_length=80)


class NamedElement(_Part):
    """Another shot's recipe as it was at a revision, to be placed as an element."""

    name: Identifier
    shot: str = Field("", max_length=80, description="Which shot it came from.")
    revision: int = Field(0, ge=0, strict=True, description="At which of its revisions.")
    recipe: Recipe


class Recipe(_Part):
    """The whole recipe."""

    version: Literal[VERSION]  # type: ignore[valid-type]
    name: Identifier
    canvas: Canvas = Field(default_factory=Canvas)
    seed: int = Field(0, ge=0, le=2**31 - 1, strict=True)
    cover: CoverRule = "as drawn"
    loop: int = Field(
        0,
        ge=0,
        strict=True,
        description="Frames in which the end turns into the beginning, so that the shot loops "
        "without a seam; 0 if it does not loop.",
    )
    markers: list[Marker] = Field(default_factory=list, max_length=200)
    points: list[NamedPoint] = Field(default_factory=list, max_length=200)
    tracks: list[Track] = Field(default_factory=list, max_length=200)
    sways: list[NamedSway] = Field(default_factory=list, max_length=50)
    paths: list[NamedPath] = Field(default_factory=list, max_length=200)
    cameras: list[NamedCamera] = Field(default_factory=list, max_length=50)
    elements: list[NamedElement] = Field(default_factory=list, max_length=20)
    layers: list[Layer] = Field(default_factory=list, max_length=100)
    finish: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)

    def __reduce__(self) -> tuple[Callable[[str], Recipe], tuple[str]]:
        """It goes to another process as it is written: its parts are of types that are made from declarations."""
        return Recipe.model_validate_json, (self.model_dump_json(exclude_unset=True),)

    @model_validator(mode="after")
    def _loops_within_its_frames(self) -> Self:
        if self.loop > self.canvas.length:
            raise ValueError(
                f"it cannot loop over {self.loop} frames, as it has only {self.canvas.length}"
            )
        return self

    def turned(self, frame: float) -> float:
        """How far a frame has turned into the one a whole loop before it, from 0 to 1."""
        if self.loop == 0:
            return 0.0
        since = frame - (self.canvas.last + 1 - self.loop)
        return eased("smooth", min(1.0, max(0.0, since / self.loop)))

    def moment(self, frame: float) -> Moment:
        """The moment of a frame of this recipe."""
        return Moment(frame, self.canvas.exact_rate, self.canvas.first, self.canvas.last)


NamedElement.model_rebuild()


def spans(recipe: Recipe, layer: Layer) -> tuple[int, int]:
    """The first and the last frame on which a layer shows."""
    canvas = recipe.canvas
    return (
        canvas.first if layer.first is None else layer.first,
        canvas.last if layer.last is None else layer.last,
    )
