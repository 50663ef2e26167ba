"""Rules about renders: ordering, cancelling and trying again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import timedelta
from uuid import UUID

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Count, Exists, OuterRef, Q, QuerySet
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from handful.engine.files import FORMATS
from handful.engine.recipe import read_recipe
from handful.engine.render import PlanError, plan
from handful.studio.events.service import tell
from handful.studio.refusals import Conflict, Missing, Refusal
from handful.studio.renders.models import Render, RenderFrame
from handful.studio.renders.tasks import render_frames
from handful.studio.shots.service import shot_for

State = Render.State
ORPHANED_AFTER = timedelta(seconds=5)
"""A render is made together with its job; younger ones are left to those who make them."""

_ENDED = (State.DONE, State.FAILED, State.CANCELLED)


def renders_of(user: User) -> QuerySet[Render]:
    """The renders that a person ordered, the newest first."""
    return Render.objects.filter(by=user)


def render_for(user: User, render_id: UUID) -> Render:
    """One render that a person may see. Raises `Missing`, also for somebody else's."""
    render = renders_of(user).filter(id=render_id).first()
    if render is None:
        raise Missing("There is no such render, or it is not yours.")
    return render


@transaction.atomic
def order_render(
    user: User, shot_id: UUID, first: int, last: int, scale: float, file_format: str
) -> Render:
    """Order a render of a shot as it is saved now; its row and its job appear together.

    Raises `Missing`, `PlanError` for frames or a scale that the shot does not have, `Refusal`.
    """
    shot = shot_for(user, shot_id)
    recipe = read_recipe(shot.recipe)
    for frame in (first, last):
        plan(recipe, frame, scale)
    if last < first:
        raise PlanError(f"the last frame, {last}, comes before the first, {first}")
    if file_format not in FORMATS:
        raise Refusal(f"There is no format {file_format!r}.")
    render = Render.objects.create(
        shot=shot, by=user, name=shot.name, recipe=shot.recipe, revision=shot.revision,
        first=first, last=last, scale=scale, format=file_format,
    )  # fmt: skip
    _queue(render)
    tell(user.id, "render", render.id)
    return render


@transaction.atomic
def cancel_render(user: User, render_id: UUID) -> Render:
    """Cancel a render; it stops before its next frame, and what is written stays."""
    render = _locked(user, render_id)
    if render.state not in _ENDED:
        render.state, render.ended = State.CANCELLED, timezone.now()
        render.save()
        tell(user.id, "render", render.id)
    return render


@transaction.atomic
def retry_render(user: User, render_id: UUID) -> Render:
    """Go on with a render that failed or was cancelled, or whose files are gone; written frames are kept."""
    render = _locked(user, render_id)
    gone = frames_gone(render)
    if render.state not in (State.FAILED, State.CANCELLED) and not (
        render.state == State.DONE and gone
    ):
        raise Conflict(f"This render is {render.state}; there is nothing to try again.")
    render.frames.filter(frame__in=gone).delete()
    render.state, render.reason, render.ended = State.QUEUED, "", None
    render.save()
    _queue(render)
    tell(user.id, "render", render.id)
    return render


def frames_gone(render: Render) -> list[int]:
    """The frames that were written and whose files are not there any more."""
    return [line.frame for line in render.frames.all() if not (render.folder / line.file).exists()]


def runs_of(renders: Iterable[UUID]) -> dict[UUID, list[tuple[int, int]]]:
    """Which frames of some renders are written: each run of them from its first to its last."""
    beside = RenderFrame.objects.filter(render=OuterRef("render"))
    ends = (
        RenderFrame.objects.filter(render__in=list(renders))
        .annotate(
            opens=~Exists(beside.filter(frame=OuterRef("frame") - 1)),
            closes=~Exists(beside.filter(frame=OuterRef("frame") + 1)),
        )
        .filter(Q(opens=True) | Q(closes=True))
        .order_by("render", "frame")
    )
    found: dict[UUID, list[tuple[int, int]]] = defaultdict(list)
    for render, frame, opens in ends.values_list("render", "frame", "opens"):
        if opens:
            found[render].append((frame, frame))
        else:
            found[render][-1] = (found[render][-1][0], frame)
    return found


def counts_of_states() -> dict[str, int]:
    """How many renders are in each state."""
    found = Render.objects.order_by().values("state").annotate(count=Count("id"))
    return {line["state"]: line["count"] for line in found}


def frames_written() -> int:
    """How many frames are written in all."""
    return int(RenderFrame.objects.count())


def queue_orphans() -> int:
    """Queue renders again that are under way and that no job stands for, as after a database that went away
    in the middle of one. How many those were."""
    jobs = ProcrastinateJob.objects.filter(
        task_name=render_frames.name, status__in=("todo", "doing")
    ).values_list("args", flat=True)
    held = {str(args.get("render_id")) for args in jobs}
    since = timezone.now() - ORPHANED_AFTER
    count = 0
    for render in Render.objects.filter(state__in=(State.QUEUED, State.RUNNING), created__lt=since):
        if str(render.id) not in held:
            _queue(render)
            count += 1
    return count


def _locked(user: User, render_id: UUID) -> Render:
    render = renders_of(user).select_for_update().filter(id=render_id).first()
    if render is None:
        raise Missing("There is no such render, or it is not yours.")
    return render


def _queue(render: Render) -> None:
    render_frames.defer(render_id=str(render.id))
