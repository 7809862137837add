"""Twenty months of files imported into a source, compared with an independent count from the files alone."""

from collections import Counter
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import astuple, dataclass, field
from datetime import date
from random import Random
from typing import Any

from kalendor.desk.adjusting import adjust, reverse
from kalendor.desk.bringing_in import Change, keep, leave, look_at, read_again, set_joining
from kalendor.desk.desk import Desk
from kalendor.desk.outcomes import outcome
from kalendor.errors import ChangedError, ConflictError, DefinitionError, HeldError, IntakeError
from kalendor.store.intakes import Intake
from kalendor.store.sources import Source
from tests.year.exports import COLUMNS, Export, Sale, Tickets, drifted, sales_of

FIRST, MONTHS = date(2025, 1, 1), 20
ABOUT = 0.2
Line = tuple[Any, ...]


def lines_of(sales: Sequence[Sale], export: Export) -> list[Line]:
    """The values that an export contains: one tuple for each record, None for missing columns."""
    return [
        tuple(v if c in export.columns else None for c, v in zip(COLUMNS, astuple(sale), strict=True)) for sale in sales
    ]


def months_about(lines: Sequence[Line]) -> set[tuple[int, int]]:
    """The months of a file: those with at least a fifth of the records of its fullest month."""
    counts = Counter((line[1].year, line[1].month) for line in lines)
    return {month for month, count in counts.items() if count >= ABOUT * max(counts.values())}


@dataclass
class Year:
    """A source fed month by month. `told` counts the outcomes of plain and of changed files; `stands` is the expected
    state."""

    desk: Desk
    rng: Random
    export: Export = field(default_factory=Export)
    tickets: Tickets = field(default_factory=Tickets)
    told: Counter[str] = field(default_factory=Counter)
    stands: list[Line] = field(default_factory=list)
    past: list[Export] = field(default_factory=list)
    before: list[Line] = field(default_factory=list)
    hand: dict[int, list[Line]] = field(default_factory=dict)
    files: int = 0
    last: int = 0

    @property
    def source(self) -> Source:
        """The current source."""
        found = self.desk.sources.named("Sales")
        assert found is not None
        return found

    @property
    def latest(self) -> Intake:
        """The last imported file."""
        return next(one for one in self.desk.intakes.of(self.source) if one.origin != "hand")

    def play(self, months: int = MONTHS) -> None:
        """Import the months one after another, comparing the state after each file."""
        before: list[Sale] = []
        for n in range(months):
            month = date(FIRST.year + n // 12, n % 12 + 1, 1)
            sales = sales_of(self.rng, month, self.rng.randrange(40, 160), self.tickets)
            late = [sale for sale in before if self.rng.random() < 0.02]
            before = [sale for sale in before if sale not in late]
            missed, sales = (sales[-2:], sales[:-2]) if n % 2 else ([], sales)
            before += missed
            kind = ""
            if n > 1 and self.rng.random() < 0.35:
                kind, export = drifted(self.rng, self.export, self.past)
                self.past, self.export = [*self.past, self.export], export
            self.month(n, sales, late, kind)

    def month(self, n: int, sales: list[Sale], late: list[Sale], kind: str) -> None:
        """One month's files: possibly half of it first, the same again, the other half later, or corrections."""
        whole = [*late, *sales]
        chance = self.rng.random()
        if n and chance < 0.12:
            self.deliver(sales[: len(sales) // 2], kind)
        self.deliver(whole, "" if n and chance < 0.12 else kind)
        if n == 0:
            set_joining(self.desk, self.source, "replace_months", ["sold on"], 0.2)
        if chance > 0.9:
            assert self.deliver(whole, "again") == "refused"
        elif chance > 0.8 and n:
            assert self.deliver(sales[: len(sales) // 2], "half") == "held"
        elif chance > 0.7 and n:
            self.corrected(sales)
        elif chance > 0.6:
            self.undone(whole, kind)
        self.by_hand(Random(f"{n} {chance}"), sales)

    def corrected(self, sales: list[Sale]) -> None:
        """A few records delivered again with other amounts, joined by ticket number."""
        some = self.rng.sample(sales, 5)
        again = [Sale(*astuple(one)[:4], one.gross + 1, None, one.passengers) for one in some]
        self.deliver(again, "corrections", Change(join="update", join_by=["ticket"]))

    def undone(self, whole: list[Sale], kind: str) -> None:
        """Undo the last file and import it again: decisions about it are undone as well."""
        after, last = self.stands, self.latest
        if last.id != self.last:
            return  # it was held
        self.undo(last.id)
        self.stands = self.before
        self.compare()
        with suppress(IntakeError):
            self.deliver(whole, kind or "again")
        self.undo(self.latest.id)
        self.redo(last.id)
        self.stands = after
        self.compare()

    def by_hand(self, rng: Random, sales: list[Sale]) -> None:
        """Make adjustments in some months, undo or reverse them in others; no file replaces them."""
        standing = [one for one in self.hand if self.hand[one]]
        if rng.random() < 0.4:
            some = [Sale("", s.sold_on, s.fare, s.pier, -s.gross, None, s.passengers) for s in rng.sample(sales, 3)]
            asked = dict(zip(COLUMNS, zip(*map(astuple, some), strict=True), strict=True))
            texts = [{c: str(asked[c][i]) for c in COLUMNS if asked[c][i] not in ("", None)} for i in range(3)]
            intake = self.adjust(texts, f"month {rng.random()}")
            self.hand[intake] = [(None, *astuple(one)[1:]) for one in some]
        elif standing and rng.random() < 0.5:
            first = rng.choice(standing)
            with suppress(DefinitionError, ConflictError):
                self.hand[self.reverse(first)] = [_reversed(line) for line in self.hand[first]]
        elif standing:
            last = standing[-1]
            self.undo(last)
            self.hand[last] = []
        self.compare()

    def adjust(self, lines: list[dict[str, str]], reason: str) -> int:
        """Enter lines by hand; returns the intake's id."""
        return adjust(self.desk, self.source, lines, reason).id

    def reverse(self, intake: int) -> int:
        """Reverse an adjustment in the next month; returns the intake's id."""
        return reverse(self.desk, self.desk.intakes.one(intake)).id

    def undo(self, intake: int) -> None:
        """Undo a file."""
        self.desk.intakes.undo(intake, self.desk.now())

    def redo(self, intake: int) -> None:
        """Redo a file that was undone."""
        self.desk.intakes.redo(intake)

    def deliver(self, sales: Sequence[Sale], kind: str, change: Change | None = None) -> str:
        """Import a file as a user who reviews the questions; `kind` is the change of its format."""
        self.files += 1
        data, name = self.export.written(sales), f"file-{self.files}.csv"
        how = self.brought(name, data, change)
        lines = lines_of(sales, self.export)
        if how in ("in", "asked"):
            self.before, self.last = list(self.stands), self.latest.id
            if change is not None:
                tickets = {line[0] for line in lines}
                self.stands = [line for line in self.stands if line[0] not in tickets]
            elif self.files > 1:
                about = months_about(lines)
                self.stands = [line for line in self.stands if (line[1].year, line[1].month) not in about]
            self.stands += lines
        self.told[f"{kind or 'plain'} {how}"] += 1
        self.compare()
        return how

    def brought(self, name: str, data: bytes, change: Change | None) -> str:
        """The outcome of a file: imported, imported after questions, held, or refused."""
        try:
            waiting = look_at(self.desk, name, data, "Sales")
        except IntakeError:
            return "refused"
        if change is not None:
            waiting = read_again(self.desk, waiting.token, change)
        try:
            keep(self.desk, waiting.token)
            return "in"
        except ChangedError as error:
            return self._asked(waiting.token, error.sure)
        except HeldError:
            leave(self.desk, waiting.token)
            return "held"
        except IntakeError:
            leave(self.desk, waiting.token)
            return "refused"

    def _asked(self, token: str, sure: bool) -> str:
        """One question: the proposal is accepted, or overruled if it is wrong."""
        waiting = self.desk.waiting[token]
        truth = {c: self.export.heading(c) if c in self.export.columns else "" for c in COLUMNS}
        wrong = {c: h or None for c, h in truth.items() if waiting.reading.headed.get(c) != h}
        if wrong:
            assert not sure, (wrong, waiting.changes)
            self.told["proposed otherwise"] += 1
            waiting = read_again(self.desk, token, Change(pairs=wrong))
        dated = waiting.reading.recipe.columns["sold on"]
        if dated.format != self.export.date_format:
            assert not sure, (dated, self.export.date_format)
            right = dated.model_copy(update={"format": self.export.date_format})
            waiting = read_again(self.desk, token, Change(columns={"sold on": right}))
        found = outcome(self.desk, waiting)
        if found.held or found.problem:
            leave(self.desk, token)
            return "held"
        keep(self.desk, token, seen=True)
        return "asked"

    def compare(self) -> None:
        """Assert that the source's records are the expected ones, each with all values from the files."""
        records = self.desk.sources.records(self.source)
        columns = [[records.columns[c].item(i) for i in range(records.count)] for c in COLUMNS]
        assert Counter(zip(*columns, strict=True)) == Counter(
            self.stands + [line for lines in self.hand.values() for line in lines]
        )


def _reversed(line: Line) -> Line:
    """The reversal of an adjustment: on the first day of the next month, with amounts negated."""
    ticket, day, fare, pier, gross, discount, passengers = line
    return ticket, date(day.year + day.month // 12, day.month % 12 + 1, 1), fare, pier, -gross, discount, -passengers
