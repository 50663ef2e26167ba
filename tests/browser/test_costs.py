"""What a picture costs is told on the bench before it is computed, and it is shown smaller until it is wanted whole."""

import re
from unittest import mock

from playwright.sync_api import expect

from handful.studio.preview import service
from tests.browser.test_bench import OnBench


class Dear(OnBench):
    def _wide(self) -> int:
        return int(self.frame.evaluate("picture => picture.width"))

    def _sow(self, seed: str) -> None:
        """Another recipe, of which nothing is known."""
        self.value("seed").click()
        self.page.keyboard.type(seed)
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Escape")

    def test_told_shown_smaller_and_whole(self) -> None:
        """With a budget that no picture keeps within: it is told, is there at a smaller size, and whole once that is
        asked for; the frame after it is smaller again, and another recipe whole once there is time."""
        self.settled(self.frame)  # the first picture is smaller
        page, whole = self.page, self._wide()
        told = page.get_by_role("status").filter(has_text="This frame costs about")
        expect(told).to_have_count(0)
        with mock.patch.object(service, "BUDGET_SECONDS", 0):
            self._sow("7")
            expect(told).to_contain_text(
                re.compile(r"costs about \d+ s; shown at (half|an? \w+) size")
            )
            self.wait_until(lambda: self._wide() < 0.6 * whole, "a smaller picture")
            page.get_by_role("button", name="Show it whole").click()
            self.wait_until(lambda: self._wide() == whole, "the whole picture")
            expect(told).to_have_count(0)
            page.get_by_role("slider", name="Frame").focus()
            page.keyboard.press("ArrowRight")
            expect(told).to_have_count(1)
            self.wait_until(lambda: self._wide() < 0.6 * whole, "a smaller picture again")
        self._sow("8")
        expect(told).to_have_count(0)
        self.wait_until(lambda: self._wide() == whole, "another recipe, in time and whole")
