"""Computing in a process of its own: what it takes goes back to the system, and if it ends the server goes on.

The server's threads call methods there as if it were here (`multiprocessing.managers`). Where the process ends in the
middle of a call, by a fault or for want of memory, it is begun anew and the call made once more: a picture follows
from its recipe alone.
"""

from __future__ import annotations

import ctypes
import gc
import os
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from multiprocessing import get_context, parent_process
from multiprocessing.connection import Connection
from multiprocessing.managers import BaseManager
from pathlib import Path
from threading import Lock, Thread
from typing import Any, NamedTuple, cast

from django.conf import settings

from handful.engine.everything import warm_up
from handful.studio.compiling import compiling
from handful.studio.memory import hold_memory, in_use
from handful.studio.preview.service import CACHE_BYTES, Preview
from handful.studio.refusals import Refusal

ROOM_BYTES = 150 * 1024 * 1024
"""Beside the pictures that are kept this much may be held before what is free is given back."""

_M_ARENA_MAX, _ARENAS = -8, 2
"""What `mallopt` calls the number of rooms that memory is taken from, and how many: each keeps free room of its own,
and by itself there are eight for each processor."""

_LOOKED_AFTER_EVERY = 2.0
_LOOKED_AGAIN_AFTER = 0.1
_NICER = 10
_SWITCHED_AFTER = 0.0005
"""Seconds after which a thread that has done some of a kernel gets the interpreter from one that plans."""

_ENDED_FIRST = 500
"""How much sooner than others the system ends this process where memory runs out."""


_BROKEN_OFF = (EOFError, ConnectionError, MemoryError)
"""What a call may end with before its answer has come whole."""


class Away(Refusal):
    """The process that computes does not begin, or ends with its server: it may be asked again."""

    status = 503

    def __init__(self) -> None:
        super().__init__("What computes pictures is not there; try again in a moment.")


class Ended(Refusal):
    """The process that computes has ended over this, and again when it was tried once more: what is asked is to change,
    and no bench asks by itself again."""

    status = 422

    def __init__(self) -> None:
        super().__init__(
            "The process that computes pictures ended at this one, twice. It is begun anew; a smaller picture, or one"
            " of fewer layers, may come through."
        )


class _Manager(BaseManager):
    """The process; what it can make is registered by its name."""


class _Running(NamedTuple):
    """A process, what stands here for the object in it, and connections to it that nobody uses at the moment."""

    manager: BaseManager
    proxy: Any
    idle: list[Connection]

    def call(self, name: str, arguments: tuple[Any, ...], named: dict[str, Any]) -> Any:
        """What a method gives there. Every request has a thread of its own, and a proxy makes a connection for each, which
        takes longer than many a call: so it is handed on."""
        own = self.proxy._tls
        with suppress(IndexError):
            own.connection = self.idle.pop()
        is_sound = True
        try:
            return self.proxy._callmethod(name, arguments, named)
        except BaseException as error:
            is_sound = isinstance(error, Exception) and not isinstance(error, _BROKEN_OFF)
            raise
        finally:
            link = own.__dict__.pop("connection", None)
            if is_sound and link is not None:
                self.idle.append(link)


class Apart:
    """The methods of an object that a process of its own makes and holds, from when one is called first."""

    def __init__(self, made: type) -> None:
        self._made = made.__name__
        _Manager.register(self._made, partial(_made_here, made))
        self._lock = Lock()
        self._begins: BaseManager | None = None
        self._running: _Running | None = None
        self._is_closed = False

    def __getattr__(self, name: str) -> Callable[..., Any]:
        if name.startswith("_"):
            raise AttributeError(name)
        return partial(self._called, name)

    def _called(self, name: str, *arguments: Any, **named: Any) -> Any:
        """What a method gives there. Raises what it raises, `Ended` and `Away`."""
        for _ in range(2):
            running = self._begun()
            try:
                return running.call(name, arguments, named)
            except (EOFError, ConnectionError):
                self._drop(running)
        raise Ended

    def _begun(self) -> _Running:
        with self._lock:
            if self._is_closed:
                raise Away
            if self._running is None:
                self._begins = manager = _Manager(ctx=get_context("spawn"))
                try:
                    manager.start(_begin)
                    self._running = _Running(manager, getattr(manager, self._made)(), [])
                except (EOFError, ConnectionError) as error:
                    raise Away from error
            return self._running

    def _drop(self, ended: _Running) -> None:
        with self._lock:
            if self._running is ended:
                self._running = None
                ended.manager.shutdown()

    def close(self) -> None:
        """End the process at once, also while it begins, which takes long where others work; whoever waits for it is told.
        It has nothing to put away: what it holds can be made again."""
        self._is_closed = True
        process = getattr(self._begins, "_process", None)
        if process is not None and process.pid is not None:
            process.kill()
        with self._lock:
            running, self._running = self._running, None
        if running is not None:
            running.manager.shutdown()


def _begin() -> None:
    """What the process does before all else: it holds itself to its memory, lets those go first who answer requests, and
    ends with its server."""
    hold_memory()
    ctypes.CDLL(None).mallopt(_M_ARENA_MAX, _ARENAS)
    os.nice(_NICER)
    sys.setswitchinterval(_SWITCHED_AFTER)
    with suppress(OSError):
        Path("/proc/self/oom_score_adj").write_text(str(_ENDED_FIRST))
    for work in (_end_with_the_server, _give_back, _warm_up):
        Thread(target=work, daemon=True).start()


def _end_with_the_server() -> None:
    server = parent_process()
    assert server is not None
    server.join()
    os._exit(0)


def _give_back() -> None:
    """Give memory that is free back to the system, where more is held than there should be."""
    trim = ctypes.CDLL(None).malloc_trim
    while True:
        time.sleep(_LOOKED_AFTER_EVERY)
        if in_use() > CACHE_BYTES + ROOM_BYTES:
            trim(0)


def _warm_up() -> None:
    """Load what is compiled, once all of it is; tests, which look at few pictures, begin cold."""
    if os.environ.get("HANDFUL_COLD"):
        return
    while compiling() is not None:
        time.sleep(1)
    warm_up(_let_others_go_first)
    gc.collect()
    gc.freeze()  # what is loaded stays: no later collection goes through it


_here: list[Any] = []
"""What has been made in this process for those who ask."""


def _made_here(made: type) -> Any:
    _here.append(made())
    return _here[-1]


def _let_others_go_first() -> bool:
    """Nothing stops, but goes on only while nobody waits for anything of this process."""
    while any(each.is_asked() for each in _here):
        time.sleep(_LOOKED_AGAIN_AFTER)
    return False


_apart = Apart(Preview)

preview = cast(Preview, _apart) if settings.SERVES else Preview()
"""In the web server a stand-in for the one in the process that computes."""


def begin_computing() -> None:
    """Begin the process, so that whoever asks for a picture first does not wait for that."""
    with suppress(Away, Ended):
        preview.holds()


def end_computing() -> None:
    """End it; threads that wait for it go on."""
    _apart.close()
