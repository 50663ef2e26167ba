"""Element: another shot's recipe, placed in this one."""

from __future__ import annotations

from typing import Literal

from handful.engine.kernels.forms.places import Matrix, shifted, sized, turned
from handful.engine.kinds import (
    ElementName,
    Placing,
    Planned,
    Planning,
    Source,
    clockwise,
    register,
    setting,
)
from handful.engine.values import Point

_PLACES = 6
"""Decimals to which a time is taken as a frame, so that a whole frame is one."""


@register
class Element(Source):
    """The finished picture of another shot's recipe, as it was at one revision.

    It is made on its own canvas, which may be long and thin, and then sized, turned and placed by
    its pivot; several of it may follow one another, each later in time.
    """

    family = "layers"
    says = (
        "The element {of}, its {pivot} at {at}, at {size} and turned {turn}, {time} into it "
        "and after its last frame {after}. {count} of it, {apart} apart, each {later} later."
    )

    of: ElementName = setting("", help="Which element of this recipe.")
    at: Point = setting([960, 540], unit="px", help="Where its pivot is put.")
    pivot: Point = setting(
        [960, 540],
        unit="px",
        elsewhere=True,
        help="The place on its own canvas about which it is sized and turned.",
    )
    size: float = setting(100, unit="%", least=1, most=2000, usual=(10, 300), help="Its size.")
    turn: float = clockwise(0, about="at", help="Clockwise turn.")
    time: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1, "since": "layer"},
        unit="s",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far into it: at 1 a second it plays at its own pace, whatever its frame rate.",
    )
    after: Literal["shows nothing", "holds", "starts again"] = setting(
        "shows nothing", help="What it does before its first and after its last frame."
    )
    count: int = setting(1, least=1, most=32, usual=(1, 12), help="How many of it.")
    apart: Point = setting(
        [0, 120], unit="px", drawn="offset", about="at", help="Way from one to the next."
    )
    turn_step: float = setting(0, unit="°", least=-360, most=360, help="Turn from one to the next.")
    later: float = setting(
        7,
        unit="frames",
        least=-1000,
        most=1000,
        usual=(-20, 20),
        help="Frames by which each is later than the one before.",
    )
    seed: int = setting(
        0, least=0, most=2**31 - 1, usual=(0, 99), help="0 is as it was made; another varies it."
    )
    blend: Literal["add", "normal", "screen", "lighten"] = setting("add", help="How they mix.")

    def planned(self, ask: Planning) -> Planned:
        element = ask.element(self.of)
        pictures = []
        if element is not None:
            steady: Element = ask.as_shown()
            within = (self.time - steady.time) * element.rate
            for i in range(self.count):
                frame = steady.frame_of(i, element.frames, element.rate)
                if frame is not None:
                    seed = self.seed + i if self.seed else 0
                    how = Placing(self.matrix(i), self.size / 100, frame, within, seed)
                    pictures.append(element.placed(how))
        return ask.mixed(pictures, self.blend)

    def frame_of(self, i: int, frames: int, rate: float) -> float | None:
        """The frame that the one numbered `i` shows, from 0, of an element of so many frames at a
        rate, or nothing where it does not show."""
        frame = round(self.time * rate, _PLACES) - i * self.later
        last = frames - 1
        if self.after == "starts again":
            return frame % frames
        if self.after == "holds":
            return min(float(last), max(0.0, frame))
        return frame if 0 <= frame <= last else None

    def matrix(self, i: int) -> Matrix:
        """From px of the element's canvas to px of this one, both full size, for the one numbered `i`."""
        share = self.size / 100
        x, y = self.at.x + i * self.apart.x, self.at.y + i * self.apart.y
        about = sized(share, share) @ shifted(-self.pivot.x, -self.pivot.y)
        return shifted(x, y) @ turned(self.turn + i * self.turn_step) @ about
