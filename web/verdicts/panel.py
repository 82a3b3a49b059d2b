"""The panel of a setup: its one-line diagram, its schedule, and the code's count of its loads."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from ironmargin.planning.panel import panel_of
from ironmargin.setup.records import write_record
from ironmargin.verdict.check import examine
from web.design.context import Context, paper_of
from web.design.printing import PAPER_CSS, pdf_answer, to_pdf
from web.supplies.words import short_name
from web.verdicts.drawings.one_line import draw_one_line
from web.verdicts.sound import sound_setup


def _context(request: HttpRequest, pk: int) -> Context:
    saved, setup = sound_setup(request, pk)
    panel = panel_of(examine(setup, quick=True))
    line = draw_one_line(setup, panel, short_name(write_record(setup.supply)))
    return {"saved": saved, "panel": panel, "line": line}


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The diagram and the schedule."""
    return render(request, "verdicts/panel.html", _context(request, pk))


@require_safe
def printed(request: HttpRequest, pk: int) -> HttpResponse:
    """The same as PDF."""
    context = _context(request, pk)
    html = render_to_string("verdicts/panel_print.html", context)
    return pdf_answer(
        to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]),
        f"{context['saved'].name} panel",
        "panel",
    )


@require_safe
def drawing(request: HttpRequest, pk: int) -> HttpResponse:
    """The diagram alone, as SVG."""
    context = _context(request, pk)
    svg = render_to_string("verdicts/_one_line.html", context)
    answer = HttpResponse(svg, content_type="image/svg+xml")
    name = slugify(context["saved"].name) or "panel"
    answer["Content-Disposition"] = f'attachment; filename="{name}-one-line.svg"'
    return answer
