"""The job behind a render."""

from __future__ import annotations

from uuid import UUID

from procrastinate import BaseRetryStrategy, JobContext, RetryDecision
from procrastinate.contrib.django import app
from procrastinate.exceptions import JobAborted
from procrastinate.jobs import Job

from handful.studio.renders.working import Busy, Interrupted, work_off

QUEUE = "renders"
BUSY_SECONDS = 10


class HandBack(BaseRetryStrategy):
    """At once if the worker was asked to stop; later if another worker has the render."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        """When a job is tried again that ended so, if it is."""
        if isinstance(exception, JobAborted):
            return RetryDecision(retry_in={"seconds": 0})
        if isinstance(exception, Busy):
            return RetryDecision(retry_in={"seconds": BUSY_SECONDS})
        return None


@app.task(queue=QUEUE, pass_context=True, retry=HandBack())
def render_frames(context: JobContext, render_id: str) -> None:
    """Work off a render. A worker that is asked to stop hands it back; it is then tried again."""
    try:
        work_off(UUID(render_id), context.should_abort)
    except Interrupted:
        raise JobAborted from None
