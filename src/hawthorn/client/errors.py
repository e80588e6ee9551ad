"""What the client raises."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.wire.problems import Problem


class ClientError(Exception):
    """The root of what the client raises."""


class Unreachable(ClientError):
    """The service did not answer at `url`; `why` is what the connection said."""

    def __init__(self, url: str, why: str) -> None:
        super().__init__(f"No service answers at {url} ({why}). Is it running?")
        self.url = url
        self.why = why


class Refusal(ClientError):
    """The service refused; `problem` says what was wrong and what to do."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.detail or problem.title)
        self.problem = problem

    @property
    def slug(self) -> str:
        """The kind of problem: `refused`, `gate-unmet`, `conflict` and so on."""
        return self.problem.slug

    @property
    def conflicts(self) -> list[wire.content.Conflict]:
        """For `conflict`: each place that two sides changed."""
        return [wire.content.Conflict.model_validate(c) for c in self.problem.fact("conflicts", [])]

    @property
    def typed(self) -> dict[str, int]:
        """For `conflict`: the revisions that hold what was typed, for settling."""
        return dict(self.problem.fact("typed", {}))

    @property
    def entry(self) -> wire.views.Entry | None:
        """For `conflict`: the entry as it stands now."""
        found = self.problem.fact("entry")
        return wire.views.Entry.model_validate(found) if found else None
