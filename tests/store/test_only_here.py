"""Statements stand in `store` and nowhere else: what is above it calls functions of it."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import hawthorn

SOURCE = Path(hawthorn.__file__).parent
STATEMENT = re.compile(r"^\s*(SELECT|INSERT|UPDATE|DELETE|WITH|CREATE|PRAGMA|SAVEPOINT)\s+\S+\s+\S")

WORD = re.compile(r"\bexecute|\b(SELECT|INSERT|UPDATE|DELETE|WITH|CREATE|PRAGMA|SAVEPOINT)\s")


def _statements(tree: ast.AST) -> list[str]:
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            if node.func.attr in ("execute", "executemany", "executescript"):
                found.append(f"line {node.lineno}: {node.func.attr}")
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and STATEMENT.match(node.value):
            found.append(f"line {node.lineno}: {node.value[:40]}")
    return found


def test_statements_stand_in_the_store_alone() -> None:
    read = [p for p in SOURCE.rglob("*.py") if p.relative_to(SOURCE).parts[0] != "store"]
    assert len(read) > 100
    texts = {str(p.relative_to(SOURCE)): p.read_text() for p in read}
    # To parse takes long: only what holds a word of one.
    found = {path: _statements(ast.parse(text)) for path, text in texts.items() if WORD.search(text)}
    assert {path: lines for path, lines in found.items() if lines} == {}


def test_a_statement_is_known_when_it_is_seen() -> None:
    for text in ('conn.execute("x")', 'f = "SELECT id FROM entry"', 'f"DELETE FROM entry WHERE id = {id}"'):
        assert _statements(ast.parse(text)), text
    assert not _statements(ast.parse('"Select an entry to go on."'))
