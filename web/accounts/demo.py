"""The demo's account."""

from django.contrib.auth.models import AnonymousUser, User

DEMO_USER = "demo"


def is_demo(user: User | AnonymousUser) -> bool:
    """Whether somebody is in the demo's account, which is everybody's."""
    return bool(user.username == DEMO_USER)
