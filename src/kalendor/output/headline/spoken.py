"""Numbers as people say them."""

from decimal import ROUND_HALF_UP, Decimal

from kalendor.core.values.columns import WIDE
from kalendor.core.values.notation import noted

MINUS = "\u2212"
SCALES = ((3, "thousand"), (6, "million"), (9, "billion"), (12, "trillion"))
SAID_IN_FULL = 10_000


def spoken(value: Decimal, currency: str = "") -> str:
    """A number with one decimal in the largest unit that it reaches; below ten thousand without decimals.

    >>> [spoken(Decimal(n)) for n in ("331742.50", "582000", "-1250000", "9999.5", "12.25", "960000", "999960")]
    ['331.7 thousand', '582 thousand', '−1.3 million', '10 thousand', '12.25', '960 thousand', '1 million']
    >>> spoken(Decimal("-4200"), "€")
    '−€4,200'
    """
    sign, size = (MINUS if value < 0 else ""), value.copy_abs()
    whole = size.quantize(Decimal(1), ROUND_HALF_UP, WIDE)
    if whole < SAID_IN_FULL:
        plain = noted(f"{whole:,}" if size >= 100 else f"{size.normalize(WIDE):f}")
        return f"{sign}{currency}{plain}"
    exponent, unit = next(scale for scale in SCALES if _scaled(size, scale[0]) < 1000 or scale == SCALES[-1])
    digits = noted(f"{_scaled(size, exponent):,f}".removesuffix(".0"))
    return f"{sign}{currency}{digits} {unit}"


def _scaled(size: Decimal, exponent: int) -> Decimal:
    return size.scaleb(-exponent, WIDE).quantize(Decimal("0.1"), ROUND_HALF_UP, WIDE)


def in_prose(text: str) -> str:
    """A formatted number for use in a sentence: with a minus sign instead of parentheses.

    >>> in_prose("(1,234.50)")
    '−1,234.50'
    """
    return f"{MINUS}{text[1:-1]}" if text[:1] == "(" and text[-1:] == ")" else text
