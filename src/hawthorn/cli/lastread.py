"""What was last read of each entry, by whoever runs the commands: a script, or somebody at a terminal. A save is based on that."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from pathlib import Path

from hawthorn.cli import context


def _file() -> Path:
    """One file for each process that runs commands, so that two scripts do not share what they read."""
    return context.session_file().parent / "read" / f"{os.getppid()}.json"


def _key(id: str, locale: str, strand: str) -> str:
    return f"{context.address()} {id} {locale} {strand or 'draft'}"


def note(id: str, locale: str, strand: str, etag: str) -> None:
    """Keep what an entry was when it was read; where nothing can be kept, the next save has to say it."""
    path = _file()
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        kept = _kept(path)
        kept[_key(id, locale, strand)] = etag
        path.write_text(json.dumps(kept), "utf-8")
        _sweep(path.parent)


def etag(id: str, locale: str, strand: str = "") -> str:
    """What an entry was when it was last read here; empty when it was not."""
    return _kept(_file()).get(_key(id, locale, strand), "")


def _kept(path: Path) -> dict[str, str]:
    try:
        found: dict[str, str] = json.loads(path.read_text("utf-8"))
        return found
    except (OSError, ValueError):
        return {}


def _sweep(folder: Path) -> None:
    """What was read by processes that have ended is forgotten."""
    for path in folder.glob("*.json"):
        if path.stem.isdigit() and not _runs(int(path.stem)):
            path.unlink(missing_ok=True)


def _runs(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
