"""The contrast of a colour on paper, as defined by WCAG 2.2."""

import re

LEAST = 4.5  # for text, WCAG 2.2, 1.4.3
HEX = re.compile(r"#[0-9a-f]{6}")


def contrast(colour: str, other: str = "#ffffff") -> float:
    """The contrast ratio of two colours, 1 to 21.

    >>> round(contrast("#000000"), 1), round(contrast("#ffff00"), 2)
    (21.0, 1.07)
    """
    one, two = sorted((_luminance(colour), _luminance(other)))
    return (two + 0.05) / (one + 0.05)


def darkened(colour: str) -> str:
    """The colour itself if it has enough contrast on white paper, else the nearest darker one of its hue that has.

    >>> darkened("#0d5a6a"), darkened("#ffcc00")
    ('#0d5a6a', '#8f7200')
    """
    parts = _parts(colour)
    for percent in range(100, 0, -1):
        tried = "#" + "".join(f"{round(part * percent / 100):02x}" for part in parts)
        if contrast(tried) >= LEAST:
            return tried
    return "#000000"


def _luminance(colour: str) -> float:
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in (p / 255 for p in _parts(colour))]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def _parts(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[i : i + 2], 16) for i in (1, 3, 5))
