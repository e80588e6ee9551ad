"""The week's report: on the day and at the hour that somebody chose, once, of what they may see, and as a page with its pictures."""

from __future__ import annotations

import base64
import re
import socket
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import timeline
from hawthorn.core.access import Identity
from hawthorn.core.errors import Invalid
from hawthorn.core.timeline import SECOND
from hawthorn.core.weeks import DAYS
from hawthorn.demo.mailbox import Mailbox
from hawthorn.followers import drawn as drawing
from hawthorn.followers.counter import Counter
from hawthorn.followers.mail import Mail
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.release import review
from hawthorn.operations.views import report
from hawthorn.operations.views.report import Drawing
from tests.conftest import free_port
from tests.followers.test_followers import Options
from tests.service.made import House

WEEK = 7 * 86_400 * SECOND
HOUR = 3_600 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


@contextmanager
def caught(options: Options) -> Iterator[Mailbox]:
    box = Mailbox()
    server = box.listener(socket.create_server(("127.0.0.1", options.smtp_port)))
    server.start()
    try:
        yield box
    finally:
        server.stop()


def choose(house: House, handle: str, report: str, hour: int | None = None) -> None:
    house.do(handle, lambda act: notifications.choose(act, {}, hour, report))


def local(house: House, zone: str) -> datetime:
    return timeline.to_datetime(house.clock.at).astimezone(timeline.zone_or_utc(zone))


def sent(house: House, options: Options) -> None:
    """What is due is put, and what was put is sent."""
    mail = Mail(house.desk, options)
    for _ in range(2):
        mail.step("one")


def reports(box: Mailbox) -> list[dict[str, str]]:
    return [mail for mail in box.mails if mail["subject"].startswith("The week of")]


@pytest.fixture
def options(monkeypatch: pytest.MonkeyPatch) -> Options:
    """Where mail goes, without pictures, which take a browser to draw."""
    monkeypatch.setattr("hawthorn.followers.mail.drawn", lambda drawings: {})
    return Options(smtp_port=free_port())


def test_it_comes_once_a_week_on_its_day_at_its_hour_where_its_reader_lives(
    house: House, options: Options
) -> None:
    zone = "Australia/Lord_Howe"
    house.do("ida", lambda act: people.set_profile(act, "Ida", zone))
    choose(house, "ida", "thursday", 7)
    began = house.clock.at
    with caught(options) as box:
        came: list[datetime] = []
        while house.clock.at < began + 5 * WEEK:
            before = len(reports(box))
            # Two who follow at once send it once.
            Mail(house.desk, options).step("one")
            Mail(house.desk, options).step("two")
            Mail(house.desk, options).step("one")
            if len(reports(box)) > before:
                assert len(reports(box)) == before + 1
                came.append(local(house, zone))
            house.clock.at += HOUR
        assert len(came) == 5
        assert {(at.strftime("%A").lower(), at.hour) for at in came} == {("thursday", 7)}
        days = [(b.date() - a.date()).days for a, b in pairwise(came)]
        assert set(days) == {7}
        # It is of the week that was over.
        for mail, at in zip(reports(box), came, strict=True):
            week = datetime.strptime(mail["subject"].removeprefix("The week of Mon "), "%d %b %Y").date()
            assert 7 <= (at.date() - week).days < 14
        choose(house, "ida", "none")
        house.clock.at += 2 * WEEK
        sent(house, options)
        assert len(reports(box)) == 5


def test_a_house_that_was_away_for_weeks_sends_one_and_not_all_of_them(
    house: House, options: Options
) -> None:
    choose(house, "ida", "monday")
    house.clock.at += 6 * WEEK
    with caught(options) as box:
        for _ in range(4):
            Mail(house.desk, options).step("one")
            house.clock.at += 60 * SECOND
        assert len(reports(box)) == 1


def test_one_that_cannot_be_written_keeps_nobody_else_from_theirs(
    house: House, options: Options, monkeypatch: pytest.MonkeyPatch
) -> None:
    choose(house, "ida", "monday")
    choose(house, "oda", "monday")
    written = report.written

    def wrong(view: Any, public: str) -> Any:
        if view.identity.handle == "ida":
            raise KeyError("nothing")
        return written(view, public)

    monkeypatch.setattr(report, "written", wrong)
    house.clock.at += 2 * WEEK
    with caught(options) as box:
        sent(house, options)
        assert [mail["to"] for mail in reports(box)] == ["oda@x.example"]
        monkeypatch.setattr(report, "written", written)
        sent(house, options)
        assert {mail["to"] for mail in reports(box)} == {"ida@x.example", "oda@x.example"}


def test_it_says_what_the_figures_say_of_what_its_reader_may_see(house: House) -> None:
    titles = ["Lamp <b>& rope", "Anchor"]
    ids = [house.page(title) for title in titles]
    for one in ids:
        house.do("wim", lambda a, one=one: review.submit(a, one, "en"))  # type: ignore[misc]
    house.do("oda", lambda a: review.send_back(a, ids[0], "en", "Too <long>."))
    house.clock.at += WEEK
    Counter(house.desk, Options()).step("one")
    options = Options(smtp_port=free_port())
    choose(house, "ida", "monday")
    house.clock.at += WEEK
    found = house.desk.read(house.who("ida"), lambda view: report.written(view, options.public))
    assert "Reviews decided" in found.text
    house.clock.at -= WEEK
    found = house.desk.read(house.who("ida"), lambda view: report.written(view, options.public))
    assert "Too <long>." in found.text
    assert "Too &lt;long&gt;." in found.page
    assert "<b>& rope" not in found.page
    assert f'href="{options.public}/entries/{ids[1]}/en"' in found.page
    assert re.search(r"Reviews decided +1", found.text)
    assert re.search(r"Of these, sent back +1", found.text)
    nobody = Identity(999, "nobody", "Nobody", "", ())
    empty = house.desk.read(nobody, lambda view: report.written(view, options.public))
    assert "Anchor" not in empty.text
    assert "Too" not in empty.text
    house.clock.at += WEEK
    with caught(options) as box:
        sent(house, options)
        (mail,) = reports(box)
        assert mail["to"] == "ida@x.example"
        assert "What waits longest" in mail["body"]
        # Each picture that the page names came with it, with what it shows in words.
        assert 'src="cid:' not in mail["page"]
        pictures = re.findall(r'<img src="data:image/png;base64,([^"]+)" alt="([^"]+)"', mail["page"])
        assert pictures
        assert all("week by week" in words for _, words in pictures)


def test_what_cannot_be_drawn_is_left_out_and_the_rest_is_sent(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*given: object, **more: object) -> object:
        raise subprocess.CalledProcessError(1, "draw", stderr=b"no fonts")

    monkeypatch.setattr(drawing.subprocess, "run", fails)
    options = Options(smtp_port=free_port())
    choose(house, "ida", "monday")
    house.clock.at += WEEK
    with caught(options) as box:
        sent(house, options)
        (mail,) = reports(box)
        assert "<img" not in mail["page"]
        assert "What went out" in mail["page"]


def test_drawings_are_whole_whatever_there_is_to_draw() -> None:
    across = [f"{n} Sep" for n in range(8)]
    some = Drawing(
        "some", "Some", across, {"a": [1.0, None, *[float(n) for n in range(6)]]}, "days", "Says.", True
    )
    none = Drawing("none", "None", across, {"b": [None] * 8}, "days", "Nothing.")
    odd = Drawing(
        "odd", "$x_{1}$ 100 % <b>", ["$"] * 3, {"_hidden": [1e9, 0.0, 1.0], "日本": [0.0] * 3}, "%", "$", True
    )
    found = drawing.drawn([some, none, odd])
    assert set(found) == {"some", "none", "odd"}
    for one in (some, none, odd):
        assert base64.b64decode(found[one.name]).startswith(b"\x89PNG")
    assert drawing.drawn([]) == {}


def test_only_days_can_be_chosen_and_what_is_not_given_stays(house: House) -> None:
    with pytest.raises(Invalid):
        choose(house, "ida", "someday")
    choose(house, "ida", "sunday")
    house.do("ida", lambda act: notifications.choose(act, {"review": "digest"}, None))
    chosen = house.desk.read(house.who("ida"), notifications.chosen)
    assert chosen.report == "sunday"
    assert chosen.report in DAYS
    assert house.desk.read(house.who("wim"), notifications.chosen).report == "none"
    with house.desk.db.read() as conn:
        (one,) = notifications.reports(conn)
    at = timeline.to_datetime(one[1]).astimezone(UTC)
    assert (at.weekday(), at.hour) == (6, notifications.HOUR)
    # To choose the same again does not put it off.
    house.clock.at += 6 * 86_400 * SECOND
    choose(house, "ida", "sunday")
    with house.desk.db.read() as conn:
        assert notifications.reports(conn) == [one]
