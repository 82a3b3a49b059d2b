"""The card by the panel: one printed page, the same bytes for the same order."""

from __future__ import annotations

from django.template.loader import render_to_string

from ironmargin.document import Document
from web.design.printing import to_pdf
from web.running_order.service import order_context
from web.supplies.models import Supply
from web.verdicts.by_hour import soft_words
from web.verdicts.report import up_to
from web.verdicts.view_model import content_key, view_model

SIZES = {"a6": (10, 6, 8), "a5": (16, 10, 12), "letter": (24, 16, 18)}
"""Page size → most sets, trades and steps that fit on one page."""
TYPE = {
    "a6": (11.0, 10.5, 10.0, 9.5, 9.0, 8.5, 8.0, 7.5, 7.0, 6.5),
    "a5": (15.0, 14.0, 13.0, 12.0, 11.0, 10.0, 9.0, 8.0),
    "letter": (18.0, 17.0, 16.0, 15.0, 14.0, 13.0, 12.0, 11.0, 10.5, 9.5),
}
"""Sizes of type of a card [pt], the largest that fills its one page: it is read at arm's length."""


def card_pdf(
    name: str, document: Document, answer: Document, size: str, post: Supply | None = None
) -> bytes:
    """The card of a running order in one of :data:`SIZES`, with what the soft hours of its post do
    to it.
    """
    sets, trades, steps = SIZES[size]
    order = order_context(document, answer)
    data, _ = view_model(document)
    context = order | {
        "name": name,
        "size": size,
        "rig": document["rig"]["name"],
        "up_to": up_to(document),
        "soft_hours": (soft := soft_words(document, post)),
        "endurance": (data or {"result": {}})["result"].get("endurance", {}),
        "sets": order["sets"][:sets],
        "trade_rows": order["trade_rows"][:trades],
        "steps": order["steps"][:steps],
        "cautions": (data or {"result": {"cautions": []}})["result"]["cautions"][
            : 2 if size == "a6" else 4
        ],
    }
    html = render_to_string("running_order/card.html", context)
    key = content_key(document, name, size, soft)
    return to_pdf(html, "card.css", key, f"@page {{ size: {size}; }}", TYPE[size])
