"""Checking the shape of definitions that people write, before anything looks into them."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from functools import lru_cache
from typing import Any, TypeVar, cast

from pydantic import TypeAdapter, ValidationError

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said

T = TypeVar("T")


@lru_cache
def _adapter(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def shaped(kind: type[T], raw: Any, where: str) -> tuple[T | None, list[FieldProblem]]:
    """A value of a dataclass from what somebody wrote, or what is wrong with it and where."""
    if not isinstance(raw, Mapping):
        return None, [FieldProblem(where, said("shapes.wants_members"))]
    unknown = set(raw) - set(getattr(kind, "__dataclass_fields__", {}))
    problems = [
        FieldProblem(f"{where}.{key}", said("shapes.unknown_member")) for key in sorted(map(str, unknown))
    ]
    try:
        made: T = _adapter(cast(Hashable, kind)).validate_python(dict(raw))
    except ValidationError as error:
        problems += [
            FieldProblem(
                ".".join((where, *map(str, e["loc"]))),
                said("common.words", words=e["msg"][:1].lower() + e["msg"][1:]),
            )
            for e in error.errors()
        ]
        return None, problems
    return (None, problems) if problems else (made, [])


def members(data: Any, name: str) -> list[Any]:
    """A list that a definition holds; raises `Invalid` when it is none."""
    if not isinstance(data, Mapping):
        raise Invalid([FieldProblem("definition", said("shapes.wants_members"))])
    found = data.get(name, [])
    if not isinstance(found, list | tuple):
        raise Invalid([FieldProblem(name, said("shapes.wants_list"))])
    return list(found)


def words(data: Mapping[str, Any], *names: str) -> list[FieldProblem]:
    """What is wrong with members that must be text, where they are given."""
    return [
        FieldProblem(n, said("shapes.wants_text"))
        for n in names
        if n in data and not isinstance(data[n], str)
    ]
