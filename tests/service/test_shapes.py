"""What operations put together for those who look has the names that it has on its way: a shape and its model are one thing."""

from __future__ import annotations

import inspect
from collections.abc import Iterator
from functools import cache
from importlib import import_module
from pkgutil import walk_packages
from types import ModuleType, NoneType
from typing import Any, get_args, get_type_hints, is_typeddict

import pytest

from hawthorn import operations, wire
from hawthorn.wire.base import Wire

PARTS = {
    "Carried": "MoveLine",
    "FileKnown": "LibraryLine",
    "UploadStanding": "Upload",
    "HeldMove": "",
}
"""Shapes that are a part of a model, which is named; of none where it is kept in an event, too, and goes out as it is there."""


def _modules(package: ModuleType) -> Iterator[ModuleType]:
    return (import_module(m.name) for m in walk_packages(package.__path__, f"{package.__name__}."))


@cache
def shapes() -> dict[str, type]:
    """The shapes of what is put together in operations, by name."""
    found = [
        (name, one)
        for module in _modules(operations)
        for name, one in vars(module).items()
        if is_typeddict(one) and one.__module__ == module.__name__
    ]
    assert len(found) == len(dict(found)), "Two shapes have one name."
    return dict(found)


@cache
def models(name: str) -> list[type[Wire]]:
    """The models of what goes over HTTP that are called so."""
    return [
        one
        for module in _modules(wire)
        for called, one in vars(module).items()
        if called == name
        and inspect.isclass(one)
        and issubclass(one, Wire)
        and one.__module__ == module.__name__
    ]


def nothing(hint: Any) -> bool:
    """Whether a place may hold nothing (null)."""
    return hint is None or NoneType in get_args(hint)


@pytest.mark.parametrize("name", sorted(shapes()))
def test_a_shape_is_that_of_its_model(name: str) -> None:
    shape = get_type_hints(shapes()[name])
    model = PARTS.get(name, name.removesuffix("Shown"))
    if not model:
        return
    fitting = [m for m in models(model) if m.model_fields.keys() >= shape.keys()]
    assert len(fitting) == 1, [m.model_fields.keys() ^ shape.keys() for m in models(model)]
    fields = fitting[0].model_fields
    if name not in PARTS:
        assert fields.keys() == shape.keys()
    could = {one for one, hint in shape.items() if nothing(hint)}
    assert could <= {one for one, field in fields.items() if nothing(field.annotation)}
