"""One example for each body, as the document of the API shows it."""

from __future__ import annotations

from typing import Any

_UUID = "01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a"
_SEGMENT = {"entry": _UUID, "key": "body.p1", "segment": "s1"}


_OTHER = "01a1f85d-19c2-7569-bc39-8e1944349fad"


_MAPPING = {
    "type": "talk",
    "locale": "en",
    "columns": [{"column": "Title", "to": "title"}, {"column": "Speakers", "to": "speakers", "between": ";"}],
}
_PASSKEY = {
    "id": "Y3JlZGVudGlhbA",
    "rawId": "Y3JlZGVudGlhbA",
    "type": "public-key",
    "clientExtensionResults": {},
    "response": {"clientDataJSON": "e30", "authenticatorData": "AA", "signature": "AA"},
}
EXAMPLES: dict[str, Any] = {
    "PackageAsk": {"types": ["exhibition"], "history": False},
    "PackageWish": {"as_drafts": True},
    "RowMapping": _MAPPING,
    "RowsWish": {"mapping": _MAPPING},
    "SetupDocument": {
        "version": 1,
        "roles": [{"name": "pilot", "label": "pilot", "grants": [{"verb": "read", "types": ["notice"]}]}],
    },
    "Profile": {"name": "Wim Aster", "zone": "Europe/London"},
    "PasswordChange": {"before": "harbour-light", "after": "a lamp in the fog"},
    "ReadQuestions": {
        "questions": {
            "news": {"types": ["notice"], "where": {"date.last": "P14D"}, "limit": 5},
            "talks": {"types": ["talk"], "sort": "begins", "include": ["place"]},
        }
    },
    "OwnFileGive": {"sha256": "9f86d081884c7d659a2feaa0c55ad015a3bf4f1b2b0b822cd15d6c15b0f00a08"},
    "PasskeyLogIn": {"handle": "", "password": ""},
    "PasskeyName": {"name": "Telephone"},
    "PasskeyAnswer": {"state": "sealed:gAAAAABp", "answer": _PASSKEY},
    "PasskeyWish": {"state": "sealed:gAAAAABp", "answer": _PASSKEY, "name": "Telephone"},
    "ProviderAnswer": {
        "code": "SplxlOBeZQQYbYS6WxSbIA",
        "state": "af0ifjsldkj",
        "issuer": "https://accounts.example",
    },
    "Password": {"password": "harbour-light"},
    "Code": {"code": "492039"},
    "BureauAsk": {
        "name": "Saltmarsh Translations",
        "url": "https://saltmarsh.example/jobs",
        "codes": {"fr": "fr-FR"},
        "key": "",
    },
    "BureauChange": {"url": "https://new.saltmarsh.example/jobs"},
    "CommissionAsk": {
        "entries": [_UUID],
        "locales": ["fr", "ja"],
        "bureau": "Saltmarsh Translations",
        "due": "2027-03-31",
    },
    "StandingChange": {"pause": 60, "on": True},
    "StandingAsk": {
        "name": "Visit, into French",
        "targets": [{"locale": "fr", "bureau": "Saltmarsh Translations"}],
        "pause": 30,
        "days": 7,
    },
    "CommissionStart": {"name": "Spring pages", "shared": True},
    "CommissionChange": {
        "due": "2027-03-31",
        "targets": [
            {"locale": "fr", "bureau": "Saltmarsh Translations"},
            {"locale": "ja", "person": "kenji"},
        ],
    },
    "CommissionPut": {"entries": [_UUID], "below": True},
    "CommissionTaken": {"entries": [_OTHER]},
    "GlossaryAsk": {"name": "The museum's words"},
    "GlossaryChange": {"note": "What the labels call things."},
    "ConceptAsk": {
        "note": "Who tends a light.",
        "terms": [{"locale": "en", "text": "keeper"}, {"locale": "fr", "text": "gardien"}],
    },
    "ConceptsRemove": {"ids": [3]},
    "Crops": {
        "crops": [{"name": "card", "label": "Card", "width": 600, "height": 400, "use": "Lists of pages"}]
    },
    "DispatchAsk": {
        "moves": [{"id": _UUID, "locale": "en"}, {"id": _OTHER, "locale": "en", "verb": "withdraw"}],
        "when": {"wall": "2027-03-31T09:00", "zone": "Europe/London"},
        "name": "Spring hours",
    },
    "DispatchChange": {"name": "Spring hours", "owner": "ida"},
    "MovesAsk": {"moves": [{"id": _UUID, "locale": "en"}], "below": True},
    "MovesDrop": {"moves": [{"id": _UUID, "locale": "en"}]},
    "WriteAsk": {"id": _UUID, "locale": "en"},
    "SignAsk": {"moves": [{"id": _UUID, "locale": "en"}], "note": "Read against the old leaflet."},
    "DispatchReason": {"reason": "The closing hour is that of last year."},
    "NoteAsk": {"note": "All that changes in spring; the menu too."},
    "SettlementsAsk": {"decisions": {"title": {"take": "ours"}}},
    "PlanAsk": {"when": {"wall": "2027-03-31T09:00", "zone": "Europe/London"}},
    "SendAsk": {"with_needs": False},
    "UndoAsk": {"take_changed": False, "note": "The wrong year."},
    "WebhookAsk": {
        "name": "The public site",
        "url": "https://site.pellgrave.example/changed",
        "kinds": ["dispatch.gone"],
    },
    "WebhookChange": {"kinds": ["dispatch.gone", "type."]},
    "RotateAsk": {"seconds": 3600},
    "SwitchAsk": {"on": True},
    "CalendarAsk": {
        "name": "What goes out",
        "shows": {"kinds": ["dispatches", "quiet periods"], "locale": "fr"},
    },
    "SpreadAsk": {
        "moves": [{"id": _UUID, "locale": "en"}, {"id": _OTHER, "locale": "en"}],
        "begins": "2026-12-01T09:00",
        "zone": "Europe/London",
        "rule": "FREQ=DAILY",
        "skip": ["2026-12-25"],
        "name": "A door a day",
    },
    "ReplanAsk": {"wall": "2027-03-31T09:00", "zone": "Europe/London"},
    "QuietPeriodAsk": {
        "begins": "2026-11-30T22:00",
        "ends": "2026-12-01T06:00",
        "zone": "Europe/London",
        "rule": "FREQ=DAILY",
        "reason": "Nobody is at the desk.",
    },
    "WhenAsk": {"wall": "2027-03-31T09:00", "zone": "Europe/London"},
    "EntryStart": {
        "type": "notice",
        "locale": "en",
        "fields": {"title": "Winter opening hours", "kind": "closure"},
        "note": "",
    },
    "BulkAsk": {"act": "tag", "items": [{"id": _UUID, "locale": "en"}], "tag": "winter"},
    "Body_upload_file": {"file": "(the bytes of tern.png)"},
    "TemplateStart": {"locale": "en", "fields": {"title": "Closed on Monday"}, "note": ""},
    "CopyStart": {"fields": {"title": "Spring opening hours"}, "note": ""},
    "PresenceAsk": {"page": "9f3a2c1e-77d0-4.1", "locale": "en", "field": "body", "typing": True},
    "TemplateAsk": {"name": "Closing notice"},
    "EntrySave": {"fields": {"title": "Open in winter", "summary": None}, "note": "Shorter."},
    "AssignAsk": {"handle": "nell", "due": "2027-03-31", "note": "Only the second half."},
    "AssignmentEnd": {"done": True},
    "OverrideAsk": {"stage": "release", "revision": 4, "reason": "The conservator is away until Monday."},
    "DispatchCommentAsk": {"text": "@rhea, do the hours hold on bank holidays?"},
    "CommentAsk": {"text": "@rhea, is this right?", "field": "body", "quote": {"exact": "lit in 1893"}},
    "ReplyAsk": {"text": "Yes, in March."},
    "Restore": {"revision": 3},
    "SendBack": {"reason": "The day is wrong."},
    "Settle": {"typed": {"en": 418}, "decisions": {"title": {"take": "theirs"}}},
    "SignOffAsk": {"revision": 4, "note": "Checked against the ledger."},
    "StrandAsk": {"name": "Rewording", "note": "Plainer words."},
    "ProposalAsk": {"take": ["title"], "decisions": {}, "note": ""},
    "Note": {"note": "Ready for Tomas."},
    "Definition": {
        "name": "leaflet",
        "label": "Leaflet",
        "fields": [{"name": "title", "kind": "line", "required": True}, {"name": "body", "kind": "rich"}],
    },
    "Token": {"token": "Z3JlZW4gaGVkZ2U"},
    "FirstPerson": {
        "token": "Z3JlZW4gaGVkZ2U",
        "handle": "ida",
        "name": "Ida Marlow",
        "email": "ida@example.org",
        "password": "a lamp in the fog",
        "locales": [{"tag": "en", "name": "English"}],
    },
    "FolderAsk": {"name": "Seabirds", "parent": ""},
    "FolderChange": {"name": "Birds of the quay"},
    "Join": {"token": "Z3JlZW4gaGVkZ2U", "password": "a lamp in the fog"},
    "AssignJob": {"person": "hanne", "due": "2030-01-31", "note": "She knows the lamps."},
    "ReassignAsk": {"to": "oda"},
    "Accept": {"units": [{"entry": _UUID, "key": "title"}], "note": "Read against the source."},
    "MemoryAsk": {"name": "Lights and signals", "note": "What the lighthouse pages say."},
    "MemoryChange": {"name": "Lights"},
    "MemoryMerge": {"other": _UUID},
    "GlossaryMerge": {"other": _UUID},
    "KnownChange": {"target": "La lampe du port"},
    "KnownRemove": {"ids": [17, 18]},
    "SegmentName": _SEGMENT,
    "SegmentCheck": _SEGMENT | {"target": "La lampe <1>brûlait</1> de l’huile."},
    "SegmentSave": _SEGMENT
    | {"target": "La lampe <1>brûlait</1> de l’huile.", "before": "", "state": "translated"},
    "SegmentSplit": _SEGMENT | {"at": 21},
    "Ask": _SEGMENT | {"text": "Free for everybody, or for people who live in the town?"},
    "Answer": {"answer": "For everybody."},
    "UnitSendBack": {"entry": _UUID, "key": "title", "why": "A lantern, not a lamp."},
    "StillFits": {"fits": {"title": "0f3a5d2c9b1e4f70"}},
    "Choose": {"entry": _UUID, "key": "title", "take": "theirs"},
    "PauseAsk": {"reason": "It writes in the wrong section."},
    "AssistantUndoAsk": {"since": "2027-03-31T09:00:00Z"},
    "KeyAsk": {
        "name": "Preview site",
        "role": "reader",
        "stages": ["draft", "release"],
        "expires": "2028-01-01",
        "audiences": ["members"],
        "a_minute": 600,
    },
    "LimitAsk": {"way": "hidden", "audiences": ["members"]},
    "UnlockAsk": {"phrase": "the lamp room at nine"},
    "FileInto": {"entries": [_UUID], "folder": _OTHER},
    "ListAsk": {"name": "Behind, mine", "query": {"behind": True, "person": "wim"}, "shared": False},
    "Locales": {
        "locales": [{"tag": "en", "name": "English"}, {"tag": "fr", "name": "Français", "fallback": ["en"]}]
    },
    "NotificationChoose": {"ways": {"review": "digest"}, "digest_hour": 8},
    "NotificationsSeen": {"upto": 120},
    "OutlineCopyAsk": {"below": _OTHER},
    "OutlineMove": {"after": _OTHER},
    "InviteAsk": {
        "handle": "nell",
        "name": "Nell Farrow",
        "email": "nell@example.org",
        "roles": [{"name": "writer", "locales": ["en"]}],
        "zone": "Europe/London",
    },
    "Holdings": {"roles": [{"name": "writer"}, {"name": "translator", "locales": ["fr"]}]},
    "LinkAsk": {"scope": "entry", "entry": _UUID, "lasts": 604800, "name": "For the printers"},
    "PaneAsk": {"stage": "draft", "at": "", "strand": ""},
    "Typed": {"entry": _UUID, "locale": "en", "fields": {"title": "Open in win"}},
    "RolesAsk": {
        "items": [{"name": "guest", "label": "guest", "grants": [{"verb": "read", "stages": ["release"]}]}]
    },
    "LogIn": {"handle": "ida", "password": "harbour-light"},
    "Sites": {
        "sites": [
            {
                "name": "live",
                "label": "Live site",
                "stage": "release",
                "addresses": {"*": "https://museum.example{path}"},
            }
        ]
    },
    "SiteTrialAsk": {
        "site": {
            "name": "live",
            "label": "Live site",
            "stage": "release",
            "addresses": {"*": "https://museum.example{path}"},
        },
        "entry": _UUID,
    },
    "ChoicesAsk": {"choices": [{"workflow": "short", "type": "notice", "locale": "fr", "section": ""}]},
}
"""One body of each kind, as it may be sent."""
