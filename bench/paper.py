"""How sheets of every shape stand on paper: pages, type, cut columns and the share of the pages that is used."""

import io
import sys

import pypdf

from bench.odd_sheets import odd_sheets
from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.paging.choices import paper_of
from kalendor.output.paging.needs import needs_of
from kalendor.output.paging.planner import planned
from kalendor.output.pdf.pages import around_of
from kalendor.output.pdf.pdf import sheet_pdf
from kalendor.output.typeset import typeset


def main() -> None:
    print(f"{'sheet':44} {'pages':>5} {'read':>5} {'way':>7} {'type':>5} {'blocks':>6} {'used':>5}")
    several = []
    for name, sheet in odd_sheets("--large" in sys.argv):
        given = Handover(sheet, Export())
        set_ = typeset(sheet)
        plan = planned(
            needs_of(set_, [set_.shown(c) for c in set_.columns]), paper_of(given.export), around_of(given, set_, None)
        )
        pages = len(pypdf.PdfReader(io.BytesIO(sheet_pdf(given))).pages)
        if plan.pages > 1:
            several.append(plan.used)
        way = "across" if plan.across else "upright"
        print(f"{name:44} {plan.pages:5} {pages:5} {way:>7} {plan.size:5} {len(plan.panels):6} {plan.used:5.0%}")
    print(f"\nof sheets of several pages, {sum(several) / len(several):.0%} of the pages is used on average")


if __name__ == "__main__":
    main()
