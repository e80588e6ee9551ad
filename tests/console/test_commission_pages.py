"""Commissions in the browser: entries are collected where one meets them, and sent together."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import httpx
import pytest
from playwright.sync_api import Route, expect

from tests.conftest import Running
from tests.console.conftest import Open


def test_entries_are_collected_from_an_entry_a_list_and_the_outline_counted_and_sent(
    running: Running, open_as: Open
) -> None:
    name = f"Collected {uuid4().hex[:6]}"
    first = running.notice(f"First of {name}", "ida")
    second = running.notice(f"Second of {name}", "ida")
    page = open_as("ida", f"/entries/{first.id}/en")
    page.get_by_role("button", name="More actions").click()
    page.get_by_role("button", name="Add to translation…").click()
    dialog = page.get_by_role("dialog", name="Add to translation")
    dialog.get_by_role("combobox", name="Commission").select_option(label="A new one")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text(f"1 entry added to “{name}”.")).to_be_visible()
    page.goto(f"{running.url}/entries")
    page.get_by_role("checkbox", name=f"Second of {name}").check()
    held: list[Route] = []
    asked = re.compile(r"/api/commissions\?")
    page.route(asked, lambda route: held.append(route))
    page.get_by_role("button", name="Add to translation…").click()
    # Whoever is in a hurry begins no other one only because the list is slow.
    add = page.get_by_role("dialog").get_by_role("button", name="Add", exact=True)
    expect(add).to_be_disabled()
    for route in held:
        route.continue_()
    page.unroute(asked)
    # The one that was begun last is the one that is most likely meant.
    add.click()
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page.get_by_role("heading", level=1, name=name)).to_be_visible()
    page.get_by_role("checkbox", name="Deutsch").check()
    page.get_by_role("checkbox", name="العربية").check()
    page.get_by_label("Who translates into العربية").select_option(label="Sami Nader")
    counts = page.get_by_role("table", name="Before it is sent")
    expect(counts.get_by_role("row", name="Deutsch")).to_contain_text("new")
    content = page.get_by_role("region", name="What is in it")
    content.get_by_role("button", name=f"Remove Second of {name}").click()
    expect(content.get_by_role("link")).to_have_count(1)
    page.get_by_role("button", name="Put back").click()
    expect(content.get_by_role("link")).to_have_count(2)
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("Sent: the jobs are made.")).to_be_visible()
    expect(page.get_by_text("Sami Nader").first).to_be_visible()
    made = {job.locale: job for job in running.as_("ida").jobs().items if job.name == name}
    assert {locale: job.translator for locale, job in made.items()} == {"de": "", "ar": "Sami Nader"}
    assert {one.id for one in made["de"].entries} == {first.id, second.id}
    # Whoever is to translate it falls ill: it goes to whoever writes the language, two weeks later, and back by one click.
    page.goto(f"{running.url}/translation/{made['ar'].id}")
    page.get_by_role("button", name="Assign…").click()
    dialog = page.get_by_role("dialog", name=f"Assign “{name}”")
    expect(dialog.get_by_role("button", name="Assign", exact=True)).to_be_disabled()
    dialog.get_by_label("Who does it").select_option(label="whoever writes this language")
    dialog.get_by_label("Due").fill("in two weeks")
    dialog.get_by_label("A note (optional)").fill("He is ill.")
    dialog.get_by_role("button", name="Assign", exact=True).click()
    expect(dialog).to_be_hidden()
    expect(page.get_by_text("by hand, as a file")).to_be_visible()
    moved = running.as_("ida").job(made["ar"].id)
    assert (moved.person, bool(moved.due)) == ("", True)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Sami Nader").first).to_be_visible()
    back = running.as_("ida").job(made["ar"].id)
    assert (back.person, back.due) == ("sami", "")


@pytest.fixture
def busy(running: Running) -> Iterator[str]:
    """The address of the bureau, which is at work for long."""
    bureau = running.demo.ports.url("bureau")
    httpx.post(f"{bureau}/pace", json={"seconds": 1000}).raise_for_status()
    yield bureau
    httpx.post(f"{bureau}/pace", json={"seconds": running.demo.seconds_a_unit}).raise_for_status()


def test_a_day_that_a_bureau_does_not_take_stays_said_on_the_job(
    running: Running, open_as: Open, busy: str
) -> None:
    name = f"Put off {uuid4().hex[:6]}"
    entry = running.notice(f"Notice of {name}", "ida")
    httpx.post(f"{busy}/trouble", json={"next": "keep day"}).raise_for_status()
    mina = running.as_("mina")
    made = mina.commission([entry.id], ["fr"], name=name, bureau="Saltmarsh Translations", due="2027-05-01")
    page = open_as("mina", f"/translation/{made.jobs[0].id}")
    expect(page.get_by_text("in work")).to_be_visible()
    page.get_by_role("button", name="Assign…").click()
    dialog = page.get_by_role("dialog", name=f"Assign “{name}”")
    dialog.get_by_label("Due").fill("2027-06-01")
    expect(dialog.get_by_role("status")).to_contain_text("Saltmarsh Translations is told of the other day.")
    dialog.get_by_role("button", name="Assign", exact=True).click()
    said = page.get_by_role("status").filter(has_text="still thinks that it is due on Sat 1 May")
    expect(said).to_contain_text("tell them yourself. The bureau takes no other day: The day is agreed.")
    # They agree to the day that was agreed before.
    page.get_by_role("button", name="Undo").click()
    expect(said).to_be_hidden()
    assert mina.job(made.jobs[0].id).due == "2027-05-01"
    mina.cancel_job(made.jobs[0].id)


def test_what_cannot_go_along_is_named_and_a_cancelled_one_is_opened_again(
    running: Running, open_as: Open
) -> None:
    name = f"Mixed {uuid4().hex[:6]}"
    ida = running.as_("ida")
    english = running.notice(f"English of {name}", "ida")
    german = ida.start("notice", {"title": f"Deutsch von {name}"}, locale="de")
    made = ida.open_commission(name)
    ida.put_into_commission(made.id, [english.id])
    page = open_as("ida", f"/entries/{german.id}/de")
    page.get_by_role("button", name="More actions").click()
    page.get_by_role("button", name="Add to translation…").click()
    dialog = page.get_by_role("dialog", name="Add to translation")
    dialog.get_by_role("combobox", name="Commission").select_option(label=name)
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(dialog).to_contain_text("is written in de, the others in en")
    dialog.get_by_role("button", name="Close").last.click()
    page.goto(f"{running.url}/translation/commissions/{made.id}")
    page.get_by_role("button", name="Cancel", exact=True).click()
    expect(page.get_by_text("cancelled").first).to_be_visible()
    page.get_by_role("button", name="Open again").first.click()
    expect(page.get_by_role("button", name="Send", exact=True)).to_be_disabled()
    # Of what is removed nothing goes out.
    ida.dispatch([{"id": english.id, "locale": "en", "verb": "remove"}])
    expect(page.get_by_text("removed or in the archive; stays behind")).to_be_visible()


@pytest.fixture
def of_french(running: Running) -> Iterator[str]:
    """Somebody who may commission translations into French alone, for the time of a test."""
    ida = running.as_("ida")
    mine: list[dict[str, Any]] = [{"name": "translation-reviewer", "locales": ["fr"]}, {"name": "staff"}]
    ida.set_roles_of("luc", [*mine, {"name": "translation-coordinator", "locales": ["fr"]}])
    yield "luc"
    ida.set_roles_of("luc", mine)


def test_whoever_may_commission_one_language_is_led_to_that_and_told_what_is_in_the_way_of_others(
    running: Running, open_as: Open, of_french: str
) -> None:
    name = f"Limited {uuid4().hex[:6]}"
    ida = running.as_("ida")
    entry = running.notice(name, "ida")
    page = open_as(of_french, f"/entries/{entry.id}/en")
    page.get_by_role("button", name="Translate…").click()
    dialog = page.get_by_role("dialog", name="Translate")
    expect(dialog.get_by_role("checkbox", name="Français")).to_be_checked()
    expect(dialog.get_by_role("checkbox", name="Deutsch")).to_be_disabled()
    expect(dialog).to_contain_text("for notice in de is missing. Ask Ida Marlow")
    made = ida.open_commission(name, shared=True)
    ida.put_into_commission(made.id, [entry.id])
    ida.change_commission(made.id, {"targets": [{"locale": "fr"}, {"locale": "de"}]})
    page.goto(f"{running.url}/translation/commissions/{made.id}")
    expect(page.get_by_role("table", name="Before it is sent")).to_contain_text("Ask Ida Marlow")
    ida.send_commission(made.id)
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
    expect(page.get_by_role("button", name="Cancel")).to_have_count(0)
    page.goto("about:blank")
    ida.cancel_commission(made.id)


def test_what_is_to_go_by_itself_is_set_up_and_sent_before_its_time(running: Running, open_as: Open) -> None:
    name = f"By itself {uuid4().hex[:6]}"
    page = open_as("ida", "/translation", expect=("422",))
    page.get_by_role("tab", name="Commissions").click()
    page.get_by_role("button", name="New standing commission…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_label("Français").check()
    dialog.get_by_label("Who translates into Français").select_option(label="Saltmarsh Translations")
    dialog.get_by_label("What goes").select_option(label="drafts, as they are saved")
    dialog.get_by_label("Minutes without a change").fill("0")
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(dialog).to_be_visible()
    dialog.get_by_label("Minutes without a change").fill("600")
    dialog.get_by_role("button", name="Add", exact=True).click()
    line = (
        page.get_by_role("region", name="Standing commissions").get_by_role("listitem").filter(has_text=name)
    )
    expect(line.get_by_text("drafts go after 600 minutes without a change")).to_be_visible()
    entry = running.notice(f"Changed under {name}")
    # It is seen to wait without being asked for.
    expect(line.get_by_text(re.compile("wait"))).to_be_visible()
    line.get_by_role("button", name="Send now").click()
    expect(page.get_by_text(re.compile(r"entr(y|ies) sent\."))).to_be_visible()
    expect(line.get_by_text("1 sent")).to_be_visible()
    jobs = [job for job in running.as_("ida").jobs().items if job.name.startswith(name)]
    assert [(job.locale, job.bureau) for job in jobs] == [("fr", "Saltmarsh Translations")]
    assert entry.id in [one.id for one in jobs[0].entries]
    page.on("dialog", lambda one: one.accept())
    line.get_by_role("button", name="End").click()
    expect(line).to_have_count(0)


def test_a_glossary_is_called_otherwise_takes_another_in_and_is_removed(
    running: Running, open_as: Open
) -> None:
    ida, mark = running.as_("ida"), uuid4().hex[:6]
    ours, theirs = ida.add_glossary(f"Ours {mark}"), ida.add_glossary(f"Theirs {mark}")
    ida.add_concept(theirs.id, [{"locale": "en", "text": f"oar {mark}", "status": "preferred"}])
    page = open_as("ida", "/translation")
    page.get_by_role("tab", name="Glossaries").click()
    page.locator("select", has=page.locator(f'option[value="{ours.id}"]')).select_option(value=ours.id)
    page.get_by_role("button", name="Look after…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill(f"Everybody's {mark}")
    dialog.get_by_label("Put another into it").select_option(label=f"Theirs {mark}")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text(f"“Theirs {mark}” is in “Everybody's {mark}” now.")).to_be_visible()
    expect(page.get_by_text(f"oar {mark}").first).to_be_visible()
    names = [one.name for one in ida.glossaries().items if mark in one.name]
    assert names == [f"Everybody's {mark}"]
    page.on("dialog", lambda one: one.accept())
    page.get_by_role("button", name="Look after…").click()
    dialog.get_by_role("button", name="Remove it").click()
    expect(dialog).to_be_hidden()
    assert [one for one in ida.glossaries().items if mark in one.name] == []


@pytest.fixture
def otherwise_coded(running: Running) -> Iterator[str]:
    """A bureau that is told to call French what it does not offer, for the time of a test."""
    ida = running.as_("ida")
    bureau = next(one for one in ida.bureaus().items if one.name == "Saltmarsh Translations")
    ida.change_bureau(bureau.id, {"codes": {**bureau.codes, "fr": "fr-CA"}})
    yield bureau.name
    ida.change_bureau(bureau.id, {"codes": bureau.codes})


def test_what_a_bureau_does_not_offer_is_said_before_anything_is_sent(
    running: Running, open_as: Open, otherwise_coded: str
) -> None:
    entry = running.notice(f"Offered {uuid4().hex[:6]}", "ida")
    page = open_as("ida", f"/entries/{entry.id}/en", expect=("422",))
    page.get_by_role("button", name="Translate…").click()
    dialog = page.get_by_role("dialog", name="Translate")
    french = dialog.get_by_role("checkbox", name="Français")
    send = dialog.get_by_role("button", name=re.compile("^(Send|Make)"))
    expect(dialog).to_contain_text("does not translate en into fr-CA, but into fr-FR")
    expect(dialog.get_by_role("checkbox", name="Deutsch")).to_be_checked()
    expect(french).not_to_be_checked()
    expect(french).to_be_disabled()
    expect(send).to_be_enabled()
    # Somebody else may do it; and whoever is chosen again is not sent what it does not do.
    who = dialog.get_by_label("Who does it")
    who.select_option(label="Tidewrack Texts")
    french.check()
    who.select_option(label=otherwise_coded)
    expect(dialog).to_contain_text("does not translate en into fr-CA, but into fr-FR")
    expect(french).to_be_checked()
    expect(send).to_be_disabled()
    french.uncheck()
    expect(send).to_be_enabled()
    # A day that is over is said as soon as it is named.
    due = dialog.get_by_label("Due", exact=True)
    due.fill("2020-01-31")
    expect(dialog.get_by_text("The due date Fri 31 Jan 2020 is past.")).to_be_visible()
    expect(send).to_be_disabled()
    due.fill("2099-01-31")
    expect(send).to_be_enabled()
    expect(dialog.get_by_text("is past.")).to_have_count(0)


def test_other_cells_of_the_grid_are_chosen_anew_when_the_dialog_was_put_off(
    running: Running, open_as: Open
) -> None:
    name = f"Put off {uuid4().hex[:6]}"
    running.notice(name, "ida")
    page = open_as("ida", "/translation")
    page.get_by_role("tab", name="Coverage").click()
    page.get_by_label("Words", exact=False).first.fill(name)
    for one, other in (("Français", "Deutsch"), ("Deutsch", "Français")):
        cell = page.get_by_role("checkbox", name=f"{name} into {one}")
        cell.check()
        page.get_by_role("button", name="Translate…").click()
        dialog = page.get_by_role("dialog", name="Translate")
        expect(dialog.get_by_role("checkbox", name=one)).to_be_checked()
        expect(dialog.get_by_role("checkbox", name=other)).not_to_be_checked()
        dialog.get_by_role("button", name="Cancel").click()
        cell.uncheck()
