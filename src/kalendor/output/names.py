"""Names of files to take away."""

import unicodedata


def file_stem(title: str) -> str:
    """A title as the stem of a file's name: letters and digits of any script, the rest as hyphens.

    >>> file_stem("Net fare, by sea area"), file_stem("///")
    ('net-fare-by-sea-area', 'sheet')
    """
    kept = "".join(c if c.isalnum() else " " for c in unicodedata.normalize("NFC", title).lower())
    return "-".join(kept.split())[:120] or "sheet"
