"""Backups by the timetable, as whoever sets up sees them."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import Request

from hawthorn import wire
from hawthorn.operations.exchange import backups
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/backups", "exchange")


@router.get("", response_model=wire.exchange.Backups, operation_id="list_backups", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged, request: Request) -> Answer:
    """The backups in the folder of the settings, the newest first, and why the last that was due could not be made. They are made by the timetable of
    the settings, and restored on the machine itself (`hawthorn backup`)."""
    folder = settings_of(request).backups
    found = desk.read(me, lambda view: backups.shown(view, folder))
    page = paged.of([asdict(one) for one in found.items], lambda one: one["name"])
    return {**page, "trouble": found.trouble}
