"""Renamed periods, a single one or that of every year, over HTTP and with any name."""

from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from kalendor.api.app import create_app
from kalendor.core.groupings.period_names import own_label, period_name, without_year
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved

EXPORT = b"sold on,route,gross\n2025-04-05,A,1.50\n2026-04-05,B,-2.25\n2026-07-06,A,10.00\n,C,3.00\n"
LABELS = st.sampled_from(
    [f"{name} {year}" for year in (2025, 2026) for name in ("Apr", "May", "4 Apr")]
    + [f"FY{year} {name}" for year in (25, 26) for name in ("Q1", "Q2", "M03")] + ["2026", "Monday", "08:00"]
)  # fmt: skip
NAMES = st.dictionaries(st.sampled_from(["Apr", "May", "Q1", "Apr 2026", "FY25 Q2", "Monday"]), st.just(""), max_size=4)


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def heads(made: Any) -> list[str]:
    return [column["names"][-1] for column in made["sheet"]["columns"] if column["names"]]


def test_a_month_is_called_otherwise_alone_or_in_every_year_and_what_is_said_of_it_follows(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(
        api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["month"]}],
        notes=[{"text": "Easter", "column": ["Apr 2025"]}], out_of_sight={"columns": [["Jul 2026"]]},
    )  # fmt: skip
    path = f"/api/reports/{view['id']}/rename"
    place = {"entry": 0, "across": True}
    every = api.post(path, json={**place, "path": ["Apr 2026"], "label": "Spring", "every": True}).json()
    assert heads(every) == ["Spring 2025", "Spring 2026", "(blank)"]
    document = every["report"]["document"]
    assert document["across"][0]["labels"] == {"Apr": "Spring"}
    assert document["notes"][0]["column"] == ["Spring 2025"]
    alone = api.post(path, json={**place, "path": ["Spring 2026"], "label": "Reopening"}).json()
    assert heads(alone) == ["Spring 2025", "Reopening", "(blank)"]
    blank = api.post(path, json={**place, "path": ["(blank)"], "label": "Undated"}).json()
    assert heads(blank) == ["Spring 2025", "Reopening", "Undated"]
    back = api.post(path, json={**place, "path": ["Reopening"], "label": "Apr", "every": True}).json()
    assert heads(back) == ["Apr 2025", "Apr 2026", "Undated"]
    assert back["report"]["document"]["notes"][0]["column"] == ["Apr 2025"]
    for _ in range(4):
        undone = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert undone["report"]["document"] == view["document"]


def test_lines_of_periods_and_columns_of_categories_are_renamed_too(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(api, down=[{"period": "sold on", "grains": ["year", "month"]}], across=[{"category": "route"}])
    path = f"/api/reports/{view['id']}/rename"
    asked = {"entry": 0, "path": ["2026", "Apr 2026"], "label": "Spring", "every": True}
    assert "Spring 2025" in api.post(path, json=asked).json()["sheet"]["rows"]["label"]
    column = {"entry": 0, "path": ["A"], "label": "Alpha", "across": True}
    assert heads(api.post(path, json=column).json()) == ["Alpha", "B", "C"]


@pytest.mark.parametrize(("label", "says"), [("Jul 2026", "two periods would be called"), ("Total", "stands for")])
def test_a_name_that_another_column_bears_is_refused_in_words(api: TestClient, label: str, says: str) -> None:
    brought(api, EXPORT)
    view = saved(api, across=[{"period": "sold on", "grains": ["month"]}])
    asked = {"entry": 0, "across": True, "path": ["Apr 2026"], "label": label}
    made = api.post(f"/api/reports/{view['id']}/rename", json=asked).json()
    assert says in made["fault"]


@given(LABELS, NAMES)
def test_whatever_is_named_the_label_is_found_again_by_its_name(label: str, names: dict[str, str]) -> None:
    named = {key: f"<{key}>" for key in names}
    shown = period_name(label, named)
    assert own_label(shown, named) == label
    before, name, after = without_year(label)
    assert before + name + after == label
    if label not in named and name not in named:
        assert shown == label
