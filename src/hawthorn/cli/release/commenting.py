"""Comments on a dispatch as a whole: what colleagues say to one another about what goes out together."""

from __future__ import annotations

from typing import Annotated

import typer

from hawthorn.cli.collaboration import comments as collaboration
from hawthorn.cli.collaboration.comments import Again, AllOfThem, Comment
from hawthorn.cli.context import Json, print_json, service, tell
from hawthorn.cli.release.named import Named, dispatch_named


def comments(name: Named, all: AllOfThem = False, as_json: Json = False) -> None:
    """The comments on a dispatch as a whole.

    Example: hawthorn dispatch comments "Winter season" --all
    """
    with service() as hawthorn:
        found = hawthorn.dispatch_comments(dispatch_named(hawthorn, name))
    collaboration.listed(found, all, as_json, "cli.comments.no_comments_on_dispatch_yet")


def comment(
    name: Named,
    text: Annotated[str, typer.Argument(help="The comment; @ and a name asks a colleague.")],
    as_json: Json = False,
) -> None:
    """Comment on a dispatch as a whole.

    Example: hawthorn dispatch comment "Winter season" "@rhea, do the hours hold on bank holidays?"
    """
    with service() as hawthorn:
        made = hawthorn.comment_on_dispatch(dispatch_named(hawthorn, name), text)
    if as_json:
        print_json(made)
    else:
        tell("cli.comments.said_about", title=name, id=made.id)


def reply(name: Named, comment: Comment, text: Annotated[str, typer.Argument(help="What you say.")]) -> None:
    """Reply to a comment on a dispatch.

    Example: hawthorn dispatch reply "Winter season" 01a1f5b2 "They do."
    """
    with service() as hawthorn:
        found = hawthorn.dispatch_comments(dispatch_named(hawthorn, name))
        collaboration.answered(hawthorn, found, comment, text)


def settle(name: Named, comment: Comment, again: Again = False) -> None:
    """Resolve a comment on a dispatch: what it was about is settled.

    Example: hawthorn dispatch resolve "Winter season" 01a1f5b2
    """
    with service() as hawthorn:
        found = hawthorn.dispatch_comments(dispatch_named(hawthorn, name))
        collaboration.resolved(hawthorn, found, comment, again)
