"""Every step beside the time of a copy, and beside the same operation of a reference library."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import cv2
import numpy as np
from scipy import ndimage

from bench.rows import Row, median_seconds, milliseconds
from handful.engine import read_recipe
from handful.engine.kinds import At, Pointwise, Step, Timed, changed, steps
from handful.engine.picture import Region, Tile
from handful.engine.render.resolve import Resolver, Take

CANVAS = Region(0, 0, 1920, 1080)
POINTWISE_COPIES, OTHER_COPIES = 6.0, 25.0

_WIDEST: dict[str, dict[str, Any]] = {
    "blur": {"deviation": 250},
    "directional": {"length": 800, "direction": 20},
    "zoom": {"amount": 60},
    "spin": {"angle": 90},
    "defocus": {"radius": 200},
    "glow": {"lobes": [{"radius": 8}, {"radius": 140}, {"radius": 500}]},
    "flow": {"by": "other", "length": 300},
    "feather": {"width": 200},
    "edge band": {"width": 200},
    "grow": {"distance": 60},
    "white balance": {"kelvin": 3200},
    "displace": {"by": "other"},
}
"""Settings with which a step has the most to do; the others are taken as they come."""

_FUSED = ("exposure", "levels", "grade", "ramp", "vignette")


def steps_bench() -> Iterator[Row]:
    """Each step on one full float picture of 1920 x 1080, as a multiple of copying it."""
    picture = picture_of_light()
    tile = Tile(picture, CANVAS)
    copy = median_seconds(lambda: picture.copy(), 15)
    at = At(CANVAS, 1.0, ("bench",), CANVAS)
    references = _references(picture)
    for name, kind in steps().items():
        if issubclass(kind, Timed) and kind is not steps()["trail"]:
            continue
        step = made(name)
        taken = median_seconds(work(step, tile, at), 5)
        most = POINTWISE_COPIES if issubclass(kind, Pointwise) else OTHER_COPIES
        what, reference = references.get(name, ("no such operation", None))
        beside = what
        if reference is not None:
            theirs = median_seconds(reference, 1)
            beside = f"{milliseconds(theirs)} {what}, {theirs / taken:.2g} × ours"
        copies = taken / copy
        yield Row(name, milliseconds(taken), beside, copies, f"≤ {most:g} copies", copies <= most)
    run = [made(name) for name in _FUSED]
    apart = median_seconds(lambda: [step.apply(tile, at) for step in run], 5)
    fused = median_seconds(
        lambda: changed(tile, [step.changer(at) for step in run if isinstance(step, Pointwise)]), 5
    )
    yield Row(
        f"{len(run)} pointwise steps in a row", milliseconds(fused), f"{milliseconds(apart)} one by one",
        fused / apart, "< 1", fused < apart,
    )  # fmt: skip
    yield Row("a copy", milliseconds(copy), "itself", 1.0, "printed", True)


def picture_of_light() -> np.ndarray:
    """Light and cover everywhere: no step can leave anything out."""
    random = np.random.default_rng(1)
    small = random.random((68, 120, 4), np.float32)
    picture = np.clip(cv2.resize(small, (1920, 1080), interpolation=cv2.INTER_CUBIC), 0.01, 1)
    return picture.astype(np.float32)


def made(name: str) -> Step:
    """A step with plain settings, as a recipe would give it to the engine."""
    written = {"kind": name, "id": "s"} | _WIDEST.get(name, {})
    source = {"kind": "bolt"}
    layers = [
        {"id": "layer", "name": "Layer", "source": source, "steps": [written]},
        {"id": "other", "name": "Other", "source": source},
    ]
    recipe = read_recipe({"version": 3, "name": "bench", "layers": layers})
    written_layer = recipe.layers[0]
    frame = float(recipe.canvas.first)
    return Resolver(recipe).step(written_layer.steps[0], written_layer, Take.of(frame))


def work(step: Step, tile: Tile, at: At) -> Callable[[], object]:
    """What a step has to do for a picture."""
    if isinstance(step, Timed):
        tiles = (tile,) * len(step.moments(1010, 1001, 1050))
        return lambda: step.merge(tiles, at)
    names_a_layer = any(getattr(step, s.name) for s in step.settings if s.type == "layer")
    others = (tile,) if names_a_layer else ()
    return lambda: step.apply(tile, at, *others)


def _references(picture: np.ndarray) -> dict[str, tuple[str, Callable[[], object]]]:
    """The same operation elsewhere, where there is one; lengths and radii are those of `_WIDEST`."""
    matrix = cv2.getRotationMatrix2D((960, 540), 20, 0.9)
    projective = np.vstack([matrix, (1e-5, 0, 1)])
    y, x = np.mgrid[:1080, :1920].astype(np.float32)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (121, 121))
    cover = np.ascontiguousarray(picture[..., 3])
    table = np.linspace(0, 1, 4096).astype(np.float32)
    aperture = disc.astype(np.float32) / disc.sum()
    return {
        "blur": ("cv2.GaussianBlur, 40 px", lambda: cv2.GaussianBlur(picture, (0, 0), 40)),
        "directional": (
            "scipy uniform_filter1d, along a row",
            lambda: ndimage.uniform_filter1d(picture, 800, axis=1),
        ),
        "defocus": (
            "cv2.filter2D, 60 px, one channel",
            lambda: cv2.filter2D(cover, -1, aperture),
        ),
        "sharpen": ("cv2.GaussianBlur, 2 px", lambda: cv2.GaussianBlur(picture, (0, 0), 2)),
        "warp": ("cv2.remap, cubic", lambda: cv2.remap(picture, x + 3.3, y + 2.1, cv2.INTER_CUBIC)),
        "place": (
            "cv2.warpAffine, cubic",
            lambda: cv2.warpAffine(picture, matrix, (1920, 1080), flags=cv2.INTER_CUBIC),
        ),
        "card": (
            "cv2.warpPerspective, cubic",
            lambda: cv2.warpPerspective(picture, projective, (1920, 1080), flags=cv2.INTER_CUBIC),
        ),
        "lens": (
            "cv2.remap, cubic",
            lambda: cv2.remap(picture, x * 0.98, y * 0.98, cv2.INTER_CUBIC),
        ),
        "flip": ("cv2.flip", lambda: cv2.flip(picture, 1)),
        "hue": ("cv2.transform", lambda: cv2.transform(picture, np.eye(4, dtype=np.float32))),
        "white balance": (
            "cv2.transform",
            lambda: cv2.transform(picture, np.eye(4, dtype=np.float32)),
        ),
        "curves": ("numpy.interp", lambda: np.interp(picture[..., :3], table, table)),
        "levels": ("numpy power", lambda: np.power(picture, np.float32(0.8))),
        "grade": ("numpy power", lambda: np.power(picture * 1.1 + 0.01, np.float32(0.8))),
        "exposure": ("cv2.multiply", lambda: cv2.multiply(picture, 2.0)),
        "grow": ("cv2.dilate, 60 px, cover", lambda: cv2.dilate(cover, disc)),
        "feather": (
            "cv2.GaussianBlur, 100 px, cover",
            lambda: cv2.GaussianBlur(cover, (0, 0), 100),
        ),
    }
