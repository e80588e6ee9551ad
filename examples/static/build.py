"""Builds a site of plain files from what a Hawthorn service has out (or drafted), and after the first time only what changed."""

from __future__ import annotations

import argparse
import json
import mimetypes
import re
import shutil
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any

import httpx
from jinja2 import Environment, FileSystemLoader, select_autoescape

from hawthorn.client import Client, Refusal, every

HERE = Path(__file__).parent
_FILE = re.compile(r"/read/files/([0-9a-f]{64})(?:/([\w.-]+))?")


@dataclass
class Page:
    """A page that was built: where, from what, and what that depends on."""

    id: str
    locale: str
    path: str
    groups: list[str] = field(default_factory=list)
    entry: dict[str, Any] = field(default_factory=dict)


class Site:
    """The site in a folder."""

    def __init__(
        self, service: str, folder: Path, *, key: str = "", stage: str = "", site: str = "live"
    ) -> None:
        self.service, self.folder, self.key, self.stage, self.site = service, folder, key, stage, site
        self.client = Client(service, key)
        self.http = httpx.Client(base_url=service, headers={"Authorization": f"Bearer {key}"} if key else {})
        self.state = folder / ".state.json"
        self.position = ""
        self.pages: dict[str, Page] = {}
        self.said: dict[str, int] = {}
        templates = Environment(loader=FileSystemLoader(HERE), autoescape=select_autoescape(default=True))
        self.template = templates.get_template("page.html")
        if self.state.exists():
            kept = json.loads(self.state.read_text())
            self.position = kept["position"]
            self.pages = {name: Page(**page) for name, page in kept["pages"].items()}

    def __enter__(self) -> Site:
        return self

    def __exit__(self, *_: object) -> None:
        self.client.close()
        self.http.close()

    def build(self) -> dict[str, int]:
        """Bring the folder up to date; says how many pages were read, written and taken away."""
        self.said = {"read": 0, "written": 0, "removed": 0, "pictures": 0}
        found = self.client.read_changed(self.position)
        everything = found.everything or bool(self.stage)
        if everything:
            old, self.pages = self.pages, {}
            for entry in self._all():
                self._take(entry)
            gone = old.keys() - self.pages.keys()
            stale = set(self.pages)
            for name in gone:
                self._remove(old[name])
        else:
            stale = self._changed({one.id: one.there for one in found.entries}, set(found.groups))
        nav = self._nav() if everything or "outline" in found.groups else None
        if nav is not None and nav != self._kept_nav():
            (self.folder / ".nav.json").write_text(json.dumps(nav))
            stale = set(self.pages)
        for name in sorted(stale & self.pages.keys()):
            self._write(self.pages[name])
        self._beside()
        self.position = found.position
        self._keep()
        return self.said

    def _all(self) -> Iterator[dict[str, Any]]:
        for locale in self._locales():
            for one in every(
                self.client.read_entries,
                locale=locale,
                fallback=False,
                stage=self.stage,
                at_once=100,
                groups=True,
            ):
                yield one.model_dump()

    def _locales(self) -> list[str]:
        first = self.client.read_entries(limit=20, stage=self.stage).items
        return sorted({one.locale for entry in first for one in entry.locales})

    def _changed(self, entries: dict[str, bool], groups: set[str]) -> set[str]:
        """The pages to write: those of entries that changed, read anew, and those that depend on anything that did."""
        stale: set[str] = set()
        for name, page in list(self.pages.items()):
            if page.id in entries:
                # Each locale is read again, or is there no more.
                self._remove(self.pages.pop(name))
            elif groups & set(page.groups):
                self._remove(self.pages.pop(name))
                stale |= self._read(page.id, page.locale)
        for id, there in entries.items():
            if there:
                stale |= self._read_all(id)
        return stale

    def _read_all(self, id: str) -> set[str]:
        try:
            entry = self.client.read(id, stage=self.stage)
        except Refusal:
            return set()
        return {name for one in entry.locales for name in self._read(id, one.locale)}

    def _read(self, id: str, locale: str) -> set[str]:
        try:
            entry = self.client.read(
                id, locale=locale, stage=self.stage, fallback=False, groups=True
            ).model_dump()
        except Refusal:
            return set()
        return self._take(entry)

    def _take(self, entry: dict[str, Any]) -> set[str]:
        """Note what a page shows, and that it is to be written; nothing for what has no page."""
        if not entry["path"]:
            return set()
        self.said["read"] += 1
        name = f"{entry['id']} {entry['locale']}"
        self.pages[name] = Page(entry["id"], entry["locale"], entry["path"], entry["groups"] or [], entry)
        return {name}

    def _nav(self) -> dict[str, list[dict[str, str]]]:
        out: dict[str, list[dict[str, str]]] = {}
        for locale in sorted({page.locale for page in self.pages.values()}):
            top = self.client.read_outline(locale=locale, stage=self.stage, depth=1).items
            out[locale] = [
                {"title": one.title, "path": one.path} for one in top if one.path and one.locale == locale
            ]
        return out

    def _kept_nav(self) -> dict[str, list[dict[str, str]]]:
        path = self.folder / ".nav.json"
        found: dict[str, list[dict[str, str]]] = json.loads(path.read_text()) if path.exists() else {}
        return found

    def _place(self, page: Page) -> Path:
        return self.folder / page.path.strip("/") / "index.html"

    def _write(self, page: Page) -> None:
        html = self.template.render(
            entry=page.entry,
            nav=self._kept_nav().get(page.locale, []),
            drafted=self.stage,
            pictures=_pictures,
            service=self.service,
        )
        html = _FILE.sub(lambda found: self._picture(*found.groups()), html)
        place = self._place(page)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text(html)
        self.said["written"] += 1

    def _picture(self, sha256: str, name: str | None) -> str:
        """The address of a file, fetched once: it is named by what it holds."""
        short = f"{sha256[:16]}-{name}" if name else sha256[:16]
        kept = next((self.folder / "files").glob(short if name else f"{short}.*"), None)
        if kept is not None:
            return f"/files/{kept.name}"
        asked = f"/read/files/{sha256}/{name}" if name else f"/read/files/{sha256}"
        answer = self.http.get(asked, params={"stage": self.stage} if self.stage else {})
        answer.raise_for_status()
        ending = "" if name else mimetypes.guess_extension(answer.headers["content-type"].split(";")[0]) or ""
        to = self.folder / "files" / f"{short}{ending}"
        to.parent.mkdir(parents=True, exist_ok=True)
        to.write_bytes(answer.content)
        self.said["pictures"] += 1
        return f"/files/{to.name}"

    def _remove(self, page: Page) -> None:
        place = self._place(page)
        if place.exists():
            place.unlink()
            self.said["removed"] += 1

    def _beside(self) -> None:
        """The feed, the map and what programs that walk the site are told; drafts are for nobody who walks."""
        shutil.copy(HERE / "site.css", self.folder / "site.css")
        if self.stage:
            (self.folder / "robots.txt").write_text("User-agent: *\nDisallow: /\n")
            return
        for name, to in (("atom", "feed.atom"), ("sitemap.xml", "sitemap.xml"), ("robots.txt", "robots.txt")):
            answer = self.http.get(f"/feeds/{self.site}/{name}")
            if answer.status_code == 200:
                (self.folder / to).write_bytes(answer.content)

    def _keep(self) -> None:
        # Put in place whole, so that a run that was stopped is begun again from where the one before it ended.
        made = self.state.with_suffix(".new")
        kept = {"position": self.position, "pages": {name: asdict(page) for name, page in self.pages.items()}}
        made.write_text(json.dumps(kept))
        made.replace(self.state)


def _pictures(file: dict[str, Any]) -> str:
    """A picture in the sizes that there are."""
    crops = sorted(file.get("renditions", {}).values(), key=lambda one: one["width"])
    return ", ".join(f"{one['webp']} {one['width']}w" for one in crops)


def listen(site: Site, port: int, secret: str) -> None:
    """Build after each webhook; whoever has not signed it (Standard Webhooks) is refused."""
    from standardwebhooks.webhooks import Webhook, WebhookVerificationError

    class Told(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
            try:
                Webhook(secret).verify(body, dict(self.headers.items()))
            except WebhookVerificationError:
                self.send_response(401)
                self.end_headers()
                return
            self.send_response(204)
            self.end_headers()
            print(site.build(), flush=True)

    HTTPServer(("127.0.0.1", port), Told).serve_forever()


def main() -> None:
    """Build once, and then after each webhook if it is to listen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--service", default="http://127.0.0.1:8400", help="the address of the service")
    parser.add_argument("--to", type=Path, default=Path("public"), help="the folder of the site")
    parser.add_argument("--key", default="", help="a key that may read drafts")
    parser.add_argument("--stage", default="", help="the stage that is built; what is out without one")
    parser.add_argument("--site", default="live", help="the site whose feed and map are written")
    parser.add_argument("--listen", type=int, default=0, help="the port at which webhooks are waited for")
    parser.add_argument("--secret", default="", help="the secret of the webhook")
    given = parser.parse_args()
    given.to.mkdir(parents=True, exist_ok=True)
    with Site(given.service, given.to, key=given.key, stage=given.stage, site=given.site) as site:
        print(site.build(), flush=True)
        if given.listen:
            listen(site, given.listen, given.secret)


if __name__ == "__main__":
    main()
