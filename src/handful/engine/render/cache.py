"""Pictures already computed, by key, within a budget of bytes."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

from handful.engine.picture import Tile


class Cache:
    """Keeps the pictures used last, up to `budget` bytes. It may be shared by threads."""

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.held = 0
        self.misses = 0
        self._tiles: OrderedDict[str, Tile] = OrderedDict()
        self._lock = Lock()

    def get(self, key: str) -> Tile | None:
        """The picture under a key, if it is still here."""
        with self._lock:
            tile = self._tiles.get(key)
            if tile is None:
                self.misses += 1
                return None
            self._tiles.move_to_end(key)
            return tile

    def put(self, key: str, tile: Tile) -> None:
        """Keep a picture, which must not be written to from now on; the oldest make room for it."""
        tile.pixels.flags.writeable = False
        size = _bytes_behind(tile)
        if size > self.budget:
            return
        with self._lock:
            old = self._tiles.pop(key, None)
            if old is not None:
                self.held -= _bytes_behind(old)
            self._tiles[key] = tile
            self.held += size
            while self.held > self.budget:
                _, dropped = self._tiles.popitem(last=False)
                self.held -= _bytes_behind(dropped)


def _bytes_behind(tile: Tile) -> int:
    """What keeping the tile keeps in memory: a view holds the whole array that it looks into."""
    base = tile.pixels.base
    return max(tile.pixels.nbytes, int(getattr(base, "nbytes", 0)))
