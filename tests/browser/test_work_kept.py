"""No work is lost: offline, killed, slowed down, with problems, in another tab."""

import re
import threading
import time

from playwright.sync_api import Page, Route

from handful.studio.shots.models import Revision, Shot
from tests.browser.test_bench import OnBench

SAVES = re.compile(r"/api/v1/shots/[0-9a-f-]{36}$")


class WorkKept(OnBench):
    def type_width(self, text: str, page: Page | None = None) -> None:
        page = page or self.page
        page.get_by_role("button", name="width:").first.click()
        field = page.get_by_label("Value", exact=True)
        field.fill(text)
        field.press("Enter")
        page.keyboard.press("Escape")

    def width(self) -> float | None:
        width: float | None = Shot.objects.get().recipe["layers"][0]["source"].get("width")
        return width

    def saved_width(self, wanted: float) -> None:
        self.wait_until(lambda: self.width() == wanted, f"a width of {wanted} to be saved")

    def is_kept(self) -> bool:
        """Whether there is unsaved work on the device."""
        script = """() => new Promise((done) => {
          const asked = indexedDB.open('handful')
          asked.onsuccess = () => {
            const store = asked.result.transaction('unsaved').objectStore('unsaved')
            store.count().onsuccess = (event) => { asked.result.close(); done(event.target.result) }
          }
        })"""
        return int(self.page.evaluate(script)) > 0

    def go_offline(self) -> None:
        """Requests fail, and what the console says of that is no complaint."""
        self.context.set_offline(True)
        self.addCleanup(self.complaints.clear)

    def tearDown(self) -> None:
        self.complaints = [
            says for says in self.complaints if "ERR_" not in says and "422" not in says
        ]
        super().tearDown()

    def test_offline_and_left(self) -> None:
        """A change made offline is sent once the device is online, although the bench was left."""
        page = self.page
        self.go_offline()
        self.type_width("11")
        page.get_by_text("Not saved.").wait_for()
        page.get_by_role("link", name="Shots").click()
        page.get_by_role("heading", name="Shots", exact=True).wait_for()
        self.assertNotEqual(self.width(), 11)
        self.context.set_offline(False)
        self.saved_width(11)
        self.wait_until(lambda: not self.is_kept(), "the device to forget what is saved")

    def test_a_killed_tab(self) -> None:
        """A tab that ends with unsaved work: the next one brings it back and saves it."""
        address = self.page.url
        self.go_offline()
        self.type_width("12")
        self.wait_until(self.is_kept, "the change to be kept")
        self.page.close(run_before_unload=False)
        self.context.set_offline(False)
        self.page = self.new_page()
        self.page.goto(address)
        self.page.get_by_text("Work that was not saved yet has been brought back.").wait_for()
        self.page.get_by_role("button", name="width: 12 px").wait_for()
        self.saved_width(12)

    def test_another_tab_sends_it(self) -> None:
        """Whatever screen another tab shows, it sends what a tab that is gone left."""
        self.go_offline()
        self.type_width("13")
        self.wait_until(self.is_kept, "the change to be kept")
        self.page.close(run_before_unload=False)
        self.context.set_offline(False)
        self.page = self.new_page()
        self.page.goto(f"{self.live_server_url}/renders")
        self.saved_width(13)

    def test_a_tab_that_lives_keeps_its_own(self) -> None:
        """Work of a tab that is still open is its own: another tab neither takes nor sends it."""
        self.go_offline()
        self.type_width("14")
        self.wait_until(self.is_kept, "the change to be kept")
        self.page.route(SAVES, lambda route: route.abort())
        self.context.set_offline(False)
        other = self.new_page()
        other.goto(f"{self.live_server_url}/renders")
        other.get_by_role("heading", name="Renders").wait_for()
        other.wait_for_timeout(1500)
        self.assertNotEqual(self.width(), 14)
        self.page.unroute(SAVES)
        self.saved_width(14)

    def test_a_slow_save_while_one_goes_on(self) -> None:
        """Saves are one after another: nobody is told of a conflict with oneself."""
        under_way, most = [0], [0]
        lock = threading.Lock()

        def slow(route: Route) -> None:
            if route.request.method == "PUT":
                with lock:
                    under_way[0] += 1
                    most[0] = max(most[0], under_way[0])
                time.sleep(1.3)
                response = route.fetch()
                with lock:
                    under_way[0] -= 1
                route.fulfill(response=response)
            else:
                route.continue_()

        self.page.route(SAVES, slow)
        for width in ("5", "6", "7", "8"):
            self.type_width(width)
            self.page.wait_for_timeout(700)
        self.saved_width(8)
        self.saved(self.page)
        self.assertEqual(most[0], 1)
        self.assertEqual(self.page.get_by_role("dialog").count(), 0)
        numbers = list(Revision.objects.order_by("number").values_list("number", flat=True))
        self.assertEqual(numbers, list(range(1, len(numbers) + 1)))

    def test_problems_do_not_block_saving(self) -> None:
        """A formula that cannot be read is kept as a draft with its problem told, over a reload, and
        what comes after it is kept too; once it is right all is saved."""
        page = self.page
        page.get_by_role("button", name="wander:").click()
        page.get_by_role("radio", name="Formula").click()
        field = page.get_by_label("Formula of t, f, fps")
        field.fill("still +")
        field.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_text("Kept as a draft. Bolt, wander").wait_for()
        self.type_width("9")
        self.wait_until(
            lambda: (Shot.objects.get().draft or {}).get("layers", [{}])[0]["source"].get("width") == 9,
            "the draft",
        )  # fmt: skip
        self.assertEqual((Shot.objects.get().revision, self.width()), (1, None))
        page.reload()
        page.get_by_text("Kept as a draft. Bolt, wander").wait_for()
        page.get_by_role("button", name="width: 9 px").wait_for()
        page.get_by_role("button", name="Render…").click()
        page.get_by_text("Revision 1 is rendered").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("^wander:")).click()
        field = page.get_by_label("Formula of t, f, fps")
        field.fill("still + 1")
        field.press("Enter")
        page.keyboard.press("Escape")
        self.saved_width(9)
        self.saved(page)
        self.assertIsNone(Shot.objects.get().draft)

    def test_a_large_recipe_left_at_once(self) -> None:
        """More than browsers send of a page that goes is kept on the device and sent by the next one."""
        page = self.page
        address = page.url
        shot = Shot.objects.get()
        marks = [[float(i), i * 0.37, i * 0.73] for i in range(6000)]
        shot.recipe["tracks"] = [{"name": "long", "marks": marks}]
        shot.save()
        page.reload()
        page.get_by_text("Strikes from").wait_for()
        self.go_offline()
        self.type_width("10")
        self.wait_until(self.is_kept, "the change to be kept")
        page.goto("about:blank")
        self.context.set_offline(False)
        page.goto(address)
        page.get_by_role("button", name="width: 10 px").wait_for()
        self.saved_width(10)

    def test_signed_out_elsewhere(self) -> None:
        """Another tab signs out and in again: its token is another one, and saving goes on."""
        self.context.clear_cookies(name="csrftoken")
        self.type_width("15")
        self.saved_width(15)
        self.complaints.clear()
