"""The kinds of events that the log holds: what each says happened. An event of no kind that stands here cannot be written.

A new kind needs a line here, what it concerns in `operations/collaboration/news.py`, and what the console calls it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core.workflow import RELEASE

KINDS: dict[str, str] = {
    "entry.started": "An entry was started.",
    "entry.saved": "A revision was saved, alone or merged with what others saved meanwhile.",
    "entry.conflict": "A save met a change of the same place; what was typed is kept, and the draft did not move.",
    "entry.brought-back": "A removed entry was brought back as a draft.",
    "entry.checked": "Texts of a translation were said to fit their source as it is now.",
    "strand.forked": "A strand was forked.",
    "strand.dropped": "A strand was dropped.",
    "strand.reopened": "A strand was opened again.",
    "strand.settled": "What a strand and the draft both changed was settled beforehand, for when it has gone out.",
    "strand.caught-up": "What went out since was brought into a strand.",
    "strand.waits": "What went out from a strand and what the draft changed meanwhile have to be settled.",
    "strand.merged": "A strand, or a part of one, was merged into the draft.",
    "review.submitted": "A revision was submitted for review.",
    "review.taken-back": "A submission was taken back by whoever made it, or because its stage is no more.",
    "review.signed": "A revision was signed off.",
    "review.sent-back": "A submission was sent back with a reason.",
    "review.moved-on": "What waited went on to the next stage, after its gate came to hold.",
    "review.overridden": "A gate was overridden for one revision, with a reason.",
    "dispatch.opened": "A dispatch was started, or opened again, to be put together.",
    "dispatch.changed": "A dispatch that has not gone got other moves, another name, note or owner.",
    "dispatch.submitted": "A dispatch was submitted for review, as one.",
    "dispatch.signed": "What a dispatch brings was signed off, all of it or some.",
    "dispatch.sent-back": "A dispatch was sent back from review with a reason.",
    "dispatch.taken-back": "A dispatch was taken back from review by whoever submitted it.",
    "dispatch.planned": "A dispatch was planned.",
    "dispatch.replanned": "A planned dispatch got another time.",
    "dispatch.cancelled": "A planned dispatch was cancelled.",
    "dispatch.gone": "A dispatch went: what it released is out, what it withdrew or removed is not.",
    "dispatch.held": "A dispatch was held at its time, as something was in the way.",
    "dispatch.unresolved": "The wall time of a planned dispatch could not be resolved again after a change of a zone's rules.",
    "webhook.added": "A webhook was added: somebody is told of events over HTTP.",
    "webhook.changed": "A webhook got another address, choice or secret.",
    "webhook.switched": "A webhook was switched on or off, by somebody, or as it had not answered for long.",
    "webhook.ended": "A webhook was ended.",
    "calendar.added": "Somebody made a calendar to subscribe to.",
    "calendar.renewed": "A calendar got another secret address.",
    "calendar.ended": "A calendar was ended.",
    "quiet.added": "A quiet period was added: nothing is released in it.",
    "quiet.changed": "A quiet period got other times or another reason.",
    "quiet.ended": "A quiet period was ended.",
    "commission.made": "Translations were commissioned: one job per locale.",
    "job.sent": "A bureau took a job.",
    "job.progress": "A bureau said how far a job is.",
    "job.segment": "Somebody wrote a sentence of a job at the table.",
    "job.sent-back": "A unit that had returned is to be translated anew, and why.",
    "job.failed": "A job failed, and why.",
    "job.again": "A failed job was sent once more.",
    "job.returned": "A finished file was imported, and what became of its units.",
    "job.chosen": "Somebody chose between a returned unit and what was edited here meanwhile.",
    "job.accepted": "Returned units were accepted.",
    "job.cancelled": "A job was cancelled.",
    "comment.made": "A comment was made.",
    "comment.replied": "A comment was replied to.",
    "comment.resolved": "A comment was resolved.",
    "comment.reopened": "A comment was opened again.",
    "assignment.made": "An edition was assigned to somebody.",
    "assignment.ended": "An assignment is done, or not needed any more.",
    "assignment.due": "Somebody was reminded that an assignment is due.",
    "assignment.late": "Somebody was reminded that an assignment is late.",
    "preview.given": "A preview link was given out.",
    "preview.taken-back": "A preview link was taken back.",
    "preview.used": "A preview link was opened, by whoever has it; told once an hour.",
    "template.made": "A template was made from an entry.",
    "template.ended": "A template was ended.",
    "list.saved": "A list was kept.",
    "list.dropped": "A kept list was dropped.",
    "file.added": "A file was stored.",
    "folder.made": "A folder of the library was made.",
    "folder.changed": "A folder of the library was changed.",
    "folder.removed": "A folder of the library was removed.",
    "library.filed": "Entries were put into a folder.",
    "type.defined": "A content type was defined, or a new version of one.",
    "type.deleted": "A content type that nothing used was deleted.",
    "set.defined": "A field set was defined, or a new version of one.",
    "set.deleted": "A field set that nothing used was deleted.",
    "workflow.defined": "A workflow was defined, or a new version of one.",
    "workflow.chosen": "It was chosen which workflows are followed by what.",
    "workflow.ended": "A workflow that nothing followed was ended.",
    "workflow.moved": "What stood at a stage that a workflow has no more was moved.",
    "locales.defined": "The locales of the house were defined.",
    "crops.defined": "The sizes in which pictures are shown were defined.",
    "sites.defined": "The places where readers see pages were defined.",
    "bureau.added": "A bureau was added, or brought back.",
    "bureau.changed": "A bureau got another address, name, key or codes.",
    "bureau.ended": "A bureau was ended.",
    "role.defined": "A role was defined.",
    "role.ended": "A role was ended.",
    "key.issued": "A key was issued.",
    "key.ended": "A key was ended.",
    "person.added": "A person was added.",
    "person.changed": "Somebody changed their name or time zone.",
    "person.invited": "Somebody was invited to choose a password.",
    "person.joined": "Somebody who was invited chose a password.",
    "person.left": "Somebody was let go.",
    "person.roles-changed": "Somebody got other roles.",
    "person.password-changed": "Somebody changed their password; their other sessions ended.",
    "person.second-factor-on": "Somebody turned their second factor on.",
    "person.second-factor-off": "A second factor was turned off.",
    "person.spare-code-used": "Somebody logged in with a spare code.",
    "session.opened": "Somebody logged in.",
    "session.refused": "A log-in was refused; told once for many in a row.",
    "session.ended": "A session ended.",
    "access.refused": "Somebody was refused something; told once for many in a row.",
    "mail.given-up": "A mail could not be sent after many tries.",
}
"""Each kind with what it says happened."""


def beginnings(kinds: Iterable[str]) -> list[str]:
    """The beginnings of kinds, such as `review.`, by which all of one sort are chosen."""
    return [*dict.fromkeys(f"{kind.split('.')[0]}." for kind in kinds)]


def stages(kind: str, payload: Mapping[str, Any]) -> tuple[str, ...]:
    """The stages that an event is about: those of a dispatch are about release."""
    said = {payload["stage"]} if isinstance(payload.get("stage"), str) else set()
    return tuple(sorted(said | ({RELEASE} if kind.startswith("dispatch.") else set())))
