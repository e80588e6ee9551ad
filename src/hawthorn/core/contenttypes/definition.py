"""What a content type and a field set are: read, checked, and written down."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import asdict, field, replace
from functools import cached_property
from typing import Any

from hawthorn.core import fields, moves, shapes, slots
from hawthorn.core.contenttypes import policy as policies
from hawthorn.core.contenttypes.former import Marks
from hawthorn.core.contenttypes.policy import Policy
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import BlockKind, Field
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass

_NAME = re.compile(r"^[a-z][a-z0-9_]{0,40}$")
_DEEPEST = 5
_SCHEMA_TYPE = re.compile(r"^[A-Z][A-Za-z0-9]{1,59}$")
_SCHEMA_PROPERTY = re.compile(r"^[a-z][A-Za-z0-9]{1,59}$")
PLANNED = ("release", "withdraw", "advance", "archive", "set")
"""What a planned field may do."""
COMMON = "*"
"""The locale of an entry's common edition."""


@dataclass(frozen=True, slots=True)
class FieldSet:
    """Fields that are defined once and used in many types."""

    name: str
    label: str
    fields: tuple[Field, ...]
    version: int = 1
    help: str = ""


@dataclass(frozen=True)
class ContentType:
    """A content type in one version.

    `section` marks a type whose entries head a section of the site; `single` one that allows exactly one entry;
    `translated` is false where entries have no other locales. `sets` names field sets, whose fields follow its own.
    `internal`, `pinned` and `dated` name the fields that hold the name used among colleagues, whether an entry is kept
    on top, and the date that is shown in place of that of its first release. `search_title`, `meta_description` and
    `search_picture` name those that searches and shared links show; `schema_type` is what programs that read a page take
    an entry for, in the words of schema.org.

    `site` marks a type whose entries head a site: they stand at the top of the outline and add nothing to addresses.
    `common` marks entries that are kept once and shown inside others, `menu` entries that lead to others. `layout` names
    the type (of a single entry) whose fields of the same names stand in for the regions that an entry leaves empty.
    `policy` says how its entries go out; `marks` what its fields were before.
    """

    name: str
    label: str
    fields: tuple[Field, ...]
    title: str = "title"
    version: int = 1
    workflow: str = "standard"
    section: bool = False
    single: bool = False
    translated: bool = True
    sets: tuple[str, ...] = ()
    internal: str = ""
    pinned: str = ""
    dated: str = ""
    search_title: str = ""
    meta_description: str = ""
    search_picture: str = ""
    schema_type: str = ""
    site: bool = False
    common: bool = False
    menu: bool = False
    layout: str = ""
    retired: bool = False
    read_only: bool = False
    confidential: bool = False
    public: bool = True
    help: str = ""
    policy: Policy = field(default_factory=Policy)
    marks: Marks = field(default_factory=dict, compare=False)

    def field(self, name: str) -> Field | None:
        """The field of that name, or None."""
        return self._by_name.get(name)

    @cached_property
    def _by_name(self) -> dict[str, Field]:
        return {f.name: f for f in self.fields}

    def belonging(self, locale: str) -> tuple[Field, ...]:
        """The fields of an edition: the shared ones for the common edition, else those that differ."""
        return self._shared if locale == COMMON else self._own

    def demanding(self, locale: str) -> tuple[Field, ...]:
        """Those of them that something is required of: that they are filled, or what lies in them."""
        return self._demanding_shared if locale == COMMON else self._demanding_own

    @cached_property
    def marked(self) -> int:
        """The newest revision of the time when any field was another; 0 where none ever was."""
        return max((one.revision for some in self.marks.values() for one in some), default=0)

    @cached_property
    def _demanding_shared(self) -> tuple[Field, ...]:
        return tuple(f for f in self._shared if _demands(f))

    @cached_property
    def _demanding_own(self) -> tuple[Field, ...]:
        return tuple(f for f in self._own if _demands(f))

    @cached_property
    def _shared(self) -> tuple[Field, ...]:
        return tuple(f for f in self.fields if f.shared)

    @cached_property
    def _own(self) -> tuple[Field, ...]:
        return tuple(f for f in self.fields if not f.shared)

    @cached_property
    def slug(self) -> Field | None:
        """The field that holds the web address, if the type's entries are pages."""
        return next((f for f in self.fields if f.kind == "slug"), None)

    @cached_property
    def referring(self) -> tuple[Field, ...]:
        """The fields whose values can refer to entries, but for the one that places an entry."""
        return tuple(f for f in self.fields if f.kind != "parent" and fields.kind_of(f).may_refer)

    @cached_property
    def parent(self) -> Field | None:
        """The field that places an entry in the outline, if there is one."""
        return next((f for f in self.fields if f.kind == "parent"), None)

    @property
    def for_searches(self) -> dict[str, str]:
        """The field that searches and shared links show as title, as description and as picture; empty where none is named."""
        return {
            "title": self.search_title,
            "description": self.meta_description,
            "picture": self.search_picture,
        }

    @property
    def page(self) -> bool:
        """Whether entries of the type stand in the outline of a site."""
        return self.site or (self.slug is not None and self.parent is not None)

    @property
    def addressed(self) -> bool:
        """Whether entries of the type have an address of their own, in an outline or not."""
        return self.site or self.slug is not None

    @cached_property
    def planning(self) -> tuple[Field, ...]:
        """The fields that plan a move."""
        return tuple(f for f in self.fields if f.kind == "planned")

    @cached_property
    def file(self) -> Field | None:
        """The field that holds a stored file, if the type's entries belong in the library."""
        return next((f for f in self.fields if f.kind == "file"), None)

    @cached_property
    def holds_files(self) -> bool:
        """Whether any value of its entries is a stored file, however deep."""
        return any(f.kind == "file" for f in slots.every(self.fields))

    @cached_property
    def filtered(self) -> tuple[Field, ...]:
        """The fields by which readers filter and sort."""
        return tuple(f for f in self.fields if f.filter)

    @property
    def regions(self) -> tuple[Field, ...]:
        """The fields that follow the layout while they are empty."""
        return tuple(f for f in self.fields if f.region) if self.layout else ()


def from_dict(data: Mapping[str, Any], sets: Mapping[str, FieldSet] | None = None) -> ContentType:
    """A content type from its definition, with the fields of its sets, or `Invalid` with every problem in it."""
    known = sets or {}
    problems = _named(data, *_ROLES, "workflow", "layout", "schema_type")
    for flag in (
        "section",
        "single",
        "translated",
        "site",
        "common",
        "menu",
        "retired",
        "read_only",
        "confidential",
        "public",
    ):
        if not isinstance(data.get(flag, False), bool):
            problems.append(FieldProblem(flag, said("contenttypes.true_or_false")))
    made, wrong = _fields(shapes.members(data, "fields"), "fields")
    problems += wrong
    used = [str(n) for n in shapes.members(data, "sets")]
    for name in used:
        if name not in known:
            code = "contenttypes.no_field_set" if known else "contenttypes.no_field_sets_yet"
            problems.append(FieldProblem(f"sets.{name}", said(code, known=list(known))))
    whole = [*(replace(f, set="") for f in made), *(f for n in used if n in known for f in known[n].fields)]
    problems += _twice(whole) + _roles(data, whole) + _planning(whole)
    if data.get("schema_type") and not _SCHEMA_TYPE.match(str(data["schema_type"])):
        problems.append(FieldProblem("schema_type", said("contenttypes.no_schema_type")))
    policy, wrong = policies.from_dict(data)
    problems += wrong
    if problems:
        raise Invalid(problems)
    extra = {
        k: data[k]
        for k in (
            "label",
            "title",
            "version",
            "workflow",
            "section",
            "single",
            "translated",
            "internal",
            "pinned",
            "dated",
            "search_title",
            "meta_description",
            "search_picture",
            "schema_type",
            "site",
            "common",
            "menu",
            "layout",
            "retired",
            "read_only",
            "confidential",
            "public",
            "help",
        )
        if k in data
    }
    return ContentType(
        name=data["name"],
        fields=tuple(whole),
        sets=tuple(used),
        policy=policy,
        **{"label": data["name"], **extra},
    )


def set_from_dict(data: Mapping[str, Any]) -> FieldSet:
    """A field set from its definition, or `Invalid` with every problem in it."""
    problems = _named(data)
    made, wrong = _fields(shapes.members(data, "fields"), "fields")
    problems += wrong + _twice(made)
    if not made and not problems:
        problems.append(FieldProblem("fields", said("contenttypes.needs_a_field")))
    if problems:
        raise Invalid(problems)
    own = tuple(replace(f, set=data["name"]) for f in made)
    extra = {k: data[k] for k in ("version", "help") if k in data}
    return FieldSet(data["name"], str(data.get("label") or data["name"]), own, **extra)


_ROLES = {
    "title": ("line",),
    "internal": ("line",),
    "pinned": ("boolean",),
    "dated": ("date", "instant"),
    "search_title": ("line",),
    "meta_description": ("text", "line"),
    "search_picture": ("reference",),
}
"""What a type may say of its fields, and the kinds that each must have."""


def _demands(spec: Field) -> bool:
    return bool(spec.required or spec.least or fields.kind_of(spec).parts)


def _named(data: Mapping[str, Any], *words: str) -> list[FieldProblem]:
    shapes.members(data, "fields")
    problems = shapes.words(data, "name", "label", "help", *words)
    if not _NAME.match(str(data.get("name", ""))):
        problems.append(FieldProblem("name", said("contenttypes.letter_first")))
    return problems


def _twice(made: Iterable[Field]) -> list[FieldProblem]:
    names = [f.name for f in made]
    return [
        FieldProblem(f"fields.{n}", said("common.twice"))
        for n in sorted({n for n in names if names.count(n) > 1})
    ]


def _roles(data: Mapping[str, Any], made: list[Field]) -> list[FieldProblem]:
    """What a definition says of its own fields must be true of them."""
    problems: list[FieldProblem] = []
    by_name = {f.name: f for f in made}
    for role, kinds in _ROLES.items():
        name = data.get(role, "title" if role == "title" else "")
        if not isinstance(name, str) or not name:
            continue
        if name not in by_name:
            problems.append(FieldProblem(role, said("contenttypes.names_no_field", name=name)))
        elif by_name[name].kind not in kinds and role != "title":
            problems.append(
                FieldProblem(role, said("contenttypes.names_another_kind", name=name, kinds=list(kinds)))
            )
    for spec in made:
        for role, name in (("follows", spec.follows), ("derives", spec.derives)):
            if name and name not in by_name:
                problems.append(
                    FieldProblem(f"fields.{spec.name}.{role}", said("contenttypes.names_no_field", name=name))
                )
    if not data.get("public", True) and any(f.kind == "file" for f in made):
        problems.append(FieldProblem("public", said("contenttypes.files_are_public")))
    hidden = {f.name for f in made if not f.public}
    for role in ("title", "search_title", "meta_description", "search_picture"):
        named = data.get(role, "title" if role == "title" else "")
        if isinstance(named, str) and named in hidden:
            problems.append(FieldProblem(role, said("contenttypes.names_hidden_field", name=named)))
    if data.get("site") and any(f.kind in ("slug", "parent") for f in made):
        problems.append(FieldProblem("site", said("contenttypes.heads_a_site")))
    if not data.get("layout") and any(f.region for f in made):
        problems.append(FieldProblem("layout", said("contenttypes.names_no_layout")))
    for kind in ("slug", "parent"):
        if sum(1 for f in made if f.kind == kind) > 1:
            problems.append(FieldProblem("fields", said("contenttypes.one_of_kind", kind=kind)))
    return problems


def _planning(made: list[Field]) -> list[FieldProblem]:
    """What planned fields do has to be possible with the type."""
    problems: list[FieldProblem] = []
    by_name = {f.name: f for f in made}
    for spec in made:
        where = f"fields.{spec.name}"
        if spec.kind != "planned":
            if spec.move:
                problems.append(FieldProblem(f"{where}.move", said("contenttypes.moves_nothing")))
            continue
        if spec.move not in PLANNED or spec.many:
            problems.append(
                FieldProblem(f"{where}.move", said("contenttypes.names_a_move", known=list(PLANNED)))
            )
            continue
        try:
            carried = moves.asked(spec.move).taken(spec.payload)
        except Invalid as wrong:
            problems += [FieldProblem(f"{where}.{p.where}", p.what) for p in wrong.facts["problems"]]
            continue
        for name, value in carried.get("fields", {}).items():
            problems += _settable(by_name.get(name), name, value, where)
    return problems


def _settable(spec: Field | None, name: str, value: Any, where: str) -> list[FieldProblem]:
    at = f"{where}.payload.fields.{name}"
    if spec is None or spec.kind == "planned":
        return [FieldProblem(at, said("contenttypes.names_no_field", name=name))]
    try:
        fields.canonical_value(spec, value)
    except fields.Wrong as wrong:
        return [FieldProblem(at, wrong.message)]
    return []


def _fields(raws: Iterable[Any], where: str, deep: int = 1) -> tuple[list[Field], list[FieldProblem]]:
    made: list[Field] = []
    problems: list[FieldProblem] = []
    for index, raw in enumerate(raws):
        found, wrong = _field(raw, index, where, deep)
        problems += wrong
        made += [found] if found else []
    return made, problems


def _field(raw: Any, index: int, above: str, deep: int) -> tuple[Field | None, list[FieldProblem]]:
    name = raw.get("name", index) if isinstance(raw, Mapping) else index
    where = f"{above}.{name}"
    inner: dict[str, Any] = {}
    problems: list[FieldProblem] = []
    if isinstance(raw, Mapping):
        plain = {k: v for k, v in raw.items() if k not in ("fields", "blocks")}
        inner, problems = _inner(raw, where, deep)
        raw = {"label": str(name).replace("_", " ").capitalize(), **plain}
    found, wrong = shapes.shaped(Field, raw, where)
    problems += wrong
    if found is None:
        return None, problems
    found = replace(found, **inner)
    problems += _check(found, where, deep)
    return (None if problems else found), problems


def _inner(raw: Mapping[str, Any], where: str, deep: int) -> tuple[dict[str, Any], list[FieldProblem]]:
    """The fields of a group and the kinds of blocks."""
    if deep > _DEEPEST:
        return {}, [FieldProblem(where, said("contenttypes.nested_too_deep", most=_DEEPEST))]
    own, problems = _fields(shapes.members(raw, "fields"), f"{where}.fields", deep + 1)
    forms: list[BlockKind] = []
    for index, form in enumerate(shapes.members(raw, "blocks")):
        at = f"{where}.blocks.{form.get('name', index) if isinstance(form, Mapping) else index}"
        if not isinstance(form, Mapping) or not _NAME.match(str(form.get("name", ""))):
            problems.append(FieldProblem(at, said("contenttypes.needs_a_name")))
            continue
        problems += shapes.words(form, "label", "help", "arranges")
        if form.get("arranges", "") not in ("", "row", "column"):
            problems.append(FieldProblem(f"{at}.arranges", said("contenttypes.row_or_column")))
        inner, wrong = _fields(shapes.members(form, "fields"), f"{at}.fields", deep + 1)
        problems += wrong + _twice(inner)
        label = str(form.get("label") or str(form["name"]).replace("_", " ").capitalize())
        forms.append(
            BlockKind(
                form["name"],
                label,
                tuple(inner),
                str(form.get("help") or ""),
                str(form.get("arranges") or ""),
            )
        )
    return {"fields": tuple(own), "blocks": tuple(forms)}, problems + _twice(own)


def _check(found: Field, where: str, deep: int) -> list[FieldProblem]:
    problems: list[FieldProblem] = []
    if not _NAME.match(found.name):
        problems.append(FieldProblem(where, said("contenttypes.needs_a_name")))
    if found.kind not in fields.KINDS:
        problems.append(FieldProblem(where, said("contenttypes.unknown_kind", kinds=list(fields.KINDS))))
        return problems
    for bound in ("limit", "least"):
        value = getattr(found, bound)
        if value is not None and not 0 < value <= 1_000_000:
            problems.append(FieldProblem(f"{where}.{bound}", said("contenttypes.limit_out_of_bounds")))
    if found.limit and found.least and found.least > found.limit:
        problems.append(FieldProblem(f"{where}.least", said("contenttypes.over_the_limit")))
    if found.minimum is not None and found.maximum is not None and found.minimum > found.maximum:
        problems.append(FieldProblem(f"{where}.minimum", said("contenttypes.over_the_maximum")))
    if found.kind == "group" and not found.fields:
        problems.append(FieldProblem(f"{where}.fields", said("contenttypes.needs_a_field")))
    if found.kind == "blocks" and not found.blocks:
        problems.append(FieldProblem(f"{where}.blocks", said("contenttypes.needs_a_block")))
    if found.kind == "choice" and not found.choices:
        problems.append(FieldProblem(f"{where}.choices", said("contenttypes.needs_a_choice")))
    if deep > 1 and found.kind in ("slug", "parent"):
        problems.append(FieldProblem(where, said("contenttypes.not_inside")))
    if deep > 1 and found.kind == "planned":
        problems.append(FieldProblem(where, said("contenttypes.planned_outside")))
    if (found.read_only or not found.public) and deep > 1:
        problems.append(FieldProblem(where, said("contenttypes.said_outside")))
    if found.filter and (deep > 1 or fields.kind_of(found).filters == () or not found.public):
        problems.append(FieldProblem(f"{where}.filter", said("contenttypes.not_filtered")))
    if found.schema_property:
        able = deep == 1 and found.public and fields.kind_of(found).described
        if not (able and _SCHEMA_PROPERTY.match(found.schema_property)):
            code = "contenttypes.no_schema_property" if able else "contenttypes.not_described"
            problems.append(FieldProblem(f"{where}.schema_property", said(code)))
    if not found.public and found.kind in ("file", "slug", "parent"):
        problems.append(
            FieldProblem(f"{where}.public", said("contenttypes.not_false_for_kind", kind=found.kind))
        )
    if found.read_only and found.required and found.default is None:
        problems.append(FieldProblem(f"{where}.required", said("contenttypes.programs_fill_it")))
    if found.region and (deep > 1 or found.kind not in ("blocks", "rich")):
        problems.append(FieldProblem(f"{where}.region", said("contenttypes.for_blocks_or_text")))
    if found.default is not None and not problems:
        try:
            fields.canonical_value(found, found.default)
        except fields.Wrong as wrong:
            problems.append(FieldProblem(f"{where}.default", wrong.message))
    return problems


def to_dict(kind: ContentType) -> dict[str, Any]:
    """The definition of a content type, as `from_dict` reads it: its own fields, and its sets by name."""
    return {**whole(replace(kind, fields=())), "fields": [asdict(f) for f in kind.fields if not f.set]}


def whole(kind: ContentType) -> dict[str, Any]:
    """A content type with all its fields, those of its sets too, without what these were before."""
    return {name: value for name, value in asdict(replace(kind, marks={})).items() if name != "marks"}


def json_schema(kind: ContentType) -> dict[str, Any]:
    """The values of a type as JSON Schema (draft 2020-12, Core and Validation)."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": kind.label,
        "description": kind.help,
        **fields.members_schema(kind.fields),
    }
