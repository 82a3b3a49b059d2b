"""Signing up, and the demo's sign-in."""

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from web.accounts.access import readers_may
from web.accounts.demo import DEMO_USER
from web.accounts.forms import SignUpForm
from web.accounts.limits import limited

BACKEND = "django.contrib.auth.backends.ModelBackend"


@login_not_required
@readers_may
@limited("sign-up")
@require_http_methods(["GET", "POST"])
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and sign in to it."""
    form = SignUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        login(request, form.save(), backend=BACKEND)
        return redirect("first-rig")
    context = {"form": form, "title": "Sign up", "action": "Make an account"}
    return render(request, "accounts/form.html", context, status=422 if form.errors else 200)


@login_not_required
@readers_may
@limited("demo")
@require_POST
def enter_demo(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo's account, where the demo is open."""
    user = get_user_model().objects.filter(username=DEMO_USER).first() if settings.DEMO else None
    if user is None:
        raise Http404
    login(request, user, backend=BACKEND)
    return redirect("home")
