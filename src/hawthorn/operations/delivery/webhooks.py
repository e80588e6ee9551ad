"""Webhooks: who is told of what happens over HTTP, with which secret, and what they are told."""

from __future__ import annotations

import base64
import json
import secrets
from collections.abc import Iterable, Mapping, Sequence
from typing import Any
from urllib.parse import urlsplit

from hawthorn.core import groups, happenings, naming, timeline
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import bodies, entries, events
from hawthorn.store import webhooks as store
from hawthorn.store.entries import Entry
from hawthorn.store.events import Event
from hawthorn.store.standings import RELEASE
from hawthorn.store.webhooks import Sent, Try, Webhook

NEVER = ("access.", "session.", "person.", "role.", "key.", "mail.", "webhook.", "calendar.")
"""The beginnings of kinds of which nobody outside is told."""
KINDS = tuple(kind for kind in happenings.KINDS if not kind.startswith(NEVER))
"""The kinds of events of which somebody may be told."""
WIDE = ("type.", "set.", "locales.", "crops.", "sites.", "import.undone", "records.repaired")
"""After these, any page may be another."""
USUAL = ("dispatch.gone", "entry.limited", "import.settled", *WIDE)
"""After these, readers see something else: what sites and caches are told of, and whoever says not of what."""
MOST = 50
"""So many webhooks there may be."""
_MOST_ENTRIES = 1_000
_MOST_CHANGES = 4_000
_MOST_PAGES = 2_000
_LONGEST_URL = 500
BOTH = 24 * 3600
"""Seconds for which the secret before is good after a change, unless another time is said."""
LONGEST_BOTH = 30 * 24 * 3600


@dataclass(frozen=True, slots=True)
class Wanted:
    """Who is told, and of what: kinds of events or their beginnings (`review.`), and only of types, sections (their entries) and
    stages; empty means all of them."""

    name: str = ""
    url: str = ""
    kinds: Sequence[str] = USUAL
    types: Sequence[str] = ()
    sections: Sequence[str] = ()
    stages: Sequence[str] = ()

    @property
    def limits(self) -> tuple[Sequence[str], ...]:
        """What narrows it, as it is kept."""
        return self.types, self.sections, self.stages


def listing(view: View) -> list[Webhook]:
    """All of them; never their secrets."""
    permission.require(view, "configure", Subject())
    return store.every(view.conn)


def find(view: View, uuid: str) -> Webhook:
    """One by its UUID; raises `NotFound`."""
    permission.require(view, "configure", Subject())
    found = store.by_uuid(view.conn, uuid)
    if found is None:
        raise NotFound("webhooks.not_there", id=uuid)
    return found


def add(act: Act, wanted: Wanted) -> tuple[str, str]:
    """Tell somebody from now on; returns the UUID and the secret with which what they are sent is signed, which is shown this once."""
    permission.require(act, "configure", Subject())
    if len(store.every(act.conn)) >= MOST:
        raise Invalid("webhooks.too_many", most=MOST)
    made = _checked(act, wanted)
    uuid, secret = new_uuid(act.now), new_secret()
    last = events.last(act.conn)[0]
    store.add(
        act.conn,
        uuid,
        made.name,
        made.url,
        dict.fromkeys(made.kinds, last),
        made.limits,
        act.vault.seal(secret),
        last,
        act.identity.id,
        act.now,
    )
    act.event("webhook.added", [], {"webhook": uuid, "name": made.name, "url": made.url})
    return uuid, secret


def change(act: Act, uuid: str, given: Mapping[str, Any]) -> None:
    """Change what is given of one; what is on its way goes to the new address."""
    hook = find(act, uuid)
    now = wanted_of(hook)
    made = _checked(act, Wanted(**{**_members(now), **given}), now)
    # Of a kind that is new to it, it hears from now on; of the others as before.
    last, before = events.last(act.conn)[0], since_of(hook)
    kinds = {kind: before.get(kind, last) for kind in made.kinds}
    store.change(act.conn, hook.id, made.name, made.url, kinds, made.limits)
    if made != now:
        act.event("webhook.changed", [], {"webhook": uuid, "name": made.name, "url": made.url})


def end(act: Act, uuid: str) -> None:
    """End one: it is told nothing any more, and what waits for it is given up."""
    hook = find(act, uuid)
    store.put(act.conn, hook.id, "ended")
    store.drop_waiting(act.conn, uuid, act.keep("webhooks.ended"))
    act.event("webhook.ended", [], {"webhook": uuid, "name": hook.name})


def rotate(act: Act, uuid: str, seconds: int = BOTH) -> str:
    """Give one another secret; for some seconds what is sent is signed with both. Returns the new one, which is shown this once."""
    hook = find(act, uuid)
    if not 0 <= seconds <= LONGEST_BOTH:
        raise Invalid([FieldProblem("seconds", said("webhooks.both_too_long", most=LONGEST_BOTH))])
    secret = new_secret()
    until = act.now + seconds * timeline.SECOND
    store.set_secret(act.conn, hook.id, act.vault.seal(secret), hook.secret, until)
    act.event("webhook.changed", [], {"webhook": uuid, "name": hook.name, "new_secret": True})
    return secret


def switch(act: Act, uuid: str, *, on: bool) -> None:
    """Switch one on again, for what happens from now on, or off; what was given up meanwhile can be sent again."""
    hook = find(act, uuid)
    if (hook.state == "on") == on:
        raise InTheWay("webhooks.on_already" if on else "webhooks.off_already", name=hook.name)
    if on:
        store.put(act.conn, hook.id, "on", "", events.last(act.conn)[0])
    else:
        store.put(act.conn, hook.id, "off")
        store.drop_waiting(act.conn, uuid, act.keep("webhooks.switched_off"))
    act.event("webhook.switched", [], {"webhook": uuid, "name": hook.name, "on": on, "trouble": ""})


def give_up_on(act: Act, hook: Webhook, trouble: str) -> None:
    """Switch one off that has not answered for long, or says that it is gone; who sets things up is told."""
    store.put(act.conn, hook.id, "off", trouble)
    store.drop_waiting(act.conn, hook.uuid, act.keep("webhooks.switched_off"))
    payload = {"webhook": hook.uuid, "name": hook.name, "on": False, "trouble": trouble[:300]}
    act.event("webhook.switched", [], payload)


def deliveries(
    view: View, uuid: str, limit: int, before: str = ""
) -> tuple[list[tuple[Sent, list[Try]]], str]:
    """What was sent to one, or waits to be, newest first, each with every try; and where the next page begins."""
    find(view, uuid)
    if before and not before.isdecimal():
        raise Invalid("paging.cursor")
    rows = store.sent_to(view.conn, uuid, int(before or 1 << 62), limit + 1)
    found: dict[int, list[Try]] = {}
    for one in store.tries_of(view.conn, [row.id for row in rows[:limit]]):
        found.setdefault(one.outgoing, []).append(one)
    shown = [(row, found.get(row.id, [])) for row in rows[:limit]]
    return shown, str(rows[limit - 1].id) if len(rows) > limit else ""


def send_again(act: Act, uuid: str, id: int) -> None:
    """Send something once more, with the id that it had, whatever became of it."""
    hook = find(act, uuid)
    row = store.sent(act.conn, uuid, id)
    if row is None or row.id != id:
        raise NotFound("webhooks.nothing_sent", id=id)
    if hook.state != "on":
        raise InTheWay("webhooks.is_off", name=hook.name)
    store.again(act.conn, id, act.now)


def wanted_of(hook: Webhook) -> Wanted:
    """What one is set up for."""
    limits = (json.loads(one) for one in (hook.types, hook.sections, hook.stages))
    return Wanted(hook.name, hook.url, tuple(since_of(hook)), *(tuple(one) for one in limits))


def since_of(hook: Webhook) -> dict[str, int]:
    """The event after which one hears of each kind that it chose."""
    found: dict[str, int] = json.loads(hook.kinds)
    return {kind: max(since, hook.from_seq) for kind, since in found.items()}


def kinds_of(hooks: Iterable[Webhook]) -> tuple[list[str], int]:
    """The kinds of events that any of some want to hear of, and the event after which the first of them does."""
    since = [item for hook in hooks for item in since_of(hook).items()]
    kinds = [kind for kind in KINDS if any(kind.startswith(start) for start, _ in since)]
    return kinds, min((after for _, after in since), default=0)


def new_secret() -> str:
    """A secret as Standard Webhooks writes it: 32 random bytes."""
    return f"whsec_{base64.b64encode(secrets.token_bytes(32)).decode()}"


def secrets_of(view: View, hook: Webhook) -> list[str]:
    """The secrets with which something is signed now: the one it has, and while it is good the one before."""
    kept = [
        hook.secret,
        *([hook.secret_before] if hook.secret_before and hook.before_until > view.now else []),
    ]
    return [view.vault.open(one) for one in kept]


# -- what is told ----------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Told:
    """An event as it is told outside: which entries it is about, which pages changed, and which groups a cache drops."""

    kind: str
    seq: int
    at: int
    subject: str
    data: Mapping[str, Any]
    about: tuple[Entry, ...] = ()
    stages: tuple[str, ...] = ()


def told(view: View, event: Event) -> Told:
    """What is told of an event to whoever is told of it."""
    payload = json.loads(event.json) if event.json else {}
    ids = events.entries_of(view.conn, event.seq, _MOST_ENTRIES + 1)
    about = [entries.entry_by_id(view.conn, id) for id in ids[:_MOST_ENTRIES]]
    changed = bodies.changed_with(view.conn, event.seq, _MOST_CHANGES + 1)
    pages, more = _pages(view, about, changed, _instant_of(event, payload))
    locales = _locales(payload)
    data: dict[str, Any] = {
        "kind": event.kind,
        "by": event.actor_kind,
        "entries": [
            {"id": e.uuid, "type": e.type, "locales": sorted(locales.get(e.uuid, set()))} for e in about
        ],
        "pages": pages,
        "groups": _groups(view, changed, event.kind),
        "more": more or len(ids) > _MOST_ENTRIES or len(changed) > _MOST_CHANGES,
    }
    for name in ("dispatch", "job", "strand", "stage"):
        if isinstance(payload.get(name), str):
            data[name] = payload[name]
    subject = str(payload.get("dispatch") or (about[0].uuid if len(about) == 1 else ""))
    stages = happenings.stages(event.kind, payload)
    return Told(event.kind, event.seq, event.at, subject, data, tuple(about), stages)


def told_at_least(event: Event) -> Told:
    """What is told of an event of which no more can be said: that anything may have changed."""
    data = {"kind": event.kind, "by": event.actor_kind, "entries": [], "pages": []}
    return Told(event.kind, event.seq, event.at, "", {**data, "groups": ["all"], "more": True})


def concerns(view: View, hook: Webhook, one: Told) -> bool:
    """Whether somebody wants to be told of something: of an event about several entries, if any is of those that they chose."""
    wanted = wanted_of(hook)
    if not any(one.kind.startswith(kind) and one.seq > after for kind, after in since_of(hook).items()):
        return False
    if wanted.stages and one.stages and not set(wanted.stages) & set(one.stages):
        return False
    if not one.about or not (wanted.types or wanted.sections):
        return True
    chosen = {row.id for uuid in wanted.sections if (row := entries.even_removed(view.conn, uuid))}
    return any(
        (not wanted.types or entry.type in wanted.types)
        and (not wanted.sections or bool(chosen & permission.around(view, entry.id, entry.section)))
        for entry in one.about
    )


def _pages(
    view: View, about: Sequence[Entry], changed: Sequence[tuple[int, str]], instant: int
) -> tuple[list[str], bool]:
    """The addresses of the pages that changed with an event, as they are and as they were, with those that show what changed;
    and whether there are more."""
    found: dict[str, None] = {}
    out = {id for id, _ in changed}
    # What is out changes at the instant of the dispatch, which may lie before that of its event.
    before = Place(RELEASE, instant - 1)
    pairs = [
        (e.id, tag)
        for e in about
        if e.id in out
        for tag in {x.locale for x in entries.editions(view.conn, e.id)} - {COMMON}
    ]
    # Each once: what shows what changed may have changed itself.
    pairs += bodies.depending_on(view.conn, changed, _MOST_PAGES + 1)
    for entry, tag in dict.fromkeys(pairs):
        for where in (Place(), before) if entry in out else (Place(),):
            path = reading.path_at(view, entry, tag, where)
            if path is not None:
                found.setdefault(path)
        if len(found) > _MOST_PAGES:
            return [*found][:_MOST_PAGES], True
    return [*found], False


def _instant_of(event: Event, payload: Mapping[str, Any]) -> int:
    at = payload.get("instant")
    return min(event.at, timeline.parse_instant(at)) if isinstance(at, str) and at else event.at


def _groups(view: View, changed: Sequence[tuple[int, str]], kind: str) -> list[str]:
    """The groups that a cache drops: each entry that changed, the lists of its type, and the outline where addresses did. Besides what an event
    is about, others may change with it: who is found at an address no more, as somebody else has it."""
    if kind.startswith(WIDE):
        return [groups.ALL]
    found = bodies.groups_of(view.conn, 0, changed)
    return found + ([groups.OUTLINE] if any(facet == "address" for _, facet in changed) else [])


def _locales(payload: Mapping[str, Any]) -> dict[str, set[str]]:
    """The locales of each entry (UUID) that an event is about, as far as it says them."""
    out: dict[str, set[str]] = {}
    moves = payload.get("moves")
    for one in moves if isinstance(moves, list) else []:
        if one["locale"] != COMMON:
            out.setdefault(one["entry"], set()).add(one["locale"])
    if isinstance(payload.get("locale"), str) and isinstance(payload.get("entry"), str):
        out.setdefault(payload["entry"], set()).add(payload["locale"])
    return out


# -- what is asked for -------------------------------------------------------------------------------------------


def _members(wanted: Wanted) -> dict[str, Any]:
    return {name: getattr(wanted, name) for name in Wanted.__dataclass_fields__}


def _checked(view: View, given: Wanted, now: Wanted = Wanted()) -> Wanted:
    """What is wanted, looked at; what it names `now` and is gone meanwhile may stay, as it may come back."""
    problems: list[FieldProblem] = []
    name, url = naming.line("name", given.name), given.url.strip()
    if not name:
        problems.append(FieldProblem("name", said("common.missing")))
    if not _is_address(url):
        problems.append(FieldProblem("url", said("webhooks.no_address", most=_LONGEST_URL)))
    if not given.kinds:
        problems.append(FieldProblem("kinds", said("webhooks.no_kinds")))
    known = {
        "kinds": [*KINDS, *happenings.beginnings(KINDS)],
        "types": [*view.setup.types],
        "stages": [*view.setup.stages],
    }
    for member, names in known.items():
        for one in getattr(given, member):
            if one not in (*names, *getattr(now, member)):
                listed = [n for n in names if "." not in n or n.endswith(".")]
                problems.append(FieldProblem(member, said("common.value_none_of", value=one, known=listed)))
    for one in given.sections:
        row = entries.entry(view.conn, one)
        if one not in now.sections and (row is None or not view.setup.types[row.type].section):
            problems.append(FieldProblem("sections", said("common.no_section", id=one)))
    if problems:
        raise Invalid(problems)
    chosen = (tuple(dict.fromkeys(one)) for one in (given.kinds, *given.limits))
    return Wanted(name, url, *chosen)


def _is_address(url: str) -> bool:
    try:
        parts = urlsplit(url)
        _ = parts.port
    except ValueError:
        return False
    fine = parts.scheme in ("http", "https") and parts.hostname and not parts.username and not parts.fragment
    return bool(fine) and len(url) <= _LONGEST_URL and url.isascii() and url.isprintable() and " " not in url


def last_of(view: View, hook: Webhook) -> tuple[Sent | None, int]:
    """The newest thing that was sent to one, and how many wait."""
    rows = store.sent_to(view.conn, hook.uuid, 1 << 62, 100)
    return (rows[0] if rows else None), sum(1 for row in rows if row.state == "waiting")
