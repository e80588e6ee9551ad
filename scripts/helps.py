"""Writes what help of commands says into the catalogue, to be translated from: `python scripts/helps.py src/hawthorn/messages/en/help.json`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from typer.main import get_command

from hawthorn.cli import helping
from hawthorn.cli.app import assembled

if __name__ == "__main__":
    text = json.dumps(helping.words(get_command(assembled())), ensure_ascii=False, indent=2)
    Path(sys.argv[1]).write_text(text + "\n", "utf-8")
