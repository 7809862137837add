"""The organisation that a workspace belongs to: its name, mark and accent colour, shown on the covers of packs."""

import base64
import io
from dataclasses import dataclass
from typing import Literal

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from PIL import Image

from kalendor.core.values.notation import grouped
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError
from kalendor.output.contrast import HEX, LEAST, contrast, darkened

NAME, ACCENT, MARK = "name", "accent", "mark"  # settings of a workspace
MOST_BYTES, MOST_PIXELS = 200_000, 4_000
PNG = b"\x89PNG\r\n\x1a\n"
SVG = "{http://www.w3.org/2000/svg}"
ALIVE = ("script", "foreignObject", "image", "use", "animate", "set", "style")


@dataclass(frozen=True)
class Organisation:
    """The name (empty: none), the accent colour as `#0d5a6a` (empty: the product's own) and the mark, SVG or PNG."""

    name: str = ""
    accent: str = ""
    mark: bytes = b""

    @property
    def kind(self) -> Literal["svg", "png", ""]:
        """The mark's format; empty where there is none."""
        return "" if not self.mark else "png" if self.mark.startswith(PNG) else "svg"


def organisation(desk: Desk) -> Organisation:
    """The workspace's organisation."""
    name, accent, mark = (desk.workspace.told(key) or "" for key in (NAME, ACCENT, MARK))
    return Organisation(name, accent, base64.b64decode(mark))


def set_accent(desk: Desk, colour: str) -> None:
    """Store an accent colour; empty for the product's own.

    Raises DefinitionError for an invalid colour, and for one without enough contrast on paper, with the nearest that
    has it.
    """
    colour = colour.strip().lower()
    if colour and not HEX.fullmatch(colour):
        raise DefinitionError(f"{colour!r} is no colour; write it as #0d5a6a")
    if colour and contrast(colour) < LEAST:
        raise DefinitionError(
            f"{colour} is too pale to be read on paper ({contrast(colour):.1f} to 1, and {LEAST} is needed);"
            f" the nearest darker one is {darkened(colour)}"
        )
    desk.workspace.tell(ACCENT, colour)


def set_mark(desk: Desk, content: bytes) -> None:
    """Store a mark; empty removes it.

    Raises DefinitionError if it is neither SVG nor PNG, is too large, or contains more than a static drawing.
    """
    if len(content) > MOST_BYTES:
        raise DefinitionError(f"the mark has {grouped(len(content))} bytes; at most {grouped(MOST_BYTES)} are kept")
    if content.startswith(PNG):
        content = _still_png(content)
    elif content:
        _check_svg(content)
    desk.workspace.tell(MARK, base64.b64encode(content).decode())


def _still_png(content: bytes) -> bytes:
    """The PNG's first image only, without other chunks."""
    try:
        with Image.open(io.BytesIO(content), formats=["PNG"]) as found:
            if max(found.size) > MOST_PIXELS:
                raise DefinitionError(
                    f"the mark is {found.width} × {found.height}; at most {MOST_PIXELS} pixels a side are kept"
                )
            made = io.BytesIO()
            found.convert("RGBA").save(made, "PNG", optimize=True)
            return made.getvalue()
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise DefinitionError("the mark is no PNG that can be read; save it again as PNG or SVG") from error


def _check_svg(content: bytes) -> None:
    try:
        root = ElementTree.fromstring(content, forbid_dtd=True)
    except (ElementTree.ParseError, DefusedXmlException, ValueError) as error:
        raise DefinitionError("the mark is neither SVG nor PNG; save it as one of these") from error
    if root.tag != f"{SVG}svg":
        raise DefinitionError("the mark is neither SVG nor PNG; save it as one of these")
    for element in root.iter():
        tag = str(element.tag).removeprefix(SVG)
        odd = [
            name
            for name, value in element.attrib.items()
            if name.lower().startswith("on")
            or ("url(" in value.replace(" ", "") and "url(#" not in value.replace(" ", ""))
        ]
        if (
            tag in ALIVE
            or odd
            or any(name.endswith("href") and not value.startswith("#") for name, value in element.attrib.items())
        ):
            raise DefinitionError(
                f"the mark holds <{tag}>, which is more than a still drawing; save it as plain SVG or as PNG"
            )
