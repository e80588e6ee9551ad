"""Routes that are worked out when they are first asked for: a service of many answers its first request sooner."""

from __future__ import annotations

import re
import threading
from collections import Counter
from collections.abc import Callable, Collection, Coroutine, Sequence
from typing import Any, TypeVar, get_args, get_origin

from fastapi import APIRouter, params
from fastapi.dependencies.utils import get_flat_params
from fastapi.routing import APIRoute
from starlette._utils import get_route_path
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import BaseRoute, Match, get_name
from starlette.types import Receive, Scope, Send

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.service import kept
from hawthorn.wire.problems import Problem

_UUID = re.compile(r"[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}")
REFUSALS: dict[int | str, dict[str, Any]] = {n: {"model": Problem} for n in (401, 403, 404, 409, 412, 422)}
"""How a call is refused, as the document of the API describes it."""


def _takes_several(annotation: Any) -> bool:
    """Whether a parameter of this kind may be given several times."""
    kind = get_origin(annotation)
    if isinstance(kind, type) and issubclass(kind, Collection):
        return True
    return any(map(_takes_several, get_args(annotation)))


class Late(APIRoute):
    """A route whose parameters and answers are looked at when it is first asked for, or described.

    Until then it holds where its path begins, which is enough to pass over it.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:
        self.path = path
        self.endpoint = endpoint
        self.name = options["name"] or get_name(endpoint)
        self._begins = path.partition("{")[0]
        self._making = threading.Lock()
        self._options: dict[str, Any] | None = options

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        """Whether a request is for this route (see the framework)."""
        if scope["type"] == "http" and not get_route_path(scope).startswith(self._begins):
            return Match.NONE, {}
        match, more = super().matches(scope)
        # Whoever names by a UUID may write it in capitals (RFC 9562, section 4).
        for name, value in more.get("path_params", {}).items():
            if isinstance(value, str) and _UUID.fullmatch(value):
                more["path_params"][name] = value.lower()
        return match, more

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """As the framework answers, but for questions with a parameter that means nothing here: what would be passed over
        would be answered with something else than was asked for."""
        answer = super().get_route_handler()
        given = get_flat_params(self.dependant)
        keeps = getattr(self.endpoint, "keeps", False)
        open_ended = getattr(self.endpoint, "begins", "")
        asked_by = [field for field in given if isinstance(field.field_info, params.Query)]
        known = {field.alias for field in asked_by}
        single = {field.alias for field in asked_by if not _takes_several(field.field_info.annotation)}

        async def asked(request: Request) -> Response:
            unknown = sorted(set(request.query_params) - known)
            if open_ended:
                unknown = [name for name in unknown if not name.startswith(open_ended)]
            if unknown:
                raise Invalid(
                    [FieldProblem(name[:80], said("routing.no_parameter")) for name in unknown[:10]],
                    remedy=said("routing.ask_by" if known else "routing.ask_without", known=sorted(known)),
                )
            # Of two values for one thing, one would be passed over, and not every program on the way passes over the same.
            counted = Counter(name for name, _ in request.query_params.multi_items())
            twice = sorted(name for name, times in counted.items() if times > 1 and name in single)
            if twice:
                raise Invalid([FieldProblem(name, said("routing.twice")) for name in twice])
            if keeps:
                before = await kept.again(request, getattr(self.endpoint, "reads", False))
                if before is not None:
                    return before
            return await answer(request)

        return asked

    def __getattr__(self, name: str) -> Any:
        # Only asked for what is not there yet: everything that the framework works out.
        if name.startswith("__"):
            raise AttributeError(name)
        with self._making:
            if self._options is not None:
                super().__init__(self.path, self.endpoint, **self._options)
                self._options = None
        return object.__getattribute__(self, name)


class Shortcut(BaseRoute):
    """The route of a request, found among the few whose paths begin as it does, rather than by trying hundreds in turn.

    It stands before the routes that it knows, and gives up where none of them answers: what is asked by a wrong method, or in
    vain, is theirs.
    """

    DEEP = 2
    """So many parts of a path are looked at."""
    FOUND = "hawthorn.route"

    def __init__(self, routes: Sequence[BaseRoute]) -> None:
        begins = [(self._fixed(route), route) for route in routes]
        places = {fixed[:deep] for fixed, _ in begins for deep in range(self.DEEP + 1)}
        self._below = {
            place: tuple(route for fixed, route in begins if place[: len(fixed)] == fixed) for place in places
        }

    def _fixed(self, route: BaseRoute) -> tuple[str, ...]:
        fixed, open_from, _ = str(getattr(route, "path", "")).partition("{")
        parts = fixed.split("/")[1:]
        # A part that only begins there is none yet.
        return tuple(parts[:-1] if open_from else parts)[: self.DEEP]

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        """Whether any of them is for a request (see the framework)."""
        parts = tuple(get_route_path(scope).split("/", self.DEEP + 1)[1 : self.DEEP + 1])
        place = next(parts[:deep] for deep in range(len(parts), -1, -1) if parts[:deep] in self._below)
        for route in self._below[place]:
            match, more = route.matches(scope)
            if match == Match.FULL:
                return match, {**more, self.FOUND: route}
        return Match.NONE, {}

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer by the route that was found."""
        await scope[self.FOUND].handle(scope, receive, send)


def allowed(routes: Sequence[BaseRoute], scope: Scope) -> list[str]:
    """The methods that an address takes (RFC 9110, section 10.2.1), but for that of pages, which take what nothing else does."""
    found = {
        method
        for route in routes
        if not getattr(route, "path", "").startswith("/{") and route.matches(scope)[0] != Match.NONE
        for method in getattr(route, "methods", None) or ()
    }
    # Wherever something can be got, its head can be (`methods.Heads`).
    return sorted(found | ({"HEAD"} if "GET" in found else set()))


Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])


def taking(begins: str) -> Callable[[Endpoint], Endpoint]:
    """Mark a route that takes any parameter whose name begins so."""

    def mark(endpoint: Endpoint) -> Endpoint:
        endpoint.begins = begins  # type: ignore[attr-defined]
        return endpoint

    return mark


def area(prefix: str, tag: str) -> APIRouter:
    """A router for the routes of one area, below a path."""
    return APIRouter(prefix=prefix, tags=[tag], route_class=Late)
