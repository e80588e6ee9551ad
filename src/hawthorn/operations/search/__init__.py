"""Finding entries, and what is kept so that they are found."""
