"""The bench as a person meets it: measured in Chromium, on copies of the demo shots."""

from __future__ import annotations

import gzip
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, sync_playwright

from bench.rows import COPY_MS, Row, median_seconds
from bench.start import ROOT, running_demo

SHOTS = ("Mast strike", "Lamp sweep", "Tide feed")

CHANGES = 200
CHANGES_A_DRAG = 20
VIEWPORT = {"width": 1400, "height": 990}
"""So large that the picture is 960 px wide or a little more, and computed at half size."""

ARGUMENTS = (
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
)  # fmt: skip

_LISTEN = """() => {
  window.shown = []
  window.moved = 0
  window.onShown = () => {}
  window.whenShown = (least, wait) => new Promise((done) => {
    const look = () => {
      const found = window.shown.find((each) => each.scale >= least)
      if (found) done(found.painted - window.moved)
    }
    window.onShown = look
    look()
    setTimeout(() => done(null), wait)
  })
  new PerformanceObserver((list) => {
    for (const mark of list.getEntriesByName('picture shown')) {
      requestAnimationFrame(() => {
        const after = new MessageChannel()
        after.port1.onmessage = () => {
          window.shown.push({ painted: performance.now(), scale: mark.detail.scale })
          window.onShown()
        }
        after.port2.postMessage(0)
      })
    }
  }).observe({ entryTypes: ['mark'] })
  for (const kind of ['pointermove', 'pointerup']) {
    window.addEventListener(kind, (event) => { window.moved = event.timeStamp }, true)
  }
}"""
"""Notes when a picture that was shown has been painted, which is in the first message after the frame
that draws it, and when the pointer last moved."""

_WAIT = 3000


def bench() -> Iterator[Row]:
    """Changes on each demo shot, sharpness after letting go, first pictures, playing, the bundle."""
    copy = 1000 * median_seconds(np.ones((1080, 1920, 4), np.float32).copy, 15)
    with running_demo() as address, _page(address) as page:
        for name in SHOTS:
            with _copy_of(page, address, name) as shot:
                yield _opening(page, shot, name, copy)
                yield from _changing(page, name, copy)
        with _copy_of(page, address, SHOTS[0]) as shot:
            page.goto(shot)
            yield _playing(page)
    yield _bundle()


def tab() -> Iterator[Row]:
    """The memory of the tab after one minute and after ten of playing round and round."""
    with running_demo() as address, _page(address) as page:
        with _copy_of(page, address, SHOTS[0]) as shot:
            page.goto(shot)
            _play_all(page)
            page.wait_for_timeout(60_000)
            early = _renderer_bytes()
            page.wait_for_timeout(540_000)
            late = _renderer_bytes()
    growth = late / early
    yield Row(
        "memory of the tab after ten minutes", f"{late / 2**20:.0f} MiB",
        f"{early / 2**20:.0f} MiB after one minute", growth, "no growth (< 1.1 ×)", growth < 1.1,
    )  # fmt: skip


@contextmanager
def _page(address: str) -> Iterator[Page]:
    with sync_playwright() as player:
        browser = player.chromium.launch(
            executable_path=os.environ["HANDFUL_CHROMIUM"], args=list(ARGUMENTS)
        )
        # What is waited for is said in the page.
        page = browser.new_page(viewport=VIEWPORT, bypass_csp=True)  # type: ignore[arg-type]
        page.add_init_script(f"({_LISTEN})()")
        page.goto(address)
        page.get_by_role("button", name="Continue as the demo artist").click()
        page.get_by_role("button", name="New shot").first.wait_for()
        page.wait_for_load_state("networkidle")
        yield page
        browser.close()


@contextmanager
def _copy_of(page: Page, address: str, name: str) -> Iterator[str]:
    """A copy of a shot, which is gone afterwards, and its address."""
    headers = {"X-CSRFToken": _token(page)}
    shots = page.request.get(f"{address}/api/v1/shots").json()
    original = next(shot["id"] for shot in shots if shot["name"] == name)
    made = page.request.post(f"{address}/api/v1/shots/{original}/duplicate", headers=headers)
    copy = made.json()["id"]
    try:
        yield f"{address}/shots/{copy}"
    finally:
        page.goto(address)
        page.request.delete(f"{address}/api/v1/shots/{copy}", headers=headers)


def _token(page: Page) -> str:
    cookies = page.context.cookies()
    return next(str(cookie["value"]) for cookie in cookies if cookie["name"] == "csrftoken")


def _within(name: str, ms: float, copy: float, aim: float) -> Row:
    """A wait beside the copy of a picture in the same run: the aim is as many copies as it would be on
    a machine that copies one in `COPY_MS`."""
    copies, most = ms / copy, aim / COPY_MS
    return Row(
        name, f"{ms:.0f} ms", f"{copy:.1f} ms a copy", copies,
        f"< {most:.0f} copies ({aim} ms)", copies < most,
    )  # fmt: skip


def _opening(page: Page, shot: str, name: str, copy: float) -> Row:
    """From asking for the page to the first picture on the screen, program and data included."""
    page.goto(shot)
    page.wait_for_function("window.shown.length > 0", timeout=20_000)
    painted = page.evaluate("window.shown[0].painted")
    return _within(f"{name}: opened to its first picture", painted, copy, 1500)


def _changing(page: Page, name: str, copy: float) -> Iterator[Row]:
    """Values of all layers dragged: from each move of the pointer to its picture, painted."""
    taken: list[float] = []
    sharp: list[float] = []
    still = 0
    while len(taken) < CHANGES and still < 60:
        for layer in page.get_by_label("Layers").locator("button[aria-pressed][draggable]").all():
            layer.click()
            page.wait_for_timeout(250)
            values = page.get_by_label("Recipe").locator("p button[data-arrows]")
            place = len(sharp) % max(1, values.count())
            before = len(taken)
            _drag(page, values.nth(place), taken, sharp)
            still += len(taken) == before
            if len(taken) >= CHANGES:
                break
    page.wait_for_timeout(500)
    for what, share, aim in (("median", 50, 80), ("95th percentile", 95, 180)):
        changes = f"{name}: change to picture on the screen, {what} of {len(taken)}"
        yield _within(changes, float(np.percentile(taken, share)), copy, aim)
    for what, value, aim in (
        ("median", float(np.median(sharp)), 250),
        ("slowest", max(sharp), 500),
    ):
        yield _within(f"{name}: sharp after {len(sharp)} drags, {what}", value, copy, aim)


def _drag(page: Page, value: Locator, taken: list[float], sharp: list[float]) -> None:
    """Drag on a value; a move that changes no picture, as beyond a range, is not counted."""
    value.scroll_into_view_if_needed()
    box = value.bounding_box()
    if box is None:
        return
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 4, y)
    page.wait_for_timeout(200)
    for i in range(1, CHANGES_A_DRAG + 1):
        page.evaluate("window.shown.length = 0")
        page.mouse.move(x + 4 + 3 * i, y)
        painted = page.evaluate("window.whenShown(0, 400)")
        if painted is not None:
            taken.append(painted)
    page.evaluate("window.shown.length = 0")
    page.mouse.up()
    painted = page.evaluate(f"window.whenShown(0.5, {_WAIT})")
    if painted is not None:
        sharp.append(painted)


def _playing(page: Page) -> Row:
    """Computed frames played for four seconds: when each was painted, beside when it was due."""
    rate = 25
    _play_all(page)
    page.evaluate("window.shown.length = 0")
    page.wait_for_timeout(4000)
    painted = np.array(page.evaluate("window.shown.map((each) => each.painted)"))
    steps = np.diff(painted)
    late = int((steps > 1.5 * 1000 / rate).sum())
    measured = 1000 / float(steps.mean())
    return Row(
        f"{SHOTS[0]}: computed frames played at {rate} a second", f"{measured:.2f} frames/s",
        f"{late} of {len(steps)} late by half a frame", measured / rate,
        "no frame dropped", late == 0 and abs(measured - rate) < 0.25,
    )  # fmt: skip


def _play_all(page: Page) -> None:
    computed = page.get_by_test_id("computed")
    page.wait_for_function(
        "([box]) => { const [a, b] = box.textContent.match(/\\d+/g); return a === b }",
        arg=[computed.element_handle()],
        timeout=180_000,
    )
    page.get_by_label("Play", exact=True).click()
    page.wait_for_timeout(500)


def _renderer_bytes() -> int:
    """What the pages of this bench's own Chromium hold in memory."""
    parents, renderers = {}, {}
    for process in Path("/proc").glob("[0-9]*"):
        try:
            name = int(process.name)
            parents[name] = int((process / "stat").read_text().rpartition(")")[2].split()[1])
            if b"--type=renderer" in (process / "cmdline").read_bytes():
                pages = int((process / "statm").read_text().split()[1])
                renderers[name] = pages * os.sysconf("SC_PAGE_SIZE")
        except OSError:
            continue

    def is_own(process: int) -> bool:
        while process in parents and process != os.getpid():
            process = parents[process]
        return process == os.getpid()

    return sum(held for process, held in renderers.items() if is_own(process))


def _bundle() -> Row:
    scripts = list((ROOT / "web" / "dist" / "assets").glob("index-*.js"))
    packed = sum(len(gzip.compress(script.read_bytes())) for script in scripts)
    whole = sum(script.stat().st_size for script in scripts)
    return Row(
        "main bundle, gzipped", f"{packed / 1000:.0f} kB", f"{whole / 1000:.0f} kB unpacked",
        packed / whole, "< 350 kB", packed < 350_000,
    )  # fmt: skip
