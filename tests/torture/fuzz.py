"""The whole API as its own document describes it, asked by two people and a key with whatever a generator thinks of."""

from __future__ import annotations

import random
import time
import warnings
from collections import Counter
from contextlib import suppress
from pathlib import Path
from typing import Any

import hypothesis
import schemathesis
from hypothesis import HealthCheck, Phase, settings
from hypothesis.errors import Unsatisfiable
from schemathesis.checks import not_a_server_error
from schemathesis.core.errors import SerializationNotPossible
from schemathesis.core.failures import Failure, FailureGroup
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from hawthorn.operations.access import logging_in, people
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.store import people as people_store
from tests.service.made import House, serving

CHECKS = (not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)
ENDLESS = ("/events", "/read/changes")
"""What is asked there goes on until somebody stops listening."""
EACH = 6
"""So many cases of an operation and a caller at a time."""


def callers(house: House) -> dict[str, str]:
    """Two people and a key, with their tokens."""

    def session(act: Act, handle: str) -> str:
        row = people_store.by_handle(act.conn, handle)
        assert row is not None
        return logging_in.log_in(act, row)

    return {
        "ida": house.do("ida", lambda a: session(a, "ida")),
        "wim": house.do("ida", lambda a: session(a, "wim")),
        "key": house.do(
            "ida", lambda a: people.issue_key(a, "site", "reader", "program", ["draft", "release"])[1]
        ),
    }


def fuzz(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """No answer is a fault, and each is what the document says."""
    house = House(folder)
    known = [house.signed("Out"), house.page("Drafted")]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(known[0], "en")]))
    house.do("wim", lambda a: entries.start(a, "page", "en", {"title": "Alone"}))
    until = time.monotonic() + seconds
    counted: Counter[str] = Counter()
    with serving(house) as (_, url), warnings.catch_warnings():
        warnings.simplefilter("ignore")
        schema = schemathesis.openapi.from_url(f"{url}/api/openapi.json")
        operations = [o.ok() for o in schema.get_all_operations() if o.ok().path not in ENDLESS]
        tokens = callers(house)
        while not counted or time.monotonic() < until:
            operation, who = rng.choice(operations), rng.choice([*tokens])
            if operation.definition.raw.get("operationId") in ("log_out", "end_session"):
                continue
            for case in _cases(operation, rng):
                if counted and time.monotonic() > until:
                    break
                if rng.random() < 0.7 and "id" in case.path_parameters:
                    case.path_parameters["id"] = rng.choice(known)
                answer = case.call(
                    base_url=url, headers={"Authorization": f"Bearer {tokens[who]}"}, timeout=30
                )
                if answer.status_code == 401 and who != "key":
                    tokens = callers(house)
                    continue
                _check(case, answer, who)
                counted[f"answers {answer.status_code // 100}xx"] += 1
    house.close()
    return counted


def _cases(operation: Any, rng: random.Random) -> list[Any]:
    """Some cases of an operation, those that fit its description and those that do not."""
    found: list[Any] = []

    @hypothesis.seed(rng.getrandbits(32))
    @settings(
        max_examples=EACH,
        database=None,
        deadline=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @hypothesis.given(operation.as_strategy())
    def gather(case: Any) -> None:
        found.append(case)

    # Files are no text that a generator thinks of; they have trials of their own.
    with suppress(Unsatisfiable, SerializationNotPossible):
        gather()
    return found


def _check(case: Any, answer: Any, who: str) -> None:
    from tests.torture.promises import Broken

    try:
        case.validate_response(answer, checks=list(CHECKS))
    except (Failure, FailureGroup) as error:
        raise Broken(f"as {who}: {error}"[:3000]) from error
