"""Where the entry stands in the outline."""

from hawthorn.core.kinds.reference import Reference


class Below(Reference):
    """Where the entry stands in the outline: the entry it is placed below."""

    name = "below"
    label = "Place in the outline"


KIND = Below()
