"""What every message shares. Instants are RFC 3339 in UTC."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from hawthorn import wire


class Wire(BaseModel):
    """A message; unknown members are refused, so that a typing mistake is not silently dropped."""

    model_config = ConfigDict(extra="forbid", defer_build=wire.DEFER)


class Named(Wire):
    """An entry by name."""

    id: str
    type: str
    title: str
    file: str = ""
