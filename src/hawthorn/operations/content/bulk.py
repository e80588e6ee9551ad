"""One act on many entries: what it would do to each is shown first, and each has a result of its own.

What is shown first is the act itself, done and then undone in the same transaction: it cannot differ from the doing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import together
from hawthorn.core.timeline import spoken
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import Act
from hawthorn.store import dispatches as dispatch_store
from hawthorn.store import entries as store

MOST = 500
Item = tuple[str, str, int | None] | tuple[str, str, int | None, int | None]
"""An entry (UUID), a locale, and the revision that was looked at, where the act is about one, with that of the shared fields (0 where there was none)."""


@dataclass(slots=True)
class Result:
    """What became of one entry: what was done, or why it was not and what to do."""

    id: str
    locale: str
    title: str = ""
    done: bool = False
    what: str = ""
    why: str = ""
    remedy: str = ""


def run(
    act: Act,
    name: str,
    items: Sequence[Item],
    options: Mapping[str, Any],
    *,
    check: bool = False,
) -> list[Result]:
    """Do an act to each of the items. With `check` nothing is kept."""
    if name not in ACTS:
        raise Invalid("bulk.no_act", name=name, known=list(ACTS))
    if not items or len(items) > MOST:
        raise Invalid("bulk.how_many", most=MOST)
    out: list[Result] = []
    with act.trying() as whole:
        for uuid, locale, *seen in dict.fromkeys(items):
            looked_at = dict(zip(("revision", "common_revision"), seen, strict=False))
            out.append(_one(act, name, uuid, locale, {**options, **looked_at}))
        whole.keep(not check)
    return out


def _one(act: Act, name: str, uuid: str, locale: str, options: Mapping[str, Any]) -> Result:
    result = Result(uuid, locale)
    with act.trying() as step:
        try:
            entry = permission.find(act, uuid, locale)
            result.title = permission.title(act, entry.id, locale)
            known = len(act.notes)
            result.what = " ".join([ACTS[name](act, uuid, locale, options), *act.notes[known:]])
            result.done = True
        except HawthornError as error:
            result.why, result.remedy = act.say(error.message), act.setup.words.remedy(error)
        step.keep(result.done)
    return result


def _submit(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    review.submit(act, uuid, locale, str(options.get("note", "")))
    return act.say("bulk.waits", number=_number(act, uuid, locale))


def _release(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    dispatches.make(act, [MoveRequest(uuid, locale)], note=str(options.get("note", "")))
    return act.say("bulk.is_out")


def _plan(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    when = When(**(options.get("when") or {}))
    if not (when.instant or when.wall):
        raise Invalid([FieldProblem("when", said("bulk.without_time"))])
    made = dispatches.make(act, [MoveRequest(uuid, locale)], when, note=str(options.get("note", "")))
    planned = dispatch_store.by_uuid(act.conn, made)
    assert planned is not None
    return act.say("bulk.goes_out", at=spoken(planned.at, planned.zone), zone=planned.zone)


def _sign(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    looked_at = options.get("revision")
    if looked_at is None:
        raise Invalid([FieldProblem("revision", said("bulk.without_revision"))])
    review.sign_off(
        act, uuid, locale, looked_at, str(options.get("note", "")), options.get("common_revision")
    )
    return act.say("bulk.is_signed", number=looked_at)


def _withdraw(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    dispatches.make(act, [MoveRequest(uuid, locale, "withdraw")], note=str(options.get("note", "")))
    return act.say("bulk.is_no_longer_out")


def _remove(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    dispatches.make(act, [MoveRequest(uuid, locale, "remove")], note=str(options.get("note", "")))
    return act.say("bulk.is_removed")


def _tag(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    word = str(options.get("tag", "")).strip()
    return _tags(
        act,
        uuid,
        locale,
        lambda have: [*have, word] if word not in have else have,
        said("bulk.has_tag", tag=word),
    )


def _untag(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    word = str(options.get("tag", "")).strip()
    return _tags(
        act, uuid, locale, lambda have: [t for t in have if t != word], said("bulk.has_not_tag", tag=word)
    )


def _tags(act: Act, uuid: str, locale: str, change: Callable[[list[str]], list[str]], what: Message) -> str:
    entry = permission.find(act, uuid, locale)
    kind = act.setup.type(entry.type)
    spec = next((f for f in kind.fields if f.kind == "tags"), None)
    if spec is None:
        raise InTheWay("bulk.no_tags", kind=kind.label)
    have = _values(act, kind, uuid, locale).get(spec.name) or []
    return _saved(act, uuid, locale, {spec.name: change(list(have)) or None}, what)


def _set(act: Act, uuid: str, locale: str, options: Mapping[str, Any]) -> str:
    entry = permission.find(act, uuid, locale)
    kind = act.setup.type(entry.type)
    spec = kind.field(str(options.get("field", "")))
    if spec is None:
        raise InTheWay("bulk.no_field", kind=kind.label)
    return _saved(act, uuid, locale, {spec.name: options.get("value")}, said("bulk.is_set", field=spec.label))


def _saved(act: Act, uuid: str, locale: str, patch: Mapping[str, Any], what: Message) -> str:
    entry = permission.find(act, uuid, locale)
    base = entries.current_base(act, entry.id, act.setup.locale(locale))
    saved = entries.save(act, uuid, locale, patch, base, act.keep("notes.changed_with_others"))
    return act.say(what if saved.revisions else said("bulk.already", what=what))


def _values(act: Act, kind: ContentType, uuid: str, locale: str) -> dict[str, Any]:
    entry = permission.find(act, uuid, locale)
    shared, own = (drafted(act, entry.id, where) for where in (COMMON, act.setup.locale(locale)))
    return together(kind, shared, own)


def _number(act: Act, uuid: str, locale: str) -> int:
    entry = permission.find(act, uuid, locale)
    edition = store.edition(act.conn, entry.id, act.setup.locale(locale))
    number: int = edition.tip_number if edition is not None else 0
    return number


ACTS: dict[str, Callable[[Act, str, str, Mapping[str, Any]], str]] = {
    "submit": _submit,
    "sign": _sign,
    "release": _release,
    "plan": _plan,
    "withdraw": _withdraw,
    "remove": _remove,
    "tag": _tag,
    "untag": _untag,
    "set": _set,
}
