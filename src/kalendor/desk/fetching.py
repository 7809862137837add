"""Sources fed by database queries, run on request or on a schedule; a result is imported like any file.

The address of a database and the secret to read it are only ever in the server's environment, as
KALENDOR_DATABASE_NAME.
"""

import os
import threading
from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import datetime
from urllib.parse import urlsplit
from uuid import uuid4

from kalendor.core.values.notation import grouped
from kalendor.definitions.fetching import Fetching
from kalendor.desk.bringing_in import keep, leave, look_at_held
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import hold_for_a_person
from kalendor.desk.notation import begin_in
from kalendor.desk.reasons import held_for
from kalendor.desk.uploads import WAITING, hold_file
from kalendor.desk.waiting import Waiting
from kalendor.errors import ChangedError, DefinitionError, HeldError, IntakeError, KalendorError
from kalendor.intake.fetched import SCHEMES, Query
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.log import log_unexpected
from kalendor.store.fetches import Fed
from kalendor.store.sources import Source
from kalendor.store.workspace import WHO

PREFIX = "KALENDOR_DATABASE_"
EVERY_SECONDS = 30.0
BY = "schedule"
_ASKING: defaultdict[int, threading.Lock] = defaultdict(threading.Lock)


@dataclass(frozen=True)
class Connection:
    """A database that can be queried, and its kind."""

    name: str
    kind: str


def connections() -> list[Connection]:
    """The databases configured in the server's environment."""
    found = []
    for key, url in sorted(os.environ.items()):
        if key.startswith(PREFIX) and key != PREFIX:
            found.append(Connection(key.removeprefix(PREFIX).lower(), SCHEMES.get(urlsplit(url).scheme, "unknown")))
    return found


def check(fetching: Fetching) -> None:
    """Raises DefinitionError if a query's connection is not configured on the server."""
    _address(fetching.connection)


def _address(name: str) -> str:
    known = {key.removeprefix(PREFIX).lower(): url for key, url in os.environ.items() if key.startswith(PREFIX)}
    if name.lower() not in known:
        names = ", ".join(sorted(known)) or "none"
        raise DefinitionError(
            f"there is no connection {name!r} (known: {names}); the server has it where {PREFIX}{name.upper()} is set"
        )
    return known[name.lower()]


def look_at_result(desk: Desk, fetching: Fetching, source: str, so_far: ReadSoFar = unwatched) -> Waiting:
    """Run a query and let its result wait, as a file does, for an existing source or a new one, which the query will
    feed. For a new source, each result replaces all records.

    Raises DefinitionError for a connection that is not configured, IntakeError if the result has no records that can be
    read.
    """
    url = _address(fetching.connection)
    to = desk.workspace.files / f"{WAITING}{uuid4().hex}"
    try:
        desk.readers.fetch(Query(url, fetching.query, fetching.connection), to, so_far)
        held = hold_file(desk, to)
    finally:
        to.unlink(missing_ok=True)
    name = f"{fetching.connection} {desk.now():%Y-%m-%d %H.%M}.parquet"
    found = look_at_held(desk, name, held, source)
    if desk.sources.named(source) is None:
        found = replace(found, join="replace_all", always=True)
    found = replace(found, fetching=fetching)
    desk.waiting[found.token] = found
    return found


def fetch(desk: Desk, source: Source, so_far: ReadSoFar = unwatched) -> Fed:
    """Run the query that feeds a source, and import its result or hold it for a person; the outcome is stored.

    Raises DefinitionError if no query feeds it, whatever `so_far` raises, and any failure of the query.
    """
    fed = desk.fetches.of(source.id)
    if fed is None:
        raise DefinitionError(f"no query feeds {source.name}")
    with _ASKING[source.id]:
        at = desk.now()
        try:
            outcome, reason = _brought(desk, source, fed.fetching, so_far)
        except KalendorError as error:
            desk.fetches.note(source.id, at, "failed", str(error))
            raise
        desk.fetches.note(source.id, at, outcome, reason)
    return replace(fed, asked_at=at, outcome=outcome, reason=reason)


def _brought(desk: Desk, source: Source, fetching: Fetching, so_far: ReadSoFar) -> tuple[str, str]:
    found = look_at_result(desk, fetching, source.name, so_far)
    if found.already is not None:
        leave(desk, found.token)
        return "same", ""
    try:
        _, intake = keep(desk, found.token, origin="query")
    except (HeldError, ChangedError) as error:
        hold_for_a_person(desk, source.name, found.path, found.file_name, held_for(error))
        leave(desk, found.token)
        return "held", str(error)
    except IntakeError:
        leave(desk, found.token)
        if desk.intakes.brought_before(source, found.sha256) is None:
            raise
        return "same", ""  # another process imported the same meanwhile
    except BaseException:
        leave(desk, found.token)
        raise
    return "in", f"{grouped(intake.records)} {'record' if intake.records == 1 else 'records'}"


def set_fetching(desk: Desk, source: Source, fetching: Fetching | None) -> None:
    """Set or remove the query that feeds a source.

    Raises DefinitionError for a connection that is not configured, and for a source that is a report's summary.
    """
    if source.report_id is not None:
        raise DefinitionError(f"{source.name} is a report's summary; it is worked out from the report")
    desk.linked.check_kept(source.id, source.name)
    if fetching is None:
        desk.fetches.remove(source.id)
        return
    check(fetching)
    desk.fetches.set(source.id, fetching, desk.now())


def due(desk: Desk, now: datetime) -> list[Source]:
    """The sources whose queries are due; runs missed while the server was down count once."""
    found = []
    for fed in desk.fetches.all():
        last = fed.fetching.last_due(now)
        if last is not None and last > (fed.asked_at or fed.since):
            found.append(desk.sources.one(fed.source_id))
    return found


def fetch_due(desk: Desk) -> list[Fed]:
    """Run the queries that are due; the outcome of each, failures included."""
    found = []
    for source in due(desk, desk.now()):
        try:
            fetch(desk, source)
        except (IntakeError, DefinitionError):
            pass
        except KalendorError as error:
            log_unexpected(error, f"the query of {source.name}")
        fed = desk.fetches.of(source.id)
        found += [fed] if fed is not None else []
    return found


def keep_fetching(desk: Desk, stop: threading.Event) -> None:
    """Run due queries every half minute until stopped; to be run in a thread of its own."""
    WHO.set(BY)
    while not stop.wait(EVERY_SECONDS):
        try:
            begin_in(desk)
            fetch_due(desk)
        except Exception as error:
            log_unexpected(error, "queries")
    desk.workspace.close()
