"""A sheet as plain values, for JSON, and back: the form in which issued sheets are stored.

Whole numbers, texts and truths are themselves; a blank cell is null; an approximate number has the digits that
reproduce it. Written, read and written again, a sheet gives the same text.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from kalendor.core.groupings.levels import OTHER
from kalendor.core.placing.screening import Step
from kalendor.core.sheet.arrange import Rows
from kalendor.core.sheet.footnotes import Footnote
from kalendor.core.sheet.listing import Listing
from kalendor.core.sheet.sheet import NOT_SAID, LevelHead, Sheet, ShownFigure, Side
from kalendor.core.sheet.tieout import Control, Footing, TieOut
from kalendor.core.values.columns import Array, Column, Kind
from kalendor.definitions.figure import Format
from kalendor.definitions.report import Layout

Plain = dict[str, Any]
TYPES = {Kind.TEXT: np.int32, Kind.DATE: np.int32, Kind.APPROXIMATE: np.float64, Kind.YES_NO: np.bool_}
FITS = 2**63
PART = " (part)"
_COUNTED = re.compile(r" \(([0-9]+)\)$")


def plain(sheet: Sheet) -> Plain:
    """All of a sheet as dicts, lists, texts, numbers, truths and None."""
    return {
        "title": sheet.title,
        "as_of": sheet.as_of,
        "lines": _side(sheet.lines),
        "columns": _side(sheet.columns),
        "held": np.flatnonzero(sheet.held.reshape(-1)).tolist(),
        "figures": [_figure(figure) for figure in sheet.figures],
        "tie_out": {
            name: part for name, part in asdict(sheet.tie_out).items() if name not in ("empty", "by_hand") or part
        },
        "notes": list(sheet.notes),
        "place_starts": [[down, level, starts.tolist()] for (down, level), starts in sheet.place_starts.items()],
        "layout": sheet.layout.model_dump(mode="json", exclude_defaults=True),
        "listing": None if sheet.listing is None else _listing(sheet.listing),
        "footnotes": [asdict(note) for note in sheet.footnotes],
        **({"current": sheet.current} if sheet.current != NOT_SAID else {}),
        **({"labelled": [_labelled(s) for s in (sheet.lines, sheet.columns)]} if _has_words(sheet) else {}),
    }


def from_plain(told: Mapping[str, Any]) -> Sheet:
    """Inverse of `plain`.

    Raises KeyError, TypeError or ValueError for anything else.
    """
    words = told.get("labelled", (None, None))
    lines, columns = _side_of(told["lines"], words[0]), _side_of(told["columns"], words[1])
    held = np.zeros(lines.count * columns.count, dtype=bool)
    held[told["held"]] = True
    shape = (lines.count, columns.count)
    return Sheet(
        told["title"],
        told["as_of"],
        lines,
        columns,
        held.reshape(shape),
        tuple(_figure_of(one, shape[0] * shape[1]) for one in told["figures"]),
        _tie_out_of(told["tie_out"]),
        tuple(told["notes"]),
        {(down, level): np.array(starts, np.int64).reshape(shape) for down, level, starts in told["place_starts"]},
        Layout.model_validate(told["layout"]),
        None if told["listing"] is None else _listing_of(told["listing"]),
        tuple(Footnote(**note) for note in told["footnotes"]),
        current=told.get("current", NOT_SAID),
    )


def said(sheet: Sheet) -> Plain:
    """A sheet's content for readers: its labels and numbers in order, without the tie-out and the surrounding words.
    Two sheets with equal content do not differ."""
    whole = plain(sheet)
    return {key: whole[key] for key in ("as_of", "lines", "columns", "figures", "listing")}


def _side(side: Side) -> Plain:
    return {
        "levels": [_level(level) for level in side.levels],
        "depth": side.depth.tolist(),
        "parent": side.parent.tolist(),
        "labels": side.labels.tolist(),
        "special": side.special.tolist(),
        "notes": [[at, words] for at, words in side.notes.items()],
        "values": side.values.tolist(),
        "starts": side.starts.tolist(),
        "shown": [side.shown.lines.tolist(), list(side.shown.roles)],
        "total": side.total,
    }


def _level(head: LevelHead) -> Plain:
    return {name: part for name, part in asdict(head).items() if name != "of_all" or part}


def _has_words(sheet: Sheet) -> bool:
    return any(side.rest or side.parts for side in (sheet.lines, sheet.columns))


def _labelled(side: Side) -> Plain:
    """What the labels of a side say beside the names: the number of members of a rest, and which weeks are parts."""
    return {"rest": [[at, count] for at, count in side.rest.items()], "parts": sorted(side.parts)}


def _words_of_old(told: Mapping[str, Any]) -> Plain:
    """The same for a sheet stored before these were fields; derived from the special lines and the periods."""
    found = {at: _COUNTED.search(label) for at, label in enumerate(told["labels"]) if told["special"][at] == OTHER}
    kinds = ["", *(level["kind"] for level in told["levels"])]
    periods = [at for at, depth in enumerate(told["depth"]) if kinds[depth] == "period"]
    return {
        "rest": [[at, int(counted[1])] for at, counted in found.items() if counted],
        "parts": [at for at in periods if told["labels"][at].endswith(PART)],
    }


def _side_of(told: Mapping[str, Any], words: Mapping[str, Any] | None) -> Side:
    said = words or _words_of_old(told)
    rest, parts = dict(said["rest"]), frozenset(said["parts"])
    names = _objects(told["labels"])
    for at, count in rest.items():
        names[at] = str(names[at]).removesuffix(f" ({count})")
    for at in parts:
        names[at] = str(names[at]).removesuffix(PART)
    return Side(
        tuple(LevelHead(**level) for level in told["levels"]),
        np.array(told["depth"], np.int32),
        np.array(told["parent"], np.int64),
        names,
        np.array(told["special"], np.int8),
        dict(told["notes"]),
        _objects(told["values"]),
        np.array(told["starts"], np.int64),
        Rows(np.array(told["shown"][0], np.int64), tuple(told["shown"][1])),
        told["total"],
        rest,
        parts,
    )


def _objects(values: Sequence[Any]) -> Array:
    found = np.empty(len(values), dtype=object)
    found[:] = values
    return found


def _figure(figure: ShownFigure) -> Plain:
    return {
        "name": figure.name,
        "cells": _column(figure.cells),
        "format": figure.format.model_dump(mode="json", exclude_defaults=True),
        "marks": None if figure.marks is None else figure.marks.tolist(),
        "zero_is_none": figure.zero_is_none,
        "percent": figure.percent,
        "signed": figure.signed,
        "approximate": figure.approximate,
        "cut": None if figure.cut is None else np.flatnonzero(figure.cut).tolist(),
        **({} if figure.units is None else {"units": figure.units.tolist()}),
        **({} if figure.rounded is None else {"rounded": _column(figure.rounded)}),
    }


def _figure_of(told: Mapping[str, Any], cells: int) -> ShownFigure:
    cut = None
    if told["cut"] is not None:
        cut = np.zeros(cells, dtype=bool)
        cut[told["cut"]] = True
    return ShownFigure(
        told["name"],
        _column_of(told["cells"]),
        Format.model_validate(told["format"]),
        None if told["marks"] is None else np.array(told["marks"], np.int8),
        bool(told["zero_is_none"]),
        bool(told["percent"]),
        bool(told["signed"]),
        bool(told["approximate"]),
        cut,
        np.array(told["units"], np.int64) if "units" in told else None,
        _column_of(told["rounded"]) if "rounded" in told else None,
    )


def _column(column: Column) -> Plain:
    values = [column.words[code] for code in column.values.tolist()] if column.kind is Kind.TEXT else None
    values = column.values.tolist() if values is None else values
    if column.blank is not None:
        values = [None if blank else value for value, blank in zip(values, column.blank.tolist(), strict=True)]
    told = {"kind": column.kind.value, "places": column.places, "percent": column.percent, "values": values}
    if column.unrounded is not None:
        told["unrounded"] = [[i, float(column.unrounded[i])] for i in np.flatnonzero(column.rounded).tolist()]
    return told


def _column_of(told: Mapping[str, Any]) -> Column:
    kind, values = Kind(told["kind"]), told["values"]
    blank = np.array([value is None for value in values], dtype=bool)
    words: tuple[str, ...] = ()
    if kind is Kind.TEXT:
        known = list(dict.fromkeys(["", *(value for value in values if value is not None)]))
        known_at = {word: i for i, word in enumerate(known)}
        words, values = tuple(known), [0 if value is None else known_at[value] for value in values]
    filled = [0 if value is None else value for value in values]
    wide = kind in (Kind.WHOLE, Kind.DECIMAL) and any(not -FITS <= value < FITS for value in filled)
    array = _objects(filled) if wide else np.array(filled, dtype=TYPES.get(kind, np.int64))
    unrounded = np.full(len(array), np.nan)
    for at, value in told.get("unrounded", ()):
        unrounded[at] = value
    return Column(kind, array, blank, told["places"], words, told["percent"], unrounded)


def _listing(listing: Listing) -> Plain:
    columns = [[name, _column(column)] for name, column in listing.columns.items()]
    return {"columns": columns, "starts": listing.starts.tolist()}


def _listing_of(told: Mapping[str, Any]) -> Listing:
    columns = {name: _column_of(column) for name, column in told["columns"]}
    return Listing(columns, np.array(told["starts"], np.int64))


def _tie_out_of(told: Mapping[str, Any]) -> TieOut:
    return TieOut(
        **{
            **told,
            "steps": tuple(Step(**step) for step in told["steps"]),
            "footings": tuple(Footing(**footing) for footing in told["footings"]),
            "controls": tuple(Control(**control) for control in told["controls"]),
            "notes": tuple(told["notes"]),
        }
    )
