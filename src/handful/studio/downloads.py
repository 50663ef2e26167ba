"""Files that are downloaded, whole or from where an earlier try broke off (RFC 9110, 14: range requests)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from hashlib import blake2b

from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

_ONE_RANGE = re.compile(r"bytes=(\d*)-(\d*)\Z")


def download(
    request: HttpRequest, content: Iterable[bytes], size: int, about: object, name: str, kind: str
) -> HttpResponseBase:
    """A download of `size` bytes under a name, or the range of it that is asked for. `about` is all that its bytes
    depend on: a range is only sent to whoever has the beginning of the same."""
    tag = f'"{blake2b(repr(about).encode(), digest_size=16).hexdigest()}"'
    headers = {
        "Accept-Ranges": "bytes",
        "Content-Disposition": f'attachment; filename="{name}"',
        "ETag": tag,
    }
    wanted = None
    if request.headers.get("If-Range", tag) == tag:
        wanted = _range(request.headers.get("Range", ""), size)
    if wanted is None:
        headers["Content-Length"] = str(size)
        return StreamingHttpResponse(content, content_type=kind, headers=headers)
    if not wanted:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    headers["Content-Length"] = str(len(wanted))
    headers["Content-Range"] = f"bytes {wanted[0]}-{wanted[-1]}/{size}"
    part = _between(content, wanted.start, wanted.stop)
    return StreamingHttpResponse(part, status=206, content_type=kind, headers=headers)


def _range(header: str, size: int) -> range | None:
    """The bytes that are asked for: none where they lie beyond the end, and nothing where it is no single range, so
    that all is to be sent."""
    found = _ONE_RANGE.match(header.strip())
    if found is None or found[0] == "bytes=-":
        return None
    if not found[1]:
        return range(max(0, size - int(found[2])), size)
    first = int(found[1])
    last = int(found[2]) if found[2] else size - 1
    if last < first and found[2]:
        return None
    return range(first, min(last + 1, size))


def _between(content: Iterable[bytes], first: int, end: int) -> Iterator[bytes]:
    """Some of the bytes of what comes in pieces; what comes before them is passed over."""
    at = 0
    for piece in content:
        if at + len(piece) > first:
            yield piece[max(0, first - at) : end - at]
        at += len(piece)
        if at >= end:
            return
