"""Merging unit maps: what is known of which source each translated text follows."""

from __future__ import annotations

from dataclasses import replace

from hawthorn.core import revision
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.merge.conflicts import one_sided
from hawthorn.core.revision import Content

_Claim = tuple[tuple[str, str], ...]


def claims(kind: ContentType, made: Content, base: Content, ours: Content, theirs: Content) -> Content:
    """The merged content with the claims of the side that each text came from.

    Where a text came from both, what is known of both is kept: it counts as current only if both say so (`units.needing`).
    What one of them says nothing of has none. What is claimed of fields that the type has no more is there already.
    """
    if not ours.unit_map and not theirs.unit_map:
        return made
    o, t = revision.texts(kind, ours), revision.texts(kind, theirs)
    out: dict[str, _Claim] = dict(made.unit_map)
    for key, text in revision.texts(kind, made).items():
        was, mine, their = (c.unit_map.get(key) for c in (base, ours, theirs))
        from_ours, from_theirs = text == o.get(key), text == t.get(key)
        if from_ours and from_theirs:
            side = one_sided(was, mine, their)
            claim = their if side == "theirs" else mine if side else _of_both(mine, their)
        elif from_ours or from_theirs:
            claim = mine if from_ours else their
        else:
            # Joined by words.
            claim = _of_both(mine, their)
        if claim is not None:
            out[key] = claim
    return replace(made, unit_map=out)


def _of_both(mine: _Claim | None, their: _Claim | None) -> _Claim | None:
    """What two sides say together of which source a text follows, in an order of its own, so that sides do not matter."""
    return None if mine is None or their is None else tuple(sorted({*mine, *their}))
