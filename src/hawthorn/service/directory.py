"""`/scim/v2`: a directory makes, changes and lets go the people of the house, and puts them in groups (SCIM 2.0: RFC 7643, RFC 7644).

What is asked and answered is read and written by scim2-models, which is loaded when a directory first comes; what follows from it is in
`operations/access/provisioning.py`. It is no part of our API, whose description names none of it: it describes itself, as its standard has it.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from datetime import datetime
from typing import TYPE_CHECKING, Any

from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import Response

from hawthorn.core import numbers, timeline
from hawthorn.core.errors import BadTime, HawthornError, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.provider import Rules
from hawthorn.messages import WORDS
from hawthorn.operations.access import provisioning
from hawthorn.operations.access.provisioning import Known, Wanted
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk
from hawthorn.service.context import bears
from hawthorn.service.settings import Settings
from hawthorn.store.provisioning import Group, Provisioned

if TYPE_CHECKING:
    import scim2_models as scim

PATH = "/scim/v2"
MEDIA_TYPE = "application/scim+json"
MOST = 200
"""So many are answered at once; more are asked for by `startIndex`."""
_STATUS = {Invalid: (400, "invalidValue"), BadTime: (400, "invalidValue"), NotFound: (404, "")}
Found = tuple[int, Any]
"""A status, and what is answered: a model of the library, or nothing."""


class Directory:
    """The endpoint, as an ASGI application."""

    def __init__(self, desk: Desk, settings: Settings) -> None:
        self._desk = desk
        self._settings = settings
        self._rules = Rules(True, settings.provider_joins, settings.provider_roles)

    async def answer(self, request: Request) -> Response:
        """Answer a directory; whoever has not its key is told nothing else."""
        if not self._settings.directory_key:
            raise NotFound("service.nothing_at", path=request.url.path)
        if not bears(request, self._settings.directory_key):
            return _error(401, "", WORDS.text(said("directory.no_key")), {"WWW-Authenticate": "Bearer"})
        body = await request.body()
        return await run_in_threadpool(self._answer, request, body)

    def _answer(self, request: Request, body: bytes) -> Response:
        import scim2_models as scim
        from pydantic import ValidationError

        policy = scim.ScimPolicy(
            unknown=scim.ScimPolicy.Unknown.ignore,
            remove_value_as_filter=scim.ScimPolicy.RemoveValue.apply,
            unmatched_path_filter=scim.ScimPolicy.UnmatchedPathFilter.create,
        )
        base = str(request.base_url).rstrip("/") if not self._settings.public else self._settings.public
        asked = _Asked(self._desk, self._rules, base.rstrip("/") + PATH, dict(request.query_params))
        try:
            with policy:
                status, found = asked.do(request.method, request.path_params["rest"], body)
        except scim.SCIMException as error:
            told = error.to_error()
            return _error(int(told.status or 400), told.scim_type or "", told.detail or str(error))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(map(str, first["loc"]))
            kind = "invalidFilter" if where == "filter" else "invalidValue"
            return _error(400, kind, f"{where}: {first['msg']}" if where else first["msg"])
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
            return _error(400, "invalidSyntax", WORDS.text(said("directory.no_json")))
        except InTheWay as error:
            taken = "uniqueness" if error.message.code == "provisioning.taken" else ""
            return _error(409, taken, WORDS.text(error.message))
        except HawthornError as error:
            code, kind = _STATUS.get(type(error), (403, ""))
            return _error(code, kind, _told(error))
        if found is None:
            return Response(status_code=status)
        return Response(json.dumps(found), status, media_type=MEDIA_TYPE)


class _Asked:
    """One request of a directory."""

    def __init__(self, desk: Desk, rules: Rules, base: str, query: Mapping[str, str]) -> None:
        self.desk, self.rules, self.base, self.query = desk, rules, base, query

    def do(self, method: str, rest: str, body: bytes) -> Found:
        """What is answered. Raises what the library does, and `HawthornError`."""
        import scim2_models as scim

        kind, _, id = rest.strip("/").partition("/")
        about = {
            "ServiceProviderConfig": self._config,
            "ResourceTypes": self._types,
            "Schemas": self._schemas,
        }.get(kind)
        if about is not None and method == "GET":
            return 200, about(id)
        made: _Kind | None = {"Users": _People, "Groups": _Groups}.get(kind, lambda _: None)(self)
        if made is None:
            raise scim.NotFoundException(detail=WORDS.text(said("service.nothing_at", path=rest)))
        if not id and method == "GET":
            return 200, self._listed(made)
        if not id and method == "POST":
            return 201, made.shown(self._write(lambda act: made.make(act, made.read(body, "creation"))))
        number = _id(id)
        if id and method == "GET":
            return 200, made.shown(number)
        if id and method == "PUT":
            self._write(lambda act: made.change(act, number, made.read(body, "replacement")))
            return 200, made.shown(number)
        if id and method == "PATCH":
            self._write(lambda act: made.patch(act, number, body))
            return 200, made.shown(number)
        if id and method == "DELETE":
            self._write(lambda act: made.end(act, number))
            return 204, None
        raise scim.NotImplementedException(
            detail=WORDS.text(said("service.no_method", path=rest, method=method))
        )

    def known(self) -> Known:
        """Everybody and every group, as they are now."""
        return self.desk.read(SCHEDULER_SELF, provisioning.known)

    def _write(self, do: Callable[[Act], int]) -> int:
        return self.desk.write(SCHEDULER_SELF, do)

    def _listed(self, kind: _Kind) -> Any:
        import scim2_models as scim

        search = scim.SearchRequest[kind.model].model_validate(  # type: ignore[name-defined]
            {name: self.query[name] for name in ("filter", "sortBy", "sortOrder") if self.query.get(name)}
        )
        found = [one for one in kind.all() if search.filter is None or search.filter.match(one)]
        if search.sort_by:
            found = list(search.sort(found))
        start = max(1, _number(self.query.get("startIndex"), 1))
        count = min(MOST, max(0, _number(self.query.get("count"), MOST)))
        page = found[start - 1 : start - 1 + count]
        answer = scim.ListResponse[kind.model](  # type: ignore[name-defined]
            total_results=len(found), start_index=start, items_per_page=len(page), resources=page
        )
        return answer.model_dump(scim_ctx=scim.Context.RESOURCE_QUERY_RESPONSE)

    def _provider(self) -> scim.ScimProvider:
        import scim2_models as scim

        return scim.ScimProvider(
            models=[scim.User, scim.Group],
            resource_types=[
                scim.ResourceType.from_resource(scim.User),
                scim.ResourceType.from_resource(scim.Group),
            ],
        )

    def _config(self, _: str) -> Any:
        import scim2_models as scim

        key = scim.AuthenticationScheme(
            type=scim.AuthenticationScheme.Type.oauthbearertoken,
            name=WORDS.text(said("directory.key")),
            description=WORDS.text(said("directory.key_about")),
        )
        found = scim.ServiceProviderConfig(
            patch=scim.Patch(supported=True),
            bulk=scim.Bulk(supported=False, max_operations=0, max_payload_size=0),
            filter=scim.Filter(supported=True, max_results=MOST),
            change_password=scim.ChangePassword(supported=False),
            sort=scim.Sort(supported=True),
            etag=scim.ETag(supported=False),
            authentication_schemes=[key],
        )
        return found.model_dump(scim_ctx=scim.Context.RESOURCE_QUERY_RESPONSE)

    def _types(self, id: str) -> Any:
        return self._of(self._provider().resource_types, id)

    def _schemas(self, id: str) -> Any:
        return self._of(self._provider().schemas, id)

    @staticmethod
    def _of(all: Any, id: str) -> Any:
        import scim2_models as scim

        ctx = scim.Context.RESOURCE_QUERY_RESPONSE
        shown = [one.model_dump(scim_ctx=ctx) for one in all]
        if not id:
            return {
                "schemas": ["urn:ietf:params:scim:api:messages:2.0:ListResponse"],
                "totalResults": len(shown),
                "startIndex": 1,
                "itemsPerPage": len(shown),
                "Resources": shown,
            }
        for one in shown:
            if id in (one.get("id"), one.get("name")):
                return one
        raise scim.NotFoundException(detail=WORDS.text(said("service.nothing_at", path=id)))


class _Kind:
    """A kind of resource: how it is read, shown and changed."""

    model: Any

    def __init__(self, asked: _Asked) -> None:
        self.asked = asked

    def read(self, body: bytes, way: str) -> Any:
        """What a directory wants it to be."""
        import scim2_models as scim

        ctx = {
            "creation": scim.Context.RESOURCE_CREATION_REQUEST,
            "replacement": scim.Context.RESOURCE_REPLACEMENT_REQUEST,
        }[way]
        return self.model.model_validate(json.loads(body), scim_ctx=ctx)

    def all(self, only: int | None = None) -> list[Any]:
        """All of them, or the one of an id."""
        raise NotImplementedError

    def one(self, id: int) -> Any:
        """One of them. Raises what the library does where there is none."""
        import scim2_models as scim

        found = next(iter(self.all(id)), None)
        if found is None:
            raise scim.NotFoundException(detail=WORDS.text(said("directory.not_there")))
        return found

    def shown(self, id: int) -> Any:
        """One of them, as it is answered."""
        import scim2_models as scim

        return self.one(id).model_dump(scim_ctx=scim.Context.RESOURCE_QUERY_RESPONSE)

    def patch(self, act: Act, id: int, body: bytes) -> int:
        """Change parts of one (RFC 7644, section 3.5.2), all or none."""
        import scim2_models as scim

        asked = scim.PatchOp[self.model].model_validate(  # type: ignore[name-defined]
            json.loads(body), scim_ctx=scim.Context.RESOURCE_PATCH_REQUEST
        )
        was = self.one(id)
        now = was.model_copy(deep=True)
        asked.patch(now)
        self.settle(was, now)
        return self.change(act, id, now)

    def settle(self, was: Any, now: Any) -> None:
        """Bring together what a change said in one place of several."""

    def make(self, act: Act, wanted: Any) -> int:
        """Make one; its id."""
        raise NotImplementedError

    def change(self, act: Act, id: int, wanted: Any) -> int:
        """Make one what is wanted; its id."""
        raise NotImplementedError

    def end(self, act: Act, id: int) -> int:
        """End one; its id."""
        raise NotImplementedError


class _People(_Kind):
    def __init__(self, asked: _Asked) -> None:
        import scim2_models as scim

        super().__init__(asked)
        self.model = scim.User

    def all(self, only: int | None = None) -> list[Any]:
        known = self.asked.known()
        names = {one.id: one for one in known.groups}
        of: dict[int, list[Group]] = {}
        for group, actor in known.members:
            of.setdefault(actor, []).append(names[group])
        return [self._person(one, of.get(one.id, [])) for one in known.people if only in (None, one.id)]

    def _person(self, one: Provisioned, groups: list[Group]) -> Any:
        import scim2_models as scim

        return scim.User(
            id=str(one.id),
            external_id=one.external_id or None,
            user_name=one.user_name,
            display_name=one.name,
            name=scim.Name(formatted=one.name),
            emails=[scim.Email(value=one.email, primary=True)] if one.email else None,
            timezone=one.zone,
            active=one.ended_at is None,
            groups=[self._membership(one) for one in groups] or None,
            meta=_meta(self.asked.base, "User", "Users", one.id, one.created_at, one.changed_at),
        )

    def _membership(self, group: Group) -> Any:
        import scim2_models as scim

        ref = f"{self.asked.base}/Groups/{group.id}"
        return scim.GroupMembership.model_validate(
            {"value": str(group.id), "display": group.name, "$ref": ref, "type": "direct"}
        )

    @staticmethod
    def _wanted(given: Any) -> Wanted:
        name = given.name
        parts = [name.given_name, name.family_name] if name is not None else []
        called = (
            given.display_name
            or (name.formatted if name is not None else "")
            or " ".join(part for part in parts if part)
            or given.user_name
        )
        some = given.emails or []
        email = next((one.value for one in some if one.primary), some[0].value if some else "")
        return Wanted(
            given.user_name or "",
            called or "",
            email or "",
            given.timezone or "",
            given.external_id or "",
            given.active is not False,
        )

    def make(self, act: Act, wanted: Any) -> int:
        return provisioning.make(act, self._wanted(wanted), self.asked.rules)

    def settle(self, was: Any, now: Any) -> None:
        # A name is said in two places: the one that was changed counts.
        said_in_parts = now.name.formatted if now.name is not None else None
        if now.display_name == was.display_name and said_in_parts != was.name.formatted:
            now.display_name = said_in_parts

    def change(self, act: Act, id: int, wanted: Any) -> int:
        provisioning.change(act, id, self._wanted(wanted), self.asked.rules)
        return id

    def end(self, act: Act, id: int) -> int:
        provisioning.end(act, id)
        return id


class _Groups(_Kind):
    def __init__(self, asked: _Asked) -> None:
        import scim2_models as scim

        super().__init__(asked)
        self.model = scim.Group

    def all(self, only: int | None = None) -> list[Any]:
        import scim2_models as scim

        known = self.asked.known()
        names = {one.id: one.name for one in known.people}
        of: dict[int, list[int]] = {}
        for group, actor in known.members:
            of.setdefault(group, []).append(actor)
        return [
            scim.Group(
                id=str(one.id),
                external_id=one.external_id or None,
                display_name=one.name,
                members=[
                    scim.GroupMember.model_validate(
                        {
                            "value": str(actor),
                            "display": names.get(actor),
                            "type": "User",
                            "$ref": f"{self.asked.base}/Users/{actor}",
                        }
                    )
                    for actor in of.get(one.id, [])
                ]
                or None,
                meta=_meta(self.asked.base, "Group", "Groups", one.id, one.at, one.changed_at),
            )
            for one in known.groups
            if only in (None, one.id)
        ]

    @staticmethod
    def _wanted(given: Any) -> tuple[str, str, list[int]]:
        members = [one.value or "" for one in given.members or []]
        return given.display_name or "", given.external_id or "", [_id(one) for one in members]

    def make(self, act: Act, wanted: Any) -> int:
        return provisioning.make_group(act, *self._wanted(wanted), self.asked.rules)

    def change(self, act: Act, id: int, wanted: Any) -> int:
        provisioning.change_group(act, id, *self._wanted(wanted), self.asked.rules)
        return id

    def end(self, act: Act, id: int) -> int:
        provisioning.end_group(act, id, self.asked.rules)
        return id


def _meta(base: str, kind: str, path: str, id: int, made: int, changed: int) -> Any:
    import scim2_models as scim

    at: Callable[[int], datetime] = timeline.to_datetime
    return scim.Meta(
        resource_type=kind, created=at(made), last_modified=at(changed), location=f"{base}/{path}/{id}"
    )


def _id(text: str) -> int:
    """The id of a resource as a number; one that nothing has where it is none."""
    found = numbers.whole(text)
    return -1 if found is None else found


def _number(text: str | None, usual: int) -> int:
    digits = (text or "").removeprefix("-")
    return int(text or 0) if digits.isascii() and digits.isdigit() and len(digits) < 10 else usual


def _told(error: HawthornError) -> str:
    problems = error.facts.get("problems", ())
    if problems:
        return "; ".join(f"{one.where}: {WORDS.text(one.what)}" for one in problems)
    return WORDS.text(error.message)


def _error(status: int, kind: str, detail: str, headers: Mapping[str, str] | None = None) -> Response:
    """An error as SCIM has it (RFC 7644, section 3.12)."""
    body = {
        "schemas": ["urn:ietf:params:scim:api:messages:2.0:Error"],
        "status": str(status),
        "detail": detail,
        **({"scimType": kind} if kind else {}),
    }
    return Response(json.dumps(body), status, dict(headers or {}), MEDIA_TYPE)
