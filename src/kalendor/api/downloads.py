"""File names for downloads, and size limits for small uploads."""

import unicodedata
from urllib.parse import quote

from fastapi import UploadFile

from kalendor.errors import IntakeError
from kalendor.output.names import file_stem

MOST_SMALL = 64 << 20


def whole(file: UploadFile) -> bytes:
    """The bytes of a small file.

    Raises IntakeError if it is larger than a tree or a table ever is.
    """
    data = file.file.read(MOST_SMALL + 1)
    if len(data) > MOST_SMALL:
        raise IntakeError(f"{file.filename}: larger than {MOST_SMALL >> 20} MiB, which no such file is")
    return data


def attachment(name: str) -> str:
    """The Content-Disposition of a file (RFC 6266): its name in its own script, with an ASCII fallback.

    >>> print(attachment("Fähre, Süd.csv"))
    attachment; filename="fahre-sud.csv"; filename*=UTF-8''f%C3%A4hre-s%C3%BCd.csv
    """
    stem, _, ending = name.rpartition(".")
    own = file_stem(stem)
    plain = file_stem(unicodedata.normalize("NFKD", own).encode("ascii", "ignore").decode())
    return f"attachment; filename=\"{plain}.{ending}\"; filename*=UTF-8''{quote(f'{own}.{ending}', safe='')}"
