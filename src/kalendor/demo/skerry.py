"""Skerry Line, a made-up ferry company: its exports, written by a seeded generator, the same every time."""

import io
import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache

import numpy as np
import xlsxwriter

SEED = 20231101
FIRST_MONTH, MONTHS = np.datetime64("2023-11"), 33
TICKETS_A_MONTH = 1512
SEASON = (0.62, 0.60, 0.66, 0.78, 0.92, 1.08, 1.24, 1.45, 1.52, 1.18, 0.86, 0.68)
FARE_TYPES = ("adult", "child", "senior", "islander", "vehicle", "bicycle", "group", "season", "staff")
FARE_SHARES = (0.36, 0.14, 0.11, 0.13, 0.12, 0.05, 0.04, 0.03, 0.02)
FARE_PRICES = (18.5, 9.25, 13.0, 11.0, 64.0, 6.5, 148.0, 96.0, 0.0)
CUSTOMERS = (
    "Alder & Wick", "Brae Stores", "Corran Fish", "Dunna Creamery", "Eyot Timber", "Fallow Farms", "Garth Hotels",
    "Hallin Council", "Inver Wool", "Jetty Foods", "Kelp & Co", "Lunna Post", "Miden Boatyard", "Ness Builders",
    "Ox Point Energy", "Quoy Bakery",
)  # fmt: skip
GOODS = ("groceries", "livestock", "building", "fuel", "mail")


@dataclass(frozen=True)
class Route:
    """A route; `share` of all tickets, `length` as a factor on fares, `summer` routes run from May to September."""

    code: str
    name: str
    pier: str
    share: float
    length: float
    summer: bool = False
    first_month: str = "2023-11"


ROUTES = (
    Route("HAL-SKR", "Hallin – Skarr", "Hallin", 0.12, 0.9),
    Route("HAL-TAR", "Hallin – Tarn Point", "Hallin", 0.15, 1.1),
    Route("SKA-VOL", "Skarr – Vole", "Skarr", 0.13, 1.0),
    Route("BRA-UIS", "Brae – Uist Head", "Brae", 0.14, 1.3),
    Route("BRA-FAL", "Brae – Fallow", "Brae", 0.12, 1.05),
    Route("BRA-LUN", "Brae – Lunna", "Brae", 0.05, 1.2),
    Route("BRA-OXP", "Brae – Ox Point", "Brae", 0.04, 1.4),
    Route("COR-MID", "Corran – Miden", "Corran", 0.12, 1.15),
    Route("COR-NES", "Corran – Ness", "Corran", 0.08, 1.25),
    Route("EXC-SEA", "Seal Skerries round trip", "Hallin", 0.03, 1.6, summer=True),
    Route("EXC-LAM", "Lamp House evening trip", "Tarn", 0.02, 1.5, summer=True),
    Route("ISL-LUN", "Islet of Lunna shuttle", "Brae", 0.01, 0.8, first_month="2026-07"),
    Route("ISL-SOA", "Islet of Soa shuttle", "Corran", 0.004, 0.8, first_month="2026-07"),
    Route("XTR-01", "Extra sailing", "Hallin", 0.002, 1.0),
)


def routes_csv() -> bytes:
    """The table of routes to look up from."""
    rows = ["code,name,pier,minutes"]
    rows += [f"{r.code},{r.name},{r.pier},{round(35 * r.length)}" for r in ROUTES]
    return ("\n".join(rows) + "\n").encode("utf-8")


def _rng(*part: int) -> np.random.Generator:
    return np.random.Generator(np.random.PCG64([SEED, *part]))


def months() -> list[np.datetime64]:
    """The months that have files, as datetime64[M]."""
    return [FIRST_MONTH + m for m in range(MONTHS)]


def ticket_files() -> Iterator[tuple[str, bytes]]:
    """One delimited file a month: name and bytes."""
    ticket = 400_000
    for index, month in enumerate(months()):
        rows = _tickets(index, month, ticket)
        ticket += len(rows) + 37
        lines = ["ticket,sold on,route,fare type,status,passengers,gross,discount", *rows]
        if index == MONTHS - 1:
            lines[87] = _garbled(lines[87], "see note")
            lines[1203] = _garbled(lines[1203], "12O.50")
        yield f"tickets-{month}.csv", ("\r\n".join(lines) + "\r\n").encode("utf-8")


def corrected(content: bytes) -> bytes:
    """A month's file sent again: two tickets removed, and two missing ones added."""
    lines = content.decode().splitlines()
    for at in (40, 700):
        lines[at] = lines[at].replace(",sailed,", ",void,").replace(",refunded,", ",void,")
    lines[-1:] = [lines[-1], *(line.replace("T-4", "T-9") for line in lines[-3:-1])]
    return ("\r\n".join(lines) + "\r\n").encode("utf-8")


def _garbled(line: str, amount: str) -> str:
    cells = line.split(",")
    cells[6] = amount
    return ",".join(cells)


def _tickets(index: int, month: np.datetime64, first: int) -> list[str]:
    rng = _rng(1, index)
    of_year = int(month.astype(int)) % 12
    count = int(TICKETS_A_MONTH * SEASON[of_year] * (1 + 0.05 * (index // 12)) * rng.normal(1, 0.015))
    days = int((month + 1).astype("datetime64[D]").astype(int) - month.astype("datetime64[D]").astype(int))
    open_routes = [r for r in ROUTES if (not r.summer or 4 <= of_year <= 8) and np.datetime64(r.first_month) <= month]
    shares = np.array([r.share * (1 + 0.03 * (index // 12) * (1 if i % 3 else -1)) for i, r in enumerate(open_routes)])
    minutes = np.sort(rng.integers(0, days * 16 * 60, count))
    route = rng.choice(len(open_routes), count, p=shares / shares.sum())
    fare = rng.choice(len(FARE_TYPES), count, p=FARE_SHARES)
    people = np.where(fare == 6, rng.integers(8, 49, count), np.minimum(rng.geometric(0.45, count), 9))
    status = rng.choice(3, count, p=(0.975, 0.018, 0.007))
    noise = rng.integers(-2, 3, count)
    discounted = rng.random(count) < 0.36
    no_fare_type = rng.random(count) < 0.0015
    start = month.astype("datetime64[D]")
    rows = []
    for i in range(count):
        day, minute = divmod(int(minutes[i]), 16 * 60)
        on = str(start + day)
        r, f = open_routes[route[i]], int(fare[i])
        heads = 1 if f in (4, 6, 7) else int(people[i])
        cents = round(FARE_PRICES[f] * r.length * heads * (1 + 0.04 * (index // 12)) * 20) * 5 + int(noise[i]) * 5 * (
            f != 8
        )
        cents = max(cents, 0)
        off = f"{cents * (10 if f == 3 else 5) // 100 / 100:.2f}" if discounted[i] and cents else ""
        sign = "-" if status[i] == 1 else ""
        if sign:
            off = ""
        rows.append(
            f"T-{first + i},{on[8:]}/{on[5:7]}/{on[:4]} {6 + minute // 60:02d}:{minute % 60:02d},{r.code},"
            f"{'' if no_fare_type[i] else FARE_TYPES[f]},{('sailed', 'refunded', 'void')[status[i]]},{people[i]},"
            f"{sign}{cents // 100}.{cents % 100:02d},{off}"
        )
    return rows


def freight_workbook(until: date = date(2026, 7, 31)) -> bytes:
    """Freight invoices as a workbook, as the ledger stood on a day: invoiced, due and paid on, amount, customer."""
    held = io.BytesIO()
    book = xlsxwriter.Workbook(held, {"in_memory": True})
    book.set_properties({"created": datetime(until.year, until.month, until.day), "title": "Freight invoices"})
    sheet, on = book.add_worksheet("Invoices"), book.add_format({"num_format": "d mmm yyyy"})
    sheet.write(0, 0, "Skerry Line freight, open and paid")
    for i, row in enumerate(_ledger(until), start=2):
        for k, cell in enumerate(row):
            if isinstance(cell, date):
                sheet.write_datetime(i, k, datetime(cell.year, cell.month, cell.day), on)
            elif isinstance(cell, str):
                sheet.write_string(i, k, cell)
            elif cell is not None:
                sheet.write_number(i, k, cell)
    book.close()
    return held.getvalue()


def _ledger(until: date) -> Iterator[tuple[str | float | date | None, ...]]:
    """The invoices of the days up to a given one, with payments up to then; the headings first."""
    headings, *invoices = _freight()
    yield headings
    for row in invoices:
        if isinstance(row[4], date) and row[4] <= until:
            paid = row[6] if isinstance(row[6], date) and row[6] <= until else None
            yield (*row[:6], paid, *row[7:])


@lru_cache(maxsize=1)
def _freight() -> tuple[tuple[str | float | date | None, ...], ...]:
    return tuple(_invoiced())


def _invoiced() -> Iterator[tuple[str | float | date | None, ...]]:
    rng = _rng(2)
    yield ("invoice", "customer", "goods", "route", "invoiced on", "due on", "paid on", "crates", "amount")
    last = np.datetime64("2026-07-31")
    count = 4200
    span = int((last - np.datetime64("2023-11-01")).astype(int))
    days = np.sort(rng.integers(0, span + 1, count))
    weights = np.linspace(2.2, 0.6, len(CUSTOMERS))
    customers = rng.choice(len(CUSTOMERS), count, p=weights / weights.sum())
    goods = rng.choice(len(GOODS), count, p=(0.34, 0.14, 0.22, 0.12, 0.18))
    freight_routes = list(ROUTES[:9])
    routes = rng.choice(len(freight_routes), count)
    terms = rng.choice((14, 30, 60), count, p=(0.3, 0.55, 0.15))
    late = rng.gamma(1.6, 16, count).astype(int) - 16
    crates = rng.integers(1, 40, count)
    never = rng.random(count) < 0.012
    for i in range(count):
        on = np.datetime64("2023-11-01") + int(days[i])
        due = on + int(terms[i])
        paid = due + int(late[i])
        cents = int(crates[i]) * int(rng.integers(1450, 5200)) * (-1 if i % 97 == 0 else 1)
        unpaid = never[i] or paid > last
        yield (
            f"F-{70000 + i}", CUSTOMERS[customers[i]], GOODS[goods[i]], freight_routes[routes[i]].code, on.astype("O"),
            None if i % 611 == 5 else due.astype("O"), None if unpaid else max(paid, on).astype("O"), int(crates[i]), cents / 100,
        )  # fmt: skip


def plan_csv() -> bytes:
    """The plan: net fare by month and route for the timetable year 2026."""
    rows = ["month,route,planned"]
    for index, month in enumerate(months()[24:]):
        for route in ROUTES[:11]:
            of_year = int(month.astype(int)) % 12
            if route.summer and not 4 <= of_year <= 8:
                continue
            rows.append(
                f"{month}-01,{route.code},{round(66_000 * SEASON[of_year] * route.share * route.length * (1 + index / 300)):d}.00"
            )
    return ("\n".join(rows) + "\n").encode("utf-8")


def counter_files() -> Iterator[tuple[str, bytes, date]]:
    """Pier counters, passengers counted every two hours: a file up to October 2025, then one a month, that of June 2026
    sent again, July's only half complete; with the day on which each was imported."""
    lines = list(_counted())
    edges = [date(2023, 11, 1), date(2025, 11, 1), *(date(2025 + (m > 12), (m - 1) % 12 + 1, 1) for m in range(12, 20))]
    for first, after in itertools.pairwise([*edges, date(2026, 7, 20)]):
        own = [text for on, text in lines if first <= on < after]
        name = f"pier-counters-{first:%Y-%m}.csv" if first > edges[0] else "pier-counters-to-2025-10.csv"
        yield name, _counter_file(own), after + timedelta(days=1)
        if first == date(2026, 6, 1):
            again = [text.replace(";Tarn;", ";Tarn;1") if text.startswith("2026-06-28") else text for text in own]
            yield "pier-counters-2026-06-corrected.csv", _counter_file(again), date(2026, 7, 9)


def _counter_file(lines: list[str]) -> bytes:
    return ("\n".join(["counted at;pier;passengers", *lines]) + "\n").encode("utf-8")


def _counted() -> Iterator[tuple[date, str]]:
    rng = _rng(3)
    piers = ("Hallin", "Skarr", "Brae", "Corran", "Tarn")
    for day in range(1004):
        on = np.datetime64("2023-11-01") + day
        season = SEASON[int(on.astype("datetime64[M]").astype(int)) % 12]
        for p, pier in enumerate(piers):
            for hour in (7, 9, 12, 15, 17):
                base = 60 * season * (1.5 if hour in (9, 17) else 1) / (1 + 0.25 * p)
                yield on.astype("O"), f"{on}T{hour:02d}:00;{pier};{int(rng.poisson(base))}"
