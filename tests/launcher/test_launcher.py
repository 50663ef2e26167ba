"""What the launcher says and does on machines that lack something."""

import os
import shutil
import socket
import subprocess
import tempfile
from pathlib import Path
from types import SimpleNamespace
from unittest import TestCase, mock

import psycopg

from launcher import cluster, demo, installing
from launcher.cluster import Cluster
from launcher.installing import Stamp
from launcher.places import ROOT, Trouble

HANDFUL = ROOT / "handful"


class Commands(TestCase):
    def _run(self, *words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([HANDFUL, *words], capture_output=True, text=True)

    def test_help(self) -> None:
        done = self._run("--help")
        self.assertEqual(done.returncode, 0)
        for command in ("demo", "test", "render", "bench", "worker", "manage", "python"):
            self.assertIn(f"  {command} ", done.stdout)

    def test_unknown_command(self) -> None:
        done = self._run("paint")
        self.assertEqual(done.returncode, 2)
        self.assertIn("no command 'paint'", done.stderr)

    def test_exit_code_passes_through(self) -> None:
        self.assertEqual(self._run("python", "-c", "raise SystemExit(7)").returncode, 7)


class Sentences(TestCase):
    def test_taken_port(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            with self.assertRaisesRegex(
                Trouble, r"Port \d+ cannot be used: Address already in use"
            ):
                demo.run_demo(taken.getsockname()[1])

    def test_no_package_manager(self) -> None:
        with mock.patch.object(shutil, "which", return_value=None):
            with self.assertRaisesRegex(Trouble, "no apt-get here"):
                installing._install_packages("postgresql")

    def test_no_right_to_install(self) -> None:
        def only_apt(name: str) -> str | None:
            return "/usr/bin/apt-get" if name == "apt-get" else None

        with (
            mock.patch.object(shutil, "which", only_apt),
            mock.patch.object(os, "geteuid", return_value=1000),
        ):
            with self.assertRaisesRegex(Trouble, "as root: apt-get install postgresql"):
                installing._install_packages("postgresql")

    def test_no_disk(self) -> None:
        usage = SimpleNamespace(free=2**28)
        with mock.patch.object(shutil, "disk_usage", return_value=usage):
            with self.assertRaisesRegex(Trouble, r"Only 0\.2 GiB are free"):
                installing._check_disk()

    def test_no_node(self) -> None:
        with mock.patch.object(shutil, "which", return_value=None):
            with self.assertRaisesRegex(Trouble, r"Node\.js 20"):
                installing._check_node()

    def test_a_step_that_fails_shows_its_last_lines(self) -> None:
        with self.assertRaisesRegex(Trouble, "failed while trying:\nno luck"):
            installing._run(["sh", "-c", "echo no luck; exit 3"], "trying")


class Stamps(TestCase):
    def test_holds_until_a_part_changes(self) -> None:
        with tempfile.TemporaryDirectory(dir=ROOT) as folder:
            part = Path(folder) / "part"
            part.write_text("one")
            with mock.patch.object(installing, "DATA", Path(folder) / "data"):
                self.assertFalse(Stamp("thing", [part]).holds())
                Stamp("thing", [part]).set()
                self.assertTrue(Stamp("thing", [part]).holds())
                self.assertFalse(Stamp("thing", [part], "more").holds())
                part.write_text("two")
                self.assertFalse(Stamp("thing", [part]).holds())


class Database(TestCase):
    def test_made_started_found_and_stopped(self) -> None:
        """On loopback with a password, found while it runs, keeping its data, gone afterwards."""
        with tempfile.TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            with mock.patch.object(cluster, "DATA", Path(folder)):
                with Cluster("pg", durable=False).running() as url:
                    with psycopg.connect(url) as connection:
                        connection.execute("CREATE TABLE kept (id int)")
                    with Cluster("pg", durable=False).running() as again:
                        self.assertEqual(again, url)
                    psycopg.connect(url).close()
                    wrong = url.replace("handful:", "handful:x")
                    with self.assertRaises(psycopg.OperationalError):
                        psycopg.connect(wrong)
                with self.assertRaises(psycopg.OperationalError):
                    psycopg.connect(url)
                with Cluster("pg", durable=False).running() as later:
                    with psycopg.connect(later) as connection:
                        self.assertEqual(connection.execute("SELECT * FROM kept").fetchall(), [])
