"""Kept answers: the same bytes while nothing has changed, and never what is no longer so, or was said to somebody else."""

from __future__ import annotations

import asyncio
import tracemalloc
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, cast

import httpx
import pytest
from fastapi import Request

from hawthorn.core.access import Identity
from hawthorn.messages import WORDS
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Desk
from hawthorn.operations.views import show
from hawthorn.service import heads
from hawthorn.service.kept import MOST, Answered, Kept
from hawthorn.store.database import Database
from hawthorn.wire.content import EntryPage
from tests.service.made import House, serving


@pytest.fixture
def house(tmp_path: Any) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def asked(path: str = "/api/entries", query: bytes = b"") -> Request:
    return Request({"type": "http", "method": "GET", "path": path, "query_string": query, "headers": []})


def test_an_answer_is_kept_for_whoever_asked_it_until_something_changes(house: House) -> None:
    kept, made = Kept(house.desk.db), []

    def ask(me: Identity, request: Request | None = None) -> bytes:
        def make() -> Answered:
            made.append(me.name)
            return Answered(str(len(made)).encode())

        question = request or asked()
        answer = kept.found(me, question) or asyncio.run(kept.answer(me, question, make))
        return bytes(answer.body)

    ida = house.who("ida")
    assert [ask(ida), ask(ida)] == [b"1", b"1"]
    assert ask(ida, asked(query=b"limit=2")) == b"2"
    assert ask(house.who("wim")) == b"3"
    # The same actor with a key that sees less is somebody else.
    assert ask(replace(ida, grants=ida.grants[:1])) == b"4"
    house.page("New")
    assert ask(ida) == b"5"


def test_long_questions_with_short_answers_take_no_more_than_long_answers(house: House) -> None:
    kept, ida = Kept(house.desk.db), house.who("ida")
    tracemalloc.start()
    try:
        for n in range(1_000):
            question = asked(query=f"q={n:06}{'x' * 50_000}".encode())
            asyncio.run(kept.answer(ida, question, lambda: Answered(b"[]")))
        assert kept.found(ida, question) is not None
        assert tracemalloc.get_traced_memory()[0] < 2 * MOST
    finally:
        tracemalloc.stop()


def test_what_another_process_changes_is_seen_at_once(house: House) -> None:
    uuid = house.page("Before")
    with serving(house) as (_, url), httpx.Client(base_url=url) as http:
        http.post("/api/session", json={"handle": "ida", "password": "long enough"}).raise_for_status()

        def titles() -> list[str]:
            answer = http.get("/api/entries?limit=1")
            page = EntryPage.model_validate_json(answer.content)
            # It is sent without a model between, and is still exactly what the model says.
            assert page.model_dump(mode="json") == answer.json()
            return [line.title for line in page.items]

        assert titles() == titles() == ["Before"]
        other = Desk(Database(house.path), house.desk.clock, WORDS)
        try:
            base = other.read(
                house.who("ida"), lambda v: entries.parse_etag(show.entry(v, uuid, "en")["etag"])
            )
            other.write(house.who("ida"), lambda a: entries.save(a, uuid, "en", {"title": "After"}, base))
        finally:
            other.db.close()
        assert titles() == ["After"]
        http.delete("/api/session").raise_for_status()
        assert http.get("/api/entries?limit=1").status_code == 401


class Line:
    """A transport that notes what is sent."""

    def __init__(self) -> None:
        self.sent: list[bytes] = []
        self.closed = False

    def writelines(self, parts: list[bytes]) -> None:
        assert not self.closed
        self.sent.append(b"".join(parts))

    def close(self) -> None:
        self.closed = True

    def is_closing(self) -> bool:
        return self.closed

    def get_extra_info(self, name: str) -> None:
        return None


def test_what_one_turn_writes_is_sent_together_and_in_order() -> None:
    async def run() -> list[bytes]:
        line = Line()
        out = heads.Gathered(cast(asyncio.Transport, line), asyncio.get_running_loop())
        out.write(b"head ")
        out.write(b"body")
        assert line.sent == []
        await asyncio.sleep(0)
        out.write(b"small ")
        out.write(b"x" * (heads.TOGETHER + 1))
        assert len(line.sent) == 2
        for _ in range(3):
            out.write(b"y" * (heads.TOGETHER // 2))
        assert len(line.sent) == 3, "much in small pieces goes at once, too"
        out.write(b"last")
        out.close()
        assert line.closed
        await asyncio.sleep(0)
        return line.sent

    sent = asyncio.run(run())
    assert sent == [
        b"head body",
        b"small " + b"x" * (heads.TOGETHER + 1),
        b"y" * (heads.TOGETHER // 2 * 3),
        b"last",
    ]
