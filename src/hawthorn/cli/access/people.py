"""People, roles, one's own account, and workflows from the command line."""

from __future__ import annotations

import getpass
import json
import tomllib
from pathlib import Path
from typing import Annotated, Any

import tomli_w
import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Check, Json, listed, out, print_json, service, stop

Handle = Annotated[str, typer.Argument(help="The name that they log in with.", metavar="PERSON")]
Held = Annotated[
    list[str] | None,
    typer.Option(help="A role, as role or role:fr,de for those locales alone; may be given several times."),
]
RoleFile = Annotated[
    Path, typer.Argument(exists=True, dir_okay=False, help="A TOML file, as `role export` prints it.")
]
WorkflowFile = Annotated[
    Path, typer.Argument(exists=True, dir_okay=False, help="A JSON file, as `workflow export` prints it.")
]


def list_people(as_json: Json = False) -> None:
    """Everybody who works here, with their roles."""
    with service() as hawthorn:
        found = hawthorn.people()
    if as_json:
        print_json(found)
        return
    made = drawing.table("log-in", "name", "roles", "mail", "")
    for one in found.items:
        roles = [f"{r.label}{' in ' + ', '.join(r.locales) if r.locales else ''}" for r in one.roles]
        marks = [one.state] if one.state else []
        marks += ["second factor"] if one.second_factor else []
        made.add_row(one.handle, escape(one.name), escape("; ".join(roles)), one.email, ", ".join(marks))
    out.print(made)


def invite(
    handle: Handle,
    name: Annotated[str, typer.Argument(help="The name that others see.")],
    mail: Annotated[str, typer.Argument(help="Where the invitation goes.")],
    role: Held = None,
    zone: Annotated[str, typer.Option(help="The time zone (IANA).")] = "UTC",
) -> None:
    """Add a person and invite them to choose a password.

    Example: hawthorn person invite nell "Nell Farrow" nell@example.org --role writer:en,fr --zone Europe/London
    """
    with service() as hawthorn:
        made = hawthorn.invite_person(handle, name, mail, _holdings(role), zone=zone)
    out.print(f"{escape(name)} is invited by mail. The address, shown this once:\n{made.address}")


def invite_again(handle: Handle) -> None:
    """Invite somebody again, also one who forgot the password.

    Example: hawthorn person invite-again nell
    """
    with service() as hawthorn:
        made = hawthorn.invite_again(handle)
    out.print(f"Invited again. The address, shown this once:\n{made.address}")


def set_roles(handle: Handle, role: Held = None) -> None:
    """Give somebody these roles in place of those before; none takes all.

    Example: hawthorn person roles nell --role writer --role translator:fr
    """
    with service() as hawthorn:
        found = hawthorn.set_roles_of(handle, _holdings(role)).items[0]
    out.print(f"{escape(found.name)}: {escape(', '.join(r.label for r in found.roles) or 'no role')}.")


def end_person(handle: Handle) -> None:
    """Let somebody go; what they did stays under their name.

    Example: hawthorn person end nell
    """
    with service() as hawthorn:
        hawthorn.end_person(handle)
    out.print(f"{handle} cannot log in any more.")


def _holdings(given: list[str] | None) -> list[dict[str, Any]]:
    out: list[dict[str, Any]] = []
    for one in given or ():
        name, _, locales = one.partition(":")
        out.append({"name": name, "locales": [t for t in locales.split(",") if t]})
    return out


def list_roles(as_json: Json = False) -> None:
    """The roles and what they grant."""
    with service() as hawthorn:
        found = hawthorn.roles()
    if as_json:
        print_json(found)
        return
    for role in found.items:
        out.print(f"[bold]{role.name}[/bold]  {escape(role.label)}, held by {role.people}")
        for grant in role.grants:
            sides = [
                f"{side} {', '.join(values)}"
                for side, values in (
                    ("types", grant.types),
                    ("locales", grant.locales),
                    ("sections", grant.sections),
                    ("stages", grant.stages),
                )
                if values
            ]
            sides += ["own entries only"] if grant.own else []
            out.print(f"  {grant.verb}  [dim]{escape('; '.join(sides))}[/dim]")


def export_roles() -> None:
    """Print all roles as a TOML file that `role define` takes."""
    with service() as hawthorn:
        found = hawthorn.roles().items
    roles = [r.model_dump(exclude_defaults=True, exclude={"people"}) for r in found]
    typer.echo(tomli_w.dumps({"role": [{**r, "grants": r.get("grants", [])} for r in roles]}), nl=False)


def define_roles(path: RoleFile, check: Check = False) -> None:
    """Define roles from a file, all or none; those that it does not name stay as they are.

    Example: hawthorn role define roles.toml --check
    """
    try:
        given = tomllib.loads(path.read_text("utf-8")).get("role", [])
    except ValueError as error:
        stop(f"{path.name} is not TOML: {error}.", "Mend it and try again.", "invalid")
    with service() as hawthorn:
        if check:
            have = {
                r.name: r.model_dump(exclude={"people"}, exclude_defaults=True)
                for r in hawthorn.roles().items
            }
            changed = [r["name"] for r in given if have.get(r["name"]) != r]
            out.print(f"It would change {', '.join(changed)}." if changed else "It would change nothing.")
            return
        done = hawthorn.define_roles(given).changed
    out.print(f"Changed: {', '.join(done)}." if done else "Nothing changed.")


def end_role(name: Annotated[str, typer.Argument(help="The role's name.")]) -> None:
    """End a role that nobody holds.

    Example: hawthorn role end guest
    """
    with service() as hawthorn:
        hawthorn.end_role(name)
    out.print(f"The role {name} is ended.")


def password() -> None:
    """Change your password; your other sessions end."""
    before = getpass.getpass("Password now: ")
    after = getpass.getpass("New password: ")
    if getpass.getpass("Once more: ") != after:
        stop("The two are not the same.", "Try again.", "invalid")
    with service() as hawthorn:
        hawthorn.change_password(before, after)
    out.print("Changed. Your other sessions are ended.")


def sessions(
    end: Annotated[str, typer.Option(help="End the session with this id.")] = "",
    of: Annotated[str, typer.Option(help="Of somebody else, for whoever sets up people.")] = "",
    as_json: Json = False,
) -> None:
    """Where you are logged in.

    Example: hawthorn sessions --of wim
    """
    with service() as hawthorn:
        if end:
            hawthorn.end_session(end)
            out.print("Ended.")
            return
        found = hawthorn.sessions_of(of) if of else hawthorn.sessions()
    if as_json:
        print_json(found)
        return
    made = drawing.table("id", "with", "since", "seen", "")
    for one in found.items:
        made.add_row(
            one.id,
            escape(one.agent),
            drawing.when(one.since),
            drawing.when(one.seen_at),
            "this one" if one.this else "",
        )
    out.print(made)


def second_factor(
    end: Annotated[bool, typer.Option("--end", help="Turn it off.")] = False,
    of: Annotated[str, typer.Option(help="With --end: of somebody who lost theirs.")] = "",
) -> None:
    """Set up a code besides your password (TOTP, RFC 6238), or turn it off.

    Example: hawthorn second-factor --end
    """
    with service() as hawthorn:
        if end and of:
            hawthorn.end_factor_of(of)
        elif end:
            hawthorn.end_second_factor(getpass.getpass("Password: "))
        if end:
            out.print("Turned off.")
            return
        begun = hawthorn.begin_second_factor(getpass.getpass("Password: "))
        out.print(f"Enter this in your authenticator:\n  {begun.secret}\n  {begun.uri}")
        spare = hawthorn.confirm_second_factor(getpass.getpass("The code that it shows: ")).codes
    out.print("It is on. Keep these codes for when you lose the authenticator; each works once:")
    for code in spare:
        out.print(f"  {code}")


def list_workflows(as_json: Json = False) -> None:
    """The workflows with their gates, and which entries follow them."""
    with service() as hawthorn:
        found = hawthorn.setup()
    if as_json:
        print_json(found.workflows)
        return
    labels = {c.name: c.label for c in found.checks}
    for flow in found.workflows:
        by = [f"type {k.label}" for k in found.types if k.workflow == flow.name]
        by += [
            " and ".join(
                f"{side} {v}"
                for side, v in (("type", c.type), ("locale", c.locale), ("section", c.section))
                if v
            )
            or "everything"
            for c in found.choices
            if c.workflow == flow.name
        ]
        out.print(
            f"[bold]{flow.name}[/bold]  {escape(flow.label)}, version {flow.version}; {escape(', '.join(by) or 'not followed')}"
        )
        for stage in flow.stages:
            gate = stage.gate
            asks = [f"{gate.sign_offs} sign-off{'s' if gate.sign_offs > 1 else ''}"] if gate.sign_offs else []
            asks += [f"by {', '.join([*gate.roles, *gate.people])}"] if gate.roles or gate.people else []
            asks += [labels[c].lower() for c in gate.checks] + [o.name for o in gate.custom]
            overriders = [*gate.override_roles, *gate.override_people]
            asks += [f"{', '.join(overriders)} may override"] if overriders else []
            out.print(f"  {stage.label}  [dim]{escape('; '.join(asks))}[/dim]")


def export_workflow(name: Annotated[str, typer.Argument(help="The workflow's name.")]) -> None:
    """Print a workflow as `workflow define` takes it.

    Example: hawthorn workflow export standard
    """
    with service() as hawthorn:
        found = next((w for w in hawthorn.setup().workflows if w.name == name), None)
    if found is None:
        stop(f"There is no workflow “{name}”.", "List them with `workflow list`.", "not-found")
    print_json(found.model_dump(mode="json"))


def define_workflow(path: WorkflowFile, check: Check = False, as_json: Json = False) -> None:
    """Define a workflow from a file, or a new version of one; what stands moves by the names of stages.

    Example: hawthorn workflow define standard.json --check
    """
    definition = _json(path)
    with service() as hawthorn:
        impact = hawthorn.check_workflow(definition)
        if not check:
            made = hawthorn.define_workflow(definition)
    if as_json:
        print_json(impact if check else made)
        return
    _draw(impact, check)
    if not check:
        out.print(f"{escape(made.label)} is defined, version {made.version}.")


def choose(
    path: Annotated[
        Path | None, typer.Argument(exists=True, dir_okay=False, help="A JSON list of choices.")
    ] = None,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Choose workflows by type, locale and section from a file; without one, print what is chosen.

    Example: hawthorn workflow choose choices.json --check
    """
    with service() as hawthorn:
        if path is None:
            print_json(hawthorn.setup().choices)
            return
        given = listed(_json(path), "choices")
        impact = hawthorn.check_choices(given)
        if not check:
            hawthorn.choose_workflows(given)
    if as_json:
        print_json(impact)
        return
    _draw(impact, check)
    if not check:
        out.print("Chosen.")


def end_workflow(name: Annotated[str, typer.Argument(help="The workflow's name.")]) -> None:
    """End a workflow that nothing follows any more.

    Example: hawthorn workflow end talks
    """
    with service() as hawthorn:
        hawthorn.end_workflow(name)
    out.print(f"The workflow {name} is ended.")


def _draw(impact: wire.release.WorkflowImpact, ahead: bool) -> None:
    for effect in impact.effects:
        some = ", ".join(f"“{e.title}” ({e.locale})" for e in effect.examples[:3])
        count = (
            f" ({effect.editions}: {escape(some)}{' …' if effect.editions > 3 else ''})"
            if effect.editions
            else ""
        )
        out.print(f"• {escape(effect.what)}{count}")
    if not impact.effects and ahead:
        out.print("It would change nothing of what stands.")


def _json(path: Path) -> Any:
    try:
        return json.loads(path.read_text("utf-8"))
    except ValueError as error:
        stop(f"{path.name} is not JSON: {error}.", "Mend it and try again.", "invalid")


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Set-up"
    app.command("password", rich_help_panel=panel)(password)
    app.command("sessions", rich_help_panel=panel)(sessions)
    app.command("second-factor", rich_help_panel=panel)(second_factor)
    for group, help, commands in (
        (
            "person",
            "People and the roles they hold.",
            (
                ("list", list_people),
                ("invite", invite),
                ("invite-again", invite_again),
                ("roles", set_roles),
                ("end", end_person),
            ),
        ),
        (
            "role",
            "Roles as lists of grants.",
            (("list", list_roles), ("export", export_roles), ("define", define_roles), ("end", end_role)),
        ),
        (
            "workflow",
            "Workflows: stages, and the gates before them.",
            (
                ("list", list_workflows),
                ("export", export_workflow),
                ("define", define_workflow),
                ("choose", choose),
                ("end", end_workflow),
            ),
        ),
    ):
        part = typer.Typer(help=help, no_args_is_help=True)
        for name, function in commands:
            part.command(name)(function)
        app.add_typer(part, name=group, rich_help_panel=panel)
