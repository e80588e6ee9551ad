"""What the program is written as, for tests that look at that: read once in a process."""

from __future__ import annotations

import ast
from functools import cache
from pathlib import Path

import hawthorn

SOURCE = Path(hawthorn.__file__).parent


@cache
def trees() -> dict[Path, ast.Module]:
    """Every module of the program, as it is parsed."""
    return {path: ast.parse(path.read_text("utf-8")) for path in sorted(SOURCE.rglob("*.py"))}


def named(node: ast.expr) -> str:
    """A name with what it is looked up in; `…` for what is worked out."""
    after = list[str]()
    while isinstance(node, ast.Attribute):
        after.append(node.attr)
        node = node.value
    return ".".join([node.id if isinstance(node, ast.Name) else "…", *reversed(after)])


@cache
def parts() -> tuple[list[tuple[Path, str, ast.Call]], list[tuple[Path, set[str]]]]:
    """Every call, by its name as it is written, and the modules and names that each import brings."""
    calls, brought = list[tuple[Path, str, ast.Call]](), list[tuple[Path, set[str]]]()
    for path, tree in trees().items():
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                calls.append((path, named(node.func), node))
            elif isinstance(node, ast.Import | ast.ImportFrom):
                module = {node.module or ""} if isinstance(node, ast.ImportFrom) else set()
                brought.append((path, module | {a.name for a in node.names}))
    return calls, brought


def calls() -> list[tuple[Path, str, ast.Call]]:
    """Every call, by its name as it is written."""
    return parts()[0]


def imports() -> list[tuple[Path, set[str]]]:
    """What each import brings: the modules and names."""
    return parts()[1]
