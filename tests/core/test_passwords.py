"""Passwords that would be guessed are refused with the reason; those that would not are taken."""

from __future__ import annotations

import pytest

from hawthorn.core.passwords import weak
from hawthorn.messages import ENGLISH

OWN = ("ida", "Ida Marlow", "ida@pellgrave.example")


@pytest.mark.parametrize(
    ("password", "why"),
    [
        ("short", "fewer than"),
        ("x" * 401, "more than"),
        ("aaaaaaaaaa", "tried first"),
        ("12121212", "tried first"),
        ("12345678", "tried first"),
        ("987654321", "tried first"),
        ("qwertyuiop", "tried first"),
        ("zxcvbnm,", "tried first"),
        ("football9", "tried first"),
        ("D0lph1ns!", "tried first"),
        ("hawthorn1", "tried first"),
        ("Password", "tried first"),
        ("Password123!", "tried first"),
        ("WELCOME1", "tried first"),
        ("abc1abc1", "tried first"),
        ("idamarlow", "own name"),
        ("Marlow1988", "own name"),
        ("pellgrave!", "own name"),
        ("harbour-light", ""),
        ("the tide turns", ""),
        ("correct harbour lamp marlow", ""),
        ("灯台の光は夜を照らす", ""),
    ],
)
def test_what_would_be_guessed_is_refused(password: str, why: str) -> None:
    found = weak(password, OWN)
    assert (why in ENGLISH.text(found)) if why and found is not None else (found is None and not why)
