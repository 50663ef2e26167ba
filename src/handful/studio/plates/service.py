"""Finding the plate picture for a frame."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db.models import QuerySet

from handful.engine.files import frame_name
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


def plate_file(plate: Plate, frame: int) -> Path:
    """The file for a frame; before the plate begins its first, after its end its last."""
    held = min(plate.last, max(plate.first, frame))
    return Path(settings.MEDIA_ROOT) / plate.folder / frame_name(plate.name, held, "jpg")


def copy_plates(source: UUID, target: UUID) -> None:
    """Let another shot use the same plates; the files are shared."""
    for plate in Plate.objects.filter(shot_id=source):
        lay_plate(target, plate.name, plate.folder, plate.first, plate.last)
