"""The translator's table in the browser: an entry goes from missing to out in two languages, by people who only type."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open

pytestmark = pytest.mark.browser
BODY = '<p>The lamp burns at night. See <a href="https://harbour.example/">the quay</a>.</p>'
SENTENCES = {
    "ja": ("灯台の夜", "ランプは夜に灯る。", ("", "岸壁", "をご覧ください。")),
    "ar": ("ليلة المنارة", "يضيء المصباح ليلا.", ("انظر ", "الرصيف", ".")),
}


def sentence(page: Page, number: int) -> None:
    page.get_by_role("button", name=f"Translate sentence {number},").click()
    expect(page.get_by_role("textbox", name=re.compile("Translation of"))).to_be_focused()


def progress(page: Page, done: int, count: int) -> None:
    expect(
        page.get_by_role("status").filter(has_text=f"{done} of {count} sentences translated")
    ).to_be_visible()


@pytest.mark.parametrize("locale", ["ja", "ar"])
def test_an_entry_goes_from_missing_to_out_through_the_table(
    running: Running, open_as: Open, locale: str
) -> None:
    title, first, (before, words, after) = SENTENCES[locale]
    entry = running.notice(f"A night of lamps, {locale}", body=BODY)
    running.as_("wim").submit(entry.id, "en")
    running.as_("tomas").sign_off(entry.id, "en", 1)
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}])
    page = open_as("ida", f"/entries/{entry.id}/en", expect=("422", "ERR_FAILED"))
    page.get_by_role("button", name="Translate…", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text(re.compile("words in")).first).to_be_visible()
    for name in ("Français", "Deutsch", "日本語", "العربية"):
        wanted = name == {"ja": "日本語", "ar": "العربية"}[locale]
        dialog.get_by_role("checkbox", name=re.compile(name)).set_checked(wanted)
    dialog.get_by_label("Who does it").select_option(label="by hand, as a file")
    dialog.get_by_role("button", name="Create the jobs").click()
    expect(dialog).to_be_hidden()
    job = next(
        j for j in running.as_("ida").jobs().items if j.locale == locale and j.entries[0].id == entry.id
    )
    page.goto(f"{running.url}/translation/{job.id}")
    page.get_by_role("link", name="Translate here").click()
    progress(page, 0, 3)
    sentence(page, 1)
    box = page.get_by_role("textbox", name=re.compile("Translation of"))
    expect(box).to_have_attribute("dir", "rtl" if locale == "ar" else "ltr")  # type: ignore[arg-type]
    page.keyboard.type(title)
    page.keyboard.press("Control+Enter")
    # The next open sentence is gone to, and typed into at once: no letter is lost.
    page.keyboard.type(first[:-1])
    progress(page, 1, 3)
    expect(page.get_by_text("as the source does")).to_be_visible()
    page.keyboard.type(first[-1])
    expect(page.get_by_text("as the source does")).to_be_hidden()
    page.keyboard.press("Control+Enter")
    progress(page, 2, 3)
    # The link has to be there: without it the sentence cannot be finished.
    page.keyboard.type(before + words)
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("tag missing").first).to_be_visible()
    for _ in words:
        page.keyboard.press("Shift+ArrowRight" if locale == "ar" else "Shift+ArrowLeft")
    marked = "(({from, to}) => to - from)(document.querySelector('.ProseMirror').editor.state.selection)"
    eventually(lambda: page.evaluate(marked) == len(words))
    # Whoever mends it and goes on at once need not wait until that was looked at, or hear that it cannot be.
    page.route("**/segments/check", lambda route: route.abort())
    page.keyboard.press("Alt+1")
    page.keyboard.press("Control+End")
    page.keyboard.type(after)
    page.keyboard.press("Control+Enter")
    progress(page, 3, 3)
    page.get_by_role("button", name="Put in what is translated").click()
    expect(page.get_by_text("2 merged, 0 drifted, 0 need a choice.")).to_be_visible()
    page.get_by_role("button", name=re.compile("Accept the")).click()
    expect(page.get_by_text("Accepted and signed off.")).to_be_visible()
    ida = running.as_("ida")
    fields = ida.entry(entry.id, locale).fields
    assert fields["title"] == title
    assert re.sub(r"<a [^>]*>", "<a>", str(fields["body"])) in (
        f"<p>{first}{before}<a>{words}</a>{after}</p>",
        f"<p>{first} {before}<a>{words}</a>{after}</p>",
    )
    # A notice takes two sign-offs.
    running.as_("tomas").sign_off(entry.id, locale, 1)
    page.goto(f"{running.url}/entries/{entry.id}/{locale}")
    page.get_by_role("button", name="Release or plan").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Release")).click()
    eventually(
        lambda: any(b.stage == "release" and b.revision == 1 for b in ida.entry(entry.id, locale).rail)
    )


def test_two_translate_one_job_and_see_each_other(running: Running, open_as: Open) -> None:
    entry = running.notice("Two at one table", body=BODY)
    job = running.as_("mina").commission([entry.id], ["de"]).jobs[0]
    hanne = open_as("hanne", f"/translation/{job.id}/table", expect=("412",))
    ida = open_as("ida", f"/translation/{job.id}/table")
    sentence(hanne, 1)
    sentence(ida, 1)
    ida.keyboard.type("Zu zweit")
    ida.keyboard.press("Control+Enter")
    progress(hanne, 1, 3)
    hanne.keyboard.type("Zwei an einem Tisch")
    hanne.keyboard.press("Control+Enter")
    expect(hanne.get_by_text("ida wrote here meanwhile:")).to_be_visible()
    hanne.get_by_role("button", name="Keep what I typed").click()
    expect(ida.get_by_role("button", name="Translate sentence 1,")).to_have_text("Zwei an einem Tisch")
    # What is typed is kept when somebody goes on to another sentence.
    sentence(hanne, 2)
    hanne.keyboard.type("Die Lampe brennt")
    hanne.keyboard.press("Alt+ArrowDown")
    expect(hanne.get_by_role("button", name="Translate sentence 2,")).to_have_text("Die Lampe brennt")
    assert running.as_("mina").job(job.id).state == "in work"


def test_a_unit_is_sent_back_with_a_reason_and_its_translator_is_told(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Sent back in German", body="<p>One.</p>")
    job = running.as_("mina").commission([entry.id], ["de"]).jobs[0]
    hanne = running.as_("hanne")
    for line in hanne.segments(job.id).items:
        place = {"entry": line.entry, "key": line.key, "segment": line.segment}
        hanne.save_segment(job.id, place, f"Deutsch: {line.segment}.")
    hanne.deliver(job.id)
    page = open_as("ida", f"/translation/{job.id}/table")
    sentence(page, 1)
    page.get_by_role("button", name="Send back…").first.click()
    page.get_by_label("Why it is to be translated anew").fill("Say it in full.")
    page.get_by_role("button", name="Send back…").last.click()
    expect(page.get_by_text("Translate anew: Say it in full.")).to_be_visible()
    eventually(lambda: running.mails("Sent back: Sent back in German (de)"))


def test_the_page_and_the_table_lead_to_each_other(running: Running, open_as: Open) -> None:
    job = next(j for j in running.as_("ida").jobs().items if j.name == "Lights and Signals in French")
    page = open_as("ida", f"/translation/{job.id}/table", expect=("",))
    frame = page.frame_locator("iframe")
    expect(frame.get_by_role("heading", level=1, name="The fog bell")).to_be_visible()
    sentence(page, 4)
    marked = "[...CSS.highlights.get('hawthorn-words') ?? []].map((one) => String(one)).join()"
    inside = page.frames[-1]
    eventually(lambda: "clockwork" in str(inside.evaluate(marked)))
    frame.get_by_text("It rang every thirty seconds").first.click(modifiers=["Alt"])
    expect(page.get_by_label("Translation of Summary")).to_be_focused()


def test_what_was_translated_before_is_offered_and_filled(running: Running, open_as: Open) -> None:
    body = "<p>Entry is free on the first Sunday of the month.</p><p>The fog bell is rung at noon.</p>"
    entry = running.notice("Offered at the table", body=body)
    job = running.as_("mina").commission([entry.id], ["de"]).jobs[0]
    page = open_as("hanne", f"/translation/{job.id}/table")
    page.get_by_role("button", name="Fill from the memories").click()
    filled = page.get_by_role("button", name="Translate sentence 3,")
    expect(filled).to_have_text("Die Nebelglocke wird um zwölf Uhr geläutet.")
    expect(page.get_by_text("from memory, not looked at")).to_be_visible()
    progress(page, 0, 3)
    sentence(page, 2)
    offers = page.get_by_role("list", name="From the memories")
    expect(offers.locator("del").filter(has_text="last")).to_be_visible()
    page.keyboard.press("Alt+V")
    expect(page.get_by_label("Translation of Text")).to_have_text(
        "Der Eintritt ist am letzten Sonntag jedes Monats frei."
    )
    page.keyboard.press("Control+Enter")
    progress(page, 1, 3)
    page.keyboard.press("Control+Enter")
    progress(page, 2, 3)
    expect(page.get_by_text("from memory, not looked at")).to_be_hidden()


def test_a_memory_is_found_in_mended_and_an_import_undone(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    page = open_as("mina", "/translation", expect=("422",))
    page.get_by_role("tab", name="Memories").click()
    page.get_by_role("button", name="Add a memory").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Of the browser")
    page.get_by_role("dialog").get_by_role("button", name="Add a memory").click()
    expect(page.get_by_text("Nothing in it fits.")).to_be_visible()
    pair = '<tuv xml:lang="en"><seg>The quay</seg></tuv><tuv xml:lang="fr"><seg>Le quai</seg></tuv>'
    file = tmp_path / "quay.tmx"
    file.write_text(f'<tmx version="1.4"><header srclang="en"/><body><tu>{pair}</tu></body></tmx>')
    page.get_by_label("Import TMX").set_input_files(file)
    expect(page.get_by_text("Le quai").first).to_be_visible()
    page.get_by_role("button", name="Change").first.click()
    page.get_by_label("Translation of The quay").fill("Le quai du port")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("Le quai du port").first).to_be_visible()
    broken = tmp_path / "broken.tmx"
    broken.write_text("<tmx><body>")
    page.get_by_label("Import TMX").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("not well-formed")
    page.get_by_role("button", name="Imports").click()
    page.get_by_role("button", name="Undo quay.tmx").click()
    # What somebody changed since stays.
    expect(page.get_by_text("The import is undone.")).to_be_visible()
    expect(page.get_by_text("Le quai du port").first).to_be_visible()


def test_a_translator_asks_in_the_table_and_the_answer_comes_to_them(running: Running, open_as: Open) -> None:
    entry = running.notice("Asked at the table", body="<p>Free for all.</p>")
    job = running.as_("mina").commission([entry.id], ["de"]).jobs[0]
    hanne = open_as("hanne", f"/translation/{job.id}/table")
    sentence(hanne, 2)
    hanne.get_by_role("button", name="Ask…").click()
    hanne.get_by_label("A question about this sentence").fill("For dogs, too?")
    hanne.get_by_role("button", name="Send", exact=True).click()
    expect(hanne.get_by_text("not answered yet")).to_be_visible()
    mina = open_as("mina", f"/translation/{job.id}")
    mina.get_by_role("button", name="Answer For dogs, too?").click()
    mina.get_by_label("Answer to: For dogs, too?").fill("Not for dogs.")
    mina.get_by_role("button", name="Send", exact=True).click()
    expect(hanne.get_by_text("Not for dogs.")).to_be_visible()
    eventually(lambda: running.mails("Answered: Asked at the table (de)"))


def test_words_of_a_glossary_are_marked_and_put_in_by_a_key(running: Running, open_as: Open) -> None:
    ida = running.as_("ida")
    page_of = running.notice("The harbour lamp in winter", "ida", body="<p>The keeper lights the lamp.</p>")
    made = ida.commission([page_of.id], ["fr"])
    page = open_as("ida", f"/translation/{made.jobs[0].id}/table")
    page.get_by_role("button", name="Sentence 2").click()
    words = page.get_by_role("list", name="Words of the glossary")
    expect(words).to_contain_text("keeper")
    expect(words).to_contain_text("veilleur is not to be used")
    target = page.get_by_role("textbox", name="Translation of")
    target.press_sequentially("Le ")
    target.press("Alt+g")
    target.press_sequentially(" allume la lanterne.")
    expect(page.get_by_text("“lanterne” is not to be used, but lampe")).to_be_visible()
    target.press("Backspace")
    for _ in "lanterne":
        target.press("Backspace")
    target.press("Alt+g")
    target.press_sequentially(".")
    expect(target).to_contain_text("Le gardien allume la lampe.")
    expect(page.get_by_text("is not to be used, but lampe")).to_have_count(0)


def test_a_concept_is_written_found_removed_and_put_back(running: Running, open_as: Open) -> None:
    page = open_as("mina", "/translation")
    page.get_by_role("tab", name="Glossaries").click()
    page.get_by_role("button", name="Add a concept").click()
    dialog = page.get_by_role("dialog", name="Add a concept")
    dialog.get_by_label("What it is").fill("Holds a ship.")
    dialog.get_by_label("Term 1", exact=True).fill("anchor")
    dialog.get_by_label("Term 2", exact=True).fill("ancre")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).to_have_count(0)
    page.get_by_label("Words in any language").fill("ANCRE")
    expect(page.get_by_text("Holds a ship.")).to_be_visible()
    page.get_by_role("button", name="Remove anchor").click()
    expect(page.get_by_text("Nothing in it fits.")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_text("Holds a ship.")).to_be_visible()


def test_what_a_machine_suggests_is_taken_by_a_key_and_what_it_drafted_is_marked(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Suggested: a lamp", body="<p>The lamp.</p>")
    job = running.as_("mina").commission([entry.id], ["fr"]).jobs[0]
    page = open_as("ida", f"/translation/{job.id}/table")
    sentence(page, 1)
    expect(page.get_by_role("button", name="Use machine")).to_be_visible()
    page.keyboard.press("Alt+m")
    expect(page.get_by_role("textbox", name=re.compile("Translation of"))).to_contain_text("lampe")
    page.keyboard.press("Control+Enter")
    progress(page, 1, 2)
    mina = running.as_("mina")
    made = mina.open_commission("By machine")
    mina.put_into_commission(made.id, [running.notice("Drafted: a lamp", body="<p>The lamp.</p>").id])
    mina.change_commission(made.id, {"targets": [{"locale": "fr"}], "machine": True})
    mina.send_commission(made.id)
    drafted = next(one for one in mina.jobs().items if one.name == "By machine")
    page.goto(f"{running.url}/translation/{drafted.id}/table")
    expect(page.get_by_text("from a machine, not looked at").first).to_be_visible()
    progress(page, 0, 2)
