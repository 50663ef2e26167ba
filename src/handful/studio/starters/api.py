"""Starters: list, and begin a shot from one."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema, Status

from handful.studio.people.session import signed_in
from handful.studio.refusals import Refused
from handful.studio.shots.api import ShotWhole, whole_shot
from handful.studio.starters import service
from handful.studio.starters.service import Starter

router = Router()


class StarterLine(Schema):
    """A starter as a list shows it."""

    id: str
    family: str
    name: str
    width: int
    height: int
    rate: float
    first: int
    last: int


class StarterWhole(Schema):
    """A starter's recipe."""

    name: str
    recipe: dict[str, Any]


@router.get("", response=list[StarterLine])
def list_starters(request: HttpRequest) -> list[StarterLine]:
    """Every starter, family by family."""
    return [_line(starter) for starter in service.starters().values()]


@router.get("/{starter_id}", response={200: StarterWhole, 404: Refused})
def read_starter(request: HttpRequest, starter_id: str) -> StarterWhole:
    """A starter with its recipe."""
    starter = service.starter(starter_id)
    return StarterWhole(name=starter.recipe.name, recipe=starter.written)


@router.post("/{starter_id}/shot", response={201: ShotWhole, 404: Refused})
def begin(request: HttpRequest, starter_id: str) -> Status[ShotWhole]:
    """A new shot with the starter's recipe."""
    return Status(201, whole_shot(service.begin_from(signed_in(request), starter_id)))


def _line(starter: Starter) -> StarterLine:
    return StarterLine(
        id=starter.id,
        family=starter.family,
        name=starter.recipe.name,
        **starter.recipe.canvas.model_dump(),
    )
