"""Writes what help of commands says, and what settings mean, into the catalogue, to be translated from: `python scripts/helps.py src/hawthorn/messages/en`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from typer.main import get_command

from hawthorn.cli import helping
from hawthorn.cli.app import assembled
from hawthorn.service.settings import words

if __name__ == "__main__":
    for name, held in (("help", helping.words(get_command(assembled()))), ("settings", words())):
        text = json.dumps(held, ensure_ascii=False, indent=2)
        Path(sys.argv[1], f"{name}.json").write_text(text + "\n", "utf-8")
