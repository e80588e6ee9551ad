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
