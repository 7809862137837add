"""Detects a file's text encoding: by its byte order mark, by UTF-8 validity, and if neither decides, by its script."""

import codecs
import re
import unicodedata
from collections.abc import Iterator

import numpy as np

from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks

ASCII_MOST = 127
NEWLINE = 10
MIXED = "utf-8 and windows-1252"
WESTERN = "cp1252"
OTHERS = {  # encodings of non-Latin scripts used by exports
    "cp1251": "Windows-1251 (Cyrillic)", "koi8_r": "KOI8-R (Cyrillic)", "cp1253": "Windows-1253 (Greek)",
    "cp1255": "Windows-1255 (Hebrew)", "cp1256": "Windows-1256 (Arabic)", "cp874": "Windows-874 (Thai)",
    "cp932": "Shift JIS (Japanese)", "euc_jp": "EUC-JP (Japanese)", "gb18030": "GB 18030 (Chinese)", "big5": "Big5 (Chinese)",
    "cp949": "Windows-949 (Korean)",
}  # fmt: skip
FEW = 0.1  # of the non-ASCII lines, the share that may be UTF-8 by chance
LOOKED_AT = 1 << 16  # bytes of non-ASCII lines
SOME, ENOUGH, MOSTLY = 3, 3, 0.7
_WORD = re.compile(rb"[A-Za-z\x80-\xff]*[\x80-\xff][A-Za-z\x80-\xff]*")


def encoding_of(content: Bytes, name: str) -> str:
    """UTF-8, UTF-16 or UTF-32 by its mark, UTF-8 mixed with Windows-1252, an encoding of another script, or else
    Windows-1252.

    Raises IntakeError if the bytes are not text.
    """
    start = content[:3].tobytes()
    if start == b"\xef\xbb\xbf":
        return "utf-8-sig"
    if content[:4].tobytes() in (b"\xff\xfe\x00\x00", b"\x00\x00\xfe\xff"):
        return "utf-32"
    if start[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    plain = True
    decoder = codecs.getincrementaldecoder("utf-8")()
    for at, block in blocks(content):
        if not block.all():
            before = content[: at + int(np.argmin(block))]
            line = 1 + sum(int(np.count_nonzero(part == NEWLINE)) for _, part in blocks(before))
            raise IntakeError(
                f"{name}: line {line} holds a NUL byte, so this is not a delimited text file; export it as CSV again"
            )
        try:
            if plain and (block.max() > ASCII_MOST or decoder.getstate()[0]):
                decoder.decode(block.tobytes(), final=at + len(block) == len(content))
        except UnicodeDecodeError:
            plain = False
    if plain:
        return "utf-8"
    odd = [is_utf8(line) for line in odd_lines(content)]
    other = _of_other_writing(content) if sum(odd) <= FEW * len(odd) else None
    return other or (MIXED if any(odd) else WESTERN)


def odd_lines(content: Bytes) -> Iterator[bytes]:
    """The lines with non-ASCII bytes."""
    return (line for line in lines_of(content) if not line.isascii())


def lines_of(content: Bytes) -> Iterator[bytes]:
    """The lines, each with its end."""
    rest = b""
    for _, block in blocks(content):
        *whole, rest = (rest + block.tobytes()).split(b"\n")
        yield from (line + b"\n" for line in whole)
    yield rest


def is_utf8(line: bytes) -> bool:
    """True if a line is valid UTF-8."""
    try:
        line.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def _of_other_writing(content: Bytes) -> str | None:
    """The encoding in which most of the distinct non-ASCII words, if most of their letters are non-ASCII (unlike Café),
    are words of another script; else None."""
    sample = b""
    for line in odd_lines(content):
        sample += b"" if is_utf8(line) else line[:LOOKED_AT]
        if len(sample) >= LOOKED_AT:
            break
    words = {word: sum(byte > ASCII_MOST for byte in word) for word in _WORD.findall(sample)}
    other = [word for word, high in words.items() if high >= SOME and high >= MOSTLY * len(word)]
    if len(other) < ENOUGH or sum(map(len, other)) < MOSTLY * sum(map(len, words)):
        return None
    from charset_normalizer import from_bytes  # slow to import, and seldom needed

    best = from_bytes(sample, cp_isolation=list(OTHERS)).best()
    if best is None or best.encoding not in OTHERS:
        return None
    letters = [c for c in str(best) if c.isalpha() and not c.isascii()]
    latin = sum(unicodedata.name(c, "").startswith("LATIN") for c in letters)
    return best.encoding if letters and latin * 10 <= len(letters) and _can_be(content, best.encoding) else None


def _can_be(content: Bytes, encoding: str) -> bool:
    """True if all of the content is valid in an encoding."""
    decoder = codecs.getincrementaldecoder(encoding)()
    try:
        for _, block in blocks(content):
            decoder.decode(block.tobytes())
        decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return False
    return True
