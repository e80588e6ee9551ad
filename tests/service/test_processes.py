"""Many at once, processes killed half-way, the demo itself: nothing is lost, nothing half-written, nothing left behind."""

from __future__ import annotations

import contextlib
import json
import os
import random
import re
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import httpx
import pytest

from hawthorn.client import Client, Refusal, Unreachable
from hawthorn.core.errors import InTheWay
from hawthorn.demo import making
from hawthorn.demo.museum import PASSWORD
from hawthorn.demo.places import Doors
from hawthorn.operations.views.health import health
from hawthorn.wire.problems import Problem
from tests.conftest import Running, eventually, free_port
from tests.service.made import Clock, House


def test_eight_people_saving_one_entry_at_once_lose_nothing(running: Running) -> None:
    entry = running.notice(
        "Everybody at once", body="".join(f"<p>Paragraph {n} of the text.</p>" for n in range(8))
    )
    typed: list[str] = []
    troubles: list[Exception] = []

    def write(who: str, seed: int) -> None:
        rng = random.Random(seed)
        with Client(running.url) as hawthorn:
            hawthorn.log_in(who, PASSWORD)
            for turn in range(6):
                try:
                    now = hawthorn.entry(entry.id, "en")
                    word = f"{who}{seed}x{turn}"
                    body = str(now.fields["body"])
                    at = rng.choice([m.start() for m in re.finditer("</p>", body)])
                    changed = body[:at] + f" {word}." + body[at:]
                    time.sleep(rng.random() * 0.02)
                    typed.append(word)
                    try:
                        hawthorn.save(entry.id, "en", {"body": changed}, etag=now.etag)
                    except Refusal as clash:
                        settle(hawthorn, clash)
                except Exception as error:
                    troubles.append(error)
                    return

    def settle(hawthorn: Client, clash: Refusal) -> None:
        """Take both texts wherever there are two; look again when somebody was faster."""
        kept, places = clash.typed, {c.place for c in clash.conflicts}
        etag = str(clash.problem.fact("etag"))
        for _ in range(60):
            try:
                hawthorn.settle(
                    entry.id, "en", typed=kept, decisions={p: {"take": "both"} for p in places}, etag=etag
                )
                return
            except Refusal as again:
                places |= {c.place for c in again.conflicts}
                etag = str(again.problem.fact("etag"))
        raise AssertionError("it never settled")

    people = ["wim", "nell", "oda", "tomas", "ida", "wim", "nell", "oda"]
    threads = [threading.Thread(target=write, args=(who, n)) for n, who in enumerate(people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert troubles == []
    body = str(running.as_("wim").entry(entry.id, "en").fields["body"])
    assert [word for word in typed if body.count(word) == 0] == []
    assert all(f"Paragraph {n} of the text." in body for n in range(8))
    assert len(typed) == 48


def test_two_who_release_at_once_make_one_release(running: Running) -> None:
    entry = running.signed("Released by two")
    answers: list[str] = []

    def release(who: str) -> None:
        with Client(running.url) as hawthorn:
            hawthorn.log_in(who, PASSWORD)
            try:
                answers.append(hawthorn.dispatch([{"id": entry.id, "locale": "en"}]).state)
            except Refusal as refused:
                answers.append(refused.slug)

    threads = [threading.Thread(target=release, args=(who,)) for who in ("ida", "jonas")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answers) == ["gone", "in-the-way"]
    history = running.as_("ida").history(entry.id, "en")
    assert [s.stage for s in history.standings].count("release") == 1


_SAVER = """
import sys, pathlib
from hawthorn.operations.content import entries
from tests.service.made import Clock, House
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[2])))
uuid = sys.argv[3]
print("ready", flush=True)
n = 0
while True:
    n += 1
    def save(act):
        row = entries.store.entry(act.conn, uuid)
        base = entries.current_base(act, row.id, "en")
        entries.save(act, uuid, "en", {"title": f"Turn {n}", "body": f"<p>Turn {n}</p>" * 20}, base)
    house.do("wim", save)
    print(n, flush=True)
"""


def test_a_service_that_is_killed_while_saving_keeps_every_save_that_it_confirmed(tmp_path: Path) -> None:
    house = House(tmp_path)
    page = house.page("Killed")
    at = house.clock.at
    house.close()
    confirmed = 0
    for turn in range(3):
        process = subprocess.Popen(
            [sys.executable, "-c", _SAVER, str(tmp_path), str(at + turn * 10**12), page],
            stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2],
        )  # fmt: skip
        assert process.stdout is not None
        assert process.stdout.readline() == "ready\n"
        last = 0
        for _ in range(20 + 7 * turn):
            last = int(process.stdout.readline())
        os.kill(process.pid, signal.SIGKILL)
        rest = process.stdout.read().split()
        last = int(rest[-1]) if rest else last
        process.wait()
        process.stdout.close()
        confirmed += last
        again = House(tmp_path, Clock(at + turn * 10**12))
        assert again.desk.read(again.who("ida"), health) == []
        with again.desk.db.read() as conn:
            saved = conn.execute("SELECT count(*) FROM revision WHERE origin = 'save'").fetchone()[0]
            logged = conn.execute("SELECT count(*) FROM event WHERE kind = 'entry.saved'").fetchone()[0]
            assert saved == logged
            assert confirmed <= saved <= confirmed + turn + 1
            confirmed = saved
        again.close()


def test_the_demo_opens_with_one_command_and_leaves_nothing_behind(tmp_path: Path) -> None:
    env = {**os.environ, "TMPDIR": str(tmp_path), "COLUMNS": "120"}
    process = subprocess.Popen(
        [sys.executable, "-m", "hawthorn.cli.app", "demo", "--port", "0"],
        stdout=subprocess.PIPE,
        text=True,
        env=env,
    )
    assert process.stdout is not None
    lines: list[str] = []
    for line in process.stdout:
        lines.append(line)
        if "Ctrl-C stops it" in line:
            break
    said = "".join(lines)
    addresses = dict(
        re.findall(r"^(Console|Public site|Preview site|Bureau|Mail catcher)\s+(http://\S+)", said, re.M)
    )
    assert len(addresses) == 5
    assert PASSWORD in said
    assert all(handle in said for handle in ("ida", "oda", "wim", "mina", "luc", "aiko"))
    for url in addresses.values():
        assert httpx.get(url, follow_redirects=True).status_code == 200
    with httpx.stream(
        "GET", addresses["Console"] + "/events", headers=bearer(addresses["Console"])
    ) as stream:
        lines_of = stream.iter_lines()
        next(lines_of)
        process.send_signal(signal.SIGINT)
        with contextlib.suppress(httpx.TransportError):
            for _ in lines_of:
                pass
    assert process.wait(20) == 0
    assert "Nothing was left behind" in process.stdout.read()
    process.stdout.close()
    assert [p for p in tmp_path.iterdir() if p.name.startswith("hawthorn-demo-")] == []


def test_the_demo_can_be_told_to_stop_before_it_is_open_and_is_begun_again_in_the_same_folder(
    tmp_path: Path,
) -> None:
    def begin(*more: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [sys.executable, "-m", "hawthorn.cli.app", "demo", "--port", "0", *more],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env={**os.environ, "TMPDIR": str(tmp_path), "COLUMNS": "120"},
        )

    kept = tmp_path / "kept"
    process = begin("--keep", str(kept))
    assert eventually(lambda: (kept / "unfinished" / "museum.sqlite").exists() or None, seconds=60)
    process.send_signal(signal.SIGINT)
    said, wrong = process.communicate(timeout=60)
    assert (process.returncode, wrong) == (0, "")
    assert "is open" not in said
    if making.keys_in(kept) is not None:
        # It was all there when it came to look whether it was told to stop.
        assert f"Its data is in {kept}" in said.replace("\n", "")
        shutil.rmtree(kept)
        kept.mkdir()
    else:
        assert "Nothing was left behind" in said
    assert list(kept.iterdir()) == []
    # Broken off by a power cut it would have stayed.
    (kept / "unfinished").mkdir()
    (kept / "unfinished" / "museum.sqlite").write_bytes(b"half of it")
    doors = Doors()
    doors.close()
    keys = making.make(kept, doors.ports, time.time_ns() // 1000, whole=False)
    assert making.keys_in(kept) == keys
    assert not (kept / "unfinished").exists()
    house = tmp_path / "house"
    house.mkdir()
    (house / "museum.sqlite").write_bytes(b"somebody's own")
    _, wrong = (process := begin("--keep", str(house))).communicate(timeout=60)
    assert process.returncode == 1
    assert "is not the demo's: name another folder" in wrong
    assert [(one.name, one.read_bytes()) for one in house.iterdir()] == [("museum.sqlite", b"somebody's own")]


def bearer(url: str) -> dict[str, str]:
    token = httpx.post(f"{url}/api/session", json={"handle": "wim", "password": PASSWORD}).json()["token"]
    return {"Authorization": f"Bearer {token}"}


def test_a_port_that_is_taken_is_named_before_anything_starts(running: Running) -> None:
    port = running.demo.ports.service
    done = subprocess.run(
        [sys.executable, "-m", "hawthorn.cli.app", "demo", "--port", str(port)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1
    assert f"Port {port} is taken" in done.stderr
    assert "--port 0" in done.stderr


def test_the_parts_have_a_port_each_and_nobody_else_gets_it_before_they_run() -> None:
    doors = Doors()
    try:
        numbers = {getattr(doors.ports, part) for part in doors.sockets}
        assert len(numbers) == 7
        for number in numbers:
            with pytest.raises(OSError, match="in use"):
                socket.create_server(("127.0.0.1", number))
        with pytest.raises(InTheWay, match=f"Port {doors.ports.service} is taken, which the service needs"):
            Doors(doors.ports.service)
    finally:
        doors.close()


def test_the_cached_read_and_the_slow_one_give_the_same_answer(running: Running) -> None:
    entry = running.out("Cached and slow")
    with httpx.Client(base_url=running.url) as http:
        http.get(f"/read/entries/{entry.id}?locale=en")
        hot = http.get(f"/read/entries/{entry.id}?locale=en")
        key = {"Authorization": f"Bearer {running.demo.keys['site']}"}
        slow = http.get(f"/read/entries/{entry.id}?locale=en", headers=key)
        assert hot.content == slow.content
        for name in ("etag", "cache-control", "content-type", "vary"):
            assert hot.headers[name] == slow.headers[name]
        for odd in ("?locale=xx", "?locale=", "?locale=en&x=1", "?locale=%00", "?locale=en%27--"):
            assert http.get(f"/read/entries/{entry.id}{odd}").status_code in (200, 422)
        assert http.get("/read/entries/not-an-id?locale=en").status_code == 404


def test_mail_and_bureau_have_pages_for_people(running: Running) -> None:
    entry = running.notice("Paged <b>mail</b>")
    running.as_("wim").submit(entry.id, "en", "<i>note</i>")
    eventually(lambda: running.mails("For review: Paged <b>mail</b>"))
    page = httpx.get(running.demo.ports.url("mail")).text
    assert "Paged &lt;b&gt;mail" in page
    assert "<i>note" not in page
    assert "Saltmarsh Translations" in httpx.get(running.demo.ports.url("bureau")).text
    assert httpx.get(running.demo.ports.url("bureau") + "/v1/jobs/none").status_code == 401
    assert httpx.post(running.demo.ports.url("bureau") + "/trouble", json={"next": "x"}).status_code == 422


def test_a_client_says_plainly_that_nothing_answers() -> None:
    with Client("http://127.0.0.1:9") as hawthorn, pytest.raises(Unreachable, match="No service answers"):
        hawthorn.me()


def test_a_client_at_another_kind_of_server_says_so(running: Running) -> None:
    with Client(running.demo.ports.url("bureau")) as other, pytest.raises(Refusal) as refused:
        other.me()
    assert "address is that of a Hawthorn service" in refused.value.problem.remedy


def test_a_problem_keeps_members_that_it_does_not_know() -> None:
    found = Problem.model_validate(
        {"type": "urn:hawthorn:problem:x", "title": "X", "status": 400, "new": [1]}
    )
    assert found.slug == "x"
    assert found.fact("new") == [1]
    assert found.fact("none", 7) == 7


def _serve(file: Path, port: int) -> subprocess.Popen[str]:
    """A service process of its own on a record file."""
    settings = {"HAWTHORN_FILE": str(file), "HAWTHORN_PORT": str(port), "HAWTHORN_BUREAU_PAUSE": "1"}
    return subprocess.Popen(
        [str(Path(sys.executable).with_name("hawthorn")), "serve"],
        env={**os.environ, **settings}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip


def test_what_one_process_does_the_stream_of_another_tells_and_a_third_goes_on_from_there(
    tmp_path: Path,
) -> None:
    house = House(tmp_path, Clock(time.time_ns() // 1000))
    page = house.page("Told across")
    house.close()
    ports = [free_port() for _ in range(3)]
    processes = [_serve(house.path, port) for port in ports]
    clients = [Client(f"http://127.0.0.1:{port}") for port in ports]
    lines: list[str] = []
    try:
        for client in clients:
            eventually(lambda c=client: answers(c))
            client.log_in("ida", "long enough")

        def listen() -> None:
            with (
                contextlib.suppress(httpx.HTTPError),
                clients[0]._http.stream("GET", "/events", timeout=30) as stream,
            ):
                for line in stream.iter_lines():
                    lines.append(line)

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        eventually(lambda: lines)
        clients[1].be_present(page, "en", "page-in-another-process", field="title")
        eventually(lambda: "event: presence" in lines)
        clients[1].submit(page, "en")
        eventually(lambda: any("review.submitted" in line for line in lines))
        last = [line for line in lines if line.startswith("id: ")][-1].removeprefix("id: ")
        processes[0].kill()
        thread.join(10)
        clients[1].take_back(page, "en")
        clients[1].submit(page, "en", "Again.")
        told: list[str] = []
        with clients[2]._http.stream("GET", "/events", headers={"Last-Event-ID": last}, timeout=30) as stream:
            for line in stream.iter_lines():
                told.append(line)
                if "review.submitted" in line:
                    break
        kinds = [json.loads(line.removeprefix("data: "))["kind"] for line in told if '"kind"' in line]
        assert kinds == ["review.taken-back", "review.submitted"]
    finally:
        for client in clients:
            client.close()
        for process in processes:
            process.kill()
            process.wait()


def answers(client: Client) -> bool:
    """Whether a service answers."""
    try:
        return client._http.get("/api/health").is_success
    except httpx.HTTPError:
        return False
