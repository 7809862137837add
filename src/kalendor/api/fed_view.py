"""Builds the response model of the query that feeds a source."""

from dataclasses import dataclass

from kalendor.definitions.fetching import Fetching
from kalendor.desk.desk import Desk
from kalendor.desk.fetching import connections


@dataclass(frozen=True)
class FedView:
    """The query that feeds a source, when it last ran (empty: never), and the outcome: `in`, `same`, `held` or
    `failed`, with the reason. `known`: the server has its connection."""

    fetching: Fetching
    known: bool
    asked_at: str
    outcome: str
    reason: str


def fed_view(desk: Desk, source_id: int) -> FedView | None:
    """The query that feeds a source, if one does."""
    fed = desk.fetches.of(source_id)
    if fed is None:
        return None
    known = fed.fetching.connection.lower() in {one.name for one in connections()}
    asked_at = fed.asked_at.isoformat(timespec="minutes") if fed.asked_at else ""
    return FedView(fed.fetching, known, asked_at, fed.outcome, fed.reason)
