"""Faults at length: processes that are killed, databases that go away, and many hostile requests. What the tests do
once or four hundred times is done until it would have shown."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from collections.abc import Iterator

from bench.rows import Row
from launcher import installing
from launcher.cluster import Cluster
from launcher.places import surroundings

CASES = 10_000
"""Requests built from the schema; `HANDFUL_CASES` says otherwise."""

TRIALS = 5
GENERATED = "tests.studio.test_doors.Generated"
FAULTS = {
    "workers killed, stopped, and without their database": "tests.studio.test_worker.Killed",
    "what computes killed in the middle": "tests.studio.test_apart.Process",
    "no memory": "tests.studio.test_memory.Held",
    "slow and silent readers": "tests.studio.test_serve.Slow",
    "a database half made, and a launcher that is killed": "tests.launcher.test_launcher.Database",
}


def faults() -> Iterator[Row]:
    """Each kind of fault several times, and requests that are built from the schema: how often something broke."""
    cases = os.environ.get("HANDFUL_CASES", str(CASES))
    with Cluster("postgres-test", durable=False).running() as url:
        env = surroundings(
            HANDFUL_DATABASE_URL=url,
            HANDFUL_CHROMIUM=str(installing.CHROMIUM),
            HANDFUL_COLD="1",
            HANDFUL_CASES=cases,
        )
        for name, label in FAULTS.items():
            yield _row(f"{name}, {TRIALS} times", [label] * TRIALS, env)
        yield _row(f"{cases} requests built from the schema", [GENERATED], env)


def _row(name: str, labels: list[str], env: dict[str, str]) -> Row:
    begun, done, broken = time.perf_counter(), 0, 0
    for label in labels:
        words = [sys.executable, "-m", "handful.studio.manage", "test", "--no-input", label]
        ended = subprocess.run(words, env=env, capture_output=True, text=True)
        counted = re.search(r"(\d+) passed, (\d+) failed", ended.stdout + ended.stderr)
        passed, failed = (int(part) for part in counted.groups()) if counted else (0, 1)
        done, broken = done + passed + failed, broken + failed
        if failed:
            print(ended.stderr, file=sys.stderr)
    taken = f"{time.perf_counter() - begun:.0f} s"
    return Row(name, f"{broken} broke", f"{done} tests, {taken}", float(broken), "0", broken == 0)
