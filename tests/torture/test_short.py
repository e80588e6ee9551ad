"""Every trial for a moment; `make torture` runs them at length."""

from __future__ import annotations

import os
import random
import secrets
from pathlib import Path

import pytest

from tests.torture.trials import TRIALS

NEW = ("the whole API",)
"""Trials that are others each time."""


@pytest.mark.parametrize("name", TRIALS)
def test_a_trial_holds_for_a_moment(name: str, tmp_path: Path) -> None:
    seed = int(os.environ.get("TRIAL_SEED") or (secrets.randbits(32) if name in NEW else 7))
    try:
        counted = TRIALS[name](tmp_path, 15.0 if name in NEW else 1.0, random.Random(seed))
    except Exception as error:
        raise AssertionError(f"the same again with TRIAL_SEED={seed}") from error
    assert sum(counted.values()) > 0
