"""Plain HTTP: problem details, entity tags, reading, sessions, keys, idempotency, the stream, bad input."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import httpx
import pytest
from PIL import Image

from hawthorn.demo import museum as made_up
from hawthorn.service import openapi
from tests.conftest import Running, eventually


def token(http: httpx.Client, handle: str) -> dict[str, str]:
    answer = http.post("/api/session", json={"handle": handle, "password": made_up.PASSWORD})
    http.cookies.clear()
    return {"Authorization": f"Bearer {answer.json()['token']}"}


def problem(answer: httpx.Response, status: int, slug: str) -> dict:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert body["type"] == f"urn:hawthorn:problem:{slug}"
    assert body["status"] == status
    assert body["detail"]
    return body


def test_the_set_up_is_sent_once_and_anew_when_it_changes(running: Running, http: httpx.Client) -> None:
    ida, me = running.as_("ida"), token(http, "ida")
    first = http.get("/api/setup", headers=me)
    assert first.headers["cache-control"] == "private, no-cache"
    same = {**me, "If-None-Match": first.headers["etag"]}
    assert http.get("/api/setup", headers=same).status_code == 304
    bureau = ida.add_bureau("Northwind Words", "http://127.0.0.1:9/jobs", untested=True).bureau
    again = http.get("/api/setup", headers=same)
    assert (again.status_code, "Northwind Words" in again.json()["bureaus"]) == (200, True)
    ida.end_bureau(bureau.id)
    ida.define_crops([c.model_dump() for c in ida.setup().crops])
    assert http.get("/api/setup", headers=same).status_code == 304, "the same words at another version"
    assert http.get("/api/setup", headers={"If-None-Match": first.headers["etag"]}).status_code == 401


def test_a_released_entry_is_read_with_an_entity_tag_and_304(running: Running, http: httpx.Client) -> None:
    entry = running.out("Read me")
    first = http.get(f"/read/entries/{entry.id}?locale=en")
    hot = http.get(f"/read/entries/{entry.id}?locale=en")
    assert first.json() == hot.json()
    assert first.headers["etag"] == hot.headers["etag"]
    assert (
        http.get(
            f"/read/entries/{entry.id}?locale=en", headers={"If-None-Match": hot.headers["etag"]}
        ).status_code
        == 304
    )
    assert (
        http.get("/read/pages/en/read-me", headers={"If-None-Match": hot.headers["etag"]}).status_code == 304
    )
    running.as_("jonas").dispatch([{"id": entry.id, "locale": "en", "verb": "withdraw"}])
    problem(http.get(f"/read/entries/{entry.id}?locale=en"), 404, "not-found")


def test_a_kept_body_is_made_anew_when_what_it_refers_to_changes(
    running: Running, http: httpx.Client
) -> None:
    ida = running.as_("ida")
    person = ida.start("person", {"title": "Ada Prow"})
    talk = ida.start(
        "talk", {"title": "On prows", "body": "<p>Words.</p>", "day": "2030-01-01", "speakers": [person.id]}
    )
    ida.submit(talk.id, "en")
    running.as_("tomas").sign_off(talk.id, "en", 1)
    ida.dispatch([{"id": talk.id, "locale": "en"}], with_needs=True)
    url = f"/read/entries/{talk.id}?locale=en"
    before = http.get(url)
    assert before.json()["references"][person.id]["title"] == "Ada Prow"
    now = ida.entry(person.id)
    ida.save(person.id, "en", {"title": "Ada Prow-Keel"}, etag=now.etag)
    ida.dispatch([{"id": person.id, "locale": "en"}])
    after = http.get(url)
    assert after.json()["references"][person.id]["title"] == "Ada Prow-Keel"
    assert after.headers["etag"] != before.headers["etag"]
    assert http.get(f"/read/entries/{talk.id}?locale=fr").json()["locale"] == "en"


def test_an_old_address_leads_to_the_new_one_and_a_taken_one_is_refused(
    running: Running, http: httpx.Client
) -> None:
    ida = running.as_("ida")
    gallery = ida.start("gallery", {"title": "Old room"})
    ida.dispatch([{"id": gallery.id, "locale": "en"}])
    now = ida.entry(gallery.id)
    ida.save(gallery.id, "en", {"title": "New room", "slug": "new-room"}, etag=now.etag)
    ida.dispatch([{"id": gallery.id, "locale": "en"}])
    moved = http.get("/read/pages/en/old-room")
    assert (moved.status_code, moved.headers["location"]) == (301, "/read/pages/en/new-room")
    rival = ida.start("gallery", {"title": "Rival", "slug": "new-room"})
    assert any("same address" in w for w in rival.warnings)
    body = {"moves": [{"id": rival.id, "locale": "en"}]}
    refused = problem(http.post("/api/dispatches", json=body, headers=token(http, "ida")), 409, "gate-unmet")
    assert refused["unmet"][0]["code"] == "address-taken"


def test_the_public_reads_only_what_is_out_and_a_key_only_its_stages(
    running: Running, http: httpx.Client
) -> None:
    entry = running.notice("Only a draft")
    url = f"/read/entries/{entry.id}"
    problem(http.get(url), 404, "not-found")
    problem(http.get(f"{url}?stage=draft"), 403, "refused")
    preview = {"Authorization": f"Bearer {running.demo.keys['preview']}"}
    site = {"Authorization": f"Bearer {running.demo.keys['site']}"}
    assert http.get(f"{url}?stage=draft", headers=preview).json()["title"] == "Only a draft"
    problem(http.get(f"{url}?stage=draft", headers=site), 403, "refused")
    problem(http.get(url, headers={"Authorization": "Bearer wrong"}), 401, "not-logged-in")
    far = (datetime.now(UTC) + timedelta(days=1)).isoformat()
    problem(http.get(url, params={"at": far}), 403, "refused")
    problem(http.get(url, params={"at": "2027-01-01T00:00:00"}, headers=preview), 422, "bad-time")
    assert "no-store" in http.get(f"{url}?stage=draft", headers=preview).headers["cache-control"]


def test_what_stood_earlier_can_still_be_read(running: Running, http: httpx.Client) -> None:
    entry = running.out("Then and now")
    then = http.get(f"/read/entries/{entry.id}").json()["since"]
    running.as_("jonas").dispatch([{"id": entry.id, "locale": "en", "verb": "withdraw"}])
    url = f"/read/entries/{entry.id}"
    assert http.get(url, params={"at": then}, headers=token(http, "ida")).json()["title"] == "Then and now"
    problem(http.get(url, params={"at": then}), 403, "refused")
    site = {"Authorization": f"Bearer {running.demo.keys['site']}"}
    problem(http.get(url, params={"at": then}, headers=site), 403, "refused")
    problem(http.get(f"/read/entries/{entry.id}"), 404, "not-found")


def test_lists_page_by_cursor_and_prefer_the_readers_language(running: Running, http: httpx.Client) -> None:
    first = http.get("/read/entries", params={"type": "notice", "limit": 1}).json()
    second = http.get("/read/entries", params={"type": "notice", "limit": 1, "cursor": first["next"]}).json()
    assert first["items"][0]["id"] != second["items"][0]["id"]
    link = http.get("/read/entries", params={"type": "notice", "limit": 1}).headers["link"]
    assert http.get(link.split(">")[0].lstrip("<")).json() == second
    listed = http.get("/api/entries", params={"type": "label", "limit": 2}, headers=token(http, "ida"))
    follow = http.get(listed.headers["link"].split(">")[0].lstrip("<"), headers=token(http, "ida")).json()
    assert {i["type"] for i in follow["items"]} == {"label"}
    assert not {i["id"] for i in follow["items"]} & {i["id"] for i in listed.json()["items"]}
    german = http.get(
        "/read/entries", params={"limit": 50}, headers={"Accept-Language": "de-AT, en;q=0.5"}
    ).json()
    assert "Öffnungszeiten im Winter" in [i["title"] for i in german["items"]]
    problem(http.get("/read/entries", params={"cursor": "x"}), 422, "invalid")


def test_sessions_are_guarded(running: Running, http: httpx.Client) -> None:
    problem(http.post("/api/session", json={"handle": "wim", "password": "wrong"}), 401, "not-logged-in")
    answer = http.post("/api/session", json={"handle": "wim", "password": made_up.PASSWORD})
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "samesite=strict" in cookie.lower()
    assert http.get("/api/me").json()["handle"] == "wim"
    evil = {"Origin": "https://elsewhere.example"}
    problem(http.post("/api/entries", json={"type": "notice"}, headers=evil), 403, "refused")
    assert http.request("DELETE", "/api/session").status_code == 204
    problem(http.get("/api/me"), 401, "not-logged-in")
    for _ in range(8):
        http.post("/api/session", json={"handle": "nobody-here", "password": "x"})
    answer = http.post("/api/session", json={"handle": "nobody-here", "password": "x"})
    problem(answer, 429, "too-many-attempts")
    assert answer.headers["retry-after"] == "1"


def test_a_key_is_shown_once_and_ends_at_once(running: Running, http: httpx.Client) -> None:
    ida = running.as_("ida")
    issued = ida.issue_key("Signage", "reader", stages=["review"])
    key = {"Authorization": f"Bearer {issued.secret}"}
    assert http.get("/api/me", headers=key).json()["kind"] == "program"
    assert issued.secret not in ida.keys().model_dump_json()
    ida.end_key(issued.key.id)
    problem(http.get("/api/me", headers=key), 401, "not-logged-in")


def test_an_assistant_may_draft_but_never_release_or_sign(running: Running, http: httpx.Client) -> None:
    issued = running.as_("ida").issue_key("Helper", "managing-editor", kind="assistant", stages=["draft"])
    key = {"Authorization": f"Bearer {issued.secret}"}
    made = http.post(
        "/api/entries", json={"type": "notice", "fields": {"title": "By an assistant"}}, headers=key
    ).json()
    assert made["revision"]["author_kind"] == "assistant"
    body = {"moves": [{"id": made["id"], "locale": "en"}]}
    refused = problem(http.post("/api/dispatches", json=body, headers=key), 403, "refused")
    assert "An assistant may never" in refused["detail"]


def test_a_repeated_request_with_its_key_is_done_once(running: Running, http: httpx.Client) -> None:
    headers = {**token(http, "wim"), "Idempotency-Key": "same-key"}
    body = {"type": "notice", "fields": {"title": "Once only"}}
    first, second = (http.post("/api/entries", json=body, headers=headers) for _ in range(2))
    assert first.json()["id"] == second.json()["id"]
    other = http.post("/api/entries", json={**body, "fields": {"title": "Another"}}, headers=headers)
    problem(other, 409, "in-the-way")


def test_the_stream_resumes_without_a_gap(running: Running, http: httpx.Client) -> None:
    headers = token(http, "ida")
    last = http.get("/api/events?limit=1", headers=headers).json()["items"][0]["seq"]
    entry = running.notice("Streamed")
    with http.stream("GET", "/events", headers={**headers, "Last-Event-ID": str(last)}, timeout=10) as stream:
        for line in stream.iter_lines():
            if line.startswith("data:") and entry.id in line:
                break
    assert json.loads(line[5:])["kind"] == "entry.started"


def test_a_program_follows_what_it_chose_alone_and_resumes_without_a_gap(
    running: Running, http: httpx.Client
) -> None:
    ida = running.as_("ida")
    key = ida.issue_key("Follows what goes out", "staff", stages=["draft", "review", "release"]).secret
    headers = {"Authorization": f"Bearer {key}"}
    last = http.get("/api/events?limit=1", headers=token(http, "ida")).json()["items"][0]["seq"]
    first, second = running.out("Followed first"), running.out("Followed second")

    def told(after: int, ask: str, count: int) -> list[tuple[int, str, list[str]]]:
        found: list[tuple[int, str, list[str]]] = []
        with http.stream(
            "GET", f"/events?{ask}", headers={**headers, "Last-Event-ID": str(after)}, timeout=10
        ) as stream:
            assert stream.status_code == 200, stream.read()
            id = 0
            for line in stream.iter_lines():
                id = int(line[4:]) if line.startswith("id: ") else id
                if line.startswith("data:"):
                    data = json.loads(line[5:])
                    found.append((id, data["kind"], data["entries"]))
                if len(found) == count:
                    return found
        raise AssertionError("the stream ended")

    gone = told(last, "kinds=dispatch.gone", 2)
    assert [(kind, entries) for _, kind, entries in gone] == [
        ("dispatch.gone", [first.id]),
        ("dispatch.gone", [second.id]),
    ]
    assert told(gone[0][0], "kinds=dispatch.gone&kinds=type.", 1) == [gone[1]]
    reviews = told(last, "kinds=review.&stage=review", 4)
    assert {kind for _, kind, _ in reviews} == {"review.submitted", "review.signed"}
    for ask in ("kinds=nothing", "stage=moon", "section=none"):
        problem(http.get(f"/events?{ask}", headers=headers), 422, "invalid")


LINE = {"name": "title", "kind": "line"}


@pytest.mark.parametrize(
    ("path", "body"),
    [
        *(
            ("/api/types", {"name": "odd", "fields": fields})
            for fields in (
                [1], "x", {"a": 1}, None, [[]], [{**LINE, "limit": "a"}], [{**LINE, "limit": -1}], [{**LINE, "choices": 5}],
                [{**LINE, "types": "abc"}], [{**LINE, "required": "maybe"}], [{**LINE, "label": None}],
                [{"name": "title", "kind": ["line"]}], [{"name": 5, "kind": "line"}], [{"kind": "line"}],
            )
        ),
        *(
            ("/api/types", {"name": "odd", "fields": [LINE], **more})
            for more in ({"title": 5}, {"workflow": []}, {"label": {}}, {"section": "yes"}, {"workflow": "none"})
        ),
        *(
            ("/api/workflows", {"name": "odd", "stages": stages})
            for stages in (
                [1], "x", None, [{"order": 0}], [{"name": "draft", "order": "a"}],
                [{"name": "draft", "order": 0, "gate": 5}, {"name": "release", "order": 9}],
                [{"name": "draft", "order": 0}, {"name": "release", "order": 9, "gate": {"sign_offs": "two"}}],
                [{"name": "draft", "order": 0}, {"name": "release", "order": 9, "gate": {"author": "maybe"}}],
                [{"name": "draft", "order": 0}, {"name": "release", "order": 9, "gate": {"luck": 1}}],
                [{"name": "draft", "order": 9}, {"name": "release", "order": 0}],
            )
        ),
    ],
)  # fmt: skip
def test_a_definition_of_any_shape_is_refused_and_nothing_changes(
    running: Running, http: httpx.Client, path: str, body: dict
) -> None:
    headers = token(http, "ida")
    before = http.get("/api/setup", headers=headers).json()
    found = problem(http.put(path, json=body, headers=headers), 422, "invalid")
    assert found["detail"]
    assert http.get("/api/setup", headers=headers).json() == before


HUGE = 10**30


@pytest.mark.parametrize(
    ("method", "path", "content"),
    [
        ("POST", "{at}/restore", json.dumps({"revision": HUGE})),
        ("POST", "{at}/settle", json.dumps({"typed": {"en": HUGE}, "decisions": {}})),
        ("PATCH", "{at}", '{"fields": {"title": "x"}}'),
        ("GET", f"{{at}}/history?before={HUGE}", None),
        ("GET", f"{{at}}/compare?before={HUGE}", None),
        ("GET", f"/api/events?before={HUGE}", None),
        ("GET", f"/api/entries?cursor={HUGE}.1", None),
        ("GET", f"/read/entries?cursor={HUGE}.1", None),
        (
            "POST",
            "/api/dispatches",
            '{"moves": [{"id": "{id}", "locale": "en", "revision": 1000000000000000000000000}]}',
        ),
        (
            "POST",
            "/api/dispatches",
            '{"moves": [{"id": "{id}", "locale": "en"}], "when": {"instant": "0001-01-01T00:00:00+14:00"}}',
        ),
        (
            "POST",
            "/api/dispatches",
            '{"moves": [{"id": "{id}", "locale": "en"}], "when": {"wall": "9999-12-31T23:59", "zone": "America/Adak"}}',
        ),
        ("POST", "{at}/submit", '{"note": "\\ud800"}'),
    ],
)
def test_numbers_and_texts_beyond_all_bounds_are_refused(
    running: Running, http: httpx.Client, method: str, path: str, content: str | None
) -> None:
    id = running.id("The harbour lamp")
    headers = {**token(http, "ida"), "Content-Type": "application/json", "If-Match": f'"{HUGE}-1"'}
    text = content.replace("{id}", id) if content else None
    answer = http.request(
        method, path.replace("{at}", f"/api/entries/{id}/en"), content=text, headers=headers
    )
    # A revision of such a number is not there; anything else is wrong.
    assert answer.status_code == (404 if "/compare" in path else 422)
    assert answer.headers["content-type"] == "application/problem+json"


def test_half_a_character_in_a_field_is_dropped_like_other_controls(
    running: Running, http: httpx.Client
) -> None:
    headers = {**token(http, "wim"), "Content-Type": "application/json"}
    made = http.post(
        "/api/entries",
        content=b'{"type": "notice", "fields": {"title": "A\\ud800B\\u0000C"}}',
        headers=headers,
    )
    assert made.json()["fields"]["title"] == "ABC"


NOTICE = {"title": "Bad input", "body": "<p>x</p>"}


@pytest.mark.parametrize(
    ("fields", "where", "what"),
    [
        ({"colour": "red"}, "colour", "is not a field of Visitor notice"),
        ({"title": 3}, "title", "takes text, not a number"),
        ({"title": "x" * 91}, "title", "91 characters and may have at most 90"),
        ({"kind": "party"}, "kind", "takes one of: opening hours"),
        ({"until": "31.12.2030"}, "until", "year-month-day"),
        ({"gallery": "018f0000-0000-7000-8000-000000000000"}, "gallery", "is no entry of type gallery"),
        ({"gallery": "here"}, "gallery", "takes the id of an entry"),
        ({"slug": "a b/c"}, "slug", "no spaces or slashes"),
    ],
)
def test_a_wrong_field_is_named_and_nothing_is_half_written(
    running: Running, http: httpx.Client, fields: dict, where: str, what: str
) -> None:
    headers = token(http, "wim")
    before = http.get("/api/entries?limit=1", headers=headers).json()["items"][0]
    answer = http.post(
        "/api/entries", json={"type": "notice", "fields": {**NOTICE, **fields}}, headers=headers
    )
    found = problem(answer, 422, "invalid")["problems"]
    assert found[0]["where"] == where
    assert what in found[0]["what"]
    assert http.get("/api/entries?limit=1", headers=headers).json()["items"][0] == before


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "slug"),
    [
        ("POST", "/api/entries", {"type": "poem"}, 422, "invalid"),
        ("POST", "/api/entries", {"type": "notice", "locale": "xx-not-one"}, 422, "invalid"),
        ("POST", "/api/entries", {"type": "notice", "colour": 1}, 422, "invalid"),
        ("GET", "/api/entries/018f0000-0000-7000-8000-000000000000", None, 404, "not-found"),
        ("GET", "/api/nothing", None, 404, "not-found"),
        ("PATCH", "/api/entries/{lift}/en", {"fields": {}}, 428, "base-needed"),
        ("POST", "/api/dispatches", {"moves": []}, 422, "invalid"),
        (
            "POST",
            "/api/dispatches",
            {"moves": [{"id": "{lift}", "locale": "en", "verb": "explode"}]},
            422,
            "invalid",
        ),
        ("GET", "/read/entries/{lift}?stage=nowhere", None, 422, "invalid"),
        ("GET", "/read/pages/en/no/such/page", None, 404, "not-found"),
    ],
)
def test_bad_requests_get_problem_details(
    running: Running, http: httpx.Client, method: str, path: str, body: dict | None, status: int, slug: str
) -> None:
    lift = running.id("The lift is being repaired")
    text = json.dumps(body).replace("{lift}", lift) if body is not None else None
    headers = {**token(http, "ida"), "Content-Type": "application/json"}
    problem(http.request(method, path.replace("{lift}", lift), content=text, headers=headers), status, slug)


@pytest.mark.parametrize(
    ("when", "says"),
    [
        ({"instant": "2020-01-01T00:00:00Z"}, "is past"),
        ({"wall": "2031-10-26T01:30", "zone": "Europe/London"}, "happens twice"),
        ({"wall": "2031-03-30T01:30", "zone": "Europe/London"}, "does not exist"),
        ({"wall": "2031-03-30T09:00", "zone": "Sea/Bottom"}, "not a time zone"),
        ({"instant": "soon"}, "is not a time"),
    ],
)
def test_a_time_that_cannot_be_used_is_never_guessed_about(
    running: Running, http: httpx.Client, when: dict, says: str
) -> None:
    entry = running.signed(f"Bad time {says}")
    body = {"moves": [{"id": entry.id, "locale": "en"}], "when": when}
    found = problem(http.post("/api/dispatches", json=body, headers=token(http, "ida")), 422, "bad-time")
    assert says in found["detail"]
    assert found["remedy"]


def bomb() -> bytes:
    out = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("page.png", b"<html>not a picture</html>", "no file that can be used"),
        ("x.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>", "holds a script"),
        ("cut.png", b"\x89PNG\r\n\x1a\n" + b"\x00" * 40, "no file that can be used|damaged"),
        ("bomb.png", bomb, "pixels"),
        ("nothing.png", b"", "is empty"),
    ],
)
def test_a_picture_that_is_none_is_refused_with_the_reason(
    running: Running, http: httpx.Client, name: str, data: bytes | Callable[[], bytes], says: str
) -> None:
    sent = data if isinstance(data, bytes) else data()
    answer = http.post("/api/files", files={"file": (name, sent)}, headers=token(http, "wim"))
    found = problem(answer, 422, "bad-file")
    assert any(word in found["detail"] for word in says.split("|"))


def test_a_file_for_another_job_or_locale_changes_nothing(running: Running, http: httpx.Client) -> None:
    mina = running.as_("mina")
    one, two = (running.notice(f"Job {n}") for n in (1, 2))
    first = mina.commission([one.id], ["fr"]).jobs[0]
    second = mina.commission([two.id], ["fr"]).jobs[0]
    headers = {**token(http, "mina"), "Content-Type": "application/xliff+xml"}
    found = problem(
        http.put(f"/api/jobs/{first.id}/file", content=mina.export_job(second.id), headers=headers),
        422,
        "bad-file",
    )
    assert "another job" in found["detail"]
    german = mina.export_job(first.id).replace(b'trgLang="fr"', b'trgLang="de"')
    problem(http.put(f"/api/jobs/{first.id}/file", content=german, headers=headers), 422, "bad-file")
    untranslated = {"content": mina.export_job(first.id), "headers": headers}
    problem(http.put(f"/api/jobs/{first.id}/file?whole=true", **untranslated), 422, "bad-file")
    taken = http.put(f"/api/jobs/{first.id}/file", **untranslated).json()
    assert (taken["applied"], taken["open"], taken["refused"]) == (0, 2, 0)
    assert mina.job(first.id).state == "waiting"
    assert not mina.entry(one.id, "fr").exists


def test_those_who_must_decide_are_told_by_mail_once_and_the_rest_are_not(running: Running) -> None:
    entry = running.notice("Mailed")
    running.as_("wim").submit(entry.id, "en", "Have a look.")
    eventually(lambda: len(running.mails("For review: Mailed")) >= 5)
    told = sorted(m["to"].split("@")[0] for m in running.mails("For review: Mailed"))
    assert told == ["ida", "oda", "priya", "rhea", "tomas"]
    assert f"/entries/{entry.id}/en" in running.mails("For review: Mailed")[0]["body"]


def test_why_explains_both_answers(running: Running) -> None:
    ida = running.as_("ida")
    assert "the role “release editor” grants" in ida.why("jonas", "release").reason
    refused = ida.why("wim", "release", entry=running.id("The harbour lamp"))
    assert not refused.allowed
    assert "Jonas Pike (release editor)" in refused.who


def test_headers_are_strict_and_the_document_is_served(http: httpx.Client) -> None:
    page = http.get("/")
    assert "default-src 'none'" in page.headers["content-security-policy"]
    assert page.headers["x-content-type-options"] == "nosniff"
    assert http.get("/api/openapi.json").content == openapi.FILE.read_bytes()
    assert http.get("/api/health").json()["ok"]


def test_a_proposal_has_an_address_and_an_etag_that_both_sides_move(
    running: Running, http: httpx.Client
) -> None:
    wim = running.as_("wim")
    entry = running.notice("Mooring fees")
    wim.fork_strand(entry.id, "en", "New fees")
    beside = wim.entry(entry.id, "en", strand="New fees")
    wim.save(entry.id, "en", {"body": "<p>Ten a night.</p>"}, etag=beside.etag, strand="New fees")
    at = f"/api/entries/{entry.id}/en/strands/New%20fees/proposal"
    first = wim._http.get(at)
    assert first.headers["ETag"] == first.json()["etag"] == wim.proposal(entry.id, "en", "New fees").etag
    assert wim._http.post(at, json={}).status_code == 428
    draft = wim.entry(entry.id, "en")
    wim.save(entry.id, "en", {"kind": "closure"}, etag=draft.etag)
    stale = wim._http.post(at, json={}, headers={"If-Match": first.headers["ETag"]})
    assert (stale.status_code, stale.json()["etag"]) == (412, wim._http.get(at).headers["ETag"])
    again = wim.entry(entry.id, "en", strand="New fees")
    wim.save(entry.id, "en", {"title": "Mooring fees, new"}, etag=again.etag, strand="New fees")
    assert wim._http.get(at).headers["ETag"] != stale.json()["etag"]
    part = wim._http.get(at, params={"take": ["title"]}).json()
    assert ([d["field"] for d in part["taken"]], {d["field"] for d in part["left"]}) == (
        ["title"],
        {"body", "slug"},
    )
    done = wim._http.post(at, json={"take": ["title"]}, headers={"If-Match": part["etag"]})
    assert (done.status_code, done.json()["title"]) == (200, "Mooring fees, new")
    assert http.get(at).status_code == 401


def test_every_kind_of_value_is_taken_kept_and_refused_in_words(running: Running) -> None:
    nell = running.as_("nell")
    good = {
        "title": "All kinds",
        "opens": {"wall": "2027-07-01T09:00", "zone": "Asia/Tokyo"},
        "place": {"latitude": 1.5, "longitude": -2},
        "tickets": "https://tickets.pellgrave.example/all",
        "price": {"full": 3},
        "hours": [{"fields": {"days": "Monday", "hours": "9"}}],
        "light": {"b": [1, None], "a": "x"},
        "page": [{"kind": "beside", "fields": {"cells": [{"kind": "quote", "fields": {"said": "Ahoy."}}]}}],
    }
    entry = nell.start("exhibition", good)
    kept = entry.fields
    assert kept["opens"]["instant"] == "2027-07-01T00:00:00Z"
    assert kept["tickets"] == {"href": "https://tickets.pellgrave.example/all"}
    assert kept["page"][0]["id"]
    assert kept["hours"][0]["id"] != kept["page"][0]["id"]
    wrong = {
        "opens": {"wall": "2027-07-01T09:00", "zone": "Pellgrave/Quay"},
        "place": {"latitude": 95, "longitude": 0},
        "tickets": "javascript:alert(1)",
        "price": {"full": -1},
        "hours": [{"fields": {"day": "Monday"}}],
        "page": [{"kind": "beside", "fields": {"cells": [{"kind": "poem"}]}}],
    }
    answer = nell._http.patch(
        f"/api/entries/{entry.id}/en", json={"fields": wrong}, headers={"If-Match": entry.etag}
    )
    assert answer.status_code == 422
    assert {p["where"] for p in answer.json()["problems"]} == set(wrong)
    two = [{"id": "a", "kind": "words", "fields": {}}, {"id": "a", "kind": "words", "fields": {}}]
    for odd in (
        two,
        "x",
        {},
        [7],
        [{"kind": "words", "fields": []}],
        [{"kind": "words", "more": 1}],
        [{"id": "1", "kind": "words"}],
    ):
        answer = nell._http.patch(
            f"/api/entries/{entry.id}/en", json={"fields": {"page": odd}}, headers={"If-Match": entry.etag}
        )
        assert answer.status_code == 422, odd
    assert nell.entry(entry.id).etag == entry.etag


def test_a_list_is_paged_to_its_end_whatever_is_asked(running: Running) -> None:
    ida = running.as_("ida")
    for query in ({"words": "the"}, {"type": "picture"}, {"stage": "release"}, {}):
        whole = [line.id + line.locale for line in ida.entries(**query, limit=500).items]
        paged: list[str] = []
        cursor = ""
        while True:
            page = ida.entries(**query, limit=3, cursor=cursor)
            paged += [line.id + line.locale for line in page.items]
            cursor = page.next
            if not cursor:
                break
        assert paged == whole


def test_the_preview_site_shows_blocks_with_their_pictures_and_people(running: Running) -> None:
    page = httpx.get(running.demo.ports.url("preview") + "/en/seven-ways-to-mark-a-rock").text
    assert re.search(r"<blockquote [^>]*>A rock with a bell on it is half a rock.", page)
    assert "<cite>Edmund Vane</cite>" in page
    assert 'alt="A bronze bell' in page
    assert page.index("Three miles out") < page.index("half a rock") < page.index("Come and ring it")
    assert 'class="opening"' not in page
