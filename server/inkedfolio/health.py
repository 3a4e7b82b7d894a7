"""What a supervisor, a proxy and a monitor ask: is it alive, may it be sent requests, how is it doing."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.storage import FileSystemStorage, default_storage
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from procrastinate.contrib.django.models import ProcrastinateJob
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from prometheus_client.multiprocess import MultiProcessCollector

from editions.models import Edition
from pages.models import Page
from plumbing.database_clock import database_clock
from plumbing.requests import moment

_SECONDS = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10)
REQUESTS = Counter("folio_requests_total", "Requests answered", ["method", "status"])
REQUEST_SECONDS = Histogram("folio_request_seconds", "From the request to the answer's head", buckets=_SECONDS)


class Asked:
    """Middleware: answers supervisors and monitors, who ask a machine by its address and not by the host's name, which
    Django would refuse."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response
        self.answers = {"/healthz": alive, "/readyz": ready, "/metrics": metrics}

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self.answers.get(request.path, self.get_response)(request)


class Measured:
    """Middleware: counts answers."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        began = time.perf_counter()
        response = self.get_response(request)
        REQUESTS.labels(request.method or "", str(response.status_code)).inc()
        REQUEST_SECONDS.observe(time.perf_counter() - began)
        return response


def alive(request: HttpRequest) -> HttpResponse:
    return HttpResponse("alive", content_type="text/plain")


def ready(request: HttpRequest) -> JsonResponse:
    """200 where requests may come, 503 where they should go to another machine, with what is wrong."""
    wrong: dict[str, str] = {}
    for name, check in _CHECKS.items():
        try:
            check()
        except Exception as error:
            wrong[name] = type(error).__name__
    return JsonResponse({"ready": not wrong, "wrong": wrong}, status=503 if wrong else 200)


def _database() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")


def _storage() -> None:
    if isinstance(default_storage, FileSystemStorage):
        folder = Path(settings.MEDIA_ROOT)
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".ready-{os.getpid()}"
        probe.write_bytes(b"x")
        probe.unlink()


def _clock() -> None:
    database_clock.require_right()


_CHECKS = {"database": _database, "storage": _storage, "clock": _clock}


def metrics(request: HttpRequest) -> HttpResponse:
    """Prometheus' text format (https://prometheus.io/docs/instrumenting/exposition_formats/), for this machine alone:
    whoever comes through the proxy has another address."""
    if request.META.get("REMOTE_ADDR") not in ("127.0.0.1", "::1", "testserver"):
        return HttpResponse(status=404)
    registry = CollectorRegistry()
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        MultiProcessCollector(registry)
    else:
        registry.register(_Own())
    _now(registry)
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)


class _Own:
    def collect(self) -> Any:
        yield from REQUESTS.collect()
        yield from REQUEST_SECONDS.collect()


def _now(registry: CollectorRegistry) -> None:
    """What stands in the database and on the disk at this moment."""
    jobs = Gauge("folio_jobs_waiting", "Jobs that wait", ["queue"], registry=registry)
    for queue in ("pages", "editions", "upkeep"):
        jobs.labels(queue).set(ProcrastinateJob.objects.filter(queue_name=queue, status="todo").count())
    Gauge("folio_pages_waiting", "Pages not yet prepared", registry=registry).set(
        Page.objects.filter(state=Page.State.WAITING).count()
    )
    unbound = Edition.objects.filter(state=Edition.State.BINDING).order_by("handed_in_at").first()
    waited = (moment() - unbound.handed_in_at).total_seconds() if unbound else 0
    Gauge("folio_oldest_unbound_seconds", "Since the hand-in of the oldest unbound edition", registry=registry).set(
        waited
    )
    Gauge("folio_clock_offset_seconds", "This machine's clock to the database's", registry=registry).set(
        database_clock.offset.total_seconds()
    )
    if isinstance(default_storage, FileSystemStorage):
        free = shutil.disk_usage(Path(settings.MEDIA_ROOT).parent).free
        Gauge("folio_disk_free_bytes", "Free where the files lie", registry=registry).set(free)
