"""A stand-in for a camera: draws the plates of the Saltglass shots, with known motion.

A scene is drawn once, larger than the frame, in linear light; each frame is a window into it that
moves by an exact number of px, with moving water, a little grain, and what else the scene adds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from demo.brush import MARGIN, Light
from demo.scenes.chart_room import chart_room
from demo.scenes.fairway import WATER, fairway
from demo.scenes.furnace import furnace, roofs
from demo.scenes.glasshouse import glasshouse
from demo.scenes.harbour import HORIZON, harbour
from demo.scenes.lighthouse import SEA, lighthouse
from demo.scenes.loft import loft
from demo.scenes.roads import ROADS, roads
from demo.scenes.seabed import GROUND, seabed
from demo.scenes.storm_deck import storm_deck
from demo.scenes.tide_hall import FLOOR, tide_hall
from demo.scenes.workshop import workshop
from handful.engine.colour.transfer import encode_srgb
from handful.engine.files import frame_name, write_atomically


class Scene(NamedTuple):
    """`pan` is how far, in px a second, things move in the frame; `draw` makes the wide view.

    Below `shore`, a share of the frame's height, water moves.
    """

    pan: tuple[float, float]
    draw: Callable[[int, int], Light]
    shore: float


SCENES = {
    "mast-strike": Scene((-12.0, 0.0), harbour, HORIZON),
    "tar-barrel": Scene((-12.0, 0.0), harbour, HORIZON),
    "burning-chart": Scene((0.0, 0.0), chart_room, 1.0),
    "lamp-sweep": Scene((-6.0, 0.0), lighthouse, SEA),
    "tide-feed": Scene((5.0, 0.0), tide_hall, FLOOR),
    "out-of-the-fog": Scene((-4.0, 0.0), fairway, WATER),
    "grinding-wheel": Scene((0.0, 0.0), workshop, 1.0),
    "loft-dust": Scene((0.0, 0.0), loft, 1.0),
    "divers-bubble": Scene((0.0, 6.0), seabed, GROUND),
    "depth-bell": Scene((0.0, 0.0), roads, ROADS),
    "first-gather": Scene((0.0, 0.0), glasshouse, 1.0),
    "furnace-mouth": Scene((0.0, 0.0), furnace, 1.0),
    "flue-haze": Scene((0.0, 0.0), roofs, 1.0),
    "storm-sail": Scene((0.0, 0.0), storm_deck, 1.0),
}


def shoot(scene: str, canvas: dict[str, float], folder: Path) -> Iterator[int]:
    """Write the plate of a scene as `folder/SCENE.FFFF.jpg` for every frame of the canvas that has none, and say of each
    that it is there."""
    folder.mkdir(parents=True, exist_ok=True)
    width, height = int(canvas["width"]), int(canvas["height"])
    frames = range(int(canvas["first"]), int(canvas["last"]) + 1)
    paths = {frame: folder / frame_name(scene, frame, "jpg") for frame in frames}
    missing = [frame for frame in frames if not paths[frame].exists()]
    wide = SCENES[scene].draw(width, height) if missing else None
    for frame in missing:
        assert wide is not None
        seconds = (frame - canvas["first"]) / canvas["rate"]
        picture = _window(wide, SCENES[scene], seconds, width, height)
        signal = encode_srgb(_with_grain(picture, frame)) * 255
        levels = np.round(signal).astype(np.uint8)[..., ::-1]
        write_atomically(paths[frame], partial(_write_jpeg, levels))
        yield frame


def _write_jpeg(levels: NDArray[np.uint8], path: Path) -> None:
    done, jpeg = cv2.imencode(".jpg", levels, [cv2.IMWRITE_JPEG_QUALITY, 93])
    if not done:
        raise OSError(f"{path} could not be written")
    path.write_bytes(jpeg.tobytes())


def _window(wide: Light, scene: Scene, seconds: float, width: int, height: int) -> Light:
    """The frame's part of the wide view; below the shore the water moves a little."""
    across, down = scene.pan[0] * seconds, scene.pan[1] * seconds
    x = np.arange(width, dtype=np.float32)[None, :] + np.float32(MARGIN - across)
    y = np.arange(height, dtype=np.float32)[:, None] + np.float32(MARGIN - down)
    depth = np.maximum(0, y - MARGIN - scene.shore * height) / height
    ripple = np.sin(y * 0.9 / (0.15 + depth) * 0.05 + seconds * 5.0) + np.sin(
        y * 0.31 + x * 0.013 - seconds * 3.1
    )
    bent = x + ripple * depth * 26
    return cv2.remap(wide, bent, np.broadcast_to(y, bent.shape).copy(), cv2.INTER_LINEAR)


def _with_grain(picture: Light, frame: int) -> Light:
    grain = np.random.Generator(np.random.Philox(key=frame)).standard_normal(
        picture.shape[:2], np.float32
    )
    return picture * (1 + 0.05 * grain[..., None]) + 0.0006 * grain[..., None]
