"""A single line of words."""

from hawthorn.core.kinds.base import Words


class Line(Words):
    """A single line of words."""

    name = "line"
    default_limit = 500
    lines = False


KIND = Line()
