"""The demo workspace: Skerry Line's exports brought in as an analyst would have, month by month."""

from datetime import datetime, timedelta
from pathlib import Path

from kalendor.definitions.document import parse
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Recipe
from kalendor.demo import definitions, skerry
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import CLOCK, Desk

CLOCK_STANDS_AT = datetime(2026, 8, 4, 9, 20)


def write_files(folder: Path) -> list[Path]:
    """Skerry Line's exports as files, for trying things on."""
    folder.mkdir(parents=True, exist_ok=True)
    files = dict(skerry.ticket_files())
    files |= {
        "routes.csv": skerry.routes_csv(),
        "freight-invoices.csv": skerry.freight_csv(),
        "pier-counters.csv": skerry.counters_csv(),
    }
    for name, content in files.items():
        (folder / name).write_bytes(content)
    return [folder / name for name in files]


def build(folder: Path) -> None:
    """Write the demo workspace into an empty folder; one that holds it already is left as it is."""
    desk = Desk(folder)
    if desk.workspace.told("demo") == "built":
        return
    _bring_in(desk)
    for document in (*definitions.GROUPINGS, *definitions.REPORTS):
        body = definition(document, "demo")
        if desk.definitions.named(body.kind, str(document.get("name") or document.get("title"))) is None:
            desk.definitions.add(body, CLOCK_STANDS_AT)
    desk.workspace.tell(CLOCK, CLOCK_STANDS_AT.isoformat())
    desk.workspace.tell("name", "Skerry Line")
    desk.workspace.tell("demo", "built")
    desk.workspace.close()


def _bring_in(desk: Desk) -> None:
    files: list[tuple[str, bytes, str, datetime]] = []
    for month, (name, content) in zip(skerry.months(), skerry.ticket_files(), strict=True):
        landed = (month + 1).astype("datetime64[D]").astype("O")
        files.append(
            (name, content, "Ticket sales", datetime(landed.year, landed.month, landed.day, 9, 14) + timedelta(days=1))
        )
    later = datetime(2026, 8, 3, 8, 5)
    files.append(("routes.csv", skerry.routes_csv(), "Routes", later))
    files.append(("freight-invoices.csv", skerry.freight_csv(), "Freight invoices", later))
    files.append(("pier-counters.csv", skerry.counters_csv(), "Pier counters", later))
    for name, content, source, at in files:
        at_desk = Desk(desk.workspace.folder, now=lambda at=at: at)  # type: ignore[misc]
        found = look_at(at_desk, name, content, source, None if desk.sources.named(source) else _told(source))
        already = desk.sources.named(source)
        if already is None or desk.sources.brought_before(already, found.sha256) is None:
            keep(at_desk, found.token)
        at_desk.workspace.close()


def _told(source: str) -> Recipe | None:
    if source != "Ticket sales":
        return None
    columns = {"sold on": {"type": "datetime", "format": "%d/%m/%Y %H:%M"}, "gross": {"type": "decimal", "places": 2}}
    columns["discount"] = {"type": "decimal", "places": 2}
    return parse(Recipe, {"columns": columns}, "demo")
