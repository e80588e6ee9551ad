"""What an import brought, taken back, but for what somebody wrote in, or did something with, since."""

from __future__ import annotations

import json
from functools import partial

from hawthorn.core.errors import HawthornError
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries, strands
from hawthorn.operations.exchange import dispatches, language, report
from hawthorn.operations.exchange.working import Working
from hawthorn.operations.release import applying, drafts
from hawthorn.operations.runtime.act import Act
from hawthorn.store import bodies, standings
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as store

_UNDOING = 50


class Undoing(Working):
    """The work of taking back what an import brought."""

    def work(self) -> None:
        with self.desk.db.read() as conn:
            total = sum(store.counts(conn, self.row.id).values())
        left: list[dict[str, str]] = []
        # What is to go with them first: an entry that a dispatch moves cannot be taken out.
        past = 0
        call_off = partial(dispatches.undo_some, package=self.row.id, left=left)
        while some := self.step("undoing", 0, total, partial(call_off, past=past)):
            past += some
        done = 0
        while some := self.step("undoing", done, total, lambda act: self._undo_some(act, left)):
            done += some
        for kind in language.KINDS:
            done, total = 0, self.desk.read(self.me, partial(kind.count, package=self.row.id))
            take_back = partial(kind.undo_some, package=self.row.id, most=language.AT_ONCE)
            while some := self.step(kind.into, done, total, take_back):
                done += some

        def undone(act: Act) -> None:
            drafts.bring_to_the_top(act)
            store.set_report(
                act.conn,
                self.row.id,
                json.dumps({**json.loads(self.row.report), "named": left[: report.NAMED]}),
            )
            store.set_state(act.conn, self.row.id, "undone", act.now)
            act.event(
                "import.undone", [], {"package": self.row.uuid, "name": self.row.name, "left": len(left)}
            )

        self.desk.write(self.me, undone)

    def _undo_some(self, act: Act, left: list[dict[str, str]]) -> int:
        some = store.to_undo(act.conn, self.row.id, _UNDOING)
        touched = store.touched_since(
            act.conn, self.row.id, [one.entry for one in some if one.how == "added"]
        )
        for one in some:
            entry = entry_store.entry_by_id(act.conn, one.entry)
            title = permission.title(act, one.entry)
            why = ""
            if one.how != "added":
                why = self._undo_merge(act, one)
            elif one.entry in touched:
                why = act.say("importing.written_since")
            else:
                _tell_readers(act, entry)
                if not store.erase(act.conn, one.entry):
                    why = act.say("importing.needed")
            if why:
                left.append({"id": one.uuid, "title": title, "why": why})
        store.forget(act.conn, self.row.id, [one.entry for one in some])
        return len(some)

    def _undo_merge(self, act: Act, one: store.Brought) -> str:
        entry = entry_store.entry_by_id(act.conn, one.entry)
        did = json.loads(one.did)
        note = act.keep("importing.taken_back", name=self.row.name)
        try:
            with act.trying() as trial:
                for edition in entry_store.editions(act.conn, entry.id) if did["strand"] else ():
                    if edition.locale != "*" and entry_store.edition(
                        act.conn, entry.id, edition.locale, did["strand"]
                    ):
                        strands.drop(act, entry.uuid, edition.locale, did["strand"])
                for locale, before, after in did["wrote"]:
                    saved = entries.take_back(act, entry, locale, (before, after), note)
                    if saved is not None and saved.conflicts:
                        trial.keep(False)
                        return act.say("importing.to_be_decided")
        except HawthornError as error:
            return act.say(error.message)
        return ""


def _tell_readers(act: Act, entry: entry_store.Entry) -> None:
    """Note for whoever reads that an entry is not there any more."""
    if standings.is_out(act.conn, entry.id):
        applying.shown_anew(act, [(entry.id, entry.type)])
        bodies.forget_entry(act.conn, entry.id)
