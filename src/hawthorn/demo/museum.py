"""The Pellgrave Harbour Museum: its types, people and texts. All of it is made up."""

from __future__ import annotations

from typing import Any

PASSWORD = "harbour-light"
LOCALES = {"en": "English", "fr": "Français", "de": "Deutsch", "ja": "日本語", "ar": "العربية"}

PEOPLE: list[tuple[str, str, list[dict[str, Any]], str]] = [
    ("ida", "Ida Marlow", [{"name": "managing-editor"}], "runs the workflow, releases and plans"),
    ("oda", "Oda Brandt", [{"name": "section-editor"}], "reviews labels and galleries"),
    ("tomas", "Tomas Quill", [{"name": "section-editor"}], "reviews notices and talks"),
    ("wim", "Wim Aster", [{"name": "writer", "locales": ["en"]}], "writes"),
    ("nell", "Nell Farrow", [{"name": "writer", "locales": ["en"]}], "writes"),
    ("rhea", "Rhea Calder", [{"name": "reviewer", "locales": ["en"]}], "conservator, reviews facts"),
    ("jonas", "Jonas Pike", [{"name": "release-editor"}], "releases"),
    ("mina", "Mina Solveig", [{"name": "translation-coordinator"}], "commissions translations"),
    ("luc", "Luc Morel", [{"name": "translation-reviewer", "locales": ["fr"]}], "accepts French"),
    ("aiko", "Aiko Tanabe", [{"name": "translation-reviewer", "locales": ["ja"]}], "accepts Japanese"),
    ("hanne", "Hanne Voss", [{"name": "translator", "locales": ["de"]}], "writes German"),
    ("sami", "Sami Nader", [{"name": "translator", "locales": ["ar"]}], "writes Arabic"),
    ("priya", "Priya Lindgren", [{"name": "reviewer"}], "reviews for accessibility"),
]


def _title(limit: int = 120, help: str = "") -> dict[str, Any]:
    return {"name": "title", "kind": "line", "label": "Title", "required": True, "limit": limit, "help": help}


def _slug() -> dict[str, Any]:
    return {
        "name": "slug",
        "kind": "slug",
        "label": "Address",
        "follows": "title",
        "required": True,
        "help": "The last part of the web address. It follows the title until you type one.",
    }


_BODY = {"name": "body", "kind": "rich", "label": "Text", "required": True}
_BELOW = {
    "name": "below",
    "kind": "parent",
    "label": "Placed in",
    "shared": True,
    "types": ["gallery"],
    "help": "The gallery that it stands in, which also gives its address.",
}
SETS: list[dict[str, Any]] = [
    {
        "name": "desk",
        "label": "For the desk",
        "help": "How an entry is called among colleagues and shown in lists.",
        "fields": [
            {
                "name": "working_name",
                "kind": "line",
                "label": "Working name",
                "shared": True,
                "limit": 80,
                "help": "What it is called here, whatever its title says.",
            },
            {"name": "pinned", "kind": "boolean", "label": "Keep on top", "shared": True},
            {
                "name": "shown_date",
                "kind": "date",
                "label": "Shown date",
                "shared": True,
                "help": "In place of the day of its first release.",
            },
        ],
    },
    {
        "name": "search_and_sharing",
        "label": "Search and sharing",
        "help": "What search engines show.",
        "fields": [
            {"name": "search_title", "kind": "line", "label": "Title in searches", "limit": 120},
            {"name": "meta_description", "kind": "text", "label": "Description in searches", "limit": 320},
            {
                "name": "search_picture",
                "kind": "reference",
                "label": "Sharing picture",
                "types": ["picture"],
                "shared": True,
                "help": "Shown where somebody shares the page.",
            },
        ],
    },
]
_TOPICS = {
    "name": "topics",
    "kind": "reference",
    "label": "Topics",
    "types": ["topic"],
    "many": True,
    "shared": True,
}
_AT_THE_DESK = {"internal": "working_name", "pinned": "pinned", "dated": "shown_date"}
_SEARCHED = {
    "search_title": "search_title",
    "meta_description": "meta_description",
    "search_picture": "search_picture",
}
_LOOK = [
    {
        "name": "anchor",
        "kind": "line",
        "label": "Anchor",
        "limit": 40,
        "option": True,
        "shared": False,
        "help": "So that links can lead right here, after a # in the address.",
    },
    {
        "name": "spacing",
        "kind": "choice",
        "label": "Room around it",
        "choices": ["close", "even", "wide"],
        "option": True,
    },
    {"name": "background", "kind": "choice", "label": "Ground", "choices": ["mist", "sand"], "option": True},
    {
        "name": "hidden",
        "kind": "choice",
        "label": "Hidden where the screen is",
        "choices": ["narrow", "wide"],
        "option": True,
    },
]
_WORDS_BLOCK = {
    "name": "words",
    "label": "Words",
    "help": "Paragraphs, headings and lists.",
    "fields": [{"name": "text", "kind": "rich", "label": "Text", "required": True}, *_LOOK],
}
_QUOTE_BLOCK = {
    "name": "quote",
    "label": "Quote",
    "fields": [
        {"name": "said", "kind": "text", "label": "What was said", "required": True, "limit": 600},
        {"name": "by", "kind": "reference", "label": "By", "types": ["person"]},
        *_LOOK,
    ],
}
_PICTURE_BLOCK = {
    "name": "picture",
    "label": "Picture",
    "fields": [
        {
            "name": "picture",
            "kind": "reference",
            "label": "Picture",
            "types": ["picture", "media"],
            "required": True,
        },
        {"name": "caption", "kind": "line", "label": "Caption"},
        *_LOOK,
    ],
}
_SIDE_BY_SIDE = {
    "name": "beside",
    "label": "Side by side",
    "help": "Blocks in one row.",
    "fields": [
        {
            "name": "cells",
            "kind": "blocks",
            "label": "Cells",
            "limit": 3,
            "blocks": [_WORDS_BLOCK, _QUOTE_BLOCK, _PICTURE_BLOCK],
        }
    ],
}
_LISTING_BLOCK = {
    "name": "listing",
    "label": "List",
    "help": "Entries by a rule; the list is made when the page is read.",
    "fields": [
        {"name": "heading", "kind": "line", "label": "Heading"},
        {"name": "list", "kind": "query", "label": "What it lists", "required": True},
        *_LOOK,
    ],
}
_KEPT_BLOCK = {
    "name": "kept",
    "label": "Common block",
    "help": "Kept in one place and shown on many pages.",
    "fields": [
        {
            "name": "block",
            "kind": "reference",
            "label": "Common block",
            "types": ["common_block"],
            "required": True,
        },
        *_LOOK,
    ],
}
_PLAIN_BLOCKS = [_WORDS_BLOCK, _QUOTE_BLOCK, _PICTURE_BLOCK, _LISTING_BLOCK, _KEPT_BLOCK]
_ROW = {
    "name": "row",
    "label": "Row",
    "arranges": "row",
    "help": "Columns beside one another.",
    "fields": [
        {
            "name": "columns",
            "kind": "blocks",
            "label": "Columns",
            "limit": 4,
            "blocks": [
                {
                    "name": "column",
                    "label": "Column",
                    "arranges": "column",
                    "fields": [
                        {
                            "name": "width",
                            "kind": "number",
                            "label": "Width in twelfths",
                            "minimum": 1,
                            "maximum": 12,
                            "default": 6,
                            "option": True,
                        },
                        _LOOK[3],
                        {"name": "content", "kind": "blocks", "label": "In it", "blocks": _PLAIN_BLOCKS},
                    ],
                }
            ],
        },
        *_LOOK,
    ],
}
_BLOCKS = [_WORDS_BLOCK, _QUOTE_BLOCK, _PICTURE_BLOCK, _SIDE_BY_SIDE, _ROW, _LISTING_BLOCK, _KEPT_BLOCK]
_ITEM_FIELDS = [
    {"name": "label", "kind": "line", "label": "Words", "limit": 60},
    {"name": "to", "kind": "link", "label": "Leads to", "required": True},
]
TYPES: list[dict[str, Any]] = [
    {
        "name": "topic",
        "label": "Topic",
        "workflow": "short",
        "help": "What entries are about. Topics lie below one another.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name", "required": True, "limit": 80},
            {
                "name": "below",
                "kind": "parent",
                "label": "Part of",
                "shared": True,
                "types": ["topic"],
            },
        ],
    },
    {
        "name": "exhibition",
        "label": "Exhibition",
        "help": "A show that opens and closes, with a page made of blocks.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Title", "required": True, "limit": 120},
            {"name": "slug", "kind": "slug", "label": "Address", "follows": "title", "required": True},
            {"name": "page", "kind": "blocks", "label": "Page", "required": True, "blocks": _BLOCKS},
            {
                "name": "opens",
                "kind": "instant",
                "label": "Opens",
                "shared": True,
                "help": "The hour at which the first visitor may come in.",
            },
            {
                "name": "hours",
                "kind": "group",
                "label": "Hours",
                "many": True,
                "fields": [
                    {"name": "days", "kind": "line", "label": "Days", "required": True},
                    {"name": "hours", "kind": "line", "label": "From and until", "required": True},
                ],
            },
            {
                "name": "place",
                "kind": "place",
                "label": "Where",
                "shared": True,
                "help": "Of the door, for maps.",
            },
            {"name": "tickets", "kind": "link", "label": "Tickets", "shared": True},
            {
                "name": "price",
                "kind": "group",
                "label": "Entry",
                "shared": True,
                "fields": [
                    {"name": "full", "kind": "number", "label": "Full price", "minimum": 0},
                    {"name": "reduced", "kind": "number", "label": "Reduced", "minimum": 0},
                ],
            },
            _TOPICS,
            {
                "name": "light",
                "kind": "json",
                "label": "Light plan",
                "shared": True,
                "help": "For the lamp controllers in the hall.",
            },
        ],
        "sets": ["desk", "search_and_sharing"],
        **_AT_THE_DESK,
        **_SEARCHED,
    },
    {
        "name": "front",
        "label": "Front page",
        "single": True,
        "site": True,
        "help": "The first page of the site, above all others in the outline. There is exactly one.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Title", "required": True},
            {"name": "page", "kind": "blocks", "label": "Page", "blocks": _BLOCKS},
        ],
        "sets": ["search_and_sharing"],
        **_SEARCHED,
    },
    {
        "name": "common_block",
        "label": "Common block",
        "common": True,
        "workflow": "short",
        "help": "Something that many pages show. It is kept here, once.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name", "required": True, "limit": 80},
            {
                "name": "content",
                "kind": "blocks",
                "label": "Content",
                "required": True,
                "blocks": [_WORDS_BLOCK, _QUOTE_BLOCK, _PICTURE_BLOCK, _LISTING_BLOCK],
            },
        ],
    },
    {
        "name": "frame",
        "label": "Page frame",
        "single": True,
        "workflow": "short",
        "help": "What stands beside and below every page, unless the page has something of its own there.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name", "required": True},
            {"name": "aside", "kind": "blocks", "label": "Beside the text", "blocks": _PLAIN_BLOCKS},
            {"name": "foot", "kind": "blocks", "label": "Below the text", "blocks": _PLAIN_BLOCKS},
        ],
    },
    {
        "name": "page",
        "label": "Page",
        "layout": "frame",
        "help": "A page of rows, columns and blocks.",
        "fields": [
            _title(),
            _slug(),
            {"name": "page", "kind": "blocks", "label": "Page", "required": True, "blocks": _BLOCKS},
            {
                "name": "aside",
                "kind": "blocks",
                "label": "Beside the text",
                "region": True,
                "blocks": _PLAIN_BLOCKS,
            },
            {
                "name": "foot",
                "kind": "blocks",
                "label": "Below the text",
                "region": True,
                "blocks": _PLAIN_BLOCKS,
            },
            {
                "name": "below",
                "kind": "parent",
                "label": "Placed below",
                "shared": True,
                "types": ["front", "page"],
            },
        ],
        "sets": ["desk", "search_and_sharing"],
        **_AT_THE_DESK,
        **_SEARCHED,
    },
    {
        "name": "menu",
        "label": "Menu",
        "menu": True,
        "workflow": "short",
        "help": "Links in the order in which the site shows them.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name", "required": True},
            {
                "name": "items",
                "kind": "blocks",
                "label": "Items",
                "blocks": [
                    {
                        "name": "item",
                        "label": "Item",
                        "fields": [
                            *_ITEM_FIELDS,
                            {
                                "name": "below",
                                "kind": "blocks",
                                "label": "Below it",
                                "blocks": [{"name": "item", "label": "Item", "fields": _ITEM_FIELDS}],
                            },
                        ],
                    }
                ],
            },
        ],
    },
    {
        "name": "label",
        "label": "Exhibit label",
        "help": "The text beside an exhibit, and its page on the site.",
        "fields": [
            _title(help="What it is, as a visitor would say it."),
            _slug(),
            {
                "name": "summary",
                "kind": "text",
                "label": "Summary",
                "limit": 300,
                "derives": "body",
                "help": "One or two sentences for lists. While it is empty, the opening of the text stands in.",
            },
            _BODY,
            {
                "name": "picture",
                "kind": "reference",
                "label": "Picture",
                "types": ["picture"],
                "shared": True,
                "help": "Shown large at the top of the page.",
            },
            {"name": "maker", "kind": "reference", "label": "Made by", "types": ["person"], "shared": True},
            {
                "name": "number",
                "kind": "line",
                "label": "Accession number",
                "required": True,
                "shared": True,
                "limit": 20,
                "help": "As in the register, such as PH 1841.7.",
            },
            {"name": "year", "kind": "number", "label": "Year", "shared": True},
            _TOPICS,
            {"name": "tags", "kind": "tags", "label": "Tags", "shared": True},
            _BELOW,
        ],
        "sets": ["desk", "search_and_sharing"],
        **_AT_THE_DESK,
        **_SEARCHED,
    },
    {
        "name": "notice",
        "label": "Visitor notice",
        "help": "Something visitors should know, for a while.",
        "fields": [
            _title(90),
            _slug(),
            _BODY,
            {
                "name": "kind",
                "kind": "choice",
                "label": "Kind",
                "shared": True,
                "choices": ["opening hours", "access", "closure", "event"],
            },
            {"name": "until", "kind": "date", "label": "Holds until", "shared": True},
            {
                "name": "gallery",
                "kind": "reference",
                "label": "About gallery",
                "types": ["gallery"],
                "shared": True,
            },
        ],
        "sets": ["desk"],
        **_AT_THE_DESK,
    },
    {
        "name": "person",
        "label": "Person",
        "workflow": "short",
        "help": "Somebody whom labels refer to.",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name", "required": True, "limit": 120},
            _slug(),
            {"name": "life", "kind": "rich", "label": "Life"},
            {"name": "born", "kind": "number", "label": "Born", "shared": True},
            {"name": "died", "kind": "number", "label": "Died", "shared": True},
            {
                "name": "portrait",
                "kind": "reference",
                "label": "Portrait",
                "types": ["picture"],
                "shared": True,
            },
        ],
    },
    {
        "name": "gallery",
        "label": "Gallery",
        "section": True,
        "workflow": "short",
        "help": "A room of the museum, and a section of the site.",
        "fields": [
            _title(80),
            _slug(),
            {**_BODY, "required": False},
            {"name": "floor", "kind": "number", "label": "Floor", "shared": True},
            {"name": "step_free", "kind": "boolean", "label": "Step-free", "shared": True},
            {
                **_BELOW,
                "label": "Placed below",
                "types": ["front", "gallery"],
                "help": "Another gallery, or the front page.",
            },
        ],
    },
    {
        "name": "talk",
        "label": "Talk",
        "fields": [
            _title(),
            _slug(),
            _BODY,
            {
                "name": "speakers",
                "kind": "reference",
                "label": "Speakers",
                "types": ["person"],
                "many": True,
                "shared": True,
            },
            {"name": "day", "kind": "date", "label": "Day", "required": True, "shared": True},
            {
                "name": "picture",
                "kind": "reference",
                "label": "Picture",
                "types": ["picture"],
                "shared": True,
            },
        ],
    },
    {
        "name": "note",
        "label": "Curator's note",
        "fields": [
            _title(),
            _slug(),
            _BODY,
            {
                "name": "about",
                "kind": "reference",
                "label": "About",
                "types": ["label"],
                "many": True,
                "shared": True,
            },
        ],
    },
]

GALLERIES = [
    (
        "Lights and Signals",
        1,
        True,
        "<p>How a coast is marked by night and in fog, from tar barrels to lenses.</p>",
    ),
    ("Boats of the Harbour", 0, True, "<p>Nine boats that were built within sight of this room.</p>"),
    ("Ropes and Rigging", 2, False, "<p>The ropewalk ran the length of the quay. Here is what it made.</p>"),
]
MAKERS = [
    (
        "Edmund Vane",
        1798,
        1871,
        "<p>Brass founder of Pellgrave. He cast the fittings of eleven lighthouses.</p>",
    ),
    ("Marta Hollin", 1822, 1903, "<p>Ropemaker, and the first woman to hold a stall on the quay.</p>"),
    ("Josef Arrend", 1844, 1919, "<p>Boatbuilder. His yard stood where the museum's café is now.</p>"),
]
PICTURES = [
    (
        "lamp",
        "Harbour lamp",
        "A brass oil lamp with a thick glass lens, lit from within.",
        "Photograph: museum workshop",
    ),
    (
        "boat",
        "Pilot boat at the quay",
        "A black pilot boat with one mast, tied up at a stone quay.",
        "Drawing: museum workshop",
    ),
    ("rope", "Coils of rope", "Three coils of tarred rope hanging from pegs.", "Photograph: museum workshop"),
    ("bell", "Fog bell", "A bronze bell on an iron frame at the end of a pier.", "Drawing: museum workshop"),
    ("chart", "Chart of the bay", "A hand-drawn chart of the bay with soundings in red ink.", ""),
]
LABELS: list[dict[str, Any]] = [
    {
        "title": "The harbour lamp",
        "summary": "The lamp that stood at the end of the north pier for seventy years.",
        "body": "<p>This lamp stood at the end of the north pier from 1841. Its keeper lit it every evening at dusk.</p>"
        "<h2>How it worked</h2><p>A round wick drew whale oil up from a <strong>brass tank</strong>. The thick glass "
        "turned its small flame into a beam that could be seen for nine miles.</p><ul><li>Height: 84 cm</li>"
        "<li>Weight: 31 kg</li></ul><p>It was taken down in 1911, when the pier was given electric light.</p>",
        "number": "PH 1841.7",
        "year": 1841,
        "tags": ["light", "brass"],
        "picture": "lamp",
        "maker": "Edmund Vane",
        "below": "Lights and Signals",
    },
    {
        "title": "The pilot boat Constance",
        "summary": "She brought pilots out to ships in all weathers.",
        "body": "<p>The Constance was built in 1878 to carry pilots out to ships that waited in the roads.</p>"
        "<p>She is <em>clinker built</em>: each plank overlaps the one below. Four people could row her against the tide.</p>",
        "number": "PH 1960.2",
        "year": 1878,
        "tags": ["boat", "pilots"],
        "picture": "boat",
        "maker": "Josef Arrend",
        "below": "Boats of the Harbour",
    },
    {
        "title": "A coil of tarred hemp",
        "summary": "Rope from the last year of the ropewalk.",
        "body": "<p>This coil was laid in 1902, the last year of the ropewalk. It still smells of tar.</p>"
        "<p>Run your hand along the sample below. It is safe to touch.</p>",
        "number": "PH 1902.1",
        "year": 1902,
        "tags": ["rope"],
        "picture": "rope",
        "maker": "Marta Hollin",
        "below": "Ropes and Rigging",
    },
    {
        "title": "The fog bell",
        "summary": "It rang every thirty seconds when the lamp could not be seen.",
        "body": "<p>In fog the lamp was of no use, and the keeper rang this bell every thirty seconds.</p>"
        "<p>After 1889 a clockwork did it for him. You can hear it on the first Sunday of each month.</p>",
        "number": "PH 1855.3",
        "year": 1855,
        "tags": ["signals", "bronze"],
        "picture": "bell",
        "maker": "Edmund Vane",
        "below": "Lights and Signals",
    },
    {
        "title": "A chart of the bay",
        "summary": "",
        "body": "<p>Soundings on this chart were taken by hand with a lead line over two summers.</p>",
        "number": "PH 1833.1",
        "year": 1833,
        "tags": ["charts"],
        "picture": "chart",
        "below": "Lights and Signals",
    },
]
NOTICES: list[dict[str, Any]] = [
    {
        "title": "Winter opening hours",
        "body": "<p>From November to March the museum is open from ten to four. It is closed on Mondays.</p>"
        "<p>The café opens half an hour earlier.</p>",
        "kind": "opening hours",
    },
    {
        "title": "The lift is being repaired",
        "body": "<p>The lift to the second floor is being repaired. Staff at the desk will show you the ramp by the quay.</p>",
        "kind": "access",
        "gallery": "Ropes and Rigging",
    },
    {
        "title": "Closed for the regatta",
        "body": "<p>The museum is closed on the day of the regatta. The quay stays open to all.</p>",
        "kind": "closure",
    },
    {
        "title": "Free entry on the first Sunday",
        "body": "<p>Entry is free on the first Sunday of every month. The fog bell is rung at noon.</p>",
        "kind": "event",
    },
]
TALKS: list[dict[str, Any]] = [
    {
        "title": "What a lamp keeper wrote at night",
        "body": "<p>Extracts from the log of the north pier, read aloud and explained. With tea.</p>",
        "speakers": ["Edmund Vane"],
    },
    {
        "title": "Splicing for beginners",
        "body": "<p>Bring nothing but your hands. We have the rope.</p>",
        "speakers": [],
    },
]
NOTES: list[dict[str, Any]] = [
    {
        "title": "Why the lens was turned around",
        "body": "<p>When we opened the lamp for cleaning, the lens was the wrong way round. Here is what we think happened.</p>",
    },
]
TRANSLATED: dict[str, dict[str, dict[str, Any]]] = {
    "Winter opening hours": {
        "fr": {
            "title": "Horaires d'hiver",
            "body": "<p>De novembre à mars, le musée est ouvert de dix heures à seize heures. Il est fermé le lundi.</p>"
            "<p>Le café ouvre une demi-heure plus tôt.</p>",
        },
        "de": {
            "title": "Öffnungszeiten im Winter",
            "body": "<p>Von November bis März ist das Museum von zehn bis sechzehn Uhr geöffnet. Montags ist geschlossen.</p>"
            "<p>Das Café öffnet eine halbe Stunde früher.</p>",
        },
        "ar": {
            "title": "ساعات العمل في الشتاء",
            "body": "<p>من نوفمبر إلى مارس يفتح المتحف من العاشرة حتى الرابعة. وهو مغلق يوم الاثنين.</p>"
            "<p>يفتح المقهى قبل ذلك بنصف ساعة.</p>",
        },
    },
    "The fog bell": {
        "ja": {
            "title": "霧の鐘",
            "summary": "灯りが見えないとき、三十秒ごとに鳴らされました。",
            "body": "<p>霧の中では灯りは役に立たず、番人は三十秒ごとにこの鐘を鳴らしました。</p>"
            "<p>1889年からは時計仕掛けがその役を務めました。毎月第一日曜日に音を聞くことができます。</p>",
        },
    },
}

TOPICS: list[tuple[str, str]] = [
    ("Navigation", ""),
    ("Lights", "Navigation"),
    ("Fog signals", "Navigation"),
    ("Trades", ""),
    ("Ropemaking", "Trades"),
    ("Boatbuilding", "Trades"),
]
ABOUT = {
    "The harbour lamp": ["Lights"],
    "The fog bell": ["Fog signals"],
    "A coil of tarred hemp": ["Ropemaking"],
    "The pilot boat Constance": ["Boatbuilding", "Navigation"],
}
EXHIBITION: dict[str, Any] = {
    "title": "Seven ways to mark a rock",
    "working_name": "Rocks, spring show",
    "page": [
        {
            "id": "intro",
            "kind": "words",
            "fields": {
                "text": "<p>Three miles out lies the Maiden, a rock that the tide covers twice a day.</p>"
                '<hr class="opening"><p>For four hundred years people tried to mark it: with a pole, a bell, a barrel, '
                "and in the end with a light.</p>"
            },
        },
        {
            "id": "row",
            "kind": "beside",
            "fields": {
                "cells": [
                    {
                        "id": "saying",
                        "kind": "quote",
                        "fields": {"said": "A rock with a bell on it is half a rock."},
                    },
                    {
                        "id": "seen",
                        "kind": "picture",
                        "fields": {"caption": "The fog bell, before it was hung on the pier"},
                    },
                ]
            },
        },
        {
            "id": "end",
            "kind": "words",
            "fields": {"text": "<h2>Come and ring it</h2><p>The bell is rung at noon.</p>"},
        },
    ],
    "hours": [
        {"id": "week", "fields": {"days": "Tuesday to Saturday", "hours": "10 to 5"}},
        {"id": "sunday", "fields": {"days": "Sunday", "hours": "noon to 4"}},
    ],
    "place": {"latitude": 54.2712, "longitude": -3.1184},
    "tickets": {"href": "https://tickets.pellgrave.example/rocks", "text": "Book a slot"},
    "price": {"full": 9, "reduced": 5},
    "light": {"hall": 2, "lux": 50},
}
FRONT: dict[str, Any] = {
    "title": "Pellgrave Harbour Museum",
    "page": [
        {
            "id": "welcome",
            "kind": "words",
            "fields": {
                "text": "<p>A museum of lights, boats and ropes, on the quay where they were made.</p>"
            },
        },
        {
            "id": "lists",
            "kind": "row",
            "fields": {
                "columns": [
                    {
                        "id": "wider",
                        "kind": "column",
                        "fields": {
                            "width": 7,
                            "content": [
                                {
                                    "id": "objects",
                                    "kind": "listing",
                                    "fields": {
                                        "heading": "From the collection",
                                        "list": {"types": ["label"], "limit": 6},
                                    },
                                },
                                {
                                    "id": "rooms",
                                    "kind": "listing",
                                    "fields": {
                                        "heading": "Galleries",
                                        "list": {"types": ["gallery"], "order": "title", "limit": 9},
                                    },
                                },
                            ],
                        },
                    },
                    {
                        "id": "slim",
                        "kind": "column",
                        "fields": {
                            "width": 5,
                            "content": [
                                {
                                    "id": "news",
                                    "kind": "listing",
                                    "fields": {
                                        "heading": "Notices",
                                        "list": {"types": ["notice"], "limit": 5},
                                        "background": "mist",
                                    },
                                },
                                {
                                    "id": "soon",
                                    "kind": "listing",
                                    "fields": {
                                        "heading": "Talks and exhibitions",
                                        "list": {"types": ["talk", "exhibition"], "limit": 5},
                                    },
                                },
                            ],
                        },
                    },
                ]
            },
        },
    ],
    "meta_description": "Lights, boats and ropes on the quay of Pellgrave: exhibits, talks and what is on at the museum.",
}
FINDING_US: dict[str, Any] = {
    "title": "How to find us",
    "content": [
        {
            "id": "where",
            "kind": "words",
            "fields": {
                "text": "<h2>How to find us</h2><p>On the north quay, ten minutes on foot from the station. Bus 4 stops at "
                "the door.</p>",
                "background": "sand",
            },
        }
    ],
}
FRAME: dict[str, Any] = {
    "title": "Frame of all pages",
    "aside": [
        {
            "id": "latest",
            "kind": "listing",
            "fields": {"heading": "Latest notices", "list": {"types": ["notice"], "limit": 3}},
        }
    ],
    "foot": [{"id": "way", "kind": "kept", "fields": {}}],
}
PAGES: list[dict[str, Any]] = [
    {
        "title": "Visit",
        "page": [
            {
                "id": "first",
                "kind": "words",
                "fields": {
                    "text": "<p>Come by boat, by bus or on foot. The quay is level, and the door is wide.</p>"
                },
            },
            {
                "id": "both",
                "kind": "row",
                "fields": {
                    "columns": [
                        {
                            "id": "left",
                            "kind": "column",
                            "fields": {
                                "width": 8,
                                "content": [
                                    {
                                        "id": "open",
                                        "kind": "words",
                                        "fields": {
                                            "text": "<h2>Opening hours</h2><p>Ten to five, from Tuesday to Sunday. In winter we "
                                            "close at four.</p>",
                                            "anchor": "hours",
                                        },
                                    }
                                ],
                            },
                        },
                        {
                            "id": "right",
                            "kind": "column",
                            "fields": {
                                "width": 4,
                                "content": [
                                    {
                                        "id": "quay",
                                        "kind": "picture",
                                        "fields": {"caption": "The pilot boat, at the quay"},
                                    }
                                ],
                            },
                        },
                    ]
                },
            },
        ],
        "meta_description": "Opening hours, prices and the way to the museum on the north quay of Pellgrave.",
    },
    {
        "title": "With children",
        "in": "Visit",
        "page": [
            {
                "id": "ring",
                "kind": "words",
                "fields": {
                    "text": "<p>Children may ring the fog bell on Sundays at noon. Under-fives come in free.</p>"
                },
            }
        ],
        "aside": [
            {
                "id": "own",
                "kind": "quote",
                "fields": {"said": "The bell is louder than my brother.", "background": "sand"},
            }
        ],
    },
    {
        "title": "Access",
        "in": "Visit",
        "page": [
            {
                "id": "step",
                "kind": "words",
                "fields": {
                    "text": "<p>All galleries but one are step-free. The lift to the second floor takes two wheelchairs.</p>"
                },
            }
        ],
        "meta_description": "Opening hours, prices and the way to the museum on the north quay of Pellgrave.",
    },
    {
        "title": "About the museum",
        "page": [
            {
                "id": "history",
                "kind": "words",
                "fields": {
                    "text": "<p>The museum was opened in 1931 by the last keeper of the north pier, in his own sail loft.</p>"
                },
            }
        ],
    },
]
CAPTIONS = """WEBVTT

00:00.000 --> 00:02.000
[The fog bell strikes once]

00:02.000 --> 00:04.000
[It rings on, and dies away over the water]
"""
FOLDERS = {"Collection": ["lamp", "rope", "bell", "chart"], "Around the harbour": ["boat"]}
FOCUS = {"lamp": [50, 40], "boat": [60, 60], "bell": [50, 45]}
LISTS: list[tuple[str, str, dict[str, Any], bool]] = [
    ("oda", "Labels with something missing", {"type": "label", "incomplete": True}, True),
    ("ida", "Out, but the draft has moved on", {"behind": True}, True),
    ("ida", "About lights and fog", {"topic": "Navigation"}, False),
]

# Who reads what is written about the collection, and who checks what it claims.
CHECKED: dict[str, Any] = {
    "name": "checked",
    "label": "Draft, review, facts, release",
    "stages": [
        {"name": "draft", "label": "Draft"},
        {"name": "review", "label": "Review", "gate": {"checks": ["required", "length"]}},
        {
            "name": "facts",
            "label": "Facts",
            "gate": {
                "sign_offs": 1,
                "roles": ["section-editor", "managing-editor"],
                "checks": ["required", "links"],
            },
        },
        {
            "name": "release",
            "label": "Release",
            "gate": {
                "sign_offs": 1,
                "roles": ["reviewer"],
                "checks": ["required", "links", "references", "alt"],
                "embedded": "hold",
                "custom": [
                    {
                        "name": "Title fits the board",
                        "holds": "size(title) <= 60",
                        "says": "The title has more than the 60 characters that fit on the board in the hall.",
                    }
                ],
                "override_roles": ["managing-editor"],
            },
        },
    ],
}
CHOICES: list[dict[str, str]] = [{"workflow": "checked", "type": "exhibition"}]
# Who says what about which field and words of which entry, and who answers.
COMMENTS: list[tuple[str, str, str, str, str, list[tuple[str, str]]]] = [
    (
        "rhea",
        "The harbour lamp",
        "body",
        "colza oil",
        "The ledger of 1843 says colza; before that it was whale oil. @wim could we say both?",
        [("wim", "I will add half a sentence once I have seen the ledger.")],
    ),
    (
        "oda",
        "The harbour lamp",
        "title",
        "",
        "Shall we call it by the name that the keepers used? @nell what do you think?",
        [],
    ),
    (
        "tomas",
        "The lift is being repaired",
        "",
        "",
        "@wim please say until when, even if it is only the week.",
        [("wim", "The builder says the end of the month.")],
    ),
    ("priya", "The fog bell", "body", "", "Long sentences here are hard to follow by ear.", []),
]
SETTLED = {"The lift is being repaired"}
# Who gives what to whom, due so many days from now, with a note.
ASSIGNED: list[tuple[str, str, str, int, str]] = [
    ("oda", "wim", "A keeper's oilskin coat", 1, "The panel is printed on the day after."),
    ("oda", "nell", "The fog bell", -2, "Shorten it to what fits on the rail."),
    ("ida", "tomas", "Access", 6, ""),
]
