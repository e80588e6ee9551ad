"""A single line of words."""

from hawthorn.core.kinds.base import Words


class Line(Words):
    """A single line of words."""

    name = "line"
    label = "Line of words"
    default_limit = 500
    lines = False


KIND = Line()
