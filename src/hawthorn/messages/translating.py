"""Catalogues out and in as XLIFF 2.1, for whoever translates the console, the mails and the command line: through the same formats as the texts of a house.

What comes back is looked at text by text: that it has the places for facts that its source has, its marks, its spaces at the ends, and a length that
still fits where the source does. A catalogue of which one text is wrong is not taken in part.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, BinaryIO

from hawthorn.core.errors import BadFile, FieldProblem, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.messages import SOURCE, flat, written

HERE = Path(__file__).parent
"""Where the catalogues of the mails, the API and the command line are, a folder for each language."""
CONSOLE = HERE.parents[2] / "console" / "src" / "messages"
"""Where those of the console are, in a checkout: an installed program holds them built."""
_PLACE = re.compile(r"\{\{[^}]*\}\}")
_MARK = re.compile(r"\[/?(?:bold|dim|red|green|yellow)\]|`[^`]*`")
_FORM = re.compile(r"_(zero|one|two|few|many|other)$")
_COUNT = ("{{count}}", "{{count, number}}")
_ESCAPED = re.compile(r"[^A-Za-z0-9._-]")
_LONGER, _ROOM = 2.2, 32
"""How much longer than its source a text may be: so many times, and so many characters."""
Tree = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Text:
    """A text to be translated: its key, its source, which plural form of the language it is, and how it is translated where it is."""

    key: str
    source: str
    form: str = ""
    target: str | None = None


def forms(language: str) -> list[str]:
    """The plural forms that whole numbers take in a language; none at all is said by a text of its own, where the source has one."""
    order = ("one", "two", "few", "many", "other")
    taken = {written.plural(language, n) for n in range(1, 200)}
    return [form for form in order if form in taken]


def catalogues(language: str, service: Path = HERE, console: Path = CONSOLE) -> dict[str, tuple[Path, Path]]:
    """Each file of the source by a name of its own, with the file of a language that belongs to it, whether it is there or not."""
    out = {
        f"service/{path.stem}": (path, service / language / path.name)
        for path in sorted((service / SOURCE).glob("*.json"))
    }
    for path in sorted(console.glob(f"{SOURCE}*.json")):
        rest = path.name.removeprefix(SOURCE)
        out[f"console/{rest.removesuffix('.json').lstrip('.') or 'main'}"] = (
            path,
            console / f"{language}{rest}",
        )
    return out


def texts_of(source: Tree, target: Tree, language: str) -> Iterator[Text]:
    """The texts that a file of a language has to have, in the order of the source."""
    known = dict(flat(target))
    plain = dict(flat(source))
    done: set[str] = set()
    for key, text in plain.items():
        base = _FORM.sub("", key)
        if base == key or not {f"{base}_one", f"{base}_other"} <= plain.keys():
            yield Text(key, text, "", known.get(key))
        elif base not in done:
            done.add(base)
            zero = ["zero"] if f"{base}_zero" in plain else []
            for form in [*zero, *forms(language)]:
                said_so = plain.get(f"{base}_{form}", plain[f"{base}_other"])
                yield Text(f"{base}_{form}", said_so, form, known.get(f"{base}_{form}"))


def wrong(text: Text, target: str) -> Iterator[Message]:
    """What is wrong with how a text is translated."""
    places, have = Counter(_PLACE.findall(text.source)), Counter(_PLACE.findall(target))
    missing, more = places - have, have - places
    if text.form in ("zero", "one", "two"):
        # “One entry” need not say the number.
        missing, more = (Counter({p: n for p, n in c.items() if p not in _COUNT}) for c in (missing, more))
    if missing:
        yield said("catalogues.place_missing", places=sorted(missing))
    if more:
        yield said("catalogues.place_strange", places=sorted(more))
    if Counter(_MARK.findall(text.source)) != Counter(_MARK.findall(target)):
        yield said("catalogues.marks", marks=sorted({*_MARK.findall(text.source), *_MARK.findall(target)}))
    if bool(text.source.strip()) != bool(target.strip()):
        yield said("catalogues.empty")
    elif not all(have.startswith(ends) for have, ends in zip(_ends(target), _ends(text.source), strict=True)):
        yield said("catalogues.ends")
    most = int(len(text.source) * _LONGER) + _ROOM
    if len(target) > most:
        yield said("catalogues.too_long", count=len(target), most=most)


def export(language: str, service: Path = HERE, console: Path = CONSOLE) -> bytes:
    """All texts of a language as XLIFF 2.1, with what is translated already."""
    from hawthorn.core.formats.base import OutDocument, OutFile
    from hawthorn.core.formats.xliff2 import FORMAT

    files = []
    for name, (path, theirs) in catalogues(language, service, console).items():
        units = tuple(_unit(text) for text in texts_of(_tree(path), _tree(theirs), language))
        files.append(OutFile(name, name, units))
    return FORMAT.write(OutDocument("catalogues", SOURCE, language, tuple(files)))


def take_in(file: BinaryIO, service: Path = HERE, console: Path = CONSOLE) -> tuple[str, int, int]:
    """Take in a file that was translated: its language, how many texts it has now, and how many are still to be translated. Raises `BadFile` for what is no such
    file, and `Invalid` that names each text that does not fit; then nothing is written."""
    from hawthorn.core.formats.xliff2 import FORMAT

    document = FORMAT.read(file)
    language = document.target_locale
    if document.job != "catalogues" or not re.fullmatch(r"[a-z]{2,3}", language):
        raise BadFile("catalogues.no_catalogues")
    known = catalogues(language, service, console)
    problems: list[FieldProblem] = []
    trees: dict[Path, Tree] = {}
    done = open = 0
    for name, found in document.files:
        if name not in known:
            problems.append(FieldProblem(name, said("catalogues.no_file")))
            continue
        path, theirs = known[name]
        wanted = {_id(text.key): text for text in texts_of(_tree(path), _tree(theirs), language)}
        tree: Tree = {}
        back = {unit.key: unit for unit in found}
        for strange in back.keys() - wanted.keys():
            problems.append(FieldProblem(f"{name}: {strange}", said("catalogues.no_text")))
        for id, text in wanted.items():
            target = text.target
            if id in back:
                segments = back[id].segments
                places = dict(enumerate(_PLACE.findall(text.source), 1))
                if "".join(_joined(one.source, places) for one in segments) != text.source:
                    problems.append(FieldProblem(f"{name}: {text.key}", said("catalogues.moved_on")))
                    continue
                target = "".join(_joined(one.target or (), places) for one in segments)
            if not text.source.strip():
                # Nothing to translate: the spaces are what it says.
                target = text.source
            elif not target:
                open += 1
                continue
            for what in wrong(text, target or ""):
                problems.append(FieldProblem(f"{name}: {text.key}", what))
            _put(tree, text.key, target or "")
            done += 1
        trees[theirs] = tree
    if problems:
        raise Invalid(problems)
    for path, tree in trees.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(json.dumps(tree, ensure_ascii=False, indent=2) + "\n", "utf-8")
    return language, done, open


def _tree(path: Path) -> Tree:
    found: Tree = json.loads(path.read_text("utf-8")) if path.exists() else {}
    return found


def _put(tree: Tree, key: str, text: str) -> None:
    *groups, name = key.split(".")
    for group in groups:
        tree = tree.setdefault(group, {})
    tree[name] = text


def _ends(text: str) -> tuple[str, str]:
    """The white space at both ends of a text."""
    bare = text.strip()
    at = text.find(bare)
    return text[:at], text[at + len(bare) :]


def _id(key: str) -> str:
    """A key as the id of a unit, which is an NMTOKEN (XLIFF 2.1, section 4.3.1.17)."""
    return _ESCAPED.sub(lambda found: f":{ord(found[0]):x}:", key)


def _unit(text: Text) -> Any:
    """A text as a unit: each place of a fact is a tag, which has to be in the translation, too."""
    from hawthorn.core.translation.units import Segment, Unit

    places = _PLACE.findall(text.source)
    tags = {str(n): (place, "") for n, place in enumerate(places, 1)}
    target = None if text.target is None else _parts(text.target, places)
    state = "initial" if target is None else "translated"
    segment = Segment("s1", _parts(text.source, places), target, state=state)
    notes = (f"plural: {text.form}",) if text.form else ()
    return Unit(_id(text.key), (segment,), tags, "", label=text.key, notes=notes)


def _parts(text: str, places: list[str]) -> tuple[Any, ...]:
    """A text with a tag for each place; one that the source has not stays as it is written."""
    from hawthorn.core.translation.tags import Tag

    left = list(enumerate(places, 1))
    out: list[Any] = []
    at = 0
    for found in _PLACE.finditer(text):
        known = next((n for n, place in left if place == found[0]), None)
        if known is None:
            continue
        left = [(n, place) for n, place in left if n != known]
        out += [text[at : found.start()], Tag(str(known), "empty")]
        at = found.end()
    return tuple(part for part in [*out, text[at:]] if part)


def _joined(parts: tuple[Any, ...], places: Mapping[int, str]) -> str:
    """Parts as a text again; a tag that is none of its source's is gone, and is missed."""
    return "".join(
        part
        if isinstance(part, str)
        else places.get(int(part.of or part.id) if (part.of or part.id).isdigit() else 0, "")
        for part in parts
    )
