"""How the shipped files are named: by what is in them, so that a browser may keep them for good."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage

_, MODULES = CompressedManifestStaticFilesStorage._js_module_import_aggregation_patterns


class NamedByContent(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Our own scripts name each other by those names, too; scripts of other packages stay."""

    patterns = (*CompressedManifestStaticFilesStorage.patterns, ("design/*.js", MODULES))
