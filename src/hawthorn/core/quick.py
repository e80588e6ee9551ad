"""Dataclasses that nobody changes, without what it costs to have that watched at run time.

Python fills a frozen dataclass field by field through `object.__setattr__`, some eight times as slow as a plain one, and every
row, fact and move is one. That they are not changed is what the type checker sees to; at run time they are plain.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from dataclasses import dataclass
else:
    import dataclasses

    def dataclass(cls=None, /, *, frozen=False, **how):
        """As the one of the standard library; one that is frozen can be hashed, as there."""

        def made(one):
            own = one.__dict__.get("__hash__") is not None
            return dataclasses.dataclass(one, unsafe_hash=frozen and not own, **how)

        return made if cls is None else made(cls)


__all__ = ["dataclass"]
