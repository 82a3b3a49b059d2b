"""The page of typical figures: what measured units have in common, and whether mine count."""

from __future__ import annotations

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from ironmargin.learning.pool import printed
from ironmargin.tables import rows
from web.accounts.access import access_of
from web.accounts.demo import is_demo
from web.accounts.models import OWNER
from web.design.drawing import Axis
from web.rigs import pool

LEFT, RIGHT, MAX_A = 0.0, 300.0, 160.0


@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """Every typical motor: the printed figure, and what measured units say."""
    known = pool.published()
    across = Axis(0.0, MAX_A, LEFT, RIGHT)
    names = {row["key"]: row["name"] for row in rows("typical_loads")}
    lines = []
    for plain in printed():
        typical = known.get(plain.key, plain)
        lines.append(
            {
                "name": names[plain.key],
                "measured": typical.units > 0,
                "words": pool.words_of(typical),
                "x": across.at(typical.low),
                "width": min(across.at(typical.high), RIGHT) - across.at(typical.low),
                "at": across.at(typical.median),
            }
        )
    access = access_of(request)
    context = {
        "lines": lines,
        "measured": len(known),
        "others": len(lines) - len(known),
        "counts": pool.pools(access.account),
        "mine": access.role == OWNER and not is_demo(request.user),
    }
    return render(request, "rigs/typicals.html", context)


@require_POST
def count(request: HttpRequest) -> HttpResponse:
    """Let the account's measured figures count, or not any more; its owner's matter."""
    access = access_of(request)
    if access.role != OWNER or is_demo(request.user):
        raise PermissionDenied("Only the owner of an account decides that.")
    on = request.POST.get("on") == "1"
    pool.set_pooling(access.account, on)
    said = "Your measured figures count from tonight on." if on else "They do not count any more."
    messages.success(request, said)
    return redirect("typicals")


@require_safe
def as_json(request: HttpRequest) -> HttpResponse:
    """The open file."""
    answer = JsonResponse(pool.as_json(), json_dumps_params={"indent": 1})
    answer["Content-Disposition"] = 'attachment; filename="iron-margin-typicals.json"'
    return answer


@require_safe
def as_parquet(request: HttpRequest) -> HttpResponse:
    """The same as Parquet."""
    answer = HttpResponse(pool.as_parquet(), content_type="application/vnd.apache.parquet")
    answer["Content-Disposition"] = 'attachment; filename="iron-margin-typicals.parquet"'
    return answer
