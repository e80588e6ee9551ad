"""Commands that show what others derive."""
