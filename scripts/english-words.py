#!/usr/bin/env python3
"""Builds crates/yarrup-core/src/words/english.bin, the dictionary by which line ends are rejoined.

Usage: scripts/english-words.py [FOLDER]

FOLDER holds the lists of Debian's package `scowl` (default: /usr/share/dict/scowl). All words in small letters of the
English, American and British lists up to level 50 are taken. The file is front-coded: words in the order of their bytes,
for each a byte that says how many bytes it shares with the word before, the rest of it, and a zero byte.
"""
import pathlib
import sys

LEVELS = [10, 20, 35, 40, 50]
LISTS = ["english-words", "american-words", "british-words"]


def main():
    folder = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else "/usr/share/dict/scowl")
    words = set()
    for name in LISTS:
        for level in LEVELS:
            path = folder / f"{name}.{level}"
            if path.exists():
                words.update(path.read_text(encoding="latin-1").split())
    words = sorted(word.encode() for word in words if word.isalpha() and word == word.lower() and len(word) > 1)
    out, before = bytearray(), b""
    for word in words:
        shared = 0
        while shared < min(len(word), len(before), 255) and word[shared] == before[shared]:
            shared += 1
        out += bytes([shared]) + word[shared:] + b"\0"
        before = word
    path = pathlib.Path(__file__).resolve().parent.parent / "crates/yarrup-core/src/words/english.bin"
    path.write_bytes(out)
    print(f"{len(words)} words, {len(out)} bytes")


main()
