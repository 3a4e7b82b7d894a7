"""`manage.py work QUEUES`: carry out jobs until told to stop."""

from __future__ import annotations

import logging
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from procrastinate.contrib.django import app

from folio_core.page.sandbox import isolation

logger = logging.getLogger(__name__)


class Command(BaseCommand):
    help = (
        "Carry out the jobs of some queues (pages, editions, upkeep, reading). Says first what its decoders cannot do."
    )
    requires_system_checks = ()  # they are made before the processes start, and the first page waits for this one

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("queues", help="joined by commas")
        parser.add_argument("--jobs", type=int, default=2, help="how many at a time")

    def handle(self, *_: Any, queues: str, jobs: int, **__: Any) -> None:
        held = isolation()
        if held.holds:
            self.stdout.write("Decoders run without secrets, files, network, programs, other processes, writing.")
        elif settings.FOLIO_SANDBOX == "full":
            raise CommandError(
                f"Decoders on this machine would not be kept from everything (missing: {', '.join(held.missing)}), and "
                "FOLIO_SANDBOX=full demands it. Install bubblewrap and libseccomp2, and allow user namespaces."
            )
        else:
            logger.warning("Decoders are not kept from everything on this machine: %s", ", ".join(held.missing))
        with app.replace_connector(app.connector.get_worker_connector()) as worker:  # type: ignore[attr-defined]
            worker.run_worker(
                queues=queues.split(","), concurrency=jobs, shutdown_graceful_timeout=5, delete_jobs="successful"
            )
