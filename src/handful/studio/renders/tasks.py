"""The job behind a render."""

from __future__ import annotations

from uuid import UUID

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import JobAborted

from handful.studio.renders.working import Interrupted, work_off

QUEUE = "renders"


@app.task(queue=QUEUE, pass_context=True, retry=RetryStrategy(retry_exceptions=[JobAborted]))  # type: ignore[untyped-decorator]
def render_frames(context: JobContext, render_id: str) -> None:
    """Work off a render. A worker that is asked to stop hands it back; it is then tried again."""
    try:
        work_off(UUID(render_id), context.should_abort)
    except Interrupted:
        raise JobAborted from None
