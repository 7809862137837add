"""A new report with useful content to start from."""

import re
from typing import Any

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.profile import profiles
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError
from kalendor.sentence.naming import own_name
from kalendor.store.definitions import Stored

RECORDS: dict[str, Any] = {"name": "Records", "take": "count"}
RATES = frozenset(
    [
        "rate",
        "rates",
        "price",
        "prices",
        "percent",
        "percentage",
        "pct",
        "%",
        "ratio",
        "share",
        "average",
        "avg",
        "mean",
        "median",
        "score",
        "rating",
        "index",
        "age",
        "latitude",
        "longitude",
        "lat",
        "lon",
        "lng",
        "temperature",
        "yield",
        "fx",
    ]
)


def free_title(desk: Desk, wanted: str) -> str:
    """The wanted title, numbered if it is taken."""
    title, count = wanted, 1
    while desk.definitions.named("report", title) is not None:
        count += 1
        title = f"{wanted} {count}"
    return title


def add(desk: Desk, source_name: str, title: str | None) -> Stored:
    """Add a report over a source that counts its records and sums its first amount.

    Raises DefinitionError if there is no such source.
    """
    source = desk.sources.named(source_name)
    if source is None:
        raise DefinitionError(f"there is no source named {source_name!r}; bring a file in first")
    first = first_figure(complete(desk, source).records)
    figures = [first] if first == RECORDS else [first, RECORDS]
    document = {"kalendor": 1, "kind": "report", "source": source.name, "figures": figures}
    document["title"] = free_title(desk, title or f"{source.name} summary")
    return desk.definitions.add(definition(document, "new report", ("report",)), desk.now())


def first_figure(records: Records) -> dict[str, Any]:
    """The first figure of a new report: the sum of the first amount; the average of the first rate if no column adds
    up; else the number of records."""
    amount = first_amount(records)
    if amount is None:
        return RECORDS
    figure = {"take": "sum" if adds_up(amount, records.columns[amount]) else "mean", "of": amount}
    return {"name": own_name(figure), **figure}


def first_amount(records: Records) -> str | None:
    """The first column that looks like an amount: a number that is neither a code nor a year; additive ones first, and
    those with decimal places before whole ones."""
    numbers = [p for p in profiles(records) if p.role == "number"]
    adding = [p for p in numbers if adds_up(p.name, records.columns[p.name])]
    money = [p for p in adding if p.kind in (Kind.DECIMAL, Kind.APPROXIMATE)]
    found = money or adding or numbers
    return found[0].name if found else None


def adds_up(name: str, column: Column) -> bool:
    """Whether the sum of a column's numbers is meaningful; a percentage, price or rate is averaged instead."""
    words = re.findall(r"[^\W\d_]+|%", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name).casefold())
    return not column.percent and RATES.isdisjoint(words)


def copied(desk: Desk, report: Report) -> Stored:
    """The same report under another title."""
    return desk.definitions.add(
        report.model_copy(update={"title": free_title(desk, f"{report.title}, copy")}), desk.now()
    )
