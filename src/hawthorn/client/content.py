"""The calls of content: types, entries, strands, templates and acts on many."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, entry_at, into, nothing, once, page, plain


def _taking(
    take: Sequence[str] | None, decisions: Mapping[str, Mapping[str, Any]] | None, note: str
) -> dict[str, Any]:
    return {
        "take": None if take is None else list(take),
        "decisions": {k: dict(v) for k, v in (decisions or {}).items()},
        "note": note,
    }


Item = tuple[str, str] | tuple[str, str, int | None] | tuple[str, str, int | None, int | None]
"""An entry by id, a locale, and for a sign-off the revision that was looked at, with that of the shared fields (0 where there was none)."""


def _many(act: str, items: Sequence[Item], options: Mapping[str, Any]) -> dict[str, Any]:
    listed = [dict(zip(("id", "locale", "revision", "common_revision"), one, strict=False)) for one in items]
    return {"act": act, "items": listed, **options}


class ContentCalls:
    """The calls of content, without a way to send them."""

    @call
    def setup(self) -> Request[wire.views.Setup]:
        """Locales, content types, workflows and bureaus."""
        return Request("GET", "/api/setup", into(wire.views.Setup))

    @call
    def define_type(self, definition: Mapping[str, Any]) -> Request[wire.content.TypeSpec]:
        """Define a content type, or a new version of one."""
        return Request("PUT", "/api/types", into(wire.content.TypeSpec), json=dict(definition))

    @call
    def uses_of_type(self, name: str) -> Request[wire.content.Uses]:
        """What uses a content type, in words."""
        return Request("GET", f"/api/types/{quote(name)}/uses", into(wire.content.Uses))

    @call
    def delete_type(self, name: str) -> Request[None]:
        """Delete a content type that nothing uses."""
        return Request("DELETE", f"/api/types/{quote(name)}", nothing)

    @call
    def delete_set(self, name: str) -> Request[None]:
        """Delete a field set that no type uses."""
        return Request("DELETE", f"/api/field-sets/{quote(name)}", nothing)

    @call
    def check_type(self, definition: Mapping[str, Any]) -> Request[wire.content.Impact]:
        """What a definition of a type would do to the entries there are."""
        return Request("POST", "/api/types/check", into(wire.content.Impact), json=dict(definition))

    @call
    def type_definition(self, name: str) -> Request[dict[str, Any]]:
        """The definition of a type, as `define_type` takes it."""
        return Request("GET", f"/api/types/{quote(name)}", plain)

    @call
    def type_schema(self, name: str) -> Request[dict[str, Any]]:
        """A content type as JSON Schema (draft 2020-12)."""
        return Request("GET", f"/api/types/{quote(name)}/schema", plain)

    @call
    def define_set(self, definition: Mapping[str, Any]) -> Request[wire.content.SetSpec]:
        """Define a field set, or a new version of one."""
        return Request("PUT", "/api/field-sets", into(wire.content.SetSpec), json=dict(definition))

    @call
    def check_set(self, definition: Mapping[str, Any]) -> Request[wire.content.Impact]:
        """What a definition of a field set would do to all types that use it."""
        return Request("POST", "/api/field-sets/check", into(wire.content.Impact), json=dict(definition))

    @call
    def entry(
        self, id: str, locale: str = "", *, strand: str = "", at: str = ""
    ) -> Request[wire.views.Entry]:
        """An entry in a locale; in its source when none is given. Its draft, or another strand; or as it is `at` another instant, for
        which a locale is given."""
        path = entry_at(id, locale) if locale else f"/api/entries/{quote(id)}"
        return Request("GET", path, into(wire.views.Entry), params={"strand": strand, "at": at})

    @call
    def words_by_assistants(
        self, id: str, locale: str, *, strand: str = ""
    ) -> Request[wire.assistants.Assisted]:
        """What assistants wrote in a draft, or another strand, that nobody has signed off since."""
        found = into(wire.assistants.Assisted)
        return Request(
            "GET", entry_at(id, locale, "by-assistants"), found, params={"strand": strand or "draft"}
        )

    @call
    def start(
        self,
        type: str,
        fields: Mapping[str, Any],
        *,
        locale: str = "en",
        note: str = "",
        key: str | None = None,
    ) -> Request[wire.views.Entry]:
        """Start an entry. `key` makes a repeat harmless; one is made when none is given."""
        body = {"type": type, "locale": locale, "fields": dict(fields), "note": note}
        return Request("POST", "/api/entries", into(wire.views.Entry), json=body, headers=once(key))

    @call
    def save(
        self,
        id: str,
        locale: str,
        fields: Mapping[str, Any],
        *,
        etag: str,
        note: str = "",
        strand: str = "draft",
    ) -> Request[wire.views.SaveResult]:
        """Save fields over the revision that `etag` names. Raises `Refusal` with `conflicts` when it cannot merge."""
        body = {"fields": dict(fields), "note": note, "strand": strand}
        return Request(
            "PATCH", entry_at(id, locale), into(wire.views.SaveResult), json=body, headers={"If-Match": etag}
        )

    @call
    def settle(
        self,
        id: str,
        locale: str,
        *,
        typed: Mapping[str, int],
        decisions: Mapping[str, Mapping[str, Any]],
        etag: str,
        strand: str = "draft",
    ) -> Request[wire.views.SaveResult]:
        """Settle a conflict: for each place `{"take": "ours" | "theirs" | "both" | "own", "value": …}`."""
        body = {
            "typed": dict(typed),
            "decisions": {k: dict(v) for k, v in decisions.items()},
            "strand": strand,
        }
        return Request(
            "POST",
            entry_at(id, locale, "settle"),
            into(wire.views.SaveResult),
            json=body,
            headers={"If-Match": etag},
        )

    @call
    def restore(
        self, id: str, locale: str, revision: int, *, strand: str = "draft"
    ) -> Request[wire.views.SaveResult]:
        """Bring an older revision back as a new one, in the draft or another strand."""
        body = {"revision": revision, "strand": strand}
        return Request("POST", entry_at(id, locale, "restore"), into(wire.views.SaveResult), json=body)

    @call
    def copy_entry(
        self, id: str, *, fields: Mapping[str, Any] | None = None, note: str = "", key: str | None = None
    ) -> Request[wire.views.Entry]:
        """Start an entry as a copy of another, in all its locales."""
        body = {"fields": dict(fields or {}), "note": note}
        return Request(
            "POST", f"/api/entries/{quote(id)}/copy", into(wire.views.Entry), json=body, headers=once(key)
        )

    @call
    def bring_back(self, id: str) -> Request[wire.views.Entry]:
        """Bring a removed entry back as a draft."""
        return Request("POST", f"/api/entries/{quote(id)}/bring-back", into(wire.views.Entry))

    @call
    def templates(self, *, limit: int = 0, cursor: str = "") -> Request[wire.content.Templates]:
        """The templates of types that the caller may write."""
        return Request("GET", "/api/templates", into(wire.content.Templates), params=page(limit, cursor))

    @call
    def make_template(self, id: str, name: str) -> Request[wire.content.Templates]:
        """Make a template from an entry as its drafts stand now."""
        return Request(
            "POST", f"/api/entries/{quote(id)}/template", into(wire.content.Templates), json={"name": name}
        )

    @call
    def start_from_template(
        self,
        template: str,
        *,
        locale: str = "en",
        fields: Mapping[str, Any] | None = None,
        note: str = "",
        key: str | None = None,
    ) -> Request[wire.views.Entry]:
        """Start an entry from a template, in any locale."""
        body = {"locale": locale, "fields": dict(fields or {}), "note": note}
        return Request(
            "POST",
            f"/api/templates/{quote(template)}/entries",
            into(wire.views.Entry),
            json=body,
            headers=once(key),
        )

    @call
    def end_template(self, id: str) -> Request[None]:
        """End a template."""
        return Request("DELETE", f"/api/templates/{quote(id)}", nothing)

    @call
    def strands(
        self, id: str, locale: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.content.Strands]:
        """The strands of an edition, open ones first."""
        return Request(
            "GET", entry_at(id, locale, "strands"), into(wire.content.Strands), params=page(limit, cursor)
        )

    @call
    def fork_strand(
        self, id: str, locale: str, name: str, *, revision: int | None = None, note: str = ""
    ) -> Request[wire.views.Entry]:
        """Fork a strand from a revision; from the head of the draft when none is named."""
        body = {"name": name, "revision": revision, "note": note}
        return Request("POST", entry_at(id, locale, "strands"), into(wire.views.Entry), json=body)

    @call
    def drop_strand(self, id: str, locale: str, name: str) -> Request[wire.content.Strands]:
        """Drop a strand; it can be opened again."""
        return Request(
            "POST", entry_at(id, locale, "strands", quote(name), "drop"), into(wire.content.Strands)
        )

    @call
    def reopen_strand(self, id: str, locale: str, name: str) -> Request[wire.views.Entry]:
        """Open a strand again that was merged or dropped."""
        return Request("POST", entry_at(id, locale, "strands", quote(name), "reopen"), into(wire.views.Entry))

    @call
    def catch_up(
        self, id: str, locale: str, name: str, decisions: Mapping[str, Mapping[str, Any]] | None = None
    ) -> Request[wire.views.Entry]:
        """Bring what went out since into a strand. Raises `Refusal` with `conflicts` when it cannot merge."""
        body = {"decisions": {k: dict(v) for k, v in (decisions or {}).items()}}
        path = entry_at(id, locale, "strands", quote(name), "catch-up")
        return Request("POST", path, into(wire.views.Entry), json=body)

    @call
    def keep_settlements(
        self, id: str, locale: str, name: str, decisions: Mapping[str, Mapping[str, Any]]
    ) -> Request[wire.content.Proposal]:
        """Settle beforehand what a strand that goes out with a dispatch and the draft both changed."""
        body = {"decisions": {k: dict(v) for k, v in decisions.items()}}
        path = entry_at(id, locale, "strands", quote(name), "proposal", "keep")
        return Request("POST", path, into(wire.content.Proposal), json=body)

    @call
    def proposal(
        self,
        id: str,
        locale: str,
        name: str,
        *,
        take: Sequence[str] | None = None,
        decisions: Mapping[str, Mapping[str, Any]] | None = None,
    ) -> Request[wire.content.Proposal]:
        """What merging a strand would do, whole or in part, with conflicts settled in some way."""
        path = entry_at(id, locale, "strands", quote(name), "proposal", "check")
        return Request("POST", path, into(wire.content.Proposal), json=_taking(take, decisions, ""))

    @call
    def accept_proposal(
        self,
        id: str,
        locale: str,
        name: str,
        *,
        etag: str,
        take: Sequence[str] | None = None,
        decisions: Mapping[str, Mapping[str, Any]] | None = None,
        note: str = "",
    ) -> Request[wire.views.Entry]:
        """Bring a strand in exactly as the proposal with that ETag showed it."""
        return Request(
            "POST",
            entry_at(id, locale, "strands", quote(name), "proposal"),
            into(wire.views.Entry),
            json=_taking(take, decisions, note),
            headers={"If-Match": etag},
        )

    @call
    def check_bulk(
        self,
        act: str,
        items: Sequence[Item],
        *,
        note: str = "",
        tag: str = "",
        field: str = "",
        value: Any = None,
        when: Mapping[str, str] | None = None,
    ) -> Request[wire.content.BulkResult]:
        """What one act would do to each of many entries, given as (id, locale)."""
        options = {"note": note, "tag": tag, "field": field, "value": value, "when": when}
        return Request(
            "POST", "/api/entries/bulk/check", into(wire.content.BulkResult), json=_many(act, items, options)
        )

    @call
    def bulk(
        self,
        act: str,
        items: Sequence[Item],
        *,
        note: str = "",
        tag: str = "",
        field: str = "",
        value: Any = None,
        when: Mapping[str, str] | None = None,
        key: str | None = None,
    ) -> Request[wire.content.BulkResult]:
        """Do one act to many entries, with a result for each."""
        options = {"note": note, "tag": tag, "field": field, "value": value, "when": when}
        return Request(
            "POST",
            "/api/entries/bulk",
            into(wire.content.BulkResult),
            json=_many(act, items, options),
            headers=once(key),
        )

    @call
    def define_locales(self, locales: Sequence[Mapping[str, Any]]) -> Request[wire.content.LocalesDefined]:
        """Put locales in place of those there are, in order."""
        body = {"locales": [dict(one) for one in locales]}
        return Request("PUT", "/api/locales", into(wire.content.LocalesDefined), json=body)

    @call
    def check_locales(self, locales: Sequence[Mapping[str, Any]]) -> Request[wire.content.LocalesDefined]:
        """What a definition of the locales would change."""
        body = {"locales": [dict(one) for one in locales]}
        return Request("POST", "/api/locales/check", into(wire.content.LocalesDefined), json=body)
