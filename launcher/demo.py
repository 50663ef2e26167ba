"""Everything at once: database, web server and one worker, until Ctrl-C."""

from __future__ import annotations

import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from types import FrameType

from launcher.cluster import Cluster
from launcher.installing import Stamp
from launcher.places import DATA, PYTHON, ROOT, Trouble, say, surroundings

_MOST_START_SECONDS = 60
_MOST_STOP_SECONDS = 10


def run_demo(port: int) -> int:
    """Serve on loopback at `port`. Returns when a signal asks it to stop, or when a part dies."""
    _check_port(port)
    (DATA / "log").mkdir(parents=True, exist_ok=True)
    stopping: list[int] = []

    def stop(number: int, _: FrameType | None) -> None:
        stopping.append(number)

    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, stop)
    with Cluster("postgres").running() as url:
        env = surroundings(HANDFUL_DATABASE_URL=url, HANDFUL_DEMO="1")
        try:
            _prepare(env, url)
        except Trouble:
            if not stopping:
                raise
        if stopping:
            say("Stopped.")
            return 0
        parts = {
            "web server": _start(env, "web", "-m", "handful.studio.serve", str(port)),
            "worker": _start(env, "worker", "-m", "handful.studio.manage", "work"),
        }
        try:
            _wait_until_up(port, parts, stopping)
            if not stopping:
                print(f"Handful is ready: http://127.0.0.1:{port}/", flush=True)
                say("Ctrl-C stops everything.")
            while not stopping and all(part.poll() is None for part in parts.values()):
                time.sleep(0.2)
        finally:
            died = [name for name, part in parts.items() if part.poll() is not None]
            _stop(list(parts.values()))
    if not stopping and died:
        raise Trouble(f"The {died[0]} stopped by itself; its log is in {DATA / 'log'}.")
    say("Stopped.")
    return 0


def _prepare(env: dict[str, str], url: str) -> None:
    """Tables and demo shots, unless this very database has them already."""
    parts = [*(ROOT / "src" / "handful" / "studio").glob("*/migrations/*.py")]
    parts += [path for path in (ROOT / "demo").rglob("*") if path.suffix in (".py", ".json")]
    password = url.split("@")[0]
    stamp = Stamp("database", parts, password)
    if not stamp.holds():
        _manage(env, "migrate", "--verbosity", "0")
        _manage(env, "load_demo")
        stamp.set()


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Trouble(
                f"Port {port} cannot be used: {error.strerror}. "
                "Is Handful running already? Another port: ./handful demo --port 8421"
            ) from None


def _manage(env: dict[str, str], *words: str) -> None:
    done = subprocess.run([PYTHON, "-m", "handful.studio.manage", *words], env=env, cwd=ROOT)
    if done.returncode != 0:
        raise Trouble(f"It failed at: manage {' '.join(words)}")


def _start(env: dict[str, str], name: str, *words: str) -> subprocess.Popen[bytes]:
    """A part in a process group of its own, so that Ctrl-C reaches only this program."""
    with (DATA / "log" / f"{name}.log").open("ab") as log:
        return subprocess.Popen(
            [PYTHON, *words], env=env, cwd=ROOT, stdout=log, stderr=log, start_new_session=True
        )


def _wait_until_up(
    port: int, parts: dict[str, subprocess.Popen[bytes]], stopping: list[int]
) -> None:
    end = time.monotonic() + _MOST_START_SECONDS
    while time.monotonic() < end and not stopping:
        if any(part.poll() is not None for part in parts.values()):
            return
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/alive", timeout=2).close()
            return
        except (urllib.error.URLError, OSError):
            time.sleep(0.05)
    if not stopping:
        raise Trouble(f"The web server did not answer; its log is in {DATA / 'log'}.")


def _stop(parts: list[subprocess.Popen[bytes]]) -> None:
    for part in parts:
        part.terminate()
    for part in parts:
        try:
            part.wait(_MOST_STOP_SECONDS)
        except subprocess.TimeoutExpired:
            part.kill()
            part.wait()
