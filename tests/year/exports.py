"""Monthly exports of a shop, and the ways in which such exports change."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from random import Random

FARES = ("adult", "child", "resident", "group", "dog", "bicycle", "car", "van")
PIERS = ("North Pier", "Old Harbour", "Saltings", "Mill Quay", "Ness Point")
COLUMNS = ("ticket", "sold on", "fare type", "pier", "gross", "discount", "passengers")
OTHER_NAMES = {
    "ticket": ("ticket no", "ticket id"),
    "sold on": ("sale date", "day of sale"),
    "fare type": ("tariff", "category"),
    "pier": ("station", "sold at"),
    "gross": ("gross amount", "gross total"),
    "discount": ("discount given", "rebate"),
    "passengers": ("no of passengers", "persons"),
}
DATE_FORMATS = ("%Y-%m-%d", "%d/%m/%Y", "%m/%d/%Y", "%d.%m.%Y", "%d %b %Y")
DRIFTS = ("renamed", "order", "dates", "mark", "encoding", "added", "lacking", "places", "several", "back")
ENCODINGS = ("utf-8", "utf-8-sig", "cp1252", "utf-16")


@dataclass(frozen=True)
class Sale:
    """A sale."""

    ticket: str
    sold_on: date
    fare: str
    pier: str
    gross: Decimal
    discount: Decimal | None
    passengers: int


@dataclass(frozen=True)
class Export:
    """The format of an export: its columns in order, their headings, and how values are written."""

    columns: tuple[str, ...] = COLUMNS
    names: tuple[tuple[str, str], ...] = ()
    date_format: str = "%Y-%m-%d"
    mark: str = "."
    encoding: str = "utf-8"
    added: tuple[str, ...] = ()
    places: int = 2

    def heading(self, column: str) -> str:
        """The heading of a column."""
        return dict(self.names).get(column, column)

    def written(self, sales: Sequence[Sale]) -> bytes:
        """The export file of some sales."""
        separator = ";" if self.mark == "," else ","
        lines = [separator.join([*map(self.heading, self.columns), *self.added])]
        lines += [
            separator.join([*self._cells(sale), *(f"{sale.passengers % 3}x" for _ in self.added)]) for sale in sales
        ]
        return ("\n".join(lines) + "\n").encode(self.encoding)

    def _cells(self, sale: Sale) -> list[str]:
        amounts = [f"{sale.gross:.{self.places}f}", "" if sale.discount is None else f"{sale.discount:.2f}"]
        gross, discount = (amount.replace(".", self.mark) for amount in amounts)
        cells = dict(zip(COLUMNS, (sale.ticket, sale.sold_on.strftime(self.date_format), sale.fare, sale.pier, gross, discount,
                                   str(sale.passengers)), strict=True))  # fmt: skip
        return [cells[column] for column in self.columns]


def drifted(rng: Random, before: Export, earlier: Sequence[Export] = ()) -> tuple[str, Export]:
    """A strategy for the next export: the name of the change, and the export; possibly one of the `earlier` ones
    again."""
    kind = rng.choice(DRIFTS if earlier else DRIFTS[:-1])
    if kind == "back":
        return kind, rng.choice(earlier)
    if kind == "several":
        for _ in range(rng.randrange(2, 4)):
            before = drifted(rng, before)[1]
        return kind, before
    if kind == "places":
        return kind, replace(before, places=before.places + 1 if before.places < 5 else 2)
    if kind == "renamed":
        column = rng.choice(before.columns)
        name = rng.choice([n for n in (column, *OTHER_NAMES[column]) if n != before.heading(column)])
        return kind, replace(before, names=tuple({**dict(before.names), column: name}.items()))
    if kind == "order":
        return kind, replace(before, columns=tuple(rng.sample(before.columns, len(before.columns))))
    if kind == "dates":
        return kind, replace(before, date_format=rng.choice([f for f in DATE_FORMATS if f != before.date_format]))
    if kind == "mark":
        return kind, replace(before, mark="," if before.mark == "." else ".")
    if kind == "encoding":
        return kind, replace(before, encoding=rng.choice([e for e in ENCODINGS if e != before.encoding]))
    if kind == "added":
        return kind, replace(before, added=(*before.added, f"channel {len(before.added) + 1}"))
    left = [c for c in before.columns if c not in ("ticket", "sold on", "gross")]
    gone = rng.choice(left) if left else ""
    return kind, replace(before, columns=tuple(c for c in before.columns if c != gone))


def sales_of(rng: Random, month: date, count: int, tickets: "Tickets") -> list[Sale]:
    """Sales of one month, ordered by day."""
    days = (date(month.year + month.month // 12, month.month % 12 + 1, 1) - month).days
    on = sorted(month + timedelta(days=rng.randrange(days)) for _ in range(count))
    return [
        Sale(
            tickets.next(), day, rng.choice(FARES), rng.choice(PIERS), Decimal(rng.randrange(150, 95_000)) / 100,
            Decimal(rng.randrange(10, 1_500)) / 100 if rng.random() < 0.4 else None, rng.randrange(1, 9),
        )
        for day in on
    ]  # fmt: skip


class Tickets:
    """A generator of unique ticket numbers."""

    def __init__(self) -> None:
        self.count = 40_000

    def next(self) -> str:
        """The next number."""
        self.count += 1
        return f"T{self.count}"
