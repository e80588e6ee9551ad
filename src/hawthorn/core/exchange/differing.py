"""Where two definitions differ: member by member, lists of named things by their names."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from hawthorn.core.quick import dataclass

_ABSENT: tuple[Any, ...] = (None, "", [], {}, False, 0)
"""What a definition that leaves a member out says as well."""


@dataclass(frozen=True, slots=True)
class Differing:
    """A member that differs: where it is, and what stands there before and after; None for nothing."""

    path: str
    before: Any
    after: Any


def differing(before: Any, after: Any, path: str = "") -> Iterator[Differing]:
    """The members in which two values of JSON differ. A list of things with names is compared by their names, and as a whole only by
    its order; a member that is left out equals an empty one."""
    if before == after or (before in _ABSENT and after in _ABSENT):
        return
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        for name in [*before, *(n for n in after if n not in before)]:
            yield from differing(before.get(name), after.get(name), f"{path}.{name}" if path else str(name))
        return
    was, now = _named(before), _named(after)
    if was is not None and now is not None:
        for name in [*was, *(n for n in now if n not in was)]:
            yield from differing(was.get(name), now.get(name), f"{path}.{name}" if path else name)
        kept = [n for n in was if n in now]
        if kept != [n for n in now if n in was]:
            yield Differing(path, [*was], [*now])
        return
    yield Differing(path, before, after)


def _named(value: Any) -> dict[str, Any] | None:
    """A list of things with names, by name; an empty list is one, too."""
    if not isinstance(value, Sequence) or isinstance(value, str):
        return None
    if not all(isinstance(one, Mapping) and isinstance(one.get("name"), str) for one in value):
        return None
    found = {one["name"]: one for one in value}
    return found if len(found) == len(value) else None
