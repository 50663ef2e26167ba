"""Fire on the bench: it burns where it is put, its look answers at once, and any frame can be had."""

import numpy as np

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Fire(OnBench):
    def foot(self) -> np.ndarray:
        """The mean colour of what is above the middle of the foot."""
        picture = self.pixels(self.frame)
        height, width = picture.shape[:2]
        part = picture[height * 6 // 10 : height * 8 // 10, width * 9 // 20 : width * 11 // 20]
        return part.reshape(-1, 3).mean(0)

    def test_it_burns(self) -> None:
        """Warm at first, bluer when it is hotter; on the last frame and back on the first it is there."""
        page = self.page
        self.pick("a layer", "Fire")
        page.get_by_role("region", name="Fire").wait_for()
        self.wait_until(lambda: self.foot()[0] > self.foot()[2] + 40, "flames")
        warm = self.foot()
        page.get_by_role("button", name="kelvin: 1900 K").focus()
        page.keyboard.type("5000")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.wait_until(lambda: self.foot()[2] > warm[2] + 40, "hotter flames")
        for key in ("End", "Home"):
            page.keyboard.press(key)
            self.wait_until(lambda: self.foot().max() > 60, f"flames after {key}")
        self.saved(page)
        source = Shot.objects.get().recipe["layers"][1]["source"]
        self.assertEqual((source["kind"], source["kelvin"]), ("fire", 5000))

    def test_without_fuel_it_goes_out(self) -> None:
        """No fuel at all is no flame; a layer that is named as its walls is offered like any other."""
        page = self.page
        self.pick("a layer", "Fire")
        self.wait_until(lambda: self.foot()[0] > 60, "flames")
        page.get_by_role("button", name="feed: 100 %").focus()
        page.keyboard.type("0")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.wait_until(lambda: self.foot()[0] < 30, "nothing but the bolt")
        walls = page.get_by_role("region", name="Fire").get_by_label("walls")
        self.assertIn("Bolt", walls.locator("option").all_inner_texts())
