"""Those of a flock that are there at a moment."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.sources.particles.births import MOST_ALIVE, Lot, Numbers

RIBBON_POINTS = 13
"""Of how many points a ribbon is, from now on back."""


class Alive(NamedTuple):
    """A state: how many were born till then, those that are left, where and how fast each is now, for how many seconds
    it has lain still, and what it comes from, as a `Lot` has it."""

    counted: Numbers
    which: NDArray[np.int64]
    born: Numbers
    starts: Numbers
    places: Numbers
    speeds: Numbers
    lain: Numbers
    roots: Numbers
    dyes: NDArray[np.float32]

    def lot(self) -> Lot:
        """They as they were born, but as fast as they are now."""
        return Lot(self.which, self.born, self.starts, self.speeds, self.roots, self.dyes)

    def some(self, chosen: NDArray[np.bool_]) -> Alive:
        """Some of them."""
        return Alive._make([self.counted, *(part[chosen] for part in self[1:])])

    def latest(self, most: int) -> Alive:
        """No more of them than so many: the latest."""
        return Alive._make([self.counted, *(part[-most:] for part in self[1:])])

    def and_those(self, others: Alive) -> Alive:
        """Some more with them; of more than there may be, the latest."""
        which, *rest = (np.concatenate([a, b]) for a, b in zip(self[1:], others[1:], strict=True))
        return Alive(self.counted, which, *rest).latest(MOST_ALIVE)

    def behind(
        self, earlier: Sequence[Alive], since: Sequence[float], ahead: float, ribbon: float
    ) -> Numbers:
        """Where each was at times evenly back over so many seconds `(K, N, 2)`, from what was so many seconds
        before; it is `ahead` of these places. Before it was, it is where it began."""
        if not ribbon:
            return np.empty((0, len(self.which), 2))
        known, ago = [self.places + self.speeds * ahead], [0.0]
        for before, seconds in zip(earlier, since, strict=True):
            known.append(before.places_of(self.which, self.starts))
            ago.append(seconds)
        known.append(self.starts)
        ago.append(max(ago[-1], ribbon) + 1e-6)
        found = []
        for back in np.linspace(0, ribbon, RIBBON_POINTS):
            i = min(int(np.searchsorted(ago, back, side="right")), len(ago) - 1)
            part = (back - ago[i - 1]) / max(1e-9, ago[i] - ago[i - 1])
            found.append(known[i - 1] + (known[i] - known[i - 1]) * min(1.0, part))
        return np.array(found)

    def places_of(self, which: NDArray[np.int64], otherwise: Numbers) -> Numbers:
        """Where those of some numbers are `(M, 2)`; what is not among these is elsewhere."""
        if not len(self.which):
            return otherwise
        order = np.argsort(self.which)
        at = order[np.minimum(np.searchsorted(self.which, which, sorter=order), len(order) - 1)]
        return np.where((self.which[at] == which)[:, None], self.places[at], otherwise)
