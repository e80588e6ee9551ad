"""The catalogue and the code name the same messages, with the same facts, and core and operations hold no words of their own."""

from __future__ import annotations

import ast
import json
import re
from collections.abc import Iterable, Iterator
from pathlib import Path

import pytest
from tests import sources
from tests.sources import SOURCE, trees

from hawthorn.core import access, errors, moves, workflow
from hawthorn.core.errors import FieldProblem, HawthornError, Invalid
from hawthorn.core.kinds.base import KINDS
from hawthorn.core.messages import Message, said
from hawthorn.messages import ENGLISH, parts
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.release.workflow_effects import Impact
from hawthorn.operations.views import health

SAYING = {
    "said",
    "say",
    "keep",
    "Wrong",
    "Unworkable",
    "BrokenTags",
    "_unreadable",
    "tell",
    "note_error",
    "complain",
    "stop",
    "plain",
    "marked",
}
ERRORS = {
    name for name, kind in vars(errors).items() if isinstance(kind, type) and issubclass(kind, HawthornError)
}
CODE = re.compile(r"[a-z_]+(\.[a-z0-9_]*[a-z0-9])+")
WORDED = {"says", "label", "text"}
ENDING = re.compile(r"(_one|_other)?(\.(detail|remedy)(_one|_other)?)?$")
BASES = {ENDING.sub("", code) for code in ENGLISH.texts} - {""}


def calls() -> Iterator[tuple[str, ast.Call, list[str]]]:
    """Every call that says something, with where it stands and the codes that it may say."""
    for path, tree in trees().items():
        for function in ast.walk(tree):
            if not isinstance(function, ast.FunctionDef):
                continue
            inside = list(ast.walk(function))
            given = {
                target.id: list(chosen(node.value, {}))
                for node in inside
                if isinstance(node, ast.Assign)
                for target in node.targets
                if isinstance(target, ast.Name)
            }
            for node in inside:
                if not isinstance(node, ast.Call) or not node.args:
                    continue
                name = (
                    node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
                )
                if name in SAYING or name in ERRORS:
                    where = f"{path.relative_to(SOURCE)}:{node.lineno}"
                    yield where, node, list(chosen(node.args[0], given))


def codes_in(node: ast.AST) -> Iterator[str]:
    if isinstance(node, ast.Constant) and isinstance(node.value, str) and CODE.fullmatch(node.value):
        yield node.value
    for part in () if isinstance(node, ast.JoinedStr) else ast.iter_child_nodes(node):
        yield from codes_in(part)


def chosen(node: ast.AST, given: dict[str, list[str]]) -> Iterator[str]:
    """The codes that an argument may be: itself, either side of a choice, what a name was given, or whatever fits where a code is
    put together."""
    if isinstance(node, ast.IfExp):
        for one in (node.body, node.orelse):
            yield from chosen(one, given)
    elif isinstance(node, ast.Constant):
        yield from codes_in(node)
    elif isinstance(node, ast.Name):
        yield from given.get(node.id, [])
    elif isinstance(node, ast.JoinedStr):
        made = put_together(node)
        yield from (code for code in BASES if made.fullmatch(code))


def put_together(node: ast.JoinedStr) -> re.Pattern[str]:
    pieces = (re.escape(str(p.value)) if isinstance(p, ast.Constant) else r"[\w.-]+" for p in node.values)
    return re.compile("".join(pieces))


def facts_by_code() -> dict[str, set[str]]:
    """The facts that each message needs, in both of its texts and whatever the count."""
    out: dict[str, set[str]] = {base: set() for base in BASES}
    for key, text in ENGLISH.texts.items():
        if key:
            out[ENDING.sub("", key)] |= {part[0] for part in parts(text) if not isinstance(part, str)}
    return out


def test_whatever_is_said_is_in_the_catalogue_with_the_facts_that_its_words_name() -> None:
    found, facts = 0, facts_by_code()
    for where, call, codes in calls():
        found += len(codes)
        for code in codes:
            assert code in BASES, f"{where}: no catalogue has {code}"
            given = {one.arg for one in call.keywords}
            if None not in given:
                assert facts[code] <= given, f"{where}: {code} needs {facts[code] - given}"
    assert found > 400


def test_nothing_in_the_catalogue_is_never_said() -> None:
    plain = {code for tree in trees().values() for code in codes_in(tree)}
    # A code may be put together: of `f"access.for_{side}"` the beginning is known, of `f"notifications.{code}.says"` the ends.
    made = [
        put_together(node)
        for tree in trees().values()
        for node in ast.walk(tree)
        if isinstance(node, ast.JoinedStr) and isinstance(node.values[0], ast.Constant)
    ]
    likely = [one for one in made if re.match(r"[a-z_]+\\?\.", one.pattern)]
    unsaid = [c for c in BASES if c not in plain and not any(one.fullmatch(c) for one in likely)]
    assert not unsaid


def test_core_and_operations_leave_the_words_to_the_catalogue() -> None:
    for path, tree in trees().items():
        area = path.relative_to(SOURCE).parts[0]
        if area not in ("core", "store", "operations"):
            continue
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") in ERRORS | {"said"}:
                first = node.args[0] if node.args else None
                if isinstance(first, ast.Constant):
                    assert CODE.fullmatch(str(first.value)), f"{path}:{node.lineno}: {first.value!r}"
                words = [
                    k
                    for k in node.keywords
                    if isinstance(k.value, ast.Constant) and " " in str(k.value.value).strip()
                ]
                assert not words, f"{path}:{node.lineno}: {words[0].arg}"


def test_commands_leave_the_words_to_the_catalogue_but_for_their_help() -> None:
    asking = ("out.print", "err.print", "getpass.getpass", "typer.prompt", "made.add_row")
    printing = [
        (path, node)
        for path, name, node in sources.calls()
        if name in asking and path.relative_to(SOURCE).parts[0] == "cli"
    ]
    assert len(printing) > 40
    for path, node in printing:
        for part in (p for one in node.args for p in ast.walk(one) if isinstance(p, ast.Constant)):
            bare = re.sub(r"\[/?[a-z ]+\]|\w+(\.\w+)+|^s$", "", str(part.value))
            assert not re.search("[a-z]{2}", bare), f"{path}:{part.lineno}: {part.value!r}"


@pytest.mark.parametrize(
    ("message", "words"),
    [
        (said("unmet.sign_offs", count=1, named=[]), "It needs one more sign-off of exactly this revision."),
        (said("unmet.sign_offs", count=3, named=[]), "It needs 3 more sign-offs of exactly this revision."),
        (said("unmet.sign_offs_by", count=1, named=["a", "b", "c"]), "It needs one more sign-off of exactly this revision by a, b or c."),
        (said("workflow.chosen_by", parts=[said("workflow.chosen_by_type", value="page"), said("workflow.chosen_by_locale", value="fr")]), "type page and locale fr"),
        (said("kinds.too_long", count=1234, most=1000), "has 1,234 characters and may have at most 1,000"),
        (said("common.sentences", sentences=[said("review.own_text"), "So ask."]), "You changed this text since it was last out, and this workflow asks for somebody else's sign-off. So ask."),
        (said("dispatches.unnamed", day="2026-11-30"), "Dispatch of Mon 30 Nov 2026"),
        (said("timeline.happens_twice.detail", wall="2031-10-26T01:30:00", zone="Europe/London"), "Sun 26 Oct 2031, 01:30 happens twice in Europe/London: the clock is put back over it."),
        (said("timeline.past.detail", planned="2026-11-30T10:00:05+01:00", now="soon"), "Mon 30 Nov 2026, 09:00:05 UTC is past: it is soon now."),
        (said("common.words", words="{{name}} is as it was typed"), "{{name}} is as it was typed"),
    ],
)  # fmt: skip
def test_facts_stand_where_the_words_name_them(message: Message, words: str) -> None:
    assert ENGLISH.text(message) == words


def test_an_error_says_what_is_wrong_and_what_to_do_and_programs_read_its_facts_in_words() -> None:
    error = Invalid([FieldProblem("title", said("kinds.too_long", count=9, most=3))])
    assert ENGLISH.text(error.message) == "title: has 9 characters and may have at most 3"
    assert ENGLISH.remedy(error) == "Mend what is named and send it again."
    assert ENGLISH.plain(error.facts) == {
        "problems": [{"where": "title", "what": "has 9 characters and may have at most 3"}]
    }
    assert ENGLISH.remedy(Invalid("common.cursor", remedy=said("entries.leave_it"))) == "Leave it as it is."


def test_whatever_a_fact_is_programs_get_it_as_json() -> None:
    facts = {
        "error": OSError("broken"),
        "at": Path("x"),
        "of": (1, said("common.untitled")),
        "many": Impact(editions=3),
    }
    assert json.loads(json.dumps(ENGLISH.plain(facts))) == {
        "error": "broken",
        "at": "x",
        "of": [1, "untitled"],
        "many": {"editions": 3, "effects": []},
    }


@pytest.mark.parametrize(
    ("what", "names"),
    [
        ("titles.{}", {vars(errors)[name].slug for name in ERRORS}),
        ("verbs.{}", access.VERBS),
        ("kind.{}", KINDS),
        ("checks.{}", workflow.CHECKS),
        ("moves.cannot.{}", moves.VERBS),
        ("dispatches.named.{}", moves.VERBS),
        ("moves.idle.{}", {name for name, verb in moves.VERBS.items() if verb.idles}),
        ("notification_kinds.{}", notifications.KINDS),
        ("health.what.{}", health.CHECKS),
    ],
)
def test_whatever_is_registered_has_its_words(what: str, names: Iterable[str]) -> None:
    assert {name for name in names if what.format(name) not in ENGLISH.texts} == set()


def test_a_message_that_no_catalogue_has_is_a_fault() -> None:
    with pytest.raises(AssertionError, match=r"no catalogue has no\.such"):
        ENGLISH.text(said("no.such"))
