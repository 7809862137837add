"""Encoding detection: by byte order mark, valid UTF-8, or script; Latin letters are read as Western."""

import random
from pathlib import Path

import pytest

from kalendor.definitions.recipe import Recipe
from kalendor.intake.content import content_of
from kalendor.intake.encodings import OTHERS, encoding_of
from kalendor.intake.reading import read_bytes
from kalendor.intake.typed import Reading

WORDS = {
    "cp1251": ["Москва", "Санкт-Петербург", "Нижний Новгород", "Перевозчик", "Возврат", "Ярославль"],
    "koi8_r": ["Москва", "Казань", "Перевозчик", "Возврат", "Нижний Новгород"],
    "cp1253": ["Αθήνα", "Πειραιάς", "Θεσσαλονίκη", "Σύνολο"],
    "cp1255": [
        "תל אביב",
        "חיפה",
        "ירושלים",
        "סכום כולל",
        "נתניה",
        "אשדוד",
        "מעבורת",
        "החזר",
        "לקוח קבוע",
        "נמל אילת",
        "תאריך",
    ],
    "cp1256": ["القاهرة", "الإسكندرية", "بورسعيد"],
    "cp932": ["東京", "大阪府", "函館フェリー", "払い戻し"],
    "euc_jp": ["東京", "大阪府", "函館フェリー", "払い戻し"],
    "gb18030": ["上海", "北京市", "渡轮公司", "退款"],
    "big5": ["臺北", "高雄市", "渡輪公司", "退款"],
    "cp949": ["서울", "부산광역시", "여객선", "환불"],
}
WESTERN = [
    "Café Müller", "São Tomé", "Ærøskøbing", "Þórshöfn", "£5 off", "señor Núñez", "Genève", "Östersund", "naïve", "Œuvre", "Åland",
    "“quoted”", "it’s", "10 €", "½ fare", "Ø", "Étretat", "ÅÄÖ",
]  # fmt: skip


def export(words: list[str], count: int, seed: int = 3) -> str:
    rng = random.Random(seed)
    return "id,pier,amount\n" + "".join(f"T-{i},{rng.choice(words)},{i}.50\n" for i in range(count))


def read(text: str, encoding: str, told: str | None = None) -> Reading:
    return read_bytes(text.encode(encoding), "f.csv", Recipe(encoding=told))


@pytest.mark.parametrize("encoding", WORDS)
@pytest.mark.parametrize("count", [40, 2000])
def test_another_writing_is_known_by_its_letters(encoding: str, count: int) -> None:
    text = export(WORDS[encoding], count)
    found = read(text, encoding)
    assert [found.records.columns["pier"].item(i) for i in range(count)] == [
        line.split(",")[1] for line in text.splitlines()[1:]
    ]
    assert found.layout is not None
    assert found.layout.encoding == encoding
    assert found.notes[0].startswith(f"by its writing it is in {OTHERS[encoding]}")
    assert not read(text, encoding, told=encoding).notes


@pytest.mark.parametrize("seed", range(20))
def test_latin_letters_are_western_however_few(seed: int) -> None:
    rng = random.Random(seed)
    words = rng.sample(WESTERN, rng.randint(1, len(WESTERN)))
    text = export(words, rng.choice([1, 2, 5, 40, 400]), seed)
    assert encoding_of(content_of(text.encode("cp1252")), "f") in ("cp1252", "utf-8")


def test_a_line_that_is_utf8_by_chance_does_not_make_a_file_mixed() -> None:
    text = export(WORDS["gb18030"], 300)
    body = text.encode("gb18030") + b"T-x," + "\u00e9".encode() + b",1\n"
    assert encoding_of(content_of(body), "f") == "gb18030"


def test_what_cannot_be_read_whole_in_another_writing_is_western() -> None:
    body = export(WORDS["euc_jp"], 30_000).encode("euc_jp") + b"T-x,\xff\xfe,1\n"
    assert encoding_of(content_of(body), "f") == "cp1252"


def test_the_page_offers_each_encoding_by_its_name() -> None:
    page = (Path(__file__).parents[2] / "web/src/intake/LaidOut.tsx").read_text("utf-8")
    for encoding, name in OTHERS.items():
        assert f"['{encoding}', '{name}']" in page
