"""A reference implementation of placement: the members of each record by level, the cells, and the periods of a
cell."""

from datetime import date, timedelta
from typing import Any

from tests.core.plain_calendars import GRAINS, Calendar, Weeks, place

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


class Cells:
    """The records of a report by cell."""

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
        self._targets: dict[tuple[str, str], list[tuple[date, date]]] = {}
        self.grains = [g for _, g in (*self.levels(self.down), *self.levels(self.across)) if g]

    def meets(self, r: Record, condition: str) -> bool:
        """Evaluates the conditions that the strategies draw."""
        if condition == "amount > 0":
            return r["amount"] is not None and r["amount"] > 0
        if condition == "kind = 'x'":
            return bool(r["kind"] == "x")
        assert condition == "kind IS NULL OR kind <> 'y'"
        return bool(r["kind"] != "y")

    def place_in(self, entry: dict[str, Any], grain: str) -> str | None:
        """The coarser grain on the other axis in which a period is shown as a place."""
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
        return r["on"] is not None and self.window_start() <= r["on"] <= self.as_of and self.alike(r["on"])

    def alike(self, day: date) -> bool:
        """Whether a day lies no later in its period than the as-of date in its own, if each period is cut there."""
        window = self.report.get("window")
        if window is None or not window.get("each_to_date"):
            return True
        grain = window["show"]["grain"]
        here, now = self.calendar.start(grain, day), self.calendar.start(grain, self.as_of)
        if grain != "year":
            return now + (day - here) <= self.as_of or self.as_of == self.calendar.moved(grain, now, 1) - timedelta(1)
        years = round((now - here).days / 365.25)
        on = self.calendar.years_on("year", day, years)
        return on is not None and on <= self.as_of

    def window_start(self) -> date:
        """The first day of the window; of all days without one."""
        if self.report.get("window") is None:
            return date.min
        show = self.report["window"]["show"]
        return self.calendar.moved(show["grain"], self.calendar.start(show["grain"], self.as_of), 1 - show["last"])

    def members(self, r: Record, entry: dict[str, Any]) -> Path:
        """The members of a record by level."""
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
        """A record's period: its first day; its label for a place in another period or a merging grain. A base record
        keeps the merging member of its own day, as it keeps its category."""
        day = r["on"]
        if grain in MERGING:
            return place(self.calendar, MERGING[grain], "year", r.get("dated", day))
        within = self.place_in(entry, grain)
        return place(self.calendar, grain, within, day) if within else self.calendar.start(grain, day)

    def path(self, r: Record, entries: list[dict[str, Any]]) -> Path:
        return tuple(part for entry in entries for part in self.members(r, entry))

    def cells(self) -> dict[tuple[Path, Path], list[Record]]:
        """The records of the sheet in every cell of every crossing."""
        found: dict[tuple[Path, Path], list[Record]] = {}
        for r in self.shown:
            d, a = self.path(r, self.down), self.path(r, self.across)
            for i in range(len(d) + 1):
                for j in range(len(a) + 1):
                    found.setdefault((d[:i], a[:j]), []).append(r)
        return found

    def inside(self, records: list[Record], down: Path, across: Path, periods: bool = True) -> list[Record]:
        """The records that lie in a cell; without `periods`, whatever their period."""

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
        """The periods of a cell from the coarsest, as grain and first day; without places."""
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
        """Whether a cell has a place in a period but not the period."""
        sides = ((down, self.down), (across, self.across))
        reached = [g for path, entries in sides for _, g in self.levels(entries)[: len(path)] if g]
        return len(self.periods(down, across)) < len(reached)
