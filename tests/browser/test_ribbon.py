"""The ribbon: markers, what plays and what is shown, timecode, and loops without a seam."""

from typing import Any

from playwright.sync_api import expect

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Ribbon(OnBench):
    looks_ahead = True

    def recipe(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe

    def go_to(self, frame: int) -> None:
        self.page.get_by_label("Go to frame").fill(str(frame))
        self.page.get_by_label("Go to frame").press("Enter")

    def test_markers(self) -> None:
        """A frame is marked, named, moved, gone to and forgotten."""
        page = self.page
        self.go_to(1020)
        page.get_by_role("button", name="Mark", exact=True).click()
        page.get_by_role("button", name="Marker at frame 1020").click()
        page.get_by_label("What happens here").fill("it strikes")
        page.keyboard.press("Enter")
        page.get_by_label("Frame", exact=True).last.fill("1022")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Go there").click()
        expect(page.get_by_label("Go to frame")).to_have_value("1022")
        self.assertEqual(self.recipe()["markers"], [{"frame": 1022, "says": "it strikes"}])
        page.get_by_role("button", name="Take it away").click()
        self.assertEqual(self.recipe()["markers"], [])

    def test_less_time_and_more(self) -> None:
        """Half the frames are shown, those about the current one; the window follows the frame."""
        page = self.page
        self.go_to(1040)
        page.get_by_role("button", name="Show less time").click()
        page.get_by_text("25 shown").wait_for()
        track = page.get_by_role("slider", name="Frame")
        box = track.bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + 1, box["y"] + 40)
        expect(page.get_by_label("Go to frame")).not_to_have_value("1040")
        first = int(page.get_by_label("Go to frame").input_value())
        self.assertTrue(1016 <= first <= 1026, first)
        page.keyboard.press("Home")
        page.get_by_role("slider", name="Frame").get_by_text("1001").wait_for()
        page.get_by_role("button", name="Show more time").click()
        page.get_by_text("50 shown").wait_for()

    def test_some_frames_play(self) -> None:
        """Playing stays within the range; what comes late is said, and all can play again."""
        page = self.page
        last = page.get_by_role("button", name="Plays to frame 1050")
        last.focus()
        for _ in range(4):
            page.keyboard.press("Shift+ArrowLeft")
        page.get_by_role("button", name="Plays to frame 1010").wait_for()
        page.keyboard.press("Home")
        self.wait_until(
            lambda: (
                page.get_by_test_id("computed").inner_text().startswith(("1", "2", "3", "4", "5"))
                and int(page.get_by_test_id("computed").inner_text().split()[0]) >= 10
            ),
            "the range to be computed",
        )
        page.get_by_label("Play", exact=True).click()
        seen = set()
        for _ in range(60):
            seen.add(int(page.get_by_label("Go to frame").input_value()))
            page.wait_for_timeout(20)
        page.get_by_label("Stop", exact=True).click()
        self.assertGreater(len(seen), 6)
        self.assertLessEqual(max(seen), 1010)
        page.get_by_role("button", name="Play all").click()
        page.get_by_role("button", name="Plays to frame 1050").wait_for()

    def test_drop_frame_timecode(self) -> None:
        """At 29.97 a second frame 2000 is 20 frames after 66 s, and two numbers more are dropped."""
        page = self.page
        page.get_by_role("button", name="Settings of the shot").click()
        page.get_by_label("Last frame").fill("2000")
        page.get_by_label("Last frame").press("Enter")
        page.get_by_label("Frames a second").select_option("29.97")
        page.get_by_label("Timecode drops numbers").check()
        page.keyboard.press("Escape")
        page.keyboard.press("End")
        page.get_by_text("00:01:06;22").wait_for()
        self.assertTrue(self.recipe()["canvas"]["drop_frame"])

    def test_a_loop_without_a_seam(self) -> None:
        """The check sees the seam of a boiling bolt, and none once the shot is made to loop."""
        page = self.page
        page.get_by_role("button", name="Seam", exact=True).click()
        page.get_by_text("The seam shows.").wait_for()
        page.get_by_role("button", name="Make it loop").click()
        page.get_by_text("No seam shows.").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Seam over 12").wait_for()
        self.assertEqual(self.recipe()["loop"], 12)


class SavesData(OnBench):
    def test_nothing_is_computed_that_is_not_wanted(self) -> None:
        """Where the browser asks to save data, a bench that rests computes no other frames; as soon as they are played it
        does."""
        page = self.page
        computed = page.get_by_test_id("computed")
        page.wait_for_timeout(3000)
        self.assertLessEqual(int(computed.inner_text().split()[0]), 2)
        page.get_by_label("Play", exact=True).click()
        self.wait_until(lambda: int(computed.inner_text().split()[0]) > 5, "frames to play")
        page.get_by_label("Stop", exact=True).click()
