"""Numbers with more digits than Python converts: read, ordered, or refused with a message, in any place."""

import json
from contextlib import suppress
from datetime import date
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from kalendor.api.app import create_app
from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.levels import MANY_DIGITS, label_key
from kalendor.definitions.document import read_json
from kalendor.definitions.recipe import Recipe
from kalendor.desk.desk import Desk
from kalendor.desk.files import from_files
from kalendor.errors import DefinitionError, KalendorError
from kalendor.intake.reading import read_bytes
from kalendor.output.writers import write

MANY = "9" * 5000
TYPES = [None, "text", "whole", "decimal", "approximate", "date", "datetime", "time", "yes_no"]


@given(st.lists(st.tuples(st.text("0123456789", min_size=1, max_size=12), st.integers(0, 2)), min_size=2))
def test_labels_are_in_order_of_their_digits_however_many(parts: list[tuple[str, int]]) -> None:
    labels = [digits * (1 + MANY_DIGITS // 4 * times) for digits, times in parts]
    numbers = [len(d.lstrip("0")) for d in labels], [d.lstrip("0") for d in labels]
    plain = sorted(range(len(labels)), key=lambda i: (numbers[0][i], numbers[1][i], labels[i]))
    assert [labels[i] for i in plain] == sorted(labels, key=label_key)


def test_a_report_over_such_labels_is_worked_out(tmp_path: Path) -> None:
    (tmp_path / "d.csv").write_text(f"code,n\n{MANY}x,1\nx{MANY[1:]}0,2\nx{MANY},4\nx7,8\n")
    report = {
        "kalendor": 1, "kind": "report", "title": "R", "source": "d",
        "down": [{"category": "code"}], "figures": [{"name": "n", "take": "sum", "of": "n"}],
    }  # fmt: skip
    (tmp_path / "r.json").write_text(json.dumps(report))
    files = from_files(tmp_path / "r.json", [tmp_path / "d.csv"], None, [], {})
    written = write(files.handed(None, date(2026, 7, 31), worded=False), "csv", "flat").decode()
    assert [line.split(",")[0][:2] for line in written.splitlines()[1:5]] == ["99", "x7", "x9", "x9"]


@pytest.mark.parametrize("kind", TYPES)
@pytest.mark.parametrize("text", ["{}", "1.{}", "{}-01-01", "{}:00", "{}%", "1e{}"])
def test_such_texts_in_a_file_are_read_or_refused(text: str, kind: str | None) -> None:
    body = "a,b\n" + "1,1\n" * 3 + text.format(MANY) + ",1\n"
    told = {} if kind is None else {"a": {"type": kind}}
    found = read_bytes(
        body.encode(), "f.csv", Recipe.model_validate({"kalendor": 1, "kind": "recipe", "columns": told})
    )
    assert found.records.count + len(found.refused) == 4


@pytest.mark.parametrize(
    "formula",
    [
        "{}", "1 + {}", "{}.{}", "1e{}", "CAST('{}' AS DECIMAL)", "CAST('{}' AS INTEGER)", "CAST('1e{}' AS DECIMAL)",
        "CAST(1 AS DECIMAL(38, {}))", "CAST(1 AS DECIMAL({}, 2))", "CAST(1 AS DECIMAL(38, x))", "CAST('{}' AS DATE)",
        "DATE '2026-01-01' + INTERVAL '{}' DAY", "DATE '{}-01-01'", "ROUND(1.5, {})", "SUBSTRING('a', {}, 1)",
    ],
)  # fmt: skip
def test_such_numbers_in_a_formula_are_approximate_or_refused(formula: str) -> None:
    with suppress(KalendorError):
        evaluate(formula.replace("{}", MANY[:4500]), Scope({}, 2, None))


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("CAST(10.25 AS DECIMAL(3, 2))", "does not fit"), ("CAST('1000' AS DECIMAL(3))", "does not fit"),
        ("CAST(9.995 AS DECIMAL(3, 2))", "does not fit"), ("CAST(1 AS DECIMAL(2, 3))", "more places than digits"),
        ("CAST(1 AS DECIMAL(38, 19))", "more than 18"),
    ],
)  # fmt: skip
def test_the_size_of_a_decimal_is_honoured(formula: str, said: str) -> None:
    assert evaluate("CAST(9.25 AS DECIMAL(3, 2))", Scope({}, 1, None)).item(0)
    with pytest.raises(DefinitionError, match=said):
        evaluate(formula, Scope({}, 1, None))


def test_a_document_with_such_a_number_is_refused() -> None:
    with pytest.raises(DefinitionError, match="more digits"):
        read_json(f'{{"kalendor": {MANY}}}', "d")


def test_so_is_one_that_is_sent(desk: Desk) -> None:
    api = TestClient(create_app(desk), raise_server_exceptions=True)
    sent = {"content": f'{{"kalendor": {MANY}}}', "headers": {"Content-Type": "application/json"}}
    for method, path in (("POST", "/api/reports"), ("PUT", "/api/reports/1"), ("POST", "/api/groupings")):
        answer = api.request(method, path, **sent)  # type: ignore[arg-type]
        assert 400 <= answer.status_code < 500
        assert answer.headers["content-type"] == "application/problem+json"
