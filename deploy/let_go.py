"""Hears of what went out (a webhook of Hawthorn's) and lets Varnish let go of it: a receiver that needs nothing but `standardwebhooks`.

    pip install standardwebhooks
    hawthorn webhook add "The cache" --url http://127.0.0.1:8499/
    HAWTHORN_WEBHOOK_SECRET=whsec_... python deploy/let_go.py --cache http://127.0.0.1:80 --port 8499

A private address has to be allowed in Hawthorn's setting `allow_hosts`. What cannot be let go now is answered with 503, and told again.
"""

from __future__ import annotations

import argparse
import json
import os
import urllib.error
import urllib.request
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from standardwebhooks.webhooks import Webhook, WebhookVerificationError

LONGEST = 4_000_000


def let_go(cache: str, groups: list[str]) -> None:
    """Send one PURGE for some groups (RFC 9875 names them as strings with commas between them)."""
    named = ", ".join(f'"{one}"' for one in groups)
    asked = urllib.request.Request(f"{cache}/", method="PURGE", headers={"Cache-Groups": named})
    urllib.request.urlopen(asked, timeout=10).close()


class Receiver(BaseHTTPRequestHandler):
    """Takes an event, and answers once the cache has let go."""

    cache = ""
    secret = ""

    def do_POST(self) -> None:
        """An event: signed, or it is nobody's."""
        length = int(self.headers.get("Content-Length") or 0)
        body = self.rfile.read(min(length, LONGEST))
        try:
            Webhook(self.secret).verify(body, dict(self.headers.items()), json_parse=False)
        except (WebhookVerificationError, ValueError):
            self.send_error(401)
            return
        data = json.loads(body).get("data") or {}
        groups = ["all"] if data.get("more") else list(data.get("groups") or [])
        try:
            for start in range(0, len(groups), 50):
                let_go(self.cache, groups[start : start + 50])
        except (urllib.error.URLError, OSError) as error:
            self.send_error(503, str(error)[:200])
            return
        self.send_response(204)
        self.end_headers()

    def log_message(self, *_: object) -> None:
        """Say nothing of what went well."""


def main() -> None:
    """Receive until it is told to stop."""
    given = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    given.add_argument("--cache", default="http://127.0.0.1:80", help="where Varnish listens")
    given.add_argument("--port", type=int, default=8499, help="where to listen, on this machine alone")
    asked = given.parse_args()
    Receiver.cache, Receiver.secret = asked.cache.rstrip("/"), os.environ["HAWTHORN_WEBHOOK_SECRET"]
    ThreadingHTTPServer(("127.0.0.1", asked.port), Receiver).serve_forever()


if __name__ == "__main__":
    main()
