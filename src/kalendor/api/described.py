"""Adjusts the OpenAPI document to what the server answers: errors as problem documents, response fields as required."""

from collections.abc import Iterable, Iterator
from typing import Any

from fastapi import FastAPI
from fastapi.routing import APIRoute

LIBRARYS_OWN = ("HTTPValidationError", "ValidationError")
REFERENCE = "#/components/schemas/"


def describe_answers(app: FastAPI) -> None:
    """Generate the app's OpenAPI document with these adjustments, once."""
    made = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = made()
            for ways in document["paths"].values():
                for operation in ways.values():
                    operation["responses"].pop("422", None)
            for name in LIBRARYS_OWN:
                document["components"]["schemas"].pop(name, None)
            _require_what_is_always_told(app, document)
        return made()

    app.openapi = openapi  # type: ignore[method-assign]


def _require_what_is_always_told(app: FastAPI, document: dict[str, Any]) -> None:
    """Marks every field of response-only models as required, since answers include defaults, except where the route
    leaves them out."""
    schemas = document["components"]["schemas"]
    leaving_out = {
        (route.path_format, method.lower())
        for route in app.routes
        if isinstance(route, APIRoute) and route.response_model_exclude_defaults
        for method in route.methods or ()
    }
    answered: list[Any] = []
    others: list[Any] = []
    for path, ways in document["paths"].items():
        for way, operation in ways.items():
            (others if (path, way) in leaving_out else answered).append(operation["responses"])
            others.append({key: value for key, value in operation.items() if key != "responses"})
    for name in _reached(answered, schemas) - _reached(others, schemas):
        if "properties" in schemas[name]:
            schemas[name]["required"] = list(schemas[name]["properties"])


def _reached(parts: Iterable[Any], schemas: dict[str, Any]) -> set[str]:
    """The names of the schemas that parts of the document refer to, directly or indirectly."""
    found: set[str] = set()
    waiting = list(parts)
    while waiting:
        for name in _references(waiting.pop()):
            if name in schemas and name not in found:
                found.add(name)
                waiting.append(schemas[name])
    return found


def _references(part: Any) -> Iterator[str]:
    if isinstance(part, dict):
        if isinstance(part.get("$ref"), str):
            yield part["$ref"].removeprefix(REFERENCE)
        part = list(part.values())
    if isinstance(part, list):
        for one in part:
            yield from _references(one)
