"""Logging in through an identity provider, against logging in with a password."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import httpx
import uvicorn

from benchmarks import made
from benchmarks.figures import Figure, free_port, interleaved, service, serving
from hawthorn.demo.accounts import CLIENT, SECRET, Account, Accounts
from hawthorn.operations.access import people
from hawthorn.operations.runtime.act import SCHEDULER_SELF

ROUNDS = 15
PASSWORD = "a lamp in the fog"


def figure_entering(folder: Path) -> dict[str, Figure]:
    """One person, who is here already: there and back through the provider, with everything that it and the service ask of one another, and by password."""
    path = folder / "entering.sqlite"
    desk = made.open_desk(path)
    address = "uma@pellgrave.example"
    held = [{"name": "writer"}]
    desk.write(SCHEDULER_SELF, lambda act: people.add_person(act, "uma", "Uma", address, PASSWORD, held))
    desk.db.close()
    port, at = free_port(), free_port()
    url, issuer = f"http://127.0.0.1:{port}", f"http://127.0.0.1:{at}"
    accounts = Accounts(issuer, {"uma": Account("uma", "Uma", address)})
    server = uvicorn.Server(uvicorn.Config(accounts.app(), host="127.0.0.1", port=at, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    given = {"PROVIDER": issuer, "PROVIDER_CLIENT": CLIENT, "PROVIDER_SECRET": SECRET}
    command = ["env", *(f"HAWTHORN_{name}={value}" for name, value in given.items()), *service(path, port)]

    def by_provider() -> float:
        with httpx.Client(base_url=url) as browser, httpx.Client() as there:
            begun = time.perf_counter()
            address = browser.post("/api/session/provider/begin").json()["address"]
            went = there.post(address, data={"who": "uma"})
            back = {name: one[0] for name, one in parse_qs(urlsplit(went.headers["location"]).query).items()}
            body = {"code": back["code"], "state": back["state"], "issuer": back["iss"]}
            answer = browser.post("/api/session/provider", json=body)
            took = time.perf_counter() - begun
        assert answer.status_code == 201, answer.text
        return took

    def by_password() -> float:
        with httpx.Client(base_url=url) as browser:
            begun = time.perf_counter()
            answer = browser.post("/api/session", json={"handle": "uma", "password": PASSWORD})
            took = time.perf_counter() - begun
        assert answer.status_code == 201, answer.text
        return took

    with serving((command, port, "/api/health")):
        by_provider()
        by_password()
        ours, floor = interleaved(by_provider, by_password, ROUNDS)
    server.should_exit = True
    thread.join(10)
    ratio = ours / floor
    return {"log-in through a provider ÷ by password": Figure(ours, floor, ratio, 2, "lower", "s")}
