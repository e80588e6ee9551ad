"""Going through the pages of a list."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Protocol, TypeVar

T = TypeVar("T")


class Page(Protocol[T]):
    """A page of a list, as every list call answers it."""

    items: list[T]
    next: str


def every(call: Callable[..., Page[T]], *args: Any, at_once: int = 500, **asked: Any) -> Iterator[T]:
    """All items of a list, page by page: `every(client.jobs)`, `every(client.entries, type="notice")`; `at_once` is how many a page has, 100 at most
    of what readers read (`every(client.read_entries, at_once=100)`)."""
    cursor = ""
    while True:
        page = call(*args, **asked, limit=at_once, cursor=cursor)
        yield from page.items
        cursor = page.next
        if not cursor:
            return
