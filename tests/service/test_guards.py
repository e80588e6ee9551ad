"""Rules that are seen only when somebody tries what they keep from happening."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from hawthorn.core.errors import InTheWay, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.core.translation import tags
from hawthorn.core.translation.tags import BrokenTags, Tag
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review, workflows
from hawthorn.operations.release.lines import When
from hawthorn.operations.runtime.act import setup_changed
from hawthorn.operations.translation import bureaus, sending, translation
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import show
from hawthorn.store import definitions
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Any) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
    made.by_scheduler(setup_changed)
    yield made
    made.close()


def test_what_is_gone_gets_no_other_time(house: House) -> None:
    page = house.signed("Fog")
    id = house.plan([page], 60)
    house.later(120)
    assert house.state(id) == "gone"
    when = When(instant=iso(house.clock.at + 600 * SECOND))
    with pytest.raises(InTheWay, match="is gone"):
        house.do("ida", lambda a: dispatches.replan(a, id, when))
    house.later(1200)
    assert len(house.standing(page)) == 2


def with_bureaus(house: House) -> tuple[str, dict[str, int]]:
    """A job at the first of two bureaus, and the actors of both."""
    for name in ("Odd", "Even"):
        details = BureauDetails(name, f"https://{name.lower()}.example", {})
        house.do("ida", lambda a, d=details: bureaus.add(a, d))
    page = house.page("Fog")
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau="Odd")))
    with house.desk.db.read() as conn:
        job = str(conn.execute("SELECT uuid FROM job").fetchone()[0])
        return job, dict(conn.execute("SELECT name, actor FROM bureau").fetchall())


def test_a_bureau_returns_its_own_jobs_and_no_other_bureaus(house: House) -> None:
    uuid, actors = with_bureaus(house)
    job = house.desk.read(house.who("ida"), lambda v: translation.find(v, uuid))
    with house.desk.db.read() as conn:
        odd, even = (permission.identity_of(conn, actors[name]) for name in ("Odd", "Even"))
    with pytest.raises(Refused):
        house.desk.write(even, lambda a: translation.require_carry(a, job))
    house.desk.write(odd, lambda a: translation.require_carry(a, job))


def test_what_a_bureau_says_of_a_cancelled_job_changes_nothing(house: House) -> None:
    job, _ = with_bureaus(house)
    house.do("ida", lambda a: translation.cancel(a, job))
    house.do("ida", lambda a: translation.progress(a, job, state="in work", done=1))
    assert house.desk.read(house.who("ida"), lambda v: translation.find(v, job).state) == "cancelled"


def test_whoever_signed_or_wrote_is_not_asked_to_sign(house: House) -> None:
    gate = {"sign_offs": 2, "checks": ["required"]}
    stages = [{"name": "draft"}, {"name": "review"}, {"name": "release", "gate": gate}]
    flow = {"name": "standard", "label": "Standard", "stages": stages}
    house.do("ida", lambda a: workflows.define(a, flow))

    def asked(page: str) -> list[str]:
        return sorted(house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "en"))["deciders"])

    page = house.page("Fog")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    assert asked(page) == ["Ida", "Oda"]
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    assert asked(page) == ["Ida"]

    other = house.page("Bell")
    base = house.desk.read(house.who("ida"), lambda v: entries.base_now(v, other))
    house.do("ida", lambda a: entries.save(a, other, "en", {"title": "Bells"}, base))
    house.do("wim", lambda a: review.submit(a, other, "en"))
    assert asked(other) == ["Oda"]


@pytest.mark.parametrize(
    ("order", "says"),
    [
        (["1 open", "2 open", "1 close", "2 close"], "out of order"),
        (["1 open", "1 close", "1 open", "1 close", "2 open", "2 close"], "tag 1 twice"),
        (["1 open", "1 close", "3 open 1", "3 close"], "tag 1 twice"),
        (["1 open", "2 open", "2 close"], "open"),
        (["2 open", "2 close"], "missing: 1"),
        (["1 empty"], "another kind"),
        (["2 open", "2 close", "1 open", "3 empty br"], "leaves tag 1 open"),
        (["1 open", "1 close", "9 open", "9 close"], "tag 9 that its source does not have"),
        (["1 open", "2 open", "2 close", "1 close"], ""),
        (["2 open", "1 open", "1 close", "2 close"], ""),
        (["1 open", "1 close"], ""),
        (["1 open", "1 close", "2 open", "2 close", "2 open", "2 close"], ""),
        (["1 open", "1 close", "2 open", "2 close", "9 open 2", "9 close"], ""),
        (["1 open", "1 close", "9 open strong", "9 close"], ""),
    ],
)
def test_what_means_something_stands_once_and_formatting_is_the_translators(
    order: list[str], says: str
) -> None:
    behind = {"1": ('<a href="urn:x">', "</a>"), "2": ("<em>", "</em>")}
    parts = [x for one in order for x in (Tag(*one.split()), "words")]  # type: ignore[arg-type]
    if not says:
        assert tags.markup(*(lambda f: (f.markup, f.parts))(tags.fitted(behind, parts))).count("</a>") == 1
        return
    with pytest.raises(BrokenTags, match=says):
        tags.fitted(behind, parts)
