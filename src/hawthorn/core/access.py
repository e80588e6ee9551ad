"""Permission: grants alone decide, everything not granted is refused, and any answer can be explained."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, Literal

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

VERBS = ("read", "write", "submit", "sign", "release", "override-quiet", "commission", "accept", "configure")
NEVER_FOR_ASSISTANTS = {"sign", "release", "override-quiet", "accept", "configure"}
WHOLE = {"configure"}
"""What works for the whole house, and so takes no limits."""
Means = Literal["password", "password and code", "passkey", "password and passkey", "invitation", "provider"]
"""By what somebody logs in."""
ACTOR_KINDS = ("person", "program", "assistant", "bureau", "scheduler")


@dataclass(frozen=True, slots=True)
class Grant:
    """A verb over types, locales, sections and stages; an empty tuple means all of them.

    `own` narrows it to entries that the holder started.
    """

    verb: str
    types: tuple[str, ...] = ()
    locales: tuple[str, ...] = ()
    sections: tuple[int, ...] = ()
    stages: tuple[str, ...] = ()
    own: bool = False

    def told(self) -> Message:
        """The grant as a person would say it."""
        sides = {"types": self.types, "locales": self.locales, "stages": self.stages}
        limits = [verb_of(self.verb)]
        limits += [said("access.own")] if self.own else []
        limits += [
            said(f"access.only_{side}", values=list(values)) for side, values in sides.items() if values
        ]
        limits += [said("access.sections")] if self.sections else []
        return said("access.grant", limits=limits)


@dataclass(frozen=True, slots=True)
class Subject:
    """What an act is about. None means that the act has no such side."""

    type: str | None = None
    locale: str | None = None
    section: int | None = None
    stage: str | None = None
    own: bool = False
    within: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Identity:
    """Who acts: an id, a kind, a name, and the grants of all roles held, with the role beside each."""

    id: int
    kind: str
    name: str
    handle: str
    grants: tuple[tuple[str, Grant], ...] = ()
    stages: tuple[str, ...] = ()
    zone: str = "UTC"
    roles: tuple[str, ...] = ()
    audiences: tuple[str, ...] = ()
    """For whom it reads what is out: a key lists them."""
    unlocked: tuple[str, ...] = ()
    """The locked entries (UUIDs) whose phrase was given."""

    a_minute: int = 0
    """So many reads a minute at most; 0 is any number."""

    language: str = ""
    """The language in which they are spoken to; empty for that of the house."""

    @property
    def as_everybody(self) -> bool:
        """Whether it reads what is out as everybody does."""
        return not self.audiences and not self.unlocked


def covers(grant: Grant, verb: str, subject: Subject) -> bool:
    """Whether one grant allows the verb on the subject. The common edition counts as every locale's."""
    return (
        grant.verb == verb
        and (not grant.types or subject.type is None or subject.type in grant.types)
        and (not grant.locales or subject.locale in (None, "*") or subject.locale in grant.locales)
        and (not grant.stages or subject.stage is None or subject.stage in grant.stages)
        and (
            not grant.sections
            or subject.section in grant.sections
            or any(above in grant.sections for above in subject.within)
        )
        and (not grant.own or subject.own)
    )


def reads_all(identity: Identity) -> bool:
    """Whether somebody may read everything, whatever it is: then nothing has to be looked at one by one."""
    return identity.kind == "scheduler" or any(g == _EVERYTHING for _, g in identity.grants)


def may_all(identity: Identity, *verbs: str) -> bool:
    """Whether somebody holds grants for some verbs without any limit: then no more has to be asked."""
    held = {g.verb for _, g in identity.grants if g == Grant(g.verb)}
    return held.issuperset(verbs) and identity.kind != "assistant"


def reads_all_at(identity: Identity, stage: str) -> bool:
    """The same at one stage."""
    return reads_all(identity) or any(
        replace(g, stages=()) == _EVERYTHING and (not g.stages or stage in g.stages)
        for _, g in identity.grants
    )


_EVERYTHING = Grant("read")


def works(identity: Identity) -> bool:
    """Whether somebody has any right but to read what is out."""
    return any(g.verb != "read" or set(g.stages) != {"release"} for _, g in identity.grants)


def at_stages(grant: Grant, stages: Sequence[str]) -> Grant | None:
    """A grant as a key has it that lists some stages; None when nothing is left of it."""
    kept = _narrow(grant.stages, stages)
    return None if kept is None else replace(grant, stages=kept)


def allowing(identity: Identity, verb: str, subject: Subject) -> tuple[str, Grant] | None:
    """The role and grant that allow it, or None. An assistant never signs off, releases or sets up."""
    if identity.kind == "assistant" and verb in NEVER_FOR_ASSISTANTS:
        return None
    return next(((role, g) for role, g in identity.grants if covers(g, verb, subject)), None)


def verb_of(verb: str) -> Message:
    """A verb as a person would say it, after "may"."""
    return said(f"verbs.{verb}")


def needed(verb: str, subject: Subject) -> Message:
    """The missing grant as a person would say it."""
    sides = {"type": subject.type, "locale": subject.locale, "stage": subject.stage}
    limits = [
        said(f"access.for_{side}", value=value) for side, value in sides.items() if value and value != "*"
    ]
    return said("access.needed", parts=[said("common.quoted", text=verb_of(verb)), *limits])


def grant_from_dict(data: Mapping[str, Any]) -> Grant:
    """A grant from its readable form; raises `Invalid` for what it cannot be."""
    verb = data.get("verb", "")
    if verb not in VERBS:
        raise Invalid([FieldProblem("verb", said("common.value_none_of", value=verb, known=list(VERBS)))])
    unknown = set(data) - set(Grant.__dataclass_fields__)
    if unknown:
        raise Invalid([FieldProblem(key, said("access.not_of_a_grant")) for key in sorted(unknown)])
    lists = {k: tuple(data.get(k, ())) for k in ("types", "locales", "sections", "stages")}
    return Grant(verb=verb, own=bool(data.get("own", False)), **lists)


def limits(grant: Grant) -> list[str]:
    """The sides on which a grant is limited."""
    return [k for k in ("types", "locales", "sections", "stages", "own") if getattr(grant, k)]


def narrowed(grant: Grant, locales: Sequence[str], sections: Sequence[int]) -> Grant | None:
    """A role's grant as held by one person, within that person's locales and sections; None for nothing.

    What works for the whole house cannot be had for a part of it.
    """
    if grant.verb in WHOLE and (locales or sections or limits(grant)):
        return None
    kept_locales = _narrow(grant.locales, locales)
    kept_sections = _narrow(grant.sections, sections)
    if kept_locales is None or kept_sections is None:
        return None
    return Grant(grant.verb, grant.types, kept_locales, kept_sections, grant.stages, grant.own)


def within(inner: Grant, outer: Grant, above: Callable[[int], Iterable[int]]) -> bool:
    """Whether all that a grant allows is allowed by another; `above` gives the sections around a section."""
    return (
        inner.verb == outer.verb
        and _side_within(inner.types, outer.types)
        and _side_within(inner.locales, outer.locales)
        and _side_within(inner.stages, outer.stages)
        and (
            not outer.sections
            or (
                bool(inner.sections)
                and all(s in outer.sections or set(above(s)) & set(outer.sections) for s in inner.sections)
            )
        )
        and (not outer.own or inner.own)
    )


def _side_within(inner: tuple[str, ...], outer: tuple[str, ...]) -> bool:
    return not outer or (bool(inner) and set(inner) <= set(outer))


def _narrow(inner: tuple[Any, ...], outer: Iterable[Any]) -> tuple[Any, ...] | None:
    limits = tuple(outer)
    if not limits or not inner:
        return inner or limits
    return tuple(x for x in inner if x in limits) or None
