"""The front end's files, whole."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from whitenoise.middleware import WhiteNoiseMiddleware
from whitenoise.responders import StaticFile


class StaticFiles(WhiteNoiseMiddleware):
    """WhiteNoise, but a file's bytes are answered at once.

    Under ASGI Django would hand them on in pieces of 4 kB, with a change of threads for each.
    """

    @staticmethod
    def serve(static_file: StaticFile, request: HttpRequest) -> HttpResponse:
        found = static_file.get_response(request.method, request.META)
        body = b""
        if found.file is not None:
            with found.file as file:
                body = file.read()
        response = HttpResponse(body, status=int(found.status))
        del response["content-type"]
        for name, value in found.headers:
            response[name] = value
        return response
