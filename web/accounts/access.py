"""Whose account a request works in, and what may be done there.

A person has an account of their own and may be a member of others'. Which one is at hand stands in
the session. The policy is one rule: owners and editors change things, readers look; members and the
account itself are the owner's matter.
"""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, TypeVar, cast

from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

from web.accounts.models import EDITOR, OWNER, Membership

SESSION_KEY = "account"


@dataclass(frozen=True)
class Access:
    """Who asks, in whose account, as what."""

    user: User
    account: User
    role: str

    @property
    def may_change(self) -> bool:
        """Whether things of the account may be changed."""
        return self.role in (OWNER, EDITOR)


ACTOR: ContextVar[Access | None] = ContextVar("actor", default=None)
"""Who acts in this request; None in scripts and workers, which act for the owner."""


def access_of(request: HttpRequest) -> Access:
    """Whose account a request works in. One that somebody is no member of any more falls back to
    their own.
    """
    held: Access | None = getattr(request, "access", None)
    if held is None or held.user != request.user:
        held = _found(request)
        request.access = held  # type: ignore[attr-defined]
    return held


def _found(request: HttpRequest) -> Access:
    user = cast(User, request.user)  # whoever is not signed in has nothing, in no account
    pk = request.session.get(SESSION_KEY) if user.is_authenticated else None
    held = access_in(user, pk) if pk is not None else None
    return held or Access(user, user, OWNER)


def access_in(user: User, account_id: int) -> Access | None:
    """A person in an account; None where they have no business there."""
    if account_id == user.pk:
        return Access(user, user, OWNER)
    of = Membership.objects.select_related("account").filter(account=account_id, member=user.pk)
    membership = of.first()
    if membership is None or not membership.account.is_active:
        return None
    return Access(user, membership.account, membership.role)


def signed_in(request: HttpRequest) -> User:
    """Who is signed in; every page but the named ones lets nobody else pass.

    Raises:
        PermissionDenied: nobody is.
    """
    user = request.user
    if not isinstance(user, User):
        raise PermissionDenied
    return user


def account_of(request: HttpRequest) -> User:
    """The account whose things a request is about."""
    return access_of(request).account


View = TypeVar("View", bound=Callable[..., Any])


def readers_may(view: View) -> View:
    """A view that readers of an account may post to: it changes nothing of the account at hand, as
    one's own sign-in, one's own learning, and what is only computed.
    """
    view.readers_may = True  # type: ignore[attr-defined]
    return view


def is_for_readers(view: Callable[..., object]) -> bool:
    """Whether a view says that readers may post to it."""
    return bool(getattr(view, "readers_may", False))


def demand_change(account_id: int) -> None:
    """Let nobody change an account they only read, or are not in.

    Raises:
        PermissionDenied: whoever acts may not.
    """
    actor = ACTOR.get()
    if actor is not None and (actor.account.pk != account_id or not actor.may_change):
        raise PermissionDenied("You may read this account, not change it. Ask its owner.")


def actor_name(owner: User) -> str:
    """Who acts, for the history: the owner where nobody else is known to."""
    actor = ACTOR.get()
    return str(actor.user if actor is not None else owner)
