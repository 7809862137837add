"""State machine: editions are issued while everything they depend on changes. Each stays the same, byte for byte; its
records can be restored; and the parts of every number that moved add up exactly to its move."""

import hashlib
import json
import os
import shutil
import tempfile
from contextlib import suppress
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, initialize, invariant, rule

from kalendor.core.sheet.moves import Place, Places, any_moved
from kalendor.core.values.columns import day_number
from kalendor.definitions.kinds import definition
from kalendor.definitions.recurring import Delivery
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import issue, opened, says
from kalendor.desk.editions.moved import causes, difference, parts
from kalendor.desk.editions.owed import recurs
from kalendor.desk.editions.sending import deliver, send
from kalendor.desk.editions.standing import ingredients_now, standing
from kalendor.desk.editions.steps import Moved, moved
from kalendor.desk.sheets import all_groupings, sheet_from
from kalendor.errors import DefinitionError, IntakeError, KalendorError
from kalendor.store.soundness import faults

QUICK = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
KINDS = ("kx", "ky", "kz", "")
rows = st.lists(
    st.tuples(st.sampled_from(KINDS), st.integers(0, 270), st.integers(-999, 9999), st.sampled_from("abcd")),
    min_size=1,
    max_size=7,
)
JOINS = st.sampled_from([("add", []), ("replace_dates", ["day"]), ("update", ["key"])])
TREES = st.sampled_from(
    [
        [{"label": "One", "under": [{"value": "kx"}, {"value": "ky"}]}],
        [{"label": "One", "under": [{"value": "kx"}]}, {"label": "Two", "under": [{"value": "ky"}, {"value": "kz"}]}],
        [{"label": "One", "rule": "value LIKE 'k%'"}],
        [{"label": "Uno", "under": [{"value": "kx", "label": "the x"}, {"value": "kz"}]}],
    ]
)
CALENDARS = st.sampled_from([{"start_month": 1}, {"start_month": 4}, {"start_month": 7, "start_day": 15}])
TABLES = st.sampled_from(["kind,rate\nkx,2\nky,3\n", "kind,rate\nkx,2\n", "kind,rate\nkx,5\nky,1\nkz,4\n"])
MADE = st.sampled_from(["amount * 2", "amount - 1", "COALESCE(amount, 0)"])
SUM, COUNT = {"name": "Sum", "take": "sum", "of": "amount"}, {"name": "Count", "take": "count"}
FIGURES = st.sampled_from(
    [
        [SUM, COUNT],
        [SUM, {"name": "Mean", "take": "mean", "of": "amount"}, {"name": "Share", "share": "Sum", "of_total": "all"}],
        [SUM, {"name": "Ch", "compare": "Sum", "with": "year_earlier", "as": "percent"}],
        [SUM, {"name": "Diff", "compare": "Sum", "with": "period_before", "as": "difference"}],
        [SUM, {"name": "Run", "running": "Sum", "along": "day", "restart": "year"}],
        [COUNT, {"name": "Made", "take": "sum", "of": "made"}, {"name": "Rate", "take": "max", "of": "rate"}],
        [COUNT, {"name": "Med", "take": "median", "of": "amount"}, {"name": "Keys", "take": "distinct", "of": "key"}],
    ]
)
DOWN = st.sampled_from(
    [
        [{"category": "kind", "tree": "Kinds"}],
        [{"category": "kind", "tree": "Kinds", "levels": ["Side"]}],
        [{"category": "key", "top": 2, "by": "Sum"}],
        [{"age": "day", "cut": [0, 30]}, {"category": "kind"}],
        [],
    ]
)
ACROSS = st.sampled_from(
    [[], [{"period": "day", "calendar": "Own", "grains": ["year"]}], [{"period": "day", "calendar": "Own", "grains": ["quarter", "month"]}]]
)  # fmt: skip
ONLY = st.sampled_from([[], ["kind = 'kx'"], ["amount > 0"], ["key <> 'a'"]])
WINDOWS = st.sampled_from([None, {"last": 2, "grain": "year"}, {"this": "month"}, {"to_date": "year"}])
MONTHS = ("2026-01", "2026-03", "2026-06")


class Issuing(RuleBasedStateMachine):
    """Actions of analysts over months, in any order."""

    editions = Bundle("editions")

    def __init__(self) -> None:
        super().__init__()
        self.folder = Path(tempfile.mkdtemp(dir=QUICK))
        self.desk = Desk(self.folder / "w", now=lambda: datetime(2026, 8, 4, 9, 20))
        self.desk.deliver_to = (self.folder / "out",)
        self.delivered: dict[str, bytes] = {}
        self.files = 0
        self.kept: dict[int, tuple[bytes, bytes]] = {}
        self.issued = 0

    def teardown(self) -> None:
        try:
            assert not faults(self.folder / "w")
            for id, (text, _) in self.kept.items():
                assert self.desk.editions.text(id) == text
        finally:
            self.desk.workspace.close()
            shutil.rmtree(self.folder, ignore_errors=True)

    @initialize(found=rows)
    def begin(self, found: Any) -> None:
        self.bring(found, ("add", []))
        self.table("kind,rate\nkx,2\nky,3\n")
        self.save({"kind": "tree", "name": "Kinds", "levels": ["Side", "Kind"], "roots": []})
        self.save({"kind": "calendar", "name": "Own", "months": {"start_month": 1}})
        self.make("amount * 2")
        self.document: dict[str, Any] = {
            "kind": "report", "title": "R", "source": "Sales", "figures": [SUM, COUNT],
            "down": [{"category": "kind", "tree": "Kinds"}], "cadence": {"every": "month"},
        }  # fmt: skip
        self.save(self.document)

    def save(self, document: dict[str, Any]) -> None:
        body = definition({"kalendor": 1, **document}, "test")
        here = self.desk.definitions.named(body.kind, document.get("name") or document["title"])
        if here is None:
            self.desk.definitions.add(body, self.desk.now())
        else:
            self.desk.definitions.save(here.id, body, self.desk.now())

    def table(self, text: str) -> None:
        with suppress(IntakeError):
            found = look_at(self.desk, "rates.csv", text.encode(), "Rates")
            keep(self.desk, read_again(self.desk, found.token, Change(join="replace_all")).token, again=True)

    def make(self, formula: str) -> None:
        from tests.desk.test_bringing_in import columns

        source = self.desk.sources.named("Sales")
        assert source is not None
        rate = {"name": "rate", "lookup": {"source": "Rates", "match": {"kind": "kind"}, "take": "rate"}}
        self.desk.sources.save_made(source, columns({"name": "made", "formula": formula}, rate))

    @rule(found=rows, join=JOINS)
    def bring(self, found: Any, join: tuple[str, list[str]]) -> None:
        self.files += 1
        lines = [
            f"{kind},{date.fromordinal(date(2025, 10, 1).toordinal() + day)},{cents / 100:.2f},{key}"
            for kind, day, cents, key in found
        ]
        data = ("kind,day,amount,key\n" + "\n".join(lines) + "\n").encode()
        waiting = look_at(self.desk, f"f{self.files}.csv", data, "Sales")
        with suppress(IntakeError):
            change = Change(join=join[0], join_by=join[1])
            keep(self.desk, read_again(self.desk, waiting.token, change).token, again=True)

    @rule(pick=st.integers(0, 20), back=st.booleans())
    def undo_or_redo_a_file(self, pick: int, back: bool) -> None:
        source = self.desk.sources.named("Sales")
        assert source is not None
        found = [i for i in self.desk.intakes.of(source) if (i.undone_at is None) == back]
        if found:
            chosen = found[pick % len(found)]
            if back:
                self.desk.intakes.undo(chosen.id, self.desk.now())
            else:
                self.desk.intakes.redo(chosen.id)

    @rule(roots=TREES)
    def place(self, roots: Any) -> None:
        self.save({"kind": "tree", "name": "Kinds", "levels": ["Side", "Kind"], "roots": roots})

    @rule(months=CALENDARS)
    def another_year(self, months: Any) -> None:
        self.save({"kind": "calendar", "name": "Own", "months": months})

    @rule(text=TABLES)
    def another_table(self, text: str) -> None:
        self.table(text)

    @rule(formula=MADE)
    def another_formula(self, formula: str) -> None:
        self.make(formula)

    @rule(figures=FIGURES, down=DOWN, across=ACROSS, only=ONLY, show=WINDOWS)
    def another_report(self, figures: Any, down: Any, across: Any, only: Any, show: Any) -> None:
        names = {figure["name"] for figure in figures}
        down = [{k: v for k, v in e.items() if k not in ("top", "by") or "Sum" in names} for e in down]
        window = None if show is None else {"of": "day", "calendar": "Own", "show": show}
        self.document = {
            **self.document, "figures": figures, "down": down, "across": across, "only": only, "window": window,
        }  # fmt: skip
        self.save(self.document)

    @rule(target=editions, month=st.sampled_from(MONTHS))
    def issue(self, month: str) -> Any:
        stored = self.desk.definitions.named("report", "R")
        assert stored is not None
        one = recurs(stored, all_groupings(self.desk))
        period = one.on(day_number(date.fromisoformat(f"{month}-15")))
        try:
            done = issue(self.desk, stored.id, period)
        except KalendorError:
            return None
        text = self.desk.editions.text(done.edition.id)
        if done.fresh:
            assert hashlib.sha256(text).hexdigest() == done.edition.sha256
            self.kept[done.edition.id] = text, edition_file(self.desk, done.edition.id, "csv", "flat").content
        assert text == self.kept[done.edition.id][0]
        again = issue(self.desk, stored.id, period)
        assert (again.edition.id, again.fresh) == (done.edition.id, False)
        return done.edition.id

    @rule(id=editions)
    def open_it_years_later(self, id: int | None) -> None:
        if id is None:
            return
        self.desk.sheets.clear()
        self.desk.plans.clear()
        self.desk.memory.clear()
        text, csv = self.kept[id]
        assert self.desk.editions.text(id) == text
        assert edition_file(self.desk, id, "csv", "flat").content == csv
        found = opened(self.desk, id)
        assert says(sheet_from(self.desk, found.ingredients)) == found.edition.says

    @rule(id=editions, each=st.sampled_from([None, "Side", "kind", "Kind"]))
    def put_it_into_a_folder(self, id: int | None, each: str | None) -> None:
        """Existing files are never changed, whatever is written beside them."""
        if id is None:
            return
        with suppress(DefinitionError):  # a level that the edition has not
            send(self.desk, id, Delivery(folder="monthly", formats=["csv"], each=each))
            deliver(self.desk)
        found = {path.name: path.read_bytes() for path in (self.folder / "out" / "monthly").glob("*")}
        assert {name: found[name] for name in self.delivered} == self.delivered
        self.delivered = found

    @rule(id=editions)
    def ask_what_moved_since(self, id: int | None) -> None:
        if id is None:
            return
        edition = self.desk.editions.one(id)
        try:
            after = sheet_from(self.desk, ingredients_now(self.desk, edition))
        except KalendorError:
            assert standing(self.desk, [edition])[id].moved is None
            return
        found = moved(self.desk, id, None)
        before = Places(opened(self.desk, id).sheet)
        assert bool(found.cells) == any_moved(before, Places(after)) == standing(self.desk, [edition])[id].moved
        assert found.steps[-1].sheet is after or says(found.steps[-1].sheet) == says(after)
        self.add_up(found)

    @rule(one=editions, other=editions)
    def ask_what_moved_between(self, one: int | None, other: int | None) -> None:
        if one is None or other is None or one == other:
            return
        first, last = sorted((one, other))
        self.add_up(moved(self.desk, first, last))

    def add_up(self, found: Moved) -> None:
        """The parts of every moved cell add up exactly, and so do their records for sums and counts."""
        for i, move in enumerate(found.cells[:40]):
            values = found.values(move.place)
            listed = i < 12
            split = parts(self.desk, found, move.place, listed)
            whole = difference(values[0], values[-1])
            if all(part.by is not None for part in split):
                assert sum((part.by or Decimal(0) for part in split), Decimal(0)) == whole
            assert [values[0], *(part.now for part in split)] == values
            if not listed or move.place.figure not in ("Sum", "Count", "Made"):
                continue
            for part in split:
                if (
                    part.kinds == ("report",)
                    or part.records.more
                    or (not part.records.count and part.kinds[-1] == "report")
                ):
                    continue
                given = sum((amount(r.amount) * (1 if r.came else -1) for r in part.records.records), Decimal(0))
                assert given == part.by, (move.place, part)

        self.whole_sheet(found)

    def whole_sheet(self, found: Moved) -> None:
        """The causes' moves of a grand total equal its parts, and each record of a part is listed under its cause."""
        for figure in {move.place.figure for move in found.cells}:
            place = Place(figure, (), ())
            if any(step.places.at(place) is None for step in found.steps):
                continue
            for cause, part in zip(causes(self.desk, found), parts(self.desk, found, place), strict=True):
                assert dict(cause.totals)[figure] == part.by
                if not cause.records.more:
                    here = {(r.came, r.file, r.line) for r in cause.records.records}
                    assert {(r.came, r.file, r.line) for r in part.records.records} <= here

    @invariant()
    def the_chain_holds(self) -> None:
        assert not list(self.desk.editions.faults())


def amount(text: str) -> Decimal:
    """The contribution of a record as a number."""
    plain = text.replace(",", "").replace("(", "-").replace(")", "").replace("\u2212", "-")
    return Decimal(plain) if plain else Decimal(0)


def document_of(desk: Desk, id: int) -> dict[str, Any]:
    """A complete edition."""
    found: dict[str, Any] = json.loads(desk.editions.text(id))
    return found
