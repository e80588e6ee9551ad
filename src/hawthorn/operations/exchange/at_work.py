"""The work on packages, done by a follower (`followers/packer.py`), one after another."""

from __future__ import annotations

from hawthorn.core.errors import HawthornError, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import packages
from hawthorn.operations.exchange.bringing import Bringing
from hawthorn.operations.exchange.bringing_rows import BringingRows
from hawthorn.operations.exchange.making import Making
from hawthorn.operations.exchange.undoing import Undoing
from hawthorn.operations.exchange.working import GoesOn, Stopped, Working
from hawthorn.operations.runtime.act import Desk
from hawthorn.store import exchange as store
from hawthorn.store.exchange import Exchange


def work(desk: Desk, row: Exchange, goes_on: GoesOn) -> None:
    """Do what there is to do with a package, until it is done or `goes_on` says that it shall not go on here."""
    if row.state not in store.AT_WORK:
        return
    try:
        with desk.db.read() as conn:
            me = permission.identity_of(conn, row.actor)
    except NotFound:
        _failed(desk, row, said("packages.asker_left"))
        return
    try:
        _work_of(row)(desk, me, row, goes_on).work()
    except Stopped:
        return
    except HawthornError as error:
        _failed(desk, row, error.message)
    except Exception:
        # Whoever waits is told, and it is not tried again and again.
        _failed(desk, row, said("packages.fault"))
        raise


def _failed(desk: Desk, row: Exchange, why: Message) -> None:
    trouble = desk.words.kept.text(why)
    desk.db.write(lambda conn: store.set_state(conn, row.id, "failed", desk.clock.now(), trouble=trouble))


def _work_of(row: Exchange) -> type[Working]:
    """What is to be done with a package."""
    if row.way == "out":
        return Making
    if row.state == "undoing":
        return Undoing
    return Bringing if row.format == packages.PACKAGE else BringingRows
