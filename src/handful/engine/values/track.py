"""A track: where something was seen, frame by frame."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Annotated, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from handful.engine.values.point import Point
from handful.engine.values.steadying import steadied

if TYPE_CHECKING:
    from scipy.interpolate import CubicHermiteSpline

MOST_MARKS = 100_000

_Number = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
_Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Mark(NamedTuple):
    """A sighting: the frame, the place in px, and how sure it is, from 0 to 1."""

    frame: _Number
    x: _Number
    y: _Number
    confidence: _Share = 1.0


class Track(BaseModel):
    """Sightings in order of their frames. Those less sure than `trust` are taken as gaps.

    Between sightings, and over gaps, the track goes along the cubic curve of Catmull and Rom
    ("A class of local interpolating splines", 1974) with slopes by the unequal distances in time;
    before the first and after the last it stays.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(min_length=1, max_length=80)
    marks: list[Mark] = Field(min_length=1, max_length=MOST_MARKS)
    trust: float = Field(0.5, ge=0, le=1, description="Least confidence that counts.")

    @model_validator(mode="after")
    def _usable(self) -> Self:
        for before, mark in zip(self.marks, self.marks[1:], strict=False):
            if mark.frame == before.frame:
                raise ValueError(f"frame {mark.frame:g} has two marks")
            if mark.frame < before.frame:
                raise ValueError(f"the mark at frame {mark.frame:g} comes after {before.frame:g}")
        if not self._sure:
            raise ValueError(f"no mark is as sure as {self.trust:g}")
        return self

    @cached_property
    def _sure(self) -> list[Mark]:
        return [mark for mark in self.marks if mark.confidence >= self.trust]

    @cached_property
    def _curve(self) -> CubicHermiteSpline | None:
        """Through the marks that are sure, or nothing if there is only one."""
        if len(self._sure) < 2:
            return None
        # It takes half a second to load, and few recipes have a track.
        from scipy.interpolate import CubicHermiteSpline

        sure = np.array([mark[:3] for mark in self._sure])
        frames, places = sure[:, 0], sure[:, 1:]
        spans = np.diff(frames)[:, None]
        slopes = np.diff(places, axis=0) / spans
        inner = (spans[1:] * slopes[:-1] + spans[:-1] * slopes[1:]) / (spans[1:] + spans[:-1])
        return CubicHermiteSpline(frames, places, np.concatenate([slopes[:1], inner, slopes[-1:]]))

    def at(self, frame: float) -> Point:
        """Where it is at a frame, which may be fractional."""
        x, y = self._places(np.array([frame], np.float64))[0]
        return Point(float(x), float(y))

    def steadied(self, frame: float, reach: float) -> Point:
        """Its mean place over so many frames to each side of a frame, nearer ones counting more."""
        return steadied(self._places, frame, reach) if reach else self.at(frame)

    def _places(self, frames: NDArray[np.float64]) -> NDArray[np.float64]:
        if self._curve is None:
            return np.tile(np.array(self._sure[0][1:3], np.float64), (len(frames), 1))
        held = np.clip(frames, self._sure[0].frame, self._sure[-1].frame)
        places: NDArray[np.float64] = self._curve(held)
        return places
