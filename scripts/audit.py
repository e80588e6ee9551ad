"""Looks whether what the service and the console are built from has known holes, where that can be asked here. Ends with 1 where it has."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
AUDIT = "pip-audit==2.10.1"
PATIENCE = 180


def main() -> None:
    """Ask for both, and say what came of it."""
    holes = 0
    for name, look in (("Python", of_python), ("console", of_console)):
        found = look()
        if found is None:
            print(f"{name}: what is known cannot be asked for here; nothing was looked at")
            continue
        looked, wrong = found
        print(f"{name}: {looked} packages, {len(wrong)} with known holes")
        for line in wrong:
            print(f"  {line}")
        holes += len(wrong)
    sys.exit(1 if holes else 0)


def of_python() -> tuple[int, list[str]] | None:
    """What `requirements.lock` brings: how many packages were looked at, and those with holes; None where nobody answers."""
    told = answered(
        [
            sys.executable,
            "-m",
            "uv",
            "tool",
            "run",
            "--quiet",
            AUDIT,
            "--requirement",
            "requirements.lock",
            "--disable-pip",
            "--require-hashes",
            "--format",
            "json",
            "--progress-spinner",
            "off",
        ],
        ROOT,
    )
    looked = [one for one in (told or {}).get("dependencies", []) if "skip_reason" not in one]
    if not looked:
        return None
    return len(looked), [
        f"{one['name']} {one['version']}: {hole['id']}, mended in {', '.join(hole['fix_versions']) or 'no version yet'}"
        for one in looked
        for hole in one["vulns"]
    ]


def of_console() -> tuple[int, list[str]] | None:
    """The same of what `package-lock.json` brings into the console."""
    told = answered(["npm", "audit", "--json", "--omit=dev"], ROOT / "console")
    if not told or "metadata" not in told:
        return None
    return told["metadata"]["dependencies"]["total"], [
        f"{name}: {one['severity']}, {one['range']}" for name, one in told.get("vulnerabilities", {}).items()
    ]


def answered(command: list[str], folder: Path) -> dict[str, Any] | None:
    """What a program answers as JSON, or None where it does not."""
    try:
        done = subprocess.run(
            command, cwd=folder, capture_output=True, text=True, timeout=PATIENCE, check=False
        )
        told = json.loads(done.stdout)
    except (OSError, ValueError, subprocess.TimeoutExpired):
        return None
    return told if isinstance(told, dict) else None


if __name__ == "__main__":
    main()
