"""Dataclasses that nobody changes, without what it costs to have that watched at run time, or to make them.

Python fills a frozen dataclass field by field through `object.__setattr__`, some eight times as slow as a plain one, and every
row, fact and move is one. That they are not changed is what the type checker sees to; at run time they are plain.

It also writes and compiles four functions for each class, and there are some six hundred classes in a process that starts. Only the one
that makes an object is written here; how two are compared, hashed and shown is the same code for all.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from dataclasses import dataclass
else:
    import dataclasses
    from operator import attrgetter
    from reprlib import recursive_repr

    def dataclass(cls=None, /, *, frozen=False, **how):
        """As the one of the standard library; one that is frozen can be hashed, as there."""

        def made(one):
            own = {name for name in ("__eq__", "__hash__", "__repr__") if one.__dict__.get(name) is not None}
            if how.get("order") or not how.get("eq", True):
                return dataclasses.dataclass(one, unsafe_hash=frozen and "__hash__" not in own, **how)
            whole = dataclasses.dataclass(one, **{**how, "eq": False, "repr": False})
            compared = [f.name for f in dataclasses.fields(whole) if f.compare]
            # Of nothing there is nothing to get; the class itself stands for it.
            values = attrgetter(*compared) if compared else type
            if "__eq__" not in own:
                whole.__eq__ = _same_by(values)
            if "__hash__" not in own:
                whole.__hash__ = _hashed_by(values) if frozen else None
            if "__repr__" not in own and how.get("repr", True):
                whole.__repr__ = _shown
            return whole

        return made if cls is None else made(cls)

    def _same_by(values):
        def __eq__(self, other):
            return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

        return __eq__

    def _hashed_by(values):
        def __hash__(self):
            return hash(values(self))

        return __hash__

    @recursive_repr()
    def _shown(self):
        shown = ", ".join(f"{f.name}={getattr(self, f.name)!r}" for f in dataclasses.fields(self) if f.repr)
        return f"{type(self).__qualname__}({shown})"


__all__ = ["dataclass"]
