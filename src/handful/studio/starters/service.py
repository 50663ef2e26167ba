"""The starters that ship: one JSON file each, in a folder for each family."""

from __future__ import annotations

import json
from functools import cache
from hashlib import blake2b
from pathlib import Path
from typing import Any, NamedTuple

from django.conf import settings
from django.contrib.auth.models import User

from handful.engine.recipe import Recipe, read_recipe
from handful.studio.refusals import Missing
from handful.studio.shots.service import Shot, create_shot

FOLDER = Path(settings.ROOT) / "starters"


class Starter(NamedTuple):
    """A ready recipe: `written` is the document, `recipe` the same read, `digest` names its text, and
    `still` is the JPEG that stands for it, if it ships with one."""

    id: str
    family: str
    written: dict[str, Any]
    recipe: Recipe
    digest: str
    still: bytes | None


@cache
def starters() -> dict[str, Starter]:
    """Every starter by its id, family by family."""
    found = {}
    for path in sorted(FOLDER.glob("*/*.json")):
        text = path.read_bytes()
        written = json.loads(text)
        digest = blake2b(text, digest_size=8).hexdigest()
        picture = path.with_suffix(".jpg")
        found[path.stem] = Starter(
            path.stem,
            path.parent.name,
            written,
            read_recipe(written),
            digest,
            picture.read_bytes() if picture.exists() else None,
        )
    return found


def starter(starter_id: str) -> Starter:
    """One starter. Raises `Missing`."""
    known = starters().get(starter_id)
    if known is None:
        raise Missing("There is no such starter.")
    return known


def begin_from(user: User, starter_id: str) -> Shot:
    """A new shot of a person's with a starter's recipe."""
    return create_shot(user, starter(starter_id).written)
