"""The preview: pictures of recipes that may not be saved yet, addressed by what is in them.

A bench first asks where pictures are (`place`): that plans them, which is quick, and gives each an
address made of all that the picture depends on. Then it fetches the addresses. What did not change
keeps its address, so a browser may keep it for ever; and a newer `place` from the same bench makes
pictures that are still being computed for it stop.
"""

from __future__ import annotations

import math
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache, partial
from hashlib import blake2b
from threading import Lock
from typing import Any, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from handful.engine.files import PlateFiles, StillFile, brought_in
from handful.engine.kernels.compiled import thread_count
from handful.engine.mix import bent_plate, beyond, folds
from handful.engine.recipe import Recipe, spans
from handful.engine.render import (
    NO_MEDIA,
    Cache,
    Cost,
    NoRoom,
    PlanError,
    Remembered,
    Seam,
    Stopped,
    cost_of,
    evaluate,
    plan,
    remembered,
    render_frame,
    seam_of,
    standing_in,
)
from handful.engine.render.plan import LEAST_SCALE, canvas_region
from handful.engine.render.view import Warnings, as_jpeg, shown, warnings_of
from handful.studio.memory import in_use
from handful.studio.preview.placings import Placed, Placings, Planned, Wanted
from handful.studio.preview.turns import AT_ONCE, LATER, SOON, Turn, Turns
from handful.studio.states import lasting_states

CACHE_BYTES = 1536 * 1024 * 1024
"""Of all that is kept: pictures and states as they are computed, and those as they are sent."""

MOST_PICTURE_BYTES = 64 * 1024 * 1024
PATIENCE_SECONDS = 0.25
BUDGET_SECONDS = 4.0
"""A picture that is likely to take longer is shown smaller, unless it is wanted whole."""

HASTY_SECONDS = 0.45
"""Within which a picture should be there for a hand that drags, whoever else waits for theirs."""

MOST_SECONDS = 300.0
"""Within which a picture is there, or is given up."""

SMALLEST = 1 / 16
"""No hasty picture is shown smaller than at this scale for want of time."""

_SMALLER, _LITTLE = (2, 4, 8), 1.25
"""Times by which a picture may be made smaller; and no smaller where that saves so little."""
MOST_BENCHES = 1_000
MOST_WAITING = 50
MOST_STILLS = 48
MOST_TOLD = 5_000
TELLING_WIDTH = 96

K = TypeVar("K")
V = TypeVar("V")


class Shown(NamedTuple):
    """A picture as JPEG, and what is to be warned of in it."""

    jpeg: bytes
    warnings: Warnings


class Holds(NamedTuple):
    """Bytes of pictures that are kept, as they are computed and as they are sent; and of the whole process."""

    pictures: int
    process: int


class Looked(NamedTuple):
    """A picture and its address; or one of states at an earlier frame that stands in for it, and what share of the
    states that lead to it are known. Or none, as it is likely to take `seconds`, more than there are: at `scale` it
    would be there in time. One at another `scale` than was wanted is as large as a hasty one can be among many."""

    address: str
    shown: Shown | None
    stands_in: int | None = None
    share: float = 1.0
    seconds: float | None = None
    scale: float | None = None


class _Patience:
    """Whether a picture has taken long enough for something else to be shown meanwhile: only one that states are
    gone through for, and never before one more of them is known."""

    _AT_ALL_EVENTS = 2
    """It is asked before the work begins, and before the first state."""

    def __init__(self, before: Remembered) -> None:
        self._is_endless = before.known == before.states
        self._asked = 0
        self._ends = 0.0

    def __call__(self) -> bool:
        if self._is_endless:
            return False
        now = time.monotonic()
        if not self._asked:
            self._ends = now + PATIENCE_SECONDS
        self._asked += 1
        return self._asked > self._AT_ALL_EVENTS and now > self._ends


class TooLong(PlanError):
    """A picture was not there after all the time that one may take."""

    def __init__(self) -> None:
        super().__init__(
            f"This picture was not there after {MOST_SECONDS / 60:g} minutes and was given up; a smaller one takes less,"
            " and so do fewer layers, fewer moments of a shutter, and grids of less detail."
        )

    def __reduce__(self) -> tuple[type[TooLong], tuple[()]]:
        return TooLong, ()


class Unplaced(LookupError):
    """Nothing is known under this address; place it again."""


class Preview:
    """One for the whole process: its caches are shared by all benches."""

    def __init__(self) -> None:
        self._cache = Cache(CACHE_BYTES - MOST_PICTURE_BYTES, lasting_states())
        self._placed = Placings()
        self._encoded: OrderedDict[str, Shown] = OrderedDict()
        self._encoded_bytes = 0
        self._newest: OrderedDict[str, int] = OrderedDict()
        self._telling: OrderedDict[str, int] = OrderedDict()
        self._waiting: OrderedDict[str, tuple[Placed, Planned]] = OrderedDict()
        self._lock = Lock()
        self._turns = Turns(at_once=thread_count())
        self._planner = Lock()
        self._coming = 0

    def place(self, bench: str, order: int, recipe: Recipe, pictures: list[Wanted]) -> list[str]:
        """The addresses of pictures, for the person whose bench it is. `order` counts up within a bench, which
        is called PERSON/NAME; older work for it stops."""
        addresses = [_address(want.planned(recipe), want) for want in pictures]
        with self._lock:
            _keep(self._newest, bench, max(order, self._newest.get(bench, 0)), MOST_BENCHES)
            for address, want in zip(addresses, pictures, strict=True):
                self._placed.put(bench, (_owner(bench), address), Placed(recipe, want))
        return addresses

    def look(
        self,
        bench: str,
        order: int,
        recipe: Recipe,
        want: Wanted,
        whole: bool = False,
        hasty: bool = False,
    ) -> Looked:
        """One picture at once. Older work for the bench stops; raises `Stopped` once this is older work itself.

        Where much has to be gone through before it, it is shown of the last states that are known by then; whoever
        looks again gets farther. Of one that is likely to take too long only that is told, unless it is wanted `whole`.
        A `hasty` one is smaller where many wait for theirs.
        """
        placed, whose = Placed(recipe, want), _owner(bench)
        with self._lock:
            _keep(self._newest, bench, max(order, self._newest.get(bench, 0)), MOST_BENCHES)
            waited, planned = self._waiting.pop(bench, (None, None))
        # One who looks again goes on with what was planned: a long past takes long to plan.
        if planned is None or waited != placed:
            with self._planning():
                planned = want.planned(recipe)
        address = _address(planned, want)
        if (shown := self._known(address)) is not None:
            self._place_one(bench, address, placed)
            return Looked(address, shown)
        cost = Cost(0.0, 0.0) if whole else cost_of(planned.nodes(), self._cache)
        if cost.at(1) > BUDGET_SECONDS:
            scale = max(LEAST_SCALE, want.scale / _times_smaller(cost))
            return Looked("", None, seconds=cost.at(1), scale=scale)
        is_past = partial(self._is_past, bench, order)
        work = partial(self._looked, bench, placed, planned, cost if hasty else None)
        return self._in_turn(AT_ONCE, whose, is_past, work)

    def _looked(
        self,
        bench: str,
        placed: Placed,
        planned: Planned,
        cost: Cost | None,
        should_stop: Callable[[], bool],
    ) -> Looked:
        """What a bench sees when it is its turn; where a hasty picture's cost is told, as large as is in time for those
        who wait by then."""
        if should_stop():
            raise Stopped
        scale = None
        if cost is not None:
            smaller = self._for_a_hand(placed.wanted, cost)
            if smaller.scale < placed.wanted.scale:
                scale = smaller.scale
                placed, planned = Placed(placed.recipe, smaller), smaller.planned(placed.recipe)
        address = _address(planned, placed.wanted)
        self._place_one(bench, address, placed)
        if (shown := self._known(address)) is not None:
            return Looked(address, shown, scale=scale)
        patience = _Patience(remembered(planned.picture, self._cache, placed.wanted.frame))
        try:
            shown = self._computed(placed, planned, lambda: should_stop() or patience())
        except Stopped:
            if should_stop():
                raise
            with self._lock:
                _keep(self._waiting, bench, (placed, planned), MOST_WAITING)
            return self._standing_in(placed, planned, should_stop)
        self._know(address, shown)
        return Looked(address, shown, scale=scale)

    @contextmanager
    def _planning(self) -> Iterator[None]:
        """One plans at a time, as that keeps the interpreter to itself; but nobody waits long for one who plans much."""
        with self._lock:
            self._coming += 1
        is_alone = self._planner.acquire(timeout=PATIENCE_SECONDS)
        try:
            yield
        finally:
            if is_alone:
                self._planner.release()
            with self._lock:
                self._coming -= 1

    def _place_one(self, bench: str, address: str, placed: Placed) -> None:
        with self._lock:
            self._placed.put(bench, (_owner(bench), address), placed)

    def _for_a_hand(self, want: Wanted, cost: Cost) -> Wanted:
        """The same as large as is likely to be there in time, if all that wait cost as much."""
        crowd = self._turns.crowd(AT_ONCE) + self._coming
        share = HASTY_SECONDS * thread_count() / (1 + crowd)
        for times in (1, *_SMALLER):
            if cost.at(times) <= share or want.scale / times < SMALLEST:
                break
        return want._replace(scale=max(want.scale / times, min(want.scale, SMALLEST)))

    def _standing_in(
        self, placed: Placed, planned: Planned, should_stop: Callable[[], bool]
    ) -> Looked:
        """The picture as it is of the last states that are known, or none; and how far they have come."""
        come = remembered(planned.picture, self._cache, placed.wanted.frame)
        share = come.known / max(1, come.states)
        found = standing_in(planned.nodes(), self._cache)
        if found is None:
            return Looked("", None, None, share)
        cache, frame = found
        return Looked("", self._computed(placed, planned, should_stop, cache), frame, share)

    def _is_past(self, bench: str, order: int) -> bool:
        return self._newest.get(bench, 0) > order

    def remembered(self, recipe: Recipe, plate: PlateFiles | None) -> Remembered:
        """The frames of a recipe at which everything with memory knows its state."""
        node = plan(recipe, recipe.canvas.last, LEAST_SCALE, media=plate or NO_MEDIA)
        return remembered(node, self._cache, recipe.canvas.last)

    def picture(self, address: str, bench: str, order: int, rank: int = SOON) -> Shown:
        """The picture at an address, for whoever placed it there. Raises `Unplaced`, or `Stopped` once
        `bench` is past `order`."""
        with self._lock:
            placed = self._placed.get((_owner(bench), address))
        if placed is None:
            raise Unplaced(address)
        if (shown := self._known(address)) is not None:
            return shown
        is_past = partial(self._is_past, bench, order)
        work = partial(self._computed, placed, None)
        shown = self._in_turn(rank, _owner(bench), is_past, work)
        self._know(address, shown)
        return shown

    def _known(self, address: str) -> Shown | None:
        """The picture at an address, if it is kept."""
        with self._lock:
            if address in self._encoded:
                self._encoded.move_to_end(address)
            return self._encoded.get(address)

    def _know(self, address: str, shown: Shown) -> None:
        """Keep a picture at its address; those not asked for longest go."""
        with self._lock:
            if address not in self._encoded:
                self._encoded[address] = shown
                self._encoded_bytes += len(shown.jpeg)
            while self._encoded_bytes > MOST_PICTURE_BYTES:
                self._encoded_bytes -= len(self._encoded.popitem(last=False)[1].jpeg)

    def _in_turn(
        self,
        rank: int,
        whose: str,
        is_past: Callable[[], bool],
        work: Callable[[Callable[[], bool]], V],
    ) -> V:
        """Work done when it is somebody's turn. Between two nodes it gives way to what is wanted more, and to those
        who have had less lately. Where there is no room for it beside others, it is done once more alone."""

        def done(turn: Turn) -> V:
            ends = time.monotonic() + MOST_SECONDS

            def should_stop() -> bool:
                turn.give_way()
                if time.monotonic() > ends:
                    raise TooLong
                return is_past()

            return work(should_stop)

        with self._turns.turn(rank, whose) as turn:
            try:
                return done(turn)
            except NoRoom:
                if not turn.has_company:
                    raise
        with self._turns.turn(rank, whose, alone=True) as turn:
            return done(turn)

    def px(
        self,
        recipe: Recipe,
        frame: int,
        scale: float,
        x: int,
        y: int,
        plate: PlateFiles | None,
    ) -> tuple[float, ...]:
        """Light and cover at a px of the canvas, in the picture of a scale: best one that is known.

        Raises `PlanError` outside of the picture.
        """
        with self._turns.turn(AT_ONCE):
            picture = render_frame(recipe, frame, scale, self._cache, media=plate or NO_MEDIA)
        overscan = recipe.canvas.overscan_at(scale)
        row, column = (math.floor(at * scale) + overscan for at in (y, x))
        height, width = picture.shape[:2]
        if not (0 <= row < height and 0 <= column < width):
            raise PlanError(f"the px {x}, {y} is outside of the picture")
        return tuple(float(part) for part in picture[row, column])

    def seam(self, recipe: Recipe) -> Seam:
        """How the last frame of a recipe meets its first one."""
        with self._turns.turn(SOON):
            return seam_of(recipe, self._cache)

    def brought_in(
        self, recipe: dict[str, Any], text: str, name: str
    ) -> tuple[dict[str, Any], list[str]]:
        """A recipe with what a file's text holds: read here, as whatever it is takes no time and memory of the server."""
        return brought_in(recipe, text, name)

    def is_asked(self) -> bool:
        """Whether anybody waits for a picture."""
        return self._coming > 0 or self._turns.are_wanted()

    def holds(self) -> Holds:
        """What this process holds in memory."""
        return Holds(self._cache.held + self._encoded_bytes, in_use())

    def telling_frame(self, of: str, recipe: Recipe) -> int:
        """Of a few frames spread over the time in which layers show, the one with the most light.

        It is found once for each `of`, which names what the recipe is and at which revision.
        """
        with self._lock:
            known = self._telling.get(of)
        if known is None:
            known = self._most_light(recipe)
            with self._lock:
                _keep(self._telling, of, known, MOST_TOLD)
        return known

    def _most_light(self, recipe: Recipe) -> int:
        canvas = recipe.canvas
        shown = [spans(recipe, layer) for layer in recipe.layers if layer.on]
        if not shown:
            return canvas.first
        first = max(canvas.first, min(first for first, _ in shown))
        last = min(canvas.last, max(last for _, last in shown))
        scale = max(LEAST_SCALE, TELLING_WIDTH / canvas.width)
        frames = sorted({round(first + (last - first) * i / 7) for i in range(1, 7)})

        def light(frame: int) -> float:
            node = plan(recipe, frame, min(1.0, scale))

            def work(should_stop: Callable[[], bool]) -> float:
                picture = evaluate(node, self._cache, should_stop).pixels
                return float(np.minimum(picture[..., :3], 1).mean())

            return self._in_turn(LATER, "", lambda: False, work)

        return max(frames, key=light)

    def _computed(
        self,
        placed: Placed,
        planned: Planned | None,
        should_stop: Callable[[], bool],
        cache: Cache | None = None,
    ) -> Shown:
        recipe, want = placed
        cache = cache or self._cache
        if should_stop():
            raise Stopped
        node, bend = planned or want.planned(recipe)
        picture = evaluate(node, cache, should_stop).pixels
        warnings = warnings_of(picture, want.view.exposure)
        plate = None if want.behind is None else _behind(want.behind, recipe, want.scale)
        if plate is not None and bend is not None:
            offsets = evaluate(bend.offsets, cache, should_stop).pixels
            blur = bend.blur and evaluate(bend.blur, cache, should_stop).pixels
            levels = bent_plate(plate.astype(np.float32), offsets, blur, bend.seen, want.scale)
            plate = np.clip(levels + 0.5, 0, 255).astype(np.uint8)
            folded, fold_at = folds(offsets, want.scale)
            warnings = warnings._replace(
                beyond=beyond(offsets, want.scale),
                edge=bend.seen.edge,
                folded=folded,
                fold_at=fold_at,
            )
        return Shown(as_jpeg(shown(picture, want.view, plate)), warnings)


def _times_smaller(cost: Cost) -> int:
    """How many times smaller a picture is likely to be there in time, or where more would save little."""
    most = max(BUDGET_SECONDS, _LITTLE * cost.at(_SMALLER[-1]))
    return next(times for times in _SMALLER if cost.at(times) <= most)


def _behind(file: StillFile, recipe: Recipe, scale: float) -> NDArray[np.uint8] | None:
    """The plate behind a picture, on its canvas; nothing of it lies in the overscan."""
    region = canvas_region(recipe, scale)
    still = _still(file.mark, file, region.width, region.height)
    overscan = recipe.canvas.overscan_at(scale)
    if still is None or overscan == 0:
        return still
    return np.pad(still, ((overscan, overscan), (overscan, overscan), (0, 0)))


@lru_cache(maxsize=MOST_STILLS)
def _still(mark: str, file: StillFile, width: int, height: int) -> NDArray[np.uint8] | None:
    """A plate's still in a size, or nothing where its file is gone; `mark` changes with the file."""
    return file.read(width, height)


def _address(planned: Planned, want: Wanted) -> str:
    node, bend = planned
    behind = None if want.behind is None else want.behind.mark
    bent = bend and (bend.offsets.key, bend.blur and bend.blur.key, bend.seen)
    about = (node.key, want.view, behind, bent)
    return blake2b(repr(about).encode(), digest_size=16).hexdigest()


def _owner(bench: str) -> str:
    """Whose bench it is: all before its own name."""
    return bench.split("/", 1)[0]


def _keep(held: OrderedDict[K, V], key: K, value: V, most: int) -> None:
    held[key] = value
    held.move_to_end(key)
    while len(held) > most:
        held.popitem(last=False)
