"""The calls of what goes out of a house and comes in: set-up as a document, packages, receipts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, Told, call, into, nothing, once, page, plain, untold

_SETUP = "/api/setup/document"
_PACKAGES = "/api/packages"
_MAPPINGS = "/api/mappings"


def _package(id: str, *more: str) -> str:
    return "/".join((_PACKAGES, quote(id), *more))


class ExchangeCalls:
    """The calls of exchange, without a way to send them."""

    @call
    def setup_document(self, parts: Sequence[str] = ()) -> Request[wire.exchange.SetupDocument]:
        """What the house is set up with, as one document, all of it or some parts."""
        return Request("GET", _SETUP, into(wire.exchange.SetupDocument), params={"part": list(parts)})

    @call
    def check_setup(self, document: Mapping[str, Any]) -> Request[wire.exchange.SetupDifferences]:
        """What a document of set-up would change; nothing is done."""
        return Request("POST", f"{_SETUP}/check", into(wire.exchange.SetupDifferences), json=dict(document))

    @call
    def apply_setup(self, document: Mapping[str, Any]) -> Request[wire.exchange.SetupDifferences]:
        """Put what a document of set-up says in place, all of it or nothing."""
        return Request("PUT", _SETUP, into(wire.exchange.SetupDifferences), json=dict(document))

    @call
    def packages(self, *, limit: int = 0, cursor: str = "") -> Request[wire.exchange.Packages]:
        """The packages there were, made and given, the newest first."""
        return Request("GET", _PACKAGES, into(wire.exchange.Packages), params=page(limit, cursor))

    @call
    def make_package(
        self, asked: Mapping[str, Any] = {}, *, idempotency_key: str | None = None
    ) -> Request[wire.exchange.Package]:
        """Ask for a package of entries; it is made meanwhile."""
        return Request(
            "POST", _PACKAGES, into(wire.exchange.Package), json=dict(asked), headers=once(idempotency_key)
        )

    @call
    def give_package(
        self, path: Path, *, name: str = "package.zip", wish: Mapping[str, bool] = {}, told: Told = untold
    ) -> Request[wire.exchange.Package]:
        """Give a package, which is looked through meanwhile; `told` is told how many bytes are there."""
        return Request(
            "PUT",
            f"{_PACKAGES}/file",
            into(wire.exchange.Package),
            content=path,
            params={"name": name, **wish},
            headers={"Content-Type": "application/zip"},
            slow=True,
            told=told,
        )

    @call
    def give_rows(
        self,
        path: Path,
        *,
        name: str = "",
        type: str = "",
        locale: str = "",
        mapping: str = "",
        told: Told = untold,
    ) -> Request[wire.exchange.Package]:
        """Give rows that become entries: a table or pages, which are looked through meanwhile; `mapping` names one that is kept."""
        return Request(
            "PUT",
            f"{_PACKAGES}/rows",
            into(wire.exchange.Package),
            content=path,
            params={"name": name or Path(path).name, "type": type, "locale": locale, "mapping": mapping},
            headers={"Content-Type": "application/octet-stream"},
            slow=True,
            told=told,
        )

    @call
    def map_rows(self, id: str, wish: Mapping[str, Any]) -> Request[wire.exchange.Package]:
        """Look through rows again, as they are to become entries in another way."""
        return Request("POST", _package(id, "map"), into(wire.exchange.Package), json=dict(wish))

    @call
    def mappings(self, *, limit: int = 0, cursor: str = "") -> Request[wire.exchange.KeptMappings]:
        """The mappings of rows that are kept, by name."""
        return Request("GET", _MAPPINGS, into(wire.exchange.KeptMappings), params=page(limit, cursor))

    @call
    def mapping(self, name: str) -> Request[wire.exchange.KeptMapping]:
        """A mapping that is kept."""
        return Request("GET", f"{_MAPPINGS}/{quote(name, safe='')}", into(wire.exchange.KeptMapping))

    @call
    def keep_mapping(self, name: str, mapping: Mapping[str, Any]) -> Request[wire.exchange.KeptMapping]:
        """Keep a mapping under a name, for rows of the same kind that come later."""
        path = f"{_MAPPINGS}/{quote(name, safe='')}"
        return Request("PUT", path, into(wire.exchange.KeptMapping), json=dict(mapping))

    @call
    def drop_mapping(self, name: str) -> Request[None]:
        """Keep a mapping no longer."""
        return Request("DELETE", f"{_MAPPINGS}/{quote(name, safe='')}", nothing)

    @call
    def package(self, id: str) -> Request[wire.exchange.Package]:
        """A package: how far it is, and what was found in it."""
        return Request("GET", _package(id), into(wire.exchange.Package))

    @call
    def fetch_package(self, id: str, goal: Path, *, told: Told = untold) -> Request[None]:
        """Fetch the file of a package that was made; what was broken off goes on."""
        return Request("GET", _package(id, "file"), nothing, goal=goal, told=told, slow=True)

    @call
    def look_at_package(self, id: str, wish: Mapping[str, bool]) -> Request[wire.exchange.Package]:
        """Look through a package again, as it is to be brought in another way."""
        return Request("POST", _package(id, "look"), into(wire.exchange.Package), json=dict(wish))

    @call
    def run_package(self, id: str) -> Request[wire.exchange.Package]:
        """Bring a package that was looked through; one that was broken off goes on."""
        return Request("POST", _package(id, "run"), into(wire.exchange.Package))

    @call
    def cancel_package(self, id: str) -> Request[wire.exchange.Package]:
        """Break off what is being done with a package."""
        return Request("POST", _package(id, "cancel"), into(wire.exchange.Package))

    @call
    def undo_package(self, id: str) -> Request[wire.exchange.Package]:
        """Undo what a package brought, but for what somebody wrote since."""
        return Request("POST", _package(id, "undo"), into(wire.exchange.Package))

    @call
    def drop_package(self, id: str) -> Request[None]:
        """Forget a package, and its file; what it brought stays."""
        return Request("DELETE", _package(id), nothing)

    @call
    def entries_sheet(
        self,
        goal: Path,
        query: Mapping[str, Any] = {},
        *,
        format: str = "csv",
        fields: Sequence[str] = (),
        told: Told = untold,
    ) -> Request[None]:
        """Fetch the list of entries that is asked for by the members of `query`, all of it, as a table: csv or xlsx."""
        params = {**query, "field": list(fields) or None}
        return Request(
            "GET",
            f"/api/sheets/entries.{quote(format)}",
            nothing,
            params=params,
            goal=goal,
            told=told,
            slow=True,
        )

    @call
    def receipt(self, dispatch: str) -> Request[wire.exchange.SignedReceipt]:
        """A receipt for what a dispatch brought out, signed with the key of the house."""
        path = f"/api/dispatches/{quote(dispatch)}/receipt"
        return Request("GET", path, into(wire.exchange.SignedReceipt))

    @call
    def receipt_key(self) -> Request[wire.exchange.ReceiptKey]:
        """The public key of the house, to verify receipts with."""
        return Request("GET", "/api/receipt-key", into(wire.exchange.ReceiptKey))

    @call
    def backups(self, *, limit: int = 0, cursor: str = "") -> Request[wire.exchange.Backups]:
        """The backups that were made by the timetable, the newest first."""
        return Request("GET", "/api/backups", into(wire.exchange.Backups), params=page(limit, cursor))

    @call
    def person_data(self, handle: str) -> Request[dict[str, Any]]:
        """Everything that the records hold about somebody."""
        return Request("GET", f"/api/people/{quote(handle)}/data", plain)

    @call
    def check_forget_person(self, handle: str) -> Request[wire.exchange.Forgotten]:
        """In how much the name of somebody who has left stands; nothing is changed."""
        return Request("POST", f"/api/people/{quote(handle)}/forget/check", into(wire.exchange.Forgotten))

    @call
    def forget_person(self, handle: str) -> Request[wire.exchange.Forgotten]:
        """Take the name of somebody who has left out of the records. It cannot be undone."""
        return Request("POST", f"/api/people/{quote(handle)}/forget", into(wire.exchange.Forgotten))
