"""Sources fed by a query: previewed, run on request or on schedule; undone like files; no secret stored."""

import sqlite3
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Kind
from kalendor.definitions.fetching import Fetching
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import folder_state, keep_looked_at, look_at_dropped
from kalendor.desk.fetching import connections, due, fetch, fetch_due, look_at_result, set_fetching
from kalendor.errors import DefinitionError, IntakeError
from kalendor.store.intakes import no_progress
from kalendor.store.sources import Source
from tests.intake import postgres

QUERY = "SELECT id, day, net FROM sold ORDER BY id"
NOW = datetime(2026, 3, 31, 9, 0)


@pytest.fixture
def till(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    path = tmp_path / "till.db"
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE sold (id INTEGER, day TEXT, net REAL)")
    add(path, range(60), 1)
    monkeypatch.setenv("KALENDOR_DATABASE_TILL", f"sqlite:{path}")
    return path


def add(path: Path, ids: range, month: int) -> None:
    with sqlite3.connect(path) as db:
        db.executemany(
            "INSERT INTO sold VALUES (?, ?, ?)", [(i, f"2026-{month:02}-{1 + i % 28:02}", i + 0.5) for i in ids]
        )


def first(desk: Desk, every: Any = None, query: str = QUERY) -> Source:
    """A new source fed by the query."""
    found = look_at_result(desk, Fetching(connection="till", query=query, every=every), "Till")
    return keep_looked_at(desk, found.token, False, no_progress, False)[0]


def total(desk: Desk) -> tuple[int, int]:
    source = desk.sources.named("Till")
    assert source is not None
    records = desk.sources.records(source)
    return records.count, int(records.columns["net"].values.sum())


def test_a_source_begins_with_a_query_and_goes_on_with_it(desk: Desk, till: Path) -> None:
    source = first(desk)
    assert (source.recipe.join, desk.sources.records(source).columns["net"].kind) == ("replace_all", Kind.DECIMAL)
    (intake,) = desk.intakes.of(source)
    assert (intake.origin, intake.records) == ("query", 60)
    assert fetch(desk, source).outcome == "same"
    add(till, range(100, 140), 2)
    assert fetch(desk, source).reason == "100 records"
    assert total(desk)[0] == 100
    latest = desk.intakes.of(source)[0]
    desk.intakes.undo(latest.id, desk.now())
    assert total(desk)[0] == 60
    desk.intakes.redo(latest.id)
    assert total(desk) == (100, sum(range(60)) * 10 + sum(range(100, 140)) * 10 + 500)


def test_what_takes_too_much_away_is_held_and_taken_by_a_person(desk: Desk, till: Path) -> None:
    source = first(desk)
    with sqlite3.connect(till) as db:
        db.execute("DELETE FROM sold WHERE id > 5")
    fed = fetch(desk, source)
    assert fed.outcome == "held"
    assert "would go from 60 records to 6" in fed.reason
    state = folder_state(desk, "Till")
    assert state is not None
    assert fetch(desk, source).outcome == "held"
    (held,) = state.held
    assert folder_state(desk, "Till") == state  # once, though it came twice
    assert total(desk)[0] == 60
    found = look_at_dropped(desk, "Till", held.file)
    keep_looked_at(desk, found.token, False, no_progress, True)
    assert total(desk)[0] == 6


def test_a_column_that_changed_is_held_too(desk: Desk, till: Path) -> None:
    source = first(desk)
    renamed = Fetching(connection="till", query=QUERY.replace("net", "net AS amount"))
    set_fetching(desk, source, renamed)
    fed = fetch(desk, source)
    assert fed.outcome == "held"
    assert "net" in fed.reason
    assert total(desk)[0] == 60


def test_what_goes_wrong_is_kept_with_the_source_and_changes_nothing(desk: Desk, till: Path) -> None:
    source = first(desk, every="day")
    till.rename(till.with_suffix(".gone"))
    with pytest.raises(IntakeError, match=r"till: there is no file 'till\.db'"):
        fetch(desk, source)
    fed = desk.fetches.of(source.id)
    assert fed is not None
    assert (fed.outcome, fed.reason[:12]) == ("failed", "till: there ")
    assert total(desk)[0] == 60
    assert not list(desk.workspace.files.glob(".waiting*"))


def test_a_connection_that_is_not_there_is_named(desk: Desk, till: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert [(one.name, one.kind) for one in connections()] == [("till", "SQLite")]
    source = first(desk)
    with pytest.raises(
        DefinitionError, match=r"no connection 'ledger' \(known: till\).*KALENDOR_DATABASE_LEDGER is set"
    ):
        set_fetching(desk, source, Fetching(connection="ledger", query="SELECT 1"))
    monkeypatch.delenv("KALENDOR_DATABASE_TILL")
    with pytest.raises(DefinitionError, match="known: none"):
        fetch(desk, source)
    set_fetching(desk, source, None)
    with pytest.raises(DefinitionError, match="no query feeds Till"):
        fetch(desk, source)


def test_what_is_due_is_asked_once_also_after_a_while_without_a_server(tmp_path: Path, till: Path) -> None:
    now = [NOW]
    desk = Desk(tmp_path / "w", now=lambda: now[0])
    source = first(desk, every="day")
    assert due(desk, now[0]) == []
    now[0] = NOW + timedelta(hours=20)
    assert due(desk, now[0]) == []
    now[0] = NOW + timedelta(days=5)
    add(till, range(200, 210), 3)
    assert [fed.outcome for fed in fetch_due(desk)] == ["in"]
    assert fetch_due(desk) == []
    till.rename(till.with_suffix(".gone"))
    now[0] += timedelta(days=1)
    assert [fed.outcome for fed in fetch_due(desk)] == ["failed"]
    assert fetch_due(desk) == []
    desk.sources.remove(source)
    assert desk.fetches.all() == []
    desk.workspace.close()


@given(
    st.sampled_from(["hour", "day", "week", "month"]),
    st.datetimes(datetime(2024, 1, 1), datetime(2027, 1, 1)),
    st.times(),
)
def test_the_last_due_moment_is_the_latest_of_all_there_are(every: Any, now: datetime, at: Any) -> None:
    fetching = Fetching(connection="x", query="x", every=every, at=f"{at:%H:%M}")
    due_at = fetching.last_due(now)
    assert due_at is not None
    assert due_at <= now
    minute = now.replace(second=0, microsecond=0)
    while not falls(fetching, minute):  # minute by minute, back
        minute -= (
            timedelta(minutes=1) if every == "hour" or minute.strftime("%H:%M") != fetching.at else timedelta(days=1)
        )
    assert due_at == minute


def falls(fetching: Fetching, moment: datetime) -> bool:
    if fetching.every == "hour":
        return moment.minute == 0
    day = {"day": True, "week": moment.isoweekday() == 1, "month": moment.day == 1}[str(fetching.every)]
    return day and moment.strftime("%H:%M") == fetching.at


def test_a_database_server_feeds_a_source_and_its_secret_is_nowhere(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    with postgres.running() as url:
        monkeypatch.setenv("KALENDOR_DATABASE_LEDGER", url)
        with postgres.owner() as db:
            db.execute("CREATE TABLE sold (id int, day date, net numeric(12,2), cur text)")
            db.execute(
                "INSERT INTO sold SELECT i, date '2026-01-01' + i % 50, i / 8.0, 'EUR' FROM generate_series(1, 400) i"
            )
            db.execute("GRANT SELECT ON sold TO reader")
            exact = db.execute("SELECT sum(net) FROM sold").fetchone()
        found = look_at_result(desk, Fetching(connection="ledger", query="SELECT * FROM sold"), "Till")
        source, _ = keep_looked_at(desk, found.token, False, no_progress, False)
        assert exact is not None
        assert total(desk) == (400, int(exact[0] * 100))
        assert fetch(desk, source).outcome == "same"
    with pytest.raises(IntakeError, match="ledger: "):
        fetch(desk, source)
    desk.workspace.close()
    secrets = [text.encode() for text in (postgres.SECRET, postgres.URL_SECRET)]
    for path in desk.workspace.folder.rglob("*"):
        assert not path.is_file() or not any(secret in path.read_bytes() for secret in secrets), path


def test_asked_by_many_at_once_it_is_brought_in_once(desk: Desk, till: Path) -> None:
    source = first(desk)
    add(till, range(500, 520), 2)
    other = Desk(desk.workspace.folder, now=desk.now)

    def asked(one: Desk) -> str:
        try:
            return fetch(one, source).outcome
        finally:
            one.workspace.close()

    with ThreadPoolExecutor(6) as many:
        outcomes = list(many.map(asked, [desk, other] * 3))
    assert sorted(outcomes) == ["in", *["same"] * 5]
    assert total(desk)[0] == 80
