"""Adding a new kind of figure: its definition and its kind in one module, and one line in a table."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from kalendor.core.figures.family import FAMILY
from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing
from kalendor.core.figures.operand import Operand
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.placing.views import View
from kalendor.core.report import work_out
from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import Column
from kalendor.definitions.document import Name
from kalendor.definitions.figure import KINDS, FigureBase
from kalendor.errors import DefinitionError
from kalendor.output.dependence import resting_on_others
from kalendor.output.handover import handed
from kalendor.output.told import told
from kalendor.output.writers import FORMS, write
from kalendor.sentence.dictionary import dictionary
from kalendor.sentence.grammar import grammar
from kalendor.sentence.reading import read
from kalendor.sentence.writing import brief, say
from tests.core.build import SUM, TODAY, records, report, traced


class Excess(FigureBase):
    """The distance of a figure above a floor."""

    excess: Name
    above: int


class ExcessKind(FigureKind[Excess]):
    model, name = Excess, "excess"
    phrases = ('<f:REF> above <n:INT> => {"excess": f, "above": n}',)

    def needs(self, figure: Excess) -> tuple[str, ...]:
        return (figure.excess,)

    def cells(self, figure: Excess, reckoning: Reckoning, view: View) -> Reckoned:
        cells = reckoning.numbers(figure.excess, view)
        return Reckoned(replace(cells, values=np.maximum(cells.values - figure.above * 10**cells.places, 0)))

    def operand(self, figure: Excess, tracing: Tracing, own: Operand, view: View) -> Operand:
        return replace(own, of=(tracing.of(figure.excess, view, own.line, own.column).named("value"),))

    def told(self, figure: Excess, made: Made) -> list[str]:
        return [f"{figure.excess} is {made.parts['value']}, of which what is above {figure.above}."]


@pytest.fixture(autouse=True)
def joined() -> Iterator[None]:
    FAMILY["excess"], KINDS["excess"] = ExcessKind(), Excess
    grammar.cache_clear()
    yield
    del FAMILY["excess"], KINDS["excess"]
    grammar.cache_clear()


FIGURES: list[dict[str, Any]] = [SUM, {"name": "e", "excess": "s", "above": 5}, {"name": "f", "formula": "e * 2"}]
MATERIAL = Material(records(a=["x", "x", "y"], v=["3.50", "4.00", "1.25"]), groupings([]))


def test_a_new_kind_of_figure_is_worked_out_traced_worded_and_written() -> None:
    document = report(down=[{"category": "a"}], figures=FIGURES)
    made = work_out(document, MATERIAL, TODAY)
    cells: Column = made.figures[1].cells
    assert [str(cells.item(i)) for i in range(3)] == ["3.75", "2.50", "0.00"]
    assert [str(made.figures[2].cells.item(i)) for i in range(3)] == ["7.50", "5.00", "0.00"]

    trail = traced(document, MATERIAL, made, Cell("e", 1, 0))
    ((name, part),) = trail.operand.parts()
    assert (name, part.rows.tolist() if part.rows is not None else None) == ("value", [0, 1])
    assert part.condition == "\"a\" = 'x'"
    assert told(trail)[:2] == ["e, x, all columns: 2.50.", "s is 7.50, of which what is above 5."]

    names = dictionary(MATERIAL.records, MATERIAL.groupings)
    assert brief(document, names) == 'S with s above 5 and f, down by "a".'
    assert read(say(document, names), names, TODAY).report == document.model_copy(update={"title": "Report"})
    assert resting_on_others(document) == []
    given = handed(document, made, lambda cell: traced(document, MATERIAL, made, cell))
    for form in FORMS:
        assert write(given, form, None)
    assert "x,a,7.50,2.50,5.00" in write(given, "csv", None).decode("utf-8-sig")


def test_its_definition_is_read_and_written_like_any_other() -> None:
    document = report(figures=FIGURES)
    assert type(document).model_validate(document.model_dump(by_alias=True)) == document
    assert '"excess":"s"' in document.model_dump_json(exclude_defaults=True)
    with pytest.raises(DefinitionError, match=r"figures\[1\].above"):
        report(figures=[SUM, {"name": "e", "excess": "s"}])
    with pytest.raises(DefinitionError, match='"compare", "excess"'):
        report(figures=[{"name": "e"}])


def test_a_report_refuses_it_once_it_has_left() -> None:
    del FAMILY["excess"], KINDS["excess"]
    try:
        with pytest.raises(DefinitionError, match="needs one of the keys"):
            report(figures=[SUM, FIGURES[1]])
    finally:
        FAMILY["excess"], KINDS["excess"] = ExcessKind(), Excess
