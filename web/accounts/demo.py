"""The demo's account."""

from typing import Any

DEMO_USER = "demo"


def is_demo(user: Any) -> bool:
    """Whether somebody is in the demo's account, which is everybody's."""
    return bool(user.username == DEMO_USER)
