"""One entry travels the whole way through the client library, against the running museum."""

from __future__ import annotations

import asyncio
import io
from datetime import datetime, timedelta

import httpx
import pytest
from PIL import Image

from hawthorn.client import AsyncClient, Refusal
from tests.conftest import Running, eventually


def png(colour: str = "teal") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), colour).save(out, "PNG")
    return out.getvalue()


def test_an_entry_is_drafted_reviewed_planned_translated_and_read(running: Running) -> None:
    wim, oda, ida = (running.as_(p) for p in ("wim", "oda", "ida"))
    file = wim.upload("coat.png", png())
    picture = wim.start(
        "picture", {"title": "A coat", "alt": "A yellow coat on a peg.", "file": file.model_dump()}
    )
    vane = running.id("Edmund Vane")

    entry = wim.start("label", {"title": "A keeper's coat"})
    assert entry.fields["slug"] == "a-keepers-coat"
    assert [m.field for m in entry.missing] == ["body", "number"]
    patch = {
        "body": "<p>Oiled cotton. It kept the <b>rain</b> out.</p>",
        "picture": picture.id,
        "maker": vane,
    }
    entry = wim.save(entry.id, "en", patch, etag=entry.etag, note="The words").entry
    assert [m.label for m in entry.missing] == ["Accession number"]
    with pytest.raises(Refusal, match="“Accession number” is required and empty") as refused:
        wim.submit(entry.id, "en")
    assert refused.value.slug == "gate-unmet"
    entry = wim.save(
        entry.id, "en", {"number": "PH 1850.1", "title": "The keeper's coat"}, etag=entry.etag
    ).entry
    assert entry.fields["slug"] == "the-keepers-coat"
    assert entry.missing == []

    wim.submit(entry.id, "en", "Please check the date.")
    waiting = next(line for line in oda.my_work().waiting if line.id == entry.id)
    assert (waiting.kind, waiting.by, waiting.note) == ("review", "Wim Aster", "Please check the date.")
    compared = oda.compare(entry.id, "en", before="release", after="review")
    assert {f.field for f in compared.fields} >= {"title", "body", "picture", "number"}
    oda.send_back(entry.id, "en", "It has no date.")
    back = next(line for line in wim.my_work().waiting if line.id == entry.id)
    assert (back.kind, back.by, back.note) == ("sent back", "Oda Brandt", "It has no date.")
    eventually(lambda: running.mails("Sent back: The keeper's coat"))
    entry = wim.entry(entry.id, "en")
    body = "<p>Oiled cotton, 1850. It kept the <b>rain</b> out.</p>"
    entry = wim.save(entry.id, "en", {"body": body}, etag=entry.etag).entry
    wim.submit(entry.id, "en", "Now with the year.")
    number = wim.entry(entry.id, "en").revision.number  # type: ignore[union-attr]
    with pytest.raises(Refusal, match=f"Revision {number} is in review"):
        oda.sign_off(entry.id, "en", number - 1)
    assert oda.sign_off(entry.id, "en", number).sign_offs[0].covers_head

    move = {"id": entry.id, "locale": "en"}
    found = ida.check_dispatch([move])
    assert found.blocked
    assert [n.title for n in found.needs] == ["A coat"]
    assert not ida.check_dispatch([move], with_needs=True).blocked
    soon = running.soon()
    planned = ida.dispatch([move], when={"instant": soon.isoformat()}, with_needs=True, name="Coats")
    assert planned.state == "planned"
    path = "/en/the-keepers-coat"
    with pytest.raises(Refusal) as absent:
        ida.read_page(path)
    assert absent.value.slug == "not-found"
    assert ida.read(entry.id, at=(soon + timedelta(minutes=1)).isoformat()).title == "The keeper's coat"
    running.pass_by(soon)
    eventually(lambda: ida.dispatch_shown(planned.id).state == "gone")
    read = ida.read_page(path)
    assert datetime.fromisoformat(read.since) == soon
    assert read.fields["body"] == body.replace("b>", "strong>")
    assert read.references[picture.id].file["alt"] == "A yellow coat on a peg."  # type: ignore[index]
    page = httpx.get(running.demo.ports.url("site") + path)
    assert page.status_code == 200
    assert "The keeper&#39;s coat" in page.text
    shown = read.references[picture.id].file
    assert shown is not None
    assert httpx.get(running.demo.ports.url("site") + shown["href"]).content == png()

    made = running.as_("mina").commission(
        [entry.id], ["fr", "ja"], bureau="Saltmarsh Translations", due="2099-01-01"
    )
    by_locale = {job.locale: job.id for job in made.jobs}
    for job in by_locale.values():
        eventually(lambda job=job: running.as_("mina").job(job).state == "returned")
    assert running.as_("luc").accept(by_locale["fr"]).left == 0
    with pytest.raises(Refusal, match="may not accept translations"):
        running.as_("luc").accept(by_locale["ja"])
    running.as_("aiko").accept(by_locale["ja"])
    released = running.as_("jonas").dispatch([{"id": entry.id, "locale": x} for x in ("fr", "ja")])
    assert released.state == "gone"
    french = running.as_("jonas").read(entry.id, locale="fr")
    assert french.locale == "fr"
    assert "<strong>" in french.fields["body"]
    assert {x.locale for x in french.locales} == {"en", "fr", "ja"}

    ida.dispatch([{"id": entry.id, "locale": "en", "verb": "withdraw"}])
    with pytest.raises(Refusal):
        ida.read_page(path)
    kinds = [e.kind for e in ida.history(entry.id, "en").events]
    assert set(kinds) >= {
        "entry.started",
        "entry.saved",
        "review.submitted",
        "review.sent-back",
        "review.signed",
        "dispatch.planned",
        "dispatch.gone",
        "commission.made",
        "job.returned",
        "job.accepted",
    }


def test_two_people_saving_merge_or_are_asked_and_nothing_is_lost(running: Running) -> None:
    wim, nell = running.as_("wim"), running.as_("nell")
    seen = running.notice("Harbour swim")
    nell.save(seen.id, "en", {"until": "2030-01-01"}, etag=seen.etag)
    merged = wim.save(seen.id, "en", {"title": "The harbour swim"}, etag=seen.etag)
    assert merged.entry.fields["until"] == "2030-01-01"
    assert merged.entry.fields["title"] == "The harbour swim"
    now = merged.entry
    nell.save(seen.id, "en", {"title": "A swim", "kind": "closure"}, etag=now.etag)
    with pytest.raises(Refusal) as clash:
        wim.save(seen.id, "en", {"title": "Our swim", "until": "2031-01-01"}, etag=now.etag)
    (conflict,) = clash.value.conflicts
    assert (conflict.place, conflict.base, conflict.ours, conflict.theirs) == (
        "title",
        "The harbour swim",
        "Our swim",
        "A swim",
    )
    kept = {r.id for r in wim.history(seen.id, "en").revisions if r.origin == "typed"}
    assert clash.value.typed["en"] in kept
    newer = nell.entry(seen.id, "en")
    nell.save(seen.id, "en", {"body": "<p>At noon.</p>"}, etag=newer.etag)
    decide = {"title": {"take": "ours"}}
    with pytest.raises(Refusal) as stale:
        wim.settle(
            seen.id,
            "en",
            typed=clash.value.typed,
            decisions=decide,
            etag=str(clash.value.problem.fact("etag")),
        )
    assert stale.value.slug == "stale"
    settled = wim.settle(
        seen.id, "en", typed=clash.value.typed, decisions=decide, etag=str(stale.value.problem.fact("etag"))
    ).entry
    expected = {"title": "Our swim", "until": "2031-01-01", "kind": "closure", "body": "<p>At noon.</p>"}
    assert {k: settled.fields[k] for k in expected} == expected


def test_a_save_after_sign_off_is_not_covered_and_does_not_go_out(running: Running) -> None:
    entry = running.signed("Tide tables")
    changed = running.as_("wim").save(entry.id, "en", {"title": "Wrong tide tables"}, etag=entry.etag).entry
    assert not changed.sign_offs[0].covers_head
    running.as_("jonas").dispatch([{"id": entry.id, "locale": "en"}])
    assert running.as_("jonas").read(entry.id).title == "Tide tables"
    rail = running.as_("wim").entry(entry.id, "en").rail
    assert [(b.stage, b.state, b.behind) for b in rail] == [
        ("draft", "head", 0),
        ("review", "none", 0),
        ("release", "older", 1),
    ]


def test_nobody_signs_off_their_own_text(running: Running) -> None:
    entry = running.notice("Own words", by="ida")
    running.as_("ida").submit(entry.id, "en")
    with pytest.raises(Refusal, match="asks for somebody else's sign-off"):
        running.as_("ida").sign_off(entry.id, "en", 1)
    offer = running.as_("ida").entry(entry.id, "en").act("sign")
    assert not offer.allowed
    assert running.as_("tomas").entry(entry.id, "en").act("sign").allowed


def test_a_job_is_carried_by_hand_and_what_moved_meanwhile_is_kept(running: Running) -> None:
    mina, wim, ida = running.as_("mina"), running.as_("wim"), running.as_("ida")
    entry = running.notice("Quay closed", body="<p>The quay is closed. Use the ramp.</p><p>Thank you.</p>")
    job = mina.commission([entry.id], ["fr"]).jobs[0]
    data = mina.export_job(job.id).decode()
    filled = data.replace("</source></segment>", "</source><target>Voilà</target></segment>")
    now = wim.entry(entry.id, "en")
    wim.save(entry.id, "en", {"title": "Quay closed today"}, etag=now.etag)
    french = ida.entry(entry.id, "fr")
    ida.save(entry.id, "fr", {"body": "<p>Merci à vous.</p>"}, etag=french.etag)
    home = mina.import_job(job.id, filled.encode())
    assert (home.drifted, home.applied, home.conflict) == (1, 0, 2)
    shown = mina.job(job.id)
    assert {u.source: u.outcome for u in shown.units_shown}["Quay closed"] == "drifted"
    assert "Merci à vous." in ida.entry(entry.id, "fr").fields["body"]
    again = mina.commission([entry.id], ["fr"]).jobs[0]
    assert again.units == 1


def test_a_unit_edited_while_away_keeps_both_and_asks(running: Running) -> None:
    mina, ida = running.as_("mina"), running.as_("ida")
    entry = running.notice("Café open")
    job = mina.commission([entry.id], ["fr"]).jobs[0]
    french = ida.entry(entry.id, "fr")
    ida.save(entry.id, "fr", {"title": "Le café"}, etag=french.etag)
    data = mina.export_job(job.id).decode()
    filled = data.replace("</source></segment>", "</source><target>Ouvert</target></segment>")
    assert mina.import_job(job.id, filled.encode()).conflict == 1
    with pytest.raises(Refusal, match="edited here while it was away"):
        running.as_("luc").accept(job.id)
    assert ida.entry(entry.id, "fr").fields["title"] == "Le café"
    running.as_("luc").choose(job.id, entry.id, "title", "theirs")
    assert ida.entry(entry.id, "fr").fields["title"] == "Ouvert"
    assert running.as_("luc").accept(job.id).left == 0


@pytest.mark.parametrize(
    ("trouble", "says"),
    [
        ("refuse", "We do not take this kind of text"),
        ("fail", "Our translator fell ill"),
        ("truncate", "not well-formed"),
        ("break tags", "tag missing: 1"),
    ],
)
def test_trouble_at_the_bureau_is_seen_told_and_can_be_tried_again(
    running: Running, trouble: str, says: str
) -> None:
    mina = running.as_("mina")
    entry = running.notice(
        f"Trouble {trouble}", body='<p>Some <a href="https://lamps.example/">bold</a> words.</p>'
    )
    httpx.post(running.demo.ports.url("bureau") + "/trouble", json={"next": trouble}).raise_for_status()
    job = mina.commission([entry.id], ["fr"], bureau="Saltmarsh Translations").jobs[0]
    eventually(lambda: mina.job(job.id).state == "failed")
    assert says in mina.job(job.id).trouble
    assert mina.entry(entry.id, "fr").exists == (trouble == "break tags"), "what fits is taken"
    eventually(lambda: running.mails(f"Failed: Trouble {trouble} (fr)"))
    mina.send_job_again(job.id)
    eventually(lambda: mina.job(job.id).state == "returned")


def test_an_older_revision_comes_back_as_a_new_one(running: Running) -> None:
    wim = running.as_("wim")
    entry = running.notice("Old words")
    entry = wim.save(entry.id, "en", {"title": "New words"}, etag=entry.etag).entry
    back = wim.restore(entry.id, "en", 1).entry
    assert back.fields["title"] == "Old words"
    assert back.revision.number == 3  # type: ignore[union-attr]


def test_the_same_calls_are_awaited_by_the_async_client(running: Running) -> None:
    async def go() -> tuple[str, str]:
        async with AsyncClient(running.url) as hawthorn:
            await hawthorn.log_in("wim", "harbour-light")
            entry = await hawthorn.start("notice", {"title": "Awaited"})
            return entry.title, (await hawthorn.entry(entry.id)).title

    assert asyncio.run(go()) == ("Awaited", "Awaited")


STEPS = {
    "save": (lambda c, e: c.save(e.id, "en", {"title": "x"}, etag=e.etag), ["jonas", "mina", "luc", "priya"]),
    "submit": (lambda c, e: c.submit(e.id, "en"), ["jonas", "mina", "priya"]),
    "sign": (lambda c, e: c.sign_off(e.id, "en", 1), ["wim", "nell", "jonas", "mina"]),
    "send back": (lambda c, e: c.send_back(e.id, "en", "no"), ["wim", "jonas", "mina"]),
    "release": (lambda c, e: c.dispatch([{"id": e.id, "locale": "en"}]), ["wim", "oda", "mina", "priya"]),
    "withdraw": (
        lambda c, e: c.dispatch([{"id": e.id, "locale": "en", "verb": "withdraw"}]),
        ["wim", "oda", "mina"],
    ),
    "commission": (lambda c, e: c.commission([e.id], ["fr"]), ["wim", "oda", "jonas", "luc"]),
    "issue a key": (lambda c, _: c.issue_key("k", "reader"), ["wim", "oda", "jonas", "mina", "luc"]),
    "define a type": (lambda c, _: c.define_type({"name": "x", "fields": []}), ["wim", "oda", "jonas"]),
    "read the log": (lambda c, _: c.events(), ["wim", "oda", "jonas"]),
}


@pytest.mark.parametrize(("step", "handle"), [(s, h) for s, (_, people) in STEPS.items() for h in people])
def test_every_step_is_refused_without_its_grant_with_a_reason(
    running: Running, step: str, handle: str
) -> None:
    entry = running.as_("wim").entry(running.id("The lift is being repaired"), "en")
    with pytest.raises(Refusal) as refused:
        STEPS[step][0](running.as_(handle), entry)
    assert refused.value.slug == "refused"
    assert refused.value.problem.fact("missing")
    assert refused.value.problem.remedy.startswith("Ask ")
