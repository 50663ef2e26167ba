"""The jobs that draw the plates of the demo shots, so that nobody waits for them at the first start."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from procrastinate import JobContext
from procrastinate.contrib.django import app
from procrastinate.exceptions import JobAborted

from demo.camera import shoot
from handful.studio.renders.tasks import QUEUE, HandBack

AFTER_RENDERS = -1


def plate_folder(scene: str) -> str:
    """Where the plate of a scene lies in the media folder."""
    return f"plates/{scene}"


@app.task(queue=QUEUE, priority=AFTER_RENDERS, pass_context=True, retry=HandBack())
def shoot_plate(context: JobContext, scene: str, canvas: dict[str, float]) -> None:
    """Draw what is missing of the plate of a scene. A worker that is asked to stop hands the rest back."""
    for _ in shoot(scene, canvas, Path(settings.MEDIA_ROOT) / plate_folder(scene)):
        if context.should_abort():
            raise JobAborted
