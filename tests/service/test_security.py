"""What the page about security says of each requirement is shown by tests that exist, and what no other test shows is shown here."""

from __future__ import annotations

import ast
import io
import logging
import re
import socket
import ssl
from collections.abc import Iterator
from email import message_from_bytes, policy
from pathlib import Path
from urllib.parse import urlsplit

import httpx
import pytest
import structlog
from PIL import Image

from hawthorn.core.errors import CodeNeeded
from hawthorn.operations.access import logging_in
from hawthorn.service.running import set_up_logs
from tests.service.made import House, serving
from tests.sources import SOURCE, calls, imports, trees

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs/security.md").read_text()
HTTPS = {"public": "https://hawthorn.example"}


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    made = House(tmp_path_factory.mktemp("security"))
    yield made
    made.close()


@pytest.fixture(scope="module")
def plain(house: House) -> Iterator[str]:
    with serving(house) as (_, url):
        yield url


@pytest.fixture(scope="module")
def encrypted(house: House) -> Iterator[str]:
    """The address of the service where people reach it by HTTPS, behind a proxy that is not there."""
    with serving(house, **HTTPS) as (_, url):
        yield url


# ASVS 5.0.0: how many requirements each section has of levels 1 and 2.
LEVELS_1_AND_2 = {
    "1.1": [1, 2], "1.2": range(1, 10), "1.3": range(1, 12), "1.4": [1, 2, 3], "1.5": [1, 2],
    "2.1": [1, 2, 3], "2.2": [1, 2, 3], "2.3": [1, 2, 3, 4], "2.4": [1],
    "3.2": [1, 2], "3.3": [1, 2, 3, 4], "3.4": range(1, 7), "3.5": range(1, 6), "3.7": [1, 2],
    "4.1": [1, 2, 3], "4.2": [1], "4.3": [1, 2], "4.4": range(1, 5),
    "5.1": [1], "5.2": [1, 2, 3], "5.3": [1, 2], "5.4": [1, 2, 3],
    "6.1": [1, 2, 3], "6.2": range(1, 13), "6.3": range(1, 5), "6.4": range(1, 5), "6.5": range(1, 6), "6.6": [1, 2, 3], "6.8": range(1, 5),
    "7.1": [1, 2, 3], "7.2": range(1, 5), "7.3": [1, 2], "7.4": range(1, 6), "7.5": [1, 2], "7.6": [1, 2],
    "8.1": [1, 2], "8.2": [1, 2, 3], "8.3": [1], "8.4": [1],
    "9.1": [1, 2, 3], "9.2": range(1, 5),
    "10.1": [1, 2], "10.2": [1, 2], "10.3": range(1, 5), "10.4": range(1, 12), "10.5": range(1, 6), "10.6": [1, 2], "10.7": [1, 2, 3],
    "11.1": [1, 2], "11.2": [1, 2, 3], "11.3": [1, 2, 3], "11.4": range(1, 5), "11.5": [1], "11.6": [1],
    "12.1": [1, 2, 3], "12.2": [1, 2], "12.3": range(1, 5),
    "13.1": [1], "13.2": range(1, 6), "13.3": [1, 2], "13.4": range(1, 6),
    "14.1": [1, 2], "14.2": range(1, 5), "14.3": [1, 2, 3],
    "15.1": [1, 2, 3], "15.2": [1, 2, 3], "15.3": range(1, 8),
    "16.1": [1], "16.2": range(1, 6), "16.3": range(1, 5), "16.4": [1, 2, 3], "16.5": [1, 2, 3],
}  # fmt: skip


def rows() -> list[tuple[str, str]]:
    """The table's requirements by their numbers, each with the whole line."""
    return [
        (found[1], line) for line in PAGE.splitlines() if (found := re.match(r"\| (\d+\.\d+\.\d+) \|", line))
    ]


def beside() -> list[str]:
    """The numbers that are said not to apply."""
    text = PAGE[PAGE.index("**Does not apply**") :]
    out = []
    for first, last in re.findall(r"(\d+\.\d+\.\d+)(?: to (\d+\.\d+\.\d+))?", text):
        section, _, number = first.rpartition(".")
        end = int(last.rpartition(".")[2]) if last else int(number)
        out += [f"{section}.{n}" for n in range(int(number), end + 1)]
    return out


def test_each_requirement_is_in_the_table_once_or_said_not_to_apply() -> None:
    said = [number for number, _ in rows()] + beside()
    assert len(said) == len(set(said)), [n for n in set(said) if said.count(n) > 1]
    assert set(said) == {f"{section}.{n}" for section, numbers in LEVELS_1_AND_2.items() for n in numbers}


def test_each_test_that_the_table_names_is_there() -> None:
    for number, line in rows():
        shown = line.rsplit("|", 2)[1]
        for name in re.findall(r"`([^`]+)`", shown):
            path, _, test = name.partition("::")
            file = ROOT / path if path.endswith(".ts") else ROOT / "tests" / path
            assert file.is_file(), (number, name)
            if test:
                assert re.search(rf"^(def|class|async def) {test}\b|^{test} =", file.read_text(), re.M), (
                    number,
                    name,
                )
        assert shown.strip() or "**open**" in line or number in WRITTEN, number


WRITTEN = {"12.2.2", "14.1.1", "14.1.2", "15.1.1", "15.2.1", "16.1.1"}
"""What is only a matter of what is written, or of a machine that is not here."""


def test_nothing_is_run_or_read_back_as_code() -> None:
    never = {
        "eval",
        "exec",
        "__import__",
        "os.system",
        "os.popen",
        "pickle.loads",
        "pickle.load",
        "marshal.loads",
        "yaml.load",
        "yaml.unsafe_load",
    }
    found = [(path.name, name) for path, name, _ in calls() if name in never]
    assert found == []
    for path, name, call in calls():
        if name.startswith("subprocess."):
            assert not any(k.arg == "shell" for k in call.keywords), (path.name, call.lineno)
            assert not isinstance(call.args[0], ast.Constant | ast.JoinedStr), (path.name, call.lineno)


def test_whatever_is_to_be_guessed_by_nobody_is_made_at_random() -> None:
    """Of 128 bits and more, from the system's source; what is shorter is only a name, or is waited for."""
    names = {
        "bureaus.py": 4,
        "people.py": 4,
        "problems.py": 8,
        "timed.py": 8,
        "file_store.py": 8,
        "vault.py": 6,
    }
    for path, brought in imports():
        assert "random" not in brought or "demo" in path.parts, path.name
    for path, name, call in calls():
        if name.startswith("secrets.token_") and "demo" not in path.parts:
            size = ast.literal_eval(call.args[0])
            assert size >= 14 or names.get(path.name) == size, (path.name, call.lineno)


def test_browsers_are_told_to_come_encrypted(plain: str, encrypted: str) -> None:
    for path in (
        "/",
        "/api/health",
        "/api/me",
        "/read/entries",
        "/read/entries/nothing?locale=en",
        "/assets/none.js",
    ):
        told = httpx.get(encrypted + path).headers["strict-transport-security"]
        assert int(re.findall(r"max-age=(\d+)", told)[0]) >= 31_536_000
        assert "includeSubDomains" in told
        assert "strict-transport-security" not in httpx.get(plain + path).headers


def test_the_service_itself_leads_nobody_to_https(encrypted: str) -> None:
    """A program that says a key in clear is to fail, not to be led on (ASVS 4.1.2); browsers are led by the proxy in front."""
    for path in ("/", "/api/me", "/read/entries"):
        assert not httpx.get(encrypted + path, follow_redirects=False).is_redirect


def test_cookies_are_for_this_host_and_for_no_script(plain: str, encrypted: str) -> None:
    who = {"handle": "wim", "password": "long enough"}
    cookie = httpx.post(f"{encrypted}/api/session", json=who).headers["set-cookie"]
    name, *marks = [part.strip().lower() for part in cookie.split(";")]
    assert name.startswith("__host-")
    assert {"httponly", "samesite=strict", "secure", "path=/"} <= set(marks)
    assert not any(mark.startswith("domain") for mark in marks)
    near = httpx.post(f"{plain}/api/session", json=who).headers["set-cookie"].lower()
    assert "secure" not in near
    assert "httponly" in near


def test_every_page_is_guarded_by_headers(plain: str) -> None:
    for path in (
        "/",
        "/entries",
        "/log-in",
        "/api/health",
        "/api/nothing",
        "/api/openapi.json",
        "/read/entries",
    ):
        headers = httpx.get(plain + path).headers
        given = dict(part.strip().split(" ", 1) for part in headers["content-security-policy"].split(";"))
        assert given["default-src"] == "'none'"
        assert given["base-uri"] == "'none'"
        assert given["frame-ancestors"] == "'none'"
        assert "unsafe" not in given.get("script-src", "")
        # Nothing is loaded from elsewhere.
        assert not re.search(r"https?:|\*", " ".join(given.values()))
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "same-origin"


def test_other_origins_read_what_everybody_reads_and_nothing_else(house: House, plain: str) -> None:
    other = {"Origin": "https://elsewhere.example"}
    assert httpx.get(f"{plain}/read/entries", headers=other).headers["access-control-allow-origin"] == "*"
    mine = {**other, "Authorization": f"Bearer {house.log_in('wim')}"}
    for path in ("/api/me", "/api/entries", "/api/health", "/"):
        assert "access-control-allow-origin" not in httpx.get(plain + path, headers=mine).headers
    asked = {
        **other,
        "Access-Control-Request-Method": "POST",
        "Access-Control-Request-Headers": "content-type",
    }
    assert "access-control-allow-origin" not in httpx.options(f"{plain}/api/entries", headers=asked).headers
    assert "access-control-allow-credentials" not in httpx.get(f"{plain}/read/entries", headers=other).headers
    # Who is logged in is nobody to what is read: their cookie tells nothing.
    cookie = {"hawthorn_session": house.log_in("wim")}
    drafts = httpx.get(f"{plain}/read/entries?stage=draft", headers=other, cookies=cookie)
    assert drafts.status_code in (401, 403)


def test_a_browser_is_told_ahead_what_pages_of_other_origins_may_send(plain: str) -> None:
    asked = {
        "Origin": "https://elsewhere.example",
        "Access-Control-Request-Method": "POST",
        "Access-Control-Request-Headers": "content-type, hawthorn-unlocked, authorization",
    }
    for path in ("/read/questions", "/read/entries/none/unlock", "/read/entries", "/feeds/live/json"):
        told = httpx.options(plain + path, headers=asked)
        assert (told.status_code, told.content) == (204, b"")
        assert told.headers["access-control-allow-origin"] == "*"
        assert "POST" in told.headers["access-control-allow-methods"].split(", ")
        sent = {name.lower() for name in told.headers["access-control-allow-headers"].split(", ")}
        assert sent >= set(asked["Access-Control-Request-Headers"].split(", "))
        assert "access-control-allow-credentials" not in told.headers
    # Whoever asks for methods without being a browser, or for anything else, is answered by the address itself.
    assert httpx.options(f"{plain}/read/questions").status_code == 405
    assert httpx.options(f"{plain}/api/session", headers=asked).status_code == 405


@pytest.mark.parametrize(
    ("method", "path", "methods"),
    [
        ("PUT", "/api/entries", {"GET", "HEAD", "POST"}),
        ("PATCH", "/api/session", {"DELETE", "POST"}),
        ("PATCH", "/read/entries/some", {"GET", "HEAD"}),
        ("DELETE", "/read/questions", {"POST"}),
        ("GET", "/read/questions", {"POST"}),
        ("GET", "/api/session", {"DELETE", "POST"}),
        ("POST", "/metrics", {"GET", "HEAD"}),
    ],
)
def test_an_address_names_all_methods_that_it_takes(
    plain: str, method: str, path: str, methods: set[str]
) -> None:
    found = httpx.request(method, plain + path)
    assert found.status_code == 405
    assert set(found.headers["allow"].split(", ")) == methods
    assert found.json()["detail"] == f"{path} does not take {method}."


def test_a_change_comes_from_our_own_pages_alone(house: House, plain: str) -> None:
    cookies = {"hawthorn_session": house.log_in("wim")}
    body = '{"type": "page", "locale": "en", "fields": {"title": "Lamp"}}'
    for kind in ("application/json", "text/plain", "application/x-www-form-urlencoded"):
        for told in (
            {"Origin": "https://elsewhere.example"},
            {"Origin": "null"},
            {"Origin": plain.replace("http:", "https:")},
            {"Sec-Fetch-Site": "cross-site"},
            {"Sec-Fetch-Site": "same-site"},
        ):
            headers = {"Content-Type": kind, **told}
            found = httpx.post(f"{plain}/api/entries", content=body, headers=headers, cookies=cookies)
            assert found.status_code == 403, (kind, told)
    own = {"Content-Type": "application/json", "Origin": plain}
    assert httpx.post(f"{plain}/api/entries", content=body, headers=own, cookies=cookies).status_code == 201
    plainly = {"Content-Type": "text/plain", "Origin": plain}
    assert (
        httpx.post(f"{plain}/api/entries", content=body, headers=plainly, cookies=cookies).status_code == 422
    )


def test_nothing_lies_about_that_nobody_asked_for(plain: str) -> None:
    for path in (
        "/.git/HEAD",
        "/.env",
        "/docs",
        "/redoc",
        "/openapi.json",
        "/hawthorn.sqlite",
        "/hawthorn.toml",
        "/server-status",
    ):
        assert httpx.get(plain + path).status_code == 404, path
    for path in ("/assets/", "/assets", "/fonts/", "/api/", "/read/"):
        found = httpx.get(plain + path)
        assert found.status_code in (404, 405), path
        assert "index of" not in found.text.lower()
    for path in ("/", "/api/me", "/read/entries"):
        assert httpx.request("TRACE", plain + path, headers={"X-Told": "what only I know"}).status_code in (
            404,
            405,
        )
    assert "server" not in httpx.get(plain).headers


def talk(url: str, said: bytes) -> bytes:
    """What is answered to bytes."""
    where = urlsplit(url)
    with socket.create_connection((where.hostname or "", where.port or 0), timeout=10) as line:
        line.sendall(said)
        line.settimeout(3)
        out = b""
        try:
            while part := line.recv(65_536):
                out += part
        except TimeoutError:
            pass
        return out


@pytest.mark.parametrize(
    "twice",
    [
        b"Content-Length: 5\r\nTransfer-Encoding: chunked\r\n",
        b"Transfer-Encoding: chunked\r\nContent-Length: 5\r\n",
        b"Content-Length: 5\r\nContent-Length: 6\r\n",
        b"Transfer-Encoding: identity, chunked\r\nContent-Length: 1\r\n",
        b"Content-Length: +5\r\n",
    ],
)
def test_a_request_ends_where_it_says_and_only_once(plain: str, twice: bytes) -> None:
    hidden = b"0\r\n\r\nGET /api/health HTTP/1.1\r\nHost: x\r\n\r\n"
    told = talk(plain, b"POST /api/session HTTP/1.1\r\nHost: x\r\n" + twice + b"\r\n" + hidden)
    assert told.startswith(b"HTTP/1.1 4"), told[:80]
    assert told.count(b"HTTP/1.1 ") == 1
    assert b'"ok"' not in told


def test_reading_changes_nothing(house: House, plain: str) -> None:
    """Every GET of the document that takes no part of an address, as who may most: the log is as long afterwards."""
    import json

    from hawthorn.service import openapi

    headers = {"Authorization": f"Bearer {house.log_in('ida')}"}
    paths = json.loads(openapi.FILE.read_text("utf-8"))["paths"]
    before = house.events()
    asked = 0
    for path, calls_of in paths.items():
        if (
            "get" in calls_of
            and "{" not in path
            and path not in ("/events", "/read/changes", "/read/changes/last")
        ):
            asked += httpx.get(plain + path, headers=headers).status_code < 500
    assert asked > 50
    # The key that receipts are signed with is made for whoever first asks for its public half.
    assert [e for e in house.events() if e[0] != "receipt.key-made"] == before


def test_what_is_for_one_is_kept_by_nobody(house: House, plain: str) -> None:
    mine = {"Authorization": f"Bearer {house.log_in('ida')}"}
    for path in ("/api/me", "/api/entries", "/api/account", "/api/people", "/read/entries?stage=draft"):
        assert "no-store" in httpx.get(plain + path, headers=mine).headers["cache-control"], path
    who = {"handle": "wim", "password": "long enough"}
    assert "no-store" in httpx.post(f"{plain}/api/session", json=who).headers["cache-control"]


def test_a_log_out_leaves_nothing_in_the_browser(house: House, plain: str) -> None:
    found = httpx.delete(f"{plain}/api/session", headers={"Authorization": f"Bearer {house.log_in('wim')}"})
    assert found.status_code == 204
    assert '"cache"' in found.headers["clear-site-data"]
    assert "max-age=0" in found.headers["set-cookie"].lower()
    # What is kept in a browser: what was typed and not saved, by whom it was and until it is; and how pages are laid out.
    console = ROOT / "console/src"
    kept = {
        found
        for path in [*console.rglob("*.ts"), *console.rglob("*.svelte")]
        for found in re.findall(r"(?:local|session)Storage\.setItem\((.+?),", path.read_text())
    }
    assert kept == {'"hawthorn:dark"', "KEPT", "KEY", "LAST", "this.#key"}


def test_a_log_in_ends_the_session_that_the_browser_came_with(house: House, plain: str) -> None:
    with httpx.Client(base_url=plain) as browser:
        first = browser.post("/api/session", json={"handle": "wim", "password": "long enough"}).json()[
            "token"
        ]
        second = browser.post("/api/session", json={"handle": "oda", "password": "long enough"}).json()[
            "token"
        ]
        assert first != second
        assert browser.get("/api/me").json()["handle"] == "oda"
    told = [
        httpx.get(f"{plain}/api/me", headers={"Authorization": f"Bearer {one}"}).status_code
        for one in (first, second)
    ]
    assert told == [401, 200]
    # One that is wrong, or over, keeps nobody out.
    cookies = {"hawthorn_session": first}
    again = httpx.post(
        f"{plain}/api/session", json={"handle": "wim", "password": "long enough"}, cookies=cookies
    )
    assert again.status_code == 201


def test_a_password_is_taken_to_its_last_character(house: House) -> None:
    long = "  Ein Leuchtturm, " + "Möwen & Seile; " * 20 + "Ende  "
    assert 64 < len(long) < 400
    kept = logging_in.password_hash(long)
    assert logging_in.is_password(kept, long)
    for other in (long.strip(), long[:-1], long[:72], long.casefold(), long.replace("ö", "o")):
        assert not logging_in.is_password(kept, other)


def test_password_fields_are_hidden_and_can_be_filled_in() -> None:
    console = ROOT / "console/src"
    fields = [
        (path.name, field)
        for path in console.rglob("*.svelte")
        for field in re.findall(r"<Input\b[^>]*?/>", path.read_text(), re.S)
        if re.search(r"bind:value=\{(password|again|before|after)\}", field) and 'type="date"' not in field
    ]
    assert len(fields) >= 7
    for name, field in fields:
        assert 'type="password"' in field, name
        assert re.search(r'autocomplete="(current|new)-password"', field), name
        assert "onpaste" not in field, name


def test_spare_codes_are_kept_as_what_nobody_guesses(house: House) -> None:
    """Of 112 bits and more a fast hash will do (ASVS 6.5.2); what is shorter would have to be kept as passwords are."""
    import pyotp

    from hawthorn.core.timeline import SECOND

    begun = house.do("wim", lambda a: logging_in.begin_second_factor(a, "House", "long enough"))
    code = pyotp.TOTP(begun["secret"]).at((house.clock.at + SECOND) // SECOND)
    spare = house.do("wim", lambda a: logging_in.confirm_second_factor(a, code))
    try:
        for one in spare:
            letters = one.replace("-", "")
            assert len(letters) * 5 >= 112
            assert set(letters) <= set("abcdefghijklmnopqrstuvwxyz234567")
        with house.desk.db.read() as conn:
            kept = conn.execute("SELECT spare FROM second_factor").fetchone()[0]
        assert not any(one.replace("-", "") in kept for one in spare)
        assert house.do(
            "wim", lambda a: logging_in.use_code(a, a.identity.id, spare[0].upper().replace("-", " "))
        )
        assert not house.do("wim", lambda a: logging_in.use_code(a, a.identity.id, spare[0]))
    finally:
        house.do("wim", lambda a: logging_in.turn_factor_off(a, a.identity.id))


def test_a_new_password_does_not_pass_by_the_second_factor(house: House) -> None:
    house.do("oda", lambda a: logging_in.turn_factor_on(a))
    try:
        address = house.do("ida", lambda a: logging_in.invite(a, house.who("oda").id, "http://h"))
        word = address.rpartition("=")[2]
        opened = house.do(
            "ida", lambda a: logging_in.accept_invitation(a, word, "a lamp by the harbour", "test")
        )
        assert opened == ""
    finally:
        house.do("oda", lambda a: logging_in.turn_factor_off(a, a.identity.id))


def test_where_a_second_factor_is_wanted_of_all_a_password_opens_only_what_sets_one_up(house: House) -> None:
    import pyotp

    from hawthorn.core.timeline import SECOND

    with serving(house, second_factor=True) as (_, url), httpx.Client(base_url=url) as wim:
        found = wim.post("/api/session", json={"handle": "wim", "password": "long enough"}).json()
        assert found["me"]["factor_wanted"]
        for path in ("/api/entries", "/api/setup", "/api/people", "/api/events", "/read/entries?stage=draft"):
            told = wim.get(path, headers={"Authorization": f"Bearer {found['token']}"})
            assert (told.status_code, told.json()["code"]) == (403, "context.factor_wanted"), path
            assert "second-factor" in told.json()["remedy"]
        assert (
            wim.post("/api/entries", json={"type": "page", "locale": "en", "fields": {}}).status_code == 403
        )
        assert wim.get("/api/account").status_code == 200
        begun = wim.post("/api/account/second-factor", json={"password": "long enough"}).json()
        code = pyotp.TOTP(begun["secret"]).at(house.clock.at // SECOND)
        assert wim.post("/api/account/second-factor/confirm", json={"code": code}).status_code == 200
        assert not wim.get("/api/me").json()["factor_wanted"]
        assert wim.get("/api/entries").status_code == 200
        # Programs have keys, and no second factor.
        ended = wim.post("/api/account/second-factor/end", json={"password": "long enough"})
        assert ended.status_code == 204
        assert wim.get("/api/entries").status_code == 403
        with pytest.raises(CodeNeeded):
            raise CodeNeeded("logging_in.code_needed", passkey=False)


def test_a_name_goes_into_a_header_encoded(house: House, plain: str) -> None:
    drawn = io.BytesIO()
    Image.new("RGB", (9, 9)).save(drawn, "PNG")
    mine = {"Authorization": f"Bearer {house.log_in('ida')}"}
    pdf = b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj 2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF"
    for name, data in (
        ('plan"; x="y.pdf', pdf),
        ("leaflet\r\nSet-Cookie: a=b.pdf", pdf + b"\n"),
        ("../../Öffnung.pdf", pdf + b"\n\n"),
    ):
        kept = httpx.post(f"{plain}/api/files", files={"file": (name, data)}, headers=mine)
        assert kept.status_code < 300, kept.text
        sent = httpx.get(f"{plain}/api/files/{kept.json()['sha256']}", headers=mine)
        told = sent.headers.get("content-disposition", "")
        assert re.fullmatch(r"attachment; filename\*=UTF-8''[\w.%~-]+", told), told
        assert "/" not in told.partition("''")[2]
        assert "set-cookie" not in sent.headers
    # Mails, too: what would end a line of their head is refused by the library that writes it.
    letter = message_from_bytes(b"", policy=policy.SMTP)
    with pytest.raises(ValueError, match=r"CR|LF|newline|linefeed"):
        letter["Subject"] = "New\r\nBcc: all@x.example"


def test_what_is_encoded_twice_is_decoded_once(house: House, plain: str) -> None:
    for path in (
        "/%252e%252e/%252e%252e/etc/passwd",
        "/assets/%252e%252e/index.html",
        "/assets/..%2f..%2fpyproject.toml",
        "/assets/%2e%2e/%2e%2e/pyproject.toml",
    ):
        told = talk(plain, f"GET {path} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n".encode())
        assert told.startswith(b"HTTP/1.1 404"), (path, told[:60])
    body = {"type": "page", "locale": "en", "fields": {"title": "%3Cb%3E &lt;i&gt; &amp;lt;"}}
    mine = {"Authorization": f"Bearer {house.log_in('wim')}"}
    made = httpx.post(f"{plain}/api/entries", json=body, headers=mine).json()
    assert made["fields"]["title"] == "%3Cb%3E &lt;i&gt; &amp;lt;"


def test_what_a_body_may_not_set_is_refused_by_name(house: House, plain: str) -> None:
    mine = {"Authorization": f"Bearer {house.log_in('wim')}"}
    made = httpx.post(
        f"{plain}/api/entries", json={"type": "page", "locale": "en", "fields": {"title": "A"}}, headers=mine
    ).json()
    for path, method, body, extra in (
        ("/api/entries", "POST", {"type": "page", "locale": "en", "fields": {}}, {"stage": "release"}),
        (f"/api/entries/{made['id']}/en", "PATCH", {"fields": {"title": "B"}}, {"author": "ida"}),
        (
            "/api/account",
            "PUT",
            {"name": "Wim", "zone": "UTC", "language": ""},
            {"roles": ["managing-editor"]},
        ),
        ("/api/session", "POST", {"handle": "wim", "password": "long enough"}, {"kind": "scheduler"}),
    ):
        headers = {**mine, "If-Match": made["etag"]}
        found = httpx.request(method, plain + path, json={**body, **extra}, headers=headers)
        assert found.status_code == 422, (path, found.text)
        assert next(iter(extra)) in found.json()["detail"]
    odd = {"type": "page", "locale": "en", "fields": {"title": "A", "stage": "release"}}
    assert httpx.post(f"{plain}/api/entries", json=odd, headers=mine).status_code == 422


def test_a_parameter_given_twice_is_refused(house: House, plain: str) -> None:
    mine = {"Authorization": f"Bearer {house.log_in('ida')}"}
    for path in (
        "/api/entries?limit=5&limit=50",
        "/api/entries?words=a&words=b",
        "/read/entries?limit=1&limit=2",
    ):
        found = httpx.get(plain + path, headers=mine)
        assert found.status_code == 422, path
        assert "twice" in found.json()["detail"]
    assert httpx.get(f"{plain}/api/entries?stage=draft", headers=mine).status_code == 200


def test_what_a_proxy_says_is_believed_of_our_own_alone(house: House) -> None:
    """Who guesses is counted by where it comes from; nobody else than a proxy on this machine says where that is."""
    import asyncio

    from hawthorn.service.app import create_asgi
    from hawthorn.service.settings import Settings

    app = create_asgi(Settings(file=house.path, followers=False), house.desk)

    async def refused_from(client: str) -> str:
        transport = httpx.ASGITransport(app, client=(client, 1234))
        async with httpx.AsyncClient(transport=transport, base_url="http://x") as http:
            told = {"X-Forwarded-For": "198.51.100.7", "X-Forwarded-Proto": "https"}
            await http.post("/api/session", json={"handle": "nobody", "password": "x"}, headers=told)
        with house.desk.db.read() as conn:
            sql = "SELECT p.json FROM event e JOIN event_payload p ON p.seq = e.seq WHERE e.kind = 'session.refused' ORDER BY e.seq DESC LIMIT 1"
            return str(conn.execute(sql).fetchone()[0])

    assert '"198.51.100.7"' in asyncio.run(refused_from("127.0.0.1"))
    assert '"203.0.113.9"' in asyncio.run(refused_from("203.0.113.9"))


def test_logs_name_no_secret_and_hold_one_line_for_one_thing(capsys: pytest.CaptureFixture[str]) -> None:
    before = structlog.get_config()
    try:
        for style in ("readable", "json"):
            set_up_logs(style, logging.INFO)
            structlog.get_logger("told").info(
                "given up", trouble="550 no\r\n2027-01-01 [info] all is well \x1b[2J"
            )
            said = capsys.readouterr().err
            assert said.count("\n") == 1, said
            assert "\r" not in said
            assert "\x1b[2J" not in said
    finally:
        structlog.configure(**before)
    never = re.compile(r"\b(password|token|secret|cookie|authorization|body)\b")
    for path, name, call in calls():
        if name.startswith("log."):
            assert not any(k.arg and never.search(k.arg) for k in call.keywords), (path.name, call.lineno)


def test_calls_go_out_by_new_versions_of_tls_and_look_at_certificates() -> None:
    from hawthorn.followers import outgoing

    for context in (outgoing._trusted(), ssl.create_default_context()):
        assert context.verify_mode == ssl.CERT_REQUIRED
        assert context.check_hostname
        assert context.minimum_version >= ssl.TLSVersion.TLSv1_2
        assert not [
            c["name"] for c in context.get_ciphers() if re.search("RC4|3DES|NULL|EXPORT|MD5", c["name"])
        ]
    for path, _, call in calls():
        off = {k.arg for k in call.keywords if isinstance(k.value, ast.Constant) and k.value.value is False}
        assert not off & {"verify", "check_hostname"}, path.name
    assert not [path.name for path in trees() if "_create_unverified_context" in path.read_text()]


def listed(heading: str) -> str:
    """What stands under a heading of the page."""
    return PAGE.partition(f"\n### {heading}\n")[2].partition("\n#")[0]


def test_what_is_encrypted_signed_and_hashed_is_in_the_list() -> None:
    """Every module that brings cryptography, and every hash function, is named on the page."""
    brought = {
        "cryptography",
        "argon2",
        "joserfc",
        "webauthn",
        "itsdangerous",
        "standardwebhooks",
        "pyrage",
        "hmac",
        "hashlib",
        "ssl",
        "pyotp",
        "authlib",
    }
    used = {
        name.split(".")[0] for path, names in imports() if "demo" not in path.parts for name in names
    } & brought
    hashes = {
        node.attr
        for path, tree in trees().items()
        if "demo" not in path.parts
        for node in ast.walk(tree)
        if isinstance(node, ast.Attribute) and getattr(node.value, "id", "") == "hashlib"
    }
    assert hashes - {"file_digest"} == {"sha256"}
    page = listed("Keys, and what they are made of")
    assert [name for name in used if f"`{name}`" not in page] == []


def test_what_calls_out_is_in_the_list() -> None:
    """Every module that opens connections to elsewhere is named on the page."""
    opens = {
        "httpx", "httpcore", "smtplib", "obstore", "boto3", "urllib.request", "aiohttp", "requests", "clamav_client.clamd",
    }  # fmt: skip
    found = {
        str(path.relative_to(SOURCE))
        for path, brought in imports()
        if brought & opens and not {"demo", "client", "cli"} & set(path.parts)
    }
    assert found
    page = listed("What it talks to")
    assert [name for name in sorted(found) if f"`{name}`" not in page] == []


def test_ways_in_are_those_of_the_page() -> None:
    """Every place where a session is opened is one of the page's ways in."""
    found = set()
    for path, name, call in calls():
        if name in ("log_in", "logging_in.log_in") and "demo" not in path.parts and len(call.args) >= 2:
            found.add(path.relative_to(SOURCE).as_posix())
    page = listed("Ways in")
    assert found
    assert [name for name in sorted(found) if f"`{name}`" not in page] == []


def test_files_that_are_taken_are_those_of_the_page() -> None:
    from hawthorn.operations.media import files

    taken = {*files._TYPES.values(), *files._MEDIA.values(), "image/svg+xml", "text/vtt"}
    assert set(re.findall(r"`(\w+/[\w+.-]+)`", listed("Files that are taken"))) == taken
