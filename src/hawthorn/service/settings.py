"""The settings of the service: a file, then the environment (`HAWTHORN_…`), then flags, from weak to strong."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Literal
from urllib.parse import urlsplit

from pydantic import Field, ValidationInfo, field_validator
from pydantic_settings import (
    BaseSettings,
    EnvSettingsSource,
    PydanticBaseSettingsSource,
    SettingsConfigDict,
    TomlConfigSettingsSource,
)

from hawthorn.core import keeping, timeline
from hawthorn.core.errors import BadSetting, BadTime
from hawthorn.core.hosts import is_near, is_unheard
from hawthorn.core.messages import said
from hawthorn.messages import LANGUAGES, accepted
from hawthorn.service.shared import MOST
from hawthorn.store import scanner
from hawthorn.store.file_store import opened

CONFIG = "hawthorn.toml"
"""The file of settings, in the folder in which a command is given."""
SECRET = {"secret": True}
"""What marks a setting that is not shown."""


class Settings(BaseSettings):
    """Every setting, with what it means; `hawthorn settings` prints them."""

    model_config = SettingsConfigDict(env_prefix="HAWTHORN_", toml_file=CONFIG, extra="ignore")

    file: Path = Field(default=Path("hawthorn.sqlite"), description="The record file.")
    key_file: Path | None = Field(
        default=None,
        description="The file with the key that secrets in the record file are sealed with; it is made when it is first needed, "
        "by default beside the record file, with .key at its end. Keep a copy of it apart from those of the record file.",
    )
    host: str = Field(default="127.0.0.1", description="The address that the service listens at.")
    port: int = Field(default=8400, ge=0, le=65_535, description="The port that it listens at.")
    secure: bool | None = Field(
        default=None,
        description="Whether it is reached by HTTPS, so that cookies are Secure; when not set, it is unless the address is a "
        "loopback one.",
    )
    strict_transport: str = Field(
        default="max-age=31536000; includeSubDomains",
        description="What browsers are told, where it is reached by HTTPS, of coming by HTTPS alone (Strict-Transport-Security, RFC 6797): for how many seconds, and "
        "whether that holds for all names below its own; empty for nothing.",
    )
    language: str = Field(
        default="en",
        description="The language of the house, in which notes and mails are written where nobody chose another: en, de, fr or ar. Each person chooses their own.",
    )
    session_idle: float = Field(
        default=12.0, gt=0, description="Hours without use after which a session ends."
    )
    session_longest: float = Field(
        default=14 * 24.0, gt=0, description="Hours after which a session ends in any case."
    )
    second_factor: bool = Field(
        default=False,
        description="Whether everybody needs a second factor: whoever comes with a password alone, and has none, can only set one up. Who comes through the "
        "identity provider is asked for one there.",
    )
    provider: str = Field(
        default="",
        description="The issuer of an identity provider (OpenID Connect) through which people log in, beside passwords: https://…; empty for none. "
        "There, this service is a client that people come back to at its public address followed by /log-in.",
    )
    provider_name: str = Field(
        default="", description="What the button to it says; by default the name of its host."
    )
    provider_client: str = Field(
        default="hawthorn", description="What the provider calls this service (client id)."
    )
    provider_secret: str = Field(
        default="",
        description="The secret that this service shows to it; empty for a client that has none.",
        json_schema_extra=SECRET,  # type: ignore[arg-type]
    )
    provider_scopes: list[str] = Field(
        default_factory=lambda: ["profile", "email"], description="What it is asked for, besides openid."
    )
    provider_roles_claim: str = Field(default="groups", description="The claim whose values give roles.")
    provider_roles: dict[str, list[str]] = Field(
        default_factory=dict,
        description='Which roles its values give: {"desk" = ["writer:en", "submitter"]}. These roles follow what the provider says at each log-in; roles that are '
        "not named here are given by hand.",
    )
    provider_makes: bool = Field(
        default=False,
        description="Whether somebody who is not known here is made a person at their first log-in, where one of the provider's values gives them a role.",
    )
    provider_joins: bool = Field(
        default=True,
        description="Whether somebody who is here already is known, at their first log-in through the provider, by a mail address that it has verified.",
    )
    provider_acr: list[str] = Field(
        default_factory=list,
        description="What it must say of how strongly it asked (the claim acr), one of which is enough and for which it is asked; empty where any will do.",
    )
    provider_amr: list[str] = Field(
        default_factory=list,
        description="What it must say that it asked with (the claim amr, RFC 8176, such as mfa, otp or hwk), one of which is enough; empty where any will do.",
    )
    provider_fresh: float = Field(
        default=0,
        ge=0,
        description="Minutes after which somebody has to show anew there who they are (the claim auth_time); 0 where the provider decides.",
    )
    directory_key: str = Field(
        default="",
        description="What a directory sends as a bearer token that provisions people and groups at /scim/v2 (SCIM 2.0); empty for none. With one, the roles of "
        "`provider_roles` follow its groups, and not what the provider says at a log-in.",
        json_schema_extra=SECRET,  # type: ignore[arg-type]
    )
    origins: list[str] = Field(
        default_factory=list, description="Origins, besides its own, from which browsers may change things."
    )
    site: str = Field(default="", description="The address of the public site, for links to what is out.")
    public: str = Field(
        default="", description="The address of this service as people reach it, for links in mails."
    )
    segmentation: Path | None = Field(
        default=None,
        description="A file of rules (SRX 2.0) that say where sentences end; without one, rules for English, French, German, Japanese, Chinese "
        "and Arabic hold, and usual ones for other languages.",
    )
    text_characters: int = Field(
        default=250_000, ge=1, description="The most characters of one text, with markup."
    )
    text_paragraphs: int = Field(default=5_000, ge=1, description="The most paragraphs of one text.")
    text_depth: int = Field(default=60, ge=1, description="The most elements within each other in one text.")
    assistant_acts: int = Field(default=500, ge=1, description="The most acts of an assistant in an hour.")
    assistant_entries: int = Field(
        default=50, ge=1, description="The most entries that an assistant starts in an hour."
    )
    followers: bool = Field(
        default=True, description="Whether this process runs scheduler, mail and carrier."
    )
    workers: int = Field(
        default=1,
        ge=1,
        le=MOST,
        description="How many processes answer, on one record file; about as many as the machine has cores. A copy (`follow`) has one; begin several copies.",
    )
    smtp_host: str = Field(default="", description="The mail server; empty sends no mail.")
    smtp_port: int = Field(default=25, ge=1, le=65_535, description="Its port.")
    smtp_encryption: Literal["offered", "starttls", "tls", "none"] = Field(
        default="offered",
        description="How mail on its way there is encrypted: offered (where the server offers it, and always but on this machine with a certificate that holds), "
        "starttls (or nothing is sent), tls (from the first byte, usually at port 465), or none.",
    )
    smtp_user: str = Field(
        default="", description="Whom the mail server knows this service as; empty for nobody."
    )
    smtp_password: str = Field(
        default="",
        description="The password for that; it is said over an encrypted connection alone, or on this machine.",
        json_schema_extra=SECRET,  # type: ignore[arg-type]
    )
    mail_from: str = Field(default="hawthorn@localhost", description="Whom mails come from.")
    allow_hosts: list[str] = Field(
        default_factory=list,
        description="Private addresses that outgoing calls may reach all the same, by name.",
    )
    largest_body: int = Field(
        default=2_000_000,
        ge=1,
        description="The most bytes of a request that is no file; a long text has to fit.",
    )
    largest_upload: int = Field(
        default=200_000_000, ge=1, description="The most bytes that an uploaded file may have."
    )
    largest_import: int = Field(
        default=2_000_000_000,
        ge=1,
        description="The most bytes of a file that is imported into a memory or a glossary, or of rows that become entries.",
    )
    largest_package: int = Field(
        default=20_000_000_000,
        ge=1,
        description="The most bytes of a package of entries that somebody gives.",
    )
    unfinished_uploads: int = Field(
        default=1_000_000_000,
        ge=1,
        description="The most bytes of all uploads that one person has begun and not finished.",
    )
    file_store: str = Field(
        default="",
        description="Where the bytes of uploaded files and the renditions of pictures are kept: a folder, or s3://bucket/prefix (also with "
        "?endpoint=https://…&region=…); empty for the record file. `hawthorn move-files` takes what is there already along.",
    )
    scanner: str = Field(
        default="",
        description="What looks for malware in files before they are kept: the address of a clamd (127.0.0.1:3310, or the path of its socket); empty for nothing. "
        "Where one is named and does not answer, no file is taken.",
    )
    renditions: int = Field(
        default=500_000_000,
        ge=0,
        description="The most bytes of renditions that are kept beside the record file.",
    )
    shared_age: int = Field(
        default=0,
        ge=0,
        description="Seconds for which caches between here and readers may keep what everybody reads. With more than none, answers name the groups "
        "with which they are let go; a webhook tells a cache of them. With none they ask each time.",
    )
    bureau_pause: float = Field(
        default=5.0, gt=0, description="Seconds between questions to a bureau about a job."
    )
    machine_url: str = Field(
        default="",
        description="Where a machine suggests translations; empty for none. Nothing confidential is sent to it.",
    )
    machine_key: str = Field(
        default="",
        description="What is sent to it as a bearer token; empty for none.",
        json_schema_extra=SECRET,  # type: ignore[arg-type]
    )
    metrics_key: str = Field(
        default="",
        description="What whoever asks for /metrics has to send as a bearer token; empty for nothing.",
        json_schema_extra=SECRET,  # type: ignore[arg-type]
    )
    bureau_folders: Path | None = Field(
        default=None,
        description="A folder below which bureaus that work on files have a folder each; without one there are none of that kind.",
    )
    replica: str = Field(
        default="",
        description="Where Litestream keeps a replica of the record file, for copies and for whoever takes over: file:///… or what else Litestream takes; "
        "empty for none.",
    )
    backups: Path | None = Field(
        default=None,
        description="A folder into which backups are made by a timetable; without one there are none.",
    )
    backup_times: list[str] = Field(
        default_factory=lambda: ["03:00"], description="The times of the day at which a backup is made."
    )
    backup_zone: str = Field(default="UTC", description="The time zone of these times (IANA).")
    backup_days: int = Field(default=7, ge=0, description="Of so many days the newest backup is kept,")
    backup_weeks: int = Field(default=4, ge=0, description="of so many weeks,")
    backup_months: int = Field(default=12, ge=0, description="and of so many months.")
    backup_recipients: list[str] = Field(
        default_factory=list, description="Whom backups are encrypted for (age1…); none for no one."
    )
    follow: str = Field(
        default="",
        description="The replica of which this service is a copy: it answers those who read, from a file of its own beside `file`, and writes nothing.",
    )
    writer: str = Field(
        default="",
        description="On a copy, the address of the service that writes, to which everything else is passed on.",
    )
    log_requests: bool = Field(
        default=False,
        description="Whether each request is a line in the log: method, route, status, milliseconds and its number.",
    )
    traces: str = Field(
        default="",
        description="Where requests are traced to (OpenTelemetry, OTLP over HTTP), such as http://127.0.0.1:4318/v1/traces; empty for nowhere. It needs the extra "
        "`traces`.",
    )
    log: Literal["readable", "json"] = Field(
        default="readable", description="How logs are written: readable or json."
    )

    @field_validator("file")
    @classmethod
    def _no_folder(cls, value: Path) -> Path:
        if value.is_dir():
            raise BadSetting(said("wrong_setting.folder"))
        return value

    @field_validator("language")
    @classmethod
    def _spoken(cls, language: str) -> str:
        found = accepted(language.replace("_", "-"))
        if not found:
            raise BadSetting(said("wrong_setting.language", known=[*LANGUAGES]))
        return found

    @field_validator("file_store")
    @classmethod
    def _some_place(cls, value: str) -> str:
        opened(value)
        return value

    @field_validator("scanner")
    @classmethod
    def _some_address(cls, value: str) -> str:
        scanner.opened(value)
        return value

    @field_validator("follow")
    @classmethod
    def _alone(cls, value: str, info: ValidationInfo) -> str:
        if value and info.data.get("workers", 1) > 1:
            raise BadSetting(said("wrong_setting.copy"))
        return value

    @field_validator("provider")
    @classmethod
    def _encrypted(cls, value: str) -> str:
        if value and not is_unheard(value):
            raise BadSetting(said("wrong_setting.encrypted"))
        return value

    @field_validator("backup_times")
    @classmethod
    def _times(cls, value: list[str]) -> list[str]:
        if not value or not all(map(keeping.is_time, value)):
            raise BadSetting(said("wrong_setting.times"))
        return value

    @field_validator("backup_zone")
    @classmethod
    def _zone(cls, value: str) -> str:
        try:
            timeline.zone(value)
        except BadTime:
            raise BadSetting(said("wrong_setting.zone")) from None
        return value

    @property
    def provider_called(self) -> str:
        """What people are told that they log in through; empty where there is no provider."""
        return self.provider_name or (urlsplit(self.provider).hostname or "")

    @property
    def secured(self) -> bool:
        """Whether people reach it by HTTPS."""
        if self.secure is not None:
            return self.secure
        return self.public.startswith("https://") or not is_near(self.host)

    @property
    def on_each_answer(self) -> list[tuple[str, str]]:
        """The headers that each answer has."""
        return (
            [("Strict-Transport-Security", self.strict_transport)]
            if self.secured and self.strict_transport
            else []
        )

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        """Flags over environment over file."""
        return (init_settings, env_settings, TomlConfigSettingsSource(settings_cls))


@dataclass(frozen=True, slots=True)
class Told:
    """A setting, with its value as it is shown, and where that comes from (a flag, the environment, the file, or the default)."""

    name: str
    value: str
    source: str


def told(given: Mapping[str, object]) -> list[Told]:
    """Every setting with where it comes from, `given` being what flags say. What is secret is not shown."""
    found = Settings(**given)  # type: ignore[arg-type]
    environment = EnvSettingsSource(Settings)()
    file = TomlConfigSettingsSource(Settings)()
    out = []
    for name, field in Settings.model_fields.items():
        source = next(
            (s for s, has in (("flag", given), ("environment", environment), ("file", file)) if name in has),
            "default",
        )
        value = getattr(found, name)
        hidden = field.json_schema_extra == SECRET and value
        out.append(Told(name, "•••" if hidden else _shown(value), source))
    return out


def words() -> dict[str, dict[str, str]]:
    """What each setting means in English, as the catalogue holds it."""
    return {"settings": {name: field.description or "" for name, field in Settings.model_fields.items()}}


def _shown(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict):
        return "; ".join(f"{name} = {', '.join(given)}" for name, given in value.items())
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return "" if value is None else str(value)
