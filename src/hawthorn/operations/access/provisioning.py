"""People as a directory provisions them (SCIM 2.0): made, changed, let go and brought back by its word, with the roles that its groups give.

Whoever may speak for the directory is said by a key in the settings; what follows is done as by the service itself, and is in the event log.
"""

from __future__ import annotations

from collections.abc import Collection

from hawthorn.core import naming, timeline
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.provider import Claims, Rules
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import people, provider
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import people as accounts
from hawthorn.store import provider as logins
from hawthorn.store import provisioning as store
from hawthorn.store.provisioning import Group, Provisioned


@dataclass(frozen=True, slots=True)
class Wanted:
    """Somebody as the directory wants them: what it calls them (`user_name`, and `external_id` by which it finds them again), and whether they work here."""

    user_name: str
    name: str
    email: str = ""
    zone: str = ""
    external_id: str = ""
    active: bool = True


@dataclass(frozen=True, slots=True)
class Known:
    """Everybody whom the directory may see, its groups, and who is in which: pairs of group and person."""

    people: list[Provisioned]
    groups: list[Group]
    members: list[tuple[int, int]]


def known(view: View) -> Known:
    """What the directory may see."""
    return Known(store.people(view.conn), store.groups(view.conn), store.members(view.conn))


def make(act: Act, wanted: Wanted, rules: Rules) -> int:
    """Make somebody; one who is here already by the same mail address, and whom no directory knows yet, is known by it from then on, where that is
    allowed. Raises `InTheWay` for a name that it uses already."""
    wanted = _sound(wanted)
    if store.called(act.conn, wanted.user_name) is not None:
        raise InTheWay("provisioning.taken", name=wanted.user_name)
    row = accounts.by_address(act.conn, wanted.email) if rules.joins and wanted.email else None
    if row is not None and store.is_provisioned(act.conn, row.id):
        raise InTheWay("provisioning.taken", name=wanted.email)
    if row is None:
        claims = Claims("", wanted.user_name, wanted.name, wanted.user_name, wanted.email)
        handle = provider.free_handle(act, claims)
        made = people.add_person(act, handle, wanted.name, wanted.email, "", [], wanted.zone or "UTC")
    else:
        made = row.id
    store.keep(act.conn, made, wanted.user_name, wanted.external_id, act.now)
    if row is not None or not wanted.active:
        change(act, made, wanted, rules)
    return made


def change(act: Act, id: int, wanted: Wanted, rules: Rules) -> None:
    """Make somebody what the directory says: called so, reached there, working here or let go. Raises `InTheWay` where nobody would be left who may set up."""
    wanted, before = _sound(wanted), _person(act, id)
    other = store.called(act.conn, wanted.user_name)
    taken = accounts.by_handle(act.conn, wanted.email) if wanted.email else None
    if other not in (None, id) or (taken is not None and taken.id != id):
        raise InTheWay(
            "provisioning.taken", name=wanted.user_name if other not in (None, id) else wanted.email
        )
    store.keep(act.conn, id, wanted.user_name, wanted.external_id, act.now)
    zone = wanted.zone or before.zone
    if (wanted.name, wanted.email, zone) != (before.name, before.email, before.zone):
        store.set_person(act.conn, id, wanted.name, wanted.email, zone)
        act.event("person.changed", [], {"handle": before.handle, "name": wanted.name, "zone": zone})
    if wanted.active and before.ended_at is not None:
        store.revive(act.conn, id)
        act.event("person.returned", [], {"handle": before.handle, "name": wanted.name})
        _follow(act, id, rules)
    elif not wanted.active and before.ended_at is None:
        people.let_go(act, _here(act, id))


def end(act: Act, id: int) -> None:
    """Let somebody go for good: the directory knows them no more."""
    before = _person(act, id)
    if before.ended_at is None:
        people.let_go(act, _here(act, id))
    store.forget(act.conn, id)
    # Whoever is made anew later is somebody else, and may come the same way.
    logins.disconnect(act.conn, id)


def make_group(act: Act, name: str, external_id: str, members: Collection[int], rules: Rules) -> int:
    """Make a group of the directory; those in it get the roles that it gives. Raises `InTheWay` for a name that there is."""
    name = naming.needed("displayName", name)
    if store.group_named(act.conn, name) is not None:
        raise InTheWay("provisioning.taken", name=name)
    made = store.add_group(act.conn, name, _external(external_id), act.now)
    _put(act, made, set(), members, rules)
    return made


def change_group(
    act: Act, id: int, name: str, external_id: str, members: Collection[int], rules: Rules
) -> None:
    """Let a group be called so, and have these members: who comes and who goes gets and loses the roles that it gives."""
    before, name = _group(act, id), naming.needed("displayName", name)
    if store.group_named(act.conn, name) not in (None, id):
        raise InTheWay("provisioning.taken", name=name)
    had = {actor for group, actor in store.members(act.conn) if group == id}
    store.set_group(act.conn, id, name, _external(external_id), act.now)
    # By another name it may give other roles, to all who are in it.
    _put(act, id, had, members, rules, all_follow=name != before.name)


def end_group(act: Act, id: int, rules: Rules) -> None:
    """End a group; those who were in it lose the roles that it alone gave."""
    _group(act, id)
    had = {actor for group, actor in store.members(act.conn) if group == id}
    store.end_group(act.conn, id)
    for actor in sorted(had):
        _follow(act, actor, rules)


def _put(
    act: Act, id: int, had: set[int], members: Collection[int], rules: Rules, all_follow: bool = False
) -> None:
    wanted = set(members)
    missing = sorted(one for one in wanted if store.person(act.conn, one) is None)
    if missing:
        raise Invalid([FieldProblem("members", said("provisioning.no_member", id=str(missing[0])))])
    store.set_members(act.conn, id, wanted)
    for actor in sorted(had | wanted if all_follow else had ^ wanted):
        _follow(act, actor, rules)


def _follow(act: Act, id: int, rules: Rules) -> None:
    """Give and take the roles that somebody's groups give; nothing of one who was let go, who gets them with coming back."""
    row = accounts.actor(act.conn, id)
    if row is not None:
        claims = Claims("", "", groups=tuple(store.groups_of(act.conn, id)))
        provider.follow_roles(act, row, claims, rules)


def _person(view: View, id: int) -> Provisioned:
    row = store.person(view.conn, id)
    if row is None:
        raise NotFound("provisioning.nobody", id=str(id))
    return row


def _here(view: View, id: int) -> accounts.Actor:
    row = accounts.actor(view.conn, id)
    assert row is not None
    return row


def _group(view: View, id: int) -> Group:
    row = store.group(view.conn, id)
    if row is None:
        raise NotFound("provisioning.no_group", id=str(id))
    return row


def _sound(wanted: Wanted) -> Wanted:
    email = naming.line("emails", wanted.email)
    if email and not naming.is_mail_address(email):
        raise Invalid([FieldProblem("emails", said("people.no_mail_address", email=email))])
    if wanted.zone:
        timeline.zone(wanted.zone)
    return Wanted(
        naming.needed("userName", wanted.user_name),
        naming.needed("displayName", wanted.name),
        email,
        wanted.zone,
        _external(wanted.external_id),
        wanted.active,
    )


def _external(text: str) -> str:
    return naming.line("externalId", text)
