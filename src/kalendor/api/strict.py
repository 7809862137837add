"""Rejects unknown body keys and query parameters by name."""

import pydantic
from fastapi import Request
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute
from pydantic import ConfigDict

from kalendor.errors import DefinitionError


class BaseModel(pydantic.BaseModel):
    """A request body that rejects unknown keys."""

    model_config = ConfigDict(extra="forbid")


async def known_parameters(request: Request) -> None:
    """Raises DefinitionError for an unknown query parameter."""
    route = request.scope.get("route")
    if not isinstance(route, APIRoute):
        return
    known = _names(route.dependant)
    unknown = next((name for name in request.query_params if name not in known), None)
    if unknown is not None:
        listed = ", ".join(sorted(known)) or "none"
        raise DefinitionError(f"there is no parameter {unknown!r} here; there are {listed}")


def _names(dependant: Dependant) -> set[str]:
    own = {field.alias for field in dependant.query_params}
    return own.union(*(_names(other) for other in dependant.dependencies))
