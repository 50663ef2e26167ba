"""Working a render off, frame by frame, so that it can stop and go on at any of them."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import NamedTuple
from uuid import UUID

from django.db import InterfaceError, OperationalError, connection
from django.utils import timezone

from handful.engine import Cache, read_recipe, render_frame
from handful.engine.files import (
    FORMATS,
    About,
    PlateFiles,
    StillFile,
    WriteError,
    clear_parts,
    frame_name,
)
from handful.engine.recipe import Recipe
from handful.engine.render import NO_MEDIA, PlanError, render_bend
from handful.studio.events.service import tell
from handful.studio.plates.service import files_of, plate_of
from handful.studio.renders.models import Render, RenderFrame
from handful.studio.states import lasting_states

CACHE_BYTES = 1024 * 1024 * 1024
State = Render.State


class Interrupted(Exception):
    """The worker is asked to stop; somebody else goes on with the render."""


class Busy(Exception):
    """Another worker holds the render; it must be looked at again, in case that one dies."""


def work_off(render_id: UUID, should_stop: Callable[[], bool]) -> None:
    """Compute and write all frames that are not written yet.

    Only one worker at a time works on a render: raises `Busy` while another does, and
    `Interrupted` when `should_stop` says so. Where the database goes away it is waited for, a little longer
    each time, and asked again for all that it knows.
    """
    for pause in _PAUSES:
        try:
            with _alone(render_id) as alone:
                if not alone:
                    raise Busy
                _work_off_alone(render_id, should_stop)
            return
        except (OperationalError, InterfaceError):
            log.warning("The database went away in the middle of render %s.", render_id)
            connection.close()
            if should_stop():
                raise Interrupted from None
            time.sleep(pause)
    raise Busy


_PAUSES = (0.5, 1, 2, 4, 8, 15, 30)
"""Seconds; after the last of them the job is handed back."""

log = logging.getLogger(__name__)


def _work_off_alone(render_id: UUID, should_stop: Callable[[], bool]) -> None:
    ready = Render.objects.filter(id=render_id, state__in=[State.QUEUED, State.RUNNING])
    if not ready.update(state=State.RUNNING, started=timezone.now()):
        return
    render = Render.objects.get(id=render_id)
    _tell(render)
    clear_parts(render.folder)
    recipe = read_recipe(render.recipe)
    cache = Cache(CACHE_BYTES, lasting_states())
    written = set(render.frames.values_list("frame", flat=True))
    try:
        for frame in range(render.first, render.last + 1):
            if frame in written:
                continue
            if should_stop():
                raise Interrupted
            if not Render.objects.filter(id=render_id, state=State.RUNNING).exists():
                return
            _write_frame(render, recipe, frame, cache)
    except (WriteError, PlanError) as error:
        _end(render, State.FAILED, str(error))
    except (Interrupted, OperationalError, InterfaceError):
        raise
    except Exception as error:
        _end(render, State.FAILED, f"It stopped at an unexpected error: {error}")
        raise
    else:
        _end(render, State.DONE, "")


def _write_frame(render: Render, recipe: Recipe, frame: int, cache: Cache) -> None:
    """Write one frame and record it. A file that has its name already is whole, and is kept."""
    way = FORMATS[render.format]
    path = render.folder / frame_name(render.name, frame, way.suffix)
    begun = time.monotonic()
    if not path.exists():
        files = files_of(plate_of(render.shot_id))
        media = NO_MEDIA if files is None else _Delivered(files)
        picture = render_frame(recipe, frame, render.scale, cache, media=media)
        bend = render_bend(recipe, frame, render.scale, cache, media, way.with_plate)
        way.write(path, picture, About.of(recipe.canvas, frame, render.scale), bend)
    RenderFrame.objects.create(
        render=render, frame=frame, file=path.name, size=path.stat().st_size,
        seconds=time.monotonic() - begun,
    )  # fmt: skip
    _tell(render)


class _Delivered(NamedTuple):
    """A plate that must be there where a layer takes it: nothing is delivered with a hole in it."""

    files: PlateFiles

    def plate(self, frame: int) -> StillFile:
        """The still for a frame. Raises `WriteError` if there is no such file."""
        still = self.files.plate(frame)
        if not still.path.is_file():
            raise WriteError(
                f"The plate's still {still.path.name} is not there, and a layer takes it. Is it drawn yet, and "
                "the folder of plates this worker's as well? Then try again."
            )
        return still


def _end(render: Render, state: Render.State, reason: str) -> None:
    """Unless somebody cancelled it meanwhile."""
    Render.objects.filter(id=render.id, state=State.RUNNING).update(
        state=state, reason=reason, ended=timezone.now()
    )
    _tell(render)


def _tell(render: Render) -> None:
    tell(render.by_id, "render", render.id)


@contextmanager
def _alone(render_id: UUID) -> Iterator[bool]:
    """Hold the render's lock in the database, which goes with the connection of a dead worker."""
    lock = render_id.int & (2**63 - 1)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [lock])
        got = bool(cursor.fetchone()[0])
    try:
        yield got
    finally:
        if got and connection.is_usable():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_unlock(%s)", [lock])
