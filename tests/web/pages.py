"""Tests of pages: words are looked for whatever the line breaks of the templates."""

from __future__ import annotations

import json
from typing import Any
from unittest.mock import patch

from django.test import TestCase
from django.urls import reverse

from web.reach import views
from web.verdicts import searches


def one_line(text: str) -> str:
    """A text with every run of white space made one space, as a browser shows it."""
    return " ".join(text.split())


SEARCHED: dict[str, str] = {}
"""What searches found, by what was asked."""
search = searches.run


def searched_once(kind: str, document: Any, tasks: Any, progress: Any) -> Any:
    """A search, computed once for all tests that ask the same: a map of reach takes seconds."""
    requested = json.dumps([kind, document, tasks], sort_keys=True)
    if requested not in SEARCHED:
        SEARCHED[requested] = json.dumps(search(kind, document, tasks, progress))
    return json.loads(SEARCHED[requested])


COARSE = 5, 4
"""Columns and rows of a map of reach where a test asks only that the page opens."""


class PageCase(TestCase):
    """Looks for words in a page as a reader sees them, on one line; ``coarse_maps`` for those that
    open every page and look at none of them closely.
    """

    coarse_maps = False

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.enterClassContext(patch.object(searches, "run", searched_once))
        if cls.coarse_maps:
            cls.enterClassContext(patch.multiple(views, COLUMNS=COARSE[0], ROWS=COARSE[1]))

    def assertContains(  # noqa: N802
        self, response: Any, text: Any, *args: Any, **kwargs: Any
    ) -> None:
        super().assertContains(_flat(response), one_line(str(text)), *args, **kwargs)

    def assertNotContains(  # noqa: N802
        self, response: Any, text: Any, *args: Any, **kwargs: Any
    ) -> None:
        super().assertNotContains(_flat(response), one_line(str(text)), *args, **kwargs)


def _flat(response: Any) -> Any:
    if not response.streaming and response.headers.get("Content-Type", "").startswith("text/html"):
        response.content = one_line(response.content.decode()).encode()
    return response


def press_save(client: Any, form: dict[str, Any]) -> Any:
    """Press Save on a setup's page, as its script does."""
    return client.post(reverse("setup-save"), form, headers={"HX-Request": "true"})
