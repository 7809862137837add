"""Checks the documents: every relative link leads to a file that is there, and every `#section` to a heading of it.

Run from the project's root: `.venv/bin/python docs/links.py`. Exits 1 and names each link that leads nowhere.
"""

import re
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parent.parent
LINK = re.compile(r"!?\[[^\]]*\]\(([^)\s]+)\)")
CODE = re.compile(r"^```.*?^```|^    .*?$|`[^`\n]*`", re.MULTILINE | re.DOTALL)
HEADING = re.compile(r"^#{1,6} +(.+?) *$", re.MULTILINE)


def documents() -> list[Path]:
    """The documents of the project."""
    return sorted([*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")])


@cache
def sections(path: Path) -> frozenset[str]:
    """The names by which a document's headings are linked to."""
    text = re.sub(r"^```.*?^```", "", path.read_text("utf-8"), flags=re.MULTILINE | re.DOTALL)
    names = (re.sub(r"[^\w\- ]", "", heading.lower()).replace(" ", "-") for heading in HEADING.findall(text))
    return frozenset(names)


def broken(path: Path) -> Iterator[str]:
    """The links of a document that lead nowhere."""
    text = CODE.sub("", path.read_text("utf-8"))
    for target in LINK.findall(text):
        if re.match(r"[a-z]+:", target):
            continue
        name, _, section = target.partition("#")
        there = (path.parent / name).resolve() if name else path
        if not there.exists():
            yield f"{path.relative_to(ROOT)}: {target}: there is no such file"
        elif section and there.suffix == ".md" and section not in sections(there):
            yield f"{path.relative_to(ROOT)}: {target}: there is no such section"


def unlinked() -> Iterator[str]:
    """Documents that no other document links to."""
    linked = {
        (path.parent / target.partition("#")[0]).resolve()
        for path in documents()
        for target in LINK.findall(path.read_text("utf-8"))
    }
    for path in documents():
        if path.parent != ROOT and path.resolve() not in linked:
            yield f"{path.relative_to(ROOT)}: no document links to it"


def main() -> int:
    found = [line for path in documents() for line in broken(path)] + list(unlinked())
    print("\n".join(found), end="\n" if found else "")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
