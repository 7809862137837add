"""Guards texts against being executed as formulas by the program that opens a file, and removes the guard again."""

import re

RISKY = "=+-@\uff1d\uff0b\uff0d\uff20"
NUMBER = re.compile(r"[+-]?[0-9]+(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?")
RANGE = re.compile(r"-[\d,.]+ (?:and over|(?:up to|–) -?[\d,.]+)")


def harmless(text: str) -> str:
    """A text that no program executes when it opens the file: an apostrophe is put before one that begins like a
    formula.

    Numbers, and labels of ranges of numbers, are not formulas.

    >>> harmless("=1+1"), harmless("-5"), harmless("-100 up to 0"), harmless("-1 up to A1")
    ("'=1+1", '-5', '-100 up to 0', "'-1 up to A1")
    """
    risky = bool(text) and (text[0] in RISKY or text[0] < " " or text.lstrip()[:1] in RISKY)
    if not risky or NUMBER.fullmatch(text) or RANGE.fullmatch(text) or text.isspace():
        return text
    return "'" + text


def unguarded(text: str) -> str:
    """A text without the apostrophe that `harmless` added.

    >>> unguarded(harmless("=1+1")), unguarded("'tis")
    ('=1+1', "'tis")
    """
    return text[1:] if text.startswith("'") and harmless(text[1:]) != text[1:] else text
