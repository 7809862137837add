"""The organisation of a workspace: a readable accent colour, and a mark without scripts or animation."""

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from kalendor.desk.desk import Desk
from kalendor.desk.organisation import MOST_BYTES, Organisation, organisation, set_accent, set_mark
from kalendor.errors import DefinitionError
from kalendor.output.contrast import LEAST, contrast, darkened
from kalendor.output.handover import Cover, Handover
from kalendor.output.pdf.pdf import pdf
from tests.core.build import records, sheet

DRAWING = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8">{}<path d="M0 0 L8 8" stroke="#123"/></svg>'
SVG = DRAWING.format("").encode()


def png(size: tuple[int, int] = (12, 8)) -> bytes:
    made = io.BytesIO()
    Image.new("RGB", size, "#7a2e5d").save(made, "PNG")
    return made.getvalue()


@given(st.integers(0, 0xFFFFFF).map(lambda n: f"#{n:06x}"))
def test_any_colour_is_darkened_until_it_can_be_read(colour: str) -> None:
    found = darkened(colour)
    assert contrast(found) >= LEAST
    assert (found == colour) == (contrast(colour) >= LEAST)


def test_a_colour_that_cannot_be_read_is_refused_with_one_that_can(desk: Desk) -> None:
    set_accent(desk, " #7A2E5D ")
    for odd, words in (("#ffcc00", "too pale"), ("red", "is no colour"), ("#12345", "is no colour")):
        with pytest.raises(DefinitionError, match=words):
            set_accent(desk, odd)
    assert organisation(desk).accent == "#7a2e5d"
    set_accent(desk, "")
    assert organisation(desk) == Organisation()


@pytest.mark.parametrize("mark", [SVG, png()])
def test_a_mark_stands_on_the_cover(desk: Desk, mark: bytes) -> None:
    set_mark(desk, mark)
    whose = organisation(desk)
    assert whose.kind == ("svg" if mark == SVG else "png")
    one = Handover(sheet(records(a=["x", "y"]), down=[{"category": "a"}]))
    assert len(pdf([one], Cover("Pack", mark=whose.mark, kind=whose.kind))) > len(pdf([one], Cover("Pack")))
    set_mark(desk, b"")
    assert organisation(desk).kind == ""


@pytest.mark.parametrize(
    "content",
    [
        b"GIF89a", b"<html/>", b"<svg", b'<svg xmlns="http://www.w3.org/1999/xhtml"/>', png()[:40], png((5_000, 2)), b"x" * (MOST_BYTES + 1),
        b'<!DOCTYPE svg [<!ENTITY a "b">]>' + SVG,
        *(DRAWING.format(part).encode() for part in (
            "<script>1</script>", "<foreignObject/>", '<image href="http://a.example/x.png"/>', '<g onload="x"/>', '<a href="http://a.example"/>',
            '<rect fill="url(http://a.example/x)"/>', "<style>a{}</style>",
        )),
    ],
)  # fmt: skip
def test_what_is_no_still_drawing_is_refused_and_the_mark_stays(desk: Desk, content: bytes) -> None:
    set_mark(desk, SVG)
    with pytest.raises(DefinitionError):
        set_mark(desk, content)
    assert organisation(desk).mark == SVG
