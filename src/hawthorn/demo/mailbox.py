"""A mail catcher: takes every mail by SMTP and shows it on a page. Nothing is sent on."""

from __future__ import annotations

import base64
import html
import socket
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any

from aiosmtpd.controller import Controller
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Route


class Mailbox:
    """Caught mails, newest last; a repeat with the same Message-ID is dropped."""

    def __init__(self) -> None:
        self.mails: list[dict[str, str]] = []
        self._seen: set[str] = set()

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        """Take a mail (the name is the SMTP library's)."""
        message = message_from_bytes(envelope.content, policy=policy.default)
        assert isinstance(message, EmailMessage)
        id = str(message["Message-ID"])
        if id not in self._seen:
            self._seen.add(id)
            self.mails.append(
                {
                    "to": str(message["To"]),
                    "subject": str(message["Subject"]),
                    "body": _text(message),
                    "page": _page(message),
                    "id": id,
                }
            )
        return "250 kept"

    def app(self) -> Starlette:
        """The page to read them."""
        return Starlette(routes=[Route("/", self.page), Route("/mails", self.listed)])

    async def listed(self, _: Request) -> Response:
        """The mails as JSON."""
        return JSONResponse(self.mails)

    async def page(self, _: Request) -> Response:
        """The mails for a person to read."""
        shown = "".join(
            f"<article><h2>{html.escape(m['subject'])}</h2><p><b>To</b> {html.escape(m['to'])}</p><pre>{_linked(m['body'])}</pre>{_framed(m['page'])}</article>"
            for m in reversed(self.mails)
        )
        return HTMLResponse(
            "<!doctype html><html lang=en><meta charset=utf-8><title>Mail catcher</title><style>body{font:16px/1.5 sans-serif;"
            "margin:3rem auto;max-width:46rem}article{border-top:1px solid #ccc}pre{white-space:pre-wrap;font:inherit}iframe{width:100%;height:60rem;border:1px solid #ccc}</style>"
            f"<h1>Mail catcher</h1>{shown or '<p>No mail yet. Submit something for review.</p>'}"
        )

    def listener(self, door: socket.socket) -> Controller:
        """The SMTP side, behind a socket that listens already."""
        return _Behind(self, door)


class _Behind(Controller):
    """A server that takes a socket over, rather than making one."""

    def __init__(self, box: Mailbox, door: socket.socket) -> None:
        host, port = door.getsockname()[:2]
        super().__init__(box, hostname=host, port=port)
        self._door = door

    def _create_server(self) -> Any:
        return self.loop.create_server(self._factory_invoker, sock=self._door)


def _text(message: EmailMessage) -> str:
    part = message.get_body(("plain",))
    return part.get_content() if isinstance(part, EmailMessage) else ""


def _page(message: EmailMessage) -> str:
    """A mail's page, with its pictures in it (RFC 2392); empty for one that is only text."""
    part = message.get_body(("html",))
    if not isinstance(part, EmailMessage):
        return ""
    page = str(part.get_content())
    for picture in message.walk():
        if picture.get_content_maintype() == "image" and picture["Content-ID"]:
            data = base64.b64encode(picture.get_payload(decode=True)).decode()  # type: ignore[arg-type]
            told = f"data:{picture.get_content_type()};base64,{data}"
            page = page.replace(f"cid:{str(picture['Content-ID']).strip('<>')}", told)
    return page


def _framed(page: str) -> str:
    if not page:
        return ""
    return f'<details><summary>As a page</summary><iframe sandbox title="The mail as a page" srcdoc="{html.escape(page)}"></iframe></details>'


def _linked(text: str) -> str:
    words = html.escape(text).split(" ")
    lines = " ".join(words).split("\n")
    return "\n".join(f'<a href="{x}">{x}</a>' if x.startswith("http") else x for x in lines)
