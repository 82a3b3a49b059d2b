"""Kinds of entry of the log beside those of ``learning.entries``: a new one is a module here and
nothing else.
"""
