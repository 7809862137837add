"""Amounts with a currency: declared for a source, kept with editions, and the ways to resolve mixed numbers."""

from decimal import Decimal
from typing import Any

import pytest

from kalendor.api.sheet_models import ChosenAsked
from kalendor.api.sheet_view import chosen_view
from kalendor.core.sheet.plain import from_plain, plain
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.recipe import ColumnReading, UnitIn
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.columns import read_column_as, rename_column, set_unit
from kalendor.desk.desk import Desk
from kalendor.desk.editions.kept_ingredients import from_told, told
from kalendor.desk.ingredients import now
from kalendor.desk.mixed import ways_out
from kalendor.desk.sheets import sheet_from, sheet_now, trail_from
from kalendor.errors import DefinitionError, IntakeError
from kalendor.output.headline.headline import headline
from kalendor.store.sources import Source
from tests.core.build import report

SALES = (
    "day,shop,net,cost,cur\n2026-01-05,A,10.00,1.00,EUR\n2026-01-09,B,100.00,2.00,SEK\n2026-02-09,B,50.00,2.00,SEK\n"
)
MORE = "day,shop,net,cost,cur\n2026-03-05,A,5.00,1.00,EUR\n2026-03-09,A,7.00,2.00,\n"
RATES = "code,from,in euro,note\nEUR,2026-01-01,1,x\nSEK,2026-01-01,0.1,x\nSEK,2026-02-01,0.2,x\n"
FIGURES = [
    {"name": "Net", "take": "sum", "of": "net"},
    {"name": "Twice", "formula": "Net * 2"},
    {"name": "N", "take": "count"},
]
REPORT = report(source="Sales", down=[{"category": "shop"}], figures=FIGURES)


def brought(desk: Desk, name: str, text: str, columns: dict[str, ColumnReading] | None = None) -> Source:
    waiting = look_at(desk, f"{name}.csv", text.encode(), name)
    if columns is not None:
        waiting = read_again(desk, waiting.token, Change(columns=columns))
    keep(desk, waiting.token)
    source = desk.sources.named(name)
    assert source is not None
    return source


def numbers(desk: Desk, document: Any = REPORT) -> dict[str, Any]:
    sheet = sheet_now(desk, document)[1]
    figure = sheet.figures[0]
    marks = figure.marks
    return {
        str(sheet.lines.labels[i]): "mixed"
        if marks is not None and marks[i]
        else figure.cells.item(i * sheet.columns.count)
        for i in range(sheet.lines.count)
    }


def test_a_currency_said_of_a_column_counts_from_then_on_and_is_taken_back(desk: Desk) -> None:
    source = brought(desk, "Sales", SALES)
    assert numbers(desk)["Total"] == Decimal("160.00")
    source = set_unit(desk, source, "net", "cur")
    assert numbers(desk) == {"Total": "mixed", "A": Decimal("10.00"), "B": Decimal("150.00")}
    brought(desk, "Sales", MORE)  # the file's own recipe says nothing of a currency
    assert numbers(desk)["A"] == "mixed"  # one amount has no currency
    set_unit(desk, desk.sources.one(source.id), "net", "")
    assert numbers(desk)["Total"] == Decimal("172.00")


def test_a_recipe_may_say_it_of_a_first_file(desk: Desk) -> None:
    brought(desk, "Sales", SALES, {"net": ColumnReading(unit=UnitIn(column="cur"))})
    assert numbers(desk)["Total"] == "mixed"
    wrong = {"net": ColumnReading(unit=UnitIn(column="currency"))}
    with pytest.raises(IntakeError, match="'net' is to have its unit in 'currency', and there is no such column"):
        brought(desk, "Other", SALES, wrong)


def test_it_follows_a_column_that_is_renamed_or_read_otherwise(desk: Desk) -> None:
    source = set_unit(desk, brought(desk, "Sales", SALES), "net", "cur")
    source = rename_column(desk, source, "cur", "Money")
    assert numbers(desk)["Total"] == "mixed"
    source = read_column_as(desk, source, "net", ColumnReading(type="approximate"))
    assert numbers(desk)["Total"] == "mixed"
    brought(desk, "Sales", MORE.replace(",cur", ",Money"))
    assert numbers(desk)["A"] == "mixed"
    read_column_as(desk, desk.sources.one(source.id), "net", ColumnReading(type="text"))
    plain = report(source="Sales", down=[{"category": "shop"}], figures=[{"name": "s", "take": "sum", "of": "cost"}])
    assert numbers(desk, plain)["Total"] == Decimal("8.00")


@pytest.mark.parametrize(
    ("name", "unit", "why"),
    [
        ("shop", "cur", "'shop' holds no amounts"),
        ("net", "net", "'net' holds no amounts"),
        ("net", "nowhere", "has no column 'nowhere'"),
        ("nowhere", "cur", "has no column 'nowhere'"),
    ],
)
def test_what_cannot_have_a_currency_is_said(desk: Desk, name: str, unit: str, why: str) -> None:
    source = brought(desk, "Sales", SALES)
    with pytest.raises(DefinitionError, match=why):
        set_unit(desk, source, name, unit)


def test_what_an_edition_was_made_from_keeps_its_currency(desk: Desk) -> None:
    source = set_unit(desk, brought(desk, "Sales", SALES), "net", "cur")
    held = now(desk, REPORT)
    set_unit(desk, source, "net", "")
    kept = from_told(told(held))
    assert kept.sources == held.sources
    with desk.workspace.snapshot():
        assert sheet_from(desk, kept).figures[0].marks is not None
        assert sheet_from(desk, now(desk, REPORT)).figures[0].marks is None


def test_made_columns_of_a_source_have_the_currency_of_what_they_are_made_from(desk: Desk) -> None:
    source = set_unit(desk, set_unit(desk, brought(desk, "Sales", SALES), "net", "cur"), "cost", "cur")
    margin = report(columns=[{"name": "margin", "formula": "net - cost"}]).columns
    desk.sources.save_made(source, margin)
    made = report(source="Sales", down=[{"category": "shop"}], figures=[{"name": "s", "take": "sum", "of": "margin"}])
    assert numbers(desk, made) == {"Total": "mixed", "A": Decimal("9.00"), "B": Decimal("146.00")}


def test_the_ways_out_are_a_level_by_currency_and_conversion(desk: Desk) -> None:
    source = brought(desk, "Sales", SALES)
    assert ways_out(desk, REPORT, "Net") == []
    set_unit(desk, source, "net", "cur")
    brought(desk, "Rates", RATES)
    towns = brought(desk, "Towns", "town,people\nX,1\n")
    broken = report(columns=[{"name": "n", "formula": "people * 2"}]).columns
    desk.sources.save_made(towns, broken)
    read_column_as(desk, desk.sources.one(towns.id), "people", ColumnReading(type="whole"))
    with desk.workspace.change() as db:  # a made column that can no longer be worked out
        db.execute(
            "UPDATE source SET made = replace(made, 'people', 'nobody'), revision = revision + 1 WHERE name = 'Towns'"
        )
    assert [ways_out(desk, REPORT, name) for name in ("N", "nowhere")] == [[], []]
    level, times, over = ways_out(desk, REPORT, "Twice")
    assert level.said == "A group for each cur"
    assert times.said == "Convert net by Rates: times in euro, as at day"
    assert (times.example, over.example) == ("100 SEK → 20.00", "100 SEK → 500.00")
    by_cur = numbers(desk, level.report)
    assert (by_cur["EUR"], by_cur["SEK"], by_cur["Total"]) == (Decimal("10.00"), Decimal("150.00"), "mixed")
    assert [one.said for one in ways_out(desk, level.report, "Net")] == [times.said, over.said]
    # 10 euro, 100 kronor at 0.1 in January and 50 at 0.2 in February
    assert numbers(desk, times.report) == {"Total": 30, "A": 10, "B": 20}
    assert numbers(desk, over.report)["B"] == pytest.approx(1250)
    assert ways_out(desk, times.report, "Net") == []


def test_a_headline_puts_no_currencies_together(desk: Desk) -> None:
    set_unit(desk, brought(desk, "Sales", SALES), "net", "cur")
    change = {"name": "Change", "compare": "Net", "with": "period_before", "as": "percent"}
    across = [{"period": "day", "grains": ["month"]}]
    for sides, want in (
        ({}, "Net is 10.00 EUR and 150.00 SEK."),
        ({"across": across, "figures": [*FIGURES, change]}, "Net in February 2026 to 9 February came to 50.00."),
        (
            {"across": across, "as_of": "2026-01-31"},
            "Net in January 2026 is in several currencies or units, and has no one total.",
        ),
    ):
        document = report(source="Sales", **{"down": [{"category": "shop"}], "figures": FIGURES, **sides})
        with desk.workspace.snapshot():
            held = now(desk, document)
            sheet = sheet_from(desk, held)
            said = headline(document, sheet, lambda cell: trail_from(desk, held, sheet, cell)).sentences  # noqa: B023
        assert said[0] == want
        assert "mixed" not in " ".join(said)


def test_cells_of_several_currencies_are_not_added_up_where_they_are_chosen(desk: Desk) -> None:
    set_unit(desk, brought(desk, "Sales", SALES), "net", "cur")
    down = [{"category": "cur"}, {"category": "shop"}]
    sheet = sheet_now(desk, report(source="Sales", down=down, figures=FIGURES))[1]
    kept = from_plain(plain(sheet))
    for one in (sheet, kept):
        euro, krona = (one.lines.labels.tolist().index(name) for name in ("EUR", "SEK"))
        shops = [i for i in range(one.lines.count) if one.lines.labels[i] == "B"]

        def total(*lines: int, one: Sheet = one, first: int = 0) -> str:
            return chosen_view(one, ChosenAsked(lines=list(lines), first=first, last=first + 1)).sum

        assert (total(krona, *shops), total(euro, 0), total(euro, krona)) == ("150.00", "10.00", "")
        assert total(euro, krona, first=2) == "3"
