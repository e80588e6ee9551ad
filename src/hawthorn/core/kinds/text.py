"""Several lines of words without markup."""

from hawthorn.core.kinds.base import Words


class Text(Words):
    """Several lines of words without markup."""

    name = "text"
    merges_as = "words"
    default_limit = 20_000
    lines = True


KIND = Text()
