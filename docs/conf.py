"""How ``./manual`` builds one reference of everything: the chapters beside this file, every field
of the formats, figures drawn by the code, and the core's interface from its docstrings.
"""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from pygments.lexers.javascript import JavascriptLexer  # noqa: E402
from sphinx.highlighting import lexers  # noqa: E402

import ironmargin  # noqa: E402

lexers["jsonc"] = JavascriptLexer()  # JSON with comments

project = "Iron Margin"
author = copyright = "The founders of Iron Margin"
version = release = ironmargin.__version__
extensions = ["myst_parser", "sphinx.ext.autodoc", "sphinx.ext.napoleon", "sphinx.ext.apidoc"]
apidoc_modules = [
    {"path": "../ironmargin", "destination": "api", "module_first": True, "max_depth": 2}
]
autodoc_typehints = "signature"
autodoc_member_order = "bysource"
napoleon_google_docstring = True
napoleon_numpy_docstring = False
napoleon_use_ivar = True
myst_heading_anchors = 3
exclude_patterns = ["screenshots"]
html_theme = "furo"
html_title = f"Iron Margin {release}"
html_show_sphinx = False
html_static_path: list[str] = []
suppress_warnings = ["ref.python"]
"""Short names that several modules have, as ``Row``: linked to one of them."""
