#!/usr/bin/env python3
"""Builds crates/yarrup-core/src/unicode/properties.bin from Unicode's data files.

Usage: scripts/unicode-properties.py [FOLDER]

FOLDER holds the Unicode Character Database as Debian's package `unicode-data` installs it
(default: /usr/share/unicode). The file has four parts, read by crates/yarrup-core/src/unicode/mod.rs:

  1. two bytes (little-endian) for each block of 128 code points: which row of the three planes describes it
  2. a plane of rows of 128 bytes: the Word_Break property, numbered as in WORD_BREAK below
  3. a plane of rows of 128 bytes: the general category (low five bits, numbered as in CATEGORY),
     32 = Extended_Pictographic, 64 = Emoji_Presentation, 128 = White_Space
  4. a plane of rows of 128 bytes: the Sentence_Break property (low four bits, numbered as in SENTENCE_BREAK) and the
     Grapheme_Cluster_Break property (high four bits, numbered as in GRAPHEME_BREAK)
"""
import pathlib
import re
import sys

WORD_BREAK = ["Other", "CR", "LF", "Newline", "Extend", "ZWJ", "Regional_Indicator", "Format", "Katakana",
              "Hebrew_Letter", "ALetter", "Single_Quote", "Double_Quote", "MidNumLet", "MidLetter", "MidNum",
              "Numeric", "ExtendNumLet", "WSegSpace"]
SENTENCE_BREAK = ["Other", "CR", "LF", "Extend", "Sep", "Format", "Sp", "Lower", "Upper", "OLetter", "Numeric",
                  "ATerm", "SContinue", "STerm", "Close"]
GRAPHEME_BREAK = ["Other", "CR", "LF", "Control", "Extend", "ZWJ", "Regional_Indicator", "Prepend", "SpacingMark",
                  "L", "V", "T", "LV", "LVT"]
CATEGORY = ["Cn", "Cc", "Cf", "Cs", "Co", "Lu", "Ll", "Lt", "Lm", "Lo", "Mn", "Mc", "Me", "Nd", "Nl", "No",
            "Pc", "Pd", "Ps", "Pe", "Pi", "Pf", "Po", "Sm", "Sc", "Sk", "So", "Zs", "Zl", "Zp"]
BLOCK = 128
LAST = 0x110000


def ranges(path):
    """The (first, last, value) rows of a property file."""
    for line in path.read_text(encoding="utf-8").splitlines():
        fields = [field.strip() for field in line.split("#")[0].split(";")]
        if len(fields) >= 2:
            first, _, last = fields[0].partition("..")
            yield int(first, 16), int(last or first, 16), fields[1]


def main():
    folder = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else "/usr/share/unicode")
    word_break, general, segments = bytearray(LAST), bytearray(LAST), bytearray(LAST)
    for first, last, value in ranges(folder / "auxiliary/SentenceBreakProperty.txt"):
        for code in range(first, last + 1):
            segments[code] |= SENTENCE_BREAK.index(value)
    for first, last, value in ranges(folder / "auxiliary/GraphemeBreakProperty.txt"):
        for code in range(first, last + 1):
            segments[code] |= GRAPHEME_BREAK.index(value) << 4
    for first, last, value in ranges(folder / "auxiliary/WordBreakProperty.txt"):
        word_break[first:last + 1] = bytes([WORD_BREAK.index(value)]) * (last + 1 - first)
    opened = None
    for line in (folder / "UnicodeData.txt").read_text().splitlines():
        code, name, category = line.split(";")[:3]
        code = int(code, 16)
        if name.endswith(", First>"):
            opened = code
        first = opened if name.endswith(", Last>") else code
        general[first:code + 1] = bytes([CATEGORY.index(category)]) * (code + 1 - first)
    flags = [(folder / "emoji/emoji-data.txt", "Extended_Pictographic", 32),
             (folder / "emoji/emoji-data.txt", "Emoji_Presentation", 64),
             (folder / "PropList.txt", "White_Space", 128)]
    for path, wanted, flag in flags:
        for first, last, value in ranges(path):
            if value == wanted:
                for code in range(first, last + 1):
                    general[code] |= flag
    rows, index = {}, bytearray()
    for start in range(0, LAST, BLOCK):
        row = tuple(bytes(plane[start:start + BLOCK]) for plane in (word_break, general, segments))
        index += rows.setdefault(row, len(rows)).to_bytes(2, "little")
    out = pathlib.Path(__file__).resolve().parent.parent / "crates/yarrup-core/src/unicode/properties.bin"
    out.write_bytes(bytes(index) + b"".join(row[plane] for plane in range(3) for row in rows))
    head = (folder / "auxiliary/WordBreakProperty.txt").read_text(encoding="utf-8").splitlines()[0]
    version = re.search(r"-(\d+\.\d+\.\d+)\.txt", head).group(1)
    print(f"Unicode {version}: {len(rows)} distinct blocks, {out.stat().st_size} bytes")


main()
