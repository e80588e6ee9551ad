"""What crosses HTTP about people: who they are, roles and grants, keys, sessions, invitations, second factors."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from hawthorn.wire.base import LocaleAsk, Named, Page, Wire


class LogIn(Wire):
    """Who logs in; `code` is that of the second factor, where there is one."""

    handle: str
    password: str
    code: str = ""


class Provider(Wire):
    """The identity provider through which people log in, beside passwords."""

    name: str = Field(description="What people call it; empty where there is none.")


class ProviderAddress(Wire):
    """Where somebody goes who logs in through the provider."""

    address: str = Field(description="Of the provider, for the browser that asked.")


class ProviderAnswer(Wire):
    """What somebody brings back from the provider (OpenID Connect Core 1.0, section 3.1.2.5)."""

    code: str = Field(max_length=8_000, description="What is exchanged for who they are, once.")
    state: str = Field(max_length=200, description="What they were sent there with.")
    issuer: str = Field(
        default="", max_length=2_000, description="Which provider answers, where it says so (RFC 9207)."
    )


class ProviderUnheard(Wire):
    """Why a word of the provider ended no session (OpenID Connect Back-Channel Logout 1.0, section 2.8)."""

    error: str = Field(description="What kind of error it is (RFC 6749, section 5.2).")
    error_description: str = Field(description="What was wrong, in words.")


class LogInLine(Wire):
    """Somebody who came in, was refused or left, or what changed about how somebody gets in."""

    seq: int = Field(description="Its number in the event log.")
    at: str
    what: Literal["opened", "refused", "ended", "changed"]
    kind: str = Field(description="The kind of event.")
    handle: str = Field(description="Of whom it tells; of who was refused, the name that was given.")
    name: str = Field(description="What they are called; empty for a name that is nobody's.")
    source: str = Field(description="The address that it came from.")
    by: str = Field(
        description="By which means: password, password and code, passkey, password and passkey, invitation, provider."
    )
    agent: str = Field(description="The program, as it calls itself.")
    why: str = Field(description="Why it was refused.")


class LogIns(Page):
    """Log-ins, newest first."""

    items: list[LogInLine]


class RoleHeld(Wire):
    """A role as somebody holds it; no locales means all, and no sections means all."""

    name: str
    label: str
    locales: list[str] = []
    sections: list[str] = []


class Me(Wire):
    """Who the caller is."""

    handle: str
    name: str
    kind: str
    zone: str
    language: str = Field(
        default="", description="The language in which they are spoken to; empty for that of the house."
    )
    roles: list[str]
    verbs: list[str]
    factor_wanted: bool = Field(
        default=False,
        description="Whether they have to set up a second factor before anything else (`second_factor`).",
    )


class Session(Wire):
    """A session; the token is also set as a cookie."""

    token: str
    me: Me


class Person(Wire):
    """Somebody who works here."""

    handle: str
    name: str
    kind: str
    roles: list[RoleHeld]
    email: str = Field(default="", description="For whoever sets up people.")
    zone: str = ""
    state: str = Field(default="", description="“invited” or “cannot log in”, for whoever sets up people.")
    second_factor: bool = False
    connected: bool = Field(
        default=False,
        description="Whether they log in through the identity provider; for whoever sets up people.",
    )


class People(Page):
    """Everybody."""

    items: list[Person]


class Section(Wire):
    """A section of the site."""

    id: str
    title: str


class Why(Wire):
    """Whether somebody may do something, and which grant says so or is missing."""

    allowed: bool
    reason: str
    role: str
    missing: str
    who: list[str]


class KeyAsk(Wire):
    """A key for a program or assistant."""

    name: str
    role: str
    kind: Literal["program", "assistant"] = "program"
    stages: list[str] = ["release"]
    expires: str = Field(
        default="", description="The day or instant at which it ends by itself; empty for never."
    )
    audiences: list[str] = Field(
        default=[], description="For whom it reads: what is limited to one of these is there for it."
    )
    a_minute: int | None = Field(
        default=None, description="How many reads it may make in a minute; nothing for any number."
    )


class Key(Wire):
    """A key without its secret."""

    id: int
    name: str
    start: str
    stages: list[str]
    created_at: str
    expires_at: str | None = Field(default=None, description="When it ends by itself; nothing for never.")
    expired: bool = Field(default=False, description="Whether that is past.")
    handle: str
    kind: str = ""
    roles: list[str] = []
    audiences: list[str] = Field(default=[], description="For whom it reads.")
    a_minute: int | None = Field(
        default=None, description="How many reads it may make in a minute; nothing for any number."
    )


class KeyIssued(Wire):
    """A new key; its secret is shown this once."""

    key: Key
    secret: str


class Keys(Page):
    """The keys there are."""

    items: list[Key]


class GrantSpec(Wire):
    """A verb over types, locales, sections (ids) and stages; empty means all of them."""

    verb: str
    types: list[str] = []
    locales: list[str] = []
    sections: list[str] = []
    stages: list[str] = []
    own: bool = Field(default=False, description="Only over entries that the holder started.")


class RoleSpec(Wire):
    """A role as a list of grants."""

    name: str
    label: str
    grants: list[GrantSpec]
    people: int = Field(default=0, description="How many hold it.")


class VerbSpec(Wire):
    """A verb that grants may give, in words."""

    verb: str
    label: str


class Roles(Page):
    """The roles there are."""

    items: list[RoleSpec]
    verbs: list[VerbSpec]


class RolesAsk(Wire):
    """Roles to define."""

    items: list[RoleSpec]


class RolesDefined(Wire):
    """The names of the roles that changed."""

    changed: list[str]


class Holding(Wire):
    """A role to hold, perhaps only in certain locales or sections (ids)."""

    name: str
    locales: list[str] = []
    sections: list[str] = []


class Holdings(Wire):
    """The roles that somebody shall hold."""

    roles: list[Holding]


class InviteAsk(Wire):
    """Whom to invite."""

    handle: str
    name: str
    email: str
    roles: list[Holding] = []
    zone: str = "UTC"


class Invited(Wire):
    """The address of an invitation, shown this once; it also went by mail."""

    address: str


class Token(Wire):
    """The token of an invitation."""

    token: str


class Invitation(Wire):
    """Whom an invitation is for."""

    handle: str
    name: str
    by: str


class FirstPerson(Wire):
    """The first person of a new house, its languages and its first type."""

    token: str
    handle: str = Field(max_length=60, description="The name to log in with.")
    name: str = Field(max_length=200)
    email: str = Field(default="", max_length=200)
    password: str = Field(max_length=400)
    zone: str = Field(default="UTC", description="The time zone (IANA) in which they live.")
    locales: list[LocaleAsk] = Field(
        min_length=1, max_length=100, description="The languages; the first is asked for where none is."
    )
    type: str = Field(
        default="", description="What is written first: page, news or event; empty for no more than there is."
    )


class FirstRun(Wire):
    """A house in which nobody is yet."""

    types: list[Named]


class Join(Wire):
    """A password chosen by an invitation."""

    token: str
    password: str


class SessionLine(Wire):
    """An open session."""

    id: str
    agent: str
    since: str
    seen_at: str
    until: str
    this: bool


class Sessions(Page):
    """The open sessions, newest first."""

    items: list[SessionLine]


class PasswordChange(Wire):
    """A new password in place of the one before."""

    before: str
    after: str


class Password(Wire):
    """A password, to confirm."""

    password: str = ""


class Code(Wire):
    """A code of a second factor."""

    code: str


class SecondFactor(Wire):
    """A second factor that is being set up: its secret, and a QR code (SVG) of its address for an authenticator."""

    secret: str
    uri: str
    picture: str


class SpareCodes(Wire):
    """Codes for when the authenticator is lost, shown this once; each can be used once."""

    codes: list[str]


class Passkey(Wire):
    """A passkey: a key in somebody's device, with which they log in."""

    id: str
    name: str = Field(description="What its owner calls it.")
    since: str
    used_at: str = Field(description="When somebody logged in with it last; empty for never.")


class Passkeys(Page):
    """One's own passkeys."""

    items: list[Passkey]


class PasskeyQuestion(Wire):
    """What a device is asked."""

    state: str = Field(description="What has to come back with the answer, within five minutes.")
    options: dict[str, Any] = Field(
        description="What the browser is given, as `PublicKeyCredential.parseCreationOptionsFromJSON` and `parseRequestOptionsFromJSON` take it "
        "(Web Authentication, level 3, sections 5.1.8 and 5.1.9)."
    )


class PasskeyAnswer(Wire):
    """What a device answered."""

    state: str = Field(max_length=4_000, description="What came with the question.")
    answer: dict[str, Any] = Field(
        description="What the browser gave, as `PublicKeyCredential.toJSON` writes it (Web Authentication, level 3, section 5.1)."
    )


class PasskeyWish(PasskeyAnswer):
    """A passkey that a device has made, and what it is to be called."""

    name: str


class PasskeyName(Wire):
    """What a passkey is to be called."""

    name: str


class PasskeyAdded(Wire):
    """A passkey that was added."""

    passkey: Passkey = Field(description="As it is kept.")
    codes: list[str] = Field(
        description="Spare codes, where it turned the second factor on: shown this once, and each can be used once."
    )


class PasskeyLogIn(Wire):
    """Who logs in with a passkey after the password; empty where the passkey alone says it."""

    handle: str = ""
    password: str = ""


class Account(Wire):
    """One's own account."""

    handle: str
    name: str
    email: str
    zone: str
    language: str = Field(
        default="", description="The language in which one is spoken to; empty for that of the house."
    )
    second_factor: bool


class Profile(Wire):
    """One's own name, time zone and language."""

    name: str
    zone: str
    language: str | None = Field(
        default=None,
        description="The language in which one is spoken to (en, de, fr, ar); empty for that of the house, nothing to leave it.",
    )
