"""Makes the fonts that printed pages embed: static cuts of the page's own variable fonts, merged from their subsets, and
fonts for the scripts that those lack.

Run from the project's root with `fonttools` and `brotli` at hand: `python tools/fonts.py OTHERS`. OTHERS is a folder that
holds, at whatever depth, the fonts of OTHER_SCRIPTS (Debian's fonts-dejavu-core, fonts-droid-fallback and
fonts-noto-core) and Noto Emoji's subsets as woff2 (`noto-emoji-N-400-normal.woff2`). The cuts bear names of their own,
as the Open Font License asks of changed fonts.
"""

import shutil
import sys
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

MODULES = Path("web/node_modules/@fontsource-variable")
OUT = Path("src/kalendor/output/fonts")
SUBSETS = ("latin", "latin-ext", "greek", "cyrillic", "cyrillic-ext", "vietnamese")
CUTS = {
    ("ibm-plex-sans", "Kalendor Sans"): (400, 600),
    ("source-serif-4", "Kalendor Serif"): (400, 600),
}
STYLES = {400: "Regular", 600: "SemiBold"}
OTHER_SCRIPTS = (
    "DejaVuSans.ttf", "DroidSansFallback.ttf", "NotoSansDevanagari-Regular.ttf", "NotoSansThai-Regular.ttf",
    "NotoSansBengali-Regular.ttf", "NotoSansTamil-Regular.ttf", "NotoSansEthiopic-Regular.ttf",
)  # fmt: skip


def named(font: TTFont, family: str, weight: int) -> None:
    style = STYLES[weight]
    ids = {1: family if weight == 400 else f"{family} {style}", 2: "Regular", 4: f"{family} {style}",
           6: f"{family.replace(' ', '')}-{style}", 16: family, 17: style}  # fmt: skip
    for record in list(font["name"].names):
        if record.nameID in (1, 2, 3, 4, 6, 16, 17, 21, 22, 25):
            font["name"].removeNames(nameID=record.nameID)
    for id, text in ids.items():
        font["name"].setName(text, id, 3, 1, 0x409)
    font["OS/2"].usWeightClass = weight


def merged(parts: list[Path]) -> TTFont:
    return Merger().merge([str(part) for part in parts])


def cut(package: str, family: str, weight: int, folder: Path) -> None:
    parts = []
    for subset in SUBSETS:
        path = MODULES / package / "files" / f"{package}-{subset}-wght-normal.woff2"
        if not path.exists():
            continue
        font = instantiateVariableFont(TTFont(path), {"wght": weight})
        font.flavor = None
        for table in ("STAT", "avar", "MVAR", "HVAR", "DSIG"):
            if table in font:
                del font[table]
        parts.append(folder / f"{package}-{subset}-{weight}.ttf")
        font.save(parts[-1])
    whole = merged(parts)
    named(whole, family, weight)
    whole.save(OUT / f"{family.replace(' ', '')}-{STYLES[weight]}.ttf")


def emoji(others: Path, folder: Path) -> None:
    parts = []
    for path in sorted(others.rglob("noto-emoji-*-400-normal.woff2")):
        font = TTFont(path)
        font.flavor = None
        parts.append(folder / f"{path.stem}.ttf")
        font.save(parts[-1])
    merged(parts).save(OUT / "NotoEmoji-Regular.ttf")


def for_browsers() -> None:
    """The variable fonts of the page, as they are, for files that open in a browser."""
    (OUT / "web").mkdir(exist_ok=True)
    for package, name in (("ibm-plex-sans", "sans"), ("source-serif-4", "serif")):
        shutil.copy(
            MODULES / package / "files" / f"{package}-latin-wght-normal.woff2", OUT / "web" / f"{name}-latin.woff2"
        )


def main() -> None:
    others = Path(sys.argv[1])
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as made:
        for (package, family), weights in CUTS.items():
            for weight in weights:
                cut(package, family, weight, Path(made))
        emoji(others, Path(made))
    for_browsers()
    for name in OTHER_SCRIPTS:
        shutil.copy(next(others.rglob(name)), OUT / name)


if __name__ == "__main__":
    main()
