"""Rules about shots: who may see one, and how a recipe is saved without losing anybody's."""

from __future__ import annotations

from itertools import count
from typing import Any
from uuid import UUID

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from handful.engine.recipe import NoRecipe, Problem, RecipeError, first_recipe, read_recipe
from handful.studio.events.service import tell
from handful.studio.plates.service import copy_plates
from handful.studio.refusals import Conflict, Missing
from handful.studio.shots.models import Revision
from handful.studio.shots.models import Shot as Shot


def shots_of(user: User) -> QuerySet[Shot]:
    """The shots that a person may open, the one changed last first."""
    return Shot.objects.filter(owner=user, deleted=None)


def shot_for(user: User, shot_id: UUID) -> Shot:
    """One shot that a person may open. Raises `Missing`, also for somebody else's."""
    shot = shots_of(user).filter(id=shot_id).first()
    if shot is None:
        raise Missing("There is no such shot, or it is not yours.")
    return shot


def own_shot(user: User, shot_id: UUID) -> Shot:
    """One shot of a person, also one that was put aside. Raises `Missing`."""
    shot = Shot.objects.filter(owner=user, id=shot_id).first()
    if shot is None:
        raise Missing("There is no such shot, or it is not yours.")
    return shot


def begun_as(user: User, origin: str) -> bool:
    """Whether a person has a shot that began as a demo shot, also one that was put aside."""
    return Shot.objects.filter(owner=user, origin=origin).exists()


@transaction.atomic
def create_shot(user: User, recipe: dict[str, Any], origin: str = "") -> Shot:
    """A new shot with a recipe. Raises `RecipeError`."""
    name = read_recipe(recipe).name
    shot = Shot.objects.create(owner=user, name=name, recipe=recipe, origin=origin)
    _keep_revision(shot, user)
    tell(user.id, "shot", shot.id)
    return shot


def begin_shot(user: User) -> Shot:
    """A new shot with what one begins with, under the first free name."""
    taken = set(shots_of(user).values_list("name", flat=True))
    name = next(name for number in count(1) if (name := f"Strike {number}") not in taken)
    return create_shot(user, first_recipe(name))


@transaction.atomic
def save_recipe(user: User, shot_id: UUID, seen: int, recipe: dict[str, Any]) -> Shot:
    """Save a recipe on top of what the person has seen, by the number of its save.

    One with problems is kept as the shot's draft, which is no revision: pictures and renders are
    made of the newest revision. Raises `NoRecipe`, `Missing`, or `Conflict` with what was saved since.
    """
    shot = shots_of(user).select_for_update().filter(id=shot_id).first()
    if shot is None:
        raise Missing("There is no such shot, or it is not yours.")
    if shot.saves != seen:
        raise Conflict(
            "This shot was saved elsewhere meanwhile.",
            saves=shot.saves,
            revision=shot.revision,
            recipe=newest_of(shot),
            problems=[problem._asdict() for problem in problems_of(shot.draft)],
        )
    if newest_of(shot) == recipe:
        return shot
    shot.saves += 1
    if problems_of(recipe):
        shot.draft = recipe
        shot.save()
    else:
        is_another = shot.recipe != recipe
        shot.draft = None
        if is_another:
            shot.recipe, shot.name, shot.revision = (
                recipe,
                read_recipe(recipe).name,
                shot.revision + 1,
            )
        shot.save()
        if is_another:
            _keep_revision(shot, user)
    tell(shot.owner_id, "shot", shot.id, shot.saves)
    return shot


def newest_of(shot: Shot) -> dict[str, Any]:
    """What was last saved of a shot: its draft, if it has one."""
    newest: dict[str, Any] = shot.recipe if shot.draft is None else shot.draft
    return newest


def problems_of(recipe: dict[str, Any] | None) -> list[Problem]:
    """What is wrong with a recipe; nothing is wrong with none. Raises `NoRecipe`."""
    try:
        if recipe is not None:
            read_recipe(recipe)
    except NoRecipe:
        raise
    except RecipeError as error:
        return error.problems
    return []


def revisions_of(user: User, shot_id: UUID) -> QuerySet[Revision]:
    """What was saved of a shot, the newest first. Raises `Missing`."""
    return shot_for(user, shot_id).revisions.select_related("by").order_by("-number")


def revision_of(user: User, shot_id: UUID, number: int) -> Revision:
    """One revision of a shot. Raises `Missing`."""
    found = revisions_of(user, shot_id).filter(number=number).first()
    if found is None:
        raise Missing(f"There is no revision {number} of this shot.")
    return found


@transaction.atomic
def duplicate_shot(user: User, shot_id: UUID) -> Shot:
    """A copy of a shot under a name of its own, with the same plates."""
    shot = shot_for(user, shot_id)
    copy = create_shot(user, {**shot.recipe, "name": f"{shot.name[:72]} copy"})
    copy_plates(shot.id, copy.id)
    return copy


@transaction.atomic
def delete_shot(user: User, shot_id: UUID) -> None:
    """Put a shot aside; `restore_shot` brings it back."""
    shot = shot_for(user, shot_id)
    Shot.objects.filter(id=shot.id).update(deleted=timezone.now())
    tell(user.id, "shot", shot.id)


@transaction.atomic
def restore_shot(user: User, shot_id: UUID) -> Shot:
    """Bring a deleted shot back."""
    Shot.objects.filter(owner=user, id=shot_id).update(deleted=None)
    shot = shot_for(user, shot_id)
    tell(user.id, "shot", shot.id)
    return shot


def _keep_revision(shot: Shot, user: User) -> None:
    Revision.objects.create(shot=shot, number=shot.revision, recipe=shot.recipe, by=user)
