"""One's own account: second factor, browsers signed in, and its end."""

from __future__ import annotations

import io

import qrcode
import qrcode.image.svg
from django.contrib import messages
from django.contrib.auth import get_user_model, logout
from django.contrib.auth import views as auth
from django.contrib.auth.forms import PasswordChangeForm, SetPasswordForm
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.crypto import get_random_string
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST, require_safe
from django_otp import match_token, user_has_device
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from web.accounts import sessions
from web.accounts.access import access_of, readers_may, signed_in
from web.accounts.demo import is_demo

CODES, CODE_LETTERS = 8, "23456789ABCDEFGHJKMNPQRSTUVWXYZ"


def _page(request: HttpRequest, status: int = 200, **more: object) -> HttpResponse:
    user = signed_in(request)
    context = {
        "access": access_of(request),
        "demo": is_demo(user),
        "second": user_has_device(user),
        "sign_ins": sessions.live_of(user),
        "this": request.session.session_key,
    }
    answer = render(request, "accounts/account.html", context | more, status=status)
    answer["Cache-Control"] = "private, no-store"
    return answer


@require_safe
def account(request: HttpRequest) -> HttpResponse:
    """Everything about one's own account."""
    return _page(request)


def _own(request: HttpRequest) -> User:
    """Whoever asks, where the account is theirs alone.

    Raises:
        Http404: it is the demo's.
    """
    if is_demo(request.user):
        raise Http404
    return signed_in(request)


@readers_may
@require_POST
def two_factor(request: HttpRequest) -> HttpResponse:
    """Begin, confirm or end the second factor; ending it needs a code of it."""
    user = _own(request)
    code = request.POST.get("code", "").replace(" ", "")[:16]
    if "end" in request.POST:
        if not user_has_device(user) or match_token(user, code) is None:
            return _page(request, 422, end_fault="That code does not match; it stays on.")
        TOTPDevice.objects.filter(user=user).delete()
        StaticDevice.objects.filter(user=user).delete()
        messages.success(request, "The second factor is off.")
        return redirect("account")
    if user_has_device(user):
        return redirect("account")
    if "confirm" not in request.POST:
        TOTPDevice.objects.filter(user=user, confirmed=False).delete()
        device = TOTPDevice.objects.create(user=user, name="device", confirmed=False)
        return _page(request, 200, **_shown(device))
    device = TOTPDevice.objects.filter(user=user, confirmed=False).first()
    if device is None:
        return redirect("account")
    if not device.verify_token(code):
        fault = "That code does not match. Type the one your device shows now."
        return _page(request, 422, code_fault=fault, **_shown(device))
    device.confirmed = True
    device.save()
    # Whoever was signed in before the second factor was there has not shown it.
    ended = sessions.end(user, None, request.session.session_key or "")
    return _page(request, codes=_spare_codes(user), ended=ended)


def _shown(device: TOTPDevice) -> dict[str, str]:
    """The secret as a drawing and in letters."""
    drawn = io.BytesIO()
    image = qrcode.make(device.config_url, image_factory=qrcode.image.svg.SvgPathImage)
    image.save(drawn)
    svg = drawn.getvalue().decode()
    secret = device.config_url.split("secret=")[1].split("&")[0]
    return {"qr": mark_safe(svg[svg.index("<svg") :]), "secret": secret}  # noqa: S308  (our own)


def _spare_codes(user: User) -> list[str]:
    """Codes for the day the device is lost, each good once; shown this one time."""
    StaticDevice.objects.filter(user=user).delete()
    held = StaticDevice.objects.create(user=user, name="spare")
    found = [get_random_string(10, CODE_LETTERS) for _ in range(CODES)]
    for code in found:
        held.token_set.create(token=code)
    return found


@readers_may
@require_POST
def mail(request: HttpRequest) -> HttpResponse:
    """Change the address of one's account; it takes the password, as a way in goes there."""
    user = _own(request)
    typed = request.POST.get("mail", "").strip()[:254]
    if not user.check_password(request.POST.get("password", "")[:200]):
        fault = "That password does not match; the address stays as it was."
        return _page(request, 422, mail_fault=fault, mail_typed=typed)
    try:
        validate_email(typed)
    except ValidationError:
        fault = f"must be a mail address (got {typed[:60]!r})"
        return _page(request, 422, mail_fault=fault, mail_typed=typed)
    get_user_model().objects.filter(pk=user.pk).update(email=typed)
    messages.success(request, f"Mail goes to {typed} from now on.")
    return redirect("account")


class PasswordChange(auth.PasswordChangeView):
    """A new password signs every other browser out."""

    def form_valid(self, form: PasswordChangeForm) -> HttpResponse:
        answer = super().form_valid(form)
        user = signed_in(self.request)
        sessions.end(user, None, self.request.session.session_key or "")
        sessions.note(None, self.request, user)  # this browser's session has a new key
        return answer


class PasswordReset(auth.PasswordResetConfirmView):
    """A new password by a letter's link signs every browser out; it says that tokens still work."""

    def form_valid(self, form: SetPasswordForm[User]) -> HttpResponse:
        answer = super().form_valid(form)
        if self.user is not None:  # the link's own
            sessions.end(self.user, None, "")
        messages.success(
            self.request,
            "The new password is set, and every browser is signed out. Tokens of programs still "
            "work: revoke them on the page of your account if somebody else had your password.",
        )
        return answer


@readers_may
@require_POST
def sessions_end(request: HttpRequest) -> HttpResponse:
    """End a browser's session, or all others."""
    user = _own(request)
    wanted = request.POST.get("one", "")
    pk = int(wanted) if wanted.isascii() and wanted.isdigit() and len(wanted) < 18 else None
    if wanted and pk is None:
        raise Http404
    ended = sessions.end(user, pk, request.session.session_key or "")
    messages.success(
        request, f"{ended} signed out." if ended else "No other browser was signed in."
    )
    return redirect("account")


@readers_may
@require_POST
def delete(request: HttpRequest) -> HttpResponse:
    """Delete one's account and everything kept in it, for good."""
    user = _own(request)
    if not user.check_password(request.POST.get("password", "")[:200]):
        return _page(
            request, 422, delete_fault="That password does not match; nothing was deleted."
        )
    if user_has_device(user) and match_token(user, request.POST.get("code", "")[:16]) is None:
        return _page(request, 422, delete_fault="That code does not match; nothing was deleted.")
    gone = get_user_model().objects.get(pk=user.pk)
    sessions.end(gone, None, "")
    logout(request)
    gone.delete()
    messages.success(request, "Your account and everything in it is deleted.")
    return redirect("home")
