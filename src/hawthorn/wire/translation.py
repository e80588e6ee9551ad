"""What crosses HTTP about translation: commissions, jobs and their units."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Named, Page, Shortened, Wire
from hawthorn.wire.content import Run
from hawthorn.wire.media import FileValue

JobAct = Literal["assign", "send-again", "cancel", "reopen"]
JobAsked = Literal["", "open", "waiting", "sent", "in work", "failed", "returned", "accepted", "cancelled"]
"""The states of a job, all that are open, or any."""


class JobLine(Shortened):
    """A translation job as a list shows it."""

    commission: str
    name: str
    locale: str
    locale_name: str
    source_locale: str
    state: str
    bureau: str
    translator: str = Field(default="", description="The person who is to translate it; empty for none.")
    percent: int
    units: int
    words: int
    due: str
    by: str
    created_at: str
    changed_at: str
    trouble: str
    entries: list[Named]


class CommissionAsk(Wire):
    """An order for translation; without a bureau its files are carried by hand."""

    entries: list[str]
    locales: list[str]
    name: str = ""
    due: str = ""
    note: str = ""
    bureau: str = ""
    again: bool = Field(
        default=False, description="Send what another job has already once more; else it is left out."
    )
    current: bool = Field(
        default=False,
        description="Send what is up to date as well; else only what is missing or has changed.",
    )


class Estimate(Wire):
    """What one locale of an order would hold."""

    locale: str
    entries: int
    units: int
    words: int
    away: int = Field(default=0, description="Units that are left out, as another job has them already.")
    trouble: str = Field(
        default="",
        description="Why whoever asks could not send that as it is, and what to do about it; empty where nothing is in the way.",
    )


class Estimates(Wire):
    """An order before it is sent."""

    items: list[Estimate]


class Commission(Wire):
    """A commission with its jobs."""

    id: str
    name: str
    jobs: list[JobLine]
    left_out: int = Field(default=0, description="Units that were not sent, as another job has them already.")


class JobUnit(Wire):
    """A unit: its source, what returned, and what the edition holds now."""

    entry: str
    title: str
    key: str
    label: str
    source: str
    returned: str
    current: str
    state: str
    outcome: str
    words: int
    trouble: str = Field(
        default="", description="Why what came last was not taken; empty when nothing is wrong."
    )
    notes: list[str] = Field(default_factory=list, description="What the translator noted on it.")
    choices: list[str] = Field(
        description="How whoever asks may settle it where it is in conflict: `ours` keeps the edition as it is, `theirs` takes what returned."
    )


class Question(Wire):
    """A question of a translator about a sentence, with its answer."""

    id: int = Field(description="Its number.")
    entry: str = Field(description="The entry that the sentence is of.")
    key: str = Field(description="The unit.")
    segment: str = Field(description="The sentence in it.")
    text: str = Field(description="What is asked.")
    by: str = Field(description="Who asks.")
    at: str = Field(description="When.")
    answer: str = Field(description="The answer; empty while there is none.")
    answered_by: str = Field(description="Who answered.")
    answered_at: str = Field(description="When; empty while nobody has.")
    may_answer: bool = Field(description="Whether whoever looks may answer it.")
    context: str = Field(
        description="Where a bureau shows what its translator sees; empty where it does not."
    )


class OwnFile(Wire):
    """A file of an entry that differs by locale: it goes along with a job, and the one of the other language comes back."""

    entry: str = Field(description="The entry, by its id.")
    title: str = Field(description="Its title.")
    field: str = Field(description="The field that holds the file.")
    label: str = Field(description="What people call the field.")
    source: FileValue = Field(description="The file of the source, as drafted.")
    target: FileValue | None = Field(description="What the translation holds; null for none yet.")
    state: Literal["open", "given", "moved"] = Field(
        description="open: nobody has given one, or said that the source's will do. given: somebody has. moved: the source has another file since."
    )
    by: str = Field(description="Who gave it; empty for nobody.")
    at: str = Field(description="When (RFC 3339).")
    may_give: bool = Field(description="Whether whoever asks may give one.")


class OwnFileGive(Wire):
    """The file for the language of a job."""

    sha256: str = Field(
        default="",
        pattern=r"^([0-9a-f]{64})?$",
        description="A stored file, by its digest (SHA-256); empty where the source's will do.",
    )


class Translator(Wire):
    """Somebody who may translate into a locale."""

    locale: str = Field(description="The locale.")
    handle: str = Field(description="The person, by handle.")
    name: str = Field(description="What they are called.")


class Job(JobLine):
    """A job with its units."""

    note: str = Field(description="What whoever commissioned it says to the translators.")
    due_told: str | None = Field(
        description="The day on which its bureau thinks that it is due (empty for none), where that is another one; null where it knows."
    )
    due_trouble: str = Field(
        description="Why its bureau could not be told another day; empty while that goes on, or where it knows."
    )
    questions: list[Question] = Field(description="What translators asked, in order.")
    units_shown: list[JobUnit]
    own_files: list[OwnFile] = Field(description="The files of its entries that differ by locale.")
    may_accept: bool
    may_carry: bool
    may_translate: bool = Field(description="Whether whoever asks may translate it at the table.")
    acts: list[JobAct] = Field(
        description="What whoever asks may do with it now: give it to somebody else or put off the day on which it is due, send it once more to the bureau that failed, cancel it, open it again."
    )
    person: str = Field(description="The person who is to translate it, by handle; empty for none.")
    translators: list[Translator] = Field(
        description="Who may translate into its locale; none for those who may not assign it."
    )


class AssignJob(Wire):
    """Who is to do a job from now on, and by when; what is left out stays as it is."""

    person: str | None = Field(
        default=None,
        description="A person, by handle. Empty, without a bureau, for whoever writes the locale.",
        examples=["hanne"],
    )
    bureau: str | None = Field(default=None, description="A bureau, by its name.")
    due: str | None = Field(
        default=None, description="The day on which it is due, as 2030-01-31; empty for none."
    )
    note: str = Field(default="", description="A note to whoever gets it.")


class JobList(Page):
    """Jobs, newest first."""

    items: list[JobLine]


class Place(Wire):
    """A unit of an entry, and what is to be said of it."""

    entry: str = Field(description="The entry; empty for what is of none in the job.")
    title: str = Field(description="Its title.")
    key: str = Field(description="The unit, by its key.")
    what: str = Field(description="What is wrong with it or worth knowing, in words.")


class Decision(Wire):
    """A unit that was not simply put in, and all that is needed to decide about it."""

    entry: str = Field(description="The entry.")
    title: str = Field(description="Its title.")
    key: str = Field(description="The unit, by its key.")
    label: str = Field(description="The field that it is of.")
    how: Literal["drifted", "gone", "conflict"] = Field(
        description="Its source changed, or is gone; or the edition was edited meanwhile."
    )
    sent: str = Field(description="The source as it was sent.")
    now: str = Field(description="The source as it is.")
    runs: list[Run] = Field(description="Both, with what differs marked.")
    returned: str = Field(description="The translation that returned.")
    current: str = Field(description="What the edition holds.")
    others: list[Run] = Field(
        description="What the edition holds against what returned, with what differs marked."
    )


class ImportResult(Wire):
    """What became of the units that returned."""

    applied: int = Field(description="So many were put into their editions.")
    drifted: int = Field(description="So many were kept out, as their source changed meanwhile.")
    conflict: int = Field(description="So many wait for a choice, as the edition was edited meanwhile.")
    gone: int = Field(description="So many have no source any more.")
    open: int = Field(description="So many units of the job have not returned yet.")
    refused: int = Field(description="So many did not fit; they stay as they were.")
    problems: list[Place] = Field(description="What did not fit and why, the first 200.")
    notes: list[Place] = Field(description="What is worth knowing of what was taken, the first 200.")
    decisions: list[Decision] = Field(description="What was not simply put in, the first 200.")
    job: JobLine


class ArchiveFile(Wire):
    """A file of an archive, and what became of it."""

    name: str = Field(description="What it is called in the archive.")
    result: ImportResult | None = Field(description="What became of its units; null where it was not taken.")
    problem: str = Field(description="Why it was not taken, in words; empty where it was.")


class ArchiveResult(Wire):
    """What became of the files of an archive."""

    files: list[ArchiveFile] = Field(description="Each of them, in the order of the archive.")


class Choose(Wire):
    """A unit in conflict, and which side stands: ours is the edition's, theirs what returned."""

    entry: str
    key: str
    take: Literal["ours", "theirs"]


class UnitName(Wire):
    """A unit of a job."""

    entry: str = Field(description="The entry that it is of.")
    key: str = Field(description="Its key.", examples=["title"])


class Accept(Wire):
    """Some units, or all that is left when none is named."""

    units: list[UnitName] = Field(default_factory=list, description="The units; empty for all.")
    note: str = ""
    release: bool = Field(
        default=False,
        description="Release what was accepted at once, where whoever accepts may; only of all.",
    )
    dispatch: str = Field(
        default="", description="Put what was accepted into this open dispatch, by its id; only of all."
    )


class AcceptResult(Wire):
    """How many were accepted, how many are left, and what is worth knowing."""

    accepted: int
    left: int
    notes: list[str]


SegmentState = Literal["initial", "translated", "reviewed", "final"]
"""What XLIFF calls the state of a segment (2.1, section 4.3.1.31)."""
TableState = Literal["initial", "translated", "reviewed"]
"""The states that can be given at the table."""


class SegmentName(Wire):
    """One sentence of a job."""

    entry: str = Field(description="The entry that it is of.")
    key: str = Field(description="The unit.", examples=["title"])
    segment: str = Field(description="The sentence in it.", examples=["s1"])


class SegmentCheck(SegmentName):
    """A target that somebody types."""

    target: str = Field(description="Tags stand by their numbers in angle brackets: `It <1>burned</1> oil.`")


class SegmentSave(SegmentCheck):
    """What somebody wrote for a sentence."""

    before: str = Field(
        description="What stood there when they began; when it is another now, nothing is kept."
    )
    state: TableState = "translated"
    remark: str = Field(default="", description="A remark to whoever reads it after.")


class SegmentSplit(SegmentName):
    """Where to cut a sentence in two."""

    at: int = Field(description="The number of the character of its source's words that begins the second.")


class Ask(SegmentName):
    """A question about a sentence."""

    text: str = Field(description="What is asked.")


class Answer(Wire):
    """An answer to a question."""

    answer: str = Field(description="The answer.")


class UnitSendBack(UnitName):
    """A unit that somebody is to translate anew, and why."""

    why: str = Field(description="The reason, for the translator.")


class SegmentTag(Wire):
    """A tag of a sentence."""

    id: str = Field(description="Its number.")
    name: str = Field(description="What it is in HTML.", examples=["strong", "a"])
    alone: bool = Field(description="Whether it holds no words, such as a line break.")
    needed: bool = Field(description="Whether a target has to have it.")


class Finding(Wire):
    """One thing that is worth a look in a target."""

    code: Literal["tags", "numbers", "spaces", "length", "end", "untranslated", "glossary"]
    what: str = Field(description="What it is, in words.")
    blocks: bool = Field(description="Whether the sentence cannot be finished with it.")


class Findings(Wire):
    """What is worth a look in a target."""

    findings: list[Finding] = Field(description="Each of them; none when nothing is.")


class GlossaryTarget(Wire):
    """What a concept is called in the target's language."""

    text: str = Field(description="The term.")
    status: Literal["preferred", "admitted", "deprecated"] = Field(
        description="Whether it comes first, may be used as well, or is not to be used (ISO 30042)."
    )


class GlossaryWord(Wire):
    """A word of a glossary in a source."""

    start: int = Field(description="The character of the source's words, without tags, at which it begins.")
    end: int = Field(description="The character before which it ends.")
    text: str = Field(description="The word as it stands there.")
    note: str = Field(description="What the concept is; empty where nothing is said.")
    targets: list[GlossaryTarget] = Field(description="What it is called, what comes first first.")


class SegmentLine(SegmentName):
    """One sentence with all that a translator needs beside it."""

    title: str = Field(description="The title of the entry.")
    label: str = Field(description="The field that it is of.")
    first: bool = Field(description="Whether it is the first of its unit.")
    source: str = Field(description="The source, with tags by their numbers in angle brackets.")
    target: str = Field(description="The target, in the same way; empty for none.")
    state: SegmentState
    remark: str = Field(description="What whoever wrote it remarked to those who read it after.")
    by: str = Field(description="Who wrote it at the table, by handle; empty for nobody.")
    at: str = Field(description="When.")
    origin: str = Field(
        description="“memory” where nobody has looked at a target that came out of one; else empty."
    )
    tags: list[SegmentTag] = Field(description="Its tags, in order.")
    limit: int | None = Field(description="So many characters the whole unit may have.")
    room: int | None = Field(description="So many of them are left for this sentence.")
    unit_state: SegmentState = Field(description="The state of its unit.")
    outcome: str = Field(description="What became of the unit when it was put in; empty when it was not.")
    trouble: str = Field(description="Why it is open again, or what came last was not taken.")
    notes: list[str] = Field(description="What translators noted on the unit.")
    then: list[str] = Field(
        description="What the source said when it was translated last, and how that was translated; empty when it did not change."
    )
    words: list[GlossaryWord] = Field(description="The words of the glossaries in its source.")
    findings: list[Finding] = Field(description="What is worth a look in the target.")
    may_translate: bool = Field(description="Whether whoever asks may translate it now.")


class Segments(Page):
    """The sentences of a job, in order; a page has so many units."""

    items: list[SegmentLine]


class SegmentsNow(Wire):
    """The sentences of one unit as they are now, and the job."""

    segments: list[SegmentLine] = Field(description="All of the unit, in order.")
    job: JobLine
