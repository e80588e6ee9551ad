"""Where readers see entries: the live site, its preview, somebody's own machine; and the address of each page there."""

from __future__ import annotations

import ipaddress
import re
from collections.abc import Iterable, Mapping
from dataclasses import asdict, field
from typing import Any
from urllib.parse import quote, urlencode, urlsplit, urlunsplit

from hawthorn.core import shapes
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass

_NAME = re.compile(r"^[a-z][a-z0-9_]{0,30}$")
_HOST = re.compile(r"[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?|\[[0-9a-f:.]+\]")
_SLOT = re.compile(r"{([^{}]*)}")
PLAIN = ("path", "locale", "slug", "id", "type")
"""What an address may name besides fields (`{field:name}`)."""
ANY = "*"
"""Stands for every type that has no address of its own."""
CARRIES = "preview"
"""The name under which an address carries what a preview shows."""


@dataclass(frozen=True, slots=True)
class Site:
    """One place where pages are seen. `stage` is what it shows by itself: "release" for a live site. `addresses` maps a
    type, or "*" for all others, to the address of its pages, with the entry's own values in braces."""

    name: str
    label: str = ""
    stage: str = "release"
    addresses: Mapping[str, str] = field(default_factory=dict)

    def template(self, type: str) -> str:
        """The address for entries of a type, empty without one."""
        return self.addresses.get(type) or self.addresses.get(ANY, "")

    @property
    def origins(self) -> set[str]:
        """The origins (RFC 6454) of its addresses."""
        return {made for address in self.addresses.values() if (made := origin(address))}

    @property
    def shows_what_is_out(self) -> bool:
        """Whether it is a live site, with addresses of pages."""
        return self.stage == "release" and bool(self.origins)


def origin(address: str) -> str:
    """The origin of an address: scheme, host (in its ASCII form, RFC 5890) and port, and nothing else that was typed; empty
    for what has none."""
    try:
        parts = urlsplit(_SLOT.sub("x", address))
        host, port = parts.hostname or "", parts.port
        if ":" in host:
            host = f"[{ipaddress.IPv6Address(host)}]"
        else:
            host = host.encode("idna").decode()
    except (ValueError, UnicodeError):
        return ""
    if parts.scheme not in ("http", "https") or not _HOST.fullmatch(host) or port == 0:
        return ""
    return f"{parts.scheme}://{host}" + (f":{port}" if port is not None else "")


def slots_of(template: str) -> list[str]:
    """What an address names in braces."""
    return _SLOT.findall(template)


def fill(template: str, values: Mapping[str, str]) -> tuple[str, list[str]]:
    """An address with values in it, and which of the named values are empty. `path` keeps its slashes."""
    missing = [name for name in slots_of(template) if not values.get(name)]

    def put(found: re.Match[str]) -> str:
        value = values.get(found[1], "")
        return quote(
            value.lstrip("/") if found[1] == "path" else value, safe="/" if found[1] == "path" else ""
        )

    return _SLOT.sub(put, template), missing


def carrying(address: str, token: str) -> str:
    """An address that carries what a preview shows."""
    parts = urlsplit(address)
    query = "&".join(p for p in (parts.query, urlencode({CARRIES: token})) if p)
    return urlunsplit(parts._replace(query=query))


def from_list(raws: Any, types: Mapping[str, Any], stages: Iterable[str]) -> dict[str, Site]:
    """Sites from their definitions, by name, or `Invalid` with every problem in them."""
    problems: list[FieldProblem] = []
    out: dict[str, Site] = {}
    for index, raw in enumerate(shapes.members({"sites": raws}, "sites")):
        where = f"sites.{raw.get('name', index) if isinstance(raw, Mapping) else index}"
        made, wrong = shapes.shaped(Site, raw, where)
        problems += wrong
        if made is None:
            continue
        if not _NAME.match(made.name):
            problems.append(FieldProblem(where, said("common.small_name")))
        if made.name in out:
            problems.append(FieldProblem(where, said("common.twice")))
        if made.stage not in stages:
            problems.append(FieldProblem(f"{where}.stage", said("common.one_of", known=list(stages))))
        if not made.addresses:
            problems.append(FieldProblem(f"{where}.addresses", said("sites.needs_an_address")))
        for type, template in made.addresses.items():
            problems += problems_of(type, template, types, f"{where}.addresses.{type}")
        out[made.name] = made
    if problems:
        raise Invalid(problems)
    return out


def problems_of(type: str, template: str, types: Mapping[str, Any], where: str) -> list[FieldProblem]:
    """What is wrong with the address for a type."""
    if type != ANY and type not in types:
        return [FieldProblem(where, said("sites.no_content_type", kind=type))]
    if not origin(template):
        return [FieldProblem(where, said("sites.needs_a_host"))]
    if "@" in urlsplit(_SLOT.sub("x", template)).netloc:
        return [FieldProblem(where, said("sites.names_somebody"))]
    if "{" in _SLOT.sub("", template) or "}" in _SLOT.sub("", template):
        return [FieldProblem(where, said("sites.lone_brace"))]
    if _SLOT.search(urlsplit(template.replace("{path}", "")).netloc):
        return [FieldProblem(where, said("sites.host_is_fixed"))]
    out = []
    for slot in slots_of(template):
        known = slot in PLAIN
        if slot.startswith("field:") and type != ANY:
            known = any(f.name == slot.removeprefix("field:") for f in types[type].fields)
        elif slot.startswith("field:"):
            known = True
        if not known:
            known_slots = [f"{{{n}}}" for n in PLAIN]
            out.append(FieldProblem(where, said("sites.unknown_slot", slot=f"{{{slot}}}", known=known_slots)))
    return out


def to_list(sites: Iterable[Site]) -> list[dict[str, Any]]:
    """The definitions of sites, as `from_list` reads them."""
    return [asdict(site) for site in sites]
