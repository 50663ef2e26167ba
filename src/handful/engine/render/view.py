"""A picture as a person looks at it: on a background, by channel, at an exposure, in 8 bits."""

from __future__ import annotations

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import encode_srgb
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture

Background = Literal["black", "grey", "check", "plate"]
Channel = Literal["picture", "cover", "light", "red", "green", "blue"]

MIDDLE_GREY = 0.18
_CHECK_LIGHT, _CHECK_DARK, _CHECK_SIZE = 0.32, 0.14, 12
_TABLE_SIZE = 16384
_CHANNELS: dict[Channel, int] = {
    "picture": 0, "light": 1, "cover": 2, "red": 3, "green": 4, "blue": 5,
}


class View(NamedTuple):
    """How to look. `exposure` is in stops and only changes the look, never the picture."""

    background: Background = "black"
    channel: Channel = "picture"
    exposure: float = 0.0


def shown(picture: Picture, view: View, plate: Picture | None = None) -> NDArray[np.uint8]:
    """The view as 8-bit sRGB `(H, W, 3)`; `plate`, of the picture's size, lies behind it.

    What 8 bits cannot hold is spread by ordered noise of half a level, so that faint light does
    not show steps.
    """
    height, width = picture.shape[:2]
    result = np.empty((height, width, 3), np.uint8)
    behind = _background(view.background, height, width) if plate is None else plate
    in_bands(
        _show_rows,
        height,
        picture,
        behind,
        behind.shape[0] == height and behind.shape[1] == width,
        _CHANNELS[view.channel],
        np.float32(2.0**view.exposure),
        _SIGNAL_TABLE,
        _NOISE_TABLE,
        result,
    )
    return result


def as_jpeg(levels: NDArray[np.uint8], quality: int = 95) -> bytes:
    """Encode 8-bit RGB `(H, W, 3)` as JPEG without thinning its colour."""
    options = [
        cv2.IMWRITE_JPEG_QUALITY, quality,
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444,
    ]  # fmt: skip
    return cv2.imencode(".jpg", levels[..., ::-1], options)[1].tobytes()


def _background(background: Background, height: int, width: int) -> Picture:
    """A whole picture for the check, a single px for an even background."""
    even = {"black": 0.0, "grey": MIDDLE_GREY, "plate": 0.0}
    if background in even:
        return np.full((1, 1, 4), even[background], np.float32)
    y, x = np.ogrid[:height, :width]
    light = np.where((x // _CHECK_SIZE + y // _CHECK_SIZE) % 2 == 0, _CHECK_LIGHT, _CHECK_DARK)
    return np.repeat(light[..., None].astype(np.float32), 4, axis=2)


_SIGNAL_TABLE = (encode_srgb(np.linspace(0, 1, _TABLE_SIZE)) * 255).astype(np.float32)


def _bayer(order: int) -> NDArray[np.float32]:
    """Bayer's ordered-dither matrix (1973), values from -0.5 to 0.5."""
    matrix = np.zeros((1, 1))
    for _ in range(order):
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return ((matrix + 0.5) / matrix.size - 0.5).astype(np.float32)


_NOISE_TABLE = _bayer(3)


@compiled
def _show_rows(
    first: int,
    last: int,
    picture: Picture,
    behind: Picture,
    behind_is_whole: bool,
    channel: int,
    gain: float,
    signals: NDArray[np.float32],
    noise: NDArray[np.float32],
    result: NDArray[np.uint8],
) -> None:
    top = np.float32(signals.shape[0] - 1)
    for y in range(first, last):
        for x in range(picture.shape[1]):
            cover = picture[y, x, 3]
            for c in range(3):
                if channel == 0:
                    back = behind[y, x, c] if behind_is_whole else behind[0, 0, c]
                    light = picture[y, x, c] + (np.float32(1.0) - cover) * back
                elif channel == 1:
                    light = picture[y, x, c]
                elif channel == 2:
                    light = cover
                else:
                    light = picture[y, x, channel - 3]
                place = min(np.float32(1.0), max(np.float32(0.0), light * gain)) * top
                index = min(int(place), signals.shape[0] - 2)
                part = place - np.float32(index)
                signal = signals[index] + part * (signals[index + 1] - signals[index])
                level = signal + noise[y & 7, x & 7] + np.float32(0.5)
                result[y, x, c] = np.uint8(min(np.float32(255.0), max(np.float32(0.0), level)))
