"""The demo workspace: Skerry Line's exports imported as an analyst would have, month by month."""

import shutil
from collections.abc import Callable, Iterator
from datetime import date, datetime, time, timedelta
from functools import partial
from pathlib import Path

import numpy as np
from pydantic import TypeAdapter

from kalendor.definitions.document import parse
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Join, Recipe
from kalendor.definitions.report import MadeColumn
from kalendor.demo import definitions, skerry
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import CLOCK, Desk
from kalendor.desk.editions.issuing import issue
from kalendor.desk.editions.owed import named_periods
from kalendor.store.workspace import ANALYST

CLOCK_STANDS_AT, DEFINED_AT = datetime(2026, 8, 4, 9, 20), datetime(2025, 11, 20, 14, 5)


def write_files(folder: Path) -> list[Path]:
    """Skerry Line's exports as files, for trying things on."""
    folder.mkdir(parents=True, exist_ok=True)
    files = {name: content for _, name, content, *_ in _exports()}
    for name, content in files.items():
        (folder / name).write_bytes(content)
    return [folder / name for name in files]


def lay_out_exports(folder: Path) -> Path:
    """A folder of the ticket sales' files as imported into a demo workspace, to be linked; of a corrected month only
    the last file, under the name of the first."""
    desk, exports = Desk(folder), folder / "exports"
    source = desk.sources.named("Ticket sales")
    (exports / "tickets").mkdir(parents=True, exist_ok=True)
    intakes = desk.intakes.of(source)[::-1] if source is not None else []
    months = {intake.file_name[: len("tickets-2023-11")]: intake for intake in intakes}
    for month, intake in months.items():
        if not (exports / "tickets" / f"{month}.csv").exists():
            shutil.copyfile(desk.workspace.files / intake.sha256, exports / "tickets" / f"{month}.csv")
    desk.workspace.close()
    return exports


def build(folder: Path) -> None:
    """Write the demo workspace into an empty folder; an existing one is left unchanged.

    Files are imported, and editions issued, in their historical order.
    """
    desk = Desk(folder)
    if desk.workspace.told("demo") == "built":
        return
    desk.workspace.tell(ANALYST, "analyst")
    happenings: list[tuple[datetime, Callable[[], None]]] = [
        (at, partial(_bring_in, folder, name, content, source, at, join))
        for at, name, content, source, join in _exports()
    ]
    happenings.append((DEFINED_AT, partial(_define, folder)))
    happenings += [(at, partial(_issue, folder, title, text, at)) for at, title, text in _issues()]
    for _, happens in sorted(happenings, key=lambda one: one[0]):
        happens()
    desk.workspace.tell(CLOCK, CLOCK_STANDS_AT.isoformat())
    desk.workspace.tell("name", "Skerry Line")
    desk.workspace.tell("demo", "built")
    desk.workspace.close()


def _exports() -> Iterator[tuple[datetime, str, bytes, str, Join]]:
    """Every export: when it landed, its name and bytes, the source it feeds, and how it joined what was there."""
    for month, (name, content) in zip(skerry.months(), skerry.ticket_files(), strict=True):
        first = (month + 1).astype("datetime64[D]").astype("O")
        yield datetime(first.year, first.month, 2, 9, 14), name, content, "Ticket sales", "add"
        if name == "tickets-2026-04.csv":
            corrected = skerry.corrected(content)
            yield (
                datetime(2026, 5, 9, 10, 2),
                "tickets-2026-04-corrected.csv",
                corrected,
                "Ticket sales",
                "replace_dates",
            )
    begun = datetime(2025, 11, 3, 8, 5)
    yield begun, "routes.csv", skerry.routes_csv(), "Routes", "replace_all"
    yield begun, "plan-ty26.csv", skerry.plan_csv(), "Plan", "replace_all"
    for end in _month_ends(date(2025, 10, 31), date(2026, 7, 31)):
        at = datetime.combine(end + timedelta(days=1), time(7, 40))
        yield at, f"freight-{end:%Y-%m}.xlsx", skerry.freight_workbook(end), "Freight invoices", "replace_all"
    for name, content, landed in skerry.counter_files():
        join: Join = "replace_dates" if name.endswith("corrected.csv") else "add"
        yield datetime.combine(landed, time(6, 30)), name, content, "Pier counters", join


def _issues() -> Iterator[tuple[datetime, str, str]]:
    """Every edition issued: when, of which report, and for which period."""
    for end in _month_ends(date(2025, 11, 30), date(2026, 6, 30)):
        after = end + timedelta(days=1)
        yield datetime.combine(after + timedelta(days=2), time(9, 30)), "Net fare by sea area", f"{end:%Y-%m}"
        yield datetime.combine(after, time(8, 50)), "Freight owed by age", f"{end:%Y-%m}"
        yield datetime.combine(after + timedelta(days=3), time(11, 5)), "Passengers by pier and hour", f"{end:%Y-%m}"
    for end in (date(2026, 1, 31), date(2026, 4, 30)):
        at = datetime.combine(end + timedelta(days=6), time(15, 20))
        yield at, "Net fare against plan", f"{end:%Y-%m}"
        yield at + timedelta(minutes=8), "Year so far, month by month", f"{end:%Y-%m}"
    yield datetime(2026, 5, 9, 10, 40), "Net fare by sea area", "2026-04"


def _month_ends(first: date, last: date) -> Iterator[date]:
    month = np.datetime64(first, "M")
    while month <= np.datetime64(last, "M"):
        month += 1
        yield (month.astype("datetime64[D]") - 1).astype("O")


def _define(folder: Path) -> None:
    """The made columns, groupings and reports, as the analyst made them before the first edition."""
    desk = Desk(folder, now=lambda: DEFINED_AT)
    tickets = desk.sources.named("Ticket sales")
    assert tickets is not None
    desk.sources.save_made(tickets, TypeAdapter(list[MadeColumn]).validate_python([definitions.NET, definitions.PIER]))
    for document in (*definitions.GROUPINGS, *definitions.REPORTS):
        body = definition(document, "demo")
        if desk.definitions.named(body.kind, str(document.get("name") or document.get("title"))) is None:
            desk.definitions.add(body, DEFINED_AT)
    desk.workspace.close()


def _issue(folder: Path, title: str, text: str, at: datetime) -> None:
    desk = Desk(folder, now=lambda: at)
    stored = desk.definitions.named("report", title)
    assert stored is not None
    for period in named_periods(desk, stored, text)[1]:
        issue(desk, stored.id, period)
    desk.workspace.close()


def _bring_in(folder: Path, name: str, content: bytes, source: str, at: datetime, join: Join) -> None:
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
