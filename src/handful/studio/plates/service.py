"""Finding the plate of a shot, and its pictures."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db.models import QuerySet

from handful.engine.files import PlateFiles
from handful.studio.plates.models import Plate as Plate


def plate_of(shot_id: UUID) -> Plate | None:
    """The plate of a shot, if it has one."""
    return Plate.objects.filter(shot_id=shot_id).order_by("id").first()


def plate_among(shots: QuerySet[Any], shot_id: UUID) -> Plate | None:
    """The plate of a shot, if it has one and the shot is among some."""
    return Plate.objects.filter(shot_id=shot_id, shot__in=shots).order_by("id").first()


def lay_plate(shot_id: UUID, name: str, folder: str, first: int, last: int) -> Plate:
    """Files `FOLDER/NAME.FFFF.jpg` of the media folder behind a shot."""
    return Plate.objects.create(shot_id=shot_id, name=name, folder=folder, first=first, last=last)


def files_of(plate: Plate | None) -> PlateFiles | None:
    """Where the stills of a plate are, if there is one."""
    if plate is None:
        return None
    folder = Path(settings.MEDIA_ROOT) / plate.folder
    return PlateFiles(folder, plate.name, plate.first, plate.last)


def copy_plates(source: UUID, target: UUID) -> None:
    """Let another shot use the same plates; the files are shared."""
    for plate in Plate.objects.filter(shot_id=source):
        lay_plate(target, plate.name, plate.folder, plate.first, plate.last)
