"""Small expressions over an entry's fields, for a team's custom checks: a part of the Common Expression Language.

Taken from the language definition (cel-spec): literals, names, `.` and `[]`, `! - * / % +`, comparisons, `in`, `&& || ?:`,
`size`, `has`, `contains`, `startsWith`, `endsWith`, and `all` and `exists` over lists. Our own: `text(x)` is a rich text as
plain text and `words(x)` the number of words in it. Fields are names; one that is empty is null. Nothing else can be
reached: there are no calls out, no regular expressions and no loops but over the lists that a field holds.

To add a function: put it in `FUNCTIONS`, or in `METHODS` when it follows a dot.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.kinds.base import NAMES
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.quick import dataclass
from hawthorn.core.richtext import canonical, text_of

LONGEST, DEEPEST, STEPS = 500, 24, 20_000
"""The most characters of an expression, how deep it may nest, and how many steps working it out may take."""


class Unworkable(MessageError):
    """An expression could not be worked out for some values; says why."""


@dataclass(frozen=True, slots=True)
class Node:
    """A part of an expression: what it is, its value or name, and its own parts."""

    kind: str
    value: Any = None
    parts: tuple[Node, ...] = ()


_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?)|(?P<text>\"(?:[^\"\\]|\\.)*\"|'(?:[^'\\]|\\.)*')"
    r"|(?P<name>[A-Za-z_]\w*)|(?P<sign>&&|\|\||==|!=|<=|>=|[-+*/%<>!?:.,()\[\]]))"
)
_BINDS = {
    "||": 1, "&&": 2, "==": 3, "!=": 3, "<": 3, "<=": 3, ">": 3, ">=": 3, "in": 3, "+": 4, "-": 4, "*": 5, "/": 5, "%": 5,
}  # fmt: skip
_WORDS = {"true": True, "false": False, "null": None}
_ESCAPES = {"n": "\n", "t": "\t"}


def parse(source: str) -> Node:
    """An expression as a tree; raises `Invalid` with the place that cannot be read."""
    if len(source) > LONGEST:
        raise _unreadable("expressions.longer", most=LONGEST)
    parser = _Parser(list(_tokens(source)))
    node = parser.whole(0)
    parser.end()
    return node


def names(node: Node) -> set[str]:
    """The fields that an expression asks for."""
    return set(_names(node, frozenset()))


def _names(node: Node, bound: frozenset[str]) -> Iterator[str]:
    if node.kind == "name" and node.value not in bound:
        yield node.value
    if node.kind in ("all", "exists"):
        yield from _names(node.parts[0], bound)
        yield from _names(node.parts[1], bound | {node.value})
        return
    for part in node.parts:
        yield from _names(part, bound)


def holds(node: Node, values: Mapping[str, Any]) -> bool:
    """Whether an expression is true for some values. Raises `Unworkable` when it is neither true nor false, and for
    whatever else goes wrong in it: an expression never fails in another way."""
    try:
        found = _Working(values).out(node)
    except Unworkable:
        raise
    except Exception as error:
        raise Unworkable("expressions.goes_wrong", error=str(error) or type(error).__name__) from error
    if not isinstance(found, bool):
        raise Unworkable("expressions.neither_true_nor_false")
    return found


def _unreadable(code: str, /, **facts: Any) -> Invalid:
    return Invalid([FieldProblem("holds", said(code, **facts))])


def _tokens(source: str) -> Iterator[tuple[str, str, int]]:
    at = 0
    while source[at:].strip():
        found = _TOKEN.match(source, at)
        if found is None:
            raise _unreadable("expressions.unreadable", text=source[at:].strip()[:20])
        yield str(found.lastgroup), str(found.group(str(found.lastgroup))), found.start(str(found.lastgroup))
        at = found.end()


class _Parser:
    """Reads by binding strength, loosest first."""

    def __init__(self, tokens: list[tuple[str, str, int]]) -> None:
        self.tokens, self.at, self.depth = tokens, 0, 0

    def _peek(self) -> tuple[str, str]:
        return self.tokens[self.at][:2] if self.at < len(self.tokens) else ("end", "")

    def _next(self) -> tuple[str, str]:
        token = self._peek()
        self.at += 1
        return token

    def _wants(self, sign: str) -> None:
        kind, text = self._next()
        if text != sign or kind == "text":
            raise _unreadable("expressions.wants_sign", sign=sign, found=_found(text))

    def _takes(self, sign: str) -> bool:
        if self._peek() == ("sign", sign):
            self.at += 1
            return True
        return False

    def end(self) -> None:
        """Nothing may follow."""
        if self._peek()[0] != "end":
            raise _unreadable("expressions.does_not_fit", text=self._peek()[1])

    def whole(self, binds: int) -> Node:
        """An expression whose signs bind more than `binds`."""
        self.depth += 1
        if self.depth > DEEPEST:
            raise _unreadable("expressions.too_deep")
        left = self._single()
        while True:
            kind, sign = self._peek()
            if kind == "text" or _BINDS.get(sign, 0) <= binds:
                break
            self._next()
            left = Node("binary", sign, (left, self.whole(_BINDS[sign])))
        if binds == 0 and self._takes("?"):
            yes = self.whole(0)
            self._wants(":")
            left = Node("choice", None, (left, yes, self.whole(0)))
        self.depth -= 1
        return left

    def _single(self) -> Node:
        kind, text = self._next()
        if kind == "sign" and text in ("!", "-"):
            self.depth += 1
            if self.depth > DEEPEST:
                raise _unreadable("expressions.too_deep")
            inner = Node("unary", text, (self._single(),))
            self.depth -= 1
            return inner
        if kind == "number":
            node = Node("literal", float(text) if "." in text else int(text))
        elif kind == "text":
            node = Node("literal", re.sub(r"\\(.)", lambda m: _ESCAPES.get(m[1], m[1]), text[1:-1]))
        elif kind == "name" and text in _WORDS:
            node = Node("literal", _WORDS[text])
        elif kind == "name" and self._takes("("):
            node = self._call(text)
        elif kind == "name":
            node = Node("name", text)
        elif text == "(":
            node = self.whole(0)
            self._wants(")")
        elif text == "[":
            node = Node("list", None, self._listed("]"))
        else:
            raise _unreadable("expressions.wants_value", found=_found(text))
        return self._after(node)

    def _after(self, node: Node) -> Node:
        while True:
            if self._takes("["):
                node = Node("item", None, (node, self.whole(0)))
                self._wants("]")
            elif self._takes("."):
                kind, name = self._next()
                if kind != "name":
                    raise _unreadable("expressions.wants_name", found=name)
                node = self._method(node, name) if self._takes("(") else Node("member", name, (node,))
            else:
                return node

    def _call(self, name: str) -> Node:
        if name not in FUNCTIONS and name != "has":
            raise _unreadable("expressions.no_function", name=name, known=["has", *sorted(FUNCTIONS)])
        parts = self._listed(")")
        if len(parts) != 1:
            raise _unreadable("expressions.wants_one_value", name=name, count=len(parts))
        return Node("call", name, parts)

    def _method(self, target: Node, name: str) -> Node:
        if name in ("all", "exists"):
            kind, each = self._next()
            if kind != "name":
                raise _unreadable("expressions.wants_name_first", name=name)
            self._wants(",")
            body = self.whole(0)
            self._wants(")")
            return Node(name, each, (target, body))
        parts = self._listed(")")
        if name not in METHODS or len(parts) != METHODS[name][0]:
            raise _unreadable("expressions.no_method", name=name, known=["all", "exists", *sorted(METHODS)])
        return Node("method", name, (target, *parts))

    def _listed(self, closing: str) -> tuple[Node, ...]:
        parts: list[Node] = []
        while not self._takes(closing):
            if parts:
                self._wants(",")
            parts.append(self.whole(0))
        return tuple(parts)


def _size(value: Any) -> int:
    if value is None:
        return 0
    if isinstance(value, str | list | dict):
        return len(value)
    raise Unworkable("expressions.size_of", value=_named(value))


@lru_cache(maxsize=16)
def _without_markup(value: str) -> str:
    """A rich text without its markup, worked out once however often a check asks; anything else as it is."""
    return text_of(value) if canonical(value) == value else value


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        # Plain text may hold a “<” of its own; rich text is known by being in its canonical form.
        return _without_markup(value) if value.startswith("<") else value
    raise Unworkable("expressions.text_of", value=_named(value))


FUNCTIONS: dict[str, Callable[[Any], Any]] = {
    "size": _size,
    "text": _text,
    "words": lambda value: len(_text(value).split()),
}


def _said(value: Any) -> str:
    if isinstance(value, str):
        return value
    raise Unworkable("expressions.wants_text", value=_named(value))


METHODS: dict[str, tuple[int, Callable[..., Any]]] = {
    "contains": (1, lambda a, b: _said(b) in _said(a)),
    "startsWith": (1, lambda a, b: _said(a).startswith(_said(b))),
    "endsWith": (1, lambda a, b: _said(a).endswith(_said(b))),
    "size": (0, _size),
}


def _named(value: Any) -> Message:
    return said(f"expressions.is_{NAMES.get(type(value), 'that')}")


def _found(text: str) -> Message:
    return said("expressions.sign", text=text) if text else said("expressions.its_end")


class _Working:
    """Works an expression out, in bounded steps."""

    def __init__(self, values: Mapping[str, Any]) -> None:
        self.values, self.left = dict(values), STEPS

    def out(self, node: Node) -> Any:
        self.left -= 1
        if self.left < 0:
            raise Unworkable("expressions.too_long")
        return getattr(self, f"_{node.kind}")(node)

    def _literal(self, node: Node) -> Any:
        return node.value

    def _name(self, node: Node) -> Any:
        return self.values.get(node.value)

    def _list(self, node: Node) -> Any:
        return [self.out(p) for p in node.parts]

    def _choice(self, node: Node) -> Any:
        return self.out(node.parts[1 if self._true(node.parts[0]) else 2])

    def _call(self, node: Node) -> Any:
        value = self.out(node.parts[0])
        if node.value == "has":
            return value not in (None, "", [], {})
        return FUNCTIONS[node.value](value)

    def _method(self, node: Node) -> Any:
        target, *given = (self.out(p) for p in node.parts)
        return METHODS[node.value][1](target, *given)

    def _member(self, node: Node) -> Any:
        target = self.out(node.parts[0])
        if target is None or isinstance(target, Mapping):
            return (target or {}).get(node.value)
        raise Unworkable("expressions.member_of", name=node.value, value=_named(target))

    def _item(self, node: Node) -> Any:
        target, key = (self.out(p) for p in node.parts)
        try:
            return target[key]
        except (TypeError, LookupError):
            raise Unworkable("expressions.no_member", name=key, value=_named(target)) from None

    def _each(self, node: Node) -> Iterator[bool]:
        found = self.out(node.parts[0])
        if found is not None and not isinstance(found, list):
            raise Unworkable("expressions.wants_list", value=_named(found))
        before = self.values
        try:
            for one in found or ():
                self.values = {**before, node.value: one}
                yield self._true(node.parts[1])
        finally:
            self.values = before

    def _all(self, node: Node) -> bool:
        return all(self._each(node))

    def _exists(self, node: Node) -> bool:
        return any(list(self._each(node)))

    def _true(self, node: Node) -> bool:
        found = self.out(node)
        if not isinstance(found, bool):
            raise Unworkable("expressions.wants_yes_or_no", value=_named(found))
        return found

    def _unary(self, node: Node) -> Any:
        if node.value == "!":
            return not self._true(node.parts[0])
        return -_number(self.out(node.parts[0]))

    def _binary(self, node: Node) -> Any:
        sign, (left, right) = node.value, node.parts
        if sign in ("&&", "||"):
            return self._true(right) if self._true(left) == (sign == "&&") else sign == "||"
        a, b = self.out(left), self.out(right)
        if sign in ("==", "!="):
            return _same(a, b) == (sign == "==")
        if sign == "in":
            if not isinstance(b, list | dict):
                raise Unworkable("expressions.in_of", value=_named(b))
            return any(_same(a, one) for one in b)
        if sign in ("<", "<=", ">", ">="):
            return _ordered(sign, a, b)
        return _counted(sign, a, b)


def _same(a: Any, b: Any) -> bool:
    return bool(a == b) and isinstance(a, bool) == isinstance(b, bool)


def _ordered(sign: str, a: Any, b: Any) -> bool:
    if not (isinstance(a, str) and isinstance(b, str)):
        a, b = _number(a), _number(b)
    return bool({"<": a < b, "<=": a <= b, ">": a > b, ">=": a >= b}[sign])


def _counted(sign: str, a: Any, b: Any) -> Any:
    if sign == "+" and isinstance(a, str) and isinstance(b, str):
        return a + b
    if sign == "+" and isinstance(a, list) and isinstance(b, list):
        return [*a, *b]
    a, b = _number(a), _number(b)
    if sign in "/%" and b == 0:
        raise Unworkable("expressions.divides_by_nothing")
    if sign == "/":
        # Whole numbers are divided towards nought, as the language says.
        return int(a / b) if isinstance(a, int) and isinstance(b, int) else _number(a / b)
    if sign == "%":
        return a - b * int(a / b) if isinstance(a, int) and isinstance(b, int) else math.fmod(a, b)
    return {"+": a + b, "-": a - b, "*": a * b}[sign]


def _number(value: Any) -> Any:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise Unworkable("expressions.wants_number", value=_named(value))
    if abs(value) > 1e15:
        raise Unworkable("expressions.too_large")
    return value
