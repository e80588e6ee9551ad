"""What operations see to: longer workflows, shared fields, sections, types that change, embedded pictures, lists."""

from __future__ import annotations

import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import GateUnmet, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.operations.access import permission
from hawthorn.operations.content import changing, entries
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.runtime.bootstrap import PAGE, STANDARD
from hawthorn.operations.search import finding
from hawthorn.operations.translation import accepting, exporting, grid, importing, orders, sending
from hawthorn.operations.translation.grid import Asked
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import my_work, show, show_comparison, show_history
from hawthorn.operations.views.health import health
from hawthorn.store import definitions as definition_store
from hawthorn.store import entries as entry_store
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.db.write(lambda c: definition_store.add_locale(c, "fr", "Français"))
    made.desk.db.write(lambda c: definition_store.set_setting(c, "setup", "50"))
    yield made
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def save(
    house: House, uuid: str, patch: dict[str, Any], who: str = "wim", locale: str = "en"
) -> entries.Saved:
    def do(act: Act) -> entries.Saved:
        row = entries.store.entry(act.conn, uuid)
        assert row is not None
        return entries.save(act, uuid, locale, patch, entries.current_base(act, row.id, locale))

    return house.do(who, do)


def shown(house: House, uuid: str, who: str = "ida", locale: str | None = None) -> dict[str, Any]:
    return house.desk.read(house.who(who), lambda v: show.entry(v, uuid, locale))


def picture(house: House, title: str, alt: str = "A thing.") -> str:
    out = io.BytesIO()
    Image.new("RGB", (8, 8), "red").save(out, "PNG")
    found = files.inspect("p.png", out.getvalue())
    value = house.do("wim", lambda a: files.keep(a, found))
    fields = {"title": title, "file": value, **({"alt": alt} if alt else {})}
    return house.do("wim", lambda a: entries.start(a, "picture", "en", fields))


LONG = {
    "name": "standard",
    "label": "With a check of facts",
    "stages": [
        STANDARD["stages"][0],
        STANDARD["stages"][1],
        {"name": "facts", "label": "Facts", "order": 200, "gate": {"sign_offs": 1, "checks": ["required"]}},
        {"name": "release", "label": "Release", "order": 1000, "gate": {"sign_offs": 2, "author": "no"}},
    ],
}


def test_a_longer_workflow_advances_when_each_gate_is_met(house: House) -> None:
    house.do("ida", lambda a: workflows.define(a, LONG))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    stages = {bead["stage"]: bead["state"] for bead in shown(house, page)["rail"]}
    assert stages == {"draft": "head", "review": "head", "facts": "head", "release": "none"}
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    with pytest.raises(GateUnmet, match="one more sign-off"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.do("ida", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert house.is_out(page)
    assert [row[0] for row in house.standing(page) if row[3] is None] == ["release"]


def test_a_workflow_that_changes_moves_nothing_that_stands(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    before = house.standing(page)
    house.do("ida", lambda a: workflows.define(a, LONG))
    assert house.standing(page) == before
    assert [b["stage"] for b in shown(house, page)["rail"]] == ["draft", "review", "facts", "release"]


def test_a_team_of_one_may_sign_its_own_text_where_the_workflow_says_so(house: House) -> None:
    own = {
        **STANDARD,
        "stages": [
            *STANDARD["stages"][:2],
            {**STANDARD["stages"][2], "gate": {"sign_offs": 1, "author": "yes"}},
        ],
    }
    page = house.do("ida", lambda a: entries.start(a, "page", "en", {"title": "Lamp", "body": "<p>x</p>"}))
    house.do("ida", lambda a: review.submit(a, page, "en"))
    with pytest.raises(Refused, match="somebody else's sign-off"):
        house.do("ida", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: workflows.define(a, own))
    house.do("ida", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))


def test_one_submission_is_open_at_a_time_and_only_its_author_takes_it_back(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en", "first"))
    with pytest.raises(InTheWay, match="in review already"):
        house.do("wim", lambda a: review.submit(a, page, "en"))
    with pytest.raises(Refused, match="Only Wim may take it back"):
        house.do("oda", lambda a: review.take_back(a, page, "en"))
    save(house, page, {"title": "Lamp two"})
    house.do("wim", lambda a: review.submit(a, page, "en", "second"))
    with pytest.raises(StaleRevision, match="Revision 2 is in review, not 1"):
        house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("wim", lambda a: review.take_back(a, page, "en"))
    with pytest.raises(InTheWay, match="waits for a decision"):
        house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    assert [r for r in house.standing(page) if r[3] is None] == []


def test_a_send_back_needs_a_reason_and_voids_the_sign_off(house: House) -> None:
    page = house.signed("Lamp")
    with pytest.raises(Invalid, match="say why"):
        house.do("oda", lambda a: review.send_back(a, page, "en", "  "))
    house.do("oda", lambda a: review.send_back(a, page, "en", "One more thing."))
    with pytest.raises(GateUnmet, match="one more sign-off"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    waits = house.desk.read(house.who("wim"), my_work.my_work)
    assert [(line["kind"], line["note"]) for line in waits["waiting"]] == [("sent back", "One more thing.")]


def test_shared_fields_are_an_edition_of_their_own_that_goes_along(house: House) -> None:
    lamp = picture(house, "Lamp")
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    out = house.standing(page, "*")
    save(house, page, {"picture": lamp})
    assert shown(house, page)["rail"][2]["state"] == "older"
    assert house.standing(page, "*") == out
    house.do("wim", lambda a: review.submit(a, page, "en", "A picture."))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")], with_needs=True))
    assert [row[1] for row in house.standing(page, "*") if row[0] == "release"] == [1, 2]
    assert shown(house, page)["rail"][2]["state"] == "head"


def test_the_last_language_that_is_withdrawn_takes_the_shared_fields_along(house: House) -> None:
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, {"title": "La lampe", "body": "<p>Mots.</p>", "slug": "la-lampe"}, "ida", "fr")
    house.do("ida", lambda a: review.submit(a, page, "fr"))
    house.do("oda", lambda a: review.sign_off(a, page, "fr", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", "withdraw")]))
    assert house.is_out(page, "*")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr", "withdraw")]))
    assert not house.is_out(page, "*")
    with pytest.raises(InTheWay, match="not out"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr", "withdraw")]))


def test_a_picture_without_alt_text_blocks_and_one_that_moved_on_warns_or_holds(house: House) -> None:
    bare = picture(house, "Bare", alt="")
    page = house.page("Lamp", picture=bare)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bare, "en")]))
    with pytest.raises(GateUnmet, match="“Bare” has no alt text"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, bare, {"alt": "A bare lamp."})
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bare, "en")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))

    strict = {
        **STANDARD,
        "stages": [
            *STANDARD["stages"][:2],
            {**STANDARD["stages"][2], "gate": {"sign_offs": 1, "embedded": "hold"}},
        ],
    }
    house.do("ida", lambda a: workflows.define(a, strict))
    other = house.page("Rope", picture=bare)
    house.do("wim", lambda a: review.submit(a, other, "en"))
    house.do("oda", lambda a: review.sign_off(a, other, "en", 1))
    save(house, bare, {"alt": "Another alt."})
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bare, "en")]))
    with pytest.raises(GateUnmet, match="moved on after the sign-off"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")]))


def test_a_type_grows_and_shrinks_and_old_entries_keep_every_value(house: House) -> None:
    page = house.page("Lamp")
    more = {**PAGE, "fields": [*PAGE["fields"], {"name": "subtitle", "kind": "line", "required": True}]}
    house.do("ida", lambda a: changing.define_type(a, more))
    assert [m["field"] for m in shown(house, page)["missing"]] == ["subtitle"]
    with pytest.raises(GateUnmet, match="“Subtitle” is required"):
        house.do("wim", lambda a: review.submit(a, page, "en"))
    save(house, page, {"subtitle": "Brass"})
    house.do("ida", lambda a: changing.define_type(a, PAGE))
    with pytest.raises(Invalid, match="is not a field of Page"):
        save(house, page, {"subtitle": "x"})
    save(house, page, {"title": "Lamp two"})
    assert "subtitle" not in shown(house, page)["fields"]
    back = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, more))
    assert ("comes back" in back.effects[0].what, back.effects[0].entries) == (True, 1)
    house.do("ida", lambda a: changing.define_type(a, more))
    assert shown(house, page)["fields"]["subtitle"] == "Brass"
    assert house.desk.read(house.who("ida"), lambda v: v.setup.types["page"].version) == 4


def test_entries_are_found_by_the_fields_that_their_type_has_now(house: House) -> None:
    more = {**PAGE, "fields": [*PAGE["fields"], {"name": "subtitle", "kind": "line"}]}
    house.do("ida", lambda a: changing.define_type(a, more))
    page = house.page("Lamp")
    save(house, page, {"subtitle": "Brass"})

    def indexed() -> bool:
        with house.desk.db.read() as conn:
            rows = conn.execute("SELECT rowid FROM search_text WHERE search_text MATCH 'brass'").fetchall()
        return bool(rows)

    assert indexed()
    house.do("ida", lambda a: changing.define_type(a, PAGE))
    assert not indexed()
    house.do("ida", lambda a: changing.define_type(a, more))
    assert indexed()


ROOM = {
    "name": "room", "label": "Room", "workflow": "short", "section": True,
    "fields": [{"name": "title", "kind": "line", "required": True}, {"name": "below", "kind": "parent", "shared": True}],
}  # fmt: skip


def rooms(house: House) -> tuple[str, str]:
    house.do("ida", lambda a: changing.define_type(a, ROOM))
    one, two = (
        house.do("ida", lambda a, t=t: entries.start(a, "room", "en", {"title": t})) for t in ("East", "West")
    )
    return one, two


def number(house: House, uuid: str) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0])


def within(house: House, *sections: str) -> Identity:
    """A writer whose grants reach only into certain sections."""
    ids = tuple(number(house, s) for s in sections)
    base = house.who("wim")
    grants = tuple(("writer", Grant(v, sections=ids)) for v in ("read", "write", "submit"))
    return Identity(base.id, "person", base.name, base.handle, grants)


def test_an_entry_belongs_to_the_nearest_section_above_and_moving_needs_a_grant_at_both_ends(
    house: House,
) -> None:
    east, west = rooms(house)
    shelf = house.do("ida", lambda a: entries.start(a, "room", "en", {"title": "Shelf", "below": east}))
    page = house.do("ida", lambda a: entries.start(a, "page", "en", {"title": "Lamp", "below": shelf}))
    assert shown(house, page)["section"]["title"] == "Shelf"
    only_east = within(house, east)

    def move(identity: Identity, target: str | None) -> None:
        base = house.desk.read(identity, lambda v: entries.current_base(v, number(house, page), "en"))
        house.desk.write(identity, lambda a: entries.save(a, page, "en", {"below": target}, base))

    move(only_east, east)
    assert shown(house, page)["section"]["title"] == "East"
    with pytest.raises(Refused):
        move(only_east, west)
    assert shown(house, page)["section"]["title"] == "East"
    move(within(house, east, west), west)
    assert shown(house, page)["section"]["title"] == "West"
    with pytest.raises(NotFound):
        move(only_east, east)


def test_nothing_is_placed_below_itself(house: House) -> None:
    east, west = rooms(house)
    save(house, west, {"below": east}, "ida")
    with pytest.raises(Invalid, match="below itself"):
        save(house, east, {"below": west}, "ida")


GRANTS = st.lists(
    st.builds(
        Grant,
        verb=st.just("read"),
        types=st.sampled_from([(), ("page",), ("room",), ("page", "room")]),
        locales=st.sampled_from([(), ("en",), ("fr",)]),
        sections=st.sampled_from([(), (1,), (2,), (1, 2)]),
        own=st.booleans(),
    ),
    max_size=3,
)


@given(grants=GRANTS)
@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
def test_lists_show_exactly_what_may_be_read(house: House, grants: list[Grant]) -> None:
    with house.desk.db.read() as conn:
        ready = conn.execute("SELECT count(*) FROM entry").fetchone()[0]
    if not ready:
        east, west = rooms(house)
        for n, place in enumerate((east, west, None, east)):
            who = ("wim", "ida")[n % 2]
            house.do(
                who,
                lambda a, n=n, p=place: entries.start(
                    a, "page", "en", {"title": f"Page {n}", **({"below": p} if p else {})}
                ),
            )
    with house.desk.db.read() as conn:
        sections = [
            r[0] for r in conn.execute("SELECT id FROM entry WHERE type = 'room' ORDER BY id").fetchall()
        ]
    real = tuple(
        Grant(g.verb, g.types, g.locales, tuple(sections[s - 1] for s in g.sections), g.stages, g.own)
        for g in grants
    )
    base = house.who("wim")
    identity = Identity(base.id, "person", "Wim", "wim", tuple(("r", g) for g in real))

    def look(view: View) -> tuple[set[str], set[str]]:
        listed = {row.uuid for row in finding.listing(view, limit=100)[0]}
        may = {
            r.uuid
            for r in entry_store.every(view.conn)
            if permission.may(view, "read", permission.subject(view, r, r.source_locale))
        }
        return listed, may

    listed, may = house.desk.read(identity, look)
    assert listed == may


def test_lists_page_without_gaps_or_repeats(house: House) -> None:
    made = {house.page(f"Page {n}") for n in range(23)}
    seen: list[str] = []
    cursor = ""
    while True:
        rows, cursor = house.desk.read(
            house.who("ida"), lambda v, c=cursor: finding.listing(v, limit=5, cursor=c)
        )
        seen += [r.uuid for r in rows]
        if not cursor:
            break
    assert len(seen) == len(set(seen)) == 23
    assert set(seen) == made
    with pytest.raises(Invalid, match="cursor"):
        house.desk.read(house.who("ida"), lambda v: finding.listing(v, cursor="nonsense"))


@pytest.mark.parametrize(
    ("filters", "expected"),
    [
        ({}, {"Lamp", "Rope 100%", "Half"}),
        ({"words": "lam"}, {"Lamp"}),
        ({"words": "100%"}, {"Rope 100%"}),
        ({"words": "%"}, set()),
        ({"stage": "review"}, {"Lamp"}),
        ({"stage": "draft"}, {"Rope 100%", "Half"}),
        ({"incomplete": True}, {"Half"}),
        ({"person": "ida"}, {"Half"}),
        ({"type": "picture"}, set()),
        ({"locale": "fr"}, set()),
    ],
)
def test_filters_narrow_the_list(house: House, filters: dict[str, Any], expected: set[str]) -> None:
    house.signed("Lamp")
    house.page("Rope 100%")
    house.do("ida", lambda a: entries.start(a, "page", "en", {"title": "Half"}))
    rows, _ = house.desk.read(house.who("ida"), lambda v: finding.listing(v, finding.Query(**filters)))
    assert {r.title for r in rows} == expected


def test_a_commission_holds_only_what_is_missing_or_has_drifted(house: House) -> None:
    page = house.page("Lamp", body="<p>One sentence.</p><p>Another one.</p><hr>")
    order = Order((page,), ("fr",))
    counted = house.desk.read(house.who("ida"), lambda v: sending.estimate(v, order))
    assert counted == [orders.Estimate("fr", entries=1, units=3, words=5, away=0)]
    house.do("ida", lambda a: sending.commission(a, order))
    with house.desk.db.read() as conn:
        job = conn.execute("SELECT uuid FROM job").fetchone()[0]
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    filled = data.replace(b"</source></segment>", b"</source><target>Bonjour</target></segment>")
    house.do("ida", lambda a: importing.import_file(a, job, filled))
    french = shown(house, page, locale="fr")
    assert french["fields"]["body"] == "<p>Bonjour</p><p>Bonjour</p><hr>"
    assert french["fields"]["slug"] == "bonjour"
    with pytest.raises(InTheWay, match="nothing to translate"):
        house.do("ida", lambda a: sending.commission(a, order))
    save(house, page, {"body": "<p>One sentence.</p><p>Another one, changed.</p><hr>"})
    counted = house.desk.read(house.who("ida"), lambda v: sending.estimate(v, order))
    assert counted == [orders.Estimate("fr", entries=1, units=1, words=3, away=0)]
    (line,), _ = house.desk.read(house.who("ida"), lambda v: grid.lines(v, Asked(), 10, ""))
    (cell,) = line.cells
    assert (cell.locale, cell.state, cell.due, line.units) == ("fr", "out of date", 1, 3)


def test_accepting_unit_by_unit_ends_with_a_sign_off_of_the_edition(house: House) -> None:
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",))))
    with house.desk.db.read() as conn:
        job = conn.execute("SELECT uuid FROM job").fetchone()[0]
    with pytest.raises(InTheWay, match="This job is waiting"):
        house.do("ida", lambda a: accepting.accept(a, job))
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    filled = data.replace(b"</source></segment>", b"</source><target>Oui</target></segment>")
    house.by_scheduler(lambda _: None)
    house.do("ida", lambda a: importing.import_file(a, job, filled))
    assert house.do("ida", lambda a: accepting.accept(a, job, [(page, "title")])).left == 1
    done = house.do("ida", lambda a: accepting.accept(a, job))
    assert (done.accepted, done.left) == (2, 0)
    assert "not signed off: You changed this text" in done.notes[0]
    assert not house.is_out(page, "fr")
    # Who carried the file home by hand changed the text, so another has to sign it off.
    assert shown(house, page, locale="fr")["review"]["outcome"] == "waiting"
    house.do("oda", lambda a: review.sign_off(a, page, "fr", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))
    with pytest.raises(InTheWay, match="accepted"):
        house.do("ida", lambda a: importing.import_file(a, job, filled))


@pytest.mark.parametrize(
    ("order", "says"),
    [
        (Order((), ("fr",)), "at least one entry"),
        (Order(("x",), ()), "at least one target"),
        (Order(("{page}",), ("en",)), "is the source of this entry"),
        (Order(("{page}",), ("xx",)), "is not a locale here"),
        (Order(("{page}",), ("fr",), due="2001-01-01"), "is past"),
        (Order(("{page}",), ("fr",), due="tomorrow"), "year-month-day"),
        (Order(("{page}",), ("fr",), bureau="Nobody"), "there is no bureau"),
    ],
)
def test_an_order_that_cannot_be_says_why(house: House, order: Order, says: str) -> None:
    page = house.page("Lamp")
    real = Order(
        tuple(page if e == "{page}" else e for e in order.entries),
        order.locales,
        due=order.due,
        bureau=order.bureau,
    )
    with pytest.raises(Exception, match=says):
        house.do("ida", lambda a: sending.commission(a, real))


def test_what_was_typed_on_an_old_base_is_kept_before_anything_is_merged(house: House) -> None:
    page = house.page("Lamp")
    base = house.desk.read(house.who("wim"), lambda v: entries.current_base(v, number(house, page), "en"))
    house.do("oda", lambda a: entries.save(a, page, "en", {"title": "Theirs"}, base))
    clash = house.do("wim", lambda a: entries.save(a, page, "en", {"title": "Ours"}, base))
    assert [c.place for _, c in clash.conflicts] == ["title"]
    with house.desk.db.read() as conn:
        kept = conn.execute(
            "SELECT fields, strand FROM revision WHERE id = ?", (clash.typed["en"],)
        ).fetchone()
        assert json.loads(kept["fields"])["title"] == "Ours"
        assert kept["strand"] is None
        parents = conn.execute(
            "SELECT parent FROM revision_parent WHERE revision = ?", (clash.typed["en"],)
        ).fetchall()
        assert [p[0] for p in parents] == [base.own]


def test_an_etag_of_another_entry_or_nonsense_is_refused(house: House) -> None:
    one, two = house.page("One"), house.page("Two")
    other = house.desk.read(house.who("wim"), lambda v: entries.current_base(v, number(house, two), "en"))
    with pytest.raises(Invalid, match="another entry"):
        house.do("wim", lambda a: entries.save(a, one, "en", {"title": "x"}, other))
    with pytest.raises(Invalid, match="not the ETag"):
        entries.parse_etag("W/nonsense")
    assert entries.parse_etag('W/"4-2"') == entries.Base(4, 2)


def test_uuids_are_of_version_seven_and_in_order_of_time() -> None:
    made = [new_uuid(1_800_000_000_000_000 + n * 1000) for n in range(50)]
    assert made == sorted(made)
    assert {u[14] for u in made} == {"7"}
    assert {u[19] for u in made} <= set("89ab")


def test_a_comparison_shows_shared_fields_of_then_beside_the_text_of_then(house: House) -> None:
    page = house.page("Lamp")
    save(house, page, {"picture": picture(house, "One")})
    save(house, page, {"title": "Lamp two"})
    found = house.desk.read(house.who("ida"), lambda v: show_comparison.comparison(v, page, "en", "1", "2"))
    assert [f["field"] for f in found["fields"]] == ["title", "slug", "picture"]
    assert found["before"]["label"] == "revision 1"
    with pytest.raises(NotFound, match="neither a revision nor a stage"):
        house.desk.read(house.who("ida"), lambda v: show_comparison.comparison(v, page, "en", "then", "now"))


def test_history_and_events_name_who_when_and_why(house: House) -> None:
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")], note="Season"))
    found = house.desk.read(house.who("ida"), lambda v: show_history.history(v, page, "en"))
    assert [e["kind"] for e in found["events"]] == [
        "dispatch.gone",
        "review.signed",
        "review.submitted",
        "entry.started",
    ]
    assert [e["by"] for e in found["events"]] == ["Ida", "Oda", "Wim", "Wim"]
    assert [s["stage"] for s in found["standings"]] == ["release", "review"]
    assert found["standings"][1]["until"]
