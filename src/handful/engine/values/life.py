"""A layer's life: how it comes, stays and goes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field
from pydantic.config import JsonDict

from handful.engine.values.easing import Ease, eased

Frames = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]

_IN_FRAMES: JsonDict = {"unit": "frames", "usual": [0, 50]}


class Life(BaseModel):
    """Rises from nothing to full, settles to a level, holds it, and falls to nothing at the end.

    Times are in frames from the layer's first frame, and for the fall to its last. At the first
    frame it is at nothing if it rises at all; `rise` frames later it is full. An ease that
    overshoots takes it beyond full, or below nothing. What it drives follows as far as it can:
    light shines brighter than full, as a flash should, but never less than nothing; cover times
    opacity stays within 0 to 1; a setting that goes with the life stays within its own bounds.
    """

    model_config = ConfigDict(
        extra="forbid",
        frozen=True,
        json_schema_extra={
            "says": "Rises in {rise}, is full for {peak}, settles in {settle} to {level}, and at the "
            "end falls in {fall}."
        },
    )

    rise: Frames = Field(0, description="From nothing to full.", json_schema_extra=_IN_FRAMES)
    peak: Frames = Field(0, description="How long it stays full.", json_schema_extra=_IN_FRAMES)
    settle: Frames = Field(0, description="From full to its level.", json_schema_extra=_IN_FRAMES)
    level: float = Field(
        100,
        ge=0,
        le=100,
        description="The level that it holds, of full.",
        json_schema_extra={"unit": "%"},
    )
    fall: Frames = Field(0, description="From its level to nothing.", json_schema_extra=_IN_FRAMES)
    ease: Ease = Field("linear", description="How each change is spread over its frames.")
    drives: Literal["opacity", "nothing"] = Field(
        "opacity", description="Whether the layer's opacity follows it; settings may do so anyway."
    )

    def at(self, frame: float, first: float, last: float) -> float:
        """The level, 0 at nothing and 1 at full, at a frame of a layer that shows from `first` to
        `last`; beyond both where its ease overshoots."""
        if not first <= frame <= last:
            return 0.0
        held = self.level / 100
        since = frame - first
        coming = held
        if since < self.rise:
            coming = eased(self.ease, since / self.rise)
        elif since < self.rise + self.peak:
            coming = 1.0
        elif since < self.rise + self.peak + self.settle:
            part = (since - self.rise - self.peak) / self.settle
            coming = 1.0 + (held - 1.0) * eased(self.ease, part)
        left = last - frame
        if left < self.fall:
            coming *= eased(self.ease, left / self.fall)
        return coming
