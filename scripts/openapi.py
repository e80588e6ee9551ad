"""Writes the OpenAPI document, which the service sends and the console's client is generated from."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from hawthorn.service import openapi
from hawthorn.service.app import create_app
from hawthorn.service.settings import Settings


def document() -> str:
    """The document, in a stable form."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Settings(file=Path(folder) / "x.sqlite", followers=False))
        text = json.dumps(openapi.document(app), indent=1, ensure_ascii=False, sort_keys=True) + "\n"
        app.state.desk.db.close()
    return text


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(document(), "utf-8")
