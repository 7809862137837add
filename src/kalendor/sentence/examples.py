"""Example sentences made of a source's own columns."""

from kalendor.sentence.names import Column, Names, key_of
from kalendor.sentence.naming import plural, said
from kalendor.sentence.spelling import plain_name, quoted

FEW_VALUES = 50


def examples(names: Names) -> list[str]:
    """Up to three sentences that the source's columns answer, simple ones first."""
    number, text, date = (_first(names, kind) for kind in ("number", "text", "date"))
    what = _called(number) if number else "records"
    found = [f"{what} by {_called(text)}" + (", months across" if date else "")] if text else []
    if date:
        found.append(f"{what} by month against last year, this year")
    if text:
        found.append(
            f"top 5 {plural(_called(text))} by {what}" if number else f"records by {_called(text)}, biggest first"
        )
    return found


def _first(names: Names, kind: str) -> Column | None:
    """The first column of a kind that people sum or group by: not a document number, and for text one with few values."""
    of_kind = [column for column in names.columns.values() if column.kind == kind]
    plain = [column for column in of_kind if not {"no", "id", "number", "code"} & set(key_of(column.name).split(" "))]
    few = [column for column in plain if column.places or 1 < column.different <= FEW_VALUES]
    return next(iter(few or plain or of_kind), None)


def _called(column: Column) -> str:
    return said(column.name) if all(map(plain_name, said(column.name).split(" "))) else quoted(column.name)
