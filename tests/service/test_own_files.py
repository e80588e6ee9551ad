"""Files that differ by language: they go along with a job, are fetched by its link alone, and come back for the translation."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core import contenttypes, formats
from hawthorn.core.errors import InTheWay, Invalid, NotFound, Refused
from hawthorn.demo.wordwise import translate_file
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.media import files
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.translation import (
    accepting,
    exporting,
    importing,
    own_files,
    sending,
    standing_commissions,
    translation,
)
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.own_files import OwnFile
from hawthorn.store import entries as entry_store
from hawthorn.store import job_lists
from tests.service.made import House, serving

LEAFLET = b"%PDF-1.4\n1 0 obj<</Type/Catalog>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"
FRENCH = LEAFLET + b"% fr\n"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    yield made
    made.close()


def kept(house: House, name: str, data: bytes) -> str:
    return str(house.do("wim", lambda a: files.keep(a, files.inspect(name, data)))["sha256"])


def leaflet(house: House) -> str:
    value = {"sha256": kept(house, "leaflet.pdf", LEAFLET)}
    return house.do(
        "wim", lambda a: entries.start(a, "document", "en", {"title": "A leaflet", "file": value})
    )


def sent(house: House, entry: str) -> str:
    house.do("ida", lambda a: sending.commission(a, Order((entry,), ("fr",))))
    with house.desk.db.read() as conn:
        return job_lists.newest(conn, 1)[0].uuid


def of_job(house: House, job: str, who: str = "ida") -> list[OwnFile]:
    return house.desk.read(house.who(who), lambda v: own_files.of_job(v, translation.find(v, job)))


def give(house: House, job: str, entry: str, sha256: str, who: str = "ida") -> OwnFile:
    return house.do(who, lambda a: own_files.give(a, job, entry, "file", sha256))


def stands(house: House, entry: str, locale: str = "fr") -> dict[str, Any]:
    def look(view: Any) -> dict[str, Any]:
        row = entry_store.entry(view.conn, entry)
        assert row is not None
        return dict(drafted(view, row.id, locale).fields)

    return house.desk.read(house.who("ida"), look)


def read_only(house: House, *, yes: bool) -> None:
    def define(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["document"])
        changing.define_type(act, {**now, "read_only": yes})

    house.do("ida", define)


def written(house: House, job: str, public: str = "", name: str = "xliff-2.1") -> bytes:
    look = house.desk.read
    return look(house.who("ida"), lambda v: exporting.export(v, job, formats.of(name), public))[1]


def test_a_file_comes_back_whenever_it_is_ready_and_the_words_leave_it_alone(house: House) -> None:
    entry = leaflet(house)
    job = sent(house, entry)
    [one] = of_job(house, job)
    assert (one.state, one.source["name"], one.target, one.may_give) == ("open", "leaflet.pdf", None, True)
    # Before there is a translation at all.
    given = give(house, job, entry, kept(house, "leaflet-fr.pdf", FRENCH))
    assert (given.state, given.by, given.target and given.target["name"]) == (
        "given",
        "Ida",
        "leaflet-fr.pdf",
    )
    house.do("ida", lambda a: importing.import_file(a, job, translate_file(written(house, job))))
    assert stands(house, entry)["file"]["name"] == "leaflet-fr.pdf"
    assert stands(house, entry)["title"] != "A leaflet"
    assert stands(house, entry, "en")["file"]["name"] == "leaflet.pdf"
    # After it too, unless nobody changes any more what there is.
    read_only(house, yes=True)
    assert not of_job(house, job)[0].may_give
    with pytest.raises(Refused, match="read-only"):
        give(house, job, entry, "")
    read_only(house, yes=False)
    again = kept(house, "better-fr.pdf", FRENCH + b"% better\n")
    give(house, job, entry, again)
    assert stands(house, entry)["file"]["sha256"] == again
    assert house.do("ida", lambda a: accepting.accept(a, job)).notes == []
    with pytest.raises(InTheWay):
        give(house, job, entry, "")
    assert not of_job(house, job)[0].may_give


def test_what_only_went_along_is_open_until_somebody_says_that_it_will_do(house: House) -> None:
    entry = leaflet(house)
    job = sent(house, entry)
    house.do("ida", lambda a: importing.import_file(a, job, translate_file(written(house, job))))
    [one] = of_job(house, job)
    assert one.target is not None
    assert (one.state, one.target["name"]) == ("open", "leaflet.pdf")
    assert give(house, job, entry, "").state == "given"
    # The source's file is another now: what was said of the one before holds no more.
    value = {"sha256": kept(house, "leaflet-2.pdf", LEAFLET + b"% 2\n")}
    house.do("wim", lambda a: entries.save(a, entry, "en", {"file": value}, entries.base_now(a, entry, "en")))
    assert of_job(house, job)[0].state == "moved"
    assert give(house, job, entry, "").state == "given"
    assert stands(house, entry)["file"]["name"] == "leaflet-2.pdf"
    # Somebody puts another into the translation by hand.
    own = {"sha256": kept(house, "by-hand.pdf", FRENCH)}
    house.do("ida", lambda a: entries.save(a, entry, "fr", {"file": own}, entries.base_now(a, entry, "fr")))
    assert of_job(house, job)[0].state == "open"
    [told] = house.do("ida", lambda a: accepting.accept(a, job)).notes
    assert "“A leaflet”" in told


def test_whoever_may_not_translate_gives_no_file_and_no_other_field_takes_one(house: House) -> None:
    entry = leaflet(house)
    job = sent(house, entry)
    before = stands(house, entry)
    sha256 = kept(house, "leaflet-fr.pdf", FRENCH)
    role = [{"name": "reader"}, {"name": "writer", "locales": ["de"]}]
    house.by_scheduler(lambda a: people.add_person(a, "uta", "Uta", "uta@x.example", "long enough", role))
    with pytest.raises(Refused):
        give(house, job, entry, sha256, "uta")
    for where, field in ((entry, "title"), (entry, "nothing"), (house.page("Another"), "file")):
        with pytest.raises(NotFound):
            house.do("ida", lambda a, w=where, f=field: own_files.give(a, job, w, f, sha256))
    with pytest.raises(Invalid):
        give(house, job, entry, "0" * 64)
    assert stands(house, entry) == before
    house.do("ida", lambda a: translation.cancel(a, job))
    with pytest.raises(InTheWay):
        give(house, job, entry, sha256)


@pytest.mark.parametrize("name", ["xliff-2.1", "xliff-1.2"])
def test_the_file_says_where_it_is_fetched_as_long_as_the_job_lasts(house: House, name: str) -> None:
    entry = leaflet(house)
    other = kept(house, "secret.pdf", LEAFLET + b"% secret\n")
    house.do("wim", lambda a: entries.start(a, "document", "en", {"title": "B", "file": {"sha256": other}}))
    job = sent(house, entry)
    with serving(house) as (_, url):
        text = written(house, job, url, name).decode()
        assert "File: leaflet.pdf" in text
        address = text[text.index(f"{url}/read/files/") :].split("<")[0]
        with httpx.Client() as http:
            assert http.get(address).content == LEAFLET
            sha256 = address.split("/files/")[1].split("?")[0]
            assert http.get(address.split("?")[0]).status_code == 404
            assert http.get(address.replace(sha256, other)).status_code == 404
            house.do("ida", lambda a: translation.cancel(a, job))
            assert http.get(address).status_code in (403, 404)
    assert url not in written(house, job, url, name).decode()


def test_a_leaflet_that_a_page_refers_to_goes_along_by_itself(house: House) -> None:
    entry = leaflet(house)
    page = house.page("The tower", body=f'<p>See <a href="urn:uuid:{entry}">the leaflet</a>.</p>')
    wanted = {"name": "F", "targets": [{"locale": "fr"}], "sends": "draft", "pause": 1, "linked": True}
    uuid = house.do("ida", lambda a: standing_commissions.add(a, wanted))
    house.do(
        "wim",
        lambda a: entries.save(a, page, "en", {"title": "A tower"}, entries.base_now(a, page, "en")),
    )
    house.do("ida", lambda a: standing_commissions.send_now(a, uuid))
    with house.desk.db.read() as conn:
        job = job_lists.newest(conn, 1)[0].uuid
    assert [one.entry for one in of_job(house, job)] == [entry]
