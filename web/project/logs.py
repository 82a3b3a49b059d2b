"""Logs to standard output: a line an event, with the request it belongs to and no personal figures.

A line says the name of the address, never its numbers or what was posted.
"""

from __future__ import annotations

import logging
import secrets
import time
from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponse

REQUEST: ContextVar[str] = ContextVar("request", default="")
LOG = logging.getLogger("ironmargin.request")
MAX_ID = 40
QUIET = ("health", "ready")
BUSY = 503


class WithRequest(logging.Filter):
    """Gives each line the id of the request it belongs to."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Never drops a line."""
        record.request_id = REQUEST.get()
        return True


class ByRoute(logging.Filter):
    """Says the route of an address instead of the address: a shared link's token is one, and so is
    what somebody mistyped of one.
    """

    def filter(self, record: logging.LogRecord) -> bool:
        """Never drops a line."""
        request = getattr(record, "request", None)
        path = getattr(request, "path", None)
        if path and isinstance(record.args, tuple):
            match = getattr(request, "resolver_match", None)
            name = f"route {match.url_name}" if match is not None else "an unknown address"
            record.args = tuple(
                name if isinstance(arg, str) and path in arg else arg for arg in record.args
            )
        return True


class Meant(logging.Filter):
    """A refusal that was meant is no error: 503 in words, of what is busy or took too long, comes
    with its own line and its count; a 503 of a traceback stays one.
    """

    def filter(self, record: logging.LogRecord) -> bool:
        """Never drops a line."""
        if getattr(record, "status_code", 0) == BUSY and record.exc_info is None:
            record.levelno, record.levelname = logging.WARNING, "WARNING"
        return True


def request_id_of(request: HttpRequest) -> str:
    """The id a proxy gave, where it is a plain one; else one of our own."""
    said = request.headers.get("X-Request-ID", "")
    plain = said.isascii() and said.replace("-", "").isalnum() and len(said) <= MAX_ID
    return said if said and plain else secrets.token_hex(8)


def log_requests(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """A line for each request: what was asked by name, the status, how long it took."""

    def respond(request: HttpRequest) -> HttpResponse:
        token = REQUEST.set(request_id_of(request))
        began = time.perf_counter()
        try:
            response = answer(request)
            response["X-Request-ID"] = REQUEST.get()
            match = request.resolver_match
            name = match.url_name if match is not None else "unknown"
            if name not in QUIET:
                ms = round((time.perf_counter() - began) * 1000)
                fields = {"route": name, "method": request.method, "status": response.status_code}
                LOG.info("%s %s %s", request.method, name, response.status_code,
                         extra=fields | {"ms": ms})  # fmt: skip
            return response
        finally:
            REQUEST.reset(token)

    return respond


def logging_of(kind: str, testing: bool) -> dict[str, object]:
    """The logging settings."""
    plain = {"format": "%(levelname)s %(name)s %(message)s"}
    as_json = {
        "()": "pythonjsonlogger.json.JsonFormatter",
        "fmt": "%(asctime)s %(levelname)s %(name)s %(message)s %(request_id)s",
    }
    loggers: dict[str, object] = {
        "ironmargin.request": {"level": "INFO" if kind == "json" else "WARNING"}
    }
    if testing:
        silent: dict[str, object] = {"handlers": [], "propagate": False}
        loggers |= {"django.request": silent, "axes": silent}
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "filters": {
            "request": {"()": WithRequest}, "route": {"()": ByRoute}, "meant": {"()": Meant},
        },
        "formatters": {"line": as_json if kind == "json" else plain},
        "handlers": {
            "console": {
                "class": "logging.StreamHandler", "formatter": "line",
                "filters": ["request", "route", "meant"],
            }
        },
        "root": {"handlers": ["console"], "level": "ERROR" if testing else "WARNING"},
        "loggers": loggers,
    }  # fmt: skip
