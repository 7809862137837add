"""A new report: something to read at once, that the analyst then changes."""

from kalendor.core.values.columns import Kind, Records
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.profile import profiles
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError
from kalendor.store.definitions import Stored


def free_title(desk: Desk, wanted: str) -> str:
    """The wanted title, with a number where it is taken."""
    title, count = wanted, 1
    while desk.definitions.named("report", title) is not None:
        count += 1
        title = f"{wanted} {count}"
    return title


def add(desk: Desk, source_name: str, title: str | None) -> Stored:
    """A report over a source that counts its records, and sums its first amount.

    Raises DefinitionError where there is no such source.
    """
    source = desk.sources.named(source_name)
    if source is None:
        raise DefinitionError(f"there is no source named {source_name!r}; bring a file in first")
    figures = [{"name": "Records", "take": "count"}]
    amount = first_amount(complete(desk, source).records)
    if amount:
        figures.insert(0, {"name": amount[:1].upper() + amount[1:].replace("_", " "), "take": "sum", "of": amount})
    document = {"kalendor": 1, "kind": "report", "source": source.name, "figures": figures}
    document["title"] = free_title(desk, title or f"{source.name} summary")
    return desk.definitions.add(definition(document, "new report", ("report",)), desk.now())


def first_amount(records: Records) -> str | None:
    """The first column that looks like an amount: a decimal, else a number that is neither a code nor a year."""
    numbers = [p for p in profiles(records) if p.role == "number"]
    money = [p for p in numbers if p.kind in (Kind.DECIMAL, Kind.APPROXIMATE)]
    return (money or numbers)[0].name if numbers else None


def copied(desk: Desk, report: Report) -> Stored:
    """The same report under another title."""
    return desk.definitions.add(
        report.model_copy(update={"title": free_title(desk, f"{report.title}, copy")}), desk.now()
    )
