"""Every trial for a moment; `make torture` runs them at length."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from tests.torture.trials import TRIALS


@pytest.mark.parametrize("name", TRIALS)
def test_a_trial_holds_for_a_moment(name: str, tmp_path: Path) -> None:
    counted = TRIALS[name](tmp_path, 1.0, random.Random(7))
    assert sum(counted.values()) > 0
