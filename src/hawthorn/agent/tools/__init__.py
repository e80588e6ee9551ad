"""The tools, one module for each thing that an assistant does; a module of this package with `TOOLS` is all that another one needs."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Iterator
from dataclasses import dataclass
from importlib import import_module
from pkgutil import iter_modules
from typing import Annotated, Any, TypeVar

from pydantic import Field

Body = TypeVar("Body", bound=Callable[..., Awaitable[Any]])


@dataclass(frozen=True, slots=True)
class Tool:
    """A tool: what it does, what it is called for people, and whether it changes anything."""

    body: Callable[..., Awaitable[Any]]
    title: str
    changes: bool


class Tools:
    """The tools of a module, in the order in which they are written."""

    def __init__(self) -> None:
        self.kept: list[Tool] = []

    def reads(self, title: str) -> Callable[[Body], Body]:
        """A tool that changes nothing."""
        return self._kept(title, changes=False)

    def changes(self, title: str) -> Callable[[Body], Body]:
        """A tool that changes something, and can be asked first what would come of it."""
        return self._kept(title, changes=True)

    def _kept(self, title: str, *, changes: bool) -> Callable[[Body], Body]:
        def keep(body: Body) -> Body:
            self.kept.append(Tool(body, title, changes))
            return body

        return keep


def all_tools() -> Iterator[Tool]:
    """Every tool there is."""
    for found in iter_modules(__path__):
        tools: Tools = import_module(f"{__name__}.{found.name}").TOOLS
        yield from tools.kept


Id = Annotated[str, Field(description="The id of the entry (a UUID).")]
Locale = Annotated[str, Field(description="A locale as BCP 47 writes it, such as en or pt-BR.")]
Strand = Annotated[str, Field(description="The strand to write on; the draft without one.")]
Try = Annotated[
    bool,
    Field(
        description="Only ask what would come of it: everything is checked and worked out as if it were done, and nothing is changed."
    ),
]
"""Parameters that several tools have."""
