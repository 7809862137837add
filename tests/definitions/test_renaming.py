"""Renamed columns: every definition of the golden cases gives the same numbers."""

import csv
import io
import json
from datetime import date
from pathlib import Path
from random import Random
from typing import cast

import pytest

from kalendor.core.formulas.expressions import with_column_renamed
from kalendor.core.report import sheet_of
from kalendor.definitions.kinds import definition
from kalendor.definitions.renaming import ColumnRenamed
from kalendor.definitions.report import Report
from kalendor.desk.files import from_files
from kalendor.output.delimited import flat_delimited
from kalendor.output.handover import Handover

CASES = sorted(path.parent for path in (Path(__file__).parent.parent / "cases").glob("*/report.json"))
NAMES = ("Zettel", "order by", "a b", 'say "so"', "SUM", "x-1", "über", "case")


def numbers(report: Path, data: list[Path], groupings: list[Path]) -> list[list[str]]:
    """The cells of a report's sheet, without levels, whose names may be those of columns."""
    sheet = sheet_of(from_files(report, data, None, groupings, {}).plan(None, date(2026, 8, 4)))
    rows = csv.DictReader(io.StringIO(flat_delimited(Handover(sheet)).decode()))
    return [[value for name, value in row.items() if "level" not in name] for row in rows]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name)
def test_every_definition_follows(case: Path, tmp_path: Path) -> None:
    rng = Random(case.name)
    data, groupings = sorted(case.glob("data*.csv")), sorted(case.glob("with-*.json"))
    report = cast(Report, definition(json.loads((case / "report.json").read_text("utf-8")), "case", ("report",)))
    rows = [list(csv.reader(path.open(encoding="utf-8", newline=""))) for path in data]
    own = {column.name for column in report.columns}
    for old, new in zip(rng.sample(rows[0][0], len(rows[0][0])), NAMES, strict=False):
        if old in own or new in own:
            continue
        report = ColumnRenamed(report.source, old, new, with_column_renamed).report(report)
        for table in rows:
            table[0] = [new if heading == old else heading for heading in table[0]]
    renamed = []
    for path, table in zip(data, rows, strict=True):
        renamed.append(tmp_path / path.name)
        with renamed[-1].open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows(table)
    told = tmp_path / "report.json"
    told.write_text(report.model_dump_json(by_alias=True, exclude_defaults=True), "utf-8")
    text = json.loads(told.read_text("utf-8")) | {"kalendor": 1, "kind": "report"}
    told.write_text(json.dumps(text), "utf-8")
    assert numbers(told, renamed, groupings) == numbers(case / "report.json", data, groupings)


@pytest.mark.parametrize(
    ("formula", "renamed"),
    [
        ("gross - net", '"a b" - net'),
        ("GROSS > 3 OR route = 'gross'", "\"a b\" > 3 OR route = 'gross'"),
        ('"gross" > 1 AND "Gross" > 2', '"a b" > 1 AND "Gross" > 2'),
        ("ROUND(gross, 2)", 'ROUND("a b", 2)'),
        ("CASE WHEN gross IN (1, 2) THEN -gross END", 'CASE WHEN "a b" IN (1, 2) THEN -"a b" END'),
        ("net + 1", "net + 1"),
    ],
)
def test_a_formula_follows_only_where_it_names_the_column(formula: str, renamed: str) -> None:
    assert with_column_renamed(formula, "gross", "a b") == renamed


def test_levels_that_a_report_speaks_of_keep_their_name() -> None:
    base = {"kalendor": 1, "kind": "report", "title": "T", "source": "S", "figures": [{"name": "n", "take": "count"}]}
    plain = cast(Report, definition(base | {"down": [{"category": "route"}]}, "t"))
    spoken = cast(Report, definition(base | {"down": [{"category": "route"}], "keep": [{"level": "route", "where": "n > 1"}]}, "t"))  # fmt: skip
    rename = ColumnRenamed("s", "route", "line", with_column_renamed)
    assert [e.name for e in rename.report(plain).down] == [None]
    assert [e.name for e in rename.report(spoken).down] == ["route"]
