"""What the service has beside its record file: a replica that is kept of it, or the source of which it is a copy."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from starlette.types import ASGIApp

from hawthorn.core.errors import Fenced
from hawthorn.store import checks, definitions, terms
from hawthorn.store.copies import Copy
from hawthorn.store.database import Database
from hawthorn.store.replica import Replica

if TYPE_CHECKING:
    from hawthorn.service.settings import Settings


def _nothing() -> None:
    pass


def _as_it_is(app: ASGIApp) -> ASGIApp:
    return app


@dataclass(frozen=True, slots=True)
class Alongside:
    """The record file, or the copy, as it was opened; how what runs beside it is ended, and what stands in front of the application."""

    db: Database
    stop: Callable[[], None] = _nothing
    in_front: Callable[[ASGIApp], ASGIApp] = _as_it_is


def begin(settings: Settings) -> Alongside:
    """Open what the settings name. Raises `BadStore`, and `Fenced` where another service has taken over."""
    if settings.follow:
        return _copy(settings)
    if settings.replica:
        return _replicated(settings)
    return Alongside(Database(settings.file))


def _copy(settings: Settings) -> Alongside:
    from hawthorn.service.copying import Copying
    from hawthorn.service.litestream import Following

    held: list[Copy] = []
    following = Following(
        settings.follow,
        settings.file.with_name(f"{settings.file.name}.copies"),
        lambda path: held[0].moved(path),
        lambda: held[0].lost(),
    )
    path = following.start()
    try:
        held.append(Copy(path, settings.writer, following.is_alive))
    except BaseException:
        following.stop()
        raise
    return Alongside(held[0], following.stop, lambda app: Copying(app, held[0]))


def replicate(settings: Settings) -> tuple[int, Callable[[], None]]:
    """Make the record file ready for several who open it, and begin the replica that the settings name; returns the term in which it is written, and
    how the replica is ended. Raises `BadStore`, and `Fenced` where another service has taken over."""
    db, term, stop = _begun(settings)
    db.close()
    return term, stop


def of_worker(settings: Settings, term: int) -> Alongside:
    """The record file as somebody opens it who does not keep the replica, in the term that whoever does began."""
    return _written(Database(settings.file), settings, term)


def _replicated(settings: Settings) -> Alongside:
    db, term, stop = _begun(settings)
    return _written(db, settings, term, stop)


def _begun(settings: Settings) -> tuple[Database, int, Callable[[], None]]:
    """The record file open, the term in which it is written, and how the replica that was begun is ended."""
    place, url, term = terms.place_of(settings.replica), settings.replica, 0
    if place is not None:
        term = _claimed(place, settings.file)
        url = place.part(term)
    db = Database(settings.file)
    try:
        if place is not None:
            db.write(lambda conn: definitions.set_setting(conn, terms.SETTING, str(term)))
        if not settings.replica:
            return db, term, _nothing
        from hawthorn.service.litestream import Replicating

        replicating = Replicating(settings.file, url)
        replicating.start()
    except BaseException:
        db.close()
        raise
    return db, term, replicating.stop


def _written(db: Database, settings: Settings, term: int, stop: Callable[[], None] = _nothing) -> Alongside:
    if not settings.replica:
        return Alongside(db, stop)
    from hawthorn.service.copying import Positions

    place = terms.place_of(settings.replica)
    if place is not None:
        db.guard = place.fence(term)
        db.replica = Replica(place, term)
    own = db.own()

    def position() -> tuple[int, int]:
        row = own.one(checks.POSITION)
        return int(row[0] or 0), row[1] or 0

    return Alongside(db, stop, lambda app: Positions(app, position))


def _claimed(place: terms.Place, file: Path) -> int:
    """The term in which a record file may be written, begun if it is the first; raises `Fenced`."""
    own = terms.of_file(file)
    last = place.latest()
    if last == 0:
        place.begin(max(own, 1))
        return max(own, 1)
    if last != own:
        raise Fenced("copies.taken_over", term=last)
    return own
