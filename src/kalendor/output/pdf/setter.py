"""Typesets pages in a subprocess: JSON on standard input, the PDF on standard output.

With the argument `picture`, a PNG of the first page; with `part`, a PDF to be joined with others. Typesetting uses a full
core and much memory; both are released with the process, which can be killed at any time.
"""

import io
import sys
from pathlib import Path

import typst
from pikepdf import ObjectStreamMode, Pdf

TEMPLATE = Path(__file__).parent / "page.typ"
FONTS = Path(__file__).parents[1] / "fonts"


def set_pages(data: str) -> bytes:
    """The PDF, conforming to PDF/UA-1; if a character is in none of the fonts, which that forbids, it is still tagged."""
    where = (str(TEMPLATE), None, str(TEMPLATE.parent), [str(FONTS)], True)
    try:
        return typst.compile(*where, sys_inputs={"data": data}, pdf_standards="ua-1")
    except typst.TypstError as error:
        if "could not be displayed" not in str(error):
            raise
        return typst.compile(*where, sys_inputs={"data": data})


def packed(whole: Pdf) -> bytes:
    """A document's bytes with compressed objects, a fifth of the size if there are many."""
    out = io.BytesIO()
    whole.save(out, deterministic_id=True, object_stream_mode=ObjectStreamMode.generate)
    return out.getvalue()


def main() -> int:
    data = sys.stdin.buffer.read().decode()
    try:
        if sys.argv[1:] == ["picture"]:
            made = typst.compile(
                str(TEMPLATE), None, str(TEMPLATE.parent), [str(FONTS)], True, "png", 96.0, {"data": data}
            )
            sys.stdout.buffer.write(made[0] if isinstance(made, list) else made)
            return 0
        pages = set_pages(data)
        if sys.argv[1:] != ["part"]:
            with Pdf.open(io.BytesIO(pages)) as whole:
                pages = packed(whole)
        sys.stdout.buffer.write(pages)
    except (RuntimeError, ValueError, typst.TypstError) as error:
        sys.stderr.write(str(error))
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
