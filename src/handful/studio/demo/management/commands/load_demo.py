"""Load the Saltglass shots, once; what the demo artist did to them stays."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from demo.camera import SCENES
from handful.studio.demo.tasks import plate_folder, shoot_plate
from handful.studio.people.service import demo_artist
from handful.studio.plates.service import lay_plate
from handful.studio.shots.service import begun_as, create_shot

RECIPES = Path(settings.ROOT) / "demo" / "recipes"


class Command(BaseCommand):
    """Makes the demo artist and the shots, and has their plates drawn."""

    help = "Load the Saltglass demo shots if they are not there."

    def handle(self, *args: Any, **options: Any) -> None:
        artist = demo_artist()
        for path in sorted(RECIPES.glob("*.json")):
            recipe = json.loads(path.read_text())
            if not begun_as(artist, path.stem):
                _load(path.stem, recipe)


@transaction.atomic
def _load(scene: str, recipe: dict[str, Any]) -> None:
    shot = create_shot(demo_artist(), recipe, origin=scene)
    if scene in SCENES:
        canvas = recipe["canvas"]
        lay_plate(shot.id, scene, plate_folder(scene), canvas["first"], canvas["last"])
        shoot_plate.defer(scene=scene, canvas=canvas)
