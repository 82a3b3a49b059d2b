"""What every answer carries."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

NOTHING_OF_THE_DEVICE = ", ".join(
    f"{what}=()" for what in ("camera", "geolocation", "microphone", "payment", "usb", "serial")
)


def no_store(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """What somebody signed in to see is kept by no browser or proxy: Back asks again, and so shows
    what is true now, and nothing after signing out.
    """

    def respond(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        response["Permissions-Policy"] = NOTHING_OF_THE_DEVICE
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            response["Cache-Control"] = "private, no-store"
        return response

    return respond
