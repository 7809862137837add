"""Cells of an Office Open XML workbook that contain an error, such as #DIV/0!, which a reader of values skips."""

import io
import re
import zipfile
from xml.etree import ElementTree

MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
LINK = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"
_REFERENCE = re.compile(r"([A-Z]+)([0-9]+)")


def error_cells(data: bytes, sheet: str) -> dict[tuple[int, int], str]:
    """The error text by row and column, both from 1; empty for other kinds of workbook."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            body = archive.read(_part(archive, sheet))
    except (KeyError, zipfile.BadZipFile, ElementTree.ParseError):
        return {}
    if b't="e"' not in body:
        return {}
    found = {}
    for _, element in ElementTree.iterparse(io.BytesIO(body)):
        if element.tag == f"{MAIN}c" and element.get("t") == "e":
            place = _REFERENCE.fullmatch(element.get("r", ""))
            if place:
                found[(int(place.group(2)), column_number(place.group(1)))] = element.findtext(f"{MAIN}v") or "#ERROR!"
        if element.tag == f"{MAIN}row":
            element.clear()
    return found


def _part(archive: zipfile.ZipFile, sheet: str) -> str:
    """The path of a sheet's part."""
    book = ElementTree.fromstring(archive.read("xl/workbook.xml"))
    link = next(s.get(LINK) for s in book.iter(f"{MAIN}sheet") if s.get("name") == sheet)
    links = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    target = next(r.get("Target", "") for r in links if r.get("Id") == link)
    return target.lstrip("/") if target.startswith("/") else f"xl/{target}"


def column_number(letters: str) -> int:
    """A column's number from 1.

    >>> column_number("AB")
    28
    """
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - 64
    return number
