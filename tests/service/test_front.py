"""Starting: the service listens at once, what is asked early waits for what it needs, and a start that fails says so."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path

import httpx

from tests.conftest import eventually, free_port
from tests.service.made import Clock, House


def serve(path: Path, port: int, code: str = "") -> subprocess.Popen[str]:
    run = code or "from hawthorn.cli.app import main; main()"
    return subprocess.Popen(
        [sys.executable, "-c", run, "serve", "--file", str(path), "--port", str(port)],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )


def up(url: str) -> bool:
    try:
        return httpx.get(f"{url}/api/health", timeout=5).json()["ok"] is True
    except httpx.HTTPError:
        return False


def test_what_is_asked_while_the_service_starts_is_answered(tmp_path: Path) -> None:
    house = House(tmp_path, Clock(time.time_ns() // 1000))
    house.close()
    port = free_port()
    process = serve(house.path, port)
    url = f"http://127.0.0.1:{port}"
    try:
        eventually(lambda: up(url), 60)
        body = {"handle": "ida", "password": "long enough"}
        answer = httpx.post(f"{url}/api/session", json=body, timeout=60)
        assert answer.status_code == 201
        assert httpx.get(f"{url}/api/health").json()["trouble"] == []
        assert httpx.get(f"{url}/").status_code in (200, 503)
    finally:
        process.send_signal(signal.SIGTERM)
    said, _ = process.communicate(timeout=60)
    assert process.returncode in (0, -signal.SIGTERM)
    assert "Traceback" not in said


def test_a_stop_while_it_starts_leaves_nothing_behind(tmp_path: Path) -> None:
    port = free_port()
    process = serve(tmp_path / "new.sqlite", port)
    eventually(lambda: up(f"http://127.0.0.1:{port}"), 60)
    process.send_signal(signal.SIGTERM)
    said, _ = process.communicate(timeout=60)
    assert "Traceback" not in said
    assert not (tmp_path / "new.sqlite.wake").exists()
    again = House(tmp_path)
    again.close()


def test_a_start_that_fails_ends_with_a_status_and_answers_nobody(tmp_path: Path) -> None:
    port = free_port()
    code = (
        "import hawthorn.service.app as app\n"
        "def fails(*a, **k): raise RuntimeError('no start today')\n"
        "app.create_asgi = fails\n"
        "from hawthorn.cli.app import main; main()"
    )
    process = serve(tmp_path / "new.sqlite", port, code)
    said, _ = process.communicate(timeout=60)
    assert process.returncode == 1
    assert "no start today" in said


def test_a_file_that_cannot_be_used_ends_the_start_with_a_sentence(tmp_path: Path) -> None:
    other = tmp_path / "letter.sqlite"
    other.write_text("Dear all, this is no record file. " * 50)
    process = serve(other, free_port())
    said, _ = process.communicate(timeout=60)
    assert process.returncode == 1
    assert "is not a Hawthorn record file" in " ".join(said.split())
    assert "Traceback" not in said


def test_a_service_may_open_as_many_files_as_the_system_lets_it(tmp_path: Path) -> None:
    port = free_port()
    process = subprocess.Popen(
        [
            "bash",
            "-c",
            f"ulimit -Sn 256; exec {sys.executable} -m hawthorn.cli.app serve --file {tmp_path / 'new.sqlite'} --port {port}",
        ],
        stdout=subprocess.DEVNULL,
    )
    try:
        eventually(lambda: up(f"http://127.0.0.1:{port}"), 60)
        limits = Path(f"/proc/{process.pid}/limits").read_text()
        soft, hard = next(line for line in limits.splitlines() if line.startswith("Max open files")).split()[
            3:5
        ]
        assert soft == hard
    finally:
        process.terminate()
        process.wait(60)
