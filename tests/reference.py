"""Generates the reference pages: definitions, the HTTP API and the command line."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import typer
from pydantic import TypeAdapter
from typer.main import get_command

from kalendor.cli import app
from kalendor.definitions.kinds import KINDS

FOLDER = Path(__file__).parent.parent / "docs" / "reference"
MADE = "<!-- Generated from the code by `make types`; do not edit. -->\n"
Schema = dict[str, Any]


def reference(api: Schema) -> dict[Path, str]:
    """The content of each generated page; `api` is the OpenAPI document."""
    pages = {"definition": definition_page(), "api": api_page(api), "cli": cli_page()}
    return {FOLDER / f"{name}.md": f"{MADE}\n{text}" for name, text in pages.items()}


def definition_page() -> str:
    """The keys of each kind of definition, and of its parts."""
    lines = [
        "# Definition files",
        "",
        "A definition is a JSON document with `\"kalendor\": 1` and a `kind`. The same as JSON Schema is in [docs/schema](../schema).",
        "",
    ]  # fmt: skip
    parts: dict[str, Schema] = {}
    for kind, model in KINDS.items():
        schema = TypeAdapter(model).json_schema(by_alias=True)
        parts |= {name: part for name, part in schema.get("$defs", {}).items() if "properties" in part}
        lines += _section(f"Kind `{kind}`", schema)
    parts = {name: part for name, part in parts.items() if name not in {model.__name__ for model in KINDS.values()}}
    lines += ["## Parts", ""]
    for name in sorted(parts):
        lines += _section(name, parts[name], level="###")
    return "\n".join(lines)


def _section(title: str, schema: Schema, level: str = "##") -> Iterator[str]:
    yield from (f"{level} {title}", "", _one_line(schema.get("description", "")), "")
    yield from ("| key | type | default |", "|---|---|---|")
    for key, found in schema.get("properties", {}).items():
        default = "required" if key in schema.get("required", []) else _default(found.get("default"))
        yield f"| `{key}` | {_type(found)} | {default} |"
    yield ""


def _type(found: Schema) -> str:
    """A schema in words, with links to the sections of parts."""
    if "$ref" in found:
        name = found["$ref"].rpartition("/")[2]
        return f"[{name}](#{'kind-' if name.lower() in KINDS else ''}{name.lower()})"
    ways = found.get("anyOf") or found.get("oneOf")
    if ways:
        return " or ".join(dict.fromkeys(_type(way) for way in ways))
    if "const" in found:
        return _code(found["const"])
    if "enum" in found:
        return ", ".join(_code(value) for value in found["enum"])
    match found.get("type"):
        case "array":
            return f"list of {_type(found.get('items', {}))}"
        case "object":
            return (
                f"object of {_type(found['additionalProperties'])}" if found.get("additionalProperties") else "object"
            )
        case "string" if found.get("format"):
            return str(found["format"])
        case None:
            return "any"
        case kind:
            return f"{kind}{_bounds(found)}"


def _bounds(found: Schema) -> str:
    low = found.get("minimum", found.get("minLength", found.get("minItems")))
    high = found.get("maximum", found.get("maxLength", found.get("maxItems")))
    if low is None and high is None:
        return ""
    unit = " characters" if found.get("type") == "string" else ""
    if low is None:
        return f" (at most {high}{unit})"
    return f" ({low}{unit} or more)" if high is None else f" ({low} to {high}{unit})"


def _code(value: Any) -> str:
    return f"`{json.dumps(value, ensure_ascii=False)}`".replace("|", "\\|")


def _default(value: Any) -> str:
    """A default short enough for a table; omitted if empty, or if it is a whole part, whose own keys show it."""
    return "" if value is None or isinstance(value, dict | list) else _code(value)


def _one_line(text: str) -> str:
    return " ".join(text.split())


def api_page(api: Schema) -> str:
    """Every route by tag, with its parameters and response."""
    lines = [
        "# HTTP API",
        "",
        "All routes, as `/api/openapi.json` of a server describes them (OpenAPI 3.1). A page's changes carry the session's token in the",
        "`X-Kalendor-Token` header; programs send `Authorization: Bearer TOKEN` (see [Running Kalendor for others](../running.md)). Errors are problem",
        "documents (RFC 9457) whose `detail` says what is wrong and what to do.",
        "",
    ]  # fmt: skip
    by_tag: dict[str, list[str]] = {}
    for path, ways in api["paths"].items():
        for method, found in ways.items():
            asked = ", ".join(f"`{p['name']}`" for p in found.get("parameters", []) if p["in"] == "query")
            row = f"| {method.upper()} | `{path}` | {_one_line(found.get('description', ''))} | {asked} |"
            by_tag.setdefault(found.get("tags", ["other"])[0], []).append(row.replace("||", "| |"))
    for tag in sorted(by_tag):
        lines += [
            f"## {tag[0].upper()}{tag[1:]}",
            "",
            "| method | path | what it does | query |",
            "|---|---|---|---|",
            *by_tag[tag],
            "",
        ]
    return "\n".join(lines)


def cli_page() -> str:
    """Every command with its arguments and options."""
    lines = [
        "# Command line",
        "",
        "Exit codes: 0 done; 2 a wrong definition, sentence or argument; 3 a file that cannot be read; 4 a sheet that does not add up to its source;",
        "5 a damaged workspace (`check`).",
        "",
    ]  # fmt: skip
    command = get_command(app)
    context = typer.Context(command, info_name="kalendor")
    for name, inner in _commands(command, context).items():
        lines += _command(name, inner)
    return "\n".join(lines)


def _commands(command: Any, context: Any, before: str = "kalendor") -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name in command.list_commands(context):
        inner = command.get_command(context, name)
        if hasattr(inner, "list_commands"):
            found |= _commands(inner, typer.Context(inner, info_name=name), f"{before} {name}")
        else:
            found[f"{before} {name}"] = inner
    return found


def _command(name: str, command: Any) -> Iterator[str]:
    yield from (f"## {name}", "", _one_line(command.help or ""), "")
    rows = [_parameter(one) for one in command.params if one.name != "help"]
    if rows:
        yield from ("| option | default | what it is |", "|---|---|---|", *rows, "")


def _parameter(one: Any) -> str:
    named = ", ".join(f"`{way}`" for way in one.opts) if one.param_type_name == "option" else f"`{one.name.upper()}`"
    default = "required" if one.required else "" if one.default in (None, False, (), []) else f"`{one.default}`"
    return f"| {named} | {default} | {_one_line(getattr(one, 'help', None) or '')} |"
