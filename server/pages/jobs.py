"""The worker's jobs on pages. Enqueued in the transaction of the row they are about; each may run twice."""

from __future__ import annotations

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from plumbing.requests import moment

from . import get_ready, preparing
from .queueing import JUDGE_TEST_PICTURE, OPEN_ORIGINAL, PREPARE_PAGE, QUEUE

RETRY = RetryStrategy(max_attempts=5, exponential_wait=2)
_TRIES_OF_A_PAGE = 3  # then what may have been the machine's trouble is taken for the file's


@app.task(name=OPEN_ORIGINAL, queue=QUEUE, retry=RETRY, pass_context=True)
def open_original(context: JobContext, *, original_id: int) -> None:
    preparing.open_original(original_id, now=moment(), last_try=is_last_try(context))


@app.task(name=PREPARE_PAGE, queue=QUEUE, retry=RETRY, pass_context=True)
def prepare_page(context: JobContext, *, page_id: int) -> None:
    preparing.prepare_page(page_id, now=moment(), last_try=is_last_try(context))


@app.task(name=JUDGE_TEST_PICTURE, queue=QUEUE, retry=RETRY, pass_context=True)
def judge_test_picture(context: JobContext, *, picture_id: int) -> None:
    get_ready.judge(picture_id, last_try=is_last_try(context))


def is_last_try(context: JobContext) -> bool:
    return context.job.attempts + 1 >= _TRIES_OF_A_PAGE
