"""Joins the parts of a document to one PDF (pikepdf), in a process of its own: pages, bookmarks, the structure tree, a
pack's cover, and page numbers, which no part knows.

The parts are files 0.pdf, 1.pdf, … in a folder given as argument; the template's input for the cover and for the page
numbers is JSON on standard input; the result is written to standard output.
"""

import io
import json
import os
import re
import sys
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from itertools import groupby
from pathlib import Path
from typing import Any

from pikepdf import Array, Dictionary, Name, Object, Page, Pdf

from kalendor.output.pdf.setter import packed, set_pages

NUMBER = Name("/KalendorPageNumber")
DRAWN = b"/Artifact <</Type /Pagination /Subtype /Footer>> BDC q /KalendorPageNumber Do Q EMC"
REPORT = "kalendor:report-"  # the template's link targets, before the pages are known
SIDE, COVER_SIDE, COVER_SIZE = 42, 64, 8.0
"""Points: the margins at the sides of the template's pages, and the type of a cover's number."""
Told = dict[str, Any]


def joined(parts: list[Path], told: Told, use: Callable[[bytes], None]) -> None:
    """Pass the parts as one document to `use`, after a cover if `told` has one, each page with its number. The parts
    are closed after that."""
    with ExitStack() as stack:
        opened = [stack.enter_context(Pdf.open(path)) for path in parts]
        begin = list(_beginnings(opened, told["again"]))
        cover = _cover(told, begin)
        counts = [len(part.pages) for part in opened]
        whole = opened[0] if cover is None else stack.enter_context(cover)
        first = 0 if cover is None else len(whole.pages)
        after = 1 if cover is None else 0
        for part, again in zip(opened[after:], told["again"][after:], strict=True):
            _append(whole, part, again)  # a part's objects are read when the result is written
        if cover is not None:
            _link(whole, first, begin)
        sizes = [(COVER_SIDE, COVER_SIZE)] * first
        sizes += [(SIDE, size) for size, count in zip(told["sizes"], counts, strict=True) for _ in range(count)]
        _number_all(whole, sizes, told, stack)
        _finish(whole)
        use(packed(whole))


def _beginnings(parts: list[Pdf], again: list[int | None]) -> Iterator[int]:
    """The page on which each report begins, counted from 0 over all parts: a part that begins with a report has its
    title, and those of all after it, as its outermost bookmarks."""
    before = 0
    for part, continued in zip(parts, again, strict=True):
        if continued is None:
            at = {page.obj.objgen: n for n, page in enumerate(part.pages)}
            yield from (before + at[item.Dest[0].objgen] for item in _items(part.Root.Outlines))
        before += len(part.pages)


def _items(outline: Object) -> Iterator[Object]:
    item = outline.get("/First")
    while item is not None:
        yield item
        item = item.get("/Next")


def _cover(told: Told, begin: list[int]) -> Pdf | None:
    """A pack's cover and changes, with the pages of the reports after them; None without a cover."""
    if told["cover"] is None:
        return None
    found = Pdf.open(io.BytesIO(_set_cover(told, begin, 1)))
    if len(found.pages) > 1:  # typeset again once its own number of pages is known
        found = Pdf.open(io.BytesIO(_set_cover(told, begin, len(found.pages))))
    return found


def _set_cover(told: Told, begin: list[int], own: int) -> bytes:
    contents = [{**entry, "page": page + own + 1} for entry, page in zip(told["cover"]["contents"], begin, strict=True)]
    return set_pages(json.dumps({**told, "only": "cover", "cover": {**told["cover"], "contents": contents}}))


def _link(whole: Pdf, cover: int, begin: list[int]) -> None:
    """Point the links of the contents to the pages of the reports."""
    for page in whole.pages[:cover]:
        for link in page.get("/Annots", []):
            address = str(link.get("/A", Dictionary()).get("/URI", ""))
            if address.startswith(REPORT):
                there = whole.pages[cover + begin[int(address.removeprefix(REPORT))]]
                del link.A
                link.Dest = Array([there.obj, Name.Fit])


def _finish(whole: Pdf) -> None:
    """Complete the document's metadata: its number of pages, and the structure elements' names in order."""
    told = whole.Root.Metadata.read_bytes()
    whole.Root.Metadata.write(re.sub(rb"(<xmpTPg:NPages>)\d+", rb"\g<1>%d" % len(whole.pages), told))
    tree = whole.Root.StructTreeRoot
    if "/IDTree" in tree:
        names = tree.IDTree.Names
        pairs = sorted(zip(names[::2], names[1::2], strict=True), key=lambda pair: bytes(pair[0]))
        tree.IDTree = Dictionary(Names=Array([one for pair in pairs for one in pair]))


def _append(whole: Pdf, other: Pdf, again: int | None) -> None:
    """Append the pages of another document, with their structure elements and bookmarks."""
    tree = whole.Root.StructTreeRoot
    first = int(tree.ParentTreeNextKey)
    at = len(whole.pages)
    whole.pages.extend(other.pages)
    for page in whole.pages[at:]:
        if "/StructParents" in page:
            page.StructParents = int(page.StructParents) + first
    added = whole.copy_foreign(other.Root.StructTreeRoot)
    document = tree.K[0]
    for element in added.K[0].K:
        element.P = document
        document.K.append(element)
    keys = added.ParentTree.Nums
    for n in range(0, len(keys), 2):
        tree.ParentTree.Nums.append(int(keys[n]) + first)
        tree.ParentTree.Nums.append(keys[n + 1])
    tree.ParentTreeNextKey = first + int(added.ParentTreeNextKey)
    if "/IDTree" in added:
        if "/IDTree" not in tree:
            tree.IDTree = Dictionary(Names=Array())
        for one in added.IDTree.Names:
            tree.IDTree.Names.append(one)
    if "/Outlines" in other.Root and "/First" in other.Root.Outlines:
        if "/Outlines" not in whole.Root:
            whole.Root.Outlines = whole.make_indirect(Dictionary(Type=Name.Outlines))
        outline = whole.Root.Outlines
        there = outline if again is None else outline.Last
        _bookmarks(there, whole.copy_foreign(other.Root.Outlines), again or 0, 1 if again is None else -1)


def _bookmarks(there: Object, added: Object, again: int, opened: int) -> None:
    """Append the bookmarks of a further part. Its first ones repeat the last existing ones, `again` levels deep: what
    is under them is moved under these. `opened` is 1 for the outermost, and -1 for those that are closed."""
    item: Object | None = added.First
    if again and "/Last" in there:
        if "/First" in added.First:
            _bookmarks(there.Last, added.First, again - 1, -1)
        item = added.First.get("/Next")
    while item is not None:
        after = item.get("/Next")
        if "/Last" in there:
            there.Last.Next, item.Prev = item, there.Last
        else:
            there.First = item
            if "/Prev" in item:
                del item.Prev
        there.Last, item.Parent = item, there
        there.Count = int(there.get("/Count", 0)) + opened
        item = after


def _number_all(whole: Pdf, sizes: list[tuple[int, float]], told: Told, stack: ExitStack) -> None:
    """Overlay its number on each page; `sizes` are the side margin and the type size."""
    looks = [(float(page.mediabox[2]), float(page.mediabox[3]), *size) for page, size in zip(whole.pages, sizes, strict=True)]  # fmt: skip
    runs = [
        {"width": width, "height": height, "side": side, "size": size, "pages": len(list(same))}
        for (width, height, side, size), same in groupby(looks)
    ]
    asked = json.dumps({**told, "cover": None, "only": "numbers", "runs": runs})
    numbered = stack.enter_context(Pdf.open(io.BytesIO(set_pages(asked))))
    for page, number in zip(whole.pages, numbered.pages, strict=True):
        _number(whole, page, number)


def _number(whole: Pdf, page: Page, number: Page) -> None:
    page.add_resource(whole.copy_foreign(number.as_form_xobject()), Name.XObject, NUMBER)
    page.contents_add(DRAWN)


def main() -> int:
    parts = sorted(Path(sys.argv[1]).glob("*.pdf"), key=lambda path: int(path.stem))
    joined(parts, json.loads(sys.stdin.buffer.read()), _written)
    return 0


def _written(made: bytes) -> None:
    """Write the document and exit the process at once, since freeing its objects would take a quarter of its time."""
    sys.stdout.buffer.write(made)
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    sys.exit(main())
