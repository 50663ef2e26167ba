"""The engine's easing and blends beside what Chromium computes for the same W3C definitions."""

import base64
import io
from typing import Any

import numpy as np
from PIL import Image

from handful.engine.mix import Part, mixed
from handful.engine.picture import Region, Tile
from handful.engine.values import cubic_bezier, eased
from handful.engine.values.easing import Ease
from tests.browser.base import BrowserTest

PROGRESS = """(easing) => {
  const animation = document.body.animate([{ opacity: 0 }, { opacity: 1 }], { duration: 1000, easing, fill: 'both' })
  animation.pause()
  const found = []
  for (let at = 0; at <= 1000; at += 50) {
    animation.currentTime = at
    found.push(animation.effect.getComputedTiming().progress)
  }
  animation.cancel()
  return found
}"""

BLENDS = {
    "normal": "normal", "screen": "screen", "multiply": "multiply", "overlay": "overlay",
    "soft light": "soft-light", "hard light": "hard-light", "lighten": "lighten",
    "darken": "darken", "dodge": "color-dodge", "burn": "color-burn",
    "difference": "difference", "exclusion": "exclusion",
}  # fmt: skip
SIDE = 24


class Chromium(BrowserTest):
    def test_easing(self) -> None:
        """Web Animations' progress for cubic-bezier() and its named easings, to a millionth."""
        self.page.set_content("<body></body>")
        for curve in (
            (0.42, 0, 0.58, 1),
            (0.25, 0.1, 0.25, 1),
            (0.1, 0.7, 1, 0.1),
            (0.5, -0.8, 0.3, 1.9),
        ):
            x1, y1, x2, y2 = curve
            theirs = self.page.evaluate(PROGRESS, f"cubic-bezier({x1},{y1},{x2},{y2})")
            ours = [cubic_bezier(x1, y1, x2, y2, at / 1000) for at in range(0, 1001, 50)]
            np.testing.assert_allclose(ours, theirs, atol=2e-6)
        eases: dict[Ease, str] = {"linear": "linear", "smooth": "ease-in-out"}
        for ease, easing in eases.items():
            theirs = self.page.evaluate(PROGRESS, easing)
            ours = [eased(ease, at / 1000) for at in range(0, 1001, 50)]
            np.testing.assert_allclose(np.array(ours), theirs, atol=2e-6)

    def test_blends(self) -> None:
        """mix-blend-mode of a half-covering picture over an opaque one, within 8-bit rounding."""
        random = np.random.default_rng(12)
        below = random.integers(0, 256, (SIDE, SIDE, 4)).astype(np.uint8)
        above = random.integers(0, 256, (SIDE, SIDE, 4)).astype(np.uint8)
        below[..., 3] = 255
        above[: SIDE // 2, :, 3] = 255
        for blend, mode in BLENDS.items():
            with self.subTest(blend):
                self.page.set_content(
                    "<style>body{margin:0} div{isolation:isolate;position:relative}"
                    "img{position:absolute;left:0;top:0;image-rendering:pixelated}</style>"
                    f"<div><img src='{_address(below)}'><img style='mix-blend-mode:{mode}' "
                    f"src='{_address(above)}'></div>"
                )
                self.page.wait_for_function("[...document.images].every((i) => i.complete)")
                clip: Any = {"x": 0, "y": 0, "width": SIDE, "height": SIDE}
                with Image.open(io.BytesIO(self.page.screenshot(clip=clip))) as image:
                    theirs = np.asarray(image.convert("RGB")).astype(float)
                ours = _mixed(below, above, blend)[..., :3] * 255
                error = np.abs(ours - theirs)
                self.assertLess(float(np.median(error)), 1.0)
                self.assertLess(float(np.percentile(error, 99)), 2.5)


def _address(levels: np.ndarray) -> str:
    file = io.BytesIO()
    Image.fromarray(levels).save(file, "PNG")
    return "data:image/png;base64," + base64.b64encode(file.getvalue()).decode()


def _mixed(below: np.ndarray, above: np.ndarray, blend: str) -> np.ndarray:
    region = Region(0, 0, SIDE, SIDE)
    pictures = []
    for levels in (below, above):
        picture = levels.astype(np.float32) / np.float32(255)
        picture[..., :3] *= picture[..., 3:]
        pictures.append(Tile(picture, region))
    parts = [Part(pictures[0], "normal", 1.0), Part(pictures[1], blend, 1.0)]
    return mixed(parts, region).pixels
