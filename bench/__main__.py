"""`./handful bench [NAME ...] [--json]`: prints the table; exits 1 where an aim is missed. `starters:NAME` is one
starter, or one family of them."""

from __future__ import annotations

import argparse
import dataclasses
import json
import sys
from collections.abc import Callable, Iterator

from rich.console import Console
from rich.table import Table

from bench.blur import glow
from bench.cache import cache
from bench.cloth import cloth
from bench.faults import faults
from bench.fire import fire
from bench.in_browser import bench, tab
from bench.liquid import liquid
from bench.load import load, memory
from bench.noise import noise
from bench.particles import particles
from bench.peak import peak
from bench.rows import Row
from bench.shots import change, frames
from bench.start import start
from bench.starters import starters
from bench.steps import steps_bench

BENCHES: dict[str, Callable[[], Iterator[Row]]] = {
    "glow": glow,
    "noise": noise,
    "particles": particles,
    "fire": fire,
    "liquid": liquid,
    "cloth": cloth,
    "frames": frames,
    "change": change,
    "steps": steps_bench,
    "peak": peak,
    "starters": starters,
    "cache": cache,
    "start": start,
    "bench": bench,
    "tab": tab,
    "load": load,
    "faults": faults,
    "memory": memory,
}

LAST = ("memory", "faults")
"""Those that take an hour or so, and are only run by their names."""


def main() -> int:
    """Run the benches named, or all that do not last."""
    parser = argparse.ArgumentParser(prog="handful bench", description=__doc__)
    parser.add_argument("names", nargs="*", metavar="NAME", help=", ".join(BENCHES))
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    asked = [
        name.partition(":")[::2]
        for name in options.names or (each for each in BENCHES if each not in LAST)
    ]
    for name, part in asked:
        if name not in BENCHES or (part and name != "starters"):
            parser.error(f"there is no bench {name!r}; there are {', '.join(BENCHES)}")
    rows = [row for name, part in asked for row in (starters(part) if part else BENCHES[name]())]
    if options.json:
        print(json.dumps([dataclasses.asdict(row) for row in rows], indent=2))
    else:
        table = Table("name", "measured", "reference", "ratio", "aim", "holds")
        for row in rows:
            holds = "yes" if row.holds else "no"
            table.add_row(row.name, row.measured, row.reference, f"{row.ratio:.3g}", row.aim, holds)
        Console(width=140).print(table)
    return 0 if all(row.holds for row in rows) else 1


if __name__ == "__main__":
    sys.exit(main())
