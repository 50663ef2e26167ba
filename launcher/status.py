"""What runs on a data folder, and what is wrong."""

from __future__ import annotations

import json
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

from launcher.owner import owner_of


def status_of(data: Path) -> tuple[list[str], bool]:
    """In lines for a person, and whether all is well."""
    owner = owner_of(data)
    if owner is None:
        return [f"Handful does not run on {data}."], False
    address = f"http://127.0.0.1:{owner.get('port')}"
    lines = [f"Handful runs on {data} as process {owner.get('process')}, at {address}/"]
    found = _asked(f"{address}/api/v1/ready")
    if found is None:
        return [*lines, f"The web server does not answer; its log is in {data / 'log'}."], False
    if not found["database"]:
        return [*lines, "The database does not answer."], False
    workers, waiting = found["workers"], found["waiting"]
    lines.append(
        f"The database answers. Workers: {workers}. Renders: {found['running']} running, {waiting} waiting."
    )
    if found["compiling"] is not None:
        lines.append(f"The kernels are being compiled: {found['compiling']:.0%}.")
    if not workers:
        lines.append(f"No worker is heard of; its log is in {data / 'log' / 'worker.log'}.")
    return lines, workers > 0


def _asked(address: str) -> dict[str, Any] | None:
    try:
        with urllib.request.urlopen(address, timeout=5) as answer:
            found = json.load(answer)
    except urllib.error.HTTPError as error:
        found = json.load(error) if error.code == 503 else None
    except (OSError, ValueError):
        return None
    return found if isinstance(found, dict) else None
