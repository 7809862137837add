"""The golden cases through the code of the command line: each flat sheet, row by row in order."""

import csv
import io
from datetime import date
from decimal import Decimal, InvalidOperation
from pathlib import Path

import pytest

from kalendor.core.report import sheet_of
from kalendor.desk.files import from_files
from kalendor.output.delimited import flat_delimited
from kalendor.output.handover import Handover

CASES = sorted(path.parent for path in (Path(__file__).parent / "cases").glob("*/report.json"))


def same(want: str, got: str) -> bool:
    """Equal, or within 1e-9 of each other if the expected number is not a whole number of cents."""
    if want == got:
        return True
    try:
        a, b = Decimal(want), Decimal(got)
    except InvalidOperation:
        return False
    cents = "." not in want or len(want.split(".")[1]) <= 2
    return a == b if cents else abs(a - b) <= abs(a) * Decimal("1e-9")


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name)
def test_case(case: Path) -> None:
    data, groupings = sorted(case.glob("data*.csv")), sorted(case.glob("with-*.json"))
    sheet = sheet_of(from_files(case / "report.json", data, None, groupings, {}).plan(None, date(2026, 8, 4)))
    got = list(csv.DictReader(io.StringIO(flat_delimited(Handover(sheet)).decode())))
    want = list(csv.DictReader((case / "expected.csv").open(encoding="utf-8", newline="")))
    assert len(got) == len(want)
    for w, g in zip(want, got, strict=True):
        for name, value in w.items():
            assert same(value, g[name]), f"{name} in {g}: wanted {value}"
