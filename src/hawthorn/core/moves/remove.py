"""Remove: a whole entry goes, in every locale and from every stage; it can be brought back as a draft."""

from __future__ import annotations

from hawthorn.core.moves.base import Emptying


class Remove(Emptying):
    """Closes whatever stands anywhere, and ends the entry. What never stood anywhere is its writer's own to remove."""

    name = "remove"
    ends = True
    clears = ("referred-to",)


VERB = Remove()
