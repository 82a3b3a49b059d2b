"""What a device keeps until it is held here: how an answer says that it is, and who asks."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.utils.crypto import salted_hmac
from django.views.decorators.http import require_safe

LETTERS = 16


def who_of(request: HttpRequest) -> str:
    """Who is signed in, in letters that say nothing else; empty for nobody."""
    if not request.user.is_authenticated:
        return ""
    return salted_hmac("who", str(request.user.pk), secret=settings.SECRET_KEY).hexdigest()[
        :LETTERS
    ]


def held(request: HttpRequest, answer: HttpResponse) -> HttpResponse:
    """An answer that says what was sent is held here. Who queued it is told where to go next; a
    redirect would hide from it that this is our answer.
    """
    if "X-Queued" in request.headers and answer.has_header("Location"):
        message = HttpResponse(status=204)
        message["X-Next"] = answer["Location"]
        answer = message
    answer["X-Stored"] = "1"
    return answer


@login_not_required
@require_safe
def who(request: HttpRequest) -> HttpResponse:
    """Who is signed in on this device, and the token of their forms."""
    answer = JsonResponse({"who": who_of(request), "token": get_token(request)})
    answer["Cache-Control"] = "no-store"
    return answer
