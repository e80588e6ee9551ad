"""Exports: a job as a file that tells a translator what they need, with what came of it until now."""

from __future__ import annotations

import io
import json
import zipfile
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

from hawthorn.core import formats
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid
from hawthorn.core.messages import said
from hawthorn.core.translation.units import Unit
from hawthorn.operations.delivery import previews
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import against, at_hand, own_files
from hawthorn.operations.translation.translation import codes_of, find, sent_of
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobUnit

MOST_JOBS = 200
"""So many jobs are put into one archive."""
_FIRST = (1980, 1, 1, 0, 0, 0)
"""The date of what lies in an archive, so that equal jobs give equal bytes."""


def export(
    view: View, uuid: str, written: formats.Format = formats.USUAL, public: str = ""
) -> tuple[str, bytes]:
    """The job as a file of a format, with its file name. Where it is known under which address (`public`) the service is reached, the file
    says where those files are fetched that differ by locale."""
    job = find(view, uuid)
    files: list[formats.OutFile] = []
    parts = [part for part in store.entries(view.conn, job.id) if not part.put_away]
    if not parts:
        raise InTheWay("exporting.all_put_away")
    seen = previews.seen_by_job(view, job.id, (part.entry for part in parts))
    own = _own(view, job, public)
    for part in parts:
        title = entry_store.title(view.conn, part.entry)
        rows = {u.key: u for u in store.units_of(view.conn, job.id, part.entry)}
        sent = sent_of(view, job, part)
        before = against.before(view, part.entry, job.locale, sent)
        mine = tuple(_so_far(one.unit, rows[key], before) for key, one in sent.items())
        files.append(
            formats.OutFile(f"urn:uuid:{part.uuid}", title, mine, seen.get(part.entry, ""), own[part.uuid])
        )
    source, target = codes_of(job)
    document = formats.OutDocument(job.uuid, source, target, tuple(files), job.note, job.due)
    return _name(job, written), written.write(document)


def archive(
    view: View, uuids: Sequence[str], written: formats.Format = formats.USUAL, public: str = ""
) -> bytes:
    """Several jobs as a ZIP archive of their files. Raises `Invalid` for none, or too many."""
    if not 0 < len(uuids) <= MOST_JOBS:
        raise Invalid([FieldProblem("jobs", said("exporting.so_many", most=MOST_JOBS))])
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for uuid in dict.fromkeys(uuids):
            name, data = export(view, uuid, written, public)
            packed.writestr(zipfile.ZipInfo(name, _FIRST), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _own(view: View, job: Job, public: str) -> dict[str, tuple[formats.OwnFile, ...]]:
    """The files of each entry that differ by locale, with their addresses."""
    word = previews.word_of_job(view, job.id) if public else ""
    out: dict[str, list[formats.OwnFile]] = defaultdict(list)
    for one in own_files.of_job(view, job):
        digest = str(one.source["sha256"])
        address = f"{public.rstrip('/')}/read/files/{digest}?preview={word}" if word else ""
        found = formats.OwnFile(one.field, one.label, str(one.source.get("name", "")), digest, address)
        out[one.entry].append(found)
    return defaultdict(tuple, {entry: tuple(some) for entry, some in out.items()})


def _name(job: Job, written: formats.Format) -> str:
    return f"hawthorn-{job.uuid[-12:]}-{job.locale}.{written.ending}"


def _so_far(unit: Unit, row: JobUnit, before: Mapping[str, tuple[str, str]]) -> Unit:
    """A unit with what came of it until now, in the states that its sentences have, and how it was translated before."""
    unit = at_hand.as_kept(unit, row)
    # What came out of a memory or a machine and nobody has looked at is no translation yet.
    parts = tuple(replace(s, target=None) if s.origin else s for s in unit.segments)
    if row.state == "final":
        parts = tuple(s if s.ignorable else replace(s, state="final") for s in parts)
    unit = replace(unit, segments=parts, notes=tuple(json.loads(row.notes)), beside=row.beside)
    then = before.get(unit.key)
    return replace(unit, then=then) if then is not None and then[0] != unit.text else unit
