"""Noise on the bench: what drives other layers is seen as what it is, and what boils returns with a loop."""

from typing import Any

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Textures(OnBench):
    def _noise(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe["layers"][1]["source"]

    def test_a_height_is_grey_around_nothing(self) -> None:
        """As light it shines; as a height it is looked at alone in greys, and adds no light to the rest."""
        page = self.page
        alone = self.settled(self.frame).mean()
        self.pick("a layer", "Noise")
        self.wait_until(lambda: self.pixels(self.frame).mean() > alone + 60, "its light")
        card = page.get_by_role("region", name="Noise")
        card.get_by_role("button", name="comes as: light").click()
        page.get_by_role("radio", name="height").click()
        page.keyboard.press("Escape")
        self.wait_until(
            lambda: abs(self.pixels(self.frame).mean() - alone) < 3, "the bolt alone again"
        )
        tile = page.get_by_label("Picture of Noise", exact=True)
        self.wait_until(lambda: 60 < self.pixels(tile).mean() < 190, "greys around the middle")
        self.assertEqual(self._noise()["comes_as"], "height")

    def test_it_returns_with_the_loop(self) -> None:
        """Offered where the shot loops, in one press, and not again once it does."""
        page = self.page
        self.pick("a layer", "Noise")
        press = page.get_by_role("button", name="Return with the loop")
        self.assertEqual(press.count(), 0)
        page.get_by_role("button", name="Seam", exact=True).click()
        page.get_by_role("button", name="Make it loop").click()
        page.get_by_text("No seam shows.").wait_for()
        page.keyboard.press("Escape")
        press.click()
        press.wait_for(state="detached")
        source = self._noise()
        self.assertEqual(source["returns"], 1)
        self.assertAlmostEqual(source["boil"]["per_second"], 0.5)
        page.get_by_role("button", name="Undo").click()
        press.wait_for()
