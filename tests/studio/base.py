"""What the studio's tests share: people, recipes, and a client that speaks JSON."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.db import connection
from django.test import Client, SimpleTestCase
from PIL import Image

from handful.studio.plates.service import lay_plate
from handful.studio.shots.models import Shot
from handful.studio.shots.service import create_shot


def small_recipe(**changes: Any) -> dict[str, Any]:
    """One bolt on a canvas of 64 x 36, ten frames long."""
    bolt = {"kind": "bolt", "start": [4, 4], "end": [60, 32], "width": 2, "finest": 4}
    recipe = {
        "version": 3,
        "name": "Spark",
        "canvas": {"width": 64, "height": 36, "rate": 25, "first": 1, "last": 10},
        "cover": "from light",
        "layers": [{"id": "a", "name": "A", "source": bolt, "steps": []}],
    }
    return recipe | changes


def plated_recipe() -> dict[str, Any]:
    """The plate of the shot as its only layer, over its time."""
    layer = {"id": "plate", "name": "Plate", "source": {"kind": "plate"}}
    return small_recipe(layers=[layer], cover="as drawn")


def bending_recipe(amount: float = 8) -> dict[str, Any]:
    """A ring that bends what is behind it, and is not seen itself."""
    ring = {
        "kind": "ring", "at": [32, 18], "grows": "at a speed", "speed": 100, "front": 9, "tail": 9, "rough": 0,
        "patchy": 0, "comes_as": "offsets", "amount": amount,
    }  # fmt: skip
    layers = [
        {"id": "ring", "name": "Ring", "on": False, "source": ring},
        {"id": "bend", "name": "Bend", "source": {"kind": "bend", "by": "ring"}},
    ]
    return small_recipe(layers=layers, cover="as drawn")


def lay_red_plate(shot: Shot, root: Path) -> None:
    """A plate of one still in (200, 40, 40) behind a shot, in the media folder under `root`."""
    folder = root / "media" / "p"
    folder.mkdir(parents=True)
    Image.new("RGB", (64, 36), (200, 40, 40)).save(folder / "dusk.0001.jpg", quality=98)
    lay_plate(shot.id, "dusk", "p", 1, 1)


def person(name: str, password: str | None = None) -> User:
    """A person; without a password only `client_of` can sign them in."""
    return User.objects.create_user(name, password=password)


def shot_of(user: User, **changes: Any) -> Shot:
    """A saved shot of a person."""
    return create_shot(user, small_recipe(**changes))


class JSONClient(Client):
    """A client that sends and reads JSON under /api/v1."""

    def call(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, Any]:
        """Status and answer of a call."""
        response = self.generic(
            method,
            f"/api/v1{path}",
            b"" if body is None else json.dumps(body).encode(),
            content_type="application/json",
            headers=headers,
        )
        is_json = response.headers.get("Content-Type", "").startswith("application/json")
        return response.status_code, response.json() if is_json and response.content else response


def client_of(user: User | None = None) -> JSONClient:
    """A client, signed in if a person is given."""
    client = JSONClient()
    if user is not None:
        client.force_login(user)
    return client


def other_session() -> dict[str, Any]:
    """What another session on the test's database connects with."""
    facts = connection.settings_dict
    names = {"host": "HOST", "port": "PORT", "user": "USER", "password": "PASSWORD"}
    return {name: facts[fact] for name, fact in names.items()} | {"dbname": facts["NAME"]}


def use_temporary_folders(test: SimpleTestCase) -> Path:
    """Media, renders and thumbnails in fresh folders until the test is over."""
    folder = tempfile.TemporaryDirectory()
    test.addCleanup(folder.cleanup)
    root = Path(folder.name)
    changed = test.settings(
        RENDERS_ROOT=root / "renders",
        MEDIA_ROOT=root / "media",
        THUMBNAILS_ROOT=root / "thumbnails",
    )
    changed.enable()
    test.addCleanup(changed.disable)
    return root


def database_url() -> str:
    """Where another process finds the test's database."""
    return "postgresql://{USER}:{PASSWORD}@{HOST}:{PORT}/{NAME}".format(**connection.settings_dict)
