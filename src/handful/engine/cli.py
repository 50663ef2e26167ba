"""The engine's command line: recipes in, pictures out, without a database."""

from __future__ import annotations

import argparse
import json
import re
import sys
from pathlib import Path

from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

from handful.engine.everything import compile_some
from handful.engine.files import (
    FORMATS,
    About,
    PlateFiles,
    WriteError,
    brought_in,
    camera_text,
    frame_name,
    track_text,
    write_atomically,
)
from handful.engine.kernels.compiled import compiling_told
from handful.engine.recipe import (
    Problem,
    RecipeError,
    catalogue,
    load_recipe,
    read_recipe,
    recipe_schema,
)
from handful.engine.render import (
    NO_MEDIA,
    Cache,
    PlanError,
    Resolver,
    plan,
    render_bend,
    render_frame,
    seam_of,
)

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
    render.add_argument("--layer", metavar="ID", help="only this layer's own picture, as a pass")
    render.add_argument(
        "--plate", type=_plate, metavar="NAME.1001.jpg", help="one of the stills that are its plate"
    )
    render.set_defaults(run=_render)

    check = commands.add_parser("check", help="list the problems of a recipe, measure its loop")
    check.add_argument("recipe", type=Path, metavar="RECIPE.json")
    check.set_defaults(run=_check)

    schema = commands.add_parser("schema", help="print the JSON Schema of recipes")
    schema.set_defaults(run=lambda _: _print_json(recipe_schema()))

    listing = commands.add_parser("catalogue", help="print all sources, steps and settings as JSON")
    listing.set_defaults(run=lambda _: _print_json(catalogue()))

    bring = commands.add_parser(
        "import", help="add a track or a camera in CSV, or the paths of an SVG, to a recipe"
    )
    bring.add_argument("file", type=Path, metavar="FILE.csv|FILE.svg")
    bring.add_argument("--into", type=Path, required=True, metavar="RECIPE.json")
    bring.add_argument("--name", help="its name in the recipe; the file's if left out")
    bring.set_defaults(run=_import)

    give = commands.add_parser("export", help="write a track or a camera of a recipe as CSV")
    give.add_argument("recipe", type=Path, metavar="RECIPE.json")
    give.add_argument("called", metavar="NAME")
    give.add_argument("--out", type=Path, required=True, metavar="FILE.csv")
    give.set_defaults(run=_export)

    warm_up = commands.add_parser("warm-up", help="compile the kernels into their cache")
    warm_up.add_argument("--turn", type=int, default=0, help="which share of them")
    warm_up.add_argument("--of", type=int, default=1, help="of how many shares")
    warm_up.set_defaults(run=_warm_up)
    return parser


def _plate(text: str) -> PlateFiles:
    try:
        return PlateFiles.around(Path(text))
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from None


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
        plan(recipe, frame, options.scale, options.layer)
    way = FORMATS[options.format]
    name = recipe.name if options.layer is None else f"{recipe.name} {options.layer}"
    cache = Cache(CACHE_BYTES)
    columns = (
        TextColumn("{task.description}"),
        BarColumn(),
        MofNCompleteColumn(),
        TimeRemainingColumn(),
    )
    media = options.plate or NO_MEDIA
    with Progress(*columns, console=Console(stderr=True)) as progress:
        task = progress.add_task(name, total=last + 1 - first)

        def tell(kernels: int) -> None:
            progress.update(task, description=f"{name}, compiling as it is new here ({kernels})")

        with compiling_told(tell):
            for frame in progress.track(range(first, last + 1), task_id=task):
                picture = render_frame(recipe, frame, options.scale, cache, options.layer, media)
                path = options.out / frame_name(name, frame, way.suffix)
                bend = None
                if options.layer is None:
                    bend = render_bend(recipe, frame, options.scale, cache, media, way.with_plate)
                way.write(path, picture, About.of(canvas, frame, options.scale), bend)
                progress.update(task, description=name)
    return DONE


def _check(options: argparse.Namespace) -> int:
    recipe = load_recipe(options.recipe)
    print(f"{recipe.name}: {len(recipe.layers)} layers, no problems.")
    if recipe.loop:
        seam = seam_of(recipe, Cache(CACHE_BYTES))
        shows = "No seam shows" if seam.holds else "The seam shows"
        print(
            f"{shows}: from the last frame to the first the picture changes by "
            f"{100 * seam.change:.2f} %, between frames in a row by up to {100 * seam.usual:.2f} %."
        )
    return DONE


def _import(options: argparse.Namespace) -> int:
    name = options.name or options.file.stem
    text = _read_text(options.file)
    written = load_recipe(options.into).model_dump(mode="json", exclude_unset=True)
    written, made = brought_in(written, text, name)
    recipe = read_recipe(written)
    changed = json.dumps(written, indent=2, ensure_ascii=False) + "\n"
    write_atomically(options.into, lambda path: _write_text(path, changed))
    print(f"{recipe.name} has {', '.join(made)} now.")
    return DONE


def _export(options: argparse.Namespace) -> int:
    recipe = load_recipe(options.recipe)
    track = next((track for track in recipe.tracks if track.name == options.called), None)
    if track is not None:
        text = track_text(track)
    elif any(camera.name == options.called for camera in recipe.cameras):
        shot, resolver = recipe.canvas, Resolver(recipe)
        frames = range(shot.first, shot.last + 1)
        text = camera_text((frame, resolver.camera(options.called, frame)) for frame in frames)
    else:
        raise RecipeError([Problem("", f"No track or camera is called {options.called!r}.")])
    write_atomically(options.out, lambda path: _write_text(path, text))
    return DONE


def _read_text(path: Path) -> str:
    try:
        return path.read_text("utf-8-sig")
    except OSError as error:
        says = f"{path} cannot be read: {error.strerror}."
        raise RecipeError([Problem("", says)]) from error
    except UnicodeDecodeError as error:
        raise RecipeError([Problem("", f"{path} is not text in UTF-8.")]) from error


def _write_text(path: Path, text: str) -> None:
    path.write_text(text, "utf-8")


def _print_json(data: object) -> int:
    json.dump(data, sys.stdout, indent=2, ensure_ascii=False)
    print()
    return DONE


def _warm_up(options: argparse.Namespace) -> int:
    compile_some(options.turn, options.of, lambda done, of: print(f"{done} of {of}", flush=True))
    return DONE


if __name__ == "__main__":
    sys.exit(main())
