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
from launcher.installing import Stamp, install_node
from launcher.kernels import InTheBackground
from launcher.owner import owning
from launcher.parts import Part
from launcher.places import DATA, PYTHON, ROOT, WEB, Trouble, say, surroundings

_MOST_START_SECONDS = 60


def run_demo(port: int, reloads: bool = False) -> int:
    """Serve on loopback at `port`, until a signal asks it to stop; a part that dies begins anew. What `reloads` has the
    server begin anew when its code changes, and a front end of its own beside it that does. Raises `Trouble`
    where the folder is somebody else's, or a part does not come up."""
    _check_port(port)
    stopping: list[int] = []

    def stop(number: int, _: FrameType | None) -> None:
        stopping.append(number)

    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, stop)
    database = Cluster("postgres")
    with owning(DATA, port=port), database.running(owned=True) as url:
        env = surroundings(HANDFUL_DATABASE_URL=url, HANDFUL_DEMO="1")
        try:
            _prepare(env, url)
        except Trouble:
            if not stopping:
                raise
        if stopping:
            say("Stopped.")
            return 0
        parts = [
            Part("web server", "web", [*_server(port), *(["--reload"] if reloads else [])], env),
            Part("worker", "worker", [str(PYTHON), "-m", "handful.studio.manage", "work"], env),
        ]
        if reloads:
            words = [
                "node",
                "node_modules/vite/bin/vite.js",
                "--host",
                "127.0.0.1",
                "--port",
                str(port + 1),
                "--strictPort",
            ]
            parts.append(
                Part(
                    "front end",
                    "front-end",
                    words,
                    env | install_node() | {"HANDFUL_PORT": str(port)},
                    WEB,
                )
            )
        compiling = InTheBackground()
        try:
            _wait_until_up(port, parts, stopping)
            if not stopping:
                print(f"Handful is ready: http://127.0.0.1:{port + reloads}/", flush=True)
                say("Ctrl-C stops everything.")
            while not stopping:
                database.look_after()
                compiling.look_after()
                for part in parts:
                    part.look_after()
                time.sleep(0.2)
        finally:
            compiling.stop()
            for part in parts:
                part.ask_to_stop()
            for part in parts:
                part.stop()
    say("Stopped.")
    return 0


def _server(port: int) -> list[str]:
    return [str(PYTHON), "-m", "handful.studio.serve", str(port)]


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


def _wait_until_up(port: int, parts: list[Part], stopping: list[int]) -> None:
    """Until the web server answers and its database does. Raises `Trouble` if a part does not come up."""
    end = time.monotonic() + _MOST_START_SECONDS
    while time.monotonic() < end and not stopping:
        for part in parts:
            if not part.runs():
                raise Trouble(f"The {part.title} did not start; its log is in {part.log}.")
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/ready", timeout=2).close()
            return
        except (urllib.error.URLError, OSError):
            time.sleep(0.05)
    if not stopping:
        raise Trouble(f"The web server is not ready; its log is in {DATA / 'log'}.")
