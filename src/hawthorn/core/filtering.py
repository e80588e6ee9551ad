"""What readers choose by, and in which order: conditions on the fields that types mark for it, read from what is asked and tried on values.

A condition is asked as `where.FIELD`, which means that it is one of the values that are given, or as `where.FIELD.OPERATOR`: `before`, `after` and
`from` of numbers, days and instants (`before` leaves out what is named, `from` does not), `last` of a time that has passed (ISO 8601-1, section
5.5.2.2, such as P14D), `contains` of words, `near` of places ("latitude,longitude,kilometres"; WGS 84). `where.date` is the date that is shown.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence

from hawthorn.core import fields, numbers
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import Field, Filtered
from hawthorn.core.kinds.base import Wrong
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND

DATE = "date"
"""What the date that is shown is called; a field of that name stands behind it."""
START = "where."
MOST = 10
"""So many conditions of one question."""
MOST_VALUES = 50
MOST_WORDS = 20
FARTHEST = 2_000
"""Kilometres."""
_LAST = re.compile(r"P(?:([0-9]{1,4})W|(?:([0-9]{1,5})D)?(?:T([0-9]{1,5})H)?)")
_EARTH = 6371.0088
"""Kilometres: the mean radius."""


@dataclass(frozen=True, slots=True)
class Equal:
    """One of some values, as words or as numbers."""

    field: str
    texts: frozenset[str] = frozenset()
    numbers: frozenset[float] = frozenset()


@dataclass(frozen=True, slots=True)
class Range:
    """From one number, up to another that is left out."""

    field: str
    low: float = -math.inf
    high: float = math.inf


@dataclass(frozen=True, slots=True)
class Near:
    """Within some kilometres of a place."""

    field: str
    latitude: float
    longitude: float
    within: float


Condition = Equal | Range | Near


@dataclass(frozen=True, slots=True)
class Order:
    """The order of a list: by a field (empty for what is pinned and then newest), backwards or not."""

    field: str = ""
    backwards: bool = False
    numeric: bool = False


def known(types: Iterable[ContentType]) -> dict[str, Field]:
    """The fields that readers may filter some types by, by name. One that is of two kinds in two types is left out: it has to be asked of
    one type alone."""
    out: dict[str, Field] = {}
    strange: set[str] = {DATE}
    for kind in types:
        for spec in kind.filtered:
            if out.setdefault(spec.name, spec).kind != spec.kind:
                strange.add(spec.name)
    return {name: spec for name, spec in out.items() if name not in strange}


def read(specs: Mapping[str, Field], asked: Iterable[tuple[str, str]], now: int) -> list[Condition]:
    """The conditions of a question. Raises `Invalid` with everything that is wrong in it."""
    grouped: dict[str, list[str]] = {}
    for name, value in asked:
        grouped.setdefault(name, []).append(value)
    problems: list[FieldProblem] = []
    out: list[Condition] = []
    if len(grouped) > MOST:
        raise Invalid([FieldProblem("where", said("filtering.too_many", most=MOST))])
    for name, values in grouped.items():
        field, _, how = name.removeprefix(START).partition(".")
        try:
            out += _conditions(specs, field, how or "is", values, now)
        except Wrong as wrong:
            problems.append(FieldProblem(name[:120], wrong.message))
    if problems:
        raise Invalid(problems)
    return _together(out)


def _conditions(
    specs: Mapping[str, Field], name: str, how: str, values: Sequence[str], now: int
) -> Sequence[Condition]:
    spec = Field(DATE, "instant") if name == DATE else specs.get(name)
    if spec is None:
        raise Wrong("filtering.no_field", name=name[:80], known=[DATE, *specs])
    can = fields.kind_of(spec).filters
    if how not in can:
        raise Wrong("filtering.not_so", how=how[:40], known=list(can))
    if how == "is":
        if len(values) > MOST_VALUES:
            raise Wrong("filtering.too_many_values", most=MOST_VALUES)
        found = [fields.kind_of(spec).asked(value, spec) for value in values]
        by_number = all(one.number is not None for one in found)
        if by_number:
            return [Equal(name, numbers=frozenset(one.number for one in found if one.number is not None))]
        return [Equal(name, frozenset(one.text for one in found))]
    if len(values) > 1:
        raise Wrong("filtering.once", how=how)
    return _BY[how](spec, values[0], now)


def _bound(spec: Field, value: str) -> float:
    number = fields.kind_of(spec).asked(value, spec).number
    assert number is not None
    return number


def _before(spec: Field, value: str, now: int) -> Sequence[Condition]:
    return [Range(spec.name, high=_bound(spec, value))]


def _after(spec: Field, value: str, now: int) -> Sequence[Condition]:
    return [Range(spec.name, low=math.nextafter(_bound(spec, value), math.inf))]


def _from(spec: Field, value: str, now: int) -> Sequence[Condition]:
    return [Range(spec.name, low=_bound(spec, value))]


def _last(spec: Field, value: str, now: int) -> Sequence[Condition]:
    found = _LAST.fullmatch(value)
    weeks, days, hours = (int(n or 0) for n in found.groups()) if found else (0, 0, 0)
    if not weeks + days + hours:
        raise Wrong("filtering.wants_duration")
    return [Range(spec.name, low=now - ((weeks * 7 + days) * 24 + hours) * 3600 * SECOND)]


def _contains(spec: Field, value: str, now: int) -> Sequence[Condition]:
    """A condition for each word."""
    words = dict.fromkeys(fields.kind_of(spec).asked(value, spec).text.split())
    if len(words) > MOST_WORDS:
        raise Wrong("filtering.too_many_words", most=MOST_WORDS)
    return [Equal(words_of(spec.name), frozenset({word})) for word in words]


def words_of(field: str) -> str:
    """Under what the single words of a field are kept."""
    return f"{field}.contains"


def _near(spec: Field, value: str, now: int) -> Sequence[Condition]:
    found = [numbers.decimal(one.strip()) for one in value.split(",")]
    if len(found) != 3 or any(one is None for one in found):
        raise Wrong("filtering.wants_near")
    latitude, longitude, within = (one for one in found if one is not None)
    if abs(latitude) > 90 or abs(longitude) > 180 or not 0 < within <= FARTHEST:
        raise Wrong("filtering.near_bounds", most=FARTHEST)
    return [Near(spec.name, latitude, longitude, within)]


_BY = {
    "before": _before,
    "after": _after,
    "from": _from,
    "last": _last,
    "contains": _contains,
    "near": _near,
}


def _together(some: Sequence[Condition]) -> list[Condition]:
    """Ranges of one field as one."""
    ranges: dict[str, Range] = {}
    for one in some:
        if isinstance(one, Range):
            had = ranges.get(one.field, Range(one.field))
            ranges[one.field] = Range(one.field, max(had.low, one.low), min(had.high, one.high))
    return [*(one for one in some if not isinstance(one, Range)), *ranges.values()]


def ordered(specs: Mapping[str, Field], text: str) -> Order:
    """The order that is asked for: a field, with a `-` before it backwards (JSON:API 1.1, section on sorting). Raises `Invalid`."""
    name = text.removeprefix("-")
    if not name or (name == DATE and text.startswith("-")):
        return Order()
    spec = specs.get(name)
    kind = fields.kind_of(spec) if spec else None
    if spec is None or kind is None or kind.filters == ("near",) or fields.is_many(spec):
        can = [one.name for one in specs.values() if _sorts(one)]
        raise Invalid(
            [FieldProblem("sort", said("filtering.no_order", name=name[:80], known=[f"-{DATE}", *can]))]
        )
    return Order(name, text.startswith("-"), "before" in kind.filters)


def _sorts(spec: Field) -> bool:
    return not fields.is_many(spec) and fields.kind_of(spec).filters != ("near",)


def values_of(kind: ContentType, values: Mapping[str, object]) -> dict[str, list[Filtered]]:
    """What readers find an entry by, of its values in one locale."""
    out: dict[str, list[Filtered]] = {}
    for spec in kind.filtered:
        value = values.get(spec.name)
        some = value if isinstance(value, list) else [] if value is None else [value]
        if not some:
            continue
        theirs = fields.kind_of(spec)
        out[spec.name] = list(dict.fromkeys(theirs.filtered(one) for one in some))
        if "contains" in theirs.filters:
            words = dict.fromkeys(word for one in out[spec.name] for word in one.text.split())
            out[words_of(spec.name)] = [Filtered(word) for word in words]
    return out


def fits(condition: Condition, have: Mapping[str, Sequence[Filtered]]) -> bool:
    """Whether values are such as are asked for: any of those of the field is enough."""
    return any(_fits(condition, one) for one in have.get(condition.field, ()))


def _fits(condition: Condition, one: Filtered) -> bool:
    match condition:
        case Equal(_, texts, wanted):
            return one.text in texts if texts else one.number in wanted
        case Range(_, low, high):
            return one.number is not None and low <= one.number < high
        case Near(_, latitude, longitude, within):
            there = one.number is not None and one.other is not None
            return there and distance(latitude, longitude, one.number or 0, one.other or 0) <= within


def distance(latitude: float, longitude: float, to_latitude: float, to_longitude: float) -> float:
    """Kilometres between two places along the surface of a sphere (haversine)."""
    a, b = math.radians(latitude), math.radians(to_latitude)
    across = math.radians(to_longitude - longitude)
    half = math.sin((b - a) / 2) ** 2 + math.cos(a) * math.cos(b) * math.sin(across / 2) ** 2
    return 2 * _EARTH * math.asin(min(1.0, math.sqrt(half)))
