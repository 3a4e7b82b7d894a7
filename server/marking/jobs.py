"""The worker's job of giving back at its moment."""

from __future__ import annotations

from procrastinate.contrib.django import app

from plumbing.requests import moment

from .giving_back import tell_of_given_back


@app.periodic(cron="* * * * *")
@app.task(name="marking.tell_of_given_back", queue="upkeep", queueing_lock="tell_of_given_back")
def tell(timestamp: int) -> None:
    tell_of_given_back(moment())
