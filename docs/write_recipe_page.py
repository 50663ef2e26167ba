"""Writes `recipe.md` and `recipe.schema.json` beside it from the engine's declarations.

`./handful python docs/write_recipe_page.py`; a test holds that both are current.
"""

from __future__ import annotations

import inspect
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from handful.engine.kinds import Kind, Setting, limits, sources, steps
from handful.engine.mix import COVER_RULES, blends
from handful.engine.named import NAMED
from handful.engine.recipe import recipe_schema
from handful.engine.values import MOVES
from handful.engine.values.arithmetic import FUNCTIONS
from handful.engine.values.moves.formula import NAMES

HERE = Path(__file__).parent

INTRODUCTION = """\
# The recipe

A recipe is a JSON document that makes an element. This page is written from the declarations of
the program (`./handful python docs/write_recipe_page.py`); [recipe.schema.json](recipe.schema.json)
is the same as JSON Schema. `./handful check RECIPE.json` lists what is wrong with one, with paths.

```json
{
  "version": 3,
  "name": "A strike",
  "canvas": {"width": 1920, "height": 1080, "rate": 25, "first": 1001, "last": 1050},
  "seed": 1,
  "cover": "from light",
  "points": [{"name": "mast", "at": [1312, 372]}],
  "layers": [
    {
      "id": "main", "name": "Main channel", "blend": "add",
      "source": {"kind": "bolt", "start": [596, 8], "end": {"moves": "follow", "point": "mast"}},
      "steps": [{"kind": "glow", "id": "glow"}],
      "life": {"rise": 2, "settle": 2, "level": 50, "fall": 8}
    }
  ]
}
```

Lengths are in px of the full-size canvas from its top left, angles in degrees clockwise, brightness
in stops, colours as sRGB hex worked with as linear light, times in frames or seconds.

## Parts

- **canvas**: `width`, `height`, `rate`, `first`, `last`; `overscan`, px that pictures show beyond
  each edge (in EXR they lie outside the display window); `drop_frame` for timecode at 29.97 and
  59.94. **seed**: another one is another element.
- **loop**: the last frames over which the end turns into the beginning, so that the shot can be
  played round without a seam. What runs on by a rate is mixed, as a picture, with what it was one
  loop before; all other values turn as numbers. `./handful check` measures the seam.
- **markers**: frames to be found again, each with `frame` and what it `says`.
- **points**: named positions, still or moving, that settings `follow`; a point may follow another.
- **tracks**: sightings `[frame, x, y, confidence]`; read from CSV by `./handful import TRACK.csv
  --into RECIPE.json` and written by `./handful export`.
- **sways**, **paths** and **cameras**: shared by name; see below. Paths are read from SVG by `./handful import`, and a
  solved camera from CSV whose first line names its columns: `frame`, and any of `x`, `y` (down) or `up`, `z` (forward) or
  `back`, `pan`, `tilt` and `roll` in degrees (to the right, up, clockwise) and `lens`, its focal length in px.
- **elements**: other recipes as they were at a revision, each with `name`, `recipe`, and the `shot`
  and `revision` it came from; the source `element` places one. They may lie three deep.
- **layers**: mixed from first to last. Each has `id`, `name`, `source`, `steps`, `limits` (where it
  shows), `blend`, `opacity`, `life`, `shutter` (`angle` in degrees, `samples`), `first` and `last`
  frame, `on`, and `within`, the id of the group that it belongs to.
- **life** is 0 at nothing and 1 at full. Where its ease overshoots, light shines above full; cover
  times opacity stays within 0 to 1, light is never below nothing, and a setting that goes with the
  life stays within its own bounds.
- A layer shows, or not, for a whole frame: an open shutter looks at it as on that frame, also at
  moments before its first or after its last.
- **finish**: steps on the mixed result. **cover**: the rule for its cover at the output.
- A step has a `kind`, an `id`, `on`, its settings, and `limits`: where it acts.
"""


BLENDING = """
Blends act on **linear light**. That is what light does, but not what browsers and most editors do:
they blend the sRGB signal. With `blends_in` at `seen` instead of `light`, a layer's blend acts on
the signal as it is seen, and matches them. `in`, `out` and `atop` keep the layer where there is
something below; `under`, `keep in`, `keep out` and `keep atop` are the same with both exchanged,
and `xor` keeps each where the other is not (Porter and Duff 1984). These and `expose` go by cover
and are the same in both.

Recipes of version 1 are read, too: what was called `echo` is `trail`, in formulas the value
underneath is `still` in place of `value`, and an element's place in time is in seconds, `time`, in
place of its `frame`.
"""


def main() -> None:
    """Write both files."""
    (HERE / "recipe.md").write_text(page())
    (HERE / "recipe.schema.json").write_text(schema_text())


def page() -> str:
    """The page in Markdown."""
    return "\n".join([INTRODUCTION, *_mixing(), *_moves(), *_all_kinds()]).rstrip() + "\n"


def schema_text() -> str:
    """The JSON Schema as text."""
    return json.dumps(recipe_schema(), ensure_ascii=False, separators=(",", ":")) + "\n"


def _mixing() -> Iterator[str]:
    yield f"**Blends**: {', '.join(blends())}. **Cover rules**: {', '.join(COVER_RULES)}.\n"
    yield inspect.cleandoc(BLENDING) + "\n"


def _moves() -> Iterator[str]:
    yield "## How a setting moves\n"
    yield "A number, point or colour is written plainly, or as an object with `moves`:\n"
    yield "| moves | for | what it does | fields |"
    yield "|---|---|---|---|"
    for name, move in MOVES.items():
        fields = ", ".join(f"`{field}`" for field in move.model_fields if field != "moves")
        yield f"| {name} | {', '.join(sorted(move.suits))} | {move.help} | {fields} |"
    names = "; ".join(f"`{name}` {what}" for name, what in NAMES.items())
    yield f"\nA formula knows {names}, `pi`, and the functions {', '.join(FUNCTIONS)}.\n"


def _all_kinds() -> Iterator[str]:
    for title, kinds in (("Sources", sources()), ("Steps", steps()), ("Limits", limits())):
        yield f"## {title}\n"
        families = list(dict.fromkeys(kind.family for kind in kinds.values()))
        for family in families:
            if len(families) > 1:
                yield f"### {family.capitalize()}\n"
            for name, kind in kinds.items():
                if kind.family == family:
                    yield from _kind(name, kind)
    yield "## Shared by name\n"
    for kind in NAMED.values():
        yield from _kind(kind.name, kind)


def _kind(name: str, kind: type[Kind]) -> Iterator[str]:
    yield f"#### {name}\n"
    yield f"{inspect.cleandoc(kind.__doc__ or '')}\n"
    if kind.settings:
        yield "| setting | type | as it comes | range | |"
        yield "|---|---|---|---|---|"
        yield from _rows("", kind.settings)
        yield ""


def _rows(before: str, settings: tuple[Setting, ...]) -> Iterator[str]:
    for setting in settings:
        default = json.dumps(setting.default, ensure_ascii=False)
        if setting.type == "pieces":
            default = f"{len(setting.default)} of them"
        known = f"`{before}{setting.name}` | {setting.type} | {_short(default)} | {_range(setting)}"
        yield f"| {known} | {setting.help} |"
        if setting.type == "pieces" and setting.of is not None:
            yield from _rows(f"{before}{setting.name}[].", setting.of.settings)


def _short(text: str) -> str:
    return text.replace("|", "\\|")


def _range(setting: Setting) -> str:
    if setting.choices:
        return ", ".join(setting.choices)
    if setting.least is None or setting.most is None:
        return setting.unit
    return f"{_plain(setting.least)} to {_plain(setting.most)} {setting.unit}".strip()


def _plain(number: Any) -> str:
    return f"{number:g}"


if __name__ == "__main__":
    main()
