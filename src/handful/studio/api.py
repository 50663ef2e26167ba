"""The API under /api/v1: one router for each app, and how refusals are answered."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Any

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Field, NinjaAPI, Query, Schema
from ninja import Path as PathParam
from ninja.errors import HttpError, ValidationError
from ninja.security import django_auth

from handful.engine.colour.temperature import colour_of
from handful.engine.colour.transfer import hex_of
from handful.engine.kernels.pixels.monotone import curve_through
from handful.engine.recipe import (
    AnyChange,
    RecipeError,
    brought_together,
    catalogue,
    changed_by,
    fitted,
    read_recipe,
    recipe_schema,
    upgraded,
)
from handful.engine.render import PlanError
from handful.engine.values import drops_frames, timecode
from handful.engine.values.moves.fields import FieldType
from handful.studio.doors import CarefulParser, CarefulRenderer, Unreadable
from handful.studio.people.api import router as people
from handful.studio.preview.api import router as preview
from handful.studio.refusals import Refusal, Refused
from handful.studio.renders.api import router as renders
from handful.studio.shots.api import router as shots
from handful.studio.starters.api import router as starters
from handful.studio.watch.api import router as watch

api = NinjaAPI(
    title="Handful", version="1", auth=django_auth, docs_url=None,
    parser=CarefulParser(), renderer=CarefulRenderer(),
)  # fmt: skip
api.add_router("/people", people, tags=["people"])
api.add_router("/shots", shots, tags=["shots"])
api.add_router("/starters", starters, tags=["starters"])
api.add_router("/preview", preview, tags=["preview"])
api.add_router("/renders", renders, tags=["renders"])
api.add_router("", watch, tags=["watch"])


class Setting(Schema):
    """One setting of a kind, as declared."""

    name: str
    type: str
    default: object
    help: str
    unit: str
    least: float | None
    most: float | None
    usual: list[float] | None
    choices: list[str]
    moves: list[str]
    drawn: str | None
    about: str
    elsewhere: bool
    takes: list[str]
    returns: str
    of: str | None
    pieces: Pieces | None


class Pieces(Schema):
    """What each of several alike is made of, as declared."""

    says: str
    pictured: str
    settings: list[Setting]


Level = Annotated[float, Field(ge=-1e6, le=1e6)]


class CurvePoints(Schema):
    """Points that a curve goes through, at levels of the first that rise, from 0 to 1 as a rule."""

    points: list[tuple[Level, Level]] = Field(min_length=1, max_length=64)
    at: list[Level] = Field(max_length=512)


class ColourLine(Schema):
    """A colour as people write it."""

    srgb: str


class KindEntry(Schema):
    """A source, a step or a limit, as declared."""

    name: str
    title: str
    family: str
    help: str
    says: str
    outline: str
    example: dict[str, object]
    settings: list[Setting]


class NamedEntry(KindEntry):
    """What layers share by name, as declared: under which of a recipe's lists, and whether it is drawn on the picture by
    hand and has no card."""

    listed: str
    by_hand: bool


class MoveField(Schema):
    """One field of a way of moving, as declared."""

    name: str
    label: str
    type: FieldType
    unit: str
    least: float | None
    most: float | None
    choices: dict[str, str]
    names: list[str]
    absent: object
    begins: object


class MoveEntry(Schema):
    """A way of moving, as declared."""

    name: str
    help: str
    says: str
    mark: str
    carried: list[str]
    dragged: str
    fields: list[MoveField]


class LayerParts(Schema):
    """What every layer has beside its source and steps."""

    opacity: Setting
    life: KindEntry
    shutter: KindEntry


class Catalogue(Schema):
    """Everything a recipe can be made of."""

    sources: list[KindEntry]
    steps: list[KindEntry]
    limits: list[KindEntry]
    named: list[NamedEntry]
    layer: LayerParts
    moves: list[MoveEntry]
    blends: list[str]
    cover_rules: list[str]


@api.get("/alive", auth=None)
def alive(request: HttpRequest) -> dict[str, bool]:
    """Whether the server answers."""
    return {"alive": True}


@api.get("/catalogue", response=Catalogue, auth=None)
def read_catalogue(request: HttpRequest) -> HttpResponse:
    """Every source, step, limit, way of moving, blend and cover rule."""
    return HttpResponse(_catalogue(), content_type="application/json; charset=utf-8")


@cache
def _catalogue() -> bytes:
    """The catalogue as it is sent, which is the same as long as the process lives: it is large, and every page asks."""
    return Catalogue.model_validate(catalogue()).model_dump_json().encode()


@api.get("/colours/{kelvin}", response=ColourLine, auth=None)
def colour_of_temperature(
    request: HttpRequest, kelvin: Annotated[float, PathParam(ge=1667, le=25_000)]
) -> ColourLine:
    """The colour of light of a temperature in kelvin, from 1667 to 25000."""
    return ColourLine(srgb=hex_of(colour_of(kelvin)))


@api.post("/curve", response=list[float], auth=None)
def curve(request: HttpRequest, asked: CurvePoints) -> list[float]:
    """A curve as settings draw it, through points in any order, at some places."""
    found: list[float] = curve_through(asked.points, np.array(asked.at, float)).tolist()
    return found


class Fitting(Schema):
    """A recipe, and the size of the canvas that it is to fit on."""

    recipe: dict[str, Any]
    width: int = Field(ge=16, le=16384)
    height: int = Field(ge=16, le=16384)


class RecipeOnly(Schema):
    """A recipe."""

    recipe: dict[str, Any]


@api.post("/recipes/fitted", response={200: RecipeOnly, 422: Refused})
def fit_recipe(request: HttpRequest, asked: Fitting) -> RecipeOnly:
    """A recipe on a canvas of another size: places go with it in proportion, lengths stay."""
    read_recipe(asked.recipe)
    made = fitted(upgraded(asked.recipe), asked.width, asked.height)
    read_recipe(made)
    return RecipeOnly(recipe=made)


class Changing(Schema):
    """A recipe, and a change to it that needs a rule."""

    recipe: dict[str, Any]
    change: AnyChange


class ChangedRecipe(Schema):
    """A recipe after a change, and what was made: a layer's id, a step's, or a name."""

    recipe: dict[str, Any]
    made: str | None


@api.post("/recipes/changed", response={200: ChangedRecipe, 422: Refused})
def change_recipe(request: HttpRequest, asked: Changing) -> ChangedRecipe:
    """A recipe after a change, with what comes with it, and all that names what was changed."""
    made = changed_by(asked.recipe, asked.change)
    return ChangedRecipe(recipe=made.recipe, made=made.made)


class Both(Schema):
    """A recipe as two have changed it, and what both began with."""

    base: dict[str, Any]
    mine: dict[str, Any]
    theirs: dict[str, Any]


class BroughtTogether(Schema):
    """A recipe with the changes of both: paths of what both have set, where mine holds, and of what one has taken
    away and the other changed, which is kept."""

    recipe: dict[str, Any]
    both: list[str]
    kept: list[str]


@api.post("/recipes/together", response={200: BroughtTogether, 422: Refused})
def bring_together(request: HttpRequest, asked: Both) -> BroughtTogether:
    """Two recipes that began as one, in one."""
    made = brought_together(asked.base, asked.mine, asked.theirs)
    return BroughtTogether.model_validate(made._asdict())


@api.get("/timecodes", response=list[str], auth=None)
def timecodes(
    request: HttpRequest,
    first: Annotated[int, Query(ge=0, le=10_000_000)],
    count: Annotated[int, Query(ge=1, le=1000)],
    rate: Annotated[float, Query(ge=1, le=240)],
    drops: bool = False,
) -> list[str]:
    """The timecodes of frames in a row, by SMPTE ST 12-1; a frame's number counts from midnight."""
    drops = drops and drops_frames(rate)
    return [timecode(frame, rate, drops=drops) for frame in range(first, first + count)]


@api.get("/recipe-schema", auth=None)
def read_recipe_schema(request: HttpRequest) -> dict[str, object]:
    """JSON Schema of recipes."""
    return recipe_schema()


@api.exception_handler(RecipeError)
def refuse_recipe(request: HttpRequest, error: RecipeError) -> HttpResponse:
    """A recipe with problems: 422 with all of them, and nothing has changed."""
    problems = [problem._asdict() for problem in error.problems]
    answer = {"says": "This recipe cannot be used yet.", "problems": problems}
    return api.create_response(request, answer, status=422)


@api.exception_handler(PlanError)
def refuse_plan(request: HttpRequest, error: PlanError) -> HttpResponse:
    """A frame, scale or layer that the recipe does not have."""
    return api.create_response(request, {"says": f"{error}.", "problems": []}, status=422)


@api.exception_handler(HttpError)
def refuse_body(request: HttpRequest, error: HttpError) -> HttpResponse:
    """A body that is no JSON is a problem like any other."""
    if error.status_code == 403:
        says = "This page was out of date. Try again, or sign in again."
        return api.create_response(request, {"says": says, "stale_page": True}, status=403)
    if error.status_code != 400:
        return api.create_response(request, {"says": f"{error}."}, status=error.status_code)
    cause = error.__cause__ or error.__context__
    says = str(cause) if isinstance(cause, Unreadable) else "It is not JSON that can be read."
    problem = {"path": "", "says": says, "nearest": None}
    answer = {"says": "This request cannot be read.", "problems": [problem]}
    return api.create_response(request, answer, status=422)


@api.exception_handler(ValidationError)
def refuse_form(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """A request of the wrong form, with what is wrong in it and where."""
    problems = [
        {
            "path": ".".join(map(str, detail["loc"][2:])),
            "says": f"{detail['msg']}.",
            "nearest": None,
        }
        for detail in error.errors
    ]
    answer = {"says": "This request cannot be used.", "problems": problems}
    return api.create_response(request, answer, status=422)


@api.exception_handler(Refusal)
def refuse(request: HttpRequest, refusal: Refusal) -> HttpResponse:
    """Anything else that a service refuses."""
    return api.create_response(
        request, {"says": refusal.says, **refusal.more}, status=refusal.status
    )
