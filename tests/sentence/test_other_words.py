"""Other wordings: each is read as the plain sentence that it stands for."""

import pytest

from kalendor.sentence.dictionary import with_report
from kalendor.sentence.names import Column, names
from kalendor.sentence.reading import read
from tests.core.build import TODAY
from tests.sentence.build import asks, compared, heard, orders

SAID = {
    "net by area, only where status is completed": [
        "net by area if status is completed", "net by area if completed", "net by area that are completed", "net by area where completed"],
    "net by area, only where status is not completed": ["net by area which are not completed", "net by area where status is anything but completed"],
    "net by clinic, only north and south": ["net by clinic for the north and south areas", "net in the north and south areas by clinic"],
    "net and cost by area": ["by area, net and cost", "net and cost split by area", "net and cost broken down by area", "per area: net and cost", "both net and cost by area", "net along with cost by area", "net as well as cost by area"],
    "net by area, across by month": ["net with area in the rows and months in the columns", "rows area, columns month, net"],
    "net by area then the top 3 clinics by net": ["net by area then clinic, top 3 clinics in each area", "net by area, the top 3 clinics by net in each area"],
    "top 5 clinics by net, the rest as other": ["which 5 clinics have the highest net"],
    "net by area, keep areas with net over 40000": ["which areas have net over 40000"],
    "net by area, only where quantity is at least 5": ["net by area, quantity 5 or more", "quantity at least 5, net by area"],
    "median net, average net and 90th percentile of net by area": ["median, average and p90 of net by area"],
    "net by month, % change on the month before": ["mom change in net by month", "net by month, mom %"],
    "net by month, yoy": ["net by month, yoy in %", "yoy change in net by month"],
    "net by area from January 2026 to June 2026": ["net by area H1 2026", "net by area in the 6 months to June 2026"],
    "net by area ytd": ["net by area since the beginning of the year", "net by area from the start of this year"],
    "net by area since 2026": ["net by area from the start of 2026"],
    "net by month": ["monthly totals of net", "breakdown of net by month", "compare net by month"],
    "average net by area, only where net is over 500": ["average net over 500 by area", "the average of net over £500, by area"],
    "net by area for the last 12 months": ["net by area trailing 12 months", "net by area over the trailing twelve months"],
    "net by month with 3-month moving average": ["net by month, trailing 3 month average", "net by month with a three-month rolling average"],
    "net by area in 2025": ["net by area throughout 2025", "net by area, all of 2025", "net by area, the whole of 2025", "net by area, only 2025"],
    "net by area until 31 March 2026": ["net by area until end of March 2026", "net by area up to the end of March 2026"],
    "net by area since January 2026": ["net by area starting January 2026", "net by area beginning in January 2026"],
    "net by area, smallest first": ["net by area, low to high", "net by area in ascending order of net"],
    "net by area, biggest first": ["net by area high to low", "net by area in descending order of net"],
    "net by clinic, biggest first": ["clinics ranked by net", "clinics by net, highest first", "largest clinics by net"],
    "net by clinic, only north": ["net in the north area by clinic", "net at north by clinic", "net from north by clinic", "only from the north, net by clinic"],
    "net by area": ["the net by area", "areas by net"],
    "number of different clinics by area": ["clinic count by area", "the clinic count by area"],
    "records by area": ["order count by area"],
    "net and average net by area": ["order net and average order net by area"],
    "net by area then clinic": ["net by area/clinic", "net by area & clinic", "clinics beneath areas, net"],
    "net by month of due on": ["net by month of the due date", "net by due date month", "net by month due", "net by due month"],
    "net by fiscal year": ["net by FY", "net by financial year"],
    "net by area, fiscal year to date": ["net by area, fiscal ytd"],
    "records by clinic, only where due on is blank": ["records with blank due on by clinic", "records by clinic without a due date"],
    "net by area, only where due on is not blank": ["net by area with a due date"],
    "net by area excluding cancelled": [
        "net by area, cancelled excluded", "net by area, not including cancelled", "net by area, cancelled orders left out", "net by area, except 'cancelled'", "net by area, everything except cancelled", "net by area, anything but cancelled"],
    "net by clinic except north and south": ["net by clinic, except north and the south"],
    "records by area, only completed": ["how many orders were completed by area", "number of completed orders by area"],
    "net by clinic, keep clinics with net over 40,000": ["net by clinic, only clinics over 40k"],
    "net by month with running total restarting every year": ["net by month with a running total that starts again each year"],
    "top 5 clinics by net": ["top five clinics by net", "the five biggest clinics by net", "net by clinic, top 5 only"],
    "top 5 clinics by net without others": ["top 5 clinics by net, no other line", "top 5 clinics by net, hide the rest"],
    "rank clinics by net": ["the rank of clinics by net"],
    "change in net by area": ["increase in net by area", "net by area and its change on last year"],
    "difference in net against the month before by month": ["absolute change in net by month on the month before"],
    "net by clinic, smallest cost first": ["net by clinic, ascending by cost", "net by clinic, sort ascending by cost"],
    "net by area for the previous year": ["last year's net by area", "net by area, last year's", "the previous year's net by area"],
    "net by area in 2025 and 2026": ["net by area between 2026 and 2025", "net by area from 2026 to 2025", "net by area in 2026 and 2025", "net by area, 2026 and 2025"],
    "the net and average net by area": ["sum and average of net by area", "the total and the average net by area"],
    "records, net and average net by area": ["count, sum and average of net by area"],
    "what is the net by area": ["net by area, thanks", "I'd like to see net by area", "can you show net by area", "net by area for me"],
    "records by area, only where area is north": ["how many orders were north by area"],
    "percentage of orders that are cancelled by clinic": ["what percentage of orders were cancelled by clinic", "share of orders cancelled by clinic", "percent of orders cancelled by clinic", "% cancelled by clinic", "percentage cancelled by clinic"],
    "percent of net that is cancelled by area": ["% of net cancelled by area"],
    "net by area, months across, with a running total": ["net by area with months across and a running total"],
    "cost as % of net by area": ["cost as a share of net by area"],
    "records, due on until 2026-06-30": ["orders due on or before 2026-06-30", "orders due on or before 30 June 2026"],
    "net since 1 March 2026": ["net on or after 1 March 2026", "net of orders on or after 1 March 2026"],
    "net by clinic since March 2026": ["net of orders sold since March by clinic", "net of orders since March 2026 by clinic"],
    "net by area, only where clinic is not blank": ["net by area, excluding orders without a clinic", "net by area, leaving out orders that have no clinic"],
    "net by area without totals": ["no totals at all, net by area", "hide totals, net by area"],
    "net by area in thousands": ["net by area in k"],
    "net by clinic, keep clinics with net over 1000": ["net by clinic having net over 1000", "net by clinic whose net is over 1,000"],
    "net by clinic from June 2026 to July 2026": ["net by clinic in june or july 2026", "net by clinic in june or july"],
    "net by clinic from January 2026 to March 2026": ["net by clinic for january, february and march 2026"],
    "net by area, change on last year": ["net by area with change since last year", "net by area with growth since last year"],
    "net by month, change on the month before": ["net by month with the change since last month"],
    "average net by area with rank": ["average net by area and its rank"],
    "net by area and clinic": [
        "net by clinic grouped by area", "net by clinic with subtotals per area", "net by clinic with a subtotal for each area", "clinics grouped by area, net", "net by area and clinic with totals"],
    "net by area this month": ["this month's net by area", "the current month's net by area"],
    "net by area then year for the last 3 years": ["net by area for each of the last 3 years"],
    "net by month for the last 12 months": ["net in each of the past 12 months"],
    "net by month for the last 2 years": ["net this year and last year by month", "net by month, this year and the previous year"],
    "net by area then clinic then month": ["net by area, and then by clinic, and then by month", "net by area and also by clinic and month"],
    "net by clinic against last year": [
        "compare net with last year by clinic", "compare net to last year by clinic", "compare net of each clinic with last year", "compare net by clinic with the previous year"],
    "2026 net by clinic, difference on last year": [
        "difference between 2026 and 2025 net by clinic", "the difference in net between 2025 and 2026 by clinic"],
    "2026 net by clinic, change on last year": ["growth in net from 2025 to 2026 by clinic", "change of net between 2025 and 2026 by clinic"],
    "2026 net by clinic against 2025": ["compare net in 2026 with 2025 by clinic", "compare 2026 net with 2025 by clinic"],
    "net this month against last month by clinic": ["compare net this month with last month by clinic", "compare this month's net with last month by clinic"],
    "net by area then the top 3 clinics": [
        "net, top 3 clinics per area", "net, top 3 clinics for each area", "net, biggest 3 clinics of each area", "net, the 3 largest clinics within each area",
        "net by clinic, top 3 per area", "net by clinic, top 3 in each area"],
    "net, top 5 clinics": ["net of the top 5 clinics", "net for the top 5 clinics"],
    "net by clinic": ["net of each clinic", "group by clinic: net"],
    "net by clinic, a to z": ["net by clinic a-z"],
    "net by clinic, largest first": ["net by clinic sorted from highest to lowest", "net by clinic, ordered high to low"],
    "net by year then area": ["net year by year for each area"],
    "net by quarter against last year, difference": [
        "net per quarter compared with the same quarter a year ago, difference", "net by quarter vs the same quarter of the previous year, absolute change"],
    "net, down by clinic, across by month": ["net, one row for each clinic and one column for each month", "net, a line for each clinic, a column for each month"],
    "net by area last month": ["net by area in the last full month", "net by area in the last complete month"],
    "net by area, this fiscal year to date": ["net by area since the start of the fiscal year"],
    "records by area, only where net is over 1,000": ["how many orders had net over 1,000 by area", "number of records by area, of records with net over 1,000"],
    "net, only completed": ["net, only records that are completed"],
    "net, not completed": ["net, only records that are not completed"],
    "net by area excluding south and excluding cancelled": ["net by area, but leave out the south and anything cancelled"],
    "net by area in 2024 and 2025": ["net by area in 2024, 2025"],
    "net by area from 2024 to 2026": ["net by area in 2024, 2025 and 2026"],
    "ratio of cost to net by area": ["cost to net ratio by area"],
    "net by area, keep areas with cost under 50, keep areas with net over 100": [
        "keep areas whose cost is under 50 and net over 100, net by area", "net by area, which areas have cost under 50 and net over 100"],
    "net by area, z to a": ["net by area, sorted z to a"],
    "net by clinic except north": ["net by clinic outside the north"],
    "net by area where net is under 0": ["net by area where net is negative", "net by area, negative net only"],
    "net, only where due on is blank": ["net of records without a due date"],
    "net by area ytd against last year": ["net ytd vs last year ytd by area", "net year to date compared with last year to date by area"],
    "net in FY26 Q1 by area": [
        "net in Q1 of fiscal 2026 by area", "net in fiscal Q1 2026 by area", "net in FY2026 Q1 by area", "net for the first quarter of FY26 by area"],
    "net by area in FY26 against last year": ["net by area FY26 vs FY25", "net by area in fiscal 2026 compared with fiscal 2025"],
    "net in FY26 Q1 against last year": ["net Q1 FY26 vs Q1 FY25"],
    "net by area in June 2026 against the month before": ["net by area June 2026 vs May 2026", "net June 2026 against May 2026 by area"],
    "net by area in Q2 2026 against the quarter before": ["net by area Q2 2026 vs Q1 2026"],
    "net in H1 2026 against last year": ["net H1 2026 vs H1 2025"],
    "records from 1 June 2026 to 30 June 2026 of due on": ["records with a due date in June 2026"],
    "net over 100, net under 500, by area": ["net over 100 but under 500 by area", "net over 100 and under 500 by area"],
    "net by area, keep areas with net over 100, keep areas with cost under 50": ["net and cost by area, keep areas with net over 100 but cost under 50"],
    "net by area where net is over 100 and status is completed": ["net by area where net is over 100 but status is completed"],
    "net by area where net is at least 0": ["net by area where net is not negative"],
    "records by area, where due on is blank": ["how many orders do not have a due date by area", "how many orders have no due date by area"],
    "net by area, only where net is over 2,000": ["net over 2,000 by area", "net over 2000 by area", "net by area, net over £2000", "net by area over 2k net"],
    "net, where due on is blank": ["net where due date is blank"],
    "net from 3 March 2026 to 3 March 2026": ["net on 3 March 2026"],
    "percent of net that is cancelled": ["share of net that was cancelled"],
    "net by month against 2 years ago": ["net by month vs two years ago"],
}  # fmt: skip


@pytest.mark.parametrize(("said", "plain"), [(said, plain) for plain, others in SAID.items() for said in others])
def test_a_wording_is_read_as_the_plain_sentence(said: str, plain: str) -> None:
    assert asks(said) == asks(plain)


@pytest.mark.parametrize(
    ("said", "figure"),
    [
        ("net vs cost by area", {"compare": "Net", "with": {"figure": "Cost"}, "as": "percent"}),
        ("net by month with last year", {"compare": "Net", "with": "year_earlier", "as": "base"}),
        ("net by month with the month before", {"compare": "Net", "with": {"back": 1, "grain": "month"}, "as": "base"}),
    ],
)
def test_what_is_beside_a_figure_is_compared_with(said: str, figure: dict[str, object]) -> None:
    assert figure.items() <= asks(said)["figures"][-1].items()


@pytest.mark.parametrize(
    ("said", "take"),
    [
        ("earliest sold on by area", "min"),
        ("the latest sold on date by area", "max"),
        ("most recent sold on by area", "max"),
    ],
)
def test_the_ends_of_dates_are_asked_for(said: str, take: str) -> None:
    assert {"take": take, "of": "sold_on"}.items() <= asks(said)["figures"][0].items()


@pytest.mark.parametrize(
    ("said", "left"),
    [
        ("records by net in ranges of 500", "ranges"),
        ("list clinics with net by area", "clinics"),
        ("bottom 3 clinics by net", "bottom"),
        ("net over 500 over cost by area", "over"),
        ("net by area 1/3/2026", "1"),
        ("net by area, May 2026 vs June 2026", "vs"),
        ("net by area, June 2026 vs Q1 2026", "vs"),
        ("net by area vs May 2026", "vs"),
        ("net in 2026 with 2025", "2025"),
    ],
)
def test_what_has_no_one_meaning_is_named(said: str, left: str) -> None:
    found = heard(said)
    assert not found.whole
    assert any(left in words for words in found.unknown)


def test_words_that_are_never_alone_in_the_grammar_still_stand_for_names() -> None:
    made = names([Column("start_date", "date"), Column("end_date", "date"), Column("high_fare", "number")], {})
    for text, entry in (
        ("high fare by start month", {"period": "start_date", "grains": ["month"]}),
        ("high by month of end", {"period": "end_date", "grains": ["month"]}),
    ):
        found = read(text, made, TODAY)
        assert found.whole, (text, found.unknown)
        assert found.report is not None
        assert compared(found.report)["down"] == [entry]
    found = read("high fare by start month until the end of March 2026", made, TODAY)
    assert found.whole
    assert found.report is not None
    assert compared(found.report)["window"]["show"] == {"to": "2026-03-31"}


def test_a_part_is_of_the_same_line_and_not_of_the_total() -> None:
    part, whole, percent = asks("percent of net that is cancelled by area")["figures"]
    assert part == {
        "name": "Net, cancelled",
        "take": "sum",
        "of": "net",
        "where": "\"status\" = 'cancelled'",
        "hide": True,
    }
    assert whole["take"] == "sum"
    assert "where" not in whole
    assert percent["formula"] == '"Net, cancelled" / "Net"'
    assert percent["format"] == {"percent": True}


@pytest.mark.parametrize(
    "said", ["net by clinic with rank within status", "net by month with running total restarting each status"]
)
def test_what_is_within_a_level_that_the_report_has_not_is_named(said: str) -> None:
    assert not heard(said).whole


def test_two_sizes_are_both_heard() -> None:
    (condition,) = asks("net by area where net is more than 100 and less than 500")["only"]
    assert "> 100" in condition
    assert "< 500" in condition


def test_a_figure_that_the_report_has_is_compared_as_a_column_is() -> None:
    plain = heard("average net by area").report
    assert plain is not None
    named = plain.model_copy(update={"figures": [plain.figures[0].model_copy(update={"name": "Takings"})]})
    known = with_report(orders()[2], named)
    for typed in ("compare takings with last year by area", "growth in takings from 2025 to 2026"):
        found = read(typed, known, TODAY)
        assert found.whole, (typed, found.unknown)
        assert found.report is not None
        assert found.report.figures[-1].as_ == "percent"  # type: ignore[union-attr]
