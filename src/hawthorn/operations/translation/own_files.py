"""Own files of a job: files that differ by locale go along with the words, and those of the other language come back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.fields import Field
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation.translation import (
    CLOSED,
    find,
    may_translate,
    require_translate,
    takes_no_return,
    told,
)
from hawthorn.store import entries as entry_store
from hawthorn.store import files, jobs, revisions
from hawthorn.store import own_files as store
from hawthorn.store.jobs import Job, JobEntry
from hawthorn.store.own_files import Given


@dataclass(frozen=True, slots=True)
class OwnFile:
    """A file of an entry that differs by locale: the source's, what the translation holds, and what is known of that. `state` is "open" where
    nobody has given one or said that the source's will do, "given", or "moved" where the source has had another file since."""

    entry: str
    title: str
    field: str
    label: str
    source: Mapping[str, Any]
    target: Mapping[str, Any] | None
    state: str
    by: str
    at: str
    may_give: bool


def of_job(view: View, job: Job) -> list[OwnFile]:
    """The own files of a job, in its order."""
    given = store.given(view.conn, job.id)
    out: list[OwnFile] = []
    for part in jobs.entries(view.conn, job.id):
        kind = view.setup.type(part.type)
        specs = _specs(kind, job.locale)
        if not specs or part.put_away:
            continue
        source, target = (drafted(view, part.entry, tag) for tag in (part.source_locale, job.locale))
        title = entry_store.title(view.conn, part.entry)
        mine = job.state not in CLOSED and may_translate(view, job, part) and not kind.read_only
        for spec in specs:
            held = source.fields.get(spec.name)
            if held:
                have = target.fields.get(spec.name)
                known = given.get((part.entry, spec.name))
                out.append(_shown(part, title, spec, held, have, known, may_give=mine))
    return out


def open_ones(view: View, job: Job) -> list[OwnFile]:
    """Those that nobody has seen to, or that the source has another file of by now."""
    return [one for one in of_job(view, job) if one.state != "given"]


def give(act: Act, uuid: str, entry: str, field: str, sha256: str) -> OwnFile:
    """Put a stored file in the place of the source's into the translation; without one, the source's will do for it. Raises `NotFound` for
    no such file of the job, and `Invalid` for a file that nobody has uploaded."""
    job = find(act, uuid)
    part = next((p for p in jobs.entries(act.conn, job.id) if p.uuid == entry), None)
    if part is None:
        raise NotFound("own_files.not_there", field=field)
    require_translate(act, job, part)
    if job.state in CLOSED:
        raise takes_no_return(job)
    permission.require_writable(act, part.type)
    kind = act.setup.type(part.type)
    spec = next((one for one in _specs(kind, job.locale) if one.name == field), None)
    source = drafted(act, part.entry, part.source_locale).fields.get(field) if spec else None
    if spec is None or source is None:
        raise NotFound("own_files.not_there", field=field)
    if sha256 and not files.known(act.conn, sha256):
        raise Invalid([FieldProblem("sha256", said("drafts.not_uploaded"))])
    _put(act, job, part, kind, {field: {"sha256": sha256} if sha256 else dict(source)})
    held = sha256 or str(source["sha256"])
    store.give(act.conn, job.id, (part.entry, field), str(source["sha256"]), held, act.identity.id, act.now)
    title = entry_store.title(act.conn, part.entry)
    told(act, "job.file-given", job, title=title, field=field, sha256=held)
    now = drafted(act, part.entry, job.locale).fields.get(field)
    known = store.given(act.conn, job.id)[part.entry, field]
    return _shown(part, title, spec, source, now, known, may_give=True)


def _specs(kind: ContentType, locale: str) -> list[Field]:
    """The fields of a type whose file differs by locale."""
    return [one for one in kind.belonging(locale) if one.kind == "file" and one.translate]


def _shown(
    part: JobEntry,
    title: str,
    spec: Field,
    source: Mapping[str, Any],
    target: Mapping[str, Any] | None,
    given: Given | None,
    *,
    may_give: bool,
) -> OwnFile:
    stands = given is not None and target is not None and target["sha256"] == given.sha256
    moved = given is not None and given.source_sha256 != source["sha256"]
    return OwnFile(
        entry=part.uuid,
        title=title,
        field=spec.name,
        label=spec.label,
        source=source,
        target=target,
        state="open" if not stands else "moved" if moved else "given",
        by=given.by if given and stands else "",
        at=iso(given.at) if given and stands else "",
        may_give=may_give,
    )


def _put(act: Act, job: Job, part: JobEntry, kind: ContentType, patch: Mapping[str, Any]) -> None:
    entry = entry_store.entry_by_id(act.conn, part.entry)
    if entry_store.edition(act.conn, entry.id, job.locale) is None:
        entry_store.add_edition(act.conn, entry.id, job.locale)
    edition = entry_store.edition(act.conn, entry.id, job.locale)
    assert edition is not None
    before: Content = revisions.content(act.conn, edition.head) if edition.head else EMPTY
    made = drafts.in_stored_form(act, kind, entry, job.locale, before, patch)
    content = replace(before, fields=made.fields)
    if content != before:
        drafts.record(act, kind, entry, edition, content, act.keep("notes.returned", job=job.name), "return")
