"""Houses for whoever brings something from one to another."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


@pytest.fixture
def other(tmp_path: Path) -> Iterator[House]:
    (tmp_path / "other").mkdir()
    made = House(tmp_path / "other")
    yield made
    made.close()
