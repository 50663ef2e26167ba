"""The demo from the command line: it starts, answers, and takes everything with it when it stops."""

import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
import urllib.request
from pathlib import Path
from typing import Any
from unittest import TestCase

from launcher.places import DATA, ROOT


class Demo(TestCase):
    lasts = True

    def _data(self) -> Path:
        """A data folder without a database, with everything that takes long to install."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        data = Path(folder.name)
        data.chmod(0o755)
        for shared in ("venv", "kernels"):
            (data / shared).symlink_to(DATA / shared)
        shutil.copytree(DATA / "stamps", data / "stamps")
        (data / "stamps" / "database").unlink(missing_ok=True)
        return data

    def _start(
        self, data: Path, port: int, command: str = "demo"
    ) -> tuple[subprocess.Popen[str], str]:
        demo = subprocess.Popen(
            [ROOT / "handful", command, "--port", str(port)], env=os.environ | {"HANDFUL_DATA": str(data)},
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(demo.kill)
        assert demo.stdout is not None
        return demo, demo.stdout.readline()

    def test_starts_answers_and_stops(self) -> None:
        data = self._data()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        for command, shown in (("demo", port), ("demo", port), ("dev", port + 1)):
            demo, line = self._start(data, port, command)
            self.assertIn(f"http://127.0.0.1:{shown}/", line)
            with self._opened(f"http://127.0.0.1:{shown}/shots/anything") as page:
                self.assertIn(b'<div id="root">', page.read())
            with self._opened(f"http://127.0.0.1:{shown}/api/v1/alive") as answer:
                self.assertIn(b"true", answer.read())
            second = self._start(data, port)[0]
            self.assertIn("cannot be used", second.communicate(timeout=30)[1])
            self.assertEqual(second.returncode, 1)
            demo.send_signal(signal.SIGINT)
            self.assertIn("Stopped.", demo.communicate(timeout=40)[1])
            self.assertEqual(demo.returncode, 0)
            self._nothing_left(data, port)

    def _opened(self, address: str) -> Any:
        """What is there, once it is: a front end that loads anew what changes may begin a little later."""
        for tries_left in reversed(range(100)):
            try:
                return urllib.request.urlopen(address, timeout=30)
            except OSError:
                if not tries_left:
                    raise
                time.sleep(0.2)
        raise AssertionError

    def _nothing_left(self, data: Path, port: int) -> None:
        """No process that speaks of this folder or port is left, and the port is free."""
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(("127.0.0.1", port))
        for entry in Path("/proc").glob("[0-9]*/cmdline"):
            try:
                words = entry.read_bytes()
            except OSError:
                continue
            self.assertNotIn(str(data).encode(), words)
