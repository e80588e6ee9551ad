"""Every call of the service, each defined once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote
from uuid import uuid4

from hawthorn import wire
from hawthorn.client.pages import PageCalls
from hawthorn.client.requests import Request, call, entry_at, into, nothing, plain
from hawthorn.client.requests import page as _page
from hawthorn.client.together import TogetherCalls

XLIFF = "application/xliff+xml"


def _once(key: str | None) -> dict[str, str]:
    return {"Idempotency-Key": key or uuid4().hex}


def _alone(fallback: bool) -> dict[str, str]:
    return {} if fallback else {"fallback": "false"}


def _taking(
    take: Sequence[str] | None, decisions: Mapping[str, Mapping[str, Any]] | None, note: str
) -> dict[str, Any]:
    return {
        "take": None if take is None else list(take),
        "decisions": {k: dict(v) for k, v in (decisions or {}).items()},
        "note": note,
    }


Item = tuple[str, str] | tuple[str, str, int | None]
"""An entry by id, a locale, and for a sign-off the revision that was looked at."""


def _many(act: str, items: Sequence[Item], options: Mapping[str, Any]) -> dict[str, Any]:
    listed = [dict(zip(("id", "locale", "revision"), one, strict=False)) for one in items]
    return {"act": act, "items": listed, **options}


class Calls(PageCalls, TogetherCalls):
    """The calls, without a way to send them."""

    @call
    def log_in(self, handle: str, password: str, code: str = "") -> Request[wire.access.Session]:
        """Log in; the client then acts as that person. `code` is that of the second factor, where there is one."""
        body = {"handle": handle, "password": password, "code": code}
        return Request("POST", "/api/session", into(wire.access.Session), json=body, logs_in=True)

    @call
    def log_out(self) -> Request[None]:
        """End the session."""
        return Request("DELETE", "/api/session", nothing)

    @call
    def me(self) -> Request[wire.access.Me]:
        """Who the caller is."""
        return Request("GET", "/api/me", into(wire.access.Me))

    @call
    def setup(self) -> Request[wire.views.Setup]:
        """Locales, content types, workflows and bureaus."""
        return Request("GET", "/api/setup", into(wire.views.Setup))

    @call
    def define_type(self, definition: Mapping[str, Any]) -> Request[wire.content.TypeSpec]:
        """Define a content type, or a new version of one."""
        return Request("PUT", "/api/types", into(wire.content.TypeSpec), json=dict(definition))

    @call
    def uses_of_type(self, name: str) -> Request[wire.content.Uses]:
        """What uses a content type, in words."""
        return Request("GET", f"/api/types/{quote(name)}/uses", into(wire.content.Uses))

    @call
    def delete_type(self, name: str) -> Request[None]:
        """Delete a content type that nothing uses."""
        return Request("DELETE", f"/api/types/{quote(name)}", nothing)

    @call
    def delete_set(self, name: str) -> Request[None]:
        """Delete a field set that no type uses."""
        return Request("DELETE", f"/api/field-sets/{quote(name)}", nothing)

    @call
    def check_type(self, definition: Mapping[str, Any]) -> Request[wire.content.Impact]:
        """What a definition of a type would do to the entries there are."""
        return Request("POST", "/api/types/check", into(wire.content.Impact), json=dict(definition))

    @call
    def type_definition(self, name: str) -> Request[dict[str, Any]]:
        """The definition of a type, as `define_type` takes it."""
        return Request("GET", f"/api/types/{quote(name)}", plain)

    @call
    def type_schema(self, name: str) -> Request[dict[str, Any]]:
        """A content type as JSON Schema (draft 2020-12)."""
        return Request("GET", f"/api/types/{quote(name)}/schema", plain)

    @call
    def define_set(self, definition: Mapping[str, Any]) -> Request[wire.content.SetSpec]:
        """Define a field set, or a new version of one."""
        return Request("PUT", "/api/field-sets", into(wire.content.SetSpec), json=dict(definition))

    @call
    def check_set(self, definition: Mapping[str, Any]) -> Request[wire.content.Impact]:
        """What a definition of a field set would do to all types that use it."""
        return Request("POST", "/api/field-sets/check", into(wire.content.Impact), json=dict(definition))

    @call
    def my_work(self) -> Request[wire.views.MyWork]:
        """What waits for the caller."""
        return Request("GET", "/api/my-work", into(wire.views.MyWork))

    @call
    def entries(
        self,
        *,
        type: str = "",
        locale: str = "",
        stage: str = "",
        person: str = "",
        words: str = "",
        section: str = "",
        topic: str = "",
        tag: str = "",
        since: str = "",
        until: str = "",
        validity: str = "",
        incomplete: bool = False,
        behind: bool = False,
        planned: bool = False,
        limit: int = 50,
        cursor: str = "",
    ) -> Request[wire.content.EntryPage]:
        """A page of entries by when their draft last changed; with words, those whose text has all of them."""
        params = {
            "type": type,
            "locale": locale,
            "stage": stage,
            "person": person,
            "words": words,
            "section": section,
            "topic": topic,
            "tag": tag,
            "since": since,
            "until": until,
            "validity": validity,
            "incomplete": incomplete,
            "behind": behind,
            "planned": planned,
            "limit": limit,
            "cursor": cursor,
        }
        return Request("GET", "/api/entries", into(wire.content.EntryPage), params=params)

    @call
    def look_up(self, text: str) -> Request[wire.search.Matches]:
        """Entries by address, by the start of their id, or by a part of the title."""
        return Request("GET", "/api/entries/lookup", into(wire.search.Matches), params={"text": text})

    @call
    def entry(self, id: str, locale: str = "", *, strand: str = "") -> Request[wire.views.Entry]:
        """An entry in a locale; in its source when none is given. Its draft, or another strand."""
        path = entry_at(id, locale) if locale else f"/api/entries/{quote(id)}"
        return Request("GET", path, into(wire.views.Entry), params={"strand": strand})

    @call
    def start(
        self,
        type: str,
        fields: Mapping[str, Any],
        *,
        locale: str = "en",
        note: str = "",
        key: str | None = None,
    ) -> Request[wire.views.Entry]:
        """Start an entry. `key` makes a repeat harmless; one is made when none is given."""
        body = {"type": type, "locale": locale, "fields": dict(fields), "note": note}
        return Request("POST", "/api/entries", into(wire.views.Entry), json=body, headers=_once(key))

    @call
    def save(
        self,
        id: str,
        locale: str,
        fields: Mapping[str, Any],
        *,
        etag: str,
        note: str = "",
        strand: str = "draft",
    ) -> Request[wire.views.SaveResult]:
        """Save fields over the revision that `etag` names. Raises `Refusal` with `conflicts` when it cannot merge."""
        body = {"fields": dict(fields), "note": note, "strand": strand}
        return Request(
            "PATCH", entry_at(id, locale), into(wire.views.SaveResult), json=body, headers={"If-Match": etag}
        )

    @call
    def settle(
        self,
        id: str,
        locale: str,
        *,
        typed: Mapping[str, int],
        decisions: Mapping[str, Mapping[str, Any]],
        etag: str,
        strand: str = "draft",
    ) -> Request[wire.views.SaveResult]:
        """Settle a conflict: for each place `{"take": "ours" | "theirs" | "both" | "own", "value": …}`."""
        body = {
            "typed": dict(typed),
            "decisions": {k: dict(v) for k, v in decisions.items()},
            "strand": strand,
        }
        return Request(
            "POST",
            entry_at(id, locale, "settle"),
            into(wire.views.SaveResult),
            json=body,
            headers={"If-Match": etag},
        )

    @call
    def restore(self, id: str, locale: str, revision: int) -> Request[wire.views.SaveResult]:
        """Bring an older revision back as a new one."""
        return Request(
            "POST", entry_at(id, locale, "restore"), into(wire.views.SaveResult), json={"revision": revision}
        )

    @call
    def history(
        self, id: str, locale: str, *, limit: int = 50, cursor: str = ""
    ) -> Request[wire.views.History]:
        """Revisions, standings and events, newest first."""
        params = _page(limit, cursor)
        return Request("GET", entry_at(id, locale, "history"), into(wire.views.History), params=params)

    @call
    def compare(
        self, id: str, locale: str, *, before: str = "release", after: str = "draft"
    ) -> Request[wire.content.Comparison]:
        """Two revisions (numbers), stages (names), `draft` or strands (`strand:` and a name); `fr@draft` for another locale."""
        params = {"before": before, "after": after}
        return Request("GET", entry_at(id, locale, "compare"), into(wire.content.Comparison), params=params)

    @call
    def copy_entry(
        self, id: str, *, fields: Mapping[str, Any] | None = None, note: str = "", key: str | None = None
    ) -> Request[wire.views.Entry]:
        """Start an entry as a copy of another, in all its locales."""
        body = {"fields": dict(fields or {}), "note": note}
        return Request(
            "POST", f"/api/entries/{quote(id)}/copy", into(wire.views.Entry), json=body, headers=_once(key)
        )

    @call
    def bring_back(self, id: str) -> Request[wire.views.Entry]:
        """Bring a removed entry back as a draft."""
        return Request("POST", f"/api/entries/{quote(id)}/bring-back", into(wire.views.Entry))

    @call
    def templates(self, *, limit: int = 0, cursor: str = "") -> Request[wire.content.Templates]:
        """The templates of types that the caller may write."""
        return Request("GET", "/api/templates", into(wire.content.Templates), params=_page(limit, cursor))

    @call
    def make_template(self, id: str, name: str) -> Request[wire.content.Templates]:
        """Make a template from an entry as its drafts stand now."""
        return Request(
            "POST", f"/api/entries/{quote(id)}/template", into(wire.content.Templates), json={"name": name}
        )

    @call
    def start_from_template(
        self,
        template: str,
        *,
        locale: str = "en",
        fields: Mapping[str, Any] | None = None,
        note: str = "",
        key: str | None = None,
    ) -> Request[wire.views.Entry]:
        """Start an entry from a template, in any locale."""
        body = {"locale": locale, "fields": dict(fields or {}), "note": note}
        return Request(
            "POST",
            f"/api/templates/{quote(template)}/entries",
            into(wire.views.Entry),
            json=body,
            headers=_once(key),
        )

    @call
    def end_template(self, id: str) -> Request[None]:
        """End a template."""
        return Request("DELETE", f"/api/templates/{quote(id)}", nothing)

    @call
    def strands(
        self, id: str, locale: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.content.Strands]:
        """The strands of an edition, open ones first."""
        return Request(
            "GET", entry_at(id, locale, "strands"), into(wire.content.Strands), params=_page(limit, cursor)
        )

    @call
    def fork_strand(
        self, id: str, locale: str, name: str, *, revision: int | None = None, note: str = ""
    ) -> Request[wire.views.Entry]:
        """Fork a strand from a revision; from the head of the draft when none is named."""
        body = {"name": name, "revision": revision, "note": note}
        return Request("POST", entry_at(id, locale, "strands"), into(wire.views.Entry), json=body)

    @call
    def drop_strand(self, id: str, locale: str, name: str) -> Request[wire.content.Strands]:
        """Drop a strand; it can be opened again."""
        return Request(
            "POST", entry_at(id, locale, "strands", quote(name), "drop"), into(wire.content.Strands)
        )

    @call
    def reopen_strand(self, id: str, locale: str, name: str) -> Request[wire.views.Entry]:
        """Open a strand again that was merged or dropped."""
        return Request("POST", entry_at(id, locale, "strands", quote(name), "reopen"), into(wire.views.Entry))

    @call
    def proposal(
        self,
        id: str,
        locale: str,
        name: str,
        *,
        take: Sequence[str] | None = None,
        decisions: Mapping[str, Mapping[str, Any]] | None = None,
    ) -> Request[wire.content.Proposal]:
        """What merging a strand would do, whole or in part, with conflicts settled in some way."""
        path = entry_at(id, locale, "strands", quote(name), "proposal", "check")
        return Request("POST", path, into(wire.content.Proposal), json=_taking(take, decisions, ""))

    @call
    def accept_proposal(
        self,
        id: str,
        locale: str,
        name: str,
        *,
        etag: str,
        take: Sequence[str] | None = None,
        decisions: Mapping[str, Mapping[str, Any]] | None = None,
        note: str = "",
    ) -> Request[wire.views.Entry]:
        """Bring a strand in exactly as the proposal with that ETag showed it."""
        return Request(
            "POST",
            entry_at(id, locale, "strands", quote(name), "proposal"),
            into(wire.views.Entry),
            json=_taking(take, decisions, note),
            headers={"If-Match": etag},
        )

    @call
    def tags(self, start: str = "", *, limit: int = 0, cursor: str = "") -> Request[wire.search.Tags]:
        """Tags in use that begin so, with how many entries have each."""
        params = {"start": start} | _page(limit, cursor)
        return Request("GET", "/api/tags", into(wire.search.Tags), params=params)

    @call
    def topics(self, type: str, *, limit: int = 0, cursor: str = "") -> Request[wire.search.Topics]:
        """The entries of a type as a tree, each with how many entries refer to it."""
        return Request(
            "GET", f"/api/topics/{quote(type)}", into(wire.search.Topics), params=_page(limit, cursor)
        )

    @call
    def lists(self, *, limit: int = 0, cursor: str = "") -> Request[wire.search.SavedLists]:
        """One's own lists and the shared ones."""
        return Request("GET", "/api/lists", into(wire.search.SavedLists), params=_page(limit, cursor))

    @call
    def save_list(
        self, name: str, query: Mapping[str, Any], *, shared: bool = False, key: str | None = None
    ) -> Request[wire.search.SavedList]:
        """Keep a query of entries under a name."""
        body = {"name": name, "query": dict(query), "shared": shared}
        return Request("POST", "/api/lists", into(wire.search.SavedList), json=body, headers=_once(key))

    @call
    def change_list(
        self, id: str, name: str, query: Mapping[str, Any], *, shared: bool = False
    ) -> Request[wire.search.SavedList]:
        """Change a list of one's own."""
        body = {"name": name, "query": dict(query), "shared": shared}
        return Request("PUT", f"/api/lists/{quote(id)}", into(wire.search.SavedList), json=body)

    @call
    def drop_list(self, id: str) -> Request[None]:
        """Drop a list of one's own."""
        return Request("DELETE", f"/api/lists/{quote(id)}", nothing)

    @call
    def check_bulk(
        self,
        act: str,
        items: Sequence[Item],
        *,
        note: str = "",
        tag: str = "",
        field: str = "",
        value: Any = None,
        when: Mapping[str, str] | None = None,
    ) -> Request[wire.content.BulkResult]:
        """What one act would do to each of many entries, given as (id, locale)."""
        options = {"note": note, "tag": tag, "field": field, "value": value, "when": when}
        return Request(
            "POST", "/api/entries/bulk/check", into(wire.content.BulkResult), json=_many(act, items, options)
        )

    @call
    def bulk(
        self,
        act: str,
        items: Sequence[Item],
        *,
        note: str = "",
        tag: str = "",
        field: str = "",
        value: Any = None,
        when: Mapping[str, str] | None = None,
        key: str | None = None,
    ) -> Request[wire.content.BulkResult]:
        """Do one act to many entries, with a result for each."""
        options = {"note": note, "tag": tag, "field": field, "value": value, "when": when}
        return Request(
            "POST",
            "/api/entries/bulk",
            into(wire.content.BulkResult),
            json=_many(act, items, options),
            headers=_once(key),
        )

    @call
    def submit(self, id: str, locale: str, note: str = "") -> Request[wire.views.Entry]:
        """Submit the draft for review."""
        return Request("POST", entry_at(id, locale, "submit"), into(wire.views.Entry), json={"note": note})

    @call
    def take_back(self, id: str, locale: str) -> Request[wire.views.Entry]:
        """Take a submission back."""
        return Request("POST", entry_at(id, locale, "take-back"), into(wire.views.Entry))

    @call
    def sign_off(self, id: str, locale: str, revision: int, note: str = "") -> Request[wire.views.Entry]:
        """Sign off exactly the revision that was looked at."""
        return Request(
            "POST",
            entry_at(id, locale, "sign"),
            into(wire.views.Entry),
            json={"revision": revision, "note": note},
        )

    @call
    def send_back(self, id: str, locale: str, reason: str) -> Request[wire.views.Entry]:
        """Send a submission back with a reason."""
        return Request(
            "POST", entry_at(id, locale, "send-back"), into(wire.views.Entry), json={"reason": reason}
        )

    @call
    def check_dispatch(
        self,
        moves: Sequence[Mapping[str, Any]],
        *,
        when: Mapping[str, str] | None = None,
        with_needs: bool = False,
    ) -> Request[wire.release.DispatchCheck]:
        """What a dispatch would do and what blocks it."""
        body = {"moves": list(moves), "when": when, "with_needs": with_needs}
        return Request("POST", "/api/dispatches/check", into(wire.release.DispatchCheck), json=body)

    @call
    def dispatch(
        self,
        moves: Sequence[Mapping[str, Any]],
        *,
        when: Mapping[str, str] | None = None,
        name: str = "",
        note: str = "",
        with_needs: bool = False,
        key: str | None = None,
    ) -> Request[wire.release.Dispatch]:
        """Release or withdraw; now, or as planned with `{"wall": …, "zone": …}` or `{"instant": …}`."""
        body = {"moves": list(moves), "when": when, "name": name, "note": note, "with_needs": with_needs}
        return Request("POST", "/api/dispatches", into(wire.release.Dispatch), json=body, headers=_once(key))

    @call
    def dispatches(
        self, *, since: str = "", until: str = "", limit: int = 0, cursor: str = ""
    ) -> Request[wire.release.DispatchList]:
        """Dispatches by when they go or went, in order of time."""
        params = {"since": since, "until": until} | _page(limit, cursor)
        return Request("GET", "/api/dispatches", into(wire.release.DispatchList), params=params)

    @call
    def dispatch_shown(self, id: str) -> Request[wire.release.Dispatch]:
        """A dispatch with its moves and what would hold it."""
        return Request("GET", f"/api/dispatches/{quote(id)}", into(wire.release.Dispatch))

    @call
    def cancel_dispatch(self, id: str) -> Request[wire.release.Dispatch]:
        """Call a planned dispatch off."""
        return Request("POST", f"/api/dispatches/{quote(id)}/cancel", into(wire.release.Dispatch))

    @call
    def replan(self, id: str, when: Mapping[str, str]) -> Request[wire.release.Dispatch]:
        """Give a planned dispatch another time."""
        return Request(
            "POST", f"/api/dispatches/{quote(id)}/replan", into(wire.release.Dispatch), json=dict(when)
        )

    @call
    def commission(
        self,
        entries: Sequence[str],
        locales: Sequence[str],
        *,
        name: str = "",
        due: str = "",
        note: str = "",
        bureau: str = "",
        again: bool = False,
        key: str | None = None,
    ) -> Request[wire.translation.Commission]:
        """Order translations; without a bureau its files are carried by hand. What another job has already is left out, unless
        it shall go `again`."""
        body = {
            "entries": list(entries),
            "locales": list(locales),
            "name": name,
            "due": due,
            "note": note,
            "bureau": bureau,
            "again": again,
        }
        return Request(
            "POST", "/api/commissions", into(wire.translation.Commission), json=body, headers=_once(key)
        )

    @call
    def estimate(
        self, entries: Sequence[str], locales: Sequence[str], *, again: bool = False
    ) -> Request[wire.translation.Estimates]:
        """What each locale of an order would hold."""
        body = {"entries": list(entries), "locales": list(locales), "again": again}
        return Request("POST", "/api/commissions/estimate", into(wire.translation.Estimates), json=body)

    @call
    def jobs(self, *, limit: int = 0, cursor: str = "") -> Request[wire.translation.JobList]:
        """Jobs, newest first."""
        return Request("GET", "/api/jobs", into(wire.translation.JobList), params=_page(limit, cursor))

    @call
    def job(self, id: str) -> Request[wire.translation.Job]:
        """A job with its units."""
        return Request("GET", f"/api/jobs/{quote(id)}", into(wire.translation.Job))

    @call
    def grid(
        self, *, type: str = "", words: str = "", limit: int = 0, cursor: str = ""
    ) -> Request[wire.translation.Grid]:
        """Entries against locales: what is missing, in translation, behind, ready or out."""
        params = {"type": type, "words": words}
        return Request(
            "GET", "/api/translation/grid", into(wire.translation.Grid), params=params | _page(limit, cursor)
        )

    @call
    def export_job(self, id: str) -> Request[bytes]:
        """The job as an XLIFF 2.1 file."""
        return Request("GET", f"/api/jobs/{quote(id)}/file", lambda r: r.content)

    @call
    def import_job(self, id: str, data: bytes) -> Request[wire.translation.ImportResult]:
        """Import a translated file; it is taken whole or not at all."""
        headers = {"Content-Type": XLIFF}
        return Request(
            "PUT",
            f"/api/jobs/{quote(id)}/file",
            into(wire.translation.ImportResult),
            content=data,
            headers=headers,
        )

    @call
    def choose(self, id: str, entry: str, key: str, take: str) -> Request[wire.translation.JobLine]:
        """Settle a unit that was edited while it was away: "ours" or "theirs"."""
        body = {"entry": entry, "key": key, "take": take}
        return Request("POST", f"/api/jobs/{quote(id)}/choose", into(wire.translation.JobLine), json=body)

    @call
    def accept(
        self, id: str, *, entry: str = "", key: str = "", note: str = ""
    ) -> Request[wire.translation.AcceptResult]:
        """Accept one unit, or all that is left."""
        body = {"entry": entry, "key": key, "note": note}
        return Request(
            "POST", f"/api/jobs/{quote(id)}/accept", into(wire.translation.AcceptResult), json=body
        )

    @call
    def send_job_again(self, id: str) -> Request[wire.translation.JobLine]:
        """Send a failed job to its bureau once more."""
        return Request("POST", f"/api/jobs/{quote(id)}/send-again", into(wire.translation.JobLine))

    @call
    def cancel_job(self, id: str) -> Request[wire.translation.JobLine]:
        """Cancel a job."""
        return Request("POST", f"/api/jobs/{quote(id)}/cancel", into(wire.translation.JobLine))

    @call
    def upload(self, name: str, data: bytes) -> Request[wire.media.FileValue]:
        """Upload a picture; the answer is the value for a file field."""
        return Request("POST", "/api/files", into(wire.media.FileValue), files={"file": (name, data)})

    @call
    def read(
        self,
        id: str,
        *,
        locale: str = "",
        stage: str = "",
        at: str = "",
        preview: str = "",
        fallback: bool = True,
    ) -> Request[wire.delivery.ReadEntry]:
        """An entry as those who read see it; `preview` is what the address of a previewed page carries. Without `fallback`
        no other locale stands in."""
        params = {"locale": locale, "stage": stage, "at": at, "preview": preview, **_alone(fallback)}
        return Request("GET", f"/read/entries/{quote(id)}", into(wire.delivery.ReadEntry), params=params)

    @call
    def read_page(
        self, path: str, *, stage: str = "", at: str = "", preview: str = ""
    ) -> Request[wire.delivery.ReadEntry]:
        """An entry by the path of its page, locale first."""
        params = {"stage": stage, "at": at, "preview": preview}
        return Request(
            "GET", f"/read/pages/{quote(path.lstrip('/'))}", into(wire.delivery.ReadEntry), params=params
        )

    @call
    def read_entries(
        self,
        *,
        type: str = "",
        locale: str = "",
        stage: str = "",
        at: str = "",
        limit: int = 20,
        cursor: str = "",
        fallback: bool = True,
    ) -> Request[wire.delivery.ReadPage]:
        """Entries that stand somewhere, those that came out last first. Without `fallback` no other locale stands in."""
        params = {
            "type": type,
            "locale": locale,
            "stage": stage,
            "at": at,
            "limit": limit,
            "cursor": cursor,
            **_alone(fallback),
        }
        return Request("GET", "/read/entries", into(wire.delivery.ReadPage), params=params)
