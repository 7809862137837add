"""What could be added given the report's own parts: figures from its figures, the order and totals of its lines, their
layout."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from kalendor.sentence.naming import free_name, plural
from kalendor.sentence.offers.phrase import Phrase, Says
from kalendor.sentence.spelling import plain_name

BASES = (
    ("year_earlier", "last year yoy prior previous year"),
    ("period_before", "previous prior month on month"),
)
COMPARED = (("percent", "percent growth", 4), ("difference", "change variance", 0), ("base", "base comparison", -4))
SHARES = ("all", "parent", "column", "line")
SHARE_WORDS = "percent of total column proportion"
CUMULATIVE = "cumulative so far year to date ytd"
LOOKS = ("space", "bold", "page_break")
FIRST, ALONE = "before", "none"


def from_figures(says: Says, report: Mapping[str, Any]) -> Iterator[Phrase]:
    """Figures computed from the existing ones."""
    axes = [*report.get("across", ()), *report.get("down", ())]
    along = next((entry["period"] for entry in axes if "period" in entry), None)
    has_base = along is not None or "window" in report
    plain = [figure["name"] for figure in report["figures"] if "take" in figure or "formula" in figure]
    for i, name in enumerate(plain):
        weight = 50 - i * 12
        for base, also in BASES if has_base else ():
            for shown, more, lift in COMPARED:
                figure = {"compare": name, "with": base, "as": shown}
                yield from says.figure(figure, f"{also} {more}", weight + lift)
        for n, total in enumerate(SHARES):
            yield from says.figure({"share": name, "of_total": total}, SHARE_WORDS, weight - 2 - n)
        if along is not None:
            running = {"running": name, "along": along}
            yield from says.figure(running, CUMULATIVE, weight - 4)
            yield from says.figure({**running, "restart": "year"}, f"{CUMULATIVE} restarting", weight - 5)
            yield from says.figure({"moving": name, "periods": 3}, "moving rolling mean", weight - 6)
        yield from says.figure({"running": name, "along": "lines"}, "cumulative", weight - 12)
        yield from says.figure({"rank": name}, "place position", weight - 10)
    yield _ratio(says, report)


def _ratio(says: Says, report: Mapping[str, Any]) -> Phrase:
    """The first figure by the second, or by the count of records."""
    names = [figure["name"] for figure in report["figures"]]
    called = free_name("Ratio", names)
    below = says.name(names[1]) if len(names) > 1 else "count of records"
    return Phrase(f"{called} = {says.name(names[0])} / {below}", "formula", "figure", "a formula over figures divide per calculate", 16)  # fmt: skip


def of_lines(says: Says, report: Mapping[str, Any], levels: Sequence[str]) -> Iterator[Phrase]:
    """How lines are sorted, kept and totalled, and the sheet laid out; `levels` are those of the lines, outermost
    first."""
    for figure in report["figures"] if report.get("down") else ():
        for desc, also in ((True, "sorted descending biggest"), (False, "sorted ascending")):
            order = {"by": figure["name"], **({"desc": True} if desc else {})}
            yield from says.clause("order_by", order, f"sort order {also}", 26 if desc else 20, "lines")
    for level in levels:
        begun = f"keep {says.name(level)} where …"
        yield Phrase(begun, "the other lines are hidden", "condition", "filter having limit figure over lines", 14, begin={"keep": level})  # fmt: skip
    yield from _totals(says, report, levels)
    yield from _layout(says, report.get("layout", {}), levels)
    if report.get("records") is None and levels:
        yield from says.clause("clause", {"records": {}}, "detail transactions", 12, "lines")


def _totals(says: Says, report: Mapping[str, Any], levels: Sequence[str]) -> Iterator[Phrase]:
    for level in levels[:-1]:
        yield from says.clause("totals", {"levels": {level: ALONE}}, "subtotal off", 16, "totals")
    if report.get("totals"):
        return
    every = dict.fromkeys(("down", "across", "grand_down", "grand_across"), ALONE)
    offered = (
        ({"down": FIRST}, "above before totals first", 15),
        ({"grand_down": FIRST}, "above before totals first", 14),
        (every, "subtotal off none", 14),
        ({"down": ALONE}, "off none", 15),
        ({"grand_across": ALONE}, "off none", 15),
    )
    for totals, also, weight in offered:
        yield from says.clause("totals", totals, also, weight, "totals")


def _layout(says: Says, layout: Mapping[str, Any], levels: Sequence[str]) -> Iterator[Phrase]:
    offered: list[tuple[Mapping[str, Any], str, int]] = []
    if layout.get("lines") != "columns" and len(levels) > 1:
        offered.append(({"lines": "columns"}, "tabular key columns labels once", 12))
    for level in levels[:-1]:
        had = layout.get("levels", {}).get(level, {})
        offered += [({"levels": {level: {look: True}}}, "format lines apart page", 8) for look in LOOKS if not had.get(look)]  # fmt: skip
    if levels and not layout.get("grand"):
        called = plural(levels[0]) if plain_name(levels[0]) else levels[0]
        offered.append(({"grand": f"All {called}"}, "name words label", 8))
    for part, also, weight in offered:
        yield from says.clause("clause", {"layout": [part]}, f"layout {also}", weight, "layout")
