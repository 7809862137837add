"""A reading as files in a folder, to be handed from the process that read it to another."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from kalendor.definitions.recipe import Recipe
from kalendor.intake.column_files import mapped_array, read_columns, save, write_columns
from kalendor.intake.findings import Rival
from kalendor.intake.raw import Refused
from kalendor.intake.text import Layout
from kalendor.intake.totals import FootTotal
from kalendor.intake.typed import Misfit, Reading

TOLD, LINES = "reading.json", "lines.npy"


def hand_over(folder: Path, reading: Reading) -> None:
    """Write a reading into a folder.

    Raises OSError if the disk refuses.
    """
    save(folder / LINES, np.asarray(reading.lines))
    told = {
        "records": write_columns(folder, reading.records),
        "name": reading.name,
        "refused": [asdict(line) for line in reading.refused],
        "recipe": reading.recipe.model_dump(mode="json", by_alias=True, exclude_defaults=True),
        "rivals": {name: asdict(rival) for name, rival in reading.rivals.items()},
        "headings": reading.headings,
        "foot": [asdict(line) for line in reading.foot],
        "sheets": reading.sheets,
        "layout": asdict(reading.layout) if reading.layout else None,
        "foot_left_out": reading.foot_left_out,
        "notes": reading.notes,
        "empty": reading.empty,
        "headed": reading.headed,
        "misfits": [asdict(one) for one in reading.misfits],
        "open_marks": reading.open_marks,
    }
    (folder / TOLD).write_text(json.dumps(told, ensure_ascii=False), "utf-8", "replace")


def take_over(folder: Path) -> Reading:
    """The reading that another process wrote; its arrays are memory-mapped, and survive the removal of the folder.

    Raises OSError, ValueError, KeyError or TypeError if it is incomplete.
    """
    told: dict[str, Any] = json.loads((folder / TOLD).read_text("utf-8"))
    return Reading(
        told["name"],
        read_columns(folder, told["records"]),
        mapped_array(folder / LINES),
        tuple(Refused(**{**line, "cells": tuple(line["cells"])}) for line in told["refused"]),
        Recipe.model_validate(told["recipe"]),
        {name: Rival(r["format"], tuple(tuple(e) for e in r["examples"])) for name, r in told["rivals"].items()},
        tuple(told["headings"]),
        tuple(FootTotal(f["line"], f["text"], tuple(tuple(a) for a in f["amounts"]), f["said"]) for f in told["foot"]),
        tuple(told["sheets"]),
        Layout(**{**told["layout"], "headings": tuple(told["layout"]["headings"])}) if told["layout"] else None,
        told["foot_left_out"],
        tuple(told["notes"]),
        empty=told["empty"],
        headed=told["headed"],
        misfits=tuple(Misfit(**one) for one in told["misfits"]),
        open_marks=told["open_marks"],
    )
