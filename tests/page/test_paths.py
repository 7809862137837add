"""Every path that the page requests exists, with its parameters."""

import json
import re
from pathlib import Path

import pytest

WEB = Path(__file__).parents[2] / "web"
ROUTES = {
    path.removeprefix("/api"): {
        p["name"] for way in ways.values() for p in way.get("parameters", []) if p["in"] == "query"
    }
    for path, ways in json.loads((WEB / "openapi.json").read_text())["paths"].items()
}
CALLS = re.compile(r"\b(?:get|post|put|patch|remove|read|asked|sendBundle)(?:<[^`'(]*>)?\(\s*([`'])(.*?)\1", re.DOTALL)
LINKS = re.compile(r"(?:src|href)=\{`(/api.*?)`\}|path: `(.*?)`|const path = `(.*?)`", re.DOTALL)


def asked() -> set[str]:
    """The request paths in the page's source code."""
    found: set[str] = set()
    for path in (WEB / "src").rglob("*.ts*"):
        if path.name == "types.ts":
            continue
        text = path.read_text()
        found |= {call[1] for call in CALLS.findall(text)}
        found |= {next(filter(None, link)) for link in LINKS.findall(text)}
    return {one.removeprefix("/api") for one in found if one.startswith(("/", "$"))} - {"/openapi.json"}


def told_apart(text: str) -> tuple[str, set[str]]:
    """A regular expression of the route's path, with parameters of any length, and the named query parameters."""
    names = set(re.findall(r"[?&]([a-z_]+)=", text))
    plain, before = text, ""
    while plain != before:
        plain, before = re.sub(r"\$\{[^{}]*\}", "\0", plain), plain
    path = plain.split("${")[0].split("?")[0]
    return ".*".join(re.escape(piece) for piece in path.split("\0")) + (".*" if "${" in plain else ""), names


def test_some_are_found() -> None:
    assert len(asked()) > 50
    assert any("preview.png?revision" in one for one in asked())


@pytest.mark.parametrize("text", sorted(asked()))
def test_a_path_that_is_asked_for_is_there_with_its_parameters(text: str) -> None:
    pattern, names = told_apart(text)
    there = [route for route in ROUTES if re.fullmatch(pattern, re.sub(r"\{[a-z_]+\}", "x", route))]
    assert there, f"no route for {text!r} ({pattern})"
    assert any(names <= ROUTES[route] for route in there), f"{text!r} gives {names}; {[(r, ROUTES[r]) for r in there]}"
