"""Letters that invite: sent from the queue, tried again, and said where they cannot be sent.

The link's token is made when its letter is sent, so that nothing that waits in the queue or lies in
the database can be used as a link.
"""

from __future__ import annotations

import logging
import secrets
from datetime import timedelta
from smtplib import SMTPException

from django.conf import settings
from django.core.mail import send_mail
from django.db import transaction
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django_tasks import task

from web.accounts.models import SENT, UNSENT, WAITS, Invitation, hash_of

LOG = logging.getLogger("ironmargin.letters")
AGAIN = tuple(timedelta(minutes=m) for m in (1, 5, 20, 60))
"""After so long a letter is tried again."""


def unused_hash() -> str:
    """The hash of a token nobody has."""
    return hash_of(secrets.token_urlsafe(32))


def post(held: Invitation, base: str) -> None:
    """Have an invitation's letter sent, once what was just written down is there.

    Args:
        base: the site as the person who invites sees it, ``https://example.org``.
    """
    if settings.JOBS_INLINE:
        deliver.call(held.pk, base, 0)
    else:
        transaction.on_commit(lambda: deliver.enqueue(held.pk, base, 0))


@task()
def deliver(pk: int, base: str, tried: int) -> None:
    """Send an invitation's letter; try again later where the mail server does not take it."""
    held = Invitation.objects.select_related("account").filter(pk=pk, used_at=None).first()
    if held is None:  # taken back meanwhile
        return
    token = secrets.token_urlsafe(32)
    Invitation.objects.filter(pk=pk).update(token_hash=hash_of(token))
    link = base + reverse("invitation", args=[token])
    words = render_to_string("accounts/invitation.txt", {"account": held.account, "link": link})
    try:
        send_mail("An invitation to Iron Margin", words, None, [held.mail])
    except (OSError, SMTPException) as error:
        LOG.warning("an invitation could not be sent: %s", type(error).__name__)
        over = tried >= len(AGAIN)
        state = UNSENT if over else WAITS
        Invitation.objects.filter(pk=pk).update(letter=state, token_hash=unused_hash())
        if not over and not settings.JOBS_INLINE:
            later = timezone.now() + AGAIN[tried]
            deliver.using(run_after=later).enqueue(pk, base, tried + 1)
        return
    Invitation.objects.filter(pk=pk).update(letter=SENT)
