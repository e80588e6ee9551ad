"""Logging in, sessions, keys, giving rights, and stored pictures."""

from __future__ import annotations

import io
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
from PIL import Image

from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import BadFile, InTheWay, Invalid, NotFound, NotLoggedIn, Refused, TooMany
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import attempts, logging_in, people, permission
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import reading, shown_files
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import show_log
from hawthorn.store import files as file_store
from hawthorn.store import people as store
from tests.conftest import REAL_HASHER, eventually
from tests.service.made import House, serving

HOUR, DAY = 3600 * SECOND, 86400 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def log_in(house: House, handle: str = "wim") -> str:
    row = house.desk.read(house.who("ida"), lambda v: logging_in.check_password(v, handle, "long enough"))
    assert row is not None
    return house.do("ida", lambda a: logging_in.log_in(a, row))


def identify(house: House, token: str) -> Identity:
    with house.desk.db.read() as conn:
        return logging_in.identify(conn, house.clock.now(), token)


def test_passwords_are_kept_as_argon2id_and_tokens_as_hashes(house: House) -> None:
    token = log_in(house)
    with house.desk.db.read() as conn:
        rows = conn.execute("SELECT password FROM actor WHERE kind = 'person'").fetchall()
        assert all(r[0].startswith("$argon2id$") for r in rows)
        kept = conn.execute("SELECT token_hash FROM session").fetchall()
        assert token not in [r[0] for r in kept]
    assert identify(house, token).handle == "wim"


def test_outside_of_tests_a_guess_is_dear() -> None:
    kept = REAL_HASHER.hash("long enough")
    assert kept.startswith("$argon2id$v=19$m=12288,t=9,p=1$")
    assert REAL_HASHER.verify(kept, "long enough")


@pytest.mark.parametrize(
    ("handle", "password"), [("wim", "wrong"), ("nobody", "long enough"), ("scheduler", ""), ("wim", "")]
)
def test_a_wrong_name_or_password_is_nobody(house: House, handle: str, password: str) -> None:
    assert house.desk.read(house.who("ida"), lambda v: logging_in.check_password(v, handle, password)) is None


def test_somebody_may_log_in_by_mail_address(house: House) -> None:
    row = house.desk.read(
        house.who("ida"), lambda v: logging_in.check_password(v, "wim@x.example", "long enough")
    )
    assert row is not None
    assert row.handle == "wim"


def test_a_session_ends_when_it_is_ended_or_old(house: House) -> None:
    first, second = log_in(house), log_in(house)
    house.do("wim", lambda a: logging_in.log_out(a, first))
    with pytest.raises(NotLoggedIn):
        identify(house, first)
    for _ in range(27):
        house.clock.at += 11 * HOUR
        assert identify(house, second).handle == "wim"
        house.do("wim", lambda a: logging_in.note_seen(a, second))
    third = log_in(house)
    house.clock.at += 11 * HOUR
    assert identify(house, second).handle == "wim"
    house.clock.at += 2 * DAY
    with pytest.raises(NotLoggedIn, match="has ended"):
        identify(house, third)
    house.do("wim", lambda a: logging_in.note_seen(a, third))
    with pytest.raises(NotLoggedIn, match="has ended"):
        identify(house, third)
    fourth = log_in(house)
    for _ in range(40):
        house.do("wim", lambda a: logging_in.note_seen(a, fourth))
        house.clock.at += 9 * HOUR
    with pytest.raises(NotLoggedIn, match="has ended"):
        identify(house, fourth)


def guess(house: House, name: str, source: str = "here") -> int:
    """Begin a guess; the seconds to wait when it is too soon."""
    try:
        house.by_scheduler(lambda a: attempts.begin(a, attempts.name_of(a, name), source))
    except TooMany as refused:
        return int(refused.facts["retry_after"])
    return 0


def test_guesses_wait_longer_and_longer_and_lock_nobody_out(house: House) -> None:
    assert [guess(house, "wim") for _ in range(8)] == [0] * 8
    waits = []
    for _ in range(8):
        waits.append(guess(house, "wim@x.example"))
        house.clock.at += SECOND * waits[-1] + 1_000
        assert guess(house, "wim") == 0, "handle and address are one person"
    assert waits == [1, 2, 4, 8, 16, 32, 60, 60]
    assert guess(house, "wim", "elsewhere") == 0, "whoever is right logs in from another place"
    assert guess(house, "oda") == 0
    house.clock.at += 60 * SECOND
    assert guess(house, "wim") == 0
    house.by_scheduler(lambda a: attempts.right(a, attempts.name_of(a, "wim"), "here"))
    assert guess(house, "wim") == 0, "forgotten, as one was right"
    assert guess(house, "wim") == 0


def test_names_cannot_be_sprayed_from_one_place_nor_one_name_from_many(house: House) -> None:
    assert [guess(house, f"nobody{n}") for n in range(30)] == [0] * 30
    assert guess(house, "wim") == 1
    assert guess(house, "wim", "there") == 0
    found = [guess(house, "oda", f"place {n}") for n in range(60)]
    assert found[:40] == [0] * 40
    assert 0 < max(found) <= 5, "a few seconds, however many guess"


def test_of_many_guesses_at_once_no_more_are_looked_at_than_are_free(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked: list[str] = []
    monkeypatch.setattr(logging_in, "fits", lambda row, password: looked.append(password))
    with serving(house) as (_, url), ThreadPoolExecutor(24) as pool:

        def ask(n: int) -> int:
            body = {"handle": "wim", "password": f"wrong {n}"}
            return httpx.post(f"{url}/api/session", json=body, timeout=60).status_code

        answers = list(pool.map(ask, range(24)))
    assert len(looked) == 8
    assert sorted(answers) == [401] * 8 + [429] * 16
    said = [kind for kind, _ in house.events() if kind == "session.refused"]
    assert len(said) == 8


def test_nobody_gives_a_right_that_they_do_not_have(house: House) -> None:
    house.do("ida", lambda a: people.issue_key(a, "Everything", "managing-editor", "program", ["release"]))
    ida = house.who("ida")
    narrow = Identity(
        ida.id, "person", "Ida", "ida", (("x", Grant("configure")), ("x", Grant("read", types=("page",))))
    )
    with pytest.raises(Refused):
        house.desk.write(narrow, lambda a: people.issue_key(a, "Reads all", "reader", "program", ["release"]))
    house.do(
        "ida", lambda a: people.define_role(a, "pages", "page reader", [{"verb": "read", "types": ["page"]}])
    )
    key, secret = house.desk.write(
        narrow, lambda a: people.issue_key(a, "Pages", "pages", "program", ["release"])
    )
    assert identify(house, secret).stages == ("release",)
    assert key.start == secret[:9]


@pytest.mark.parametrize(
    ("name", "role", "kind", "stages", "says"),
    [
        ("", "reader", "program", ["release"], "say what the key is for"),
        ("x", "nobody", "program", ["release"], "is none of"),
        ("x", "reader", "person", ["release"], "program or assistant"),
        ("x", "reader", "program", ["nowhere"], "“nowhere” is none of draft"),
    ],
)
def test_a_key_that_cannot_be_says_why(
    house: House, name: str, role: str, kind: str, stages: list[str], says: str
) -> None:
    with pytest.raises(Invalid, match=says):
        house.do("ida", lambda a: people.issue_key(a, name, role, kind, stages))


@pytest.mark.parametrize(
    ("handle", "password", "roles", "zone", "error"),
    [
        ("wim", "long enough", [], "UTC", InTheWay),
        ("new", "short", [], "UTC", Invalid),
        ("new", "long enough", [{"name": "king"}], "UTC", Invalid),
        ("", "long enough", [], "UTC", Invalid),
        ("new", "long enough", [], "Sea/Bottom", Exception),
    ],
)
def test_a_person_that_cannot_be_added_is_not(
    house: House, handle: str, password: str, roles: list[dict], zone: str, error: type[Exception]
) -> None:
    before = house.desk.read(house.who("ida"), people.people)
    with pytest.raises(error):
        house.do("ida", lambda a: people.add_person(a, handle, "New", "", password, roles, zone))
    assert house.desk.read(house.who("ida"), people.people) == before


def test_why_names_the_role_or_the_missing_grant(house: House) -> None:
    page = house.page("Lamp")

    def why(handle: str, verb: str) -> permission.Why:
        return house.desk.read(
            house.who("ida"), lambda v: permission.why(v, handle, verb, entry=page, locale="en")
        )

    told = "Oda may: the role “section editor” grants “sign off or send back”."
    assert why("oda", "sign") == permission.Why(True, told, "section editor", [], "")
    refused = why("wim", "release")
    assert (refused.allowed, refused.who) == (False, ["Ida (managing editor)"])
    assert refused.missing == "“release, withdraw or plan” for page in en"
    with pytest.raises(NotFound, match="nobody called"):
        why("ghost", "read")


def test_own_only_grants_reach_ones_own_entries_alone(house: House) -> None:
    house.do(
        "ida",
        lambda a: people.define_role(
            a, "trainee", "trainee", [{"verb": "read"}, {"verb": "write", "own": True}]
        ),
    )
    house.do("ida", lambda a: people.add_person(a, "pip", "Pip", "", "long enough", [{"name": "trainee"}]))
    own = house.do("pip", lambda a: entries.start(a, "page", "en", {"title": "Mine"}))
    theirs = house.page("Theirs")

    def save(uuid: str) -> None:
        def do(act: entries.Act) -> None:
            row = entries.store.entry(act.conn, uuid)
            assert row is not None
            entries.save(act, uuid, "en", {"title": "x"}, entries.current_base(act, row.id, "en"))

        house.do("pip", do)

    save(own)
    with pytest.raises(Refused):
        save(theirs)


def drawn(size: tuple[int, int] = (12, 8), colour: str = "red", kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, kind)
    return out.getvalue()


@pytest.mark.parametrize(
    ("kind", "media"),
    [("PNG", "image/png"), ("JPEG", "image/jpeg"), ("WEBP", "image/webp"), ("GIF", "image/gif")],
)
def test_pictures_are_named_for_what_they_are_not_for_what_they_are_called(kind: str, media: str) -> None:
    found = files.inspect("../../etc/lamp.txt", drawn(kind=kind))
    assert (found.media_type, found.name, found.width, found.height) == (media, "lamp.txt", 12, 8)


def test_the_same_bytes_are_kept_once(house: House) -> None:
    for who in ("wim", "oda"):
        house.do(who, lambda a: files.keep(a, files.inspect("a.png", drawn())))
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM file").fetchone()[0] == 1
        assert conn.execute("SELECT count(*) FROM event WHERE kind = 'file.added'").fetchone()[0] == 1


def test_a_picture_whose_bytes_are_cut_is_damaged() -> None:
    whole = drawn((200, 200))
    with pytest.raises(BadFile, match=r"damaged|not a picture"):
        files.inspect("cut.png", whole[: len(whole) // 2])


def test_a_picture_is_readable_only_while_something_out_shows_it(house: House) -> None:
    value = house.do("wim", lambda a: files.keep(a, files.inspect("a.png", drawn())))
    picture = house.do(
        "wim", lambda a: entries.start(a, "picture", "en", {"title": "P", "alt": "p", "file": value})
    )

    def readable() -> bool:
        def look(view: permission.View) -> bool:
            try:
                shown_files.file(view, value["sha256"], reading.Place())
            except NotFound:
                return False
            return True

        return house.desk.read(house.who("ida"), look)

    assert not readable()
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(picture, "en")]))
    assert readable()
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(picture, "en", "withdraw")]))
    assert not readable()
    with house.desk.db.read() as conn:
        assert file_store.known(conn, value["sha256"])


def test_a_file_that_was_never_uploaded_is_refused_and_what_a_client_says_of_it_is_not_believed(
    house: House,
) -> None:
    with pytest.raises(Invalid, match="was not uploaded"):
        house.do(
            "wim", lambda a: entries.start(a, "picture", "en", {"title": "P", "file": {"sha256": "0" * 64}})
        )
    value = house.do("wim", lambda a: files.keep(a, files.inspect("a.png", drawn())))
    lie = {**value, "name": "other.exe", "width": 9999}
    picture = house.do("wim", lambda a: entries.start(a, "picture", "en", {"title": "P", "file": lie}))
    with house.desk.db.read() as conn:
        fields = conn.execute(
            "SELECT r.fields ->> '$.file.name', r.fields ->> '$.file.width' FROM revision r JOIN edition d ON d.id = r.edition "
            "JOIN entry e ON e.id = d.entry WHERE e.uuid = ? AND d.locale = '*'",
            (picture,),
        ).fetchone()
    assert tuple(fields) == ("a.png", 12)


def test_setting_up_needs_the_grant_and_says_what_is_wrong(house: House) -> None:
    with pytest.raises(Refused):
        house.do(
            "wim",
            lambda a: changing.define_type(a, {"name": "x", "fields": [{"name": "title", "kind": "line"}]}),
        )
    with pytest.raises(Invalid, match="There is no workflow"):
        house.do(
            "ida",
            lambda a: changing.define_type(
                a, {"name": "x", "workflow": "none", "fields": [{"name": "title", "kind": "line"}]}
            ),
        )
    with house.desk.db.read() as conn:
        assert len(store.roles(conn)) >= 10


def test_refusals_are_in_the_log_once_a_minute(house: House) -> None:
    page = house.page("Lamp")
    mine = {"Authorization": f"Bearer {log_in(house)}"}
    with serving(house) as (_, url), httpx.Client(base_url=url, headers=mine) as http:
        refused = ("DELETE", "/api/people/oda"), ("POST", f"/api/entries/{page}/en/sign")
        for _ in range(3):
            for method, address in refused:
                assert http.request(method, address, json={"stage": "release"}).status_code in (403, 422)
        assert http.get("/api/events", params={"kind": "access"}).status_code == 403

        def noted() -> list[tuple[str, str]]:
            log = house.desk.read(
                house.who("ida"), lambda v: show_log.page(v, show_log.Filter("access"), 1 << 62, 50)
            )
            return sorted((e["by"], e["what"]["what"]) for e in log["items"])

        expected = [("Wim", "DELETE /api/people/{handle}"), ("Wim", "GET /api/events")]
        assert eventually(lambda: set(expected) <= set(noted()))
        assert len(noted()) == len(set(noted()))
        house.clock.at += 61 * SECOND
        assert http.delete("/api/people/oda").status_code == 403
        assert eventually(lambda: noted().count(expected[0]) == 2)


def test_the_stream_ends_with_the_session(house: House) -> None:
    token = log_in(house)
    with serving(house) as (_, url), httpx.Client(base_url=url, timeout=20) as http:
        http.headers["Authorization"] = f"Bearer {token}"
        with httpx.stream("GET", f"{url}/events", headers=dict(http.headers), timeout=20) as stream:
            assert stream.status_code == 200
            lines = stream.iter_lines()
            next(lines)
            assert http.delete("/api/session").status_code == 204
            house.page("Said to nobody any more")
            rest = list(lines)
        assert not any("Said to nobody" in line for line in rest)


def test_limits_by_section_or_to_ones_own_do_not_keep_anybody_from_uploading(house: House) -> None:
    def add(act: Act) -> None:
        store.set_role(act.conn, "quay", "quay", [{"verb": "write", "sections": [7]}])
        store.set_role(act.conn, "mine", "mine", [{"verb": "write", "own": True}])
        for handle in ("quay", "mine"):
            people.add_person(act, handle, handle, f"{handle}@x.example", "long enough", [{"name": handle}])
        people.add_person(act, "looks", "Looks", "looks@x.example", "long enough", [{"name": "staff"}])

    house.do("ida", add)
    for who in ("quay", "mine"):
        assert house.do(who, lambda a: files.keep(a, files.inspect("a.png", drawn())))
    with pytest.raises(Refused):
        house.do("looks", lambda a: files.keep(a, files.inspect("a.png", drawn())))
