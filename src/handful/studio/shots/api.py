"""Shots: list, open, save, duplicate, delete and restore."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import F
from django.http import HttpRequest
from ninja import Router, Schema, Status

from handful.engine.recipe import Canvas
from handful.studio.doors import Whole
from handful.studio.people.session import signed_in
from handful.studio.plates.service import plate_of
from handful.studio.refusals import Problem, Refused
from handful.studio.shots import service
from handful.studio.shots.models import Revision, Shot

router = Router()

MOST_REVISIONS = 200


class PlateLine(Schema):
    """The plate of a shot."""

    name: str
    first: int
    last: int


class ShotLine(Schema):
    """A shot as a list shows it."""

    id: UUID
    name: str
    revision: int
    saves: int
    changed: datetime
    width: int
    height: int
    rate: float
    first: int
    last: int


class ShotWhole(ShotLine):
    """A shot with its recipe: that of its newest revision, or a draft on top of it, which has problems."""

    recipe: dict[str, Any]
    plate: PlateLine | None
    problems: list[Problem] = []


class Saved(ShotLine):
    """A shot as it is saved. With problems, its recipe is kept as a draft and no revision is made."""

    problems: list[Problem] = []


class RevisionLine(Schema):
    """A revision as a list shows it."""

    number: int
    at: datetime
    by: str | None


class RevisionWhole(RevisionLine):
    """A revision with its recipe."""

    recipe: dict[str, Any]


class NewShot(Schema):
    """A recipe to make a shot of, or none for what one begins with."""

    recipe: dict[str, Any] | None = None


class Save(Schema):
    """A recipe, and the number of the save that it changes: it is refused where there is a newer one."""

    seen: Whole
    recipe: dict[str, Any]


class Stale(Schema):
    """Something newer stands in the way; here it is."""

    says: str
    saves: int
    revision: int
    recipe: dict[str, Any]
    problems: list[Problem] = []


@router.get("", response=list[ShotLine])
def list_shots(request: HttpRequest) -> list[ShotLine]:
    """Every shot of the person, the one changed last first."""
    shots = service.shots_of(signed_in(request)).defer("recipe", "draft")
    with_canvas = shots.annotate(canvas=F("recipe__canvas"))
    return [ShotLine(**_facts(shot, shot.canvas)) for shot in with_canvas]


@router.post("", response={201: ShotWhole, 422: Refused})
def create_shot(request: HttpRequest, new: NewShot) -> Status[ShotWhole]:
    """Make a shot from a recipe, or one to begin with."""
    person = signed_in(request)
    if new.recipe is None:
        return Status(201, whole_shot(service.begin_shot(person)))
    return Status(201, whole_shot(service.create_shot(person, new.recipe)))


@router.get("/{shot_id}", response={200: ShotWhole, 404: Refused})
def open_shot(request: HttpRequest, shot_id: UUID) -> ShotWhole:
    """One shot with its recipe."""
    return whole_shot(service.shot_for(signed_in(request), shot_id))


@router.put("/{shot_id}", response={200: Saved, 404: Refused, 409: Stale, 422: Refused})
def save_shot(request: HttpRequest, shot_id: UUID, save: Save) -> Saved:
    """Save the recipe; one with problems as a draft. Refused with the newer one if somebody saved since."""
    shot = service.save_recipe(signed_in(request), shot_id, save.seen, save.recipe)
    return Saved(**_facts(shot, shot.recipe.get("canvas")), problems=_problems(shot))


@router.get("/{shot_id}/revisions", response={200: list[RevisionLine], 404: Refused})
def list_revisions(request: HttpRequest, shot_id: UUID) -> list[RevisionLine]:
    """The newest revisions of a shot, the newest first."""
    newest = service.revisions_of(signed_in(request), shot_id)[:MOST_REVISIONS]
    return [RevisionLine(**_revision_facts(revision)) for revision in newest]


@router.get("/{shot_id}/revisions/{number}", response={200: RevisionWhole, 404: Refused})
def open_revision(request: HttpRequest, shot_id: UUID, number: Whole) -> RevisionWhole:
    """A shot's recipe as it was saved once."""
    revision = service.revision_of(signed_in(request), shot_id, number)
    return RevisionWhole(**_revision_facts(revision), recipe=revision.recipe)


@router.post("/{shot_id}/duplicate", response={201: ShotWhole, 404: Refused})
def duplicate_shot(request: HttpRequest, shot_id: UUID) -> Status[ShotWhole]:
    """A copy of the shot."""
    return Status(201, whole_shot(service.duplicate_shot(signed_in(request), shot_id)))


@router.delete("/{shot_id}", response={204: None, 404: Refused})
def delete_shot(request: HttpRequest, shot_id: UUID) -> Status[None]:
    """Put the shot aside."""
    service.delete_shot(signed_in(request), shot_id)
    return Status(204, None)


@router.post("/{shot_id}/restore", response={200: ShotLine, 404: Refused})
def restore_shot(request: HttpRequest, shot_id: UUID) -> ShotLine:
    """Bring a deleted shot back."""
    return _line(service.restore_shot(signed_in(request), shot_id))


def _line(shot: Shot) -> ShotLine:
    return ShotLine(**_facts(shot, shot.recipe.get("canvas")))


def whole_shot(shot: Shot) -> ShotWhole:
    """A shot with its recipe and its plate, as the API tells it."""
    plate = plate_of(shot.id)
    line = None if plate is None else PlateLine(name=plate.name, first=plate.first, last=plate.last)
    return ShotWhole(
        **_facts(shot, shot.recipe.get("canvas")), recipe=service.newest_of(shot), plate=line,
        problems=_problems(shot),
    )  # fmt: skip


def _problems(shot: Shot) -> list[Problem]:
    return [Problem(**problem._asdict()) for problem in service.problems_of(shot.draft)]


def _revision_facts(revision: Revision) -> dict[str, Any]:
    by = None if revision.by is None else revision.by.get_username()
    return {"number": revision.number, "at": revision.at, "by": by}


def _facts(shot: Shot, canvas: dict[str, Any] | None) -> dict[str, Any]:
    return {
        "id": shot.id,
        "name": shot.name,
        "revision": shot.revision,
        "saves": shot.saves,
        "changed": shot.changed,
        **Canvas.model_validate(canvas or {}).model_dump(),
    }
