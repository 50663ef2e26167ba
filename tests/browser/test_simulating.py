"""What is told on the bench while something with memory is gone through."""

import re

from playwright.sync_api import expect

from tests.browser.base import MOST_WAIT
from tests.browser.test_bench import OnBench

LISTEN = """() => {
  window.said = []
  const note = () => {
    for (const each of document.querySelectorAll('[role=status]')) window.said.push(each.textContent)
  }
  new MutationObserver(note).observe(document.body, { childList: true, subtree: true, characterData: true })
}"""
"""Notes whatever is said from now on."""


class Simulating(OnBench):
    looks_ahead = True

    def test_a_jump_into_the_unknown(self) -> None:
        """Another frame stands in at once and is named as that; then the true one is there, and the ribbon tells
        which frames have been simulated."""
        page = self.page
        told = page.get_by_role("status").filter(has_text="Simulating")
        simulated = page.get_by_role("img", name=re.compile("^Simulated: "))
        expect(simulated).to_have_count(0)
        self.pick("a layer", "Fire")
        page.get_by_role("region", name="Fire").wait_for()
        expect(simulated).to_be_visible(timeout=1000 * MOST_WAIT)
        expect(told).to_have_count(0, timeout=1000 * MOST_WAIT)
        page.keyboard.press("Escape")
        page.get_by_role("slider", name="Frame").focus()
        page.evaluate(LISTEN)
        page.keyboard.press("End")
        self.wait_until(
            lambda: any(
                re.search(r"\d+ % · frame \d+ stands in", text) for text in page.evaluate("said")
            ),
            "another frame that stands in",
        )  # however short that is
        expect(told).to_have_count(0, timeout=1000 * MOST_WAIT)
        count = page.get_by_role("slider", name="Frame").get_attribute("aria-valuemax")
        assert count is not None
        frames = int(count) - 1000
        page.get_by_role("img", name=f"Simulated: {frames} of {frames} frames").wait_for(
            timeout=1000 * MOST_WAIT
        )
        page.get_by_role("button", name="kelvin: 1900 K").focus()
        page.keyboard.type("3000")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.wait_for_timeout(600)
        expect(told).to_have_count(0)
