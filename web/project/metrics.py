"""What is counted for whoever watches the site: requests, how long they take, what waits.

Each process counts into a folder; the ``metrics`` command adds them up and serves them in the
Prometheus text format on a port of its own, which the proxy does not pass on.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from django.conf import settings
from django.http import HttpRequest, HttpResponse

if TYPE_CHECKING:
    from prometheus_client import Counter, Histogram, Metric

BUCKETS = (0.01, 0.025, 0.05, 0.1, 0.2, 0.4, 0.8, 1.6, 3.2)


def _counters() -> tuple[Counter, Histogram] | None:
    """The counters, where this process counts; their folder must be known before the import."""
    if not settings.METRICS_DIR:
        return None
    os.environ.setdefault("PROMETHEUS_MULTIPROC_DIR", settings.METRICS_DIR)
    os.makedirs(settings.METRICS_DIR, exist_ok=True)
    from prometheus_client import Counter, Histogram

    labels = ["method", "route", "status"]
    return (
        Counter("ironmargin_requests_total", "Requests answered", labels),
        Histogram(
            "ironmargin_request_seconds", "Seconds a request takes", ["route"], buckets=BUCKETS
        ),
    )


def count_requests(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Count each request by the name of its address."""
    counters = _counters()

    def respond(request: HttpRequest) -> HttpResponse:
        if counters is None:
            return answer(request)
        began = time.perf_counter()
        response = answer(request)
        match = request.resolver_match
        route = (match.url_name if match is not None else None) or "unknown"
        counters[0].labels(request.method, route, response.status_code).inc()
        counters[1].labels(route).observe(time.perf_counter() - began)
        return response

    return respond


class Queue:
    """What waits and runs in the queue, asked of the database when the metrics are."""

    def collect(self) -> Iterator[Metric]:
        """One figure for each status of a live search."""
        from django.db.models import Count
        from prometheus_client.core import GaugeMetricFamily

        from web.verdicts.jobs import LIVE
        from web.verdicts.models import Job

        found = GaugeMetricFamily("ironmargin_searches", "Searches in the queue", labels=["status"])
        counted = dict(
            Job.objects.filter(status__in=LIVE).values_list("status").annotate(Count("pk"))
        )
        for status in LIVE:
            found.add_metric([status], counted.get(status, 0))
        yield found
