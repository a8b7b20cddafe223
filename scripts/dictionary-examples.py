#!/usr/bin/env python3
"""Gathers examples of single words out of a dictionary: sentences and phrases in which the part of speech of one word is known.

Usage: scripts/dictionary-examples.py FOLDER YARRUP OUT.conllu

FOLDER holds the database files (index.noun, data.noun, noun.exc and so on) of the dictionary that Debian's package `dict-wn` shows; its licence is
treebank/en/usage-LICENCE. YARRUP is the built program. Written are the examples in which the program's tagger gives the word another part of speech
than the dictionary does, and as many others; only that word has a tag. Left out are words of closed classes, participles and names, which the treebank annotates by rules of its own, and words that it
has often and never with that tag.

treebank/en/examples.conllu was made so with the model of December 2026: a better one gives fewer. treebank/en/usage.conllu holds whole sentences of the
same examples, tagged by several models and read and mended by hand where they disagreed.
"""
import collections
import json
import pathlib
import random
import re
import subprocess
import sys
import tempfile

ROOT = pathlib.Path(__file__).resolve().parent.parent
CLASSES = {"n": "NOUN", "v": "VERB", "a": "ADJ", "s": "ADJ", "r": "ADV"}
FILES = {"NOUN": "noun", "VERB": "verb", "ADJ": "adj", "ADV": "adv"}
RECIPE = 'language = "en"\n[[step]]\ndo = "split"\ninto = "clitics"\nsentences = true\n[[step]]\ndo = "tag"\n'
# What the treebank takes for nouns or does not have, and what nobody wants to read.
LEFT_OUT = re.compile(r"(?i)^(con|to(night|day|morrow)|yesterday|alias)$|fuck|nigg|shit|whore|\bjew\b")


def irregular(folder):
    """The irregular forms of each word of a class."""
    forms = collections.defaultdict(set)
    for tag, name in FILES.items():
        for line in (folder / f"{name}.exc").read_text(encoding="latin-1").splitlines():
            form, *words = line.split()
            for word in words:
                forms[tag, word].add(form)
    return forms


def forms_of(word, tag, irregular):
    """The forms that a word can have: some too many, which do no harm."""
    stem = word[:-1] if word.endswith("e") else word
    forms = {word} | irregular[tag, word]
    if tag in ("NOUN", "VERB"):
        forms |= {word + "s", word + "es"}
        if re.search(r"[^aeiou]y$", word):
            forms.add(word[:-1] + "ies")
    if tag == "VERB":
        forms |= {stem + "ed", stem + "ing", word + "ing", word + word[-1] + "ed", word + word[-1] + "ing"}
        if word.endswith("y"):
            forms.add(word[:-1] + "ied")
    if tag in ("ADJ", "ADV"):
        forms |= {stem + "er", stem + "est", word + word[-1] + "er", word + word[-1] + "est"}
        if word.endswith("y"):
            forms |= {word[:-1] + "ier", word[:-1] + "iest"}
    return forms


def examples(folder):
    """Each example once: its text, where the word stands in it, and the word's tag."""
    irregulars, seen = irregular(folder), set()
    for tag, name in FILES.items():
        for line in (folder / f"data.{name}").read_text(encoding="latin-1").splitlines():
            head, _, gloss = line.partition(" | ")
            columns = head.split()
            if line.startswith("  ") or not gloss:
                continue
            words = [re.sub(r"\(.*?\)$", "", columns[4 + 2 * at]) for at in range(int(columns[3], 16))]
            for text in re.findall(r'"([^"]+)"', gloss):
                text = " ".join(text.split()).strip(" ;")
                if len(text.split()) < 2 or text in seen or LEFT_OUT.search(text):
                    continue
                places = set()
                for word in (word for word in words if "_" not in word):
                    for form in forms_of(word.lower(), tag, irregulars):
                        found = re.finditer(rf"(?<![\w-]){re.escape(form)}(?![\w-])", text.lower())
                        places |= {(match.start(), match.end(), word[0].isupper()) for match in found}
                if len({place[:2] for place in places}) == 1:
                    seen.add(text)
                    start, end, is_name = min(places)
                    yield text, start, end, tag, is_name and tag == "NOUN"


def nouns_first(folder):
    """Adjectives that are nouns at least as often: before another noun, they may be either."""
    counts = collections.defaultdict(collections.Counter)
    for line in (folder / "cntlist.rev").read_text(encoding="latin-1").splitlines():
        sense, _, count = line.split()
        word, _, rest = sense.partition("%")
        counts[word][rest[0]] += int(count)
    nouns = {line.split()[0] for line in (folder / "index.noun").read_text(encoding="latin-1").splitlines()}
    return {word for word in nouns if counts[word]["1"] >= counts[word]["3"] + counts[word]["5"]}


def read_texts(path):
    """The texts of the sentences of a part of the treebank."""
    lines = path.read_text(encoding="utf-8").splitlines() if path.exists() else []
    return {line[9:] for line in lines if line.startswith("# text = ")}


def treebank_tags():
    """How often each word has each tag in the treebank, without these examples."""
    tags = collections.defaultdict(collections.Counter)
    for path in sorted((ROOT / "treebank/en").glob("*.conllu")):
        if path.stem in ("examples", "usage"):
            continue
        for line in path.read_text(encoding="utf-8").splitlines():
            columns = line.split("\t")
            if len(columns) == 10 and columns[3] != "_":
                tags[columns[1].lower()][columns[3]] += 1
    return tags


def tagged(yarrup, texts):
    """By text: its words, each with its tag, its start and whether a space follows."""
    with tempfile.TemporaryDirectory() as folder:
        folder = pathlib.Path(folder)
        (folder / "recipe.toml").write_text(RECIPE)
        lines = (json.dumps({"id": str(at), "text": text}) for at, text in enumerate(texts))
        (folder / "texts.jsonl").write_text("\n".join(lines))
        command = [yarrup, "run", "recipe.toml", "texts.jsonl", "--out", "run"]
        subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        written = subprocess.run([yarrup, "export", "run", "--as", "conllu"], cwd=folder, check=True, capture_output=True, text=True).stdout
    words, own = [[] for _ in texts], None
    for line in written.splitlines():
        columns = line.split("\t")
        if line.startswith("# newdoc id = "):
            own = words[int(line.split(" = ")[1])]
        elif len(columns) == 10:
            misc = dict(pair.split("=", 1) for pair in columns[9].split("|") if "=" in pair)
            own.append((columns[1], columns[3], int(misc["Start"]), "SpaceAfter" not in misc))
    return words


def main():
    folder, yarrup, out = pathlib.Path(sys.argv[1]), str(pathlib.Path(sys.argv[2]).resolve()), pathlib.Path(sys.argv[3])
    closed = set()
    for line in (ROOT / "crates/yarrup-core/src/tag/classes-en.txt").read_text(encoding="utf-8").splitlines():
        if line and not line.startswith("#"):
            closed.update(line.split()[1:])
    whole, nouns, tags = read_texts(ROOT / "treebank/en/usage.conllu"), nouns_first(folder), treebank_tags()
    found = [example for example in examples(folder) if example[0] not in whole]
    hard, easy = [], []
    for (text, start, _, tag, is_name), words in zip(found, tagged(yarrup, [text for text, *_ in found])):
        at = next((at for at, word in enumerate(words) if word[2] == start), None)
        if at is None:
            continue
        form, guess = words[at][0], words[at][1]
        small, known = form.lower(), tags[form.lower()]
        if (
            is_name
            or small in closed
            or LEFT_OUT.search(small)
            or form[0].isupper() and at > 0
            or small.endswith(("ed", "ing")) and tag != "ADV"
            or sum(known.values()) >= 8 and tag not in known
            or (tag, guess) == ("ADJ", "NOUN") and small in nouns
        ):
            continue
        (hard if guess != tag else easy).append((text, words, at, tag))
    random.seed(3)
    random.shuffle(easy)
    with out.open("w", encoding="utf-8") as file:
        for number, (text, words, at, tag) in enumerate(hard + easy[: len(hard)], 1):
            file.write(f"# sent_id = examples-{number}\n# text = {text}\n")
            for place, (form, _, _, space) in enumerate(words):
                misc = "_" if space or place + 1 == len(words) else "SpaceAfter=No"
                file.write("\t".join([str(place + 1), form, "_", tag if place == at else "_", *["_"] * 5, misc]) + "\n")
            file.write("\n")
    print(f"{len(hard)} of {len(hard) + len(easy)} examples are tagged otherwise than in the dictionary: {out}")


main()
