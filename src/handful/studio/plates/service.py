"""Finding the plate picture for a frame."""

from __future__ import annotations

from pathlib import Path
from uuid import UUID

from django.conf import settings

from handful.engine.files import frame_name
from handful.studio.plates.models import Plate


def plate_of(shot_id: UUID) -> Plate | None:
    """The plate of a shot, if it has one."""
    return Plate.objects.filter(shot_id=shot_id).order_by("id").first()


def plate_file(plate: Plate, frame: int) -> Path:
    """The file for a frame; before the plate begins its first, after its end its last."""
    held = min(plate.last, max(plate.first, frame))
    return Path(settings.MEDIA_ROOT) / plate.folder / frame_name(plate.name, held, "jpg")


def copy_plates(source: UUID, target: UUID) -> None:
    """Let another shot use the same plates; the files are shared."""
    for plate in Plate.objects.filter(shot_id=source):
        Plate.objects.create(
            shot_id=target, name=plate.name, folder=plate.folder, first=plate.first, last=plate.last
        )
