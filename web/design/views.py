"""The error pages: what happened, and what to do; and what makes it an application of its own."""

import hashlib
import sys
from functools import cache
from pathlib import Path

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles.finders import find
from django.db import DatabaseError, InterfaceError, OperationalError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.templatetags.static import static
from django.views.decorators.http import require_POST, require_safe

from web.design.context import PAPERS

MODULES = (
    "asks", "cursor", "faults", "focus", "folds", "glossary", "leaving", "offline", "path",
    "photos", "picture", "preferences", "rail", "saving", "shortcuts", "trouble", "waits",
)  # fmt: skip
"""What app.js is made of."""
TEMPLATES = Path(__file__).parent / "templates" / "design"
YEAR_S = 31_536_000
AGAIN_S = "30"
"""When to ask again while the database is away."""
FILES = (
    "design/app.css",
    "design/app.js",
    *(f"design/app/{name}.js" for name in MODULES),
    "design/vendor/htmx.min.js",
    "design/now.js",
    "design/bar.js",
    "design/steps.js",
    "design/order.js",
    "design/icon.svg",
    "design/fonts/archivo-latin-standard-normal.woff2",
    "design/fonts/chivo-mono-latin-wght-normal.woff2",
)
"""What every page needs to look like itself without network."""


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
    return _error(request, 403, "Not allowed", "This page is out of date. Reload it and try again.")


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    return forbidden(request, PermissionError(reason))


def broken(request: HttpRequest) -> HttpResponse:
    """Rendered without the request: the database itself may be what broke. Where it is only away,
    the page says to come back.
    """
    away = isinstance(sys.exc_info()[1], OperationalError | InterfaceError)
    answer = HttpResponse(
        render_to_string("design/broken.html", {"away": away}), status=503 if away else 500
    )
    if away:
        answer["Retry-After"] = AGAIN_S
    return answer


@login_not_required
@require_safe
def health(request: HttpRequest) -> HttpResponse:
    """Whether this process answers; it asks nothing of anybody else."""
    return JsonResponse({"status": "ok"})


@login_not_required
@require_safe
def ready(request: HttpRequest) -> HttpResponse:
    """Whether a request can be served: the database answers and has every migration."""
    found = {"database": False, "migrations": False}
    try:
        executor = MigrationExecutor(connection)
        found["database"] = True
        targets = executor.loader.graph.leaf_nodes()
        found["migrations"] = not executor.migration_plan(targets)
    except DatabaseError:
        pass  # said by what was found
    if all(found.values()):
        return JsonResponse(found)
    return JsonResponse(found, status=503, headers={"Retry-After": AGAIN_S})


@cache
def _revision() -> str:
    """Changes with what is in the kept files and in the page for no network."""
    found = hashlib.sha256()
    for name in ("offline.html", "base.html"):
        found.update((TEMPLATES / name).read_bytes())
    for name in FILES:
        path = find(name)
        found.update(Path(path).read_bytes() if isinstance(path, str) else name.encode())
    return found.hexdigest()[:12]


@login_not_required
@require_safe
def service_worker(request: HttpRequest) -> HttpResponse:
    """The service worker, for the whole site."""
    context = {"files": [static(name) for name in FILES], "revision": _revision()}
    response = render(request, "design/sw.js", context, content_type="text/javascript")
    response["Cache-Control"] = "no-cache"
    return response


@login_not_required
@require_safe
def manifest(request: HttpRequest) -> HttpResponse:
    """What an installed Iron Margin is called, looks like and begins with."""
    icons = [
        {"src": static(f"design/icon-{n}.png"), "sizes": f"{n}x{n}", "type": "image/png"}
        for n in (192, 512)
    ]
    return JsonResponse(
        {
            "name": "Iron Margin",
            "short_name": "Iron Margin",
            "start_url": "/now/",
            "display": "standalone",
            "background_color": "#ECE7DD",
            "theme_color": "#1D2226",
            "icons": icons,
        },
        content_type="application/manifest+json",
    )


@login_not_required
@require_safe
def offline(request: HttpRequest) -> HttpResponse:
    """What is shown where a page was not kept. A phone keeps it whoever is signed in, and fetches
    it beside what somebody is doing: it is rendered without the request, names nobody and takes no
    message away from the page it is meant for.
    """
    return HttpResponse(render_to_string("design/offline.html"))


@require_POST
def paper(request: HttpRequest) -> HttpResponse:
    """Choose the size of paper, for this browser."""
    answer = redirect("account")
    chosen = request.POST.get("paper", "")
    if chosen in PAPERS:
        answer.set_cookie("paper", chosen, max_age=YEAR_S, samesite="Lax", httponly=True,
                          secure=request.is_secure())  # fmt: skip
        messages.success(request, f"Printed on {PAPERS[chosen]} from now on.")
    return answer
