"""Translated units put into a target: tags checked, texts composed, paragraphs in their order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core import aligning, fields, richtext, slots, tables
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field
from hawthorn.core.messages import Message
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, left_over
from hawthorn.core.richtext import Paragraph, ParagraphIds
from hawthorn.core.translation import tags
from hawthorn.core.translation.segmentation import writes_without_spaces
from hawthorn.core.translation.tags import BrokenTags, Fitted, Part, Parts, words_of
from hawthorn.core.translation.units import Segment, Unit, by_id


@dataclass(frozen=True, slots=True)
class Text:
    """A unit's target as it is stored (text for a plain field, inner HTML for a paragraph), and what is worth knowing."""

    text: str
    notes: tuple[Message, ...] = ()


def target_text(unit: Unit, segments: Sequence[Segment], locale: str) -> Text:
    """What a unit's segments come to in another language. Raises `BrokenTags`, which names the segment where one alone is to
    blame."""
    fitted = _fitted(unit, segments, locale)
    if not unit.rich:
        return Text(richtext.without_controls(words_of(fitted.parts)).strip(), fitted.notes)
    return Text(tags.markup(fitted.markup, fitted.parts), fitted.notes)


def _fitted(unit: Unit, segments: Sequence[Segment], locale: str) -> Fitted:
    parts: list[Part] = []
    for segment in segments:
        parts += _target_of(segment, locale)
    try:
        return tags.fitted(unit.tags, parts, rich=unit.rich)
    except BrokenTags as broken:
        for segment in segments:
            mine = {
                p.id: unit.tags[p.id] for p in segment.source if not isinstance(p, str) and p.id in unit.tags
            }
            try:
                tags.fitted(mine, _target_of(segment, locale), rich=unit.rich)
            except BrokenTags as here:
                if len(segments) > 1:
                    raise BrokenTags("units.in_segment", segment=segment.id, what=here.message) from None
                raise here from None
        raise broken


def _target_of(segment: Segment, locale: str) -> Parts:
    if segment.target is not None:
        return segment.target
    return segment.source if segment.ignorable and not writes_without_spaces(locale) else ()


def compose(
    kind: ContentType, source: Content, target: Content, texts: Mapping[str, str], hashes: Mapping[str, str]
) -> Content:
    """Lay translated texts (by unit key) into a target, creating what is not there.

    Paragraphs and blocks stand in the order of the source and keep its names; paragraphs and blocks that only the target
    has stay after what they followed. The unit map records for each text the source that it was made from.
    """
    paragraph_ids = dict(target.paragraph_ids)
    unit_map = dict(target.unit_map)
    origin = {s.path: s for s in slots.walk(kind.fields, source.fields)}
    have = {s.path: s for s in slots.walk(kind.fields, target.fields)}
    by_path: dict[str, dict[str, str]] = {}
    for key, text in texts.items():
        by_path.setdefault(key.split(".", 1)[0], {})[key] = text
        # Paragraphs and blocks keep the names that they have in the source.
        unit_map[key] = ((key, hashes[key]),)
    made: dict[str, Any] = {}
    for path, mine in by_path.items():
        slot = origin.get(path) or have[path]
        if slot.spec.shared:
            continue
        if fields.kind_of(slot.spec).rich:
            made[path], paragraph_ids[path] = _compose_rich(
                source, target, origin.get(path), have.get(path), mine
            )
        else:
            made[path] = mine[path]
    values = dict(target.fields)
    for spec in kind.fields:
        if spec.shared or not any(path.split(":")[0] == spec.name for path in made):
            continue
        values[spec.name] = (
            _compose_parts(spec, source, target, origin, have, made)
            if fields.kind_of(spec).parts
            else made[spec.name]
        )
    values = {k: v for k, v in values.items() if v not in (None, "")}
    alive = {s.path for s in slots.filled(kind.fields, values)}
    gone = left_over(kind, values)
    left = {k: v for k, v in paragraph_ids.items() if k in alive or slots.top(k) in gone}
    return Content(values, left, unit_map)


def _compose_parts(
    spec: Field,
    source: Content,
    target: Content,
    origin: Mapping[str, slots.Slot],
    have: Mapping[str, slots.Slot],
    made: Mapping[str, Any],
) -> Any:
    """A group or blocks with translated words in the shape of the source; what has no words goes along."""
    theirs = slots.blocks(spec, source.fields.get(spec.name))
    mine = slots.blocks(spec, target.fields.get(spec.name))
    homes: dict[str, list[str]] = {}
    for home in dict.fromkeys(b.home for b in (*theirs.values(), *mine.values())):
        from_source = [b.id for b in theirs.values() if b.home == home]
        own = [
            b.id
            for b in mine.values()
            if b.home == home and (b.id not in theirs or theirs[b.id].home == home)
        ]
        homes[home] = _order(from_source, own, {i: i for i in (*from_source, *own)})
    kinds = {b.id: b.kind for b in (*mine.values(), *theirs.values())}
    values: dict[str, Any] = {}
    for path in dict.fromkeys((*origin, *have)):
        if path.split(":")[0] != spec.name:
            continue
        theirs_slot, mine_slot = origin.get(path), have.get(path)
        if path in made:
            values[path] = made[path]
        elif mine_slot is not None and mine_slot.value is not None:
            values[path] = mine_slot.value
        elif theirs_slot is not None and not fields.to_translate(theirs_slot.spec):
            values[path] = theirs_slot.value
    return slots.build(spec, homes, kinds, {p: v for p, v in values.items() if v is not None})


def _compose_rich(
    source: Content,
    target: Content,
    theirs: slots.Slot | None,
    mine: slots.Slot | None,
    texts: Mapping[str, str],
) -> tuple[str, ParagraphIds]:
    origin = by_id(source, theirs) if theirs else {}
    have = by_id(target, mine) if mine else {}
    existing = list(have)
    for key, text in texts.items():
        paragraph_id = key.split(".", 1)[1]
        shape = have.get(paragraph_id) or origin[paragraph_id]
        have[paragraph_id] = Paragraph(shape.path, shape.tag, richtext.inner(text), shape.src)
    for paragraph_id, paragraph in origin.items():
        if not paragraph.inner and paragraph_id not in have:
            have[paragraph_id] = paragraph
    order = _order(list(origin), existing, have)
    return aligning.rejoin(tables.gathered((i, have[i]) for i in order))


def _order(origin: Sequence[str], existing: Sequence[str], have: Mapping[str, Any]) -> list[str]:
    local: dict[str | None, list[str]] = {}
    anchor: str | None = None
    known = set(origin)
    for one in existing:
        if one in known:
            anchor = one
        else:
            local.setdefault(anchor, []).append(one)
    out = list(local.get(None, ()))
    for one in origin:
        if one in have:
            out.append(one)
        out += local.get(one, ())
    return out
