"""Margins that mean one thing, the weakest link, and the sentence that says it."""
