"""Timecode: hours, minutes, seconds and frames, as SMPTE ST 12-1 counts them."""

from __future__ import annotations

from fractions import Fraction

from handful.engine.values.moment import exact_rate

_DROPPED = {30: 2, 60: 4}
"""Numbers that are left out at the start of each minute but the tenth ones, by frames counted a
second: of 30 × 1000/1001 frames a second two (SMPTE ST 12-1:2014, 5.2.2), of twice that four."""


def drops_frames(rate: float) -> bool:
    """Whether numbers are dropped at a rate, to stay with the clock: at 29.97 and 59.94."""
    return exact_rate(rate).denominator == 1001 and round(rate) in _DROPPED


def timecode(frames: int, rate: float, *, drops: bool = False) -> str:
    """The timecode of a count of frames from midnight, `HH:MM:SS:FF`, with `;` where numbers drop.

    Raises `ValueError` for a rate that has no drop-frame counting if that is asked for.
    """
    hours, minutes, seconds, part = time_parts(frames, rate, drops=drops)
    mark = ";" if drops else ":"
    return f"{hours:02}:{minutes:02}:{seconds:02}{mark}{part:02}"


def time_parts(
    frames: int, rate: float | Fraction, *, drops: bool = False
) -> tuple[int, int, int, int]:
    """Hours, minutes, seconds and frames of a timecode; see `timecode`."""
    rate = float(rate)
    a_second = round(rate)
    if drops and not drops_frames(rate):
        raise ValueError(f"{rate:g} frames a second have no drop-frame timecode")
    if drops:
        dropped = _DROPPED[a_second]
        a_minute = 60 * a_second - dropped
        ten_minutes = 10 * a_minute + dropped
        tens, rest = divmod(frames, ten_minutes)
        minutes = max(0, rest - dropped) // a_minute
        frames += dropped * (9 * tens + minutes)
    seconds, part = divmod(frames, a_second)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return hours % 24, minutes, seconds, part
