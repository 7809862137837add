"""A whole report read plainly and slowly: what each figure is in a cell, from dictionaries and fractions alone.

It knows nothing of the engine's arrays. A cell is named by two paths: the members down, the members across; a period
is its first day, anything else its label. What it covers: categories (a tree with a rule and leftovers, signs), ranges,
ages, periods of civil and fiscal calendars and of years of weeks, places in a coarser period of the other axis, merging
grains, conditions, windows, every take with a condition of its own, formulas, shares, ranks, running and moving figures,
comparisons, and lines made from lines.
"""

from collections.abc import Callable
from datetime import date, timedelta
from fractions import Fraction
from typing import Any

from tests.core.plain_calendars import GRAINS, Calendar, back_from, part_of
from tests.core.plain_cells import BLANK, LOOSE, NO_DATE, Cells, Path, Record, Value
from tests.core.plain_numbers import against, of_numbers


class Plain(Cells):
    """A reference implementation of a report over records."""

    def figure(self, name: str, down: Path, across: Path) -> Value:
        """A figure in a cell; None if blank."""
        return self.of(self.figures[name], down, across, self.shown)

    def of(self, f: dict[str, Any], down: Path, across: Path, records: list[Record]) -> Value:
        if "take" in f and "moving" not in f:
            return self.filled(f, down, across, lambda d: self.take(f, self.inside(records, d, across)))
        if "formula" in f:
            left, right = (self.figure(n, down, across) for n in ("sum", "count"))
            return None if left is None or not right else left / Fraction(right)
        if "share" in f:
            return self.share(f, down, across)
        if "rank" in f:
            return self.rank(f, down, across)
        if "running" in f:
            return self.filled(f, down, across, lambda d: self.running(f, d, across))
        if "moving" in f:
            return self.filled(f, down, across, lambda d: self.moving(f, d, across))
        return self.compare(f, down, across)

    def filled(self, f: dict[str, Any], down: Path, across: Path, plain: Callable[[Path], Value]) -> Value:
        """A figure in a cell; for a line made from others, the difference of its two operands."""
        line = next(iter(self.report.get("lines", [])), None)
        if line is None or not down or down[-1] != line["name"]:
            return plain(down)
        a, b = (plain((*down[:-1], label)) for label in line["of"])
        if NOT_CHECKED in (a, b):
            return NOT_CHECKED
        count = f.get("take") in ("count", "count_values", "distinct")
        there = [
            bool(self.inside(self.passing, (*down[:-1], label), across, "running" not in f)) for label in line["of"]
        ]
        if count:
            a, b = (v if t else None for v, t in zip((a, b), there, strict=True))
        adds = (
            f.get("take") in ("sum", "count", "count_values", "distinct") or {"running", "moving", "compare"} & f.keys()
        )
        if a is None and b is None:
            return None
        if adds:
            return (a or 0) - (b or 0)
        return None if a is None or b is None else a - b

    def take(self, f: dict[str, Any], records: list[Record]) -> Value:
        if f.get("where"):
            records = [r for r in records if self.meets(r, f["where"])]
        if f["take"] == "count":
            return len(records)
        filled = [r for r in records if r["amount"] is not None]
        sign = self.sign
        values = [Fraction(r["amount"]) * sign(r) for r in filled]
        if f["take"] == "count_values":
            return len(values)
        if f["take"] == "distinct":
            return len({r["amount"] for r in filled})
        if f["take"] == "weighted_mean":
            weighed = [(v, r["heads"]) for v, r in zip(values, filled, strict=True) if r["heads"] is not None]
            weight = sum(w for _, w in weighed)
            return sum(v * w for v, w in weighed) / Fraction(weight) if weight else None
        if f["take"] in ("first", "last"):
            dated = [(r["on"], i, v) for i, (r, v) in enumerate(zip(filled, values, strict=True)) if r["on"]]
            if not dated:
                return None
            return min(dated)[2] if f["take"] == "first" else max(dated)[2]
        return of_numbers(f, values) if values else None

    def sign(self, r: Record) -> int:
        """−1 for a category whose signs are reversed."""
        turned = 1
        for entry in (*self.down, *self.across):
            labels = self.members(r, entry) if "category" in entry else ()
            for label, sign in entry.get("signs", {}).items():
                turned *= sign if label in labels else 1
        return turned

    def share(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        line = {"all": (), "column": (), "parent": down[:-1], "line": down}[f["of_total"]]
        column = () if f["of_total"] in ("all", "line") else across
        part, whole = self.figure("sum", down, across), self.figure("sum", line, column)
        return None if part is None or not whole else part / whole

    def rank(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """The rank among the lines; among the columns if the only line is the total."""
        mine = self.figure("sum", down, across)
        made = {line["name"] for line in self.report.get("lines", [])}
        here, at = (down, 0) if self.down else (across, 1)
        if mine is None or not self.competes(here, made):
            return None
        beside = {c[at] for c in self.cells() if len(c[at]) == len(here) and self.competes(c[at], made)}
        if f["within"] == "parent":
            beside = {path for path in beside if path[:-1] == here[:-1]}
        values = [self.figure("sum", path, across) if at == 0 else self.figure("sum", down, path) for path in beside]
        return 1 + sum(v is not None and v > mine for v in values)

    def competes(self, path: Path, made: set[str]) -> bool:
        """Totals and special lines have no rank, nor do values under Not placed within the tree's levels."""
        special = {BLANK, LOOSE, NO_DATE, *made}
        levels = self.levels(self.down or self.across)[: len(path)]
        loose = len(path) > 1 and path[-2] == LOOSE and levels[-1][0].get("tree") and levels[-2][0] is levels[-1][0]
        return bool(path) and path[-1] not in special and not loose

    def running(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """The running total at the end of a cell's period, or of its last inner period that has begun."""
        periods = self.periods(down, across)
        if self.alone(down, across) or any(not isinstance(start, date) for _, start in periods):
            return NOT_CHECKED if self.alone(down, across) else None
        if f["restart"] == "year" and not periods:
            return None
        if not periods and not self.grains:
            return NOT_CHECKED
        if len(periods) == len(set(self.grains)):
            last = max(start for _, start in periods)
        else:
            if self.first is None:
                return NOT_CHECKED
            first = part_of(self.calendar, self.first, self.grains)[0]
            days = [self.as_of, *(self.calendar.moved(g, s, 1) - timedelta(1) for g, s in periods)]
            last = part_of(self.calendar, min(days), self.grains)[0] if min(days) >= first else date.max
            last = last if all(self.calendar.start(g, last) == s for g, s in periods if last < date.max) else date.max
        if last > self.as_of:
            return None
        end = part_of(self.calendar, last, self.grains)[1]
        here = [r for r in self.inside(self.so_far(), down, across, periods=False) if r["on"] and r["on"] < end]
        if f["restart"] == "year":
            here = [r for r in here if self.year_of(r["on"]) == self.year_of(last)]
        return self.take(self.figures["sum"], here)

    def year_of(self, day: date) -> date:
        """The year of a day; if only weeks are shown, which belong to one year each, that of its week's first day."""
        return self.calendar.start("year", self.calendar.start("week", day) if {*self.grains} == {"week"} else day)

    def so_far(self) -> list[Record]:
        """The records that satisfy the conditions up to the window's end, including those before its start."""
        cut = date.max if self.report.get("window") is None else self.as_of
        return [r for r in self.passing if r["on"] is None or (r["on"] <= cut and self.alike(r["on"]))]

    def moving(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        periods = self.periods(down, across)
        if not periods or self.alone(down, across):
            return None
        if any(not isinstance(start, date) for _, start in periods) or self.first is None or self.last is None:
            return None
        grains = [grain for grain, _ in periods]
        begin, end = part_of(self.calendar, max(start for _, start in periods), grains)
        if begin > max(self.last, self.as_of):
            return None
        for _ in range(f["periods"] - 1):
            begin = part_of(self.calendar, begin - timedelta(1), grains)[0]
        if begin < part_of(self.calendar, self.first, grains)[0]:
            return None
        here = self.inside(self.so_far(), down, across, periods=False)
        total = self.take(self.figures["sum"], [r for r in here if r["on"] and begin <= r["on"] < end]) or Fraction(0)
        return total / f["periods"] if f["moving_take"] == "mean" else total

    def compare(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """The base records of a cell: those whose mapped day lies in it, if that day is shown."""
        lines = [line["of"] for line in self.report.get("lines", []) if down and down[-1] == line["name"]]
        if lines:
            return (
                NOT_CHECKED
                if f["as"] in ("percent", "index")
                else self.filled(f, down, across, lambda d: self.compare(f, d, across))
            )
        pair = self.pair(f, down, across)
        return pair if pair is None or pair is NOT_CHECKED else against(f["as"], *pair)

    def mark(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """The mark of a percent change or an index that is blank."""
        made = {line["name"] for line in self.report.get("lines", [])}
        pair = None if f["as"] not in ("percent", "index") else self.pair(f, down, across)
        if pair is NOT_CHECKED or (down and down[-1] in made):
            return NOT_CHECKED
        if pair is None or pair == (None, None):
            return ""
        value, base = pair
        return "gone" if value is None else "new" if base is None else "n/m" if base <= 0 else ""

    def pair(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """A compared value and its base; None if there is nothing to compare with."""
        if self.first is None:
            return NOT_CHECKED
        periods = self.periods(down, across)
        if any(start == BLANK for _, start in periods):
            return None
        if self.alone(down, across) or any(not isinstance(start, date) for _, start in periods):
            return NOT_CHECKED
        outermost = min(self.grains, key=GRAINS.index)
        grain = periods[-1][0] if periods else outermost
        if f["to_date"] and periods and periods[-1][1] > self.as_of:
            return None
        if periods:
            has = self.base_of(f, grain, *part_of(self.calendar, max(s for _, s in periods), [g for g, _ in periods]))[
                0
            ]
        else:
            under = {p for d, a in self.cells() for p in self.periods(d, a) if p[0] == outermost and p[1] != BLANK}
            bases = [self.base_of(f, outermost, s, self.calendar.moved(g, s, 1)) for g, s in under]
            has = not any(early for _, early in bases) and self.base_of(f, None, date.min, date.max)[0]
        if not has:
            return None
        cut = self.as_of if f["to_date"] else date.max
        now = [r for r in self.inside(self.shown, down, across) if r["on"] is None or r["on"] <= cut]
        moved = [
            {**r, "on": on, "dated": r["on"]}
            for r in self.passing
            if r["on"] and (on := self.counts_on(f, grain if periods else None, r["on"]))
        ]
        then = self.inside(moved, down, across)
        return self.take(self.figures["sum"], now), self.take(self.figures["sum"], then)

    def counts_on(self, f: dict[str, Any], grain: str | None, day: date) -> date | None:
        """The day, shown and not after the cut, that a day is the base of in cells of a grain (None: totals)."""
        if not self.alike(day):
            return None
        on = self.answers(f, grain or min(self.grains, key=GRAINS.index), day)
        if on is None and grain is None:
            on = self.at_the_end(f, day)
        if on is None or (f["to_date"] and on > self.as_of) or not self.in_window({"on": on}):
            return None
        return on

    def at_the_end(self, f: dict[str, Any], day: date) -> date:
        """The day on which a day without a counterpart counts in totals: the end of the year or period that corresponds
        to its own."""
        shift = f["with"]
        if isinstance(shift, dict) and shift["grain"] != "year":
            on = back_from(self.calendar, shift["grain"], shift["grain"], shift["back"], day)
            assert on is not None
            return on
        years = shift["back"] if isinstance(shift, dict) else 1
        own = self.calendar.week_year(day) if isinstance(self.calendar, Calendar) else self.calendar.start("year", day)
        return self.calendar.moved("year", own, years + 1) - timedelta(1)

    def base_of(self, f: dict[str, Any], grain: str | None, start: date, after: date) -> tuple[bool, bool]:
        """Whether a day from the first record on is the base of one of a period's days, or else a day before it."""
        key = (str((f["with"], f["to_date"])), grain or "")
        if key not in self._targets:
            assert self.first is not None
            days = (self.first + timedelta(n) for n in range(-900, 1300))
            self._targets[key] = [(day, on) for day in days if (on := self.counts_on(f, grain, day))]
        inside = [day for day, on in self._targets[key] if start <= on < after]
        has = any(self.first <= day for day in inside)
        return has, bool(inside) and not has

    def answers(self, f: dict[str, Any], grain: str, day: date) -> date | None:
        """The day that a day is the base of, for periods of a grain."""
        shift = f["with"]
        if isinstance(shift, dict) and shift["grain"] != "year":
            if shift["grain"] == "week":
                return day + timedelta(7 * shift["back"])
            return back_from(self.calendar, grain, shift["grain"], shift["back"], day)
        if shift != "period_before" or grain == "year":
            years = shift["back"] if isinstance(shift, dict) else 1
            if grain == "week" and self.week_places and isinstance(self.calendar, Calendar):
                return self.calendar.same_column(day, years)
            return self.calendar.years_on(grain, day, years)
        start = self.calendar.start(grain, day)
        after, end = self.calendar.moved(grain, start, 1), self.calendar.moved(grain, start, 2)
        return min(after + (day - start), end - timedelta(1))


NOT_CHECKED = object()
