"""Which stored files somebody may read: those that something shows which they may read."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.core import access
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import NotFound
from hawthorn.operations.delivery import limiting, reading, rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, files
from hawthorn.store.entries import Entry
from hawthorn.store.files import File
from hawthorn.store.standings import RELEASE


def file(view: View, sha256: str, where: Place) -> File:
    """What is known of a stored file, if something that stands where the reader may look holds it."""
    row = files.find(view.conn, sha256)
    if row is None:
        raise reading.nothing(sha256[:12])
    seen = not where.plain and not where.limited and _holds_readable(view, sha256, where)
    if seen or shown_by(view, sha256) or (where.limited and _shows(view, sha256, where)):
        return row
    raise reading.nothing(sha256[:12])


def shown_by(view: View, sha256: str, focus: str = "") -> str:
    """An entry (UUID) that is out, that whoever reads may read, and that holds a stored file, with a focus where one is given; empty for none."""
    found = files.shown_by(view.conn, sha256, RELEASE, focus)
    if found or view.identity.as_everybody:
        return found
    holders = files.holders_out(view.conn, sha256, RELEASE, focus)
    return next((one.uuid for one in holders if limiting.lets(view, one, plain=True)), "")


def _holds_readable(view: View, sha256: str, where: Place) -> bool:
    """Whether something that may be read at a place holds a stored file."""
    return access.reads_all(view.identity) or any(
        not reading.place_of(view, holder, where).plain for holder in files.holders(view.conn, sha256)
    )


def _shows(view: View, sha256: str, where: Place) -> bool:
    """Whether a page inside the limits of a preview shows a stored file: in itself, or in what it shows."""
    seen: dict[int, Entry] = {}
    for holder in files.holders(view.conn, sha256):
        seen[holder.id] = holder
        for row in _shown_in(view, holder.uuid):
            seen[row.id] = row
    for row in seen.values():
        if not where.holds(row, entries.within(view.conn, row.section)):
            continue
        for edition in entries.editions(view.conn, row.id):
            if edition.locale == COMMON:
                continue
            try:
                if sha256.encode() in rendering.render(view, row.uuid, edition.locale, where).data:
                    return True
            except NotFound:
                continue
    return False


def _shown_in(view: View, uuid: str, deep: int = 3) -> Iterable[Entry]:
    """The entries whose drafts refer to an entry, and those that show these where they are common ones."""
    for row in entries.referring(view.conn, uuid):
        found = entries.entry(view.conn, row.uuid)
        if found is None:
            continue
        yield found
        if deep and view.setup.types[row.type].common:
            yield from _shown_in(view, row.uuid, deep - 1)
