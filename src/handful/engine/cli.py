"""The engine's command line: render, check, schema, catalogue and warm-up, without a database."""

from __future__ import annotations

import argparse
import json
import re
import sys
from pathlib import Path

from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

from handful.engine.files import FORMATS, WriteError, frame_name
from handful.engine.kinds import catalogue, sources, steps
from handful.engine.recipe import Recipe, RecipeError, load_recipe, read_recipe, recipe_schema
from handful.engine.render import Cache, PlanError, plan, render_frame
from handful.engine.render.view import View, as_jpeg, shown

CACHE_BYTES = 1 << 30
DONE, FAILED, BAD_INPUT = 0, 1, 2


def main(words: list[str] | None = None) -> int:
    """Run one command. Returns 0, 1 if it failed, or 2 if what it was given cannot be used."""
    options = _parser().parse_args(words)
    try:
        code: int = options.run(options)
        return code
    except RecipeError as error:
        for problem in error.problems:
            print(problem, file=sys.stderr)
        return BAD_INPUT
    except PlanError as error:
        print(f"{str(error)[:1].upper()}{str(error)[1:]}.", file=sys.stderr)
        return BAD_INPUT
    except WriteError as error:
        print(error, file=sys.stderr)
        return FAILED
    except BrokenPipeError:
        sys.stdout = None  # whoever read the output has seen enough; there is nothing to flush
        return DONE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="handful", description=__doc__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    render = commands.add_parser("render", help="render a recipe to a sequence of files")
    render.add_argument("recipe", type=Path, metavar="RECIPE.json")
    render.add_argument("--out", type=Path, required=True, metavar="DIR")
    render.add_argument("--frames", type=_frames, metavar="A-B", help="the whole shot if left out")
    render.add_argument("--scale", type=float, default=1.0, help="1 is the full canvas")
    render.add_argument("--format", choices=list(FORMATS), default="exr")
    render.set_defaults(run=_render)

    check = commands.add_parser("check", help="list the problems of a recipe")
    check.add_argument("recipe", type=Path, metavar="RECIPE.json")
    check.set_defaults(run=_check)

    schema = commands.add_parser("schema", help="print the JSON Schema of recipes")
    schema.set_defaults(run=lambda _: _print_json(recipe_schema()))

    listing = commands.add_parser("catalogue", help="print all sources, steps and settings as JSON")
    listing.set_defaults(run=lambda _: _print_json(catalogue()))

    warm_up = commands.add_parser("warm-up", help="compile the kernels into their cache")
    warm_up.set_defaults(run=_warm_up)
    return parser


def _frames(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d+)(?:-(\d+))?", text)
    if match is None:
        raise argparse.ArgumentTypeError(f"{text!r} is not a range of frames; write 1001-1010")
    first = int(match[1])
    last = int(match[2] or first)
    if last < first:
        raise argparse.ArgumentTypeError(f"{text!r} ends before it begins")
    return first, last


def _render(options: argparse.Namespace) -> int:
    recipe = load_recipe(options.recipe)
    canvas = recipe.canvas
    first, last = options.frames or (canvas.first, canvas.last)
    for frame in (first, last):
        plan(recipe, frame, options.scale)
    way = FORMATS[options.format]
    cache = Cache(CACHE_BYTES)
    columns = (
        TextColumn("{task.description}"),
        BarColumn(),
        MofNCompleteColumn(),
        TimeRemainingColumn(),
    )
    with Progress(*columns, console=Console(stderr=True)) as progress:
        for frame in progress.track(range(first, last + 1), description=recipe.name):
            picture = render_frame(recipe, frame, options.scale, cache)
            path = options.out / frame_name(recipe.name, frame, way.suffix)
            way.write(path, picture, canvas.exact_rate)
    return DONE


def _check(options: argparse.Namespace) -> int:
    recipe = load_recipe(options.recipe)
    print(f"{recipe.name}: {len(recipe.layers)} layers, no problems.")
    return DONE


def _print_json(data: object) -> int:
    json.dump(data, sys.stdout, indent=2, ensure_ascii=False)
    print()
    return DONE


def everything_once() -> Recipe:
    """A small recipe with every source and every step, mixed in each way that has its own loop."""
    chain = [{"kind": name, "id": name} for name in steps()]
    layers = [
        {
            "id": f"{name}-{blend}",
            "name": name,
            "source": {"kind": name},
            "steps": chain,
            "blend": blend,
        }
        for name in sources()
        for blend in ("normal", "add", "screen")
    ]
    canvas = {"width": 960, "height": 540}
    return read_recipe(
        {"version": 1, "name": "warm-up", "canvas": canvas, "cover": "from light", "layers": layers}
    )


def _warm_up(_: argparse.Namespace) -> int:
    recipe = everything_once()
    picture = render_frame(recipe, recipe.canvas.first, 0.5)
    as_jpeg(shown(picture, View()))
    return DONE


if __name__ == "__main__":
    sys.exit(main())
