"""The flat shape as an Apache Parquet file: exact figures as decimals, periods' starts as dates, blank as null."""

import io
from decimal import Context, Decimal

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from kalendor.core.values.columns import Column, Kind
from kalendor.output.arrays import as_decimals
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.output.numbers import texts

DIGITS, QUOTIENT_PLACES = 38, 12


def flat_parquet(given: Handover) -> bytes:
    """One row for every crossing; levels below a row's own are null."""
    table = flat(given.sheet)
    arrays = [
        _figure(figure) if figure is not None else _starts(own or []) if heading in table.starts else _texts(own or [])
        for heading, own, figure in zip(table.headings, table.labels, table.figures, strict=True)
    ]
    file = io.BytesIO()
    pq.write_table(pa.Table.from_arrays(arrays, names=table.headings), file)
    return file.getvalue()


def _texts(cells: list[str]) -> pa.Array:
    return pa.array([cell or None for cell in cells], pa.string())


def _starts(cells: list[str]) -> pa.Array:
    """Dates, or date-times if the periods are hours or minutes."""
    kind = pa.timestamp("us") if any("T" in cell or " " in cell for cell in cells) else pa.date32()
    return _texts(cells).cast(kind)


def _figure(column: Column) -> pa.Array:
    blank = column.blanks
    if column.unrounded is not None:  # a decimal for amounts that float64 cannot hold, with as many places as fit
        step, context = Decimal(1).scaleb(-QUOTIENT_PLACES), Context(prec=DIGITS)
        values = [column.item(i) for i in range(len(column))]
        exactly = [None if v is None else Decimal(str(v)).quantize(step, context=context) for v in values]
        return pa.array(exactly, pa.decimal128(DIGITS, QUOTIENT_PLACES))
    match column.kind:
        case Kind.WHOLE if column.values.dtype != object:
            return pa.array(column.values, pa.int64(), mask=blank)
        case Kind.DECIMAL if column.values.dtype != object:
            return as_decimals(column)
        case Kind.WHOLE | Kind.DECIMAL:
            return _texts(texts(column)).cast(pa.decimal128(DIGITS, column.places))
        case Kind.APPROXIMATE:
            return pa.array(column.values, pa.float64(), mask=blank)
        case Kind.DATE:
            return pa.array(column.values.astype(np.int32), pa.date32(), mask=blank)
        case Kind.DATETIME:
            return pa.array(column.values, pa.timestamp("us"), mask=blank)
        case _:
            return _texts(texts(column))
