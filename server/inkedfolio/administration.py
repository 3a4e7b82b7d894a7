"""Django's administration as the last resort: under our name and colours, in the zone of the course, without the tables
of jobs and logs, which are the program's own."""

from __future__ import annotations

from collections import Counter
from typing import Any
from zoneinfo import ZoneInfo

from django.apps import apps
from django.contrib.admin import AdminSite
from django.contrib.admin.apps import AdminConfig
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

_NOT_SHOWN = ("procrastinate", "auth")  # jobs; groups, which nothing here asks for


class LastResort(AdminSite):
    site_header = site_title = "Inked Folio"
    index_title = "The last resort: what the screens do not do"
    site_url = "/"

    def register(self, model_or_iterable: Any, admin_class: Any = None, **options: Any) -> None:
        models = model_or_iterable if isinstance(model_or_iterable, list | tuple) else [model_or_iterable]
        shown = [model for model in models if model._meta.app_label not in _NOT_SHOWN]
        super().register(shown, admin_class, **options)

    def admin_view(self, view: Any, cacheable: bool = False) -> Any:
        inner = super().admin_view(view, cacheable)

        def in_zone(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            with timezone.override(_zone_of(request)):
                response = inner(request, *args, **kwargs)
                if hasattr(response, "render") and callable(response.render):
                    response.render()  # moments are written while the zone holds
                return response

        return in_zone

    def each_context(self, request: HttpRequest) -> dict[str, Any]:
        return {**super().each_context(request), "times_in": timezone.get_current_timezone_name().replace("_", " ")}


class Administration(AdminConfig):
    default_site = "inkedfolio.administration.LastResort"


def _zone_of(request: HttpRequest) -> ZoneInfo:
    """Of the course the page is about; elsewhere the one that most courses have."""
    course = apps.get_model("courses", "Course")
    match = request.resolver_match
    about = match.kwargs.get("object_id") if match else None
    if match and about and str(about).isdecimal():
        for label, path in (
            ("courses_course", "pk"),
            ("assignments_assignment", "assignments"),
            ("folios_folio", "assignments__folios"),
            ("editions_edition", "assignments__folios__editions"),
        ):
            if (match.url_name or "").startswith(label):
                found = course.objects.filter(**{path: int(about)}).values_list("time_zone", flat=True).first()
                if found:
                    return ZoneInfo(found)
    usual = Counter(course.objects.values_list("time_zone", flat=True)).most_common(1)
    return ZoneInfo(usual[0][0] if usual else "UTC")
