"""Caches that exist, with the configurations that ship, in front of the service: kept, shown while the service is away, and let go of by group and no further.

They are tried where they are installed (Debian's `varnish` and `nginx`).
"""

from __future__ import annotations

import io
import os
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import httpx
import pytest
from PIL import Image

from hawthorn.client import Client
from hawthorn.followers.webhooks import Webhooks
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import previews, webhooks
from hawthorn.operations.delivery.webhooks import Wanted
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from tests.conftest import eventually, free_port
from tests.followers.test_followers import Options
from tests.service.made import House, serving

until = partial(eventually, seconds=20)
EMPTY = entries.Base(None, None)
DEPLOY = Path(__file__).parents[2] / "deploy"
VARNISH = shutil.which("varnishd", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
NGINX = shutil.which("nginx", path=f"{os.environ.get('PATH', '')}:/usr/sbin")


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def answers(url: str) -> bool:
    try:
        return httpx.get(url, timeout=2).status_code < 500
    except httpx.HTTPError:
        return False


@contextmanager
def running(command: list[str], url: str, folder: Path) -> Iterator[None]:
    with (folder / "said").open("wb") as said:
        process = subprocess.Popen(command, cwd=folder, stdout=said, stderr=said)
    try:
        until(lambda: process.poll() is not None or answers(url))
        assert process.poll() is None, (folder / "said").read_text()
        yield
    finally:
        process.terminate()
        process.wait(20)


@contextmanager
def varnish(service: str, folder: Path) -> Iterator[str]:
    port = free_port()
    text = (DEPLOY / "varnish.vcl").read_text()
    text = text.replace('.port = "8400"', f'.port = "{service.rsplit(":", 1)[1]}"').replace(
        "interval = 2s", "interval = 0.2s"
    )
    (folder / "ours.vcl").write_text(text)
    command = [
        str(VARNISH), "-j", "none", "-F", "-n", str(folder / "varnish"), "-f", str(folder / "ours.vcl"), "-a", f"127.0.0.1:{port}", "-s", "malloc,32m",
    ]  # fmt: skip
    with running(command, f"http://127.0.0.1:{port}/api/health", folder):
        yield f"http://127.0.0.1:{port}"


@contextmanager
def nginx(service: str, folder: Path) -> Iterator[str]:
    port = free_port()
    text = (DEPLOY / "nginx.conf").read_text().replace("127.0.0.1:8400", service.removeprefix("http://"))
    text = text.replace("127.0.0.1:8480", f"127.0.0.1:{port}")
    # A folder of a test is its owner's alone.
    user = "user root;\n" if os.geteuid() == 0 else ""
    own = f"{user}worker_processes 1;\ndaemon off;"
    (folder / "ours.conf").write_text(text.replace("worker_processes auto;", own))
    command = [
        str(NGINX),
        "-p",
        str(folder),
        "-c",
        str(folder / "ours.conf"),
        "-e",
        str(folder / "error.log"),
    ]
    with running(command, f"http://127.0.0.1:{port}/api/health", folder):
        yield f"http://127.0.0.1:{port}"


def page(house: House, title: str, body: str = "<p>Words.</p>") -> str:
    uuid = house.signed(title, body=body)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    return uuid


@contextmanager
def receiving(cache: str, secret: str, port: int) -> Iterator[None]:
    """The receiver that ships, until it is not needed any more."""
    env = {**os.environ, "HAWTHORN_WEBHOOK_SECRET": secret}
    command = [sys.executable, str(DEPLOY / "let_go.py"), "--cache", cache, "--port", str(port)]
    process = subprocess.Popen(command, env=env)
    try:
        until(lambda: _listens(port))
        yield
    finally:
        process.terminate()
        process.wait(20)


def _listens(port: int) -> bool:
    with socket.socket() as tried:
        return tried.connect_ex(("127.0.0.1", port)) == 0


def retitled(house: House, uuid: str, title: str) -> None:
    """Another title, out."""
    house.do("wim", lambda a: entries.save(a, uuid, "en", {"title": title}, entries.base_now(a, uuid, "en")))
    house.do("wim", lambda a: review.submit(a, uuid, "en"))
    number = house.revision(uuid)["number"]
    house.do("oda", lambda a: review.sign_off(a, uuid, "en", number))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))


def kept(addresses: dict[str, str]) -> dict[str, str]:
    """What a cache says of each address: whether it had it."""
    return {name: httpx.get(address).headers["x-cache"].lower() for name, address in addresses.items()}


@pytest.mark.skipif(VARNISH is None, reason="varnish is not installed")
def test_varnish_lets_go_of_what_went_out_and_of_nothing_else_and_shows_the_rest_while_we_are_away(
    house: House, tmp_path: Path
) -> None:
    lamp = page(house, "Lamp")
    bell = page(house, "Bell", f'<p>See <a href="urn:uuid:{lamp}">the lamp</a>.</p>')
    rope = page(house, "Rope")
    port = free_port()
    with serving(house, shared_age=3_600) as (server, url), varnish(url, tmp_path) as cache:
        addresses = {
            name: f"{cache}/read/entries/{uuid}?locale=en"
            for name, uuid in (("lamp", lamp), ("bell", bell), ("rope", rope))
        }
        addresses |= {
            "list": f"{cache}/read/entries?type=page",
            "other": f"{cache}/read/entries?type=picture",
            "menu": f"{cache}/read/outline?locale=en",
        }
        kept(addresses)
        assert set(kept(addresses).values()) == {"hit"}
        # What is not there is not held either: it is there in the moment in which it goes out.
        later = house.signed("Later")
        awaited = [f"{cache}/read/entries/{later}?locale=en", f"{cache}/read/pages/en/later"]
        assert [httpx.get(one).status_code for one in awaited * 2] == [404] * 4
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(later, "en")]))
        assert [httpx.get(one).status_code for one in awaited] == [200, 200]
        # What only some may read goes past the cache, there and back.
        _, key = house.do("ida", lambda a: people.issue_key(a, "Site", "reader", "program", ["release"]))
        bearer = {"Authorization": f"Bearer {key}"}
        held = [httpx.get(addresses["lamp"], headers=bearer).headers["x-cache"] for _ in range(2)]
        assert held == ["miss", "miss"]
        for wrong in ("all", '"a" || x', ""):
            assert httpx.request("PURGE", f"{cache}/", headers={"Cache-Groups": wrong}).status_code == 400
        wanted = Wanted("The cache", f"http://127.0.0.1:{port}/", kinds=("dispatch.",))
        _, secret = house.do("ida", lambda a: webhooks.add(a, wanted))
        follower = Webhooks(house.desk, Options(allow_hosts=["127.0.0.1"]))
        with receiving(cache, secret, port):
            assert httpx.post(f"http://127.0.0.1:{port}/", content=b"{}").status_code == 401
            retitled(house, lamp, "Harbour lamp")
            assert set(kept(addresses).values()) == {"hit"}
            until(
                lambda: (
                    follower.step("one") is not None and kept({"lamp": addresses["lamp"]})["lamp"] == "miss"
                )
            )
        follower.close()
        after = kept(addresses)
        assert (after["rope"], after["other"]) == ("hit", "hit")
        assert (after["bell"], after["list"], after["menu"]) == ("miss", "miss", "miss")
        for name in ("lamp", "bell", "list", "menu"):
            assert "Harbour lamp" in httpx.get(addresses[name]).text
        server.stop()
        until(lambda: not answers(f"{url}/api/health"))
        # Nobody answers now: what is kept is shown all the same.
        time.sleep(1)
        assert httpx.get(addresses["rope"]).json()["title"] == "Rope"
        assert httpx.get(addresses["lamp"]).json()["title"] == "Harbour lamp"


@pytest.mark.skipif(NGINX is None, reason="nginx is not installed")
def test_nginx_keeps_asks_anew_with_what_it_has_and_shows_what_is_older_while_we_are_away(
    house: House, tmp_path: Path
) -> None:
    lamp, rope = page(house, "Lamp", f"<p>{'It burned. ' * 300}</p>"), page(house, "Rope")
    with serving(house, shared_age=1) as (server, url), nginx(url, tmp_path) as cache:
        address, other = (f"{cache}/read/entries/{uuid}?locale=en" for uuid in (lamp, rope))
        seen = [httpx.get(address).headers["x-cache"] for _ in range(3)]
        assert (seen[0], seen[-1]) == ("MISS", "HIT")
        assert httpx.get(address).headers["content-encoding"] == "gzip"
        until(lambda: httpx.get(address).headers["x-cache"] in ("REVALIDATED", "UPDATING", "STALE"))
        retitled(house, lamp, "Harbour lamp")
        until(lambda: httpx.get(address).json()["title"] == "Harbour lamp")
        held = httpx.get(other, headers={"Authorization": "Bearer hw_nobody"})
        assert held.status_code == 401
        assert httpx.get(other).headers["x-cache"] == "MISS"
        server.stop()
        until(lambda: not answers(f"{url}/api/health"))
        until(lambda: httpx.get(address).headers["x-cache"] in ("STALE", "UPDATING"))
        for _ in range(3):
            assert httpx.get(address).json()["title"] == "Harbour lamp"
        assert httpx.get(f"{cache}/read/entries/{rope}?locale=fr").status_code == 502


@pytest.mark.skipif(NGINX is None, reason="nginx is not installed")
def test_nginx_keeps_what_is_asked_for_in_each_language_apart_and_lets_streams_and_long_files_through(
    house: House, tmp_path: Path
) -> None:
    house.speaks(fr="French")
    lamp = page(house, "Lamp")
    house.do("wim", lambda a: entries.save(a, lamp, "fr", {"title": "Phare", "body": "<p>Mots.</p>"}, EMPTY))
    house.do("wim", lambda a: review.submit(a, lamp, "fr"))
    house.do("oda", lambda a: review.sign_off(a, lamp, "fr", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "fr")]))
    with serving(house, shared_age=3_600) as (_, url), nginx(url, tmp_path) as cache:
        for _ in range(2):
            for tag, title in (("en", "Lamp"), ("fr", "Phare")):
                found = httpx.get(f"{cache}/read/entries/{lamp}", headers={"Accept-Language": tag})
                assert (found.json()["title"], found.json()["locale"]) == (title, tag)
        assert found.headers["x-cache"] == "HIT"
        # What answers hang on beside their address is what the set-up names, or lets past.
        paths = (
            "read/entries?type=page",
            f"read/entries/{lamp}",
            "read/outline",
            "feeds/live/atom.xml",
            "read/nothing",
        )
        varied = {
            name.strip().lower()
            for path in paths
            for name in httpx.get(f"{url}/{path}").headers.get("vary", "").split(",")
        }
        assert varied <= {"", "accept-language", "authorization", "hawthorn-unlocked", "accept-encoding"}
        shown = house.do("ida", lambda a: previews.token(a, previews.open_pane(a)))
        with httpx.stream("GET", f"{cache}/read/changes", params={"preview": shown}, timeout=10) as stream:
            lines = stream.iter_lines()
            assert next(lines) is not None, "before anything happened"
            retitled(house, lamp, "Harbour lamp")
            assert next(line for line in lines if line.startswith("data:"))
        # A picture of more than a megabyte comes through.
        noise = Image.effect_noise((1400, 1400), 90)
        noise.save(drawn := io.BytesIO(), "png")
        assert len(drawn.getvalue()) > 1_000_000
        with Client(cache) as ida:
            ida.log_in("ida", "long enough")
            assert ida.upload("fog.png", drawn.getvalue()).width == 1400
