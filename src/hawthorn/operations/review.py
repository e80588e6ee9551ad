"""Review: submitting, taking back, signing off and sending back."""

from __future__ import annotations

import sqlite3

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.dispatch import Opening, Plan
from hawthorn.core.errors import FieldProblem, GateUnmet, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.core.workflow import Candidate, Stage, Workflow, counting, unmet
from hawthorn.operations import applying, dispatches, facts, permission
from hawthorn.operations.act import Act, View
from hawthorn.operations.facts import Going
from hawthorn.store import entries, people, reviews, standings


def submit(act: Act, uuid: str, locale: str, note: str = "") -> None:
    """Submit the draft for the first stage after it. Shared fields that changed go along in the same act."""
    entry, edition, flow = _find(act, uuid, locale)
    stage = flow.stages[1]
    if stage == flow.last:
        raise InTheWay(
            f"“{act.setup.type(entry['type']).label}” needs no review.", remedy="Release it when it is ready."
        )
    permission.require(act, "submit", permission.subject(act, entry, edition["locale"], stage.name))
    waiting = reviews.waiting(act.conn, edition["id"])
    if waiting is not None and waiting["revision"] == edition["head"] and waiting["stage_name"] == stage.name:
        raise InTheWay(
            "This very revision is in review already.", remedy="Wait for the decision, or take it back."
        )
    stand = standings.now_at(act.conn, [edition["id"]]).get(edition["id"], {})
    last = stand.get(act.setup.stages[flow.last.name])
    going = [edition]
    common = entries.edition(act.conn, entry["id"], COMMON)
    if common is not None and _has_moved(act, common, flow, stage):
        going.append(common)
    if last is not None and last.revision == edition["head"] and len(going) == 1:
        raise InTheWay("This very revision is out already.", remedy="Change something first.")
    _require_gate(act, stage, [(e, e["head"]) for e in going])
    for one in going:
        _stand(act, one, stage, one["head"])
        reviews.submit(
            act.conn, one["id"], act.setup.stages[stage.name], one["head"], act.identity.id, act.now, note
        )
    act.event(
        "review.submitted", [entry["id"]], _payload(act, entry, edition, edition["head_number"], stage, note)
    )


def blocked_from(act: Act, edition: sqlite3.Row, stage: Stage) -> str:
    """Why an edition's head may not stand at a stage, in words; empty when it may."""
    try:
        _require_gate(act, stage, [(edition, edition["head"])])
    except GateUnmet as refused:
        return refused.detail
    return ""


def stand_and_sign(act: Act, entry_id: int, edition: sqlite3.Row, flow: Workflow, note: str) -> None:
    """Put an edition's head up for review and sign it off in one act: what accepting a translation means."""
    entry = entries.entry_by_id(act.conn, entry_id)
    stage, goal = flow.stages[1], flow.stages[2]
    _stand(act, edition, stage, edition["head"])
    reviews.submit(
        act.conn, edition["id"], act.setup.stages[stage.name], edition["head"], act.identity.id, act.now, note
    )
    payload = _payload(act, entry, edition, edition["head_number"], stage, note)
    act.event("review.submitted", [entry_id], payload)
    found = _sign(act, flow, goal, [(edition, edition["head"])], note)
    lacking = max(goal.gate.sign_offs - len(counting(goal.gate, found[edition["id"]])), 0)
    act.event("review.signed", [entry_id], {**payload, "for": goal.name, "lacking": lacking})
    if not lacking:
        reviews.decide(act.conn, edition["id"], "signed off", act.identity.id, act.now, note)


def take_back(act: Act, uuid: str, locale: str) -> None:
    """Take a submission back before it is decided."""
    entry, edition, flow = _find(act, uuid, locale)
    waiting = _waiting(act, edition)
    permission.require(
        act, "submit", permission.subject(act, entry, edition["locale"], waiting["stage_name"])
    )
    if waiting["actor"] != act.identity.id:
        by = people.actor(act.conn, waiting["actor"])
        name = by["name"] if by is not None else "whoever submitted it"
        raise Refused(
            f"Only {name} may take it back.",
            remedy=f"Ask {name}, or send it back.",
            missing="own",
            who=[name],
        )
    _leave(act, entry, edition, flow, "taken back", "")
    act.event(
        "review.taken-back",
        [entry["id"]],
        _payload(
            act,
            entry,
            edition,
            entries.number(act.conn, waiting["revision"]),
            flow.stage(waiting["stage_name"]),
            "",
        ),
    )


def sign_off(act: Act, uuid: str, locale: str, revision: int, note: str = "") -> None:
    """Approve exactly the revision of that number, as it stands in review; a newer one is not covered."""
    entry, edition, flow = _find(act, uuid, locale)
    waiting = _waiting(act, edition)
    here = flow.stage(waiting["stage_name"])
    goal = flow.after(here.name)
    assert goal is not None
    permission.require(act, "sign", permission.subject(act, entry, edition["locale"], here.name))
    number = entries.number(act.conn, waiting["revision"])
    if number != revision:
        raise StaleRevision(
            f"Revision {number} is in review, not {revision}.",
            remedy="Look at what is in review now and sign that off.",
            revision=number,
        )
    pairs = [(edition, waiting["revision"])]
    common = entries.edition(act.conn, entry["id"], COMMON)
    common_waiting = reviews.waiting(act.conn, common["id"]) if common else None
    if common is not None and common_waiting is not None and common_waiting["stage"] == waiting["stage"]:
        pairs.append((common, common_waiting["revision"]))
    refusal = why_not_sign(act, goal, edition["id"], waiting["revision"])
    if refusal:
        raise Refused(
            refusal, remedy="Ask somebody else who may sign off here.", missing="sign-off by another", who=[]
        )
    candidates = _sign(act, flow, goal, pairs, note)
    mine = candidates[edition["id"]]
    short = goal.gate.sign_offs - len(counting(goal.gate, mine))
    payload = _payload(act, entry, edition, number, here, note)
    act.event("review.signed", [entry["id"]], {**payload, "for": goal.name, "lacking": max(short, 0)})
    if short <= 0:
        for one, _ in pairs:
            reviews.decide(act.conn, one["id"], "signed off", act.identity.id, act.now, note)
        if goal != flow.last and not unmet(goal.gate, mine):
            _advance(act, goal, pairs)


def why_not_sign(view: View, goal: Stage, edition: int, revision: int) -> str:
    """Why a gate would not count a sign-off by whoever acts, in words; empty when it would."""
    gate = goal.gate
    if gate.roles and not set(gate.roles) & set(view.identity.roles):
        return f"Only {' or '.join(gate.roles)} may sign off for {goal.label.lower()}."
    about = facts.of_editions(view, [Going(edition, revision, view.setup.stages[goal.name])])
    if gate.author == "no" and view.identity.id in about[edition].written_by(revision):
        return "You changed this text since it was last out, and this workflow asks for somebody else's sign-off."
    return ""


def _sign(
    act: Act, flow: Workflow, goal: Stage, pairs: list[tuple[sqlite3.Row, int]], note: str
) -> dict[int, Candidate]:
    stage = act.setup.stages[goal.name]
    going = [Going(one["id"], revision, stage) for one, revision in pairs]
    about = facts.of_editions(act, going)
    before = facts.candidates(act, going, about)
    for one, revision in pairs:
        row = entries.revision_row(act.conn, revision)
        assert row is not None
        reviews.add_sign_off(
            act.conn,
            revision,
            row["content_hash"],
            stage,
            flow.name,
            flow.version,
            act.identity.id,
            act.identity.roles,
            act.now,
            before[one["id"]].embeds,
            note,
        )
    return facts.candidates(act, going, about)


def _advance(act: Act, goal: Stage, pairs: list[tuple[sqlite3.Row, int]]) -> None:
    """On a longer workflow, what is signed off stands at the next stage and waits there."""
    for one, revision in pairs:
        _stand(act, one, goal, revision)
        reviews.submit(
            act.conn, one["id"], act.setup.stages[goal.name], revision, act.identity.id, act.now, ""
        )


def send_back(act: Act, uuid: str, locale: str, reason: str) -> None:
    """Send a submission back with a reason that the writer sees; sign-offs of it are void."""
    entry, edition, flow = _find(act, uuid, locale)
    if not reason.strip():
        raise Invalid([FieldProblem("reason", "say why, so that the writer knows what to mend")])
    waiting = reviews.waiting(act.conn, edition["id"]) or _signed_and_standing(act, edition)
    if waiting is None:
        raise InTheWay("Nothing of it is in review.", remedy="Look at what waits under In hand.")
    stage = flow.stage(waiting["stage_name"])
    permission.require(act, "sign", permission.subject(act, entry, edition["locale"], stage.name))
    number = entries.number(act.conn, waiting["revision"])
    reviews.take_off(act.conn, waiting["revision"])
    _leave(act, entry, edition, flow, "sent back", reason.strip())
    act.event(
        "review.sent-back",
        [entry["id"]],
        {**_payload(act, entry, edition, number, stage, reason.strip()), "to": waiting["actor"]},
    )


def _signed_and_standing(act: Act, edition: sqlite3.Row) -> sqlite3.Row | None:
    """A submission that was signed off but has not gone out may still be sent back."""
    latest = reviews.latest(act.conn, edition["id"])
    if latest is None or latest["outcome"] != "signed off":
        return None
    standing = standings.now_at(act.conn, [edition["id"]]).get(edition["id"], {}).get(latest["stage"])
    if standing is None:
        return None
    act.conn.execute("UPDATE submission SET outcome = NULL WHERE id = ?", (latest["id"],))
    return latest


def _leave(
    act: Act, entry: sqlite3.Row, edition: sqlite3.Row, flow: Workflow, outcome: str, reason: str
) -> None:
    """Close what stands in review, of the edition and of shared fields that were submitted with it."""
    common = entries.edition(act.conn, entry["id"], COMMON)
    mine = reviews.waiting(act.conn, edition["id"])
    closing: list[int] = []
    for one in (edition, common):
        waiting = reviews.waiting(act.conn, one["id"]) if one is not None else None
        if one is None or waiting is None or mine is None or waiting["at"] != mine["at"]:
            continue
        standing = standings.now_at(act.conn, [one["id"]]).get(one["id"], {}).get(waiting["stage"])
        if standing is not None:
            closing.append(standing.id)
        reviews.decide(act.conn, one["id"], outcome, act.identity.id, act.now, reason)
    applying.apply(act, Plan(tuple(closing), (), ()), act.now, None)


def _stand(act: Act, edition: sqlite3.Row, stage: Stage, revision: int) -> None:
    id = act.setup.stages[stage.name]
    now = standings.now_at(act.conn, [edition["id"]]).get(edition["id"], {}).get(id)
    if now is not None and now.revision == revision:
        return
    closing = (now.id,) if now is not None else ()
    applying.apply(act, Plan(closing, (Opening(edition["id"], id, revision),), ()), act.now, None)


def _has_moved(view: View, common: sqlite3.Row, flow: Workflow, stage: Stage) -> bool:
    """Whether the shared fields hold something that neither stands in review nor further on."""
    stand = standings.now_at(view.conn, [common["id"]]).get(common["id"], {})
    ahead = [view.setup.stages[s.name] for s in flow.stages if s.rung >= stage.rung]
    return not any(stand[s].revision == common["head"] for s in ahead if s in stand)


def _require_gate(act: Act, stage: Stage, pairs: list[tuple[sqlite3.Row, int]]) -> None:
    id = act.setup.stages[stage.name]
    going = [Going(one["id"], revision, id) for one, revision in pairs]
    about = facts.of_editions(act, going)
    found = facts.candidates(act, going, about)
    lines = []
    for one, revision in pairs:
        conditions = unmet(stage.gate, found[one["id"]])
        f = about[one["id"]]
        if conditions:
            lines.append(
                dispatches.Line(
                    "advance",
                    one["id"],
                    id,
                    revision,
                    False,
                    f.uuid,
                    f.locale,
                    entries.title(act.conn, f.entry),
                    f.type,
                    unmet=conditions,
                )
            )
    if lines:
        refused = dispatches.gate_unmet(lines)
        detail = refused.detail.replace("cannot go out yet", f"cannot go to {stage.label.lower()} yet")
        raise GateUnmet(detail, remedy="Fill in what is listed and submit again.", **refused.facts)


def _find(act: Act, uuid: str, locale: str) -> tuple[sqlite3.Row, sqlite3.Row, Workflow]:
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    edition = entries.edition(act.conn, entry["id"], tag)
    if edition is None or edition["head"] is None:
        raise NotFound(f"It has no {tag} edition.", remedy="Write it, or commission a translation.")
    return entry, edition, act.setup.workflow_of(entry["type"])


def _waiting(act: Act, edition: sqlite3.Row) -> sqlite3.Row:
    row = reviews.waiting(act.conn, edition["id"])
    if row is None:
        raise InTheWay("Nothing of it waits for a decision.", remedy="It has to be submitted first.")
    return row


def _payload(
    act: Act, entry: sqlite3.Row, edition: sqlite3.Row, number: int, stage: Stage, note: str
) -> dict[str, object]:
    return {
        "entry": entry["uuid"],
        "locale": edition["locale"],
        "title": entries.title(act.conn, entry["id"], edition["locale"]),
        "revision": number,
        "stage": stage.name,
        "note": note,
    }
