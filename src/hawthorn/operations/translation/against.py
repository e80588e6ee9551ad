"""A translation against its source: what of it is due, with the words that changed since, and saying that it still fits."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from hawthorn.core import compare
from hawthorn.core.compare import Run
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.translation import units
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import grid
from hawthorn.operations.translation.grid import GridCell
from hawthorn.store import coverage as store
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs, revisions
from hawthorn.store.entries import Entry

_BACK = 200
"""So many revisions of a source are looked through for the words that a text was translated from."""


@dataclass(frozen=True, slots=True)
class Due:
    """A text that somebody has to see to: "changed" (its source reads otherwise since), "missing" (it was never translated from it) or "gone"
    (its source is not there any more); the source then and now, the words that differ, what the translation holds, and by which hash
    the source is known."""

    key: str
    label: str
    how: str
    then: str
    now: str
    runs: list[Run]
    target: str
    hash: str


@dataclass(frozen=True, slots=True)
class Against:
    """How an entry stands in every other locale than its source's, and what is due in the one that is looked at."""

    locale: str
    source_locale: str
    cells: list[GridCell]
    due: list[Due]


def look(view: View, uuid: str, locale: str) -> Against:
    """How an entry stands in the locales, and what is due in one; nothing is in its source."""
    tag = view.setup.locale(locale)
    entry = permission.find(view, uuid, tag)
    kind = view.setup.type(entry.type)
    covered = store.rows(view.conn, [entry.id])
    open_jobs = store.open_jobs(view.conn, [entry.id])
    source = covered.get((entry.id, entry.source_locale))
    readable = [one for one in view.setup.locales if permission.readable(view, entry, one)]
    cells = [
        grid.cell(one, source, covered.get((entry.id, one)), open_jobs.get((entry.id, one)))
        for one in readable
        if source is not None and source.units and one != entry.source_locale
    ]
    # What is due shows the source, which not everybody may read.
    due = (
        _due(view, entry, kind, tag) if tag != entry.source_locale and entry.source_locale in readable else []
    )
    return Against(tag, entry.source_locale, cells, due)


def still_fits(act: Act, uuid: str, locale: str, seen: Mapping[str, str]) -> None:
    """Say that texts of a translation fit their source as it is: `seen` names them by their keys, with the hash of the source that was
    looked at. A text whose source is gone becomes one of the translation's own.

    Raises `InTheWay` when the source was changed meanwhile, and `Invalid` for a text that is not there.
    """
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    permission.require(act, "write", permission.subject(act, entry, tag))
    drafts.require_at_work(entry)
    if tag == entry.source_locale:
        raise InTheWay("against.is_the_source", locale=act.setup.locales[tag])
    kind = act.setup.type(entry.type)
    edition = entry_store.edition(act.conn, entry.id, tag)
    if not seen:
        raise Invalid([FieldProblem("fits", said("against.names_none"))])
    if edition is None or edition.head is None:
        raise InTheWay("against.not_there", locale=act.setup.locales[tag])
    source, target = drafted(act, entry.id, entry.source_locale), revisions.content(act.conn, edition.head)
    now = units.source_hashes(kind, source)
    moved = [key for key, digest in seen.items() if now.get(key, "") != digest]
    if moved:
        raise InTheWay("against.source_moved", keys=moved)
    claims = {key: list(pairs) for key, pairs in target.unit_map.items()}
    claiming, written = _claiming(target), units.rivals(kind, source, target)
    problems: list[FieldProblem] = []
    for key, digest in seen.items():
        if not digest:
            claims.pop(key, None)
            continue
        mine = claiming.get(key) or list(written.get(key, ()))
        if not mine:
            problems.append(FieldProblem(f"fits.{key}", said("against.nothing_written")))
        for one in mine:
            claims[one] = [pair for pair in claims.get(one, []) if pair[0] != key] + [(key, digest)]
    if problems:
        raise Invalid(problems)
    made = replace(target, unit_map={key: tuple(pairs) for key, pairs in claims.items()})
    if made == target:
        return
    drafts.record(act, kind, entry, edition, made, act.keep("notes.still_fits", count=len(seen)), "save")
    act.event("entry.checked", [entry.id], {"id": entry.uuid, "locale": tag, "units": sorted(seen)})


def _due(view: View, entry: Entry, kind: ContentType, locale: str) -> list[Due]:
    source, target = drafted(view, entry.id, entry.source_locale), drafted(view, entry.id, locale)
    if not target.fields:
        return []
    now = {u.key: u for u in units.units_of(kind, source, entry.source_locale)}
    have = {u.key: u for u in units.units_of(kind, target, locale)}
    needing = {u.key for u in units.needing(kind, source, target, entry.source_locale)}
    written = units.rivals(kind, source, target)
    claiming, hashes = _claiming(target), units.by_source(target.unit_map.values())
    before = _then(view, entry, kind, locale, {key: hashes[key] for key in needing if key in claiming})
    out: list[Due] = []
    for key, unit in now.items():
        if key not in needing:
            continue
        mine = claiming.get(key) or list(written.get(key, ()))
        then = before.get(key, "")
        out.append(
            Due(
                key=key,
                label=unit.label,
                how="changed" if key in claiming else "missing",
                then=then,
                now=unit.text,
                runs=list(compare.words(then, unit.text)) if then else [Run("same", unit.text)],
                target="\n\n".join(have[one].text for one in mine if one in have),
                hash=unit.hash,
            )
        )
    gone = [have[key] for key in units.gone(kind, source, target) if key in have]
    return out + [Due(u.key, u.label, "gone", "", "", [], u.text, "") for u in gone]


def before(view: View, entry_id: int, locale: str, sent: Iterable[str]) -> dict[str, tuple[str, str]]:
    """What the source of units said when they were translated last, where it reads otherwise since, and how they were translated."""
    entry = entry_store.entry_by_id(view.conn, entry_id)
    kind = view.setup.type(entry.type)
    target = drafted(view, entry_id, locale)
    claiming, hashes = _claiming(target), units.by_source(target.unit_map.values())
    claimed = {key: hashes[key] for key in sent if key in claiming}
    if not claimed:
        return {}
    have = {u.key: u.text for u in units.units_of(kind, target, locale)}
    return {
        key: (then, "\n\n".join(have[mine] for mine in claiming[key] if mine in have))
        for key, then in _then(view, entry, kind, locale, claimed).items()
    }


def _claiming(target: Content) -> dict[str, list[str]]:
    """The texts of a translation, by the keys of the units that they say they were made from."""
    out: dict[str, list[str]] = {}
    for mine, pairs in target.unit_map.items():
        for key in dict.fromkeys(source for source, _ in pairs):
            out.setdefault(key, []).append(mine)
    return out


def _then(
    view: View, entry: Entry, kind: ContentType, locale: str, wanted: dict[str, set[str]]
) -> dict[str, str]:
    """The words from which units were translated, by key: as they were sent, or as they stand in the history of the source."""
    found: dict[str, str] = {}
    for revision in _revisions(view, entry, locale):
        if len(found) == len(wanted):
            break
        for unit in units.units_of(kind, as_now.content(view.conn, kind, revision), entry.source_locale):
            if unit.key in wanted and unit.key not in found and unit.hash in wanted[unit.key]:
                found[unit.key] = unit.text
    return found


def _revisions(view: View, entry: Entry, locale: str) -> Iterable[int]:
    yield from jobs.sent_revisions(view.conn, entry.id, locale)
    source = entry_store.edition(view.conn, entry.id, entry.source_locale)
    if source is not None:
        yield from revisions.newest(view.conn, source.id, _BACK)
