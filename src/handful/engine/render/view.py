"""A picture as a person looks at it: on a background, by channel, at an exposure, in 8 bits."""

from __future__ import annotations

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import decode_srgb, encode_srgb
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Matte, Picture

Background = Literal["black", "grey", "check", "plate"]
Channel = Literal["picture", "cover", "light", "red", "green", "blue", "offsets"]

_EVEN: dict[Background, int] = {"black": 0, "grey": 118, "plate": 0}
"""sRGB levels of even backgrounds; 118 is the light of middle grey, 0.18."""

_CHECK_LEVELS, _CHECK_SIZE = (152, 104), 12
_TABLE_SIZE = 4096
_CHANNELS: dict[Channel, int] = {
    "picture": 0, "light": 1, "red": 2, "green": 3, "blue": 4, "cover": 5, "offsets": 6,
}  # fmt: skip
"""Numbers that the kernel knows: from 2 on, two more than the channel's place in a px."""


class View(NamedTuple):
    """How to look. `exposure` is in stops and only changes the look, never the picture.

    Offsets are red across and green down, drawn as hue by where they point and as strength by how
    far, up to 1. With `clipping`, light beyond white is striped.
    """

    background: Background = "black"
    channel: Channel = "picture"
    exposure: float = 0.0
    clipping: bool = False


def shown(
    picture: Picture, view: View, plate: NDArray[np.uint8] | None = None
) -> NDArray[np.uint8]:
    """The view as 8-bit sRGB `(H, W, 3)`; `plate`, 8-bit sRGB of the same size, lies behind it. A
    height is grey around nothing, offsets are colours by where they point.

    What 8 bits cannot hold is spread by ordered noise of half a level, so that faint light does
    not show steps.
    """
    height, width = picture.shape[:2]
    result = np.empty((height, width, 3), np.uint8)
    behind = _background(view.background, height, width) if plate is None else plate
    gain = np.float32(2.0**view.exposure)
    if picture.ndim == 2:
        in_bands(_height_rows, height, picture, gain / np.float32(_FULL_PX), result)
        return result
    if picture.shape[2] == 2:
        in_bands(_offset_rows, height, picture, gain / np.float32(_FULL_PX), result)
        return result
    if view.channel == "offsets":
        in_bands(_offset_rows, height, picture, gain, result)
        return result
    in_bands(
        _show_rows,
        height,
        picture,
        behind,
        behind.shape[:2] == (height, width),
        _CHANNELS[view.channel],
        gain,
        _LIGHTS,
        _SIGNALS,
        _NOISE,
        result,
    )
    if view.clipping and view.channel == "picture":
        in_bands(_stripe_rows, height, picture, np.float32(2.0**-view.exposure), result)
    return result


class Warnings(NamedTuple):
    """What an eye may miss: the edges of the picture that it touches, the share of its px with
    light beyond white, and by how many stops, in halves, nine tenths of those are above it at most; and the
    sides at which a plate that is bent shows what lies beyond its edge, and what that is; and the share of it
    on which it folds over, and where about, in px of the full size.
    """

    edges: tuple[str, ...]
    clipped: float
    above: float
    beyond: tuple[str, ...] = ()
    edge: str = ""
    folded: float = 0.0
    fold_at: tuple[float, float] = (0.0, 0.0)


def warnings_of(picture: Picture, exposure: float) -> Warnings:
    """What is to be warned of in a picture as it is looked at, at an exposure in stops."""
    if picture.shape[2:] != (4,):
        return Warnings((), 0.0, 0.0)
    height, width = picture.shape[:2]
    counts = np.zeros((height, _HALF_STOPS), np.int32)
    in_bands(_bright_rows, height, picture, np.float32(2.0**-exposure), counts)
    sides = {
        "left": picture[:, 0], "top": picture[0], "right": picture[:, -1], "bottom": picture[-1],
    }  # fmt: skip
    edges = tuple(name for name, side in sides.items() if float(side.max()) > _TOUCHES)
    up_to = counts.sum(axis=0).cumsum()
    clipped = int(up_to[-1])
    above = 0.5 * (int(np.searchsorted(up_to, 0.9 * clipped)) + 1) if clipped else 0.0
    return Warnings(edges, clipped / (width * height), above)


_FULL_PX = 64.0
"""px of a height that is white, or of offsets in their full colour, at no exposure."""

_HALF_STOPS = 40
"""Light is counted up to so many halves of a stop above white."""

_TOUCHES = 0.004
"""The least light or cover at an edge that an eye sees on black as cut off, about 5 % of the signal."""


def smaller(picture: Picture, most_width: int) -> Picture:
    """The picture reduced by area average to at most `most_width` px; itself if it is no wider."""
    height, width = picture.shape[:2]
    if width <= most_width:
        return picture
    size = (most_width, max(1, round(height * most_width / width)))
    reduced: Picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    return reduced


def as_jpeg(levels: NDArray[np.uint8], quality: int = 95) -> bytes:
    """Encode 8-bit RGB `(H, W, 3)` as JPEG without thinning its colour."""
    options = [
        cv2.IMWRITE_JPEG_QUALITY, quality,
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444,
    ]  # fmt: skip
    return cv2.imencode(".jpg", cv2.cvtColor(levels, cv2.COLOR_RGB2BGR), options)[1].tobytes()


def _background(background: Background, height: int, width: int) -> NDArray[np.uint8]:
    """A whole still for the check, a single px for an even background."""
    if background != "check":
        return np.full((1, 1, 3), _EVEN[background], np.uint8)
    y, x = np.ogrid[:height, :width]
    levels = np.where((x // _CHECK_SIZE + y // _CHECK_SIZE) % 2 == 0, *_CHECK_LEVELS)
    return np.repeat(levels[..., None].astype(np.uint8), 3, axis=2)


_LIGHTS = decode_srgb(np.arange(256) / 255).astype(np.float32)
_SIGNALS = (encode_srgb(np.linspace(0, 1, _TABLE_SIZE) ** 2) * 255).astype(np.float32)
"""8-bit signals by the square root of light: small enough to stay near the processor, and within
a tenth of a level everywhere."""


def _bayer(order: int) -> NDArray[np.float32]:
    """Bayer's ordered-dither matrix (1973), values from -0.5 to 0.5."""
    matrix = np.zeros((1, 1))
    for _ in range(order):
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return ((matrix + 0.5) / matrix.size - 0.5).astype(np.float32)


_NOISE = _bayer(3)


@compiled
def _show_rows(
    first: int,
    last: int,
    picture: Picture,
    behind: NDArray[np.uint8],
    behind_is_whole: bool,
    channel: int,
    gain: float,
    lights: NDArray[np.float32],
    signals: NDArray[np.float32],
    noise: NDArray[np.float32],
    result: NDArray[np.uint8],
) -> None:
    top, half = np.float32(signals.shape[0] - 1), np.float32(0.5)
    zero, one = np.float32(0.0), np.float32(1.0)
    offset = max(0, channel - 2)
    stride = 1 if channel < 2 else 0
    for y in range(first, last):
        row, line, speckle = picture[y], result[y], noise[y & 7]
        under = behind[y] if behind_is_whole else behind[0]
        for x in range(row.shape[0]):
            place = x if behind_is_whole else 0
            kept = one - row[x, 3] if channel == 0 else zero
            spread = speckle[x & 7] + half
            for c in range(3):
                light = (row[x, offset + c * stride] + kept * lights[under[place, c]]) * gain
                light = light if light > zero else zero
                light = light if light < one else one
                level = signals[np.uint32(np.sqrt(light) * top + half)]
                line[x, c] = np.uint8(level + spread)


@compiled
def _height_rows(
    first: int, last: int, heights: Matte, gain: float, result: NDArray[np.uint8]
) -> None:
    half, one = np.float32(127.5), np.float32(1.0)
    for y in range(first, last):
        for x in range(heights.shape[1]):
            level = min(one, max(-one, heights[y, x] * gain))
            grey = np.uint8(half + half * level)
            result[y, x, 0], result[y, x, 1], result[y, x, 2] = grey, grey, grey


@compiled
def _offset_rows(
    first: int, last: int, picture: Picture, gain: float, result: NDArray[np.uint8]
) -> None:
    half, third = np.float32(127.5), np.float32(2.0943951)
    for y in range(first, last):
        for x in range(picture.shape[1]):
            across, down = picture[y, x, 0] * gain, picture[y, x, 1] * gain
            far = np.sqrt(across * across + down * down)
            far = far if far < np.float32(1.0) else np.float32(1.0)
            where = np.arctan2(down, across)
            for c in range(3):
                level = np.cos(where - third * np.float32(c)) * far
                result[y, x, c] = np.uint8(half + half * level)


@compiled
def _stripe_rows(
    first: int, last: int, picture: Picture, white: float, result: NDArray[np.uint8]
) -> None:
    for y in range(first, last):
        for x in range(picture.shape[1]):
            px = picture[y, x]
            if max(px[0], px[1], px[2]) > white:
                is_dark = ((x + y) >> 2) & 1
                result[y, x, 0] = 24 if is_dark else 240
                result[y, x, 1] = 24 if is_dark else 180
                result[y, x, 2] = 24 if is_dark else 90


@compiled
def _bright_rows(
    first: int, last: int, picture: Picture, white: float, counts: NDArray[np.int32]
) -> None:
    """For each row, how many px shine beyond white, by halves of a stop."""
    most = counts.shape[1] - 1
    for y in range(first, last):
        row = picture[y]
        for x in range(row.shape[0]):
            light = max(row[x, 0], row[x, 1], row[x, 2])
            if light > white:
                halves = int(np.float32(2.0) * np.log2(light / white))
                counts[y, min(most, halves)] += 1
