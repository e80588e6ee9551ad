"""People, roles and workflows from the command line."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

import tomli_w
import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    Check,
    Json,
    Yes,
    listed,
    marked,
    or_none,
    out,
    plain,
    print_json,
    service,
    stop,
    tell,
)
from hawthorn.client import every
from hawthorn.core.messages import Message, said

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
    made = drawing.table("log_in", "name", "roles", "mail", "")
    for one in found.items:
        roles = [
            marked("cli.people.held_in", label=r.label, locales=r.locales) if r.locales else escape(r.label)
            for r in one.roles
        ]
        marks = [drawing.word("person", one.state)] if one.state else []
        marks += [marked("cli.people.second_factor")] if one.second_factor else []
        marks += [marked("cli.people.connected")] if one.connected else []
        made.add_row(one.handle, escape(one.name), "; ".join(roles), one.email, ", ".join(marks))
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
    tell("cli.people.is_invited_by_mail", name=name, address=made.address)


def disconnect(handle: Handle) -> None:
    """Let nobody log in as somebody through the identity provider any more; their sessions end.

    Example: hawthorn person disconnect nell
    """
    with service() as hawthorn:
        hawthorn.disconnect_person(handle)
    tell("cli.people.disconnected", handle=handle)


def invite_again(handle: Handle) -> None:
    """Invite somebody again, also one who forgot the password.

    Example: hawthorn person invite-again nell
    """
    with service() as hawthorn:
        made = hawthorn.invite_again(handle)
    tell("cli.people.invited_again", address=made.address)


def set_roles(handle: Handle, role: Held = None) -> None:
    """Give somebody these roles in place of those before; none takes all.

    Example: hawthorn person roles nell --role writer --role translator:fr
    """
    with service() as hawthorn:
        found = hawthorn.set_roles_of(handle, _holdings(role)).items[0]
    roles = or_none("cli.people.no_role", [r.label for r in found.roles])
    tell("cli.people.roles", name=found.name, roles=roles)


def _tasks(items: Sequence[wire.collaboration.Task], whys: Sequence[str] = ()) -> None:
    made = drawing.table("what", "name", "locale", "due", *(["why"] if whys else []))
    for n, one in enumerate(items):
        due = drawing.when(one.due) if "T" in one.due else one.due
        cells = [drawing.word("task", one.kind), escape(one.name), one.locale, due]
        made.add_row(*cells, *([escape(whys[n])] if whys else []))
    out.print(made)


def tasks(handle: Handle, as_json: Json = False) -> None:
    """What somebody has to do and answers for, also one who has left.

    Example: hawthorn person tasks nell
    """
    with service() as hawthorn:
        found = list(every(lambda **page: hawthorn.tasks_of_person(handle, **page)))
    if as_json:
        print_json(wire.collaboration.Tasks(items=found))
    elif found:
        _tasks(found)
    else:
        tell("cli.people.no_tasks", handle=handle)


def reassign(
    handle: Handle,
    to: Annotated[str, typer.Option(help="Who gets it, by the name they log in with.")],
    as_json: Json = False,
) -> None:
    """Give what somebody has to do to somebody else: before they leave, after it, or while they are away. What the other may not do stays, and is
    named.

    Example: hawthorn person reassign nell --to wim
    """
    with service() as hawthorn:
        found = hawthorn.reassign_tasks(handle, to)
    if as_json:
        print_json(found)
        return
    tell("cli.people.reassigned", count=found.moved, to=to)
    if found.left:
        tell("cli.people.not_reassigned", count=len(found.left), handle=handle)
        _tasks(found.left, [one.why for one in found.left])


def end_person(handle: Handle) -> None:
    """Let somebody go; what they did stays under their name. `person tasks` says what they leave behind.

    Example: hawthorn person end nell
    """
    with service() as hawthorn:
        hawthorn.end_person(handle)
    tell("cli.people.cannot_log_in_any_more", handle=handle)


def data(
    handle: Handle,
    file: Annotated[Path, typer.Argument(help="The file to write (JSON).", metavar="FILE")],
) -> None:
    """Write everything that the records hold about somebody to a file: what they are, have and did, and what they were told.

    Example: hawthorn person data nell nell.json
    """
    with service() as hawthorn:
        found = hawthorn.person_data(handle)
    file.touch(mode=0o600)
    file.write_text(json.dumps(found, ensure_ascii=False, indent=1) + "\n", "utf-8")
    tell("cli.people.data_written", name=found["person"]["name"], file=file)


def forget(
    handle: Handle,
    check: Check = False,
    yes: Yes = False,
) -> None:
    """Take the name, handle and address of somebody who has left out of the records and the log, whose chain still holds. What they did stays. It cannot be
    undone, and backups still have it.

    Example: hawthorn person forget nell --check
    """
    with service() as hawthorn:
        found = hawthorn.check_forget_person(handle)
        tell("cli.people.stands_in", handle=handle, events=found.events, texts=found.texts)
        if check:
            return
        if not yes and not typer.confirm(plain("cli.people.sure_to_forget", handle=handle)):
            raise typer.Exit(1)
        done = hawthorn.forget_person(handle)
    tell("cli.people.forgotten", handle=handle, now=done.handle)


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
        tell("cli.people.role", name=role.name, label=role.label, people=role.people)
        for grant in role.grants:
            sides = [
                said("cli.people.side", side=side, values=values)
                for side, values in (
                    ("types", grant.types),
                    ("locales", grant.locales),
                    ("sections", grant.sections),
                    ("stages", grant.stages),
                )
                if values
            ]
            sides += [said("cli.people.own_only")] if grant.own else []
            tell("cli.people.grant", verb=drawing.word("verb", grant.verb), sides=sides)


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
        stop("cli.people.is_not_toml", ends="invalid", name=path.name, error=error)
    with service() as hawthorn:
        if check:
            have = {
                r.name: r.model_dump(exclude={"people"}, exclude_defaults=True)
                for r in hawthorn.roles().items
            }
            changed = [r["name"] for r in given if have.get(r["name"]) != r]
            tell(
                "cli.people.it_would_change" if changed else "cli.shared.it_would_change_nothing",
                changed=changed,
            )
            return
        done = hawthorn.define_roles(given).changed
    tell("cli.people.changed" if done else "cli.shared.nothing_changed", done=done)


def end_role(name: Annotated[str, typer.Argument(help="The role's name.")]) -> None:
    """End a role that nobody holds.

    Example: hawthorn role end guest
    """
    with service() as hawthorn:
        hawthorn.end_role(name)
    tell("cli.people.the_role_is_ended", name=name)


def list_workflows(as_json: Json = False) -> None:
    """The workflows with their gates, and which entries follow them."""
    with service() as hawthorn:
        found = hawthorn.setup()
    if as_json:
        print_json(found.workflows)
        return
    labels = {c.name: c.label for c in found.checks}
    for flow in found.workflows:
        by = [_side("type", k.label) for k in found.types if k.workflow == flow.name]
        by += [_chosen(c) for c in found.choices if c.workflow == flow.name]
        tell(
            "cli.people.workflow",
            name=flow.name,
            label=flow.label,
            version=flow.version,
            by=or_none("cli.people.not_followed", by),
        )
        for stage in flow.stages:
            gate = stage.gate
            signers = [*gate.roles, *gate.people]
            overriders = [*gate.override_roles, *gate.override_people]
            asks: list[str | Message] = []
            if gate.sign_offs:
                asks.append(said("cli.people.sign_offs", count=gate.sign_offs))
            if gate.leaving:
                asks.append(said("cli.people.also_what_leaves"))
            if signers:
                asks.append(said("cli.people.sign_off_by", who=signers))
            asks += [labels[c].lower() for c in gate.checks] + [o.name for o in gate.custom]
            if overriders:
                asks.append(said("cli.people.may_override", who=overriders))
            tell("cli.people.stage", label=stage.label, asks=asks)


def _side(side: str, value: str) -> Message:
    return said("cli.people.chosen_side", side=side, value=value)


def _chosen(choice: wire.workflows.WorkflowChoice) -> Message:
    """By what a workflow is chosen."""
    sides = (("type", choice.type), ("locale", choice.locale), ("section", choice.section))
    parts = [_side(side, value) for side, value in sides if value]
    return said("cli.people.chosen_by", sides=or_none("cli.people.everything", parts))


def export_workflow(name: Annotated[str, typer.Argument(help="The workflow's name.")]) -> None:
    """Print a workflow as `workflow define` takes it.

    Example: hawthorn workflow export standard
    """
    with service() as hawthorn:
        found = next((w for w in hawthorn.setup().workflows if w.name == name), None)
    if found is None:
        stop("cli.people.there_is_no_workflow", ends="not-found", name=name)
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
        tell("cli.shared.is_defined_version", label=made.label, version=made.version)


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
        tell("cli.people.chosen")


def end_workflow(name: Annotated[str, typer.Argument(help="The workflow's name.")]) -> None:
    """End a workflow that nothing follows any more.

    Example: hawthorn workflow end talks
    """
    with service() as hawthorn:
        hawthorn.end_workflow(name)
    tell("cli.people.the_workflow_is_ended", name=name)


def _draw(impact: wire.workflows.WorkflowImpact, ahead: bool) -> None:
    for effect in impact.effects:
        some = [said("cli.people.edition", title=e.title, locale=e.locale) for e in effect.examples[:3]]
        code = "cli.people.effect_on" if effect.editions else "cli.people.effect"
        more = effect.editions > 3
        tell(
            "cli.people.effect_on_more" if more else code, what=effect.what, count=effect.editions, some=some
        )
    if not impact.effects and ahead:
        tell("cli.people.changes_nothing_that_stands")


def _json(path: Path) -> Any:
    try:
        return json.loads(path.read_text("utf-8"))
    except ValueError as error:
        stop("cli.shared.is_not_json", ends="invalid", name=path.name, error=error)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Set-up"
    for group, help, commands in (
        (
            "person",
            "People and the roles they hold.",
            (
                ("list", list_people),
                ("invite", invite),
                ("invite-again", invite_again),
                ("roles", set_roles),
                ("disconnect", disconnect),
                ("tasks", tasks),
                ("reassign", reassign),
                ("end", end_person),
                ("data", data),
                ("forget", forget),
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
