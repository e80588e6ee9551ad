"""Every route by every role, against a table: who may, and who is refused."""

from __future__ import annotations

import inspect
import json
import re
import secrets
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext, suppress
from pathlib import Path
from uuid import uuid4

import httpx
import pytest

from hawthorn.client import Client, Refusal
from hawthorn.client.calls import Calls
from hawthorn.client.requests import Request, call
from hawthorn.messages import ENGLISH
from hawthorn.service import openapi
from tests.conftest import Running

PEOPLE = ["ida", "oda", "wim", "rhea", "jonas", "mina", "luc", "hanne", "staff", "site", "helper"]
DOCUMENT = json.loads(openapi.FILE.read_text("utf-8"))

# One letter for each of PEOPLE: y may (whatever else is wrong with the request), n is refused with 403.
# Staff hold nothing but reading; site is a reading program with a key, helper an assistant with one.
#                                   i o w r j m l h s s h
TABLE = {
    "log_out": None,  # would end the session of every other test
    "me": "y y y y y y y y y y y",
    "people": "y y y y y y y y y y y",
    "why": "y y y y y y y y y y y",
    "list_entries": "y y y y y y y y y y y",
    "count_entries": "y y y y y y y y y y y",
    "look_up": "y y y y y y y y y y y",
    "source_entry": "y y y y y y y y y y y",
    "entry": "y y y y y y y y y y y",
    "words_by_assistants": "y y y y y y y y y y y",
    "entry_history": "y y y y y y y y y y y",
    "compare_entry": "y y y y y y y y y y y",
    "my_work": "y y y y y y y y y y y",
    "setup": "y y y y y y y y y y y",
    "type_schema": "y y y y y y y y y y y",
    "fetch_file": "y y y y y y y y y y y",
    "list_dispatches": "y y y y y y y y y y y",
    "dispatch": "y y y y y y y y y y y",
    "check_dispatch": "y y y y y y y y y y y",
    "list_jobs": "y y y y y y y y y y y",
    "job": "y y y y y y y y y y y",
    "export_job": "y y y y y y y y y y y",
    "export_jobs": "y y y y y y y y y y y",
    "translation_grid": "y y y y y y y y y y y",
    "translation_totals": "y y y y y y y y y y y",
    "figures": "y y y y y y y y y y y",
    "behind_figures": "y y y y y y y y y y y",
    "entry_coverage": "y y y y y y y y y y y",
    "still_fits": "y y y n n n n n n n y",
    "estimate": "y y y y y y y y y y y",
    "start_entry": "y y y n n n n n n n y",
    "save_entry": "y y y n n n n n n n y",
    "restore_entry": "y y y n n n n n n n y",
    "settle_entry": "y y y n n n n n n n y",
    "submit": "y y y n n n n n n n y",
    "take_back": "n n n n n n n n n n n",  # only who submitted it, and that is nobody here
    "sign_off": "y y n y n n n n n n n",
    "send_back": "y y n y n n n n n n n",
    "make_dispatch": "y n n n y n n n n n n",
    "list_webhooks": "y n n n n n n n n n n",
    "add_webhook": "y n n n n n n n n n n",
    "change_webhook": "y n n n n n n n n n n",
    "end_webhook": "y n n n n n n n n n n",
    "switch_webhook": "y n n n n n n n n n n",
    "rotate_secret": "y n n n n n n n n n n",
    "try_webhook": "y n n n n n n n n n n",
    "list_deliveries": "y n n n n n n n n n n",
    "deliver_again": "y n n n n n n n n n n",
    "list_differences": "y y y y y y y y y y y",
    "list_dues": "y y y y y y y y y y y",
    "list_calendars": "y y y y y y y y y y y",
    "add_calendar": "y y y y y y y y y y y",
    "renew_calendar": "y y y y y y y y y y y",
    "end_calendar": "y y y y y y y y y y y",
    "spread": "y n n n y n n n n n n",
    "check_spread": "y y y y y y y y y y y",
    "quiet_periods": "y y y y y y y y y y y",
    "quiet_spans": "y y y y y y y y y y y",
    "check_quiet_period": "y y y y y y y y y y y",
    "add_quiet_period": "y n n n n n n n n n n",
    "change_quiet_period": "y n n n n n n n n n n",
    "end_quiet_period": "y n n n n n n n n n n",
    "cancel_dispatch": "y n n n y n n n n n n",
    "replan_dispatch": "y n n n y n n n n n n",
    "change_dispatch": "y n n n y n n n n n n",
    "check_open_dispatch": "y y y y y y y y y y y",
    "add_moves": "y y y n y n n n n n y",
    "drop_moves": "y y y n y n n n n n y",
    "write_inside": "y y y n n n n n n n y",
    "submit_dispatch": "y y y n n n n n n n y",
    "take_dispatch_back": "y y y y y y y y y y y",  # it does not wait, which whoever sees it is told
    "sign_dispatch": "y y n y n n n n n n n",
    "send_dispatch_back": "y y n y n n n n n n n",
    "catch_up": "y y y n n n n n n n y",
    "keep_settlements": "y y y n n n n n n n y",
    "plan_dispatch": "y n n n y n n n n n n",
    "send_dispatch": "y n n n y n n n n n n",
    "reopen_dispatch": "y n n n y n n n n n n",
    "check_undo": "y y y y y y y y y y y",
    "undo_dispatch": "y n n n y n n n n n n",
    "commission": "y n n n n y n n n n n",
    "import_jobs": "y y y y y y y y y y y",
    "bring_job_returned": "y y n n n y y n n n y",
    "choose_unit": "y n n n n n y n n n n",
    "accept_job": "y n n n n n y n n n n",
    "suggest_segment": "y y n n n y y n n n y",
    "give_own_file": "y y n n n y y n n n y",
    "job_segments": "y y y y y y y y y y y",
    "check_segment": "y y y y y y y y y y y",
    "save_segment": "y y n n n y y n n n y",
    "split_segment": "y y n n n y y n n n y",
    "join_segments": "y y n n n y y n n n y",
    "deliver_job": "y y n n n y y n n n y",
    "send_unit_back": "y n n n n n y n n n n",
    "segment_matches": "y y y y y y y y y y y",
    "fill_job": "y y n n n y y n n n y",
    "list_commissions": "y y y y y y y y y y y",
    "show_commission": "y y y y y y y y y y y",
    "estimate_commission": "y y y y y y y y y y y",
    "open_commission": "y n n n n y n n n n n",
    "change_commission": "y n n n n y n n n n n",
    "put_into_commission": "y n n n n y n n n n n",
    "take_out_of_commission": "y n n n n y n n n n n",
    "send_commission": "y n n n n y n n n n n",
    "cancel_commission": "y n n n n y n n n n n",
    "reopen_commission": "y n n n n y n n n n n",
    "list_standing_commissions": "y n n n n y n n n n n",
    "add_standing_commission": "y n n n n y n n n n n",
    "change_standing_commission": "y n n n n y n n n n n",
    "end_standing_commission": "y n n n n y n n n n n",
    "send_standing_commission": "y n n n n y n n n n n",
    "list_glossaries": "y y y y y y y y y y y",
    "add_glossary": "y n n n n y n n n n n",
    "change_glossary": "y n n n n y n n n n n",
    "end_glossary": "y n n n n y n n n n n",
    "merge_glossaries": "y n n n n y n n n n n",
    "glossary_concepts": "y y y n n y y y n n y",
    "add_concept": "y n n n n y n n n n n",
    "write_concept": "y n n n n y n n n n n",
    "remove_concepts": "y n n n n y n n n n n",
    "export_glossary": "y y y n n y y y n n y",
    "import_glossary": "y n n n n y n n n n n",
    "glossary_imports": "y y y n n y y y n n y",
    "undo_glossary_import": "y n n n n y n n n n n",
    "list_memories": "y y y y y y y y y y y",
    "add_memory": "y n n n n y n n n n n",
    "change_memory": "y n n n n y n n n n n",
    "end_memory": "y n n n n y n n n n n",
    "merge_memories": "y n n n n y n n n n n",
    "memory_sentences": "y y y n n y y y n n y",
    "edit_memory_sentence": "y n n n n y n n n n n",
    "remove_memory_sentences": "y n n n n y n n n n n",
    "export_memory": "y y y n n y y y n n y",
    "import_memory": "y n n n n y n n n n n",
    "memory_imports": "y y y n n y y y n n y",
    "undo_memory_import": "y n n n n y n n n n n",
    "send_job_again": "y n n n n y n n n n n",
    "ask_about_segment": "y y n n n y y n n n y",
    "answer_question": "y n n n n y n n n n n",
    "reopen_job": "y n n n n y n n n n n",
    "assign_job": "y n n n n y n n n n n",
    "cancel_job": "y n n n n y n n n n n",
    "upload_file": "y y y n n y y y n n y",
    "define_type": "y n n n n n n n n n n",
    "list_bureaus": "y n n n n n n n n n n",
    "add_bureau": "y n n n n n n n n n n",
    "change_bureau": "y n n n n n n n n n n",
    "end_bureau": "y n n n n n n n n n n",
    "try_bureau": "y n n n n n n n n n n",
    "new_bureau_secret": "y n n n n n n n n n n",
    "call_of_bureau": "y y y y y y y y y y y",  # only what a bureau has signed is heard, whoever else is logged in
    "delete_type": "y n n n n n n n n n n",
    "uses_of_type": "y n n n n n n n n n n",
    "delete_set": "y n n n n n n n n n n",
    "check_type": "y n n n n n n n n n n",
    "type_definition": "y y y y y y y y y y y",
    "define_set": "y n n n n n n n n n n",
    "check_set": "y n n n n n n n n n n",
    "list_strands": "y y y y y y y y y y y",
    "fork_strand": "y y y n n n n n n n y",
    "drop_strand": "y y y n n n n n n n y",
    "reopen_strand": "y y y n n n n n n n y",
    "proposal": "y y y y y y y y y y y",
    "check_proposal": "y y y y y y y y y y y",
    "accept_proposal": "y y y n n n n n n n y",
    "copy_entry": "y y y n n n n n n n y",
    "bring_back_entry": "y y y y y y y y y y y",  # nothing is removed here
    "list_templates": "y y y y y y y y y y y",
    "make_template": "y y y n n n n n n n y",
    "start_from_template": "y y y n n n n n n n y",
    "end_template": "y y y y y y y y y y y",  # there is no such template
    "list_tags": "y y y y y y y y y y y",
    "list_topics": "y y y y y y y y y y y",
    "list_lists": "y y y y y y y y y y y",
    "save_list": "y y y y y y y y y y y",
    "change_list": "y y y y y y y y y y y",  # there is no such list
    "drop_list": "y y y y y y y y y y y",  # there is no such list
    "check_bulk": "y y y y y y y y y y y",  # each entry has an answer of its own
    "bulk": "y y y y y y y y y y y",
    "define_workflow": "y n n n n n n n n n n",
    "check_workflow": "y n n n n n n n n n n",
    "end_workflow": "y n n n n n n n n n n",
    "choose_workflows": "y n n n n n n n n n n",
    "check_choices": "y n n n n n n n n n n",
    "move_on": "y y y n n n n n n n y",
    "override": "n n n n n n n n n n n",  # the gate of a notice lets nobody
    "list_comments": "y y y y y y y y y y y",
    "make_comment": "y y y y y y y y y n y",
    "list_dispatch_comments": "y y y y y y y y y y y",
    "make_dispatch_comment": "y y y y y y y y y n y",
    "reply_to_comment": "y y y y y y y y y n y",
    "resolve_comment": "y y y y y y y y y n y",
    "reopen_comment": "y y y y y y y y y n y",
    "assign": "y y y y y y n n n n y",
    "end_assignment": "y y y y y y n n n n y",
    "be_present": "y y y y y y y y y y y",
    "who_is_present": "y y y y y y y y y y y",
    "leave_page": "y y y y y y y y y y y",
    "list_notifications": "y y y y y y y y y y y",
    "see_notifications": "y y y y y y y y y y y",
    "notification_choices": "y y y y y y y y y y y",
    "choose_notifications": "y y y y y y y y y y y",
    "invite_person": "y n n n n n n n n n n",
    "invite_again": "y n n n n n n n n n n",
    "set_roles_of": "y n n n n n n n n n n",
    "end_person": "y n n n n n n n n n n",
    "tasks_of_person": "y n n n n n n n n n n",
    "reassign_tasks": "y n n n n n n n n n n",
    "end_factor_of": "y n n n n n n n n n n",
    "sessions_of": "y n n n n n n n n n n",
    "list_roles": "y y y y y y y y y y y",
    "define_roles": "y n n n n n n n n n n",
    "end_role": "y n n n n n n n n n n",
    "account": "y y y y y y y y y y y",
    "set_profile": "y y y y y y y y y y y",
    "change_password": "y y y y y y y y y y y",
    "begin_second_factor": "y y y y y y y y y y y",
    "confirm_second_factor": "y y y y y y y y y y y",
    "end_second_factor": "y y y y y y y y y y y",
    "list_passkeys": "y y y y y y y y y y y",
    "begin_passkey": "y y y y y y y y y y y",
    "add_passkey": "y y y y y y y y y y y",
    "rename_passkey": "y y y y y y y y y y y",  # there is no such passkey
    "end_passkey": "y y y y y y y y y y y",
    "list_sessions": "y y y y y y y y y y y",
    "end_session": "y y y y y y y y y y y",  # there is no such session
    "look_at_invitation": None,  # needs no log-in; has tests of its own
    "accept_invitation": None,
    "calendar": None,  # its address is the secret; has tests of its own
    "look_at_first_run": None,
    "make_first_person": None,
    "list_keys": "y n n n n n n n n n n",
    "issue_key": "y n n n n n n n n n n",
    "end_key": "y n n n n n n n n n n",
    "list_packages": "y y y n n n n y n n y",
    "make_package": "y n n n n n n n n n n",
    "give_package": "y n n n n n n n n n n",
    "entries_sheet": "y y y y y y y y y y y",
    "give_rows": "y y y n n n n y n n y",
    "map_rows": "y n n n n n n n n n n",
    "list_mappings": "y y y n n n n y n n y",
    "mapping": "y y y n n n n y n n y",
    "keep_mapping": "y y y n n n n y n n y",
    "drop_mapping": "y y y n n n n y n n y",
    "package": "y n n n n n n n n n n",
    "fetch_package": "y n n n n n n n n n n",
    "look_at_package": "y n n n n n n n n n n",
    "run_package": "y n n n n n n n n n n",
    "cancel_package": "y n n n n n n n n n n",
    "undo_package": "y n n n n n n n n n n",
    "drop_package": "y n n n n n n n n n n",
    "receipt": "y y y y y y y y y y y",
    "receipt_key": "y y y y y y y y y y y",
    "list_backups": "y n n n n n n n n n n",
    "person_data": "y n n n n n n n n n n",
    "check_forget_person": "y n n n n n n n n n n",
    "forget_person": "y n n n n n n n n n n",
    "setup_document": "y n n n n n n n n n n",
    "check_setup": "y n n n n n n n n n n",
    "apply_setup": "y n n n n n n n n n n",
    "assistants": "y n n n n n n n n n n",
    "pause_assistant": "y n n n n n n n n n n",
    "resume_assistant": "y n n n n n n n n n n",
    "check_assistant_undo": "y n n n n n n n n n n",
    "undo_assistant": "y n n n n n n n n n n",
    "list_events": "y n n n n n n n n n n",
    "health": "y y y y y y y y y y y",
    "log_in": None,
    "begin_passkey_log_in": None,
    "log_in_with_passkey": None,
    "provider": None,  # needs no log-in; has tests of its own, as those that follow
    "leave_for_provider": None,
    "return_from_provider": None,
    "end_sessions_by_provider": None,
    "disconnect_person": "y n n n n n n n n n n",  # nobody is connected
    "log_ins": "y n n n n n n n n n n",
    "read_entries": "y y y y y y y y y y y",
    "read_atom": "y y y y y y y y y y y",
    "read_json_feed": "y y y y y y y y y y y",
    "read_site_map": "y y y y y y y y y y y",
    "read_site_map_part": "y y y y y y y y y y y",
    "read_robots": "y y y y y y y y y y y",
    "read_redirects": "y y y y y y y y y y y",
    "read_types": "y y y y y y y y y y y",
    "read_openapi": "y y y y y y y y y y y",
    "read_head": "y y y y y y y y y y y",
    "read_changed": "y y y y y y y y y y y",
    "read_counts": "y y y y y y y y y y y",
    "read_questions": "y y y y y y y y y y y",
    "read_entry": "y y y y y y y y y y y",
    "unlock_entry": "y y y y y y y y y y y",
    "limit_entry": "y n n n y n n n n n n",
    "list_audiences": "y y y y y y y y y y y",
    "read_page": "y y y y y y y y y y y",
    "read_file": "y y y y y y y y y y y",
    "read_rendition": "y y y y y y y y y y y",
    "read_outline": "y y y y y y y y y y y",
    "follow_changes": None,  # is for those who hold a preview; has a test of its own
    "last_change": None,
    "outline_level": "y y y y y y y y y y y",
    "search_outline": "y y y y y y y y y y y",
    "outline_trail": "y y y y y y y y y y y",
    "move_in_outline": "y y y n n n n n n n y",
    "copy_in_outline": "y y y n n n n n n n y",
    "list_library": "y y y y y y y y y y y",
    "list_folders": "y y y y y y y y y y y",
    "make_folder": "y y y n n n n y n n y",
    "change_folder": "y y y n n n n y n n y",
    "remove_folder": "y y y n n n n y n n y",
    "file_entries": "y y y n n n n n n n y",
    "file_used": "y y y y y y y y y y y",
    "define_crops": "y n n n n n n n n n n",
    "define_locales": "y n n n n n n n n n n",
    "check_locales": "y n n n n n n n n n n",
    "list_uploads": "y y y y y y y y y y y",
    "begin_upload": "y y y n n y y y n n y",
    "upload_state": "y y y y y y y y y y y",  # there is no such upload
    "upload_offset": "y y y y y y y y y y y",
    "append_upload": "y y y y y y y y y y y",
    "drop_upload": "y y y y y y y y y y y",
    "define_sites": "y n n n n n n n n n n",
    "check_site": "y n n n n n n n n n n",
    "open_preview": "y y y y y y y y y y y",
    "type_preview": "y y y y y y y y y y y",  # there is no such preview
    "close_preview": "y y y y y y y y y y y",
    "page_addresses": "y y y y y y y y y y y",
    "shown_in": "y y y y y y y y y y y",
    "list_links": "y y y y y y y y y y y",
    "give_link": "y y y n n n n n n n y",
    "take_link_back": "y y y n n n n n n n y",
    "check_search_and_sharing": "y y y y y y y y y y y",
    "stream_events": None,  # has a test of its own
}
OPERATIONS = {o["operationId"]: (m, p) for p, ms in DOCUMENT["paths"].items() for m, o in ms.items()}


@pytest.fixture(scope="module", autouse=True)
def without_people_of_their_own(running: Running) -> Iterator[None]:
    """Roles of the demo that nobody of it holds alone: somebody of the staff, a reading program, an assistant."""
    ida = running.as_("ida")
    staff = Client(running.url)
    # These tests may come in more than one part, among others: each part has somebody new, as whoever was ended keeps the name.
    handle = f"staff-{secrets.token_hex(4)}"
    made = ida.invite_person(handle, "Stella Faff", f"{handle}@pellgrave.example", [{"name": "staff"}])
    staff.accept_invitation(made.address.rsplit("=", 1)[1], "the tide turns")
    keys = [
        ida.issue_key("Table: site", "reader", stages=["draft", "review", "release"]),
        ida.issue_key("Table: helper", "assistant", kind="assistant", stages=["draft", "review", "release"]),
    ]
    clients = {
        "staff": staff,
        "site": Client(running.url, keys[0].secret),
        "helper": Client(running.url, keys[1].secret),
    }
    running._clients |= clients
    yield
    for name, client in clients.items():
        running._clients.pop(name)
        client.close()
    for key in keys:
        ida.end_key(key.key.id)
    ida.end_person(handle)


@contextmanager
def things(running: Running) -> Iterator[dict[str, str]]:
    """Things for routes to be about: an entry in review by nobody of PEOPLE, a dispatch, a French job, a revision."""
    # Another name each time.
    part = secrets.token_hex(4)
    nell = running.as_("nell")
    entry = nell.start("notice", {"title": f"Everybody's notice {part}", "body": "<p>x</p>"})
    nell.save(entry.id, "en", {"body": "<p>y</p>"}, etag=entry.etag)
    nell.submit(entry.id, "en")
    nell.fork_strand(entry.id, "en", "beside")
    # By somebody and to somebody whom no row is about.
    running.as_("tomas").assign(entry.id, "en", "nell")
    planned = running.signed(f"Planned for access {part}")
    when = {"wall": "2098-01-01T09:00", "zone": "UTC"}
    dispatch = running.as_("ida").dispatch([{"id": planned.id, "locale": "en"}], when=when)
    other = running.as_("ida").dispatch([{"id": planned.id, "locale": "en"}], when=when)
    job = running.as_("mina").commission([entry.id], ["fr"]).jobs[0]
    page = nell.start("page", {"title": f"Everybody's page {part}"})
    template = f"Everybody's template {part}"
    folder = running.as_("ida").make_folder(f"Everybody's folder {part}").id
    bureau = (
        running.as_("ida")
        .add_bureau(f"Everybody's bureau {part}", "https://bureau.example", untested=True)
        .bureau.id
    )
    day = {"begins": "2097-01-01T00:00", "ends": "2097-01-02T00:00", "reason": f"Everybody's rest {part}"}
    quiet = running.as_("ida").add_quiet_period(day).id
    webhook = running.as_("ida").add_webhook(f"Everybody's webhook {part}", "https://hook.invalid/x").id
    picture = nell.upload("everybody.png", png_of("nell"))
    yield {
        "page": page.id,
        "comment": nell.comment(page.id, "en", "Is this so?").id,
        "folder": folder,
        "bureau": str(bureau),
        "quiet": quiet,
        "webhook": webhook,
        # By name: those of other tests stand in the same list, in the order of their names.
        "template": next(t.id for t in nell.make_template(page.id, template).items if t.name == template),
        "link": nell.give_link(scope="entry", entry=page.id).id,
        "sha256": picture.sha256,
        "id": entry.id,
        "dispatch": dispatch.id,
        "other_dispatch": other.id,
        "job": job.id,
        "commission": running.as_("ida").open_commission("Of a test", shared=True).id,
        "glossary": running.as_("ida").add_glossary(f"Of a test {uuid4()}").id,
        "standing": running.as_("ida").add_standing_commission(f"Of a test {uuid4()}", [{"locale": "fr"}]).id,
        "memory": running.as_("ida").add_memory(f"Of a test {uuid4()}").id,
        "etag": nell.entry(entry.id, "en").etag,
    }
    # What may be chosen for others is gone again, whichever of these tests ran here.
    with suppress(Refusal):
        running.as_("ida").end_bureau(bureau)
    with suppress(Refusal):
        running.as_("ida").remove_folder(folder)
    with suppress(Refusal):
        running.as_("ida").end_quiet_period(quiet)
    with suppress(Refusal):
        running.as_("ida").end_webhook(webhook)


@pytest.fixture(scope="module")
def ids(running: Running) -> Iterator[dict[str, str]]:
    """The same for all that leaves them as they are."""
    with things(running) as made:
        yield made


def body_for(operation: str, ids: dict[str, str]) -> dict | None:
    move = {"id": ids["id"], "locale": "en"}
    segment = {"entry": ids["id"], "key": "title", "segment": "s1"}
    return {
        "start_entry": {"type": "notice", "fields": {"titel": "x"}},
        "save_entry": {"fields": {"kind": "party"}},
        "restore_entry": {"revision": 1},
        "settle_entry": {"typed": {"en": 1}, "decisions": {}},
        "submit": {"note": ""},
        "sign_off": {"revision": 99},
        "send_back": {"reason": ""} if operation == "never" else {"reason": "x"},
        "make_dispatch": {"moves": [move]},
        "check_dispatch": {"moves": [move]},
        "replan_dispatch": {"instant": "2001-01-01T00:00:00Z"},
        "change_dispatch": {},
        "check_open_dispatch": {},
        "add_moves": {"moves": [move]},
        "drop_moves": {"moves": [move]},
        "write_inside": {"id": ids["id"], "locale": "en"},
        "submit_dispatch": {},
        "sign_dispatch": {},
        "send_dispatch_back": {"reason": "x"},
        "catch_up": {},
        "keep_settlements": {},
        "plan_dispatch": {},
        "send_dispatch": {},
        "undo_dispatch": {},
        "add_webhook": {"name": "", "url": ""},
        "change_webhook": {},
        "switch_webhook": {"on": True},
        "rotate_secret": {"seconds": -1},
        "add_calendar": {"name": ""},
        "spread": {"moves": [move], "begins": "2096-03-01T09:00"},
        "check_spread": {"moves": [move], "begins": "2096-03-01T09:00"},
        "add_quiet_period": {"begins": "2097-01-02T00:00", "ends": "2097-01-01T00:00", "reason": "x"},
        "check_quiet_period": {"begins": "2097-01-02T00:00", "ends": "2097-01-01T00:00", "reason": "x"},
        "change_quiet_period": {"begins": "2097-01-02T00:00", "ends": "2097-01-01T00:00", "reason": "x"},
        "commission": {"entries": [ids["id"]], "locales": ["fr"], "bureau": "Nobody"},
        "estimate": {"entries": [ids["id"]], "locales": ["fr"]},
        "still_fits": {"fits": {"title": "0"}},
        "choose_unit": {"entry": ids["id"], "key": "none", "take": "ours"},
        "accept_job": {},
        "assign_job": {"due": "2099-01-31"},
        "ask_about_segment": segment | {"text": ""},
        "answer_question": {"answer": "x"},
        "segment_matches": segment,
        "suggest_segment": segment,
        "give_own_file": {},
        "open_commission": {"name": "x" * 999},
        "read_questions": {"questions": {}},
        "unlock_entry": {"phrase": "x"},
        "limit_entry": {"way": "locked"},
        "change_commission": {"name": " "},
        "put_into_commission": {"entries": [ids["id"]]},
        "take_out_of_commission": {"entries": ["none"]},
        "add_standing_commission": {"name": "", "targets": []},
        "change_standing_commission": {"name": ""},
        "add_glossary": {"name": ""},
        "change_glossary": {"name": ""},
        "add_concept": {"terms": []},
        "write_concept": {"terms": []},
        "remove_concepts": {"ids": [1]},
        "add_memory": {"name": ""},
        "change_memory": {"name": ""},
        "merge_memories": {"other": ids["memory"]},
        "merge_glossaries": {"other": ids["glossary"]},
        "edit_memory_sentence": {"target": "x"},
        "remove_memory_sentences": {"ids": [1]},
        "check_segment": segment | {"target": "x"},
        "save_segment": segment | {"target": "x", "before": "other"},
        "split_segment": segment | {"at": 0},
        "join_segments": segment,
        "send_unit_back": {"entry": ids["id"], "key": "title", "why": ""},
        "define_type": {"name": "Not A Name"},
        "add_bureau": {"name": "", "url": ""},
        "change_bureau": {},
        "check_type": {"name": "Not A Name"},
        "define_set": {"name": "Not A Name"},
        "check_set": {"name": "Not A Name"},
        "fork_strand": {"name": "draft "},
        "check_proposal": {},
        "accept_proposal": {},
        "copy_entry": {"fields": {"titel": "x"}},
        "make_template": {"name": ""},
        "start_from_template": {},
        "save_list": {"name": "", "query": {}},
        "change_list": {"name": "x", "query": {}},
        "check_bulk": {"act": "tag", "items": [move]},
        "bulk": {"act": "tag", "items": [move]},
        "define_workflow": {"name": "x", "stages": []},
        "issue_key": {"name": "", "role": "reader"},
        "check_setup": {"version": 0},
        "make_package": {"types": ["none"]},
        "look_at_package": {},
        "map_rows": {},
        "keep_mapping": {"type": "none", "locale": "en", "columns": []},
        "apply_setup": {"version": 0},
        "pause_assistant": {"reason": "x"},
        "check_assistant_undo": {"since": "2026-01-01"},
        "undo_assistant": {"since": "2026-01-01"},
        "check_workflow": {"name": "x", "stages": []},
        "choose_workflows": {"choices": [{"workflow": "none"}]},
        "check_choices": {"choices": [{"workflow": "none"}]},
        "override": {"stage": "release", "revision": 1, "reason": "x"},
        "make_comment": {"text": ""},
        "make_dispatch_comment": {"text": ""},
        "reply_to_comment": {"text": "x"},
        "assign": {"handle": "wim"},
        "end_assignment": {},
        "be_present": {"page": "page-of-a-test", "locale": "en"},
        "see_notifications": {},
        "choose_notifications": {"ways": {"none": "at once"}},
        "invite_person": {"handle": "x", "name": "X", "email": ""},
        "set_roles_of": {"roles": []},
        "reassign_tasks": {"to": "oda"},
        "define_roles": {"items": [{"name": "Not A Name", "label": "", "grants": []}]},
        "set_profile": {"name": "", "zone": "UTC"},
        "change_password": {"before": "wrong", "after": "x" * 9},
        "begin_second_factor": {"password": "wrong"},
        "confirm_second_factor": {"code": "x"},
        "end_second_factor": {"password": "wrong"},
        "begin_passkey": {"password": "wrong"},
        "add_passkey": {"state": "x", "answer": {}, "name": "x"},
        "rename_passkey": {"name": "x"},
        "end_passkey": {"password": "wrong"},
        "move_in_outline": {"below": ids["page"], "after": ids["id"]},
        "copy_in_outline": {},
        "make_folder": {"name": ""},
        "change_folder": {"name": "x"},
        "file_entries": {"entries": [ids["id"]]},
        "define_locales": {"locales": [{"tag": "not a tag"}]},
        "check_locales": {"locales": [{"tag": "not a tag"}]},
        "define_crops": {"crops": [{"name": "Not A Name", "width": 1}]},
        "define_sites": {"sites": [{"name": "Not A Name", "addresses": {}}]},
        "check_site": {"site": {"name": "Not A Name", "addresses": {}}},
        "open_preview": {},
        "type_preview": {"entry": ids["id"], "locale": "en", "fields": {}},
        "give_link": {"scope": "section", "entry": ids["id"]},
    }.get(operation)


def request(running: Running, ids: dict[str, str], operation: str, who: str) -> httpx.Response:
    method, path = OPERATIONS[operation]
    area = path.split("/")[2]
    subject = {
        "dispatches": "dispatch",
        "jobs": "job",
        "comments": "comment",
        "folders": "folder",
        "bureaus": "bureau",
        "memories": "memory",
        "glossaries": "glossary",
        "standing-commissions": "standing",
        "commissions": "commission",
        "templates": "template",
        "preview-links": "link",
        "quiet-periods": "quiet",
        "webhooks": "webhook",
    }.get(area, "id")
    if operation in (
        "add_moves",
        "drop_moves",
        "write_inside",
        "submit_dispatch",
        "take_dispatch_back",
        "sign_dispatch",
        "send_dispatch_back",
        "plan_dispatch",
        "send_dispatch",
        "reopen_dispatch",
        "undo_dispatch",
    ):
        subject = "other_dispatch"
    names = {
        "{id}": "999999" if area == "keys" else ids[subject],
        "{locale}": "en",
        "{handle}": "nell" if operation == "sessions_of" else "nobody",
        "{site}": "live",
        "{language}": "python",
        "{entry}": ids["id"],
        "{field}": "title",
        "{page}": "page-of-a-test",
        "{name}": "beside" if "strands" in path else "notice",
        "{type}": "person",
        "{format}": "csv",
        "{number}": "999999",
        "{path}": "en/winter-opening-hours",
        "{sha256}": ids["sha256"],
    }
    for name, value in names.items():
        path = path.replace(name, value)
    if operation in ("move_in_outline", "outline_trail"):
        path = path.replace(ids["id"], ids["page"])
    params = {
        "why": {"person": "wim", "verb": "read"},
        "look_up": {"text": "x"},
        "export_jobs": {"job": ids["job"]},
        "search_outline": {"words": "x"},
        "estimate_commission": {"locale": "fr"},
        "read_counts": {"by": "month"},
        "give_rows": {"name": "x.bin"},
    }.get(operation, {})
    extra: dict = {"json": body_for(operation, ids)}
    if operation == "upload_file":
        extra = {"files": {"file": ("x.png", png_of(who))}}
    if operation in ("begin_upload", "append_upload"):
        extra["headers"] = {"Upload-Length": "5", "Upload-Offset": "0"}
    if operation in (
        "bring_job_returned",
        "import_jobs",
        "import_memory",
        "import_glossary",
        "give_package",
        "give_rows",
    ):
        extra = {"content": b"<x/>", "headers": {"Content-Type": "application/xliff+xml"}}
    client = running.as_(who)._http
    headers = extra.pop("headers", {})
    # Of what is read, a condition is about what is answered.
    if method.upper() != "GET":
        known = '"999999-0"' if operation == "settle_entry" else ids["etag"]
        headers = {"If-Match": known, **headers}
    return client.request(method, path, params=params, headers=headers, **extra)


def png_of(who: str) -> bytes:
    from tests.service.test_story import png

    return png({"ida": "red", "oda": "blue", "wim": "green"}.get(who, "black"))


# What those who may are answered, where it is not plain success: what is wrong with what is asked is found only by those who may
# ask it. Where there are two, the first who does it leaves nothing for the next to do, or not everybody may know of the thing.
ANSWERS: dict[str, tuple[int, ...]] = {
    "accept_job": (409,),
    "give_own_file": (404,),
    "show_commission": (200, 404),
    "estimate_commission": (404, 422),
    "open_commission": (422,),
    "change_commission": (409, 422),
    "put_into_commission": (200, 409),
    "take_out_of_commission": (404, 409),
    "send_commission": (409, 422),
    "cancel_commission": (200, 409),
    "reopen_commission": (200, 409),
    "import_jobs": (422,),
    "add_standing_commission": (422,),
    "change_standing_commission": (404, 422),
    "end_standing_commission": (204, 404),
    "send_standing_commission": (200, 404, 409),
    "add_glossary": (422,),
    "change_glossary": (422,),
    "end_glossary": (204, 404),
    "add_concept": (404, 422),
    "write_concept": (404, 422),
    "remove_concepts": (404,),
    "import_glossary": (404, 422),
    "glossary_concepts": (200, 404),
    "export_glossary": (200, 404),
    "glossary_imports": (200, 404),
    "undo_glossary_import": (404,),
    "add_memory": (422,),
    "end_memory": (200, 404),
    "change_memory": (422,),
    "merge_memories": (422,),
    "merge_glossaries": (404, 422),
    "edit_memory_sentence": (404,),
    "remove_memory_sentences": (404,),
    "import_memory": (422,),
    "undo_memory_import": (404,),
    "ask_about_segment": (422,),
    "answer_question": (404,),
    "save_segment": (412,),
    "split_segment": (422,),
    "join_segments": (422,),
    "deliver_job": (409,),
    "send_unit_back": (409,),
    "accept_proposal": (412,),
    "add_bureau": (422,),
    "call_of_bureau": (401,),
    "add_calendar": (422,),
    "add_quiet_period": (422,),
    "spread": (409,),
    "end_calendar": (404,),
    "renew_calendar": (404,),
    "add_webhook": (422,),
    "deliver_again": (404,),
    "rotate_secret": (422,),
    "switch_webhook": (409,),
    "change_quiet_period": (422,),
    "check_quiet_period": (422,),
    "add_moves": (200, 409),
    "write_inside": (200, 409),
    "submit_dispatch": (409,),
    "take_dispatch_back": (409,),
    "sign_dispatch": (409,),
    "send_dispatch_back": (409,),
    "catch_up": (409,),
    "append_upload": (404,),
    "assign": (200, 409),
    "begin_second_factor": (409, 422),
    "bring_back_entry": (409,),
    "bring_job_returned": (422,),
    "cancel_dispatch": (200, 409),
    "cancel_job": (200, 409),
    "reopen_job": (200, 409),
    "assign_job": (200, 409),
    "change_list": (404,),
    "change_password": (409, 422),
    "change_dispatch": (200, 409),
    "check_choices": (422,),
    "check_locales": (422,),
    "check_set": (422,),
    "check_site": (422,),
    "check_type": (422,),
    "check_undo": (200, 409),
    "check_workflow": (422,),
    "choose_notifications": (422,),
    "choose_unit": (404,),
    "still_fits": (409,),
    "choose_workflows": (422,),
    "close_preview": (404,),
    "commission": (422,),
    "confirm_second_factor": (409,),
    "add_passkey": (409,),
    "begin_passkey": (409, 422),
    "rename_passkey": (404,),
    "end_passkey": (409, 422),
    "define_crops": (422,),
    "define_locales": (422,),
    "define_roles": (422,),
    "define_set": (422,),
    "define_sites": (422,),
    "define_type": (422,),
    "define_workflow": (422,),
    "delete_set": (404,),
    "delete_type": (409,),
    "drop_list": (404,),
    "drop_moves": (200, 409),
    "drop_strand": (200, 404),
    "drop_upload": (404,),
    "end_assignment": (200, 409),
    "end_factor_of": (404,),
    "end_key": (404,),
    "receipt": (409,),
    "person_data": (404,),
    "check_forget_person": (404,),
    "forget_person": (404,),
    "make_package": (422,),
    "give_package": (202,),
    "package": (404,),
    "give_rows": (422, 409),
    "map_rows": (404,),
    "mapping": (404,),
    "keep_mapping": (422,),
    "drop_mapping": (404,),
    "fetch_package": (404,),
    "look_at_package": (404,),
    "run_package": (404,),
    "cancel_package": (404,),
    "undo_package": (404,),
    "drop_package": (404,),
    "check_setup": (422,),
    "apply_setup": (422,),
    "pause_assistant": (404,),
    "resume_assistant": (404,),
    "check_assistant_undo": (404,),
    "undo_assistant": (404,),
    "end_person": (404,),
    "tasks_of_person": (404,),
    "reassign_tasks": (404,),
    "end_role": (404,),
    "end_second_factor": (409, 422),
    "end_session": (404,),
    "disconnect_person": (404,),
    "end_template": (204, 404),
    "end_workflow": (404,),
    "fetch_file": (200, 404),
    "file_entries": (422,),
    "fork_strand": (422,),
    "give_link": (422,),
    "invite_again": (404,),
    "invite_person": (422,),
    "issue_key": (422,),
    "make_comment": (422,),
    "make_dispatch_comment": (422,),
    "make_dispatch": (409,),
    "make_folder": (422,),
    "make_template": (422,),
    "move_in_outline": (422,),
    "move_on": (409,),
    "plan_dispatch": (200, 409),
    "read_entry": (200, 404),
    "read_head": (200, 404),
    "unlock_entry": (404, 409),
    "limit_entry": (422,),
    "read_file": (404,),
    "read_rendition": (404,),
    "remove_folder": (204, 404),
    "reopen_comment": (409,),
    "reopen_dispatch": (200, 409),
    "reopen_strand": (409,),
    "replan_dispatch": (422,),
    "resolve_comment": (204, 409),
    "save_entry": (422,),
    "save_list": (422,),
    "send_back": (200, 409),
    "send_dispatch": (200, 409),
    "send_job_again": (409,),
    "set_profile": (422,),
    "set_roles_of": (404,),
    "settle_entry": (404,),
    "sign_off": (412,),
    "start_entry": (422,),
    "submit": (200, 409),
    "take_link_back": (204, 409),
    "type_preview": (404,),
    "undo_dispatch": (201, 409),
    "upload_offset": (404,),
    "upload_state": (404,),
}


def test_the_table_has_every_route() -> None:
    assert set(TABLE) == set(OPERATIONS)


def ends(operation: str) -> bool:
    """Whether a thing is not what it was afterwards: it has things of its own, as these tests come in any order."""
    return operation.startswith(("cancel_", "end_", "drop_", "remove_", "delete_", "take_", "accept_")) or (
        operation in ("send_back", "submit", "restore_entry", "move_on", "resolve_comment", "reopen_comment")
    )


@pytest.mark.parametrize("operation", sorted(o for o, row in TABLE.items() if row))
def test_each_route_answers_each_role_as_the_table_says(
    running: Running, ids: dict[str, str], operation: str
) -> None:
    with things(running) if ends(operation) else nullcontext(ids) as about:
        _answers_each_role(running, about, operation)


def _answers_each_role(running: Running, ids: dict[str, str], operation: str) -> None:
    row = dict(zip(PEOPLE, str(TABLE[operation]).split(), strict=True))
    # By those who are refused first, so that nothing is gone for them.
    for who in sorted(PEOPLE, key=lambda p: row[p] == "y"):
        answer = request(running, ids, operation, who)
        assert answer.status_code < 500, answer.text
        expected = (403,) if row[who] == "n" else ANSWERS.get(operation, (200, 201, 204))
        assert answer.status_code in expected, f"{who}: {answer.status_code} {answer.text[:200]}"
        if row[who] == "n":
            told = answer.json()
            assert told["remedy"]
            assert told["code"] in ENGLISH.texts or f"{told['code']}.detail" in ENGLISH.texts
            assert "  " not in f"{told['detail']} {told['remedy']}", "nothing that the words name is empty"


@pytest.mark.parametrize(
    "operation",
    [o for o, row in TABLE.items() if row and OPERATIONS[o][1].startswith("/api") and o != "health"],
)
def test_nobody_gets_in_without_a_log_in(running: Running, ids: dict[str, str], operation: str) -> None:
    method, path = OPERATIONS[operation]
    path = re.sub(r"{\w+}", "1", path)
    answer = httpx.request(method, running.url + path, json={})
    # Whatever is wrong with the rest of it: who asks comes first.
    assert answer.status_code == 401, answer.text
    assert method == "head" or answer.json()["remedy"]


def test_a_translator_writes_only_in_their_language(running: Running) -> None:
    hanne = running.as_("hanne")
    entry = running.notice("Nur auf Deutsch")
    german = hanne.entry(entry.id, "de")
    assert hanne.save(entry.id, "de", {"title": "Auf Deutsch"}, etag=german.etag).changed
    for locale, fields in (("en", {"title": "x"}), ("fr", {"title": "x"}), ("de", {"kind": "closure"})):
        now = hanne.entry(entry.id, locale)
        answer = hanne._http.patch(
            f"/api/entries/{entry.id}/{locale}", json={"fields": fields}, headers={"If-Match": now.etag}
        )
        assert answer.status_code == 403


KNOWN = {name: one for area in Calls.__mro__ for name, one in vars(area).items()}
CALLS = [name for name in KNOWN if isinstance(KNOWN[name], call)]
EXAMPLES = {
    "str": "1",
    "int": 1,
    "bytes": b"",
    "Path": Path("x.zip"),
    "Mapping": {},
    "Sequence": [],
    "Any": None,
    "wire.limiting.LimitWay": "",
}


def example(name: str) -> Request:
    """A call with the least that it needs."""
    build = KNOWN[name].build
    given: dict[str, object] = {}
    for parameter in list(inspect.signature(build).parameters.values())[1:]:
        if parameter.default is parameter.empty:
            kind = next(k for k in EXAMPLES if str(parameter.annotation).startswith(k))
            special = {"locale": "en", "path": "/en/x"}
            given[parameter.name] = special.get(parameter.name, EXAMPLES[kind])
    return build(None, **given)


@pytest.mark.parametrize("name", CALLS)
def test_every_call_of_the_client_is_a_route_of_the_document(name: str) -> None:
    made = example(name)
    assert made.method.lower() in {
        m
        for p, ms in DOCUMENT["paths"].items()
        for m in ms
        if re.fullmatch(re.sub(r"{\w+(?::path)?}", "[^/]+", p).replace("pages/[^/]+", "pages/.+"), made.path)
    }
    assert KNOWN[name].__doc__


def test_the_client_shows_these_names_and_no_others() -> None:
    import hawthorn.client

    assert sorted(hawthorn.client.__all__) == [
        "AsyncClient",
        "Client",
        "ClientError",
        "Refusal",
        "Unreachable",
        "every",
    ]


def test_every_call_but_log_in_and_the_stream_is_in_the_client() -> None:
    made = set()
    for path, methods in DOCUMENT["paths"].items():
        for method, operation in methods.items():
            made.add((operation["operationId"], method, path))
    lacking = {
        "health",
        "type_schema",
        "fetch_file",
        "read_file",
        "stream_events",
        "translation_grid",
        "source_entry",
        "follow_changes",
        "read_rendition",
        "upload_offset",
        "end_sessions_by_provider",
    }
    assert len(made) - len(lacking) <= len(CALLS) + 1
