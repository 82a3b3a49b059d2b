"""Iron Margin's core: will this supply start and sustain these loads, and how much is left?

Python and numpy only: no Django, no database, no HTML. The public calls are
:func:`ironmargin.verdict.check.check` and :func:`ironmargin.setup.reading.read_setup`.
"""

__version__ = "0.1.0"
