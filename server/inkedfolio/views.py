"""The one page of the application, and the words for a failed CSRF check."""

from __future__ import annotations

import hashlib
import json
import re
from html import escape
from pathlib import Path
from typing import Any

from csp.decorators import csp_replace
from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils.http import url_has_allowed_host_and_scheme, urlencode
from django.views.decorators.clickjacking import xframe_options_sameorigin
from django.views.decorators.csrf import csrf_exempt, ensure_csrf_cookie

from plumbing.errors import STALE_PAGE

_APP = f"{settings.STATIC_URL}app/"
_OFFLINE = {".js", ".css", ".woff2", ".svg"}


@ensure_csrf_cookie
def application(request: HttpRequest) -> HttpResponse:
    """The built front end as it was collected, with this answer's style nonce in it.

    Not from web/dist: what is built there while this runs belongs to files that are not collected yet.
    """
    index = settings.STATIC_ROOT / "app" / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built and collected. Run ./folio demo.", status=503)
    page = index.read_text().replace("__CSP_NONCE__", str(request.csp_nonce))  # type: ignore[attr-defined]
    response = HttpResponse(page.replace("</title>", f"</title>{_asked_early(request, index.parent)}", 1))
    response["Cache-Control"] = "no-cache"
    return response


def _asked_early(request: HttpRequest, folder: Path) -> str:
    """A screen's code and what it asks for first, so that both come while the first scripts are still being read (W3C
    Preload). ``folder``: the built front end, with its list of screens and Vite's list of what each is made of.

    Nothing for visitors without a session: the refusal would be kept, and given for the answer after the sign-in.
    """
    manifest, routes = folder / "manifest.json", folder / "routes.json"
    if not routes.exists() or not manifest.exists() or not request.user.is_authenticated:
        return ""
    for route in json.loads(routes.read_text()):
        entered = re.fullmatch(re.sub(r":(\w+)", r"(?P<\1>[^/]+)", route["path"]), request.path)
        if entered is not None and "asks" in route:
            asked = [_filled_in(address, entered.groupdict()) for address in route["asks"]]
            return _links(json.loads(manifest.read_text()), f"src/features/{route['screen']}.screen.tsx", asked)
    return ""


def _filled_in(address: str, parameters: dict[str, str]) -> str:
    return re.sub(r":(\w+)", lambda name: parameters[name[1]], address)


def _links(parts: dict[str, Any], screen: str, asked: list[str]) -> str:
    at_hand = {"index.html", *parts["index.html"]["imports"]}
    own = [parts[screen], *(parts[name] for name in parts[screen]["imports"] if name not in at_hand)]
    links = [f'rel="preload" as="fetch" href="{escape(address)}"' for address in asked]
    for piece in own:
        links += [f'rel="preload" as="style" href="{_APP}{style}"' for style in piece.get("css", ())]
        links.append(f'rel="modulepreload" href="{_APP}{piece["file"]}"')
    return "".join(f'<link crossorigin="anonymous" {link}>' for link in links)


@csp_replace(settings.MATHS_FIELD_POLICY)
@xframe_options_sameorigin
def maths_field(request: HttpRequest) -> HttpResponse:
    """A field for maths alone, for a frame of ours. It knows nobody and holds nothing."""
    page = settings.STATIC_ROOT / "app" / "maths-field.html"
    if not page.exists():
        return HttpResponse("The front end is not built and collected. Run ./folio demo.", status=503)
    response = HttpResponse(page.read_text())
    response["Cache-Control"] = "no-cache"
    return response


def service_worker(request: HttpRequest) -> HttpResponse:
    """The script that lets the application open without a network, with the list of what that takes."""
    folder = settings.STATIC_ROOT / "app"
    script = folder / "sw.js"
    if not script.exists():
        return HttpResponse("The front end is not built and collected. Run ./folio demo.", status=503)
    assets = sorted(
        f"{settings.STATIC_URL}app/{path.relative_to(folder).as_posix()}"
        for path in folder.rglob("*")
        if path.suffix in _OFFLINE and path != script and not path.name.startswith("maths-field")
    )
    text = script.read_text()
    version = hashlib.sha256("\n".join([text, *assets]).encode()).hexdigest()[:16]
    text = text.replace('["__ASSETS__"]', json.dumps(assets)).replace("__VERSION__", version)
    response = HttpResponse(text, content_type="text/javascript; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


@csrf_exempt  # a device's share menu sends it; nothing is taken or changed
def shared_without_worker(request: HttpRequest) -> HttpResponse:
    """Where shared files are sorted onto boards. They are kept by the browser's service worker (sw.js); a POST that
    comes here met none, and the screen says that they have to be shared once more."""
    return redirect("/shared?lost") if request.method == "POST" else application(request)


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    return JsonResponse({"code": "stale_page", "message": STALE_PAGE}, status=403)


def staff_sign_in(request: HttpRequest) -> HttpResponse:
    """The administration has no door of its own: whoever comes there signs in where everybody does."""
    wanted = request.GET.get("next", "/admin/")
    if not url_has_allowed_host_and_scheme(wanted, allowed_hosts=None):
        wanted = "/admin/"
    if request.user.is_authenticated and request.user.is_staff:
        return redirect(wanted)
    return redirect(f"/?{urlencode({'next': wanted})}")
