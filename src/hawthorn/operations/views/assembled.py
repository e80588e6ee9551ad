"""A desk with all that follows from acts: what is due goes first, planned fields are followed, coverage is counted."""

from __future__ import annotations

from hawthorn.core.bounds import Bounds
from hawthorn.operations.release import going, planned_fields
from hawthorn.operations.runtime.act import Act, Clock, Desk, Spoken
from hawthorn.operations.runtime.pacing import Pace
from hawthorn.operations.translation import coverage, standing_commissions, translation
from hawthorn.operations.views import unfolding
from hawthorn.store.database import Database
from hawthorn.store.file_store import FileStore
from hawthorn.store.scanner import Scanner
from hawthorn.store.vault import Vault


def _derive(act: Act) -> None:
    unfolding.follow(act)
    coverage.follow(act)
    standing_commissions.follow(act)
    translation.follow(act)


def desk(
    db: Database,
    clock: Clock,
    words: Spoken,
    *,
    bounds: Bounds = Bounds(),
    pace: Pace = Pace(),
    vault: Vault | None = None,
    file_store: FileStore | None = None,
    scanner: Scanner | None = None,
) -> Desk:
    """The desk of an open record file."""
    return Desk(
        db,
        clock,
        words,
        first=going.run_due,
        last=planned_fields.follow,
        derive=_derive,
        bounds=bounds,
        bound=pace.check,
        vault=vault,
        file_store=file_store,
        scanner=scanner,
    )
