"""Small changes in the code, one at a time: does a test notice?

    ./handful python tests/mutations.py [--count 60] [--seed 1] [--only PART]

Each is made in a copy of the project, in a place that chance chooses: a comparison, a sign, a number by
one, a condition turned round, a call left out. The tests of the room it is in are run on it, and what
none of them noticed is listed. Some of those change nothing that can be seen; the others want a test.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from launcher.cluster import Cluster  # noqa: E402
from launcher.places import surroundings  # noqa: E402

ENGINE = "src/handful/engine/"
STUDIO = "src/handful/studio/"
TESTS = {
    ENGINE + "recipe": ["tests.engine.recipe"],
    ENGINE + "values": [
        "tests.engine.values",
        "tests.engine.files",
        "tests.engine.render.test_layers",
    ],
    ENGINE + "mix": [
        "tests.engine.mix",
        "tests.engine.render.test_layers",
        "tests.engine.render.test_bend",
    ],
    ENGINE + "files": ["tests.engine.files", "tests.engine.render.test_media"],
    ENGINE + "kinds": [
        "tests.engine.test_kinds",
        "tests.engine.recipe",
        "tests.engine.render.test_lasting",
        "tests.engine.sources.test_fire",
    ],
    ENGINE + "kernels/forms": [
        "tests.engine.kernels",
        "tests.engine.sources",
    ],
    ENGINE + "kernels/fluid": [
        "tests.engine.kernels.test_fluid",
        "tests.engine.kernels.test_water",
        "tests.engine.kernels.test_tank",
        "tests.engine.kernels.test_molten",
        "tests.engine.sources.test_grown",
        "tests.engine.sources.test_fire",
    ],
    ENGINE + "limits": ["tests.engine.mix.test_limits", "tests.engine.render.test_layers"],
    ENGINE + "steps": [
        "tests.engine.steps",
        "tests.engine.render.test_layers",
        "tests.engine.render.test_surround",
        "tests.engine.render.test_render.EveryKind",
    ],
    ENGINE + "sources": [
        "tests.engine.sources",
        "tests.engine.render.test_layers",
        "tests.engine.render.test_bend",
        "tests.engine.render.test_media",
        "tests.engine.render.test_render.EveryKind",
    ],
    ENGINE + "render": ["tests.engine.render", "tests.engine.test_kinds"],
    STUDIO + "shots": ["tests.studio.test_shots", "tests.studio.test_starters"],
    STUDIO + "renders": ["tests.studio.test_renders", "tests.studio.test_worker"],
    STUDIO + "preview": [
        "tests.studio.test_preview",
        "tests.studio.test_kept",
        "tests.studio.test_starters",
    ],
    STUDIO + "plates": ["tests.studio.test_shots", "tests.studio.test_preview"],
    STUDIO + "people": ["tests.studio.test_people"],
    STUDIO + "watch": ["tests.studio.test_watch"],
}
MOST_SECONDS = 300

_SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


class Mutation(NamedTuple):
    """A change of one place in a file: the whole text after it, and what it is in words."""

    file: Path
    line: int
    says: str
    text: str


def mutations_of(file: Path) -> Iterator[Mutation]:
    """Every small change that can be made in the functions of a file."""
    text = file.read_text()
    count = sum(1 for _ in _places(ast.parse(text)))
    for i in range(count):
        tree = ast.parse(text)
        node = list(_places(tree))[i]
        before = ast.unparse(node)
        after = _change(node)
        says = f"{before[:60]}  →  {after[:60]}".replace("\n", " ")
        yield Mutation(file, getattr(node, "lineno", 0), says, ast.unparse(tree))


def _places(tree: ast.AST) -> Iterator[ast.AST]:
    functions = [n for n in ast.walk(tree) if isinstance(n, ast.FunctionDef)]
    inner = {n for f in functions for part in f.body for n in ast.walk(part)}
    for node in ast.walk(tree):
        if node not in inner:
            continue
        match node:
            case ast.Compare(ops=[op, *_]) if type(op) in _SWAPS:
                yield node
            case ast.BinOp(op=op) if type(op) in _SWAPS:
                yield node
            case ast.BoolOp():
                yield node
            case ast.If() | ast.IfExp():
                yield node
            case ast.Constant(value=int()) if not isinstance(node.value, bool):
                yield node
            case ast.Expr(value=ast.Call()):
                yield node


def _change(node: ast.AST) -> str:
    """Change a node in place; in what words it is afterwards."""
    match node:
        case ast.Compare():
            node.ops[0] = _SWAPS[type(node.ops[0])]()  # type: ignore[call-overload]
        case ast.BinOp():
            node.op = _SWAPS[type(node.op)]()  # type: ignore[assignment]
        case ast.BoolOp():
            node.op = _SWAPS[type(node.op)]()  # type: ignore[assignment]
        case ast.If() | ast.IfExp():
            node.test = ast.UnaryOp(ast.Not(), node.test)
        case ast.Constant():
            node.value = int(str(node.value)) + 1
        case ast.Expr():
            node.value = ast.Constant(None)
    return ast.unparse(node)


def is_noticed(mutation: Mutation, copy: Path, tests: list[str], env: dict[str, str]) -> bool:
    """Whether a test of some fails, or hangs, once the change is made in a copy of the project."""
    place = copy / mutation.file.relative_to(ROOT)
    place.write_text(mutation.text)
    runner = ["handful.studio.manage", "test", "--no-input", "--failfast"]
    try:
        done = subprocess.run(
            [sys.executable, "-m", *runner, *tests],
            cwd=copy, env=env, capture_output=True, timeout=MOST_SECONDS,
        )  # fmt: skip
        return done.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        shutil.copy2(mutation.file, place)


def chosen(count: int, seed: int, only: str) -> list[tuple[Mutation, list[str]]]:
    """Some mutations, as many from each room as from any other."""
    chance = random.Random(seed)
    rooms = [room for room in TESTS if only in room]
    files = {
        room: [
            file
            for file in sorted((ROOT / room).rglob("*.py"))
            if "migrations" not in file.parts and "management" not in file.parts
        ]
        for room in rooms
    }
    found = []
    for i in range(count):
        room = rooms[i % len(rooms)]
        possible: list[Mutation] = []
        while not possible:
            possible = list(mutations_of(chance.choice(files[room])))
        found.append((chance.choice(possible), TESTS[room]))
    return found


def main() -> int:
    parser = argparse.ArgumentParser(prog="tests/mutations.py")
    parser.add_argument("--count", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="only rooms with this in their path")
    asked = parser.parse_args()
    noticed, missed = 0, []
    with (
        tempfile.TemporaryDirectory() as folder,
        Cluster("postgres-mutations", durable=False).running() as url,
    ):
        copy = Path(folder) / "project"
        kept = shutil.ignore_patterns("var", "node_modules", ".git", "__pycache__")
        shutil.copytree(ROOT, copy, ignore=kept)
        env = surroundings(HANDFUL_DATABASE_URL=url)
        env["PYTHONPATH"] = os.pathsep.join((str(copy / "src"), str(copy)))
        for mutation, tests in chosen(asked.count, asked.seed, asked.only):
            where = f"{mutation.file.relative_to(ROOT)}:{mutation.line}"
            if is_noticed(mutation, copy, tests, env):
                noticed += 1
                print(f"noticed  {where}  {mutation.says}", flush=True)
            else:
                missed.append(f"{where}  {mutation.says}")
                print(f"MISSED   {where}  {mutation.says}", flush=True)
    print(f"{noticed} of {noticed + len(missed)} noticed")
    return 0


if __name__ == "__main__":
    sys.exit(main())
