#!/usr/bin/env python3
"""Builds crates/yarrup-core/src/words/spellings-en.txt: pairs of American and British spellings.

Usage: scripts/english-spellings.py [SCOWL_FOLDER]

SCOWL_FOLDER holds the lists of Debian's package `scowl` (default /usr/share/dict/scowl). A word of the British lists is paired with one of the
American lists where one of the regular differences between the two leads from one to the other; a few pairs that no rule finds are below.
Words that are right in both countries (`tire`, `check`, `practice`) are not paired: which of their meanings is meant cannot be seen.
"""
import pathlib
import re
import sys

LEVELS = [10, 20, 35, 40, 50, 55, 60]
RULES = [
    (r"our", "or"), (r"ise", "ize"), (r"isi", "izi"), (r"isa", "iza"), (r"ys(e|i)", r"yz\1"), (r"tre", "ter"), (r"bre", "ber"), (r"chre", "cher"),
    (r"gre\b", "ger"), (r"vre", "ver"), (r"ogue", "og"), (r"ll", "l"), (r"l(ment|ful)", r"ll\1"), (r"l$", "ll"), (r"lment", "llment"), (r"ae", "e"),
    (r"oe", "e"), (r"enc", "ens"), (r"gey", "gay"), (r"grey", "gray"), (r"mme", "m"), (r"mould", "mold"), (r"plough", "plow"), (r"scep", "skep"),
    (r"sulph", "sulf"), (r"pp", "p"), (r"gg", "g"), (r"tt", "t"), (r"iour", "ior"), (r"eabl", "abl"), (r"yt", "it"), (r"cheque", "check"),
    (r"axe", "ax"), (r"kerb", "curb"), (r"tyre", "tire"), (r"moustache", "mustache"), (r"pyjama", "pajama"), (r"smoul", "smol"),
]
EXTRA = """aluminum aluminium
jewelry jewellery
sulfur sulphur
donut doughnut
airplane aeroplane
specialty speciality
math maths
mom mum
cozy cosy
ardor ardour
"""


def main():
    folder = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else "/usr/share/dict/scowl")

    def read(*names):
        words = set()
        for name in names:
            for level in LEVELS:
                path = folder / f"{name}-words.{level}"
                if path.exists():
                    words.update(word for word in path.read_text(encoding="latin-1").split() if re.fullmatch("[a-z]+", word))
        return words

    both, american, british = read("english"), read("american"), read("british")
    pairs = {}
    for word in british - american - both:
        for pattern, put in RULES:
            for found in re.finditer(pattern, word):
                other = word[: found.start()] + re.sub(pattern, put, found.group()) + word[found.end():]
                if other != word and other in american - british - both:
                    pairs.setdefault(other, word)
            other = re.sub(pattern, put, word)
            if other != word and other in american - british - both:
                pairs.setdefault(other, word)
    for line in EXTRA.splitlines():
        one, other = line.split()
        pairs.setdefault(one, other)
    path = pathlib.Path(__file__).resolve().parent.parent / "crates/yarrup-core/src/words/spellings-en.txt"
    head = "# American and British spellings, built by scripts/english-spellings.py from SCOWL; notice: english-LICENCE\n"
    path.write_text(head + "".join(f"{one} {other}\n" for one, other in sorted(pairs.items())))
    print(f"{len(pairs)} pairs; {len(british - american - both)} British words, {len(american - british - both)} American")


main()
