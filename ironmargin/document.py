"""A JSON document before its fields are read: the one place where the core says ``Any``.

What stands in a document is checked field by field (``setup.spec``, ``setup.records``) and becomes
records; until then no type can say what it holds.
"""

from __future__ import annotations

from typing import Any, TypeAlias

Document: TypeAlias = dict[str, Any]
"""A JSON object: its keys and values, not yet read."""
