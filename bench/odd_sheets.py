"""Sheets of every shape that a page meets: by name, made from numbers that are the same in every run."""

from collections.abc import Iterator
from datetime import date
from typing import Any

import numpy as np

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind, Records, date_column, text_column
from kalendor.definitions.kinds import definition

TODAY = date(2026, 8, 4)
SUM = {"name": "Net amount", "take": "sum", "of": "net"}
COUNT = {"name": "Orders", "take": "count"}
MONTHS = {"period": "on", "grains": ["month"]}
YEARS = {"period": "on", "grains": ["year", "month"]}
SCRIPTS = ["東京支店の売上", "سوق المدينة", "Ærøskøbing", "שוק הכרמל", "Zürich 東口", "Łódź", "ประเทศไทย", "Ελλάδα"]


def _records(lines: int, groups: int, months: int, label: str = "{0}", each: int = 1) -> Records:
    """A record or more for each of so many lines and months; the lines in groups."""
    n = lines * months * each
    line, month = np.arange(n) % lines, (np.arange(n) // lines) % max(1, months)
    net = (np.arange(n) * 7919) % 9_000_000 - 900_000
    return Records(
        {
            "on": date_column([date(2022 + int(m) // 12 + 1, int(m) % 12 + 1, 15) for m in month]),
            "line": text_column([label.format(f"Line {i:05d}", SCRIPTS[i % len(SCRIPTS)]) for i in line.tolist()]),
            "group": text_column([f"Group {i % groups:03d}" for i in line.tolist()]),
            "area": text_column([f"Area {i % 3}" for i in line.tolist()]),
            "kind": text_column([f"Kind {i % 5}" for i in line.tolist()]),
            "net": Column(Kind.DECIMAL, net.astype(np.int64), places=2),
        },
        n,
    )


def _sheet(data: Records, **keys: Any) -> Sheet:
    base = {"kalendor": 1, "kind": "report", "title": "Net amount", "source": "data", "figures": [SUM]}
    return work_out(definition({**base, **keys}, "report"), Material(data, groupings([]), None), TODAY)


def _by(*columns: str) -> list[dict[str, str]]:
    return [{"category": column} for column in columns]


def odd_sheets(large: bool = False) -> Iterator[tuple[str, Sheet]]:
    """The sheets; with `large`, those of many thousand lines too."""
    plain = _records(12, 4, 12)
    yield "one cell", _sheet(plain)
    yield "no lines", _sheet(plain, down=_by("line"), only=["net > 99999999"])
    yield "12 lines, one figure", _sheet(plain, down=_by("line"))
    yield "12 lines, 12 months", _sheet(plain, down=_by("line"), across=[MONTHS])
    yield "12 lines in groups, 12 months", _sheet(plain, down=_by("group", "line"), across=[MONTHS])
    yield "12 months down", _sheet(plain, down=[MONTHS], figures=[SUM, COUNT, {"name": "Share", "share": "Net amount"}])
    four = _records(12, 4, 48)
    yield "12 lines, 48 months", _sheet(four, down=_by("line"), across=[MONTHS])
    yield "12 lines, 4 years of months", _sheet(four, down=_by("line"), across=[YEARS])
    yield "3 lines, 4 years of months", _sheet(four, down=_by("area"), across=[YEARS])
    yield "4 years of months, 2 figures", _sheet(four, down=_by("area"), across=[YEARS], figures=[SUM, COUNT])
    quarters = {"period": "on", "grains": ["year", "quarter", "month"]}
    yield "4 years, quarters, months", _sheet(four, down=_by("group", "line"), across=[quarters])
    yield "12 lines, 4 years, against a year earlier", _sheet(
        four, down=_by("line"), across=[{"period": "on", "grains": ["year"]}],
        figures=[SUM, {"name": "Before", "compare": "Net amount", "with": "year_earlier", "as": "base"},
                 {"name": "Change", "compare": "Net amount", "with": "year_earlier", "as": "percent"}],
    )  # fmt: skip
    many = _records(200, 20, 36)
    yield "200 lines in 20 groups, 36 months", _sheet(many, down=_by("group", "line"), across=[YEARS])
    yield (
        "200 lines in 20 groups, 3 years",
        _sheet(many, down=_by("group", "line"), across=[{"period": "on", "grains": ["year"]}]),
    )
    yield "200 lines, 8 figures", _sheet(
        many, down=_by("line"),
        figures=[SUM, COUNT, *({"name": t.capitalize(), "take": t, "of": "net"} for t in ("mean", "median", "min", "max", "stdev", "distinct"))],
    )  # fmt: skip
    yield (
        "three levels in columns of their own",
        _sheet(many, down=_by("area", "kind", "line"), layout={"lines": "columns"}),
    )
    yield (
        "groups that begin a page",
        _sheet(many, down=_by("group", "line"), layout={"levels": {"group": {"page_break": True}}}),
    )
    yield (
        "records listed",
        _sheet(_records(20, 4, 3), down=_by("group"), records={"columns": ["on", "line", "area", "net"]}),
    )
    wide = _records(6, 3, 100, each=3)
    days = {"period": "on", "grains": ["month"]}
    yield "6 lines, 100 months", _sheet(wide, down=_by("line"), across=[days])
    yield "6 lines, 300 columns", _sheet(_records(300, 6, 2), down=_by("group"), across=_by("line"))
    yield (
        "six levels",
        _sheet(
            _records(40, 4, 12),
            down=[*_by("area", "kind", "group", "line"), {"period": "on", "grains": ["quarter", "month"]}],
        ),
    )
    long_name = "{0} with a name that goes on for quite a while, as names of cost centres do"
    yield "names of 75 letters, 12 months", _sheet(_records(12, 4, 12, long_name), down=_by("line"), across=[MONTHS])
    yield (
        "names of 60 letters without a blank",
        _sheet(_records(12, 4, 12, "X" * 50 + "{0}".replace(" ", "")), down=_by("line"), across=[MONTHS]),
    )
    yield "long names across", _sheet(_records(8, 4, 2, long_name), down=_by("area"), across=_by("line"))
    yield "names in many scripts", _sheet(_records(24, 4, 12, "{1} {0}"), down=_by("line"), across=[MONTHS])
    yield (
        "amounts in billions",
        _sheet(
            plain,
            down=_by("line"),
            across=[MONTHS],
            figures=[{"name": "Large", "formula": '"Net amount" * 1000000'}, {**SUM, "hide": True}],
        ),
    )
    yield "texts as figures", _sheet(
        _records(12, 4, 3, long_name), down=_by("group"),
        figures=[{"name": "First", "take": "first", "of": "line", "by": "on"}, {"name": "Last", "take": "last", "of": "line", "by": "on"}, SUM],
    )  # fmt: skip
    yield "a column that is empty", _sheet(
        plain, down=_by("line"), across=[MONTHS],
        figures=[SUM, {"name": "None", "take": "mean", "of": "net", "where": "net > 99999999"}],
    )  # fmt: skip
    yield (
        "5,000 lines in 100 groups, 12 months",
        _sheet(_records(5000, 100, 12), down=_by("group", "line"), across=[MONTHS]),
    )
    yield "5,000 lines, one figure", _sheet(_records(5000, 100, 1), down=_by("line"))
    if large:
        yield "100,000 lines", _sheet(_records(100_000, 100, 1), down=_by("line"))
