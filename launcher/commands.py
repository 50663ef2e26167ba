"""The commands of ./handful."""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from launcher import installing
from launcher.cluster import Cluster
from launcher.demo import run_demo
from launcher.kernels import compile_kernels
from launcher.places import DATA, PYTHON, ROOT, VENV, WEB, Trouble, surroundings
from launcher.status import status_of

_HELP = """\
usage: ./handful COMMAND [...]

  demo [--port N]      set up what is missing and start everything with the demo shots
  dev [--port N]       the same, and what is changed in the code is loaded anew
  test [LABEL ...]     run the tests, all of them or those named, as tests.engine
  render RECIPE.json --out DIR [--frames A-B] [--scale S] [--format exr|exr-float|png]
                       render a recipe with the engine alone
  check RECIPE.json    list the problems of a recipe
  import FILE --into RECIPE.json [--name NAME]
                       add a CSV track or the paths of an SVG to a recipe
  export RECIPE.json TRACK --out FILE.csv
                       write a track as CSV
  schema, catalogue    print the JSON Schema of recipes; all sources, steps and settings
  bench [NAME ...] [--json]
                       measure speed beside reference libraries
  status               tell what runs here, and what is wrong
  worker               start one more render worker (see docs/deployment.md)
  manage ...           Django's management commands
  python ...           the project's own interpreter
  setup                install and build everything, start nothing
  lint                 formatting, lint, types and the import contract, of both languages
"""


def main(words: list[str]) -> int:
    """Run a command; a `Trouble` becomes a sentence and exit code 1."""
    if not words or words[0] in ("-h", "--help", "help"):
        print(_HELP, end="")
        return 0
    command, rest = words[0], words[1:]
    if command not in _COMMANDS:
        print(f"There is no command {command!r}.\n\n{_HELP}", end="", file=sys.stderr)
        return 2
    signal.signal(signal.SIGTERM, signal.default_int_handler)  # an end from outside is as orderly
    try:
        return _COMMANDS[command](rest)
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    except OSError as error:
        print(f"It failed: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _running(command: str, reloads: bool) -> Callable[[list[str]], int]:
    def run(words: list[str]) -> int:
        parser = argparse.ArgumentParser(prog=f"handful {command}")
        parser.add_argument("--port", type=int, default=8420)
        port = parser.parse_args(words).port
        _install()
        return run_demo(port, reloads)

    return run


def _install() -> None:
    installing.install_environment()
    installing.install_front_end()
    installing.install_database_server()


def _setup(_: list[str]) -> int:
    _install()
    compile_kernels()
    return 0


def _test(words: list[str]) -> int:
    installing.install_environment("test")
    if words and all(word.startswith(_OF_THE_ENGINE) for word in words):
        compile_kernels()
        return _python(
            ["-m", "handful.studio.manage", "test", "--no-input", *words], surroundings()
        )
    _setup([])
    installing.install_browser()
    proxy = installing.install_proxy()
    with Cluster("postgres-test", durable=False).running() as url:
        env = surroundings(
            HANDFUL_DATABASE_URL=url,
            HANDFUL_CHROMIUM=str(installing.CHROMIUM),
            HANDFUL_NGINX=str(proxy),
            HANDFUL_COLD="1",
        )
        return _python(
            [
                "-m",
                "handful.studio.manage",
                "test",
                "--no-input",
                f"--parallel={_TESTS_AT_ONCE}",
                *(words or ["tests"]),
            ],
            env,
        )


_OF_THE_ENGINE = "tests.engine"
"""Tests that need no database, no front end and no browser."""


def _lint(_: list[str]) -> int:
    installing.install_environment("lint")
    installing.install_front_end()
    env = surroundings(**installing.install_node())
    tools = VENV / "bin"
    checks: list[tuple[list[str], Path]] = [
        ([str(tools / "ruff"), "format", "--check", "."], ROOT),
        ([str(tools / "ruff"), "check", "."], ROOT),
        ([str(tools / "mypy")], ROOT),
        ([str(tools / "lint-imports")], ROOT),
        (["npm", "run", "--silent", "lint"], WEB),
        (["npm", "run", "--silent", "types"], WEB),
    ]
    return max(subprocess.run(words, cwd=place, env=env).returncode for words, place in checks)


def _engine(command: str) -> Callable[[list[str]], int]:
    def run(words: list[str]) -> int:
        installing.install_environment()
        return _python(["-m", "handful.engine.cli", command, *words], surroundings())

    return run


def _bench(words: list[str]) -> int:
    installing.install_environment("test")
    _setup([])
    installing.install_browser()
    env = surroundings(HANDFUL_CHROMIUM=str(installing.CHROMIUM))
    return _python(["-m", "bench", *words], env)


def _status(_: list[str]) -> int:
    lines, is_well = status_of(DATA)
    print("\n".join(lines))
    return 0 if is_well else 1


def _worker(words: list[str]) -> int:
    return _manage(["work", *words])


def _manage(words: list[str]) -> int:
    installing.install_environment()
    command = ["-m", "handful.studio.manage", *words]
    if "HANDFUL_DATABASE_URL" in os.environ:
        return _python(command, surroundings())
    installing.install_database_server()
    with Cluster("postgres").running() as url:
        return _python(command, surroundings(HANDFUL_DATABASE_URL=url))


def _interpreter(words: list[str]) -> int:
    installing.install_environment()
    return _python(words, surroundings())


def _python(words: list[str], env: dict[str, str]) -> int:
    """Run the project's interpreter in the caller's folder and pass on its exit code."""
    process = subprocess.Popen([str(PYTHON), *words], env=env)
    signal.signal(signal.SIGTERM, lambda *_: process.terminate())
    while True:
        try:
            return process.wait()
        except KeyboardInterrupt:
            continue


_TESTS_AT_ONCE = (os.cpu_count() or 1) + 2
"""A page waits for the server and the server for the page: two more than there are cores leave little of
them idle."""

_ENGINE_COMMANDS = ("render", "check", "import", "export", "schema", "catalogue")

_COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "demo": _running("demo", reloads=False),
    "dev": _running("dev", reloads=True),
    "test": _test,
    **{name: _engine(name) for name in _ENGINE_COMMANDS},
    "bench": _bench,
    "status": _status,
    "worker": _worker,
    "manage": _manage,
    "python": _interpreter,
    "setup": _setup,
    "lint": _lint,
}
