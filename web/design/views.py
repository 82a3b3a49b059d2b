"""The error pages: what happened, and what to do."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string


def _error(request: HttpRequest, status: int, title: str, advice: str) -> HttpResponse:
    return render(request, "design/error.html", {"title": title, "advice": advice}, status=status)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _error(
        request,
        404,
        "Nothing here",
        "The address is wrong, or it belongs to somebody else. Go back to your setups.",
    )


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _error(
        request,
        400,
        "That request could not be read",
        "It was too large or damaged. Go back, and send less at once.",
    )


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _error(request, 403, "Not allowed", "The page has grown old. Reload it and try again.")


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    return forbidden(request, PermissionError(reason))


def broken(request: HttpRequest) -> HttpResponse:
    """Rendered without the request: the database itself may be what broke."""
    return HttpResponse(render_to_string("design/broken.html"), status=500)
