"""What a new record file starts with: the scheduler, a locale, two workflows, roles and ready-made types."""

from __future__ import annotations

from typing import Any

from hawthorn.core import contenttypes, pictures, workflow
from hawthorn.core.access import VERBS
from hawthorn.operations.runtime.act import SCHEDULER, Desk
from hawthorn.store import definitions, people

STANDARD: dict[str, Any] = {
    "name": "standard",
    "label": "Draft, review, release",
    "stages": [
        {"name": "draft", "label": "Draft", "order": 0},
        {"name": "review", "label": "Review", "order": 100, "gate": {"checks": ["required"]}},
        {
            "name": "release",
            "label": "Release",
            "order": 1000,
            "gate": {"sign_offs": 1, "author": "no", "checks": ["required", "references", "alt"]},
        },
    ],
}
SHORT: dict[str, Any] = {
    "name": "short",
    "label": "Draft, release",
    "stages": [
        {"name": "draft", "label": "Draft", "order": 0},
        {
            "name": "release",
            "label": "Release",
            "order": 1000,
            "gate": {"checks": ["required", "references"]},
        },
    ],
}
ROLES: dict[str, tuple[str, list[dict[str, Any]]]] = {
    "staff": ("staff", [{"verb": "read"}]),
    "managing-editor": (
        "managing editor",
        [{"verb": v} for v in VERBS],
    ),
    "section-editor": ("section editor", [{"verb": v} for v in ("read", "write", "submit", "sign")]),
    "writer": (
        "writer",
        [{"verb": "read"}, {"verb": "write"}, {"verb": "submit"}],
    ),
    "release-editor": ("release editor", [{"verb": "read"}, {"verb": "release"}]),
    "translation-coordinator": ("translation coordinator", [{"verb": "read"}, {"verb": "commission"}]),
    "translator": (
        "translator",
        [{"verb": "read"}, {"verb": "write"}, {"verb": "submit"}],
    ),
    "translation-reviewer": (
        "translation reviewer",
        [{"verb": "read"}, {"verb": "accept"}, {"verb": "sign"}],
    ),
    "reviewer": ("reviewer", [{"verb": "read"}, {"verb": "sign"}]),
    "reader": ("reading program", [{"verb": "read"}]),
    "assistant": ("assistant", [{"verb": "read"}, {"verb": "write"}, {"verb": "submit"}]),
    "bureau": ("translation bureau", []),
}
PICTURE: dict[str, Any] = {
    "name": "picture",
    "label": "Picture",
    "workflow": "short",
    "help": "A picture with its alt text in each language.",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "file", "kind": "file", "label": "File", "required": True, "shared": True},
        {
            "name": "alt",
            "kind": "line",
            "label": "Alt text",
            "counts_as_alt": True,
            "limit": 250,
            "help": "What the picture shows, for those who cannot see it.",
        },
        {"name": "caption", "kind": "line", "label": "Caption", "limit": 250},
        {"name": "credit", "kind": "line", "label": "Credit", "shared": True},
    ],
}
MEDIA: dict[str, Any] = {
    "name": "media",
    "label": "Sound or film",
    "workflow": "short",
    "help": "Something to hear or see, with captions in each language.",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "file", "kind": "file", "label": "File", "required": True, "shared": True},
        {
            "name": "captions",
            "kind": "file",
            "label": "Captions",
            "help": "A WebVTT file: what is said and heard, with times.",
        },
        {"name": "caption", "kind": "line", "label": "Caption", "limit": 250},
        {"name": "credit", "kind": "line", "label": "Credit", "shared": True},
    ],
}
DOCUMENT: dict[str, Any] = {
    "name": "document",
    "label": "Document",
    "workflow": "short",
    "help": "A file to take along, one in each language.",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "file", "kind": "file", "label": "File", "required": True},
        {"name": "caption", "kind": "line", "label": "Caption", "limit": 250},
    ],
}
CROPS: list[dict[str, Any]] = [
    {"name": "wide", "label": "Wide", "width": 1200, "height": 500, "use": "Top of a page"},
    {"name": "card", "label": "Card", "width": 600, "height": 400, "use": "Lists of pages"},
    {"name": "square", "label": "Square", "width": 320, "height": 320, "use": "Small lists"},
    {"name": "share", "label": "Shared link", "width": 1200, "height": 630, "use": "Shared links"},
    {"name": "whole", "label": "Whole", "width": 1600, "height": 0, "use": "The picture by itself"},
]
PAGE: dict[str, Any] = {
    "name": "page",
    "label": "Page",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True, "limit": 120},
        {"name": "slug", "kind": "slug", "label": "Address", "follows": "title", "required": True},
        {"name": "body", "kind": "rich", "label": "Text", "required": True},
        {"name": "picture", "kind": "reference", "label": "Picture", "types": ["picture"], "shared": True},
        {"name": "below", "kind": "parent", "label": "Placed below", "shared": True},
    ],
}


NEWS: dict[str, Any] = {
    "name": "news",
    "label": "News",
    "help": "Something new, with its day and a few words for lists.",
    "dated": "day",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True, "limit": 120},
        {"name": "slug", "kind": "slug", "label": "Address", "follows": "title", "required": True},
        {"name": "day", "kind": "date", "label": "Day", "shared": True},
        {"name": "summary", "kind": "text", "label": "Summary", "limit": 300},
        {"name": "body", "kind": "rich", "label": "Text", "required": True},
        {"name": "picture", "kind": "reference", "label": "Picture", "types": ["picture"], "shared": True},
        {"name": "tags", "kind": "tags", "label": "Tags", "shared": True},
    ],
}
EVENT: dict[str, Any] = {
    "name": "event",
    "label": "Event",
    "help": "Something to come to: when, where and what.",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True, "limit": 120},
        {"name": "slug", "kind": "slug", "label": "Address", "follows": "title", "required": True},
        {"name": "begins", "kind": "instant", "label": "Begins", "shared": True},
        {"name": "where", "kind": "line", "label": "Where"},
        {"name": "body", "kind": "rich", "label": "Text", "required": True},
        {"name": "picture", "kind": "reference", "label": "Picture", "types": ["picture"], "shared": True},
    ],
}
FIRST_TYPES: dict[str, dict[str, Any]] = {"page": PAGE, "news": NEWS, "event": EVENT}
"""What a new house may write first; pages can be written in any case."""


def found(desk: Desk) -> None:
    """Give a new file what every file needs; leave one that has it as it is."""
    with desk.db.read() as conn:
        if people.actor(conn, SCHEDULER) is not None:
            return
    now = desk.clock.now()

    def make(conn: Any) -> None:
        if people.actor(conn, SCHEDULER) is not None:
            return
        people.add_actor(conn, "scheduler", "scheduler", "Scheduler", "", "", "UTC", now)
        definitions.add_locale(conn, "en", "English")
        for flow in (STANDARD, SHORT):
            definitions.add_workflow(conn, workflow.from_dict(flow), now)
        for name, (label, grants) in ROLES.items():
            people.set_role(conn, name, label, grants)
        for kind in (PICTURE, MEDIA, DOCUMENT, PAGE):
            definitions.add_type(conn, contenttypes.from_dict(kind), now, SCHEDULER)
        definitions.set_crops(conn, pictures.from_list(CROPS))
        definitions.set_setting(conn, "setup", "1")

    desk.db.write(make)
