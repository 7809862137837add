"""Sheets for the screen over HTTP: edits, visible cells, blocks, records, proposals, warnings."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def test_a_gathering_is_undone_and_redone_as_one_and_leaves_nothing_behind(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}])
    asked = {"entry": 0, "values": ["A"], "label": "First"}
    made = api.post(f"/api/reports/{view['id']}/gather", json=asked).json()
    assert made["report"]["document"]["down"][0]["tree"] == "Route groups"
    assert "First" in made["sheet"]["rows"]["label"]
    more = api.post(f"/api/reports/{view['id']}/gather", json={**asked, "values": ["B"], "label": "Second"}).json()
    assert "Second" in more["sheet"]["rows"]["label"]
    once = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert "Second" not in once["sheet"]["rows"]["label"]
    assert "First" in once["sheet"]["rows"]["label"]
    back = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert back["sheet"]["rows"]["label"] == ["A", "B", "Total"]
    assert api.get("/api/groupings").json() == []
    for _ in range(2):
        again = api.post(f"/api/reports/{view['id']}/edits?step=redo").json()
    assert {"First", "Second"} <= set(again["sheet"]["rows"]["label"])
    copy = api.post(f"/api/reports/{view['id']}/copy").json()
    for _ in range(2):
        api.post(f"/api/reports/{view['id']}/edits?step=undo")
    assert [g["name"] for g in api.get("/api/groupings").json()] == ["Route groups"], "another report uses the tree"
    assert api.get(f"/api/reports/{copy['id']}/sheet").status_code == 200
    odd = api.post(f"/api/reports/{view['id']}/gather", json={**asked, "entry": 5})
    assert (odd.status_code, odd.json()["detail"]) == (422, "only lines of a category can be gathered")


def test_a_report_is_put_away_and_brought_back(api: TestClient) -> None:
    brought(api)
    id = saved(api)["id"]
    assert api.patch(f"/api/reports/{id}", json={"archived": True}).status_code == 204
    assert [line["archived"] for line in api.get("/api/reports").json()] == [True]
    api.patch(f"/api/reports/{id}", json={"archived": False})
    assert [line["archived"] for line in api.get("/api/reports").json()] == [False]


def test_an_edit_brings_its_sheet_or_says_why_there_is_none(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}])
    document = {**view["document"], "down": [{"category": "nothing"}]}
    found = api.post(f"/api/reports/{view['id']}/edits", json=document, headers={"If-Match": f'"{view["revision"]}"'})
    assert found.json()["sheet"] is None
    assert "there is no column 'nothing'" in found.json()["fault"]
    assert found.headers["etag"] == f'"{found.json()["report"]["revision"]}"'
    late = api.post(f"/api/reports/{view['id']}/edits", json=document, headers={"If-Match": f'"{view["revision"]}"'})
    assert late.status_code == 412
    assert api.post(f"/api/reports/{view['id']}/edits").status_code == 422
    tried = api.post("/api/reports/tried", json=document).json()
    assert "there is no column 'nothing'" in tried["fault"]
    assert api.post("/api/reports/tried", json=view["document"]).json() == {"fault": ""}


def test_cells_in_view_alone_are_sent_of_a_large_sheet(api: TestClient) -> None:
    lines = "".join(f"2025-01-0{n % 9 + 1},R{n:04},{n}.00\n" for n in range(3000))
    brought(api, f"sold on,route,gross\n{lines}".encode())
    across = [{"period": "sold on", "grains": ["day"]}]
    view = saved(api, down=[{"category": "route"}], across=across)
    sheet = api.get(f"/api/reports/{view['id']}/sheet", params={"at": 1000, "first": 2, "columns": 3}).json()
    assert (sheet["first"], sheet["shown"], len(sheet["cells"])) == (2, 3, 65)
    line = sheet["rows"]["line"][1000]
    path = f"/api/reports/{view['id']}/sheets/{sheet['key']}/lines"
    more = api.post(path, json={"lines": [line], "first": 0, "columns": 0}).json()
    assert more["cells"][str(line)][2 * 2 : 5 * 2] == sheet["cells"][str(line)]
    assert len(sheet["widths"]) == len(sheet["columns"]) * 2
    whole = api.post(path, json={"lines": sheet["rows"]["line"][:4000]}).json()["cells"]
    widest = [max(len(texts[i]) for texts in whole.values()) for i in range(len(sheet["widths"]))]
    assert all(width >= needed for width, needed in zip(sheet["widths"], widest, strict=True))


def test_a_chosen_block_is_added_up_exactly(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}], figures=[{"name": "Gross", "take": "sum", "of": "gross"}])
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    path = f"/api/reports/{view['id']}/sheets/{sheet['key']}/chosen"
    lines = sheet["rows"]["line"][:2]
    found = api.post(path, json={"lines": lines, "first": 0, "last": 1}).json()
    assert (found["count"], found["sum"], found["average"]) == (2, "9.25", "4.63")
    assert (found["plain"], found["shown"]) == ([["11.50"], ["-2.25"]], [["11.50"], ["(2.25)"]])


def test_the_latest_period_stands_beside_its_base(api: TestClient) -> None:
    days = [
        f"{year}-{month:02}-05,{route},{month * (year - 2024)}.00"
        for year in (2025, 2026)
        for month in range(1, 13 if year == 2025 else 8)
        for route in "AB"
    ]
    brought(api, ("sold on,route,gross\n" + "\n".join(days) + "\n").encode())
    gross, change = (
        {"name": "Gross", "take": "sum", "of": "gross"},
        {"name": "Change", "compare": "Gross", "with": "year_earlier", "as": "percent"},
    )
    view = saved(
        api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["year"]}], figures=[gross, change], as_of="2026-07-31",
    )  # fmt: skip
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    path = f"/api/reports/{view['id']}/sheets/{sheet['key']}/like"
    found = api.post(path, json={"figure": "Gross", "lines": [*sheet["rows"]["line"][:2], 9_999]}).json()
    assert found["series"] == ["a year earlier, to 31 Jul", "2026, to 31 Jul"]
    assert (found["values"], found["texts"]) == ([[28.0, 56.0]] * 2, [["28.00", "56.00"]] * 2)
    assert api.post(path, json={"figure": "Change", "lines": [1]}).json()["series"] == []
    assert api.post(path.replace(sheet["key"], "0" * 64), json={"figure": "Gross", "lines": [1]}).status_code == 409


def test_a_block_that_holds_totals_counts_nothing_twice(api: TestClient) -> None:
    brought(api)
    view = saved(
        api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["year"]}],
        figures=[{"name": "Gross", "take": "sum", "of": "gross"}],
    )  # fmt: skip
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    path = f"/api/reports/{view['id']}/sheets/{sheet['key']}/chosen"
    a, b, total = sheet["rows"]["line"]
    for lines, last, want in (
        ([a, b, total], 3, ("9.25", 3, True)),
        ([a, b], 2, ("9.25", 3, False)),
        ([total], 3, ("9.25", 2, True)),
        ([total], 1, ("1.50", 1, False)),
        ([a, a], 1, ("1.50", 1, True)),
    ):
        found = api.post(path, json={"lines": lines, "first": 0, "last": last}).json()
        assert (found["sum"], found["count"], found["without_totals"]) == want, lines


def test_records_are_listed_under_a_line_a_page_at_a_time(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}], records={"columns": ["sold on", "gross"], "order": ["gross"]})
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    assert sheet["listed"]["records"][0] == 2
    path = f"/api/reports/{view['id']}/sheets/{sheet['key']}/listed"
    line = sheet["rows"]["line"][0]
    assert api.post(path, json={"line": line, "start": 0, "count": 10}).json() == [
        ["2025-07-05", "1.50"], ["2026-07-06", "10.00"],
    ]  # fmt: skip
    assert api.post(path, json={"line": line, "start": 1, "count": 1}).json() == [["2026-07-06", "10.00"]]


def test_reports_that_fit_a_source_are_proposed_and_used(api: TestClient) -> None:
    kept = brought(api)
    found = api.get(f"/api/sources/{kept['id']}/proposals").json()
    assert [one["document"]["title"] for one in found][:2] == [
        "Gross by route and month",
        "Gross by quarter, year over year",
    ]
    for one in found:
        outer = one["document"]["down"][0]
        assert one["labels"][-1] == "Total", outer
        assert len(one["labels"]) == len(set(one["labels"]))
    assert "2025 Gross" in found[1]["headings"]  # of several figures each says of which period it is
    made = api.post("/api/reports", json={"source": "Sales", "document": found[0]["document"]})
    assert made.status_code == 201
    glance = api.get(f"/api/reports/{made.json()['id']}/glance").json()
    assert (glance["figure"], glance["fault"]) == ("Gross", "")


@pytest.mark.parametrize(
    ("content", "keys", "want"),
    [
        (b"on,ccy,v\n2025-01-01,EUR,1\n2025-01-02,GBP,2\n", {}, "Amounts of different currencies are added up (ccy: EUR, GBP)"),
        (b"on,route,v\n2025-01-01,A,1\n2025-01-02,Total,2\n", {}, "route has records called 'Total'"),
        (b"on,v\n2024-01-01,1\n2025-01-02,2\n", {"down": [{"period": "on", "grains": ["month_of_year"]}]}, "Month of year adds up the years 2024 to 2025"),
        (b"on,a,v\n2025-01-01,x,1\n2025-01-02,x,2\n", {"down": [{"category": "a"}]}, "a has one member only, x"),
    ],
)  # fmt: skip
def test_what_should_be_known_is_said_where_it_arises(api: TestClient, content: bytes, keys: Any, want: str) -> None:
    brought(api, content)
    figures = [{"name": "V", "take": "sum", "of": "v"}]
    view = saved(api, figures=figures, **keys)
    found = api.get(f"/api/reports/{view['id']}/sheet").json()["warnings"]
    assert [warning for warning in found if warning.startswith(want)], found


@pytest.mark.parametrize(
    ("part", "wanted"), [("v", ["Change is blank throughout: its base lies before the first record"]), ("w", [])]
)
def test_a_comparison_without_a_base_is_told_from_one_of_nothing(api: TestClient, part: str, wanted: list[str]) -> None:
    brought(api, b"on,v,w\n2025-01-01,1,\n2025-02-02,2,\n2025-03-02,2,\n")
    figures = [
        {"name": "V", "take": "sum", "of": "v", "where": "v > 1"},
        {"name": "W", "take": "sum", "of": "v", "where": "v > 9"},
        {"name": "Change", "compare": part.upper(), "with": "year_earlier", "as": "percent"},
    ]
    view = saved(api, figures=figures, down=[{"period": "on", "grains": ["month"]}])
    assert api.get(f"/api/reports/{view['id']}/sheet").json()["warnings"] == wanted


def test_a_line_of_a_tree_is_renamed_and_undone(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}])
    api.post(f"/api/reports/{view['id']}/gather", json={"entry": 0, "values": ["A"], "label": "First"})
    path = f"/api/reports/{view['id']}/rename"
    made = api.post(path, json={"entry": 0, "path": ["First"], "label": "Best"}).json()
    assert "Best" in made["sheet"]["rows"]["label"]
    inner = api.post(path, json={"entry": 0, "path": ["Best", "A"], "label": "Alpha"}).json()
    assert "Alpha" in inner["sheet"]["rows"]["label"]
    odd = api.post(path, json={"entry": 0, "path": ["Not placed", "B"], "label": "x"})
    assert odd.status_code == 422
    assert "is not a line that the tree names" in odd.json()["detail"]
    for _ in range(2):
        back = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert "First" in back["sheet"]["rows"]["label"]


def test_a_value_of_a_column_is_renamed_what_is_said_of_it_follows_and_it_is_undone(api: TestClient) -> None:
    brought(api)
    view = saved(
        api, down=[{"category": "route", "order": {"list": ["B", "A"]}, "signs": {"A": -1}}],
        notes=[{"text": "of A", "line": ["A"]}], out_of_sight={"lines": [["B"]]},
    )  # fmt: skip
    path = f"/api/reports/{view['id']}/rename"
    made = api.post(path, json={"entry": 0, "path": ["A"], "label": "Alpha"}).json()
    document = made["report"]["document"]
    assert document["down"][0]["labels"] == {"A": "Alpha"}
    assert document["down"][0]["order"] == {"list": ["B", "Alpha"]}
    assert (document["down"][0]["signs"], document["notes"][0]["line"]) == ({"Alpha": -1}, ["Alpha"])
    at = made["sheet"]["rows"]["label"].index("Alpha")
    assert made["sheet"]["rows"]["value"][at] == "A"
    again = api.post(path, json={"entry": 0, "path": ["Alpha"], "label": "B"}).json()
    assert again["report"]["document"]["down"][0]["labels"] == {"A": "B"}
    both = api.post(path, json={"entry": 0, "path": ["B"], "label": "Both"}).json()
    assert both["report"]["document"]["down"][0]["labels"] == {"A": "Both", "B": "Both"}
    back = api.post(path, json={"entry": 0, "path": ["nowhere"], "label": "x"})
    assert (back.status_code, "'nowhere' is no value of route" in back.json()["detail"]) == (422, True)
    for _ in range(3):
        undone = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert undone["report"]["document"]["down"] == view["document"]["down"]


def test_a_summary_whose_columns_are_all_others_now_is_brought_in_again(api: TestClient) -> None:
    brought(api)
    view = saved(api, figures=[{"name": "Gross", "take": "sum", "of": "gross"}])
    assert api.post(f"/api/reports/{view['id']}/summary?name=Kept").status_code == 201
    others = {"figures": [{"name": "n", "take": "count"}], "down": [{"category": "route"}], "only": ["route = 'A'"]}
    for keys in (others, {**others, "only": ["route = 'none of them'"]}, {"figures": view["document"]["figures"]}):
        assert api.put(f"/api/reports/{view['id']}", json={**view["document"], **keys}).status_code == 200
        listed = api.get("/api/sources")
        assert listed.status_code == 200, listed.text


def test_what_is_looked_up_from_a_summary_is_what_its_report_gives_now(api: TestClient) -> None:
    brought(api)
    base = saved(api, down=[{"category": "route"}], figures=[{"name": "all", "take": "sum", "of": "gross"}])
    assert api.post(f"/api/reports/{base['id']}/summary?name=By route").status_code == 201
    plan = brought(api, b"route,plan\nA,10\nB,20\n", "Plans")
    lookup = {"source": "By route", "match": {"route": "route"}, "take": "all"}
    made = [{"name": "sold", "lookup": lookup}]
    assert api.put(f"/api/sources/{plan['id']}/made", json=made).json()["made"][0]["problem"] == ""
    on_plan = api.post("/api/reports", json={"source": "Plans"}).json()
    keys = {"down": [{"category": "route"}], "figures": [{"name": "sold", "take": "sum", "of": "sold"}]}
    api.put(f"/api/reports/{on_plan['id']}", json={**on_plan["document"], **keys})

    def rows() -> Any:
        got = api.get(f"/api/reports/{on_plan['id']}/file?format=csv&shape=sheet")
        return got.text.split() if got.status_code == 200 else got.json()["detail"]

    assert rows() == ["route,sold", "A,11.50", "B,-2.25", "Total,9.25"]
    brought(api, b"sold on,route,gross\n2026-08-01,B,5.00\n")
    assert rows() == ["route,sold", "A,11.50", "B,2.75", "Total,14.25"]
    api.put(f"/api/reports/{base['id']}", json={**base["document"], "only": ["nothing > 1"]})
    assert rows().startswith("the source 'By route' is the sheet of the report 'Sales summary', which cannot be worked")
    listed = {line["name"]: line["stale"] for line in api.get("/api/sources").json()}
    assert "there is no 'nothing' here" in listed["By route"]
    assert listed["Sales"] == ""
    api.put(f"/api/reports/{base['id']}", json=base["document"])
    sales = next(line["id"] for line in api.get("/api/sources").json() if line["name"] == "Sales")
    api.put(f"/api/sources/{sales}/made", json=made)
    assert "rests on itself: Plans → By route → Sales → By route" in rows()
    assert api.get(f"/api/sources/{sales}").status_code == 200


def test_amounts_to_the_end_of_what_a_float_holds_are_shown_and_explained(api: TestClient) -> None:
    lines = "day,area,amount\n2026-01-01,x,1e30\n2026-01-02,y,-2.5e300\n2026-02-03,x,1e-300\n2025-02-03,x,1e308\n2025-02-03,y,1e308\n"
    brought(api, lines)
    figures: list[dict[str, Any]] = [
        {"name": "Sum", "take": "sum", "of": "amount"},
        {"name": "Mean", "take": "mean", "of": "amount", "format": {"places": 9}},
        {"name": "Change", "compare": "Sum", "with": "year_earlier", "as": "difference"},
        {"name": "Millions", "take": "max", "of": "amount", "format": {"unit": "millions", "foots": True}},
    ]
    view = saved(api, down=[{"category": "area"}], across=[{"period": "day", "grains": ["year"]}], figures=figures)
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    assert "1,000,000,000,000,000,000,000,000,000,000.00" in sheet["cells"]["1"]
    parts = [f"sheets/{sheet['key']}/{what}?figure={f['name']}" for what in ("trail", "drivers") for f in figures]
    for path in (*parts, "headline", *(f"file?format={form}" for form in ("csv", "xlsx", "html", "json"))):
        found = api.get(f"/api/reports/{view['id']}/{path}")
        assert found.status_code == 200, (path, found.text)
