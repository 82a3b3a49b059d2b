"""Iron Margin's core: will this supply start and sustain these loads, and how much is left?

Python and numpy only: no Django, no database, no HTML. The public calls are those of
:mod:`ironmargin.api`; everything else may change.
"""

__version__ = "0.2.0"
