"""The recipe document: how a source's files are read."""

from typing import Annotated, Literal

from pydantic import Field

from kalendor.definitions.document import ColumnName, Document, Part

ColumnType = Literal["text", "whole", "decimal", "approximate", "date", "datetime", "time", "yes_no"]


Join = Literal["add", "replace_months", "replace_dates", "replace_all", "update"]


class UnitIn(Part):
    """The column that holds the unit of each amount, such as its currency."""

    column: ColumnName


class ColumnReading(Part):
    """How one column is read; omitted settings are detected from the file.

    `percent`: its numbers are written as 11%, and mean a hundredth of that. `zone` is the time zone, such as
    Europe/Oslo, that times with an offset are converted to; by default the local time written is kept. `headings` are
    those that the column has in some files, beside its own name. An `optional` column is blank if a file lacks it.
    Amounts of several units, given by `unit` for a column of numbers, are never added into one number.
    """

    type: ColumnType | None = None
    format: str | None = None
    places: Annotated[int, Field(ge=0, le=9)] | None = None
    decimal_mark: Literal[".", ","] | None = None
    percent: bool = False
    zone: Annotated[str, Field(max_length=64)] | None = None
    fold_case: bool = False
    skip: bool = False
    headings: list[str] = Field(default_factory=list)
    optional: bool = False
    unit: UnitIn | None = None


class Recipe(Document):
    """How a file is split into columns and how these are read.

    `join` says how a file joins the existing records, `join_by` by which columns. A file that would remove more than
    the share `held_over` of a month's records without replacing them is held for a person.

    `foot_lines` is the number of lines left out at the foot; by default those that prove to be totals are left out.
    """

    kind: Literal["recipe"] = "recipe"
    delimiter: Annotated[str, Field(min_length=1, max_length=1)] | None = None
    encoding: str | None = None
    heading_line: Annotated[int, Field(ge=1)] | None = None
    sheet: str | None = None
    area: str | None = None
    foot_lines: Annotated[int, Field(ge=0)] | None = None
    columns: dict[str, ColumnReading] = Field(default_factory=dict)
    join: Join = "add"
    join_by: list[str] = Field(default_factory=list)
    held_over: Annotated[float, Field(ge=0, le=1)] = 0.2
