"""Builds the response model of a trail."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

import numpy as np

from kalendor.api.trail_models import (
    BarsView,
    BarView,
    DriversView,
    MoverView,
    PartView,
    RecordsView,
    RecordView,
    SideView,
    TrailView,
)
from kalendor.core.figures.bases import MARK_WORDS
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.operand import Operand
from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.trail.drivers import Drivers
from kalendor.core.trail.listing import listed
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import DATED, NUMERIC, WIDE, Kind, Mask
from kalendor.core.values.notation import grouped
from kalendor.desk.trails import Found
from kalendor.output.numbers import as_listed
from kalendor.output.shown import shown_cells, shown_number
from kalendor.output.told import number_of, sentences, why

FIRST = 6
MOVERS = 8


def trail_view(found: Found) -> TrailView:
    """The whole explanation of a number, with its first records."""
    trail = found.trail
    parts = trail.operand.parts()
    return TrailView(
        figure=trail.cell.figure,
        kind=trail.operand.kind,
        number=shown_cells(trail.shown, np.array([trail.place]))[0],
        mark=MARK_WORDS[trail.mark],
        why=why(trail),
        lines=list(trail.lines),
        columns=list(trail.columns),
        said=sentences(trail),
        sides=[SideView(name=o.name, figure=o.figure, number=number_of(trail, o)) for o in trail.operand.of],
        parts=[_part(found, name, part) for name, part in parts],
        bars=_bars(trail),
        first=_first(found, *_first_held(parts)) if parts else None,
        driven=bool(trail.operand.kind == "compare" and all(o.amounts is not None for o in trail.operand.of)),
    )  # fmt: skip


def _first(found: Found, name: str, part: Operand) -> RecordsView:
    """The first records of a part, in its most informative columns."""
    listed = found.listing(FIRST)
    view = _records(listed, name, _named(listed, name), _brief_columns(listed), 0, FIRST, None, False, "")
    return view.model_copy(update={"total": part.counted})


def _first_held(parts: list[tuple[str, Operand]]) -> tuple[str, Operand]:
    """The first part that has records, for a number whose base no longer exists; the first of all if none has."""
    return next((part for part in parts if part[1].rows is not None and len(part[1].rows)), parts[0])


def _part(found: Found, name: str, part: Operand) -> PartView:
    trail = found.trail
    figure = trail.definition(part)
    entered = None if part.rows is None else found.by_hand(part.rows)
    return PartView(
        name=name,
        figure=part.figure,
        words=kind_of(figure).taken(figure),
        number=number_of(trail, part),
        records=part.counted,
        condition=part.condition,
        by_hand=0 if entered is None else int(entered.sum()),
        by_hand_amount="" if entered is None or not entered.any() else _amount_of(trail, part, entered),
    )


def _amount_of(trail: Trail, part: Operand, which: Mask) -> str:
    """The contribution of some of a part's records, in the figure's format; empty for takes that do not add up."""
    if part.amounts is None:
        return ""
    given = part.amounts.take(np.flatnonzero(which))
    amounts = [Decimal(str(v)) for i in range(len(given)) if (v := given.item(i)) is not None]
    return shown_number(sum(amounts, Decimal(0)), trail.as_shown(part))


def _bars(trail: Trail) -> BarsView | None:
    found = trail.bars()
    if found is None:
        return None
    base: list[Any] = [None] * len(found.labels) if found.base is None else found.base.tolist()
    shown = zip(found.labels, found.value.tolist(), base, strict=True)
    made = [BarView(label=label, value=value, base=other) for label, value, other in shown]
    return BarsView(column=found.column, grain=found.grain, counted=found.counted, bars=made)


def _brief_columns(found: Found) -> list[str]:
    """The most informative columns of a record: its first date, and the text with the most distinct values."""
    columns = found.trail.records.columns
    own = [name for name in found.columns if name in columns]
    dates = [n for n in own if columns[n].kind in DATED][:1]
    texts = sorted((n for n in own if columns[n].kind is Kind.TEXT), key=lambda n: -len(columns[n].words))[:1]
    return [*dates, *texts] or own[:2]


def records_view(
    found: Found, part: str, start: int, count: int, sort: str | None, desc: bool, search: str
) -> RecordsView:
    """A range of a part's records, sorted, in the source's own columns and the made ones."""
    in_order = sort is None and not desc and not search
    counted = _named(found, part).counted
    found = found.listing(start + count if in_order else None)
    columns = list(found.trail.records.columns)
    view = _records(found, part, _named(found, part), columns, start, count, sort, desc, search)
    return view.model_copy(update={"total": counted}) if in_order else view


def _named(found: Found, part: str) -> Operand:
    parts = dict(found.trail.operand.parts())
    return parts[part] if part in parts else next(iter(parts.values()))


def _records(
    found: Found, name: str, part: Operand, columns: list[str], start: int, count: int, sort: str | None, desc: bool, search: str
) -> RecordsView:  # fmt: skip
    trail = found.trail
    assert part.rows is not None
    places = listed(part, trail.records, sort, desc, search)
    here = places[start : start + count]
    rows = part.rows[here]
    cells = [as_listed(trail.records.columns[c].take(rows)) for c in columns]
    figure = trail.as_shown(part)
    amounts = [""] * len(here)
    if part.amounts is not None:
        given = part.amounts.take(here)
        amounts = [
            "" if (v := given.item(i)) is None else shown_number(Decimal(str(v)), figure) for i in range(len(here))
        ]
    origins, entered = found.origins(rows.tolist()), found.by_hand(rows)
    return RecordsView(
        part=name,
        columns=columns,
        numeric=[trail.records.columns[c].kind in NUMERIC for c in columns],
        total=len(places),
        start=start,
        records=[
            RecordView(
                file=file, line=line, amount=amounts[i], cells=[column[i] for column in cells], by_hand=bool(entered[i])
            )
            for i, (file, line) in enumerate(origins)
        ],
    )


def drivers_view(trail: Trail) -> list[DriversView]:
    """A change broken down by each column that explains some of it, the one that explains most first."""
    return [_driver(trail, one) for one in trail.drivers()]


def _driver(trail: Trail, by: Drivers) -> DriversView:
    value, base = trail.operand.of
    told = _Told(by, trail.as_shown(value))
    shown = len(by.labels) if len(by.labels) <= MOVERS + 1 else MOVERS
    whole, at = sum(by.difference.tolist()), told.number(sum(by.base.tolist()))
    movers: list[MoverView] = []
    for i in range(shown):
        movers.append(told.mover(i, whole, at))
        at = movers[-1].to
    if shown < len(by.labels):
        movers.append(told.rest(shown, at))
    return DriversView(
        name=by.name, explained=by.explained, members=len(by.labels),
        base=number_of(trail, base), value=number_of(trail, value),
        base_number=told.number(sum(by.base.tolist())), value_number=told.number(sum(by.value.tolist())),
        difference=told.said(whole, signed=True), movers=movers, others=len(by.labels) - shown,
        sentence=_sentence(by, told.number(whole)),
    )  # fmt: skip


@dataclass(frozen=True)
class _Told:
    """The parts of a change as text, in the format of the figure that changed, and as numbers to draw."""

    by: Drivers
    figure: ShownFigure

    def said(self, units: Any, signed: bool = False) -> str:
        exact = self.by.exact
        number = Decimal(int(units)).scaleb(-self.by.places, WIDE) if exact else Decimal(repr(float(units)))
        text = shown_number(number, self.figure)
        return f"+{text}" if signed and number > 0 and not text.startswith("+") else text

    def number(self, units: Any) -> float:
        return float(units) / 10.0**self.by.places

    def mover(self, i: int, whole: Any, at: float) -> MoverView:
        by, part, all_ = self.by, self.number(self.by.difference[i]), self.number(whole)
        return MoverView(
            label=by.labels[i], value=self.said(by.value[i]), base=self.said(by.base[i]),
            difference=self.said(by.difference[i], signed=True), share=f"{100 * part / all_:.0f}%" if all_ else "",
            from_=at, to=at + part,
        )  # fmt: skip

    def rest(self, shown: int, at: float) -> MoverView:
        """All parts beyond the first few as one."""
        left = sum(self.by.difference[shown:].tolist())
        label, difference = f"{grouped(len(self.by.labels) - shown)} others", self.said(left, signed=True)
        return MoverView(
            label=label, value="", base="", difference=difference, share="", from_=at, to=at + self.number(left)
        )


def _sentence(by: Drivers, whole: float) -> str:
    """The largest parts, in words."""
    if not whole or not len(by.labels):
        return "The movements cancel out."
    first = float(by.difference[0]) / 10.0**by.places
    way = "rise" if whole > 0 else "fall"
    against = [by.labels[i] for i in range(min(3, len(by.labels))) if float(by.difference[i]) * whole < 0]
    if first * whole < 0:
        return f"{by.labels[0]} moved most, against the {way} of the whole."
    part = f"{by.labels[0]} brought {100 * first / whole:.0f}% of the {way}."
    return part + (f" {', '.join(against)} moved against it." if against else "")
