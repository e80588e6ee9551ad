"""Entries and their revisions, and the types that say what they hold."""
