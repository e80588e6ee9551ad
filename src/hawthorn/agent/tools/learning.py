"""What an assistant learns before it writes: who it is, what types there are, and by which workflow they go."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, Field

from hawthorn.agent.opening import Ctx, opened
from hawthorn.agent.tools import Tools

TOOLS = Tools()


class Myself(BaseModel):
    """Who the assistant is here."""

    name: str
    roles: list[str]
    may: list[str] = Field(
        description="The verbs that its role grants. Signing off and releasing are for people."
    )


class TypeLine(BaseModel):
    """A content type, in short."""

    name: str
    label: str
    workflow: str
    fields: dict[str, str] = Field(description="The fields by name, each with its kind.")


class Types(BaseModel):
    """Every content type."""

    locales: list[str]
    types: list[TypeLine]


@TOOLS.reads("Who am I?")
async def who_am_i(ctx: Ctx) -> Myself:
    """Who you are here, and what your role lets you do."""
    async with opened(ctx) as way:
        me = await way.hawthorn.me()
        return Myself(name=me.name, roles=me.roles, may=me.verbs)


@TOOLS.reads("List content types")
async def content_types(ctx: Ctx) -> Types:
    """The content types, with their fields, and the locales of the house. Read one whole with content_type before you write an entry of it."""
    async with opened(ctx) as way:
        setup = await way.hawthorn.setup()
        return Types(
            locales=[one.tag for one in setup.locales],
            types=[
                TypeLine(
                    name=one.name,
                    label=one.label,
                    workflow=one.workflow,
                    fields={field.name: field.kind for field in one.fields},
                )
                for one in setup.types
            ],
        )


@TOOLS.reads("Read a content type")
async def content_type(
    ctx: Ctx, name: Annotated[str, Field(description="The name of the type.")]
) -> dict[str, Any]:
    """A content type whole: its fields with help texts, limits and checks, and a JSON Schema (2020-12) of what its entries hold."""
    async with opened(ctx) as way:
        definition = await way.hawthorn.type_definition(name)
        return {"definition": definition, "schema": await way.hawthorn.type_schema(name)}


@TOOLS.reads("Read the workflows")
async def workflows(ctx: Ctx) -> dict[str, Any]:
    """The workflows: the stages in their order, and what the gate before each asks for."""
    async with opened(ctx) as way:
        setup = await way.hawthorn.setup()
        return {"workflows": [one.model_dump(mode="json") for one in setup.workflows]}
