"""What an assistant wrote stays marked, word by word, until somebody signs it off: through saves, merges, strands and moved paragraphs."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.compare import Run
from hawthorn.operations.content import strands
from hawthorn.operations.release import review
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import show, show_assisted, show_comparison
from tests.agent.test_overseeing import Overseen


@pytest.fixture
def house(tmp_path: Path) -> Iterator[Overseen]:
    made = Overseen(tmp_path)
    yield made
    made.close()


def marked(house: Overseen, uuid: str, strand: str = "draft") -> list[str]:
    """The stretches that are marked, in order."""
    found = house.desk.read(house.who("wim"), lambda v: show_assisted.words(v, uuid, "en", strand))
    shown = house.desk.read(house.who("wim"), lambda v: show.entry(v, uuid, "en", strand))
    assert shown["assisted"] or not found.count
    return [run.text.strip() for place in found.places for run in place.runs if run.assistant]


def compared(house: Overseen, uuid: str, before: str, after: str) -> list[Run]:
    """The stretches of words of a comparison."""
    found = house.desk.read(
        house.who("wim"), lambda v: show_comparison.comparison(v, uuid, "en", before, after)
    )
    return [run for field in found["fields"] for part in field["parts"] for run in part["runs"]]


def test_a_comparison_tells_the_words_of_an_assistant_from_those_of_people(house: Overseen) -> None:
    uuid = house.page("Lamps", body="<p>The lamp burned.</p><p>Nobody slept.</p>")
    house.saves(
        uuid,
        title="Lamps of old",
        body="<p>The lamp burned all night.</p><p>Nobody slept.</p><p>Rain fell.</p>",
    )
    house.saves(
        uuid,
        by="wim",
        title="Old lamps of old",
        body="<p>The lamp burned all night long.</p><p>Nobody slept.</p><p>Rain fell.</p>",
    )
    told = [(run.how, run.text.strip()) for run in compared(house, uuid, "1", "draft") if run.assistant]
    assert told == [("new", "of old"), ("new", "all night"), ("new", "Rain fell.")]
    assert not any(run.assistant for run in compared(house, uuid, "draft", "1")), (
        "the newer side alone is marked"
    )
    kept = [run for run in compared(house, uuid, "2", "draft") if run.assistant]
    assert [(run.how, run.text.strip()) for run in kept] == [
        ("same", "of old"),
        ("same", "all night"),
        ("same", "Rain fell."),
    ]
    house.do("wim", lambda a: review.submit(a, uuid, "en"))
    house.do("oda", lambda a: review.sign_off(a, uuid, "en", 3))
    assert not any(run.assistant for run in compared(house, uuid, "1", "draft"))


def test_a_word_is_marked_until_it_is_signed_off_or_written_anew(house: Overseen) -> None:
    uuid = house.page("Lamps", body="<p>The lamp burned all night.</p><p>Nobody slept.</p>")
    assert marked(house, uuid) == []
    house.saves(uuid, body="<p>The old lamp burned all night.</p><p>Nobody slept.</p>", title="Lamps of old")
    assert marked(house, uuid) == ["of old", "old"]
    # Moved and surrounded by others' words it stays what it is; what a person writes is a person's.
    house.saves(uuid, by="wim", body="<p>Nobody slept at all.</p><p>The very old lamp burned.</p>")
    assert marked(house, uuid) == ["of old", "old"]
    house.saves(uuid, by="wim", title="Lamps")
    assert marked(house, uuid) == ["old"]
    house.do("wim", lambda a: review.submit(a, uuid, "en"))
    found = house.desk.read(house.who("wim"), lambda v: show_assisted.words(v, uuid, "en"))
    assert (found.count, found.by) == (1, ["Copperleaf"])
    number = house.revision(uuid)["number"]
    house.do("oda", lambda a: review.sign_off(a, uuid, "en", number))
    assert marked(house, uuid) == []
    assert not house.desk.read(house.who("oda"), lambda v: show.entry(v, uuid, "en"))["assisted"]
    house.saves(uuid, body="<p>Nobody slept at all, they say.</p><p>The very old lamp burned.</p>")
    assert marked(house, uuid) == [", they say"], "what was signed off is the house's"
    # Also where it was the assistant's from the first word on.
    whole = house.starts("All by a machine")
    house.do("wim", lambda a: review.submit(a, whole, "en"))
    assert marked(house, whole) == ["All by a machine", "By a machine."]
    house.do("oda", lambda a: review.sign_off(a, whole, "en", 1))
    assert marked(house, whole) == []
    house.saves(whole, title="All by a machine again")
    assert marked(house, whole) == ["again"]


def test_what_comes_by_a_merge_keeps_its_marks_whoever_merged_it(house: Overseen) -> None:
    uuid = house.page("Lamps", body="<p>One two three.</p><p>Four five six.</p>")
    house.do("wim", lambda a: strands.fork(a, uuid, "en", "Beside"))
    house.saves(uuid, strand="Beside", body="<p>One two or three.</p><p>Four five six.</p>")
    house.saves(uuid, by="wim", body="<p>One two three.</p><p>Four, five, six.</p>")
    assert marked(house, uuid) == []
    assert marked(house, uuid, "Beside") == ["or"]

    def accept(act: Act) -> None:
        proposal = strands.propose(act, uuid, "en", "Beside")
        strands.accept(act, uuid, "en", "Beside", proposal.etag)

    house.do("wim", accept)
    assert house.fields(uuid)["body"] == "<p>One two or three.</p><p>Four, five, six.</p>"
    assert marked(house, uuid) == ["or"]
    # The same where only a part of a strand is taken.
    part = house.page("Parts", body="<p>One two.</p>")
    house.do("wim", lambda a: strands.fork(a, part, "en", "Beside"))
    house.saves(part, strand="Beside", title="Parts of it", body="<p>One or two.</p>")

    def pick(act: Act) -> None:
        proposal = strands.propose(act, part, "en", "Beside", ["body"])
        strands.accept(act, part, "en", "Beside", proposal.etag, ["body"])

    house.do("wim", pick)
    assert house.fields(part) == {"title": "Parts", "body": "<p>One or two.</p>"}
    assert marked(house, part) == ["or"]
    other = house.starts("All by a machine")
    assert marked(house, other) == ["All by a machine", "By a machine."]


def test_whatever_is_written_by_turns_each_word_is_by_whoever_wrote_it(house: Overseen) -> None:
    chance = random.Random(5)
    uuid = house.page("Words", body="<p>start</p>")
    words: list[tuple[str, bool]] = [("start", False)]
    for n in range(40):
        machine = chance.random() < 0.5
        for _ in range(chance.randrange(1, 4)):
            if len(words) > 3 and chance.random() < 0.4:
                words.pop(chance.randrange(len(words)))
            else:
                # Each word once, so that there is no question which is which.
                words.insert(chance.randrange(len(words) + 1), (f"w{n}x{chance.randrange(10**6)}", machine))
        body = f"<p>{' '.join(word for word, _ in words)}</p>"
        house.saves(uuid, by="" if machine else "wim", body=body)
        told = {word for stretch in marked(house, uuid) for word in stretch.split()}
        assert told == {word for word, machine in words if machine}, n
        runs = compared(house, uuid, chance.choice(["1", str(n + 1)]), "draft")
        theirs = {word for run in runs if run.assistant for word in run.text.split()}
        ours = {word for run in runs if not run.assistant and run.how != "gone" for word in run.text.split()}
        assert theirs <= told
        assert not ours & told, "a word that is shown is marked in a comparison, too"
