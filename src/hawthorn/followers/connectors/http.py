"""Bureaus that are called over HTTP, by the protocol of `docs/bureaus.md`; each call is signed as Standard Webhooks says."""

from __future__ import annotations

import hashlib
from http import HTTPStatus
from typing import Any, TypeVar
from urllib.parse import quote, urlsplit
from uuid import uuid4

import httpx
from pydantic import BaseModel, ValidationError

from hawthorn.core.messages import Message, said
from hawthorn.core.translation import offers
from hawthorn.followers import outgoing
from hawthorn.followers.connectors import base
from hawthorn.followers.connectors.base import Forgotten, No, NotNow, Parcel, Part, Standing
from hawthorn.wire import bureau_protocol as protocol

_LATER = {408, 425, 429}
_LONGEST = 500
Answer = TypeVar("Answer", bound=BaseModel)


class OverHttp(base.Connector):
    """A bureau with an address of its own."""

    kind = "http"

    @staticmethod
    def wrong_address(address: str) -> Message | None:
        """Only web addresses, and nothing secret in them."""
        try:
            parts = urlsplit(address)
            usable = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port or 1) > 0
        except ValueError:
            usable = False
        if not usable or len(address) > _LONGEST or any(c.isspace() for c in address):
            return said("bureaus.wants_address")
        if parts.username or parts.query or parts.fragment:
            return said("bureaus.plain_address")
        return None

    def offer(self) -> offers.Offer:
        """What it offers to whoever has our key."""
        answer, body = self._call("GET", "/offer")
        if answer.status_code in (HTTPStatus.UNAUTHORIZED, HTTPStatus.FORBIDDEN):
            raise No("connector.key_not_taken", status=answer.status_code)
        return offer_of(_read(protocol.Offer, self._well(answer, body)))

    def send(self, parcel: Parcel) -> None:
        """First what the job is, then its file."""
        order = protocol.Order(
            name=parcel.name,
            source=parcel.source,
            target=parcel.target,
            due=parcel.due,
            note=parcel.note,
            units=parcel.units,
            words=parcel.words,
            media_type=parcel.media_type,
            sha256=hashlib.sha256(parcel.data).hexdigest(),
            notify=self.reach.notify,
        )
        at = f"/jobs/{parcel.id}"
        for path, kind, data in (
            (at, "application/json", order.model_dump_json().encode()),
            (f"{at}/file", parcel.media_type, parcel.data),
        ):
            answer, body = self._call("PUT", path, data, {"Content-Type": kind})
            if _for_good(answer):
                raise No("connector.refused", why=_why(body) or answer.status_code)
            now = _read(protocol.Standing, self._well(answer, body))
            if now.state == "refused":
                raise No("connector.refused", why=now.reason[:300] or now.state)

    def set_day(self, parcel: Parcel) -> None:
        """Change the day alone; its file has gone."""
        body = protocol.NewDay(due=parcel.due).model_dump_json().encode()
        kind = {"Content-Type": "application/merge-patch+json"}
        answer, said_back = self._call("PATCH", f"/jobs/{parcel.id}", body, kind)
        if _for_good(answer) or answer.status_code == HTTPStatus.NOT_IMPLEMENTED:
            raise No("connector.takes_no_day", why=_why(said_back) or answer.status_code)
        self._well(answer, said_back)

    def look(self, id: str) -> Standing:
        """How it stands."""
        answer, body = self._call("GET", f"/jobs/{id}")
        if answer.status_code in (HTTPStatus.NOT_FOUND, HTTPStatus.GONE):
            raise Forgotten("connector.forgotten", status=answer.status_code)
        now = _read(protocol.Standing, self._well(answer, body))
        questions = tuple(
            base.Asked(q.id, q.file.removeprefix("urn:uuid:"), q.unit, q.segment, q.text, q.context)
            for q in now.questions
        )
        parts = tuple(Part(p.id, p.sha256, _own(p.own_file)) for p in now.parts)
        return Standing(now.state, now.done, now.total, now.reason, parts, questions)

    def fetch(self, id: str, part: Part) -> bytes:
        """The file of a part; one that is not what was said of it is fetched again."""
        answer, body = self._call("GET", f"/jobs/{id}/parts/{part.id}", most=base.LARGEST)
        data = self._well(answer, body)
        if hashlib.sha256(data).hexdigest() != part.sha256:
            raise NotNow("connector.another_digest", part=part.id)
        return data

    def taken(self, id: str, part: Part, trouble: str) -> None:
        """Nothing: whoever has a question about a part asks it."""

    def answer(self, id: str, question: str, text: str, by: str) -> None:
        """Answer a question; one of a job that it has forgotten wants no answer."""
        body = protocol.Answered(text=text, by=by).model_dump_json().encode()
        self._done("PUT", f"/jobs/{id}/questions/{question}", body)

    def cancel(self, id: str) -> None:
        """The job is not wanted any more."""
        self._done("DELETE", f"/jobs/{id}")

    def _done(self, method: str, path: str, body: bytes = b"") -> None:
        kind = {"Content-Type": "application/json"} if body else {}
        answer, said_back = self._call(method, path, body, kind)
        if not _for_good(answer):
            self._well(answer, said_back)

    def _call(
        self,
        method: str,
        path: str,
        data: bytes = b"",
        headers: dict[str, str] | None = None,
        most: int = 2_000_000,
    ) -> tuple[httpx.Response, bytes]:
        try:
            return outgoing.call(
                self.tools.http(),
                method,
                f"{self.reach.address}/v{protocol.VERSION}{quote(path)}",
                self.tools.options.allow_hosts,
                most=most,
                content=data,
                headers={**self._signed(data), **(headers or {})},
            )
        except outgoing.Forbidden as refused:
            raise No("common.words", words=refused.message) from refused
        except httpx.HTTPError as error:
            raise NotNow("common.words", words=(str(error) or type(error).__name__)[:300]) from error

    def _signed(self, data: bytes) -> dict[str, str]:
        headers = {"User-Agent": "Hawthorn"}
        if self.reach.key:
            headers["Authorization"] = f"Bearer {self.reach.key}"
        if self.reach.secret:
            headers |= outgoing.signed(f"call-{uuid4().hex}", data.decode(), [self.reach.secret])
        return headers

    @staticmethod
    def _well(answer: httpx.Response, body: bytes) -> bytes:
        """The body of an answer that says that it went well."""
        if answer.is_success:
            return body
        if answer.is_redirect:
            to = answer.headers.get("location", "")[:200]
            made = NotNow("connector.points_elsewhere", status=answer.status_code, to=to)
        else:
            code = "connector.answers" if answer.reason_phrase else "connector.answers_bare"
            made = NotNow(code, status=answer.status_code, reason=answer.reason_phrase)
        made.after = outgoing.retry_after(answer)
        raise made


def _own(given: protocol.OwnFile | None) -> base.OwnFile | None:
    if given is None:
        return None
    return base.OwnFile(given.file.removeprefix("urn:uuid:"), given.field, given.name)


def offer_of(found: protocol.Offer) -> offers.Offer:
    """An offer as it is kept."""
    pairs = tuple(offers.Pair(p.source, p.target, p.word) for p in found.pairs)
    return offers.Offer(pairs, found.currency, found.word, found.shares)


def _for_good(answer: httpx.Response) -> bool:
    return answer.is_client_error and answer.status_code not in _LATER


def _read(model: type[Answer], body: bytes) -> Answer:
    try:
        return model.model_validate_json(body)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])[:200]
        code = "connector.unreadable" if place else "connector.unreadable_as_a_whole"
        raise NotNow(code, place=place, why=first["msg"][:200]) from None


def _why(body: bytes) -> str:
    """Why something was refused: what a problem says (RFC 9457), or the words as they came."""
    try:
        told: Any = httpx.Response(200, content=body).json()
        words = str(told.get("detail") or told.get("reason") or "")
    except (ValueError, AttributeError):
        words = ""
    return " ".join((words or body[:400].decode("utf-8", "replace")).split())[:200]


KIND = OverHttp
