"""Renders: order, watch, cancel, try again, download."""

from __future__ import annotations

import mimetypes
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from uuid import UUID

from django.db.models import Count, QuerySet, Sum
from django.db.models.functions import Coalesce
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from ninja import Field, Router, Schema, Status
from zipstream import ZipStream

from handful.engine.files import FORMATS, read_picture
from handful.engine.files.naming import plain_name
from handful.engine.render.view import Background, Channel, View, as_jpeg, shown, smaller
from handful.studio.doors import Whole
from handful.studio.downloads import download
from handful.studio.people.session import signed_in
from handful.studio.refusals import Missing, Refused
from handful.studio.renders import service
from handful.studio.renders.models import Render, RenderFrame

router = Router()

LOOK_WIDTH = 960
MOST_LISTED = 100
_PIECE_BYTES = 1 << 18


class FrameLine(Schema):
    """A written frame."""

    frame: int
    file: str
    size: int
    seconds: float


class Run(Schema):
    """Frames in a row."""

    first: int
    last: int


class RenderLine(Schema):
    """A render as a list shows it: how many frames are written, in how many bytes and seconds, and which they are,
    run by run."""

    id: UUID
    shot: UUID
    name: str
    revision: int
    first: int
    last: int
    scale: float
    format: str
    state: Render.State
    reason: str
    created: datetime
    started: datetime | None
    ended: datetime | None
    written: int
    size: int
    seconds: float
    runs: list[Run]


class Order(Schema):
    """What to render."""

    shot: UUID
    first: Whole
    last: Whole
    scale: float = Field(1, gt=0, le=4)
    format: str = "exr"


class FormatLine(Schema):
    """A format that a render may be written in."""

    name: str
    says: str


@router.get("", response=list[RenderLine])
def list_renders(request: HttpRequest, shot: UUID | None = None) -> list[RenderLine]:
    """The person's renders, the newest first; of one shot if asked so."""
    renders = service.renders_of(signed_in(request))
    if shot is not None:
        renders = renders.filter(shot_id=shot)
    return _lines(renders[:MOST_LISTED])


@router.get("/formats", response=list[FormatLine])
def list_formats(request: HttpRequest) -> list[FormatLine]:
    """The formats to choose from."""
    return [FormatLine(name=name, says=way.says) for name, way in FORMATS.items()]


@router.post("", response={201: RenderLine, 404: Refused, 422: Refused})
def order_render(request: HttpRequest, order: Order) -> Status[RenderLine]:
    """Order a render of the shot as it is saved now."""
    user = signed_in(request)
    return Status(201, _line(service.order_render(
        user, order.shot, order.first, order.last, order.scale, order.format
    )))  # fmt: skip


@router.get("/{render_id}", response={200: RenderLine, 404: Refused})
def read_render(request: HttpRequest, render_id: UUID) -> RenderLine:
    """One render."""
    return _line(service.render_for(signed_in(request), render_id))


@router.get("/{render_id}/frames/{frame}", response={200: FrameLine, 404: Refused})
def read_frame(request: HttpRequest, render_id: UUID, frame: Whole) -> RenderFrame:
    """One written frame."""
    return _written(request, render_id, frame)[1]


@router.post("/{render_id}/cancel", response={200: RenderLine, 404: Refused})
def cancel_render(request: HttpRequest, render_id: UUID) -> RenderLine:
    """Stop before the next frame; what is written stays."""
    return _line(service.cancel_render(signed_in(request), render_id))


@router.post("/{render_id}/retry", response={200: RenderLine, 404: Refused, 409: Refused})
def retry_render(request: HttpRequest, render_id: UUID) -> RenderLine:
    """Go on with a render that failed or was cancelled, or make files anew that are gone."""
    return _line(service.retry_render(signed_in(request), render_id))


@router.get("/{render_id}/frames.zip", include_in_schema=False)
def archive(request: HttpRequest, render_id: UUID) -> HttpResponseBase:
    """All written frames in one archive, streamed, and from where an earlier try broke off."""
    render = service.render_for(signed_in(request), render_id)
    gone = service.frames_gone(render)
    if gone:
        raise Missing(
            f"The files of {len(gone)} of {render.frames.count()} frames are gone, the first of frame "
            f"{gone[0]}. Try the render again to have them made anew."
        )
    made = ZipStream(sized=True)
    about = []
    for frame in render.frames.all():
        path = render.folder / frame.file
        made.add_path(path, frame.file)
        about.append((frame.file, path.stat().st_size, path.stat().st_mtime_ns))
    if not about:
        raise Missing("No frame of this render is written yet.")
    name = f"{archive_name(render)}.zip"
    return download(request, made, len(made), about, name, "application/zip")


def archive_name(render: Render) -> str:
    """A name that no other render has: of what, at which revision and size, and when it was ordered."""
    size = "" if render.scale == 1 else f".{100 * render.scale:g}%"
    ordered = render.created.strftime("%Y%m%d-%H%M%S")
    return (
        f"{plain_name(render.name)}.r{render.revision}.{render.first:04d}-{render.last:04d}"
        f".{render.format}{size}.{ordered}-{render.id.hex[:4]}"
    )


@router.get("/{render_id}/{frame}.file", include_in_schema=False)
def frame_file(request: HttpRequest, render_id: UUID, frame: Whole) -> HttpResponseBase:
    """One written frame as it is."""
    render, line = _written(request, render_id, frame)
    path = render.folder / line.file
    found = path.stat()
    about = (line.file, found.st_size, found.st_mtime_ns)
    kind = mimetypes.guess_type(line.file)[0] or "application/octet-stream"
    return download(request, _pieces(path), found.st_size, about, line.file, kind)


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while piece := file.read(_PIECE_BYTES):
            yield piece


@router.get("/{render_id}/{frame}.jpg", include_in_schema=False)
def frame_picture(
    request: HttpRequest,
    render_id: UUID,
    frame: Whole,
    background: Background = "black",
    channel: Channel = "picture",
) -> HttpResponse:
    """One written frame, read back from its file, to look at."""
    render, line = _written(request, render_id, frame)
    picture = read_picture(render.folder / line.file)
    small = smaller(picture, LOOK_WIDTH)
    encoded = as_jpeg(shown(small, View(background, channel)))
    return HttpResponse(encoded, "image/jpeg", headers={"Cache-Control": "private, max-age=3600"})


def _line(render: Render) -> RenderLine:
    [line] = _lines(Render.objects.filter(id=render.id))
    return line


def _lines(renders: QuerySet[Render]) -> list[RenderLine]:
    """Renders as a list shows them, without their recipes and the lines of their frames."""
    found = list(
        renders.defer("recipe").annotate(
            written=Count("frames"),
            size=Coalesce(Sum("frames__size"), 0),
            seconds=Coalesce(Sum("frames__seconds"), 0.0),
        )
    )
    gaps = [render.id for render in found if 0 < render.written <= render.last - render.first]
    runs = service.runs_of(gaps)
    return [
        RenderLine.model_validate(
            {
                **vars(render),
                "shot": render.shot_id,
                "runs": [
                    Run(first=first, last=last)
                    for first, last in runs.get(render.id, _whole(render, render.written))
                ],
            }
        )
        for render in found
    ]


def _whole(render: Render, written: int) -> list[tuple[int, int]]:
    return [(render.first, render.last)] if written else []


def _written(request: HttpRequest, render_id: UUID, frame: Whole) -> tuple[Render, RenderFrame]:
    render = service.render_for(signed_in(request), render_id)
    line = render.frames.filter(frame=frame).first()
    if line is None or not (render.folder / line.file).exists():
        raise Missing(f"Frame {frame} is not written.")
    return render, line
