"""Hawthorn: drafts, reviews, translations and planned releases, going out exactly as approved."""

__version__ = "0.1.0"
