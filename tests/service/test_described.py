"""What readers get is what its types and its document say: checked by a TypeScript compiler, by pydantic and by JSON Schema, on everything that is out."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path
from types import ModuleType
from typing import Any

import jsonschema_rs
import pydantic
import pytest

from hawthorn.core import contenttypes, type_files
from hawthorn.core.type_files import Shape
from tests.conftest import Running

CONSOLE = Path(__file__).parents[2] / "console"


def everything(running: Running) -> list[dict[str, Any]]:
    """The bodies of all that is out, in two languages, and of all drafts."""
    http = running.as_("ida")._http
    out: list[dict[str, Any]] = []
    for asked in ({"locale": "en"}, {"locale": "ar"}, {"locale": "en", "stage": "draft"}):
        cursor = ""
        while True:
            page = http.get(
                "/read/entries",
                params={**asked, "limit": 100, "cursor": cursor} if cursor else {**asked, "limit": 100},
            ).json()
            out += page["items"]
            cursor = page["next"]
            if not cursor:
                break
    assert len({one["type"] for one in out}) > 10
    return out


def test_a_typescript_compiler_takes_every_body_for_what_its_type_says(
    running: Running, tmp_path: Path
) -> None:
    made = running.as_("ida").read_types("typescript")
    (tmp_path / "museum.ts").write_text(made, "utf-8")
    lines = ['import type { AnyEntry, Notice } from "./museum";', "export const all: AnyEntry[] = ["]
    lines += [f"  {json.dumps(one, ensure_ascii=False)}," for one in everything(running)]
    lines += ["];", "export const kind = (one: Notice) => one.fields.kind satisfies string | undefined;"]
    (tmp_path / "all.ts").write_text("\n".join(lines), "utf-8")

    def compiled(*files: str) -> subprocess.CompletedProcess[str]:
        tsc = CONSOLE / "node_modules/typescript/bin/tsc"
        options = [
            "--noEmit",
            "--strict",
            "--target",
            "es2022",
            "--moduleResolution",
            "bundler",
            "--module",
            "esnext",
        ]
        return subprocess.run(
            ["node", str(tsc), *options, *files], cwd=tmp_path, capture_output=True, text=True
        )

    found = compiled("all.ts")
    assert found.returncode == 0, found.stdout[:2_000]
    wrong = 'import type { Notice } from "./museum";\nexport const one = (it: Notice): number => it.fields.title;\n'
    (tmp_path / "wrong.ts").write_text(wrong)
    assert "error TS" in compiled("wrong.ts").stdout


def loaded(text: str, path: Path) -> ModuleType:
    """A module made from its text."""
    path.write_text(text, "utf-8")
    module = ModuleType(path.stem)
    sys.modules[path.stem] = module
    exec(compile(text, str(path), "exec"), module.__dict__)
    return module


def test_python_types_hold_every_body(running: Running, tmp_path: Path) -> None:
    module = loaded(running.as_("ida").read_types("python"), tmp_path / "museum_types.py")
    adapters: dict[str, pydantic.TypeAdapter[Any]] = {}
    bodies = everything(running)
    for one in bodies:
        name = type_files.base.pascal(one["type"])
        adapter = adapters.setdefault(name, pydantic.TypeAdapter(getattr(module, name)))
        adapter.validate_python(one, strict=True)
    notice = next(one for one in bodies if one["type"] == "notice")
    with pytest.raises(pydantic.ValidationError):
        adapters["Notice"].validate_python({**notice, "fields": {**notice["fields"], "kind": "party"}})


def test_the_document_describes_every_body_and_each_condition(running: Running) -> None:
    document = running.as_("ida").read_openapi()
    known = document["components"]["schemas"]
    defined = json.loads(json.dumps(known).replace("#/components/schemas/", "#/$defs/"))
    validators: dict[str, Any] = {}
    for one in everything(running):
        called = document["components"]["schemas"]["ReadEntry"]["discriminator"]["mapping"][one["type"]]
        schema = {"$ref": called.replace("#/components/schemas/", "#/$defs/"), "$defs": defined}
        validators.setdefault(one["type"], jsonschema_rs.validator_for(schema)).validate(one)
    asked = {p["name"] for p in document["paths"]["/read/entries"]["get"]["parameters"]}
    assert {
        "where.kind",
        "where.day.from",
        "where.date.last",
        "where.place.near",
        "where.title.contains",
        "limit",
    } <= asked
    assert "where" not in asked
    assert not any(path.startswith("/api/") for path in document["paths"])
    # Refusals are described as they are sent, and nothing is named that is not there.
    refusal = document["paths"]["/read/entries"]["get"]["responses"]["422"]["content"]
    assert refusal["application/problem+json"]["schema"] == {"$ref": "#/components/schemas/Problem"}
    named = set(re.findall(r'"#/components/schemas/(\w+)"', json.dumps(document)))
    assert named - {*known} == set()
    # Who has no key learns nothing of types that they do not get.
    assert all(path.startswith(("/read/", "/feeds/")) for path in document["paths"])


def test_odd_names_and_labels_make_files_that_still_compile(tmp_path: Path) -> None:
    kind = contenttypes.from_dict(
        {
            "name": "odd_one",
            "label": 'A */ "label" \\ with\nlines',
            "fields": [
                {"name": "title", "kind": "line"},
                {"name": "class", "kind": "line", "label": "*/"},
                {"name": "choice", "kind": "choice", "choices": ['a"b', "c\\d", "é"]},
                {
                    "name": "blocks",
                    "kind": "blocks",
                    "blocks": [{"name": "from", "fields": [{"name": "import", "kind": "number"}]}],
                },
            ],
        }
    )
    shape = Shape(kind.name, kind.label, contenttypes.read_schema(kind))
    module = loaded(type_files.of("python").write([shape], []), tmp_path / "odd_types.py")
    assert module.OddOne
    (tmp_path / "odd.ts").write_text(type_files.of("typescript").write([shape], ["en"]))
    tsc = CONSOLE / "node_modules/typescript/bin/tsc"
    found = subprocess.run(
        ["node", str(tsc), "--noEmit", "--strict", "odd.ts"], cwd=tmp_path, capture_output=True, text=True
    )
    assert found.returncode == 0, found.stdout
