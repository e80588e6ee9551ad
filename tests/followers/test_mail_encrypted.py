"""Mail goes over encrypted connections, to a server whose certificate holds, and a password over nothing else."""

from __future__ import annotations

import ipaddress
import ssl
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, AuthResult, Envelope, LoginPassword, Session
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from hawthorn.core import hosts
from hawthorn.followers.mail import Mail
from hawthorn.service.doctor import _mail
from hawthorn.service.settings import Settings
from tests.conftest import free_port
from tests.followers.partners import Postbox
from tests.followers.test_followers import Options
from tests.followers.test_mail import FIVE, five_mails, states
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


@pytest.fixture(scope="module")
def certificate(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A certificate of this machine that only those trust who are told to, with its key in the same file."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "mail.example")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(1)
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=1))
        .add_extension(
            x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]), critical=False
        )
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    path = tmp_path_factory.mktemp("trust") / "mail.pem"
    coded = serialization.Encoding.PEM
    private = key.private_bytes(coded, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    path.write_bytes(made.public_bytes(coded) + private)
    return path


class Box:
    """A mail server's postbox: to whom mails came, and which of them over an encrypted connection."""

    def __init__(self) -> None:
        self.taken: list[tuple[str, bool]] = []
        self.logins: list[tuple[str, bool]] = []

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        """Take a mail."""
        self.taken += [
            (to, session.ssl is not None or server._tls_protocol is not None) for to in envelope.rcpt_tos
        ]
        return "250 OK"

    def know(self, _: SMTP, session: Session, __: Envelope, ___: str, given: Any) -> AuthResult:
        """Let in whoever has the password."""
        assert isinstance(given, LoginPassword)
        self.logins.append((given.login.decode(), session.ssl is not None))
        return AuthResult(success=given.password == b"a lamp by the harbour", handled=False)


@contextmanager
def listening(box: Box, **how: Any) -> Iterator[int]:
    """A mail server on loopback."""
    port = free_port()
    server = Controller(box, hostname="127.0.0.1", port=port, authenticator=box.know, **how)
    server.start()
    try:
        yield port
    finally:
        server.stop()


def trusting(certificate: Path) -> ssl.SSLContext:
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(certificate)
    return context


def one_step(house: House, port: int, **how: str) -> None:
    Mail(house.desk, Options(smtp_port=port, **how)).step("one")


def troubles(house: House) -> set[str]:
    with house.desk.db.read() as conn:
        return {row[0] for row in conn.execute("SELECT trouble FROM outbox WHERE trouble <> ''").fetchall()}


@pytest.mark.parametrize("how", ["starttls", "tls", "offered"])
def test_a_mail_goes_over_an_encrypted_connection_with_a_password(
    house: House, certificate: Path, monkeypatch: pytest.MonkeyPatch, how: str
) -> None:
    monkeypatch.setenv("SSL_CERT_FILE", str(certificate))
    monkeypatch.setattr(hosts, "LOOPBACK", ())
    box, context = Box(), trusting(certificate)
    # From the first byte the server is told nothing else of it.
    server = (
        {"ssl_context": context, "auth_require_tls": False}
        if how == "tls"
        else {"tls_context": context, "require_starttls": True}
    )
    five_mails(house)
    with listening(box, **server) as port:
        one_step(house, port, smtp_encryption=how, smtp_user="house", smtp_password="a lamp by the harbour")
    assert sorted(to for to, _ in box.taken) == sorted(FIVE)
    assert [who for who, _ in box.logins] == ["house"]
    assert states(house.desk.db)[:5] == [("done", 1)] * 5


def test_what_cannot_be_said_safely_is_not_said_and_waits(
    house: House, certificate: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.delenv("SSL_CERT_FILE", raising=False)
    box, context = Box(), trusting(certificate)
    five_mails(house)
    password = {"smtp_user": "house", "smtp_password": "a lamp by the harbour"}

    def tried(said: str, server: dict[str, Any], **how: str) -> None:
        # A server of its own for each: one whose certificate was refused is busy with that for a while.
        with listening(box, **server) if server else Postbox({}).running() as port:
            one_step(house, port, **how)
        assert any(said in one for one in troubles(house)), troubles(house)
        house.clock.at += 3_600_000_000
        with listening(box, **server) if server else Postbox({}).running() as port:
            (found,) = _mail(Settings(file=house.path, smtp_host="127.0.0.1", smtp_port=port, **how))
        assert found.how == "wrong"

    knows = {"tls_context": context}
    tried("CERTIFICATE_VERIFY_FAILED", knows, smtp_encryption="starttls")
    monkeypatch.setattr(hosts, "LOOPBACK", ())
    tried("CERTIFICATE_VERIFY_FAILED", knows, smtp_encryption="offered", **password)
    tried("smtp_encryption", knows, smtp_encryption="none", **password)
    tried("STARTTLS", {}, smtp_encryption="starttls")
    tried("smtp_encryption", {}, smtp_encryption="offered", **password)
    monkeypatch.setenv("SSL_CERT_FILE", str(certificate))
    tried("535", knows, smtp_encryption="starttls", smtp_user="house", smtp_password="another")
    assert box.taken == []
    assert {who for who, _ in box.logins} == {"house"}
    assert {state for state, _ in states(house.desk.db)[:5]} == {"waiting"}
