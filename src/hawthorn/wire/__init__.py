"""Pydantic models of what crosses HTTP."""
