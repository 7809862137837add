"""The demo workspace: Skerry Line's exports brought in as an analyst would have, month by month."""

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

from pydantic import TypeAdapter

from kalendor.definitions.document import parse
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import MadeColumn
from kalendor.demo import definitions, skerry
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import CLOCK, Desk

CLOCK_STANDS_AT = datetime(2026, 8, 4, 9, 20)


def write_files(folder: Path) -> list[Path]:
    """Skerry Line's exports as files, for trying things on."""
    folder.mkdir(parents=True, exist_ok=True)
    files = {name: content for name, content, *_ in _exports()}
    for name, content in files.items():
        (folder / name).write_bytes(content)
    return [folder / name for name in files]


def build(folder: Path) -> None:
    """Write the demo workspace into an empty folder; one that holds it already is left as it is."""
    desk = Desk(folder)
    if desk.workspace.told("demo") == "built":
        return
    for name, content, source, at, join in _exports():
        _bring_in(folder, name, content, source, at, join)
    tickets = desk.sources.named("Ticket sales")
    assert tickets is not None
    desk.sources.save_made(tickets, TypeAdapter(list[MadeColumn]).validate_python([definitions.NET, definitions.PIER]))
    for document in (*definitions.GROUPINGS, *definitions.REPORTS):
        body = definition(document, "demo")
        if desk.definitions.named(body.kind, str(document.get("name") or document.get("title"))) is None:
            desk.definitions.add(body, CLOCK_STANDS_AT)
    desk.workspace.tell(CLOCK, CLOCK_STANDS_AT.isoformat())
    desk.workspace.tell("name", "Skerry Line")
    desk.workspace.tell("demo", "built")
    desk.workspace.close()


def _exports() -> Iterator[tuple[str, bytes, str, datetime, str]]:
    """Every export with the source it feeds, when it landed, and how it joined what was there."""
    for month, (name, content) in zip(skerry.months(), skerry.ticket_files(), strict=True):
        first = (month + 1).astype("datetime64[D]").astype("O")
        yield name, content, "Ticket sales", datetime(first.year, first.month, 2, 9, 14), "add"
        if name == "tickets-2026-04.csv":
            corrected = skerry.corrected(content)
            yield (
                "tickets-2026-04-corrected.csv",
                corrected,
                "Ticket sales",
                datetime(2026, 5, 9, 10, 2),
                "replace_dates",
            )
    later = datetime(2026, 8, 3, 8, 5)
    yield "routes.csv", skerry.routes_csv(), "Routes", later, "replace_all"
    yield "freight-invoices.xlsx", skerry.freight_workbook(), "Freight invoices", later, "replace_all"
    yield "plan-ty26.csv", skerry.plan_csv(), "Plan", later, "replace_all"
    yield "pier-counters.csv", skerry.counters_csv(), "Pier counters", later, "add"


def _bring_in(folder: Path, name: str, content: bytes, source: str, at: datetime, join: str) -> None:
    desk = Desk(folder, now=lambda: at)
    there = desk.sources.named(source)
    found = look_at(desk, name, content, source, None if there else _told(source))
    if there is None or desk.intakes.brought_before(there, found.sha256) is None:
        keep(desk, read_again(desk, found.token, Change(join=join)).token)
    desk.workspace.close()


def _told(source: str) -> Recipe | None:
    if source != "Ticket sales":
        return None
    columns = {"sold on": {"type": "datetime", "format": "%d/%m/%Y %H:%M"}, "gross": {"type": "decimal", "places": 2}}
    columns["discount"] = {"type": "decimal", "places": 2}
    return parse(Recipe, {"columns": columns}, "demo")
