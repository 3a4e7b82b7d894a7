"""The worker's jobs on assignments."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from . import drawing


@app.task(name=drawing.DRAW_PAPER, queue=drawing.QUEUE, retry=RetryStrategy(max_attempts=3, exponential_wait=2))
def draw_paper(*, assignment_id: int) -> None:
    drawing.draw_paper(assignment_id)
