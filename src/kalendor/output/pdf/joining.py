"""The parts of a document joined to one PDF (pikepdf), in a process of its own: pages, bookmarks, the tags' tree, and the number
of each page, which no part knows.

The parts are files 0.pdf, 1.pdf, … in a folder given as argument; what is asked of the template for the pages' numbers is JSON on
standard input; the whole comes on standard output.
"""

import io
import json
import os
import re
import sys
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from pikepdf import Array, Dictionary, Name, Object, Page, Pdf

from kalendor.output.pdf.setter import packed, set_pages

NUMBER = Name("/KalendorPageNumber")
DRAWN = b"/Artifact <</Type /Pagination /Subtype /Footer>> BDC q /KalendorPageNumber Do Q EMC"


def joined(parts: list[Path], numbers: dict[str, Any], use: Callable[[bytes], None]) -> None:
    """Hand the parts as one document to `use`, each page with its number, which the template sets when it is told how many
    there are. What was read is closed after that."""
    with ExitStack() as stack:
        whole = stack.enter_context(Pdf.open(parts[0]))
        for path, again in zip(parts[1:], numbers["again"][1:], strict=True):
            # what is taken from a part is read when the whole is written
            _append(whole, stack.enter_context(Pdf.open(path)), again)
        numbers["numbers"]["pages"] = len(whole.pages)
        numbered = stack.enter_context(Pdf.open(io.BytesIO(set_pages(json.dumps(numbers)))))
        for page, number in zip(whole.pages, numbered.pages, strict=True):
            _number(whole, page, number)
        _finish(whole)
        use(packed(whole))


def _finish(whole: Pdf) -> None:
    """What is told of the whole: its pages, and the tags' names in their order."""
    told = whole.Root.Metadata.read_bytes()
    whole.Root.Metadata.write(re.sub(rb"(<xmpTPg:NPages>)\d+", rb"\g<1>%d" % len(whole.pages), told))
    names = whole.Root.StructTreeRoot.IDTree.Names
    pairs = sorted(zip(names[::2], names[1::2], strict=True), key=lambda pair: bytes(pair[0]))
    whole.Root.StructTreeRoot.IDTree = Dictionary(Names=Array([one for pair in pairs for one in pair]))


def _append(whole: Pdf, other: Pdf, again: int) -> None:
    """The pages of another document after those there are, with their tags and bookmarks."""
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
    for one in added.IDTree.Names:
        tree.IDTree.Names.append(one)
    if "/Outlines" in other.Root and "/First" in other.Root.Outlines:
        _bookmarks(whole.Root.Outlines.Last, whole.copy_foreign(other.Root.Outlines), again)


def _bookmarks(there: Object, added: Object, again: int) -> None:
    """The bookmarks of a further part under an earlier one. Its first stand again for those that the last there are, `again`
    levels deep: what is under them goes under these."""
    item: Object | None = added.First
    if again and "/Last" in there:
        if "/First" in added.First:
            _bookmarks(there.Last, added.First, again - 1)
        item = added.First.get("/Next")
    while item is not None:
        after = item.get("/Next")
        if "/Last" in there:
            there.Last.Next, item.Prev = item, there.Last
        else:
            there.First = item
            del item.Prev
        there.Last, item.Parent = item, there
        there.Count = int(there.get("/Count", 0)) - 1  # closed, as all are
        item = after


def _number(whole: Pdf, page: Page, number: Page) -> None:
    page.add_resource(whole.copy_foreign(number.as_form_xobject()), Name.XObject, NUMBER)
    page.contents_add(DRAWN)


def main() -> int:
    parts = sorted(Path(sys.argv[1]).glob("*.pdf"), key=lambda path: int(path.stem))
    joined(parts, json.loads(sys.stdin.buffer.read()), _written)
    return 0


def _written(made: bytes) -> None:
    """Write the document and end the process, whose objects would take a quarter of its time to be freed one by one."""
    sys.stdout.buffer.write(made)
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    sys.exit(main())
