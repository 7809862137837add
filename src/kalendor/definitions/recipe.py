"""The recipe document: how a source's files are read."""

from typing import Annotated, Literal

from pydantic import Field

from kalendor.definitions.document import Document, Part

ColumnType = Literal["text", "whole", "decimal", "approximate", "date", "datetime", "time", "yes_no"]


class ColumnReading(Part):
    """How one column is read; what is left out is found out from the file."""

    type: ColumnType | None = None
    format: str | None = None
    places: Annotated[int, Field(ge=0, le=9)] | None = None
    decimal_mark: Literal[".", ","] | None = None
    fold_case: bool = False
    skip: bool = False


class Recipe(Document):
    """How a file is taken apart and its columns are read."""

    kind: Literal["recipe"] = "recipe"
    delimiter: Annotated[str, Field(min_length=1, max_length=1)] | None = None
    encoding: str | None = None
    heading_line: Annotated[int, Field(ge=1)] | None = None
    sheet: str | None = None
    area: str | None = None
    foot_lines: Annotated[int, Field(ge=0)] = 0
    columns: dict[str, ColumnReading] = Field(default_factory=dict)
    join: Literal["add", "replace_all", "replace_dates", "update"] = "add"
    join_by: list[str] = Field(default_factory=list)
