"""What every answer carries."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from web.design.printing import NotPrinted

AGAIN_S = "60"

DEVICES = ("camera", "geolocation", "microphone", "payment", "usb", "serial")
LISTENS = ("log", "log-sound", "log-display", "log-add", "log-capture", "log-take-in")
"""Pages that may ask for the microphone: where a start is listened to."""


def of_the_device(page: str) -> str:
    """What of a device a page may ask for: nothing, but for the log the microphone."""
    allowed = {"microphone": "(self)"} if page in LISTENS else {}
    return ", ".join(f"{what}={allowed.get(what, '()')}" for what in DEVICES)


def no_store(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """What somebody signed in to see is kept by no browser or proxy: Back asks again, and so shows
    what is true now, and nothing after signing out.
    """

    def respond(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        found = request.resolver_match
        page = str(found.url_name) if found is not None else ""
        response["Permissions-Policy"] = of_the_device(page)
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            response["Cache-Control"] = "private, no-store"
        return response

    respond.process_exception = not_printed  # type: ignore[attr-defined]
    return respond


def not_printed(request: HttpRequest, error: Exception) -> HttpResponse | None:
    """That a page could not be set for paper, and what to do."""
    if not isinstance(error, NotPrinted):
        return None
    page = render_to_string("design/broken.html", {"slow": error.advice})
    return HttpResponse(page, status=503, headers={"Retry-After": AGAIN_S})
