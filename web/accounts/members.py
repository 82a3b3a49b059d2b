"""Members of an account: invited by mail, made editor or reader, let go."""

from __future__ import annotations

from datetime import timedelta

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from web.accounts.access import SESSION_KEY, access_of, readers_may, signed_in
from web.accounts.demo import is_demo
from web.accounts.letters import post, unused_hash
from web.accounts.limits import limited
from web.accounts.models import GIVEN, OWNER, WAITS, Invitation, Membership, hash_of

LASTS = timedelta(days=7)
MAX_MEMBERS, MAX_OPEN = 30, 20


def open_invitations(account: User) -> QuerySet[Invitation]:
    """Invitations that can still be used."""
    return Invitation.objects.filter(
        account=account, used_at=None, made_at__gt=timezone.now() - LASTS
    )


def _page(request: HttpRequest, status: int = 200, **more: object) -> HttpResponse:
    access = access_of(request)
    context = {
        "access": access,
        "mine": access.role == OWNER,
        "members": Membership.objects.filter(account=access.account).select_related("member"),
        "invited": open_invitations(access.account),
        "elsewhere": Membership.objects.filter(member=request.user.pk).select_related("account"),
        "roles": GIVEN,
        "demo": is_demo(request.user),
    }
    return render(request, "accounts/members.html", context | more, status=status)


@require_safe
def members(request: HttpRequest) -> HttpResponse:
    """Who works in the account at hand, and in whose one works oneself."""
    return _page(request)


def _owned(request: HttpRequest) -> User:
    """The account at hand, where it is one's own.

    Raises:
        Http404: it is another's; members are its owner's matter. So for the demo's, everybody's.
    """
    access = access_of(request)
    if access.role != OWNER or is_demo(access.account):
        raise Http404
    return access.account


@limited("invite", by=lambda request: str(request.user.pk))
@require_POST
def invite(request: HttpRequest) -> HttpResponse:
    """Send a link that makes somebody a member."""
    account = _owned(request)
    mail, role = request.POST.get("mail", "").strip()[:254], request.POST.get("role", "")
    fault = ""
    try:
        validate_email(mail)
    except ValidationError:
        fault = f"must be a mail address (got {mail[:60]!r})"
    if role not in GIVEN:
        fault = fault or "choose editor or reader"
    with transaction.atomic():
        get_user_model().objects.select_for_update().get(pk=account.pk)
        waiting = open_invitations(account)
        many = waiting.count() >= MAX_OPEN or account.members.count() >= MAX_MEMBERS
        if many and not fault:
            fault = f"at most {MAX_MEMBERS} members and {MAX_OPEN} open invitations"
        if fault:
            return _page(request, 422, fault=fault, typed=mail)
        waiting.filter(mail__iexact=mail).delete()  # a second letter takes the first one's place
        held = Invitation.objects.create(
            account=account, mail=mail, role=role, token_hash=unused_hash(), letter=WAITS
        )
    post(held, request.build_absolute_uri("/").rstrip("/"))
    messages.success(
        request,
        f"An invitation goes to {mail}. Its link works for a week, for an account with that "
        "address.",
    )
    return redirect("members")


@require_POST
def change_member(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a member editor or reader, or let them go."""
    account = _owned(request)
    held = get_object_or_404(Membership, pk=pk, account=account)
    role = request.POST.get("role", "")
    if "remove" in request.POST:
        held.delete()
        messages.success(request, f"{held.member} is no member any more.")
    elif role in GIVEN:
        held.role = role
        held.save(update_fields=["role"])
        messages.success(request, f"{held.member} is {role} now.")
    return redirect("members")


@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Make an invitation worthless."""
    get_object_or_404(Invitation, pk=pk, account=_owned(request)).delete()
    return redirect("members")


@readers_may
@require_http_methods(["GET", "POST"])
def invitation(request: HttpRequest, token: str) -> HttpResponse:
    """Become a member by the link of a letter."""
    since = timezone.now() - LASTS
    with transaction.atomic():
        of = Invitation.objects.select_for_update().select_related("account")
        held = of.filter(token_hash=hash_of(token), used_at=None, made_at__gt=since).first()
        if held is None or held.account == request.user or is_demo(request.user):
            return render(request, "accounts/invitation_over.html", status=404)
        if not _same_address(signed_in(request), held.mail):
            context = {"held": held}
            return render(request, "accounts/invitation_other.html", context, status=403)
        if request.method != "POST":
            return render(request, "accounts/invitation.html", {"held": held})
        Membership.objects.update_or_create(
            account=held.account, member_id=request.user.pk, defaults={"role": held.role}
        )
        held.used_at = timezone.now()
        held.save(update_fields=["used_at"])
    _at_hand(request, held.account_id)
    messages.success(request, f"You work in {held.account}’s account now, as {held.role}.")
    return redirect("setups")


def _same_address(user: User, mail: str) -> bool:
    """Whether a person's account has the address an invitation went to."""
    return bool(user.email) and user.email.strip().lower() == mail.strip().lower()


def _at_hand(request: HttpRequest, account: int | None) -> None:
    """Take an account to hand; what was at hand of another is not any more."""
    request.session[SESSION_KEY] = account
    for name in ("setup", "undo", "log_undo"):
        request.session.pop(name, None)


@readers_may
@require_POST
def switch(request: HttpRequest) -> HttpResponse:
    """Take another account to hand: one's own, or one that one is a member of."""
    wanted = request.POST.get("account", "")
    pk = int(wanted) if wanted.isascii() and wanted.isdigit() and len(wanted) < 18 else 0
    known = Membership.objects.filter(member=request.user.pk, account=pk).exists()
    if pk != request.user.pk and not known:
        raise Http404
    _at_hand(request, pk)
    return redirect("setups")


@readers_may
@require_POST
def leave(request: HttpRequest, pk: int) -> HttpResponse:
    """Be a member of an account no longer."""
    get_object_or_404(Membership, pk=pk, member=request.user.pk).delete()
    _at_hand(request, request.user.pk)
    messages.success(request, "You have left that account.")
    return redirect("members")
