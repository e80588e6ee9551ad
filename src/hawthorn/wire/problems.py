"""Problem details (RFC 9457) as they cross HTTP."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from hawthorn import wire

MEDIA_TYPE = "application/problem+json"
TYPE_BASE = "urn:hawthorn:problem:"


class FieldProblem(BaseModel):
    """One thing that is wrong, and where."""

    model_config = ConfigDict(defer_build=wire.DEFER)

    where: str
    what: str


class Problem(BaseModel):
    """What was wrong and what to do about it; more members depend on the type."""

    model_config = ConfigDict(extra="allow", defer_build=wire.DEFER)

    type: str = Field(description="A stable URN that names the kind of problem.")
    title: str
    status: int
    detail: str = ""
    code: str = Field(
        default="", description="The name of what `detail` says, by which a program tells it from others."
    )
    remedy: str = Field(default="", description="What to do about it.")
    problems: list[FieldProblem] = Field(default_factory=list)
    request: str = Field(
        default="", description="Of a fault, the number under which the log of the service says more."
    )

    @property
    def slug(self) -> str:
        """The last part of the type."""
        return self.type.removeprefix(TYPE_BASE)

    def fact(self, name: str, default: Any = None) -> Any:
        """A further member."""
        return (self.model_extra or {}).get(name, default)
