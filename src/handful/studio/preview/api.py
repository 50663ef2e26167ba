"""Pictures for the bench."""

from __future__ import annotations

import math
import time
from hashlib import blake2b
from pathlib import Path
from typing import Annotated, Any
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Field, Header, Router, Schema

from handful.engine.files import PlateFiles
from handful.engine.picture import LUMINANCE_WEIGHTS
from handful.engine.recipe import Recipe, looked_at_alone, read_recipe, with_step
from handful.engine.render import Stopped, curves, places
from handful.engine.render.plan import LEAST_SCALE
from handful.engine.render.view import Background, Channel, View
from handful.studio.compiling import compiling
from handful.studio.connections import let_go_of_the_database
from handful.studio.doors import MOST_WHOLE, Whole
from handful.studio.people.session import signed_in
from handful.studio.plates.service import files_of, plate_among, plate_of
from handful.studio.preview.apart import preview
from handful.studio.preview.kept import KeptPictures
from handful.studio.preview.placings import Wanted
from handful.studio.preview.service import Shown, Unplaced
from handful.studio.preview.turns import LATER
from handful.studio.refusals import Missing, Refused
from handful.studio.shots.service import own_shot, revision_of, shot_for, shots_of
from handful.studio.starters.service import starter

router = Router()

SUPERSEDED = NONE_YET = 204
NOT_YET = 202
FOR_EVER = "private, max-age=31536000, immutable"
THUMBNAIL_WIDTH = 480


class Look(Schema):
    """One picture: a frame at a scale, the result or one layer, and how to look at it."""

    frame: Whole
    scale: float = Field(gt=0, le=1)
    layer: str | None = None
    background: Background = "black"
    channel: Channel = "picture"
    exposure: Annotated[float, Field(ge=-20, le=20)] = 0.0
    clipping: bool = False
    """Whether light beyond white is striped."""
    step: str | None = None
    """A kind of step tried at the end of the layer's, or of the finish."""


class Placing(Schema):
    """A recipe, saved or not, and the pictures wanted of it."""

    bench: str = Field(max_length=64, description="Any name that stays the same for one bench.")
    order: Whole = Field(description="Counts up; work for a lower one stops.")
    shot: UUID | None = Field(None, description="The shot whose plate lies behind.")
    recipe: dict[str, Any]
    pictures: list[Look] = Field(max_length=2000)
    alone: list[str] = Field([], description="Ids of the layers that are looked at by themselves.")


class Looking(Schema):
    """A recipe, saved or not, and the one picture wanted of it at once."""

    bench: str = Field(max_length=64)
    order: Whole
    shot: UUID | None = None
    recipe: dict[str, Any]
    picture: Look
    alone: list[str] = []
    whole: bool = Field(False, description="As large as it is, however long that takes.")
    hasty: bool = Field(False, description="Smaller where many wait: whoever drags is in a hurry.")


class Addresses(Schema):
    """Where the pictures are, in the order asked for: /api/v1/preview/ADDRESS.jpg."""

    addresses: list[str]


class Px(Schema):
    """A place on the canvas of a recipe, saved or not."""

    recipe: dict[str, Any]
    frame: Whole
    scale: float = Field(gt=0, le=1, description="That of the picture which is looked at.")
    x: Whole
    y: Whole
    shot: UUID | None = Field(None, description="The shot whose plate it may take.")


class PxValues(Schema):
    """What a picture holds at a px: linear light, cover, and stops of its luminance from white."""

    light: list[float]
    cover: float
    stops: float | None


class Unsaved(Schema):
    """A recipe, saved or not."""

    recipe: dict[str, Any]


class RememberedFrames(Schema):
    """Frames at which everything with memory in a recipe knows its state."""

    frames: list[int]
    has_memory: bool


class UnsavedOfShot(Unsaved):
    """The same of a shot, whose plate it may take, with the layers that are looked at by themselves."""

    shot: UUID | None = None
    alone: list[str] = []


class SeamLine(Schema):
    """How the last frame meets the first: mean changes of the signal there and usually."""

    change: float
    usual: float
    holds: bool


class Where(Schema):
    """A recipe, saved or not, a frame, and a layer; none means the finish."""

    recipe: dict[str, Any]
    frame: Whole
    layer: str | None = None


class PlacesOf(Schema):
    """Where points, tracks and paths are at a frame, and the numbers and places of a layer's parts: its
    `source`, steps by id, and limits as `limits/0` or a step's id and `/0`."""

    points: dict[str, tuple[float, float]]
    tracks: dict[str, tuple[float, float]]
    paths: dict[str, list[dict[str, tuple[float, float]]]]
    nodes: dict[str, dict[str, float | tuple[float, float]]]


class BringingIn(Schema):
    """A recipe, a file's text, and its name."""

    recipe: dict[str, Any]
    text: str
    name: Annotated[str, Field(min_length=1, max_length=70)]


class BroughtIn(Schema):
    """A recipe with what a file holds, and what that is called in it."""

    recipe: dict[str, Any]
    made: list[str]


class Curves(Schema):
    """A recipe, saved or not, and the layer whose moving values are asked for; none means the finish."""

    recipe: dict[str, Any]
    layer: str | None = None


class CurveLine(Schema):
    """A moving value: its place in the recipe from outside in, by fields, names and numbers; what it
    is called; and its numbers on some frames."""

    where: list[str | int]
    says: str
    frames: list[float]
    values: list[list[float]]


@router.post("", response={200: Addresses, 404: Refused, 422: Refused})
def place(request: HttpRequest, placing: Placing) -> Addresses:
    """The addresses of pictures of a recipe; older work for the same bench stops."""
    recipe = looked_at_alone(read_recipe(placing.recipe), placing.alone)
    plate = _plate_behind(request, placing.shot)
    bench = f"{signed_in(request).pk}/{placing.bench}"
    plainly = [look for look in placing.pictures if look.step is None]
    found = preview.place(bench, placing.order, recipe, [_wanted(look, plate) for look in plainly])
    addresses = iter(found)
    return Addresses(
        addresses=[
            next(addresses)
            if look.step is None
            else _tried(bench, placing.order, recipe, look, plate)
            for look in placing.pictures
        ]
    )


def _tried(bench: str, order: int, recipe: Recipe, look: Look, plate: PlateFiles | None) -> str:
    """The address of a picture with another step at the end; the same again if it cannot be."""
    tried = with_step(recipe, look.layer, str(look.step))
    [address] = preview.place(bench, order, tried, [_wanted(look, plate)])
    return address


@router.post("/look", include_in_schema=False)
def look_at_once(request: HttpRequest, looking: Looking) -> HttpResponse:
    """One picture of a recipe as JPEG, its address in `X-Address`; nothing if a newer is wanted.

    While states are gone through for it, it is shown of those at the frame in `X-Stands-In`, if any are known, and
    `X-Share` of them are; whoever asks again gets farther. Of one that is likely to take too long only that is
    told, in `X-Seconds`, with the scale in `X-Scale` at which it would be there in time, unless it is wanted whole.
    A hasty one is at the scale in `X-Scale` where many wait for theirs.
    """
    recipe = looked_at_alone(read_recipe(looking.recipe), looking.alone)
    wanted = _wanted(looking.picture, _plate_behind(request, looking.shot))
    bench = f"{signed_in(request).pk}/{looking.bench}"
    let_go_of_the_database()
    try:
        found = preview.look(bench, looking.order, recipe, wanted, looking.whole, looking.hasty)
    except Stopped:
        return HttpResponse(status=SUPERSEDED)
    answer = HttpResponse(status=NOT_YET) if found.shown is None else _as_answer(found.shown)
    if found.address:
        answer["X-Address"] = found.address
    elif found.seconds is None:
        answer["X-Share"] = f"{found.share:.3f}"
        answer["Cache-Control"] = "no-store"
        if found.stands_in is not None:
            answer["X-Stands-In"] = str(found.stands_in)
    if found.seconds is not None:
        answer["X-Seconds"] = f"{found.seconds:.0f}"
    if found.scale is not None:
        answer["X-Scale"] = f"{found.scale}"
    return answer


@router.post("/remembered", response={200: RememberedFrames, 404: Refused, 422: Refused})
def remembered_frames(request: HttpRequest, unsaved: UnsavedOfShot) -> RememberedFrames:
    """The frames that what has a memory has gone through; none where nothing has."""
    plate = _plate_behind(request, unsaved.shot)
    let_go_of_the_database()
    found = preview.remembered(looked_at_alone(read_recipe(unsaved.recipe), unsaved.alone), plate)
    return RememberedFrames(frames=list(found.frames), has_memory=found.states > 0)


def _plate_behind(request: HttpRequest, shot: UUID | None) -> PlateFiles | None:
    """The plate of a shot that the person may open, if it has one. Raises `Missing`."""
    if shot is None:
        return None
    user = signed_in(request)
    found = plate_among(shots_of(user), shot)
    if found is None:
        shot_for(user, shot)
    return files_of(found)


@router.post("/px", response={200: PxValues, 404: Refused, 422: Refused})
def px(request: HttpRequest, asked: Px) -> PxValues:
    """What a frame of a recipe holds at a px, before any looking at it."""
    recipe = read_recipe(asked.recipe)
    plate = _plate_behind(request, asked.shot)
    let_go_of_the_database()
    red, green, blue, cover = preview.px(recipe, asked.frame, asked.scale, asked.x, asked.y, plate)
    weighed = zip((red, green, blue), LUMINANCE_WEIGHTS, strict=True)
    shine = sum(part * weight for part, weight in weighed)
    stops = math.log2(shine) if shine > 0 else None
    return PxValues(light=[red, green, blue], cover=cover, stops=stops)


@router.post("/seam", response={200: SeamLine, 404: Refused, 422: Refused})
def seam(request: HttpRequest, asked: Unsaved) -> SeamLine:
    """Whether a recipe that is played round and round shows where it begins again."""
    let_go_of_the_database()
    return SeamLine.model_validate(preview.seam(read_recipe(asked.recipe))._asdict())


@router.post("/places", response={200: PlacesOf, 404: Refused, 422: Refused})
def whereabouts(request: HttpRequest, asked: Where) -> PlacesOf:
    """Where everything is that a person takes hold of on the picture, at a frame."""
    found = places(read_recipe(asked.recipe), asked.frame, asked.layer)
    return PlacesOf.model_validate(found._asdict())


@router.post("/curves", response={200: list[CurveLine], 404: Refused, 422: Refused})
def moving_values(request: HttpRequest, asked: Curves) -> list[CurveLine]:
    """What moves in a layer or the finish, on every frame of a recipe, saved or not."""
    found = curves(read_recipe(asked.recipe), asked.layer)
    return [CurveLine.model_validate(curve._asdict()) for curve in found]


@router.post("/brought-in", response={200: BroughtIn, 422: Refused})
def bring_in(request: HttpRequest, asked: BringingIn) -> BroughtIn:
    """A recipe with a track, a camera or paths that a file holds."""
    let_go_of_the_database()
    recipe, made = preview.brought_in(asked.recipe, asked.text, asked.name)
    return BroughtIn(recipe=recipe, made=made)


@router.get("/{address}.jpg", include_in_schema=False)
def picture(
    request: HttpRequest,
    address: str,
    x_bench: Annotated[str, Header()] = "",
    x_order: Annotated[int, Header(ge=-MOST_WHOLE, le=MOST_WHOLE)] = 0,
) -> HttpResponse:
    """The JPEG at an address, which a browser may keep for ever, or nothing if a newer one is wanted."""
    bench = f"{signed_in(request).pk}/{x_bench}"
    let_go_of_the_database()
    try:
        found = preview.picture(address, bench, x_order)
    except Unplaced:
        raise Missing("This picture must be placed again.") from None
    except Stopped:
        return HttpResponse(status=SUPERSEDED)
    return _as_answer(found)


def _as_answer(found: Shown) -> HttpResponse:
    edges, clipped, above, beyond, edge, folded, fold_at = found.warnings
    headers = {
        "Cache-Control": FOR_EVER,
        "X-Edges": " ".join(edges),
        "X-Clipped": f"{clipped:.5f}",
        "X-Above": f"{above:.1f}",
        "X-Beyond": " ".join(beyond),
        "X-Beyond-Edge": edge,
        "X-Folded": f"{folded:.6f}",
        "X-Fold-At": " ".join(f"{part:.0f}" for part in fold_at),
    }
    return HttpResponse(found.jpeg, "image/jpeg", headers=headers)


@router.get("/thumbnails/{shot_id}.jpg", include_in_schema=False)
def thumbnail(request: HttpRequest, shot_id: UUID, frame: Whole | None = None) -> HttpResponse:
    """A small picture of a saved shot, over its plate, at a frame or where it is brightest to see; a list may show one
    that was put aside a moment ago."""
    shot = own_shot(signed_in(request), shot_id)
    return _thumbnail(
        request,
        f"shot/{shot_id}/{shot.revision}",
        read_recipe(shot.recipe),
        files_of(plate_of(shot.id)),
        frame,
        f"shot/{shot_id}",
    )


@router.get("/thumbnails/{shot_id}/{number}.jpg", include_in_schema=False)
def revision_thumbnail(request: HttpRequest, shot_id: UUID, number: Whole) -> HttpResponse:
    """A small picture of a shot as it was saved once."""
    recipe = read_recipe(revision_of(signed_in(request), shot_id, number).recipe)
    of = f"shot/{shot_id}/{number}"
    return _thumbnail(request, of, recipe, files_of(plate_of(shot_id)), None, of)


@router.get("/starters/{starter_id}.jpg", include_in_schema=False)
def starter_thumbnail(
    request: HttpRequest, starter_id: str, frame: Whole | None = None
) -> HttpResponse:
    """A small picture of a starter: at a frame, or the still that it ships with."""
    known = starter(starter_id)
    if frame is None and known.still is not None:
        return _small(request, known.still)
    of = f"starter/{starter_id}/{known.digest}"
    return _thumbnail(request, of, known.recipe, None, frame, f"starter/{starter_id}")


def _thumbnail(
    request: HttpRequest,
    of: str,
    recipe: Recipe,
    plate: PlateFiles | None,
    frame: int | None,
    group: str,
) -> HttpResponse:
    """A small picture, from disk where it was made once. With `last` in the address, whatever was
    made last in a group, at once, or nothing."""
    kept = KeptPictures(Path(settings.THUMBNAILS_ROOT))
    if "last" in request.GET:
        last = kept.last(group)
        if last is None:
            return HttpResponse(status=NONE_YET)
        return HttpResponse(last, "image/jpeg", headers={"Cache-Control": "no-store"})
    canvas = recipe.canvas
    at = None if frame is None else min(canvas.last, max(canvas.first, frame))
    behind = "" if plate is None else plate.plate(at or canvas.first).mark
    name = f"{of} {'telling' if at is None else at} {behind}"
    jpeg = kept.get(name)
    if jpeg is None:
        let_go_of_the_database()
        while (
            compiling() is not None
        ):  # what makes a list prettier waits, as whoever opens a shot does not
            time.sleep(0.5)
        jpeg = _made_small(of, recipe, plate, at)
        kept.put(name, jpeg, group if at is None else None)
    return _small(request, jpeg)


def _small(request: HttpRequest, jpeg: bytes) -> HttpResponse:
    """A small picture, or word that the browser has it."""
    mark = f'"{blake2b(jpeg, digest_size=16).hexdigest()}"'
    if request.headers.get("If-None-Match") == mark:
        return HttpResponse(status=304)
    headers = {"ETag": mark, "Cache-Control": "private, no-cache"}
    return HttpResponse(jpeg, "image/jpeg", headers=headers)


def _made_small(of: str, recipe: Recipe, plate: PlateFiles | None, frame: int | None) -> bytes:
    """At a frame, or at one that tells what the recipe is."""
    at = preview.telling_frame(of, recipe) if frame is None else frame
    scale = min(1.0, THUMBNAIL_WIDTH / recipe.canvas.width)
    look = Look(frame=at, scale=scale, background="plate")
    bench = f"thumbnail/{of}/{at}"
    [address] = preview.place(bench, 0, recipe, [_wanted(look, plate)])
    return preview.picture(address, bench, 0, LATER).jpeg


def _wanted(look: Look, plate: PlateFiles | None) -> Wanted:
    view = View(look.background, look.channel, look.exposure, look.clipping)
    return Wanted(look.frame, max(LEAST_SCALE, look.scale), look.layer, view, plate)
