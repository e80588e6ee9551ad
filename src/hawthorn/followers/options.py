"""What followers need to know of the settings."""

from __future__ import annotations

from pathlib import Path
from typing import Literal, Protocol


class Options(Protocol):
    """The settings that followers use; the service's settings have them."""

    smtp_host: str
    smtp_port: int
    smtp_encryption: Literal["offered", "starttls", "tls", "none"]
    smtp_user: str
    smtp_password: str
    mail_from: str
    allow_hosts: list[str]
    bureau_pause: float
    bureau_folders: Path | None
    machine_url: str
    machine_key: str
    public: str
    backups: Path | None
    backup_times: list[str]
    backup_zone: str
    backup_days: int
    backup_weeks: int
    backup_months: int
    backup_recipients: list[str]
