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

from tests.core.plain_calendars import GRAINS, Calendar, Weeks, back_from, part_of, place
from tests.core.plain_numbers import against, of_numbers

Record = dict[str, Any]
Path = tuple[Any, ...]
Value = Any
BLANK, LOOSE, NO_DATE = "(blank)", "Not placed", "(no date)"
MERGING = {"quarter_of_year": "quarter", "month_of_year": "month"}
CUTS, RANGES = (-100, 0, 2500), ("Under -100", "-100 up to 0", "0 up to 2,500", "2,500 and over")
AGE_CUTS, AGES = (0, 30, 365), ("Not yet due", "1 – 30", "31 – 365", "Over 365")
TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Region", "Area"],
    "roots": [
        {"label": "Up", "under": [{"value": "North"}, {"value": "a"}]},
        {"label": "Down", "rule": "value LIKE 'b%'", "under": [{"value": "south"}]},
    ],
}  # fmt: skip
REGIONS = {"North": "Up", "a": "Up", "south": "Down", "b10": "Down", "b9": "Down"}


class Plain:
    """A report over records, read plainly."""

    def __init__(
        self, report: dict[str, Any], records: list[Record], calendar: "Calendar | Weeks", as_of: date
    ) -> None:
        self.report, self.calendar, self.as_of = report, calendar, as_of
        self.figures = {f["name"]: f for f in report["figures"]}
        self.passing = [r for r in records if all(self.meets(r, c) for c in report.get("only", []))]
        self.shown = [r for r in self.passing if self.in_window(r)]
        known = [r["on"] for r in self.passing if r["on"] is not None]
        self.first, self.last = (min(known), max(known)) if known else (None, None)
        self.down, self.across = report["down"], report["across"]
        entries = [(e, g) for e, g in (*self.levels(self.down), *self.levels(self.across)) if g == "week"]
        self.week_places = any(self.place_in(e, "week") == "year" for e, _ in entries)
        self._reached: dict[tuple[str, str, date], bool] = {}
        self.grains = [g for _, g in (*self.levels(self.down), *self.levels(self.across)) if g]

    def meets(self, r: Record, condition: str) -> bool:
        """The few conditions that are drawn."""
        if condition == "amount > 0":
            return r["amount"] is not None and r["amount"] > 0
        if condition == "kind = 'x'":
            return bool(r["kind"] == "x")
        assert condition == "kind IS NULL OR kind <> 'y'"
        return bool(r["kind"] != "y")

    def place_in(self, entry: dict[str, Any], grain: str) -> str | None:
        """The coarser grain of the other axis in which a period is but a place."""
        beside = self.across if any(entry is e for e in self.down) else self.down
        coarser = [g for _, g in self.levels(beside) if g and GRAINS.index(g) < GRAINS.index(grain)]
        return max(coarser, key=GRAINS.index, default=None)

    def placed(self, grain: str, within: str, label: str, start: date) -> date | None:
        """The first day of the period that has a place in the coarser one that begins at `start`."""
        after, day = self.calendar.moved(within, start, 1), start
        while day < after:
            if place(self.calendar, grain, within, day) == label:
                return day
            day += timedelta(1)
        return None

    def in_window(self, r: Record) -> bool:
        if self.report.get("window") is None:
            return True
        return r["on"] is not None and self.window_start() <= r["on"] <= self.as_of

    def window_start(self) -> date:
        """The first day that is shown, where the report has a window; else the first of all days."""
        if self.report.get("window") is None:
            return date.min
        show = self.report["window"]["show"]
        return self.calendar.moved(show["grain"], self.calendar.start(show["grain"], self.as_of), 1 - show["last"])

    def members(self, r: Record, entry: dict[str, Any]) -> Path:
        """Where a record sits, level by level."""
        if "period" in entry:
            if r["on"] is None:
                return tuple(BLANK for _ in entry["grains"])
            return tuple(self.period(entry, g, r) for g in entry["grains"])
        if "bucket" in entry:
            value = r["amount"]
            return (BLANK if value is None else RANGES[sum(value >= c for c in CUTS)],)
        if "age" in entry:
            if r["on"] is None:
                return (NO_DATE,)
            return (AGES[sum((self.as_of - r.get("dated", r["on"])).days > c for c in AGE_CUTS)],)
        value = r[entry["category"]]
        if entry.get("tree"):
            return (BLANK, BLANK) if value is None else (REGIONS.get(value, LOOSE), value)
        return (BLANK if value is None else entry.get("labels", {}).get(value, value),)

    def period(self, entry: dict[str, Any], grain: str, r: Record) -> Value:
        """A record's period: its first day; as a place in another, or of a merging grain, what it is called. A base's
        merging member is that of its own day, as its category is its own."""
        day = r["on"]
        if grain in MERGING:
            return place(self.calendar, MERGING[grain], "year", r.get("dated", day))
        within = self.place_in(entry, grain)
        return place(self.calendar, grain, within, day) if within else self.calendar.start(grain, day)

    def path(self, r: Record, entries: list[dict[str, Any]]) -> Path:
        return tuple(part for entry in entries for part in self.members(r, entry))

    def cells(self) -> dict[tuple[Path, Path], list[Record]]:
        """The records on the sheet in every cell of every pair of levels."""
        found: dict[tuple[Path, Path], list[Record]] = {}
        for r in self.shown:
            d, a = self.path(r, self.down), self.path(r, self.across)
            for i in range(len(d) + 1):
                for j in range(len(a) + 1):
                    found.setdefault((d[:i], a[:j]), []).append(r)
        return found

    def inside(self, records: list[Record], down: Path, across: Path, periods: bool = True) -> list[Record]:
        """Those of the records that lie in a cell; with `periods` off, whatever their period."""

        def fits(path: Path, wanted: Path, entries: list[dict[str, Any]]) -> bool:
            return all(
                have == want or (not periods and grain is not None)
                for have, want, (_, grain) in zip(path, wanted, self.levels(entries), strict=False)
            )

        return [
            r
            for r in records
            if fits(self.path(r, self.down), down, self.down) and fits(self.path(r, self.across), across, self.across)
        ]

    def levels(self, entries: list[dict[str, Any]]) -> list[tuple[dict[str, Any], str | None]]:
        """The levels of an axis: the entry, and the grain where it is a period, which a merging one is not."""
        return [(e, None if g in MERGING else g) for e in entries for g in (e.get("grains") or [None] * self.width(e))]

    def width(self, entry: dict[str, Any]) -> int:
        return len(entry.get("grains") or (("Region", "Area") if entry.get("tree") else ("one",)))

    def periods(self, down: Path, across: Path) -> list[tuple[str, Value]]:
        """The periods that a cell lies in, from the coarsest, as grain and first day; not those that are but a place."""
        plain: dict[str, Value] = {}
        places: list[tuple[str, str, Value]] = []
        for path, entries in ((down, self.down), (across, self.across)):
            for (entry, grain), part in zip(self.levels(entries), path, strict=False):
                within = self.place_in(entry, grain) if grain else None
                if within:
                    places.append((grain, within, part))
                elif grain:
                    plain[grain] = part
        for grain, within, label in places:
            start = plain.get(within)
            if label == BLANK or isinstance(start, date):
                plain[grain] = BLANK if label == BLANK else self.placed(grain, within, label, start)
        return sorted(plain.items(), key=lambda pair: GRAINS.index(pair[0]))

    def alone(self, down: Path, across: Path) -> bool:
        """Whether a cell has a place in a period without the period."""
        sides = ((down, self.down), (across, self.across))
        reached = [g for path, entries in sides for _, g in self.levels(entries)[: len(path)] if g]
        return len(self.periods(down, across)) < len(reached)

    # -- figures

    def figure(self, name: str, down: Path, across: Path) -> Value:
        """A figure in a cell; None is blank."""
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
        """A cell, or for a worked-out line the difference of the two lines that it is made from."""
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
        """−1 for a category whose amounts are turned."""
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
        """Among the lines; where there are no lines but the total, among the columns."""
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
        """Totals and special lines have no rank, nor have values under Not placed in the tree's own levels."""
        special = {BLANK, LOOSE, NO_DATE, *made}
        levels = self.levels(self.down or self.across)[: len(path)]
        loose = len(path) > 1 and path[-2] == LOOSE and levels[-1][0].get("tree") and levels[-2][0] is levels[-1][0]
        return bool(path) and path[-1] not in special and not loose

    def running(self, f: dict[str, Any], down: Path, across: Path) -> Value:
        """What was reached at the end of a cell's period, or of the last one under it that is shown and has begun."""
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
            shown = {part_of(self.calendar, r["on"], self.grains)[0] for r in self.shown if r["on"] is not None}
            inside = [s for s in shown if s <= self.as_of and all(self.calendar.start(g, s) == p for g, p in periods)]
            last = max(inside, default=date.max)
        if last > self.as_of:
            return None
        end = part_of(self.calendar, last, self.grains)[1]
        here = [r for r in self.inside(self.so_far(), down, across, periods=False) if r["on"] and r["on"] < end]
        if f["restart"] == "year":
            here = [r for r in here if self.year_of(r["on"]) == self.year_of(last)]
        return self.take(self.figures["sum"], here)

    def year_of(self, day: date) -> date:
        """The year of a day; where weeks alone are shown, which no year splits, of its week's first day."""
        return self.calendar.start("year", self.calendar.start("week", day) if {*self.grains} == {"week"} else day)

    def so_far(self) -> list[Record]:
        """The records that pass, up to the window's end, those before its start included."""
        cut = date.max if self.report.get("window") is None else self.as_of
        return [r for r in self.passing if r["on"] is None or r["on"] <= cut]

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
        """Base records counted where they answer to: in the cell by their moved day, if that day is shown."""
        lines = [line["of"] for line in self.report.get("lines", []) if down and down[-1] == line["name"]]
        if lines:
            return (
                NOT_CHECKED
                if f["as"] in ("percent", "index")
                else self.filled(f, down, across, lambda d: self.compare(f, d, across))
            )
        if self.first is None:
            return NOT_CHECKED
        periods = self.periods(down, across)
        if self.alone(down, across) or any(not isinstance(start, date) for _, start in periods):
            return NOT_CHECKED
        grain = periods[-1][0] if periods else min(self.grains, key=GRAINS.index)
        if f["to_date"] and periods and periods[-1][1] > self.as_of:
            return None
        under = {
            p for d, a in self.cells() for p in self.periods(d, a)[len(periods) :] if self.starts_with(d, a, periods)
        }
        if not all(self.reached(f, g, start) for g, start in (*periods[-1:], *under) if isinstance(start, date)):
            return None
        cut = self.as_of if f["to_date"] else date.max
        now = [r for r in self.inside(self.shown, down, across) if r["on"] is None or r["on"] <= cut]
        moved = [
            {**r, "on": on, "dated": r["on"]}
            for r in self.passing
            if r["on"] and (on := self.answers(f, grain, r["on"]))
        ]
        then = [r for r in self.inside(moved, down, across) if r["on"] <= cut and self.in_window(r)]
        value, base = self.take(self.figures["sum"], now), self.take(self.figures["sum"], then)
        return against(f["as"], value, base)

    def starts_with(self, down: Path, across: Path, periods: list[tuple[str, Value]]) -> bool:
        return self.periods(down, across)[: len(periods)] == periods

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
                return self.calendar.same_column(day)
            return self.calendar.years_on(grain, day, years)
        start = self.calendar.start(grain, day)
        after, end = self.calendar.moved(grain, start, 1), self.calendar.moved(grain, start, 2)
        return min(after + (day - start), end - timedelta(1))

    def reached(self, f: dict[str, Any], grain: str, start: date) -> bool:
        """Whether the base of a period does not end before the first record."""
        key = (str(f["with"]), grain, start)
        if key not in self._reached:
            after, assert_first = self.calendar.moved(grain, start, 1), self.first
            assert assert_first is not None
            days = (assert_first + timedelta(n) for n in range((after - assert_first).days))
            self._reached[key] = any(
                (on := self.answers(f, grain, day)) is not None and start <= on < after for day in days
            )
        return self._reached[key]


NOT_CHECKED = object()
