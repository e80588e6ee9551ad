"""The calls of translation: commissions, jobs and bureaus."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, once, page

XLIFF = "application/xliff+xml"


class TranslationCalls:
    """The calls of translation, without a way to send them."""

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
        current: bool = False,
        key: str | None = None,
    ) -> Request[wire.translation.Commission]:
        """Order translations; without a bureau its files are carried by hand. What another job has already is left out, unless
        it shall go `again`, and what is up to date, unless it shall go as well."""
        body = {
            "entries": list(entries),
            "locales": list(locales),
            "name": name,
            "due": due,
            "note": note,
            "bureau": bureau,
            "again": again,
            "current": current,
        }
        return Request(
            "POST", "/api/commissions", into(wire.translation.Commission), json=body, headers=once(key)
        )

    @call
    def estimate(
        self,
        entries: Sequence[str],
        locales: Sequence[str],
        *,
        due: str = "",
        bureau: str = "",
        again: bool = False,
        current: bool = False,
    ) -> Request[wire.translation.Estimates]:
        """What each locale of an order would hold, and what would be in the way of it."""
        body = {
            "entries": list(entries),
            "locales": list(locales),
            "due": due,
            "bureau": bureau,
            "again": again,
            "current": current,
        }
        return Request("POST", "/api/commissions/estimate", into(wire.translation.Estimates), json=body)

    @call
    def jobs(
        self,
        *,
        state: str = "",
        locale: str = "",
        bureau: str = "",
        person: str = "",
        limit: int = 0,
        cursor: str = "",
    ) -> Request[wire.translation.JobList]:
        """Jobs, newest first: those in a state, or all that are open; into a locale; of a bureau (its name), or that a person translates
        (a handle)."""
        params = {"state": state, "locale": locale, "bureau": bureau, "person": person} | page(limit, cursor)
        return Request("GET", "/api/jobs", into(wire.translation.JobList), params=params)

    @call
    def job(self, id: str) -> Request[wire.translation.Job]:
        """A job with its units."""
        return Request("GET", f"/api/jobs/{quote(id)}", into(wire.translation.Job))

    @call
    def grid(
        self, asked: Mapping[str, str] | None = None, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.coverage.Grid]:
        """Entries against locales: what each edition is, and how far it covers its source. Asked for by type, words, section, owner,
        due, locale and state."""
        params = dict(asked or {}) | page(limit, cursor)
        return Request("GET", "/api/translation/grid", into(wire.coverage.Grid), params=params)

    @call
    def totals(self, asked: Mapping[str, str] | None = None) -> Request[wire.coverage.Totals]:
        """The sums of all that `grid` has, by locale."""
        return Request("GET", "/api/translation/totals", into(wire.coverage.Totals), params=dict(asked or {}))

    @call
    def entry_coverage(self, id: str, locale: str) -> Request[wire.coverage.EntryCoverage]:
        """How an entry stands in the locales, and what is due in one of them."""
        return Request(
            "GET",
            f"/api/entries/{quote(id)}/{quote(locale)}/coverage",
            into(wire.coverage.EntryCoverage),
        )

    @call
    def still_fits(
        self, id: str, locale: str, fits: Mapping[str, str]
    ) -> Request[wire.coverage.EntryCoverage]:
        """Say that texts of a translation fit their source: its hash as it was looked at, by the key of the text."""
        return Request(
            "POST",
            f"/api/entries/{quote(id)}/{quote(locale)}/still-fits",
            into(wire.coverage.EntryCoverage),
            json={"fits": dict(fits)},
        )

    @call
    def export_job(self, id: str, *, format: str = "") -> Request[bytes]:
        """The job as a file: XLIFF 2.1, or another format."""
        params = {"format": format} if format else {}
        return Request("GET", f"/api/jobs/{quote(id)}/file", lambda r: r.content, params=params)

    @call
    def export_jobs(self, ids: Sequence[str], *, format: str = "") -> Request[bytes]:
        """Several jobs as a ZIP archive of their files."""
        params: dict[str, Any] = {"job": list(ids)} | ({"format": format} if format else {})
        return Request("GET", "/api/job-files", lambda r: r.content, params=params)

    @call
    def import_job(
        self, id: str, data: bytes, *, whole: bool = False, check: bool = False
    ) -> Request[wire.translation.ImportResult]:
        """Import a translated file: what fits is taken and the rest named; with `whole`, all or nothing, with `check` nothing is kept."""
        headers = {"Content-Type": XLIFF}
        return Request(
            "PUT",
            f"/api/jobs/{quote(id)}/file",
            into(wire.translation.ImportResult),
            content=data,
            headers=headers,
            params={"whole": whole, "check": check},
            slow=True,
        )

    @call
    def import_jobs(self, data: bytes, *, whole: bool = False) -> Request[wire.translation.ArchiveResult]:
        """Import several translated files in one ZIP archive, each for the job that it names."""
        return Request(
            "PUT",
            "/api/job-files",
            into(wire.translation.ArchiveResult),
            content=data,
            params={"whole": whole},
            headers={"Content-Type": "application/zip"},
            slow=True,
        )

    @call
    def choose(self, id: str, entry: str, key: str, take: str) -> Request[wire.translation.JobLine]:
        """Settle a unit that was edited while it was away: "ours" or "theirs"."""
        body = {"entry": entry, "key": key, "take": take}
        return Request("POST", f"/api/jobs/{quote(id)}/choose", into(wire.translation.JobLine), json=body)

    @call
    def accept(
        self,
        id: str,
        units: Sequence[tuple[str, str]] = (),
        *,
        note: str = "",
        release: bool = False,
        dispatch: str = "",
    ) -> Request[wire.translation.AcceptResult]:
        """Accept some units, each by its entry and key, or all that is left; what was accepted whole is released, or put into a dispatch, if
        that is asked."""
        body = {
            "units": [{"entry": entry, "key": key} for entry, key in units],
            "note": note,
            "release": release,
            "dispatch": dispatch,
        }
        return Request(
            "POST", f"/api/jobs/{quote(id)}/accept", into(wire.translation.AcceptResult), json=body
        )

    @call
    def segments(self, id: str, *, limit: int = 0, cursor: str = "") -> Request[wire.translation.Segments]:
        """The sentences of a job, in order; a page has so many units."""
        return Request(
            "GET",
            f"/api/jobs/{quote(id)}/segments",
            into(wire.translation.Segments),
            params=page(limit, cursor),
        )

    @call
    def save_segment(
        self,
        id: str,
        place: Mapping[str, str],
        target: str,
        *,
        before: str = "",
        state: str = "translated",
        remark: str = "",
    ) -> Request[wire.translation.SegmentsNow]:
        """Keep what was written for a sentence (its `entry`, `key` and `segment`); refused when another stands there than `before`."""
        body = dict(place) | {"target": target, "before": before, "state": state, "remark": remark}
        return Request(
            "PUT", f"/api/jobs/{quote(id)}/segments", into(wire.translation.SegmentsNow), json=body
        )

    @call
    def check_segment(
        self, id: str, place: Mapping[str, str], target: str
    ) -> Request[wire.translation.Findings]:
        """What is worth a look in a target; nothing is kept."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/segments/check",
            into(wire.translation.Findings),
            json=dict(place) | {"target": target},
        )

    @call
    def split_segment(
        self, id: str, place: Mapping[str, str], at: int
    ) -> Request[wire.translation.SegmentsNow]:
        """Cut a sentence in two before a character of its source's words."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/segments/split",
            into(wire.translation.SegmentsNow),
            json=dict(place) | {"at": at},
        )

    @call
    def join_segments(self, id: str, place: Mapping[str, str]) -> Request[wire.translation.SegmentsNow]:
        """Make one of a sentence and the next of its unit."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/segments/join",
            into(wire.translation.SegmentsNow),
            json=dict(place),
        )

    @call
    def deliver(self, id: str) -> Request[wire.translation.ImportResult]:
        """Put every unit that is translated at the table into its edition."""
        return Request("POST", f"/api/jobs/{quote(id)}/deliver", into(wire.translation.ImportResult))

    @call
    def send_unit_back(
        self, id: str, entry: str, key: str, why: str
    ) -> Request[wire.translation.SegmentsNow]:
        """Open a unit again that had returned, and say why."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/send-back",
            into(wire.translation.SegmentsNow),
            json={"entry": entry, "key": key, "why": why},
        )

    @call
    def send_job_again(self, id: str) -> Request[wire.translation.JobLine]:
        """Send a failed job to its bureau once more."""
        return Request("POST", f"/api/jobs/{quote(id)}/send-again", into(wire.translation.JobLine))

    @call
    def assign_job(
        self,
        id: str,
        *,
        person: str | None = None,
        bureau: str | None = None,
        due: str | None = None,
        note: str = "",
    ) -> Request[wire.translation.JobLine]:
        """Give a job to a person (a handle), to a bureau (its name) or to whoever writes its locale (an empty `person`), or change the day on
        which it is due; what is not given stays."""
        given = {"person": person, "bureau": bureau, "due": due, "note": note}
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/assign",
            into(wire.translation.JobLine),
            json={name: value for name, value in given.items() if value is not None},
        )

    @call
    def cancel_job(self, id: str) -> Request[wire.translation.JobLine]:
        """Cancel a job."""
        return Request("POST", f"/api/jobs/{quote(id)}/cancel", into(wire.translation.JobLine))

    @call
    def ask_about_segment(
        self, id: str, place: Mapping[str, str], text: str
    ) -> Request[wire.translation.Question]:
        """Ask about a sentence (its `entry`, `key` and `segment`)."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/questions",
            into(wire.translation.Question),
            json=dict(place) | {"text": text},
        )

    @call
    def answer_question(self, id: str, number: int, answer: str) -> Request[wire.translation.Question]:
        """Answer a question about a job, or answer it otherwise."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/questions/{number}/answer",
            into(wire.translation.Question),
            json={"answer": answer},
        )

    @call
    def give_own_file(
        self, id: str, entry: str, field: str, sha256: str = ""
    ) -> Request[wire.translation.OwnFile]:
        """Put a stored file in the place of the source's into a translation; without one, the source's will do."""
        return Request(
            "PUT",
            f"/api/jobs/{quote(id)}/own-files/{quote(entry)}/{quote(field)}",
            into(wire.translation.OwnFile),
            json={"sha256": sha256},
        )

    @call
    def reopen_job(self, id: str) -> Request[wire.translation.JobLine]:
        """Open a cancelled job again: what returns is taken."""
        return Request("POST", f"/api/jobs/{quote(id)}/reopen", into(wire.translation.JobLine))

    @call
    def bureaus(self, *, limit: int = 0, cursor: str = "") -> Request[wire.bureaus.Bureaus]:
        """The bureaus that take jobs."""
        return Request("GET", "/api/bureaus", into(wire.bureaus.Bureaus), params=page(limit, cursor))

    @call
    def add_bureau(
        self,
        name: str,
        url: str,
        *,
        kind: str = "http",
        codes: Mapping[str, str] | None = None,
        key: str = "",
        secret: str = "",
        rates: Mapping[str, Any] | None = None,
        untested: bool = False,
    ) -> Request[wire.bureaus.BureauMade]:
        """Add a bureau, or bring one back that ended: `codes` maps our locales to its own, `rates` are what it asks (currency, word, locales,
        shares). It is asked what it offers first, unless it is to be added `untested`."""
        body = {
            "name": name,
            "url": url,
            "kind": kind,
            "codes": dict(codes or {}),
            "key": key,
            "secret": secret,
            "rates": dict(rates or {}),
            "untested": untested,
        }
        return Request("POST", "/api/bureaus", into(wire.bureaus.BureauMade), json=body)

    @call
    def change_bureau(self, id: int, given: Mapping[str, Any]) -> Request[wire.bureaus.Bureau]:
        """Change what is given of a bureau: name, url, codes, key, secret, rates; `untested` asks it nothing."""
        return Request("PATCH", f"/api/bureaus/{id}", into(wire.bureaus.Bureau), json=dict(given))

    @call
    def new_bureau_secret(self, id: int) -> Request[wire.bureaus.BureauSecret]:
        """Give a bureau another secret to sign with, good at once."""
        return Request("POST", f"/api/bureaus/{id}/secret", into(wire.bureaus.BureauSecret))

    @call
    def end_bureau(self, id: int) -> Request[None]:
        """End a bureau that has no open jobs."""
        return Request("DELETE", f"/api/bureaus/{id}", nothing)

    @call
    def try_bureau(self, id: int) -> Request[wire.bureaus.BureauTrial]:
        """Ask a bureau what it offers, which is kept; no job is sent."""
        return Request("POST", f"/api/bureaus/{id}/try", into(wire.bureaus.BureauTrial))
