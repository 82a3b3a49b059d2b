"""Which files the site ships, and how they are named: by what is in them, so that a browser may
keep them for good.
"""

from __future__ import annotations

from collections.abc import Iterable

from django.apps import apps
from django.contrib.staticfiles.finders import AppDirectoriesFinder
from whitenoise.storage import CompressedManifestStaticFilesStorage

_, MODULES = CompressedManifestStaticFilesStorage._js_module_import_aggregation_patterns


class NamedByContent(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Our own scripts name each other by those names, too; scripts of other packages stay."""

    patterns = (*CompressedManifestStaticFilesStorage.patterns, ("design/*.js", MODULES))


class OfOurPages(AppDirectoriesFinder):
    """Only what our own pages ask for. Packages bring viewers of their own, fourteen times as much:
    compressing it took a first start a minute, and nobody was ever sent it.
    """

    def __init__(
        self, app_names: Iterable[str] | None = None, *args: object, **more: object
    ) -> None:
        ours = [app.name for app in apps.get_app_configs() if app.name.startswith("web.")]
        super().__init__(app_names or ours, *args, **more)
