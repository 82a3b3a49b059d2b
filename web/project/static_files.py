"""How the shipped files are named: by what is in them, so that a browser may keep them for good."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class NamedByContent(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Scripts name each other by those names, too."""

    support_js_module_import_aggregation = True
