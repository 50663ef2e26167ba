"""Compiling the engine's loops into their cache on disk: in several processes, each of which does a share of them."""

from __future__ import annotations

import os
import selectors
import subprocess
import time
from pathlib import Path

from launcher.installing import Stamp
from launcher.parts import end_with_parent
from launcher.places import DATA, PYTHON, ROOT, Trouble, say, surroundings

SHARE_FILE = DATA / "compiling"
"""Holds the share that is compiled while the program runs meanwhile, for whoever wants to tell it."""

_POLITE = 10
"""Of nice(1), where a person waits for pictures beside it."""


def stamp() -> Stamp:
    """Remembers of which source the kernels are compiled."""
    return Stamp("kernels", list((ROOT / "src" / "handful" / "engine").rglob("*.py")))


class Compiling:
    """Processes that compile, how far they are, and what they said last."""

    def __init__(self, polite: bool = False) -> None:
        self._stamp = stamp()
        turns = max(1, os.cpu_count() or 1)
        self._done = [(0, 1)] * turns
        self._said: list[str] = []
        self._reading = selectors.DefaultSelector()
        self._processes = [self._begin(turn, turns, polite) for turn in range(turns)]

    def share(self) -> float:
        """How much of it is done, as far as they have told."""
        return sum(done / of for done, of in self._done) / len(self._done)

    def look(self, seconds: float = 0.0) -> bool:
        """Listen to what they tell, for as long at most, and whether they are still at it. Raises `Trouble` where one
        of them failed."""
        for key, _ in self._reading.select(seconds):
            line = key.fileobj.readline()  # type: ignore[union-attr]
            if not line:
                self._reading.unregister(key.fileobj)
                continue
            words = line.split()
            if len(words) == 3 and words[1] == "of":
                self._done[key.data] = int(words[0]), int(words[2])
            else:
                self._said = [*self._said, line.rstrip()][-25:]
        if self._reading.get_map():
            return True
        if any(process.wait() for process in self._processes):
            raise Trouble("\n".join(["It failed while compiling the kernels:", *self._said]))
        self._stamp.set()
        return False

    def stop(self) -> None:
        """End it where it is; what is compiled stays."""
        for process in self._processes:
            process.kill()
            process.wait()

    def _begin(self, turn: int, turns: int, polite: bool) -> subprocess.Popen[str]:
        def prepare() -> None:
            end_with_parent()
            os.nice(_POLITE if polite else 0)

        words = [
            str(PYTHON),
            "-m",
            "handful.engine.cli",
            "warm-up",
            "--turn",
            str(turn),
            "--of",
            str(turns),
        ]
        process = subprocess.Popen(
            words, cwd=ROOT, env=surroundings(), text=True, bufsize=1, start_new_session=True,
            stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, preexec_fn=prepare,
        )  # fmt: skip
        assert process.stdout is not None
        self._reading.register(process.stdout, selectors.EVENT_READ, turn)
        return process


def compile_kernels() -> None:
    """Compile all that is not compiled yet, and tell how far it is. Raises `Trouble`."""
    if stamp().holds():
        return
    say("Compiling the kernels …")
    compiling, told = Compiling(), time.monotonic()
    try:
        while compiling.look(1.0):
            if time.monotonic() - told > 10:
                told = time.monotonic()
                say(f"Compiling the kernels: {compiling.share():.0%}")
    finally:
        compiling.stop()


class InTheBackground:
    """Compiling while the program runs already: pictures come slower until it is done."""

    def __init__(self, share_file: Path = SHARE_FILE) -> None:
        self._share_file = share_file
        share_file.unlink(missing_ok=True)
        self._compiling = None if stamp().holds() else Compiling(polite=True)
        if self._compiling is not None:
            say("Compiling the kernels meanwhile: pictures come slower for some minutes.")
            self._tell()

    def look_after(self) -> None:
        """Tell how far it is, once there is something to tell."""
        if self._compiling is None:
            return
        try:
            if self._compiling.look():
                self._tell()
                return
            say("The kernels are compiled.")
        except Trouble as trouble:  # pictures compile what they need, so that all else goes on
            say(str(trouble))
        self._end()

    def stop(self) -> None:
        """End it; the next start goes on with it."""
        if self._compiling is not None:
            self._compiling.stop()
            self._end()

    def _end(self) -> None:
        self._compiling = None
        self._share_file.unlink(missing_ok=True)

    def _tell(self) -> None:
        assert self._compiling is not None
        part = self._share_file.with_suffix(".part")
        part.write_text(f"{self._compiling.share():.3f}")
        part.replace(self._share_file)
