"""Where things are, and the surroundings that every program of the project runs in."""

from __future__ import annotations

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
DATA = Path(os.environ.get("HANDFUL_DATA", ROOT / "var")).resolve()
"""Everything that set-up and use leave behind: environment, database, media, renders, logs."""

WEB = ROOT / "web"
VENV = DATA / "venv"
PYTHON = VENV / "bin" / "python"


class Trouble(Exception):
    """Something that keeps a command from going on, as a sentence for the person at the terminal."""


def surroundings(**more: str) -> dict[str, str]:
    """Environment variables for the project's programs.

    Freed memory is kept by the process: pictures are large, and fetching fresh pages for each costs more than filling
    them. What Python compiles of the project is kept in the data folder, so that each start finds it.
    """
    return {
        **os.environ,
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
        "PYTHONUNBUFFERED": "1",
        "PYTHONDONTWRITEBYTECODE": "",
        "PYTHONPYCACHEPREFIX": str(DATA / "bytecode"),
        "DJANGO_SETTINGS_MODULE": "handful.studio.settings",
        "NUMBA_CACHE_DIR": str(DATA / "kernels"),
        "HANDFUL_DATA": str(DATA),
        "MALLOC_MMAP_THRESHOLD_": str(1 << 30),
        "MALLOC_TRIM_THRESHOLD_": str(1 << 31),
        **more,
    }


def say(text: str) -> None:
    """A line about progress, apart from what commands print."""
    print(text, file=sys.stderr, flush=True)
