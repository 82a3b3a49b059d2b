"""Kinds of load beside those of ``setup.loads`` and ``loads.reader``: a new one is a module
here and nothing else.
"""
