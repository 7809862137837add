"""Marks the routes whose requests may be answered by a worker process: they read and compute, and write nothing."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TypeVar

from fastapi import APIRouter
from fastapi.routing import APIRoute

Endpoint = TypeVar("Endpoint", bound=Callable[..., object])
MARK = "kalendor_in_worker"


def in_worker(endpoint: Endpoint) -> Endpoint:
    """Mark a route's function; placed beneath the route decorator.

    A marked route that has to write after all is answered by the server's own process (see `reading.Reading`).
    """
    setattr(endpoint, MARK, True)
    return endpoint


@dataclass(frozen=True)
class Marked:
    """The marked routes of an application: methods and path of each."""

    routes: tuple[tuple[frozenset[str], re.Pattern[str]], ...]

    @classmethod
    def of(cls, routers: Iterable[APIRouter]) -> "Marked":
        """The marked routes of some routers."""
        found = [route for router in routers for route in router.routes if isinstance(route, APIRoute)]
        return cls(tuple((frozenset(r.methods or ()), r.path_regex) for r in found if hasattr(r.endpoint, MARK)))

    def subject(self, method: str, path: str) -> str | None:
        """The subject of a request, so that requests about the same report or edition go to the same worker; empty if
        it is about neither, None if its route is not marked."""
        for methods, pattern in self.routes:
            found = pattern.match(path) if method in methods else None
            if found is not None:
                kind = "editions" if "/editions/" in path else path.split("/")[2]
                id = found.groupdict().get("id")
                return f"{kind} {id}" if id else ""
        return None
