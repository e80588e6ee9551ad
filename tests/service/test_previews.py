"""Previews: what is typed reaches one person's page alone; a link shows what it names and nothing else."""

from __future__ import annotations

import html
import json
import re
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, ClassVar

import httpx
import pytest

from hawthorn import wire
from hawthorn.client import Refusal
from tests.conftest import Running


def word_of(address: str) -> str:
    return address.rsplit("preview=", 1)[1]


def link(running: Running, entry: str, by: str = "nell", **more: Any) -> str:
    made = running.as_(by).give_link(entry, **more)
    return word_of(next(a.url for a in made.addresses if a.site == "preview"))


def test_what_is_typed_is_seen_in_ones_own_preview_and_nowhere_else(running: Running) -> None:
    nell, wim = running.as_("nell"), running.as_("wim")
    entry = running.out("Typed notice")
    mine, theirs = nell.open_preview(), wim.open_preview()
    problems = nell.type_preview(
        mine.id, entry.id, "en", {"title": "Typed just now", "slug": "no spaces", "tide": 1}
    ).problems
    assert {p.field for p in problems} == {"slug", "tide"}
    page = running.demo.ports.url("preview") + (entry.path or "")
    assert "Typed just now" in httpx.get(page, params={"preview": mine.token}).text
    for seen in (
        httpx.get(page, params={"preview": theirs.token}).text,
        httpx.get(page).text,
        httpx.get(running.demo.ports.url("site") + (entry.path or "")).text,
        wim.entry(entry.id, "en").title,
        nell.entry(entry.id, "en").title,
    ):
        assert "Typed just now" not in seen
    with pytest.raises(Refusal, match="preview is over"):
        wim.type_preview(mine.id, entry.id, "en", {"title": "Not mine"})
    nell.type_preview(mine.id, entry.id, "en", {})
    assert "Typed just now" not in httpx.get(page, params={"preview": mine.token}).text
    nell.close_preview(mine.id)
    assert (
        httpx.get(running.url + f"/read/entries/{entry.id}", params={"preview": mine.token}).status_code
        == 403
    )


def test_ones_previews_end_with_the_log_out(running: Running) -> None:
    from hawthorn.client import Client
    from hawthorn.demo.museum import PASSWORD

    with Client(running.url) as priya:
        priya.log_in("priya", PASSWORD)
        pane = priya.open_preview()
        url = f"{running.url}/read/entries/{running.id('Visit')}"
        assert httpx.get(url, params={"preview": pane.token}).status_code == 200
        priya.log_out()
    assert httpx.get(url, params={"preview": pane.token}).status_code == 403


def test_a_draft_without_anything_in_it_can_be_previewed(running: Running) -> None:
    wim = running.as_("wim")
    entry = wim.start("label", {})
    pane = wim.open_preview()
    seen = next(a for a in wim.page_addresses(entry.id, "en", preview=pane.id).items if a.site == "preview")
    assert seen.missing == []
    answer = httpx.get(seen.url)
    assert answer.status_code == 200
    assert "untitled" in answer.text
    live = next(a for a in wim.page_addresses(entry.id, "en").items if a.site == "live")
    assert live.missing == ["path"]


def everything(running: Running) -> list[str]:
    ida = running.as_("ida")
    ids: list[str] = []
    cursor = ""
    while True:
        found = ida.entries(limit=200, cursor=cursor)
        ids += [line.id for line in found.items]
        cursor = found.next
        if not cursor:
            return ids


def secrets_of(running: Running, secret: str) -> tuple[wire.views.Entry, wire.views.Entry, wire.views.Entry]:
    """A drafted label that shows a drafted picture and leads to a drafted person, each with a secret in it."""
    nell = running.as_("nell")
    person = nell.start("person", {"title": f"{secret} person", "life": f"<p>{secret} life</p>"})
    form = {"file": ("p.png", drawn(secret))}
    value = nell._http.post("/api/files", files=form).json()
    picture = nell.start("picture", {"title": f"{secret} picture", "alt": f"{secret} alt", "file": value})
    label = nell.start(
        "label",
        {
            "title": f"{secret} label",
            "body": f'<p>By <a href="urn:uuid:{person.id}">somebody</a>.</p>',
            "picture": picture.id,
            "maker": person.id,
            "number": "PH 1",
        },
    )
    return label, picture, person


def drawn(seed: str) -> bytes:
    import io

    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (40, 30), (sum(seed.encode()) % 256, len(seed) * 7 % 256, 90)).save(out, "PNG")
    return out.getvalue()


def test_a_link_shows_what_it_names_and_nothing_else(running: Running) -> None:
    label, picture, person = secrets_of(running, "Whispered")
    word = link(running, label.id, name="For the printer")
    preview = {"preview": word}
    with httpx.Client(base_url=running.url) as http:
        seen = http.get(f"/read/entries/{label.id}", params=preview)
        assert seen.status_code == 200
        body = seen.json()
        assert body["title"] == "Whispered label"
        assert body["references"][picture.id]["file"]["alt"] == "Whispered alt"
        assert person.id not in body["references"], "what it only leads to is not out"
        assert "Whispered person" not in seen.text
        file = body["references"][picture.id]["file"]
        assert http.get(file["href"], params=preview).status_code == 200
        assert http.get(file["renditions"]["card"]["webp"], params=preview).status_code == 200
        assert http.get(file["href"]).status_code == 404
        # Everything else is what it is for everybody, at whatever stage or instant is asked for.
        for id in everything(running):
            if id == label.id:
                continue
            for more in ({}, {"stage": "draft"}, {"at": "2099-01-01T00:00:00Z"}):
                theirs = http.get(f"/read/entries/{id}", params={**preview, **more, "locale": "en"})
                anyone = http.get(f"/read/entries/{id}", params={"locale": "en"})
                assert theirs.status_code == anyone.status_code, id
                if anyone.status_code == 200:
                    assert theirs.json() == anyone.json(), id
        for path in ("/read/entries?locale=en&limit=100", "/read/outline?locale=en&depth=3"):
            assert (
                http.get(path, params=dict(httpx.QueryParams(path.split("?")[1])) | preview).json()
                == http.get(path).json()
            )
        for path in ("en/whispered-person", "en/labels-that-are-not", f"en/~{person.id}"):
            assert http.get(f"/read/pages/{path}", params=preview).status_code == 404
        for sha in all_files(running):
            if sha != value_of(file):
                theirs = http.get(f"/read/files/{sha}", params=preview).status_code
                assert theirs == http.get(f"/read/files/{sha}").status_code
        # It is no key: the API and other people's previews stay shut.
        bearer = {"Authorization": f"Bearer {word}"}
        for path in ("/api/me", "/api/entries", f"/api/entries/{label.id}", "/api/preview-links", "/events"):
            assert http.get(path, headers=bearer).status_code == 401
            assert http.get(path, params=preview).status_code in (401, 422)
        for wrong in (word[:-1] + ("A" if word[-1] != "A" else "B"), word.split(".")[0], "", "x" * 5000, "é"):
            answer = http.get(f"/read/entries/{label.id}", params={"preview": wrong})
            assert answer.status_code in (403, 404)


def value_of(file: dict[str, Any]) -> str:
    return str(file["href"]).rsplit("/", 1)[-1]


def all_files(running: Running) -> list[str]:
    return [line.file.sha256 for line in running.as_("ida").library(limit=200).items if line.file]


def test_a_link_ends_when_it_is_taken_back_or_its_giver_may_no_longer_see_it(running: Running) -> None:
    label, _, _ = secrets_of(running, "Ended")
    nell = running.as_("nell")
    made = nell.give_link(label.id, lasts=60)
    word = word_of(next(a.url for a in made.addresses if a.site == "preview"))
    with httpx.Client(base_url=running.url) as http:
        url, asked = f"/read/entries/{label.id}", {"preview": word}
        assert http.get(url, params=asked, headers={"User-Agent": "Printer/1"}).status_code == 200
        http.get(url, params=asked, headers={"User-Agent": "Printer/1"})
        uses = next(one for one in nell.links(entry=label.id).items if one.id == made.id).uses
        assert [(u.what, u.agent) for u in uses] == [(f"/entries/{label.id}", "Printer/1")]
        assert nell.events(entry=label.id, kind="preview.").items[0].kind == "preview.used"
        used = nell.events(entry=label.id, kind="preview.used").items[0]
        assert (used.by, used.by_kind) == ("Somebody with a preview link", "program")
        assert used.what["given_by"] == "Nell Farrow", "who gave it did not open it"
        other = next(one for one in running.as_("mina").links(entry=label.id).items if one.id == made.id)
        assert other.addresses == [], "who may not give one is not shown its address"
        nell.take_link_back(made.id)
        answer = http.get(url, params=asked)
        assert answer.status_code == 403
        assert "was taken back" in answer.json()["detail"]
        assert "Nell" in answer.json()["remedy"]
    with pytest.raises(Refusal, match="may not write"):
        running.as_("mina").give_link(label.id)
    with pytest.raises(Refusal, match="does not head a section"):
        nell.give_link(label.id, scope="section")


def test_a_section_and_a_strand_are_seen_as_they_are_drafted(running: Running) -> None:
    nell, oda = running.as_("nell"), running.as_("oda")
    gallery = oda.start("gallery", {"title": "Nets and floats", "body": "<p>Drafted nets.</p>"})
    inside = nell.start(
        "label", {"title": "A float", "number": "PH 2", "body": "<p>Glass.</p>", "below": gallery.id}
    )
    outside = nell.start("label", {"title": "A cork", "number": "PH 3", "body": "<p>Cork.</p>"})
    word = link(running, gallery.id, by="oda", scope="section")
    nell.fork_strand(inside.id, "en", "Blue glass")
    strand = nell.entry(inside.id, "en", strand="Blue glass")
    nell.save(inside.id, "en", {"body": "<p>Blue glass.</p>"}, etag=strand.etag, strand="Blue glass")
    beside = link(running, inside.id, scope="strand", strand="Blue glass")
    site = running.demo.ports.url("preview")
    with httpx.Client(base_url=running.url) as http:
        status = {
            e.title: http.get(f"/read/entries/{e.id}", params={"preview": word}).status_code
            for e in (gallery, inside, outside)
        }
        assert status == {"Nets and floats": 200, "A float": 200, "A cork": 404}
        assert "Glass." in http.get(f"/read/entries/{inside.id}", params={"preview": word}).text
        assert "Blue glass." in http.get(f"/read/entries/{inside.id}", params={"preview": beside}).text
    page = httpx.get(f"{site}/en/nets-and-floats/a-float", params={"preview": word})
    assert page.status_code == 200
    assert "what is at “draft”" in page.text


def test_a_link_to_what_is_planned_shows_what_goes_out_together_and_nothing_else(running: Running) -> None:
    page, beside, apart = (running.out(f"{name} as it is") for name in ("Page", "Beside", "Apart"))
    for entry, name in ((page, "Page"), (beside, "Beside"), (apart, "Apart")):
        now = running.as_("wim").entry(entry.id, "en")
        running.as_("wim").save(entry.id, "en", {"title": f"{name} as it will be"}, etag=now.etag)
        running.as_("wim").submit(entry.id, "en", "")
        running.as_("tomas").sign_off(entry.id, "en", 2)
    ida, when = running.as_("ida"), {"wall": "2098-01-01T09:00", "zone": "UTC"}
    moves = [{"id": one.id, "locale": "en"} for one in (page, beside)]
    made = [ida.dispatch(moves, when=when), ida.dispatch([{"id": apart.id, "locale": "en"}], when=when)]
    later = link(running, page.id, by="ida", stage="release", at="2098-01-01T10:00:00Z")
    before = link(running, page.id, by="ida", stage="release", at="2098-01-01T08:00:00Z")
    with httpx.Client(base_url=running.url) as http:

        def titles(word: str) -> list[str]:
            params = {"preview": word, "locale": "en"}
            found = [http.get(f"/read/entries/{e.id}", params=params) for e in (page, beside, apart)]
            return [answer.json()["title"].split(" as ")[1] for answer in found]

        assert titles(later) == ["it will be", "it will be", "it is"]
        assert titles(before) == ["it is"] * 3
        ida.cancel_dispatch(made[0].id)
        assert titles(later) == ["it is"] * 3
    ida.cancel_dispatch(made[1].id)


def test_those_who_hold_a_link_see_changes_live_and_by_asking(running: Running) -> None:
    nell = running.as_("nell")
    entry = running.notice("Watched notice", by="nell")
    other = running.notice("Unwatched notice", by="nell")
    word = link(running, entry.id)
    before = nell.last_change(word)
    heard: list[str] = []
    ready = threading.Event()

    def listen() -> None:
        with httpx.stream(
            "GET", f"{running.url}/read/changes", params={"preview": word}, timeout=20
        ) as stream:
            assert stream.headers["access-control-allow-origin"] == "*"
            for line in stream.iter_lines():
                ready.set()
                if line.startswith("data:"):
                    heard.append(line)
                    return

    listener = threading.Thread(target=listen)
    listener.start()
    assert ready.wait(10)
    nell.save(other.id, "en", {"title": "Unwatched, changed"}, etag=other.etag)
    quiet = nell.last_change(word, before.seq)
    nell.save(entry.id, "en", {"title": "Watched, changed"}, etag=entry.etag)
    listener.join(10)
    assert len(heard) == 1
    assert set(json.loads(heard[0].removeprefix("data:"))) == {"seq"}, (
        "it says that something changed, not what"
    )
    assert not quiet.changed
    assert nell.last_change(word, before.seq).changed
    assert httpx.get(f"{running.url}/read/changes", params={"preview": "x.y"}).status_code == 403


class Odd(BaseHTTPRequestHandler):
    """A site that does what each test wants of it."""

    answer: ClassVar[dict[str, Any]] = {}

    def do_GET(self) -> None:
        self.send_response(self.answer.get("status", 200))
        for name, value in self.answer.get("headers", {}).items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(self.answer.get("text", "<html>").encode())

    def log_message(self, format: str, *args: Any) -> None:
        """Say nothing."""


@pytest.fixture(scope="module")
def odd(running: Running) -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Odd)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    host = f"127.0.0.1:{server.server_address[1]}"
    running.demo.settings.allow_hosts.append(host)
    yield f"http://{host}"
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize(
    ("answer", "code", "says"),
    [
        ({"status": 500}, "answer", "answered 500"),
        ({"status": 302, "headers": {"Location": "/log-in"}}, "answer", "leads on to /log-in"),
        ({"headers": {"X-Frame-Options": "DENY"}}, "framing", "X-Frame-Options: deny"),
        (
            {"headers": {"Content-Security-Policy": "frame-ancestors 'self'"}},
            "framing",
            "frame-ancestors 'self'",
        ),
        ({"text": "<html><p>plain"}, "script", "not on the page"),
        ({"headers": {"Age": "77"}}, "draft", "77 seconds old"),
        ({"headers": {"Cache-Control": "max-age=300"}}, "draft", "kept for 300 seconds"),
        ({"headers": {"Set-Cookie": "draft=1; Path=/; SameSite=Lax"}}, "cookie", "cookie “draft”"),
    ],
)
def test_an_address_is_tried_and_what_is_wrong_is_said_with_how_to_mend_it(
    running: Running, odd: str, answer: dict[str, Any], code: Any, says: str
) -> None:
    Odd.answer = answer
    site = {"name": "trial", "stage": "draft", "addresses": {"*": f"{odd}/{{path}}"}}
    entry = running.id("Winter opening hours")
    found = {f.code: f for f in running.as_("ida").check_site(site, entry=entry).findings}
    assert not found[code].well
    assert says in found[code].what
    assert found[code].remedy


def test_a_site_that_follows_is_found_well_and_one_that_is_not_there_is_not(running: Running) -> None:
    ida = running.as_("ida")
    for site in ida.setup().sites:
        entry = running.id("The harbour lamp") if site.name == "own" else ""
        found = ida.check_site(site.model_dump(), entry=entry).findings
        wrong = [f.code for f in found if not f.well]
        assert wrong == {"live": [], "preview": [], "own": ["answer"]}[site.name], found
    fields = {"name": "x", "addresses": {"label": "http://127.0.0.1:1/{field:summary}"}}
    lacking = ida.check_site(fields, entry=running.id("A chart of the bay")).findings[0]
    assert "nothing for {field:summary}" in lacking.what
    private = ida.check_site({"name": "x", "addresses": {"*": "http://127.0.0.1:1/{path}"}}).findings[0]
    assert "allow_hosts" in private.what + private.remedy


def test_a_job_has_a_link_of_its_own_that_shows_its_pages_until_it_has_ended(running: Running) -> None:
    mina = running.as_("mina")
    first, second = (running.notice(f"Seen by its translator {n}") for n in (1, 2))
    other = running.notice("Seen by nobody")
    job = mina.commission([first.id, second.id], ["fr"]).jobs[0]
    file = mina.export_job(job.id)
    found = [html.unescape(url) for url in re.findall(r'category="context">([^<]+)<', file.decode())]
    assert len(found) == 2, "each entry says where its page is seen"
    for n, url in enumerate(found, 1):
        assert f"Seen by its translator {n}" in httpx.get(url, follow_redirects=True).text
    token = found[0].rsplit("preview=", 1)[1]
    hidden = running.url + f"/read/entries/{other.id}"
    assert httpx.get(hidden, params={"preview": token, "locale": "en"}).status_code == 404
    given = [link for link in mina.links(entry=first.id).items if "translating" in link.name]
    assert [(link.by, link.over) for link in given] == [("Mina Solveig", False)]
    mina.cancel_job(job.id)
    shown = running.url + f"/read/entries/{first.id}"
    assert httpx.get(shown, params={"preview": token, "locale": "en"}).status_code == 403
    mina.reopen_job(job.id)
    assert httpx.get(shown, params={"preview": token, "locale": "en"}).status_code == 200
    ida = running.as_("ida")
    ida.take_link_back(given[0].id)
    assert httpx.get(shown, params={"preview": token, "locale": "en"}).status_code == 403
    assert "context" not in mina.export_job(job.id).decode()
