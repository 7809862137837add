"""Control totals read from a file, one line each: a figure's name and its expected total."""

from kalendor.core.formulas.texts import written
from kalendor.core.values.columns import EXACT
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.report import Control
from kalendor.desk.small_files import ReadBytes
from kalendor.errors import IntakeError
from kalendor.intake.reading import read_bytes
from kalendor.intake.together import heading_key

FIGURE = ("figure", "name", "total", "of")
EXPECTED = ("expect", "expected", "expectedtotal", "amount", "value", "sum")


def controls_from_file(file_name: str, data: bytes, read: ReadBytes = read_bytes) -> list[Control]:
    """The control totals of a file with a column `figure` and a column `expected`.

    Raises IntakeError if one of the columns is missing, or a line has no number.
    """
    headings = read(data, file_name, Recipe()).headings
    names = [next((h for h in headings if heading_key(h) in keys), None) for keys in (FIGURE, EXPECTED)]
    for wanted, name in zip(("figure", "expected"), names, strict=True):
        if name is None:
            raise IntakeError(f"{file_name}: there is no column {wanted!r}; it has {', '.join(headings)}")
    figure, expected = (str(name) for name in names)
    reading = read(data, file_name, Recipe(columns={figure: ColumnReading(type="text")}))
    amounts, figures = reading.records.columns[expected], reading.records.columns[figure]
    if reading.refused:
        raise IntakeError(f"{file_name}: line {reading.refused[0].line}: {reading.refused[0].reason}")
    if amounts.kind not in EXACT:
        raise IntakeError(f"{file_name}: the column {expected!r} holds no numbers that can be read")
    found = []
    for i in range(reading.records.count):
        name, amount = figures.item(i), amounts.item(i)
        if name is None or amount is None:
            raise IntakeError(f"{file_name}: line {int(reading.lines[i])}: a total needs a figure and an amount")
        found.append(Control(figure=name, expect=written(amount)))
    return found
