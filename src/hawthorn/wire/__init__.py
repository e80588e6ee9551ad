"""Pydantic models of what crosses HTTP."""

DEFER = False
"""Whether models are built when they are first used. A command sets it before it loads them, as it uses few of them; the
service, which uses all of them from many threads, leaves it."""
