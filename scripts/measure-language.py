#!/usr/bin/env python3
"""Makes the figures of docs/ about language again, from the data in scripts/language and the treebank.

Usage: scripts/measure-language.py [YARRUP]

YARRUP is the built program (default target/release/yarrup). Lemmas need the dictionaries in Hunspell's format of fifteen languages; what is not
installed is said and left out. All texts and words were written for this project.
"""
import collections
import csv
import json
import pathlib
import subprocess
import sys
import tempfile

ROOT = pathlib.Path(__file__).resolve().parent.parent
DATA = ROOT / "scripts/language"
YARRUP = sys.argv[1] if len(sys.argv) > 1 else str(ROOT / "target/release/yarrup")


def table(name):
    with open(DATA / name, encoding="utf-8") as file:
        return list(csv.DictReader(file, delimiter="\t", quoting=csv.QUOTE_NONE))


def run(*arguments, text=""):
    return subprocess.run([YARRUP, *arguments], input=text, capture_output=True, text=True)


def cleaned(recipe, texts):
    """What the recipe makes of each text; none if it cannot be done."""
    with tempfile.NamedTemporaryFile("w", suffix=".toml") as file:
        file.write(recipe)
        file.flush()
        done = run("pipe", file.name, text="".join(json.dumps({"text": text}) + "\n" for text in texts))
    if done.returncode != 0:
        return None, done.stderr.strip().split("\n")[0]
    return [json.loads(line).get("clean", "") for line in done.stdout.splitlines()], ""


def share(right, all_of_them):
    return f"{right} of {all_of_them}, {100 * right / max(all_of_them, 1):.1f} %"


def lemmas():
    print("Lemmas, by dictionary and without tags (sets: in the order in which they were written; each was mended for before the next)")
    for language in dict.fromkeys(row["language"] for row in table("lemmas.tsv")):
        rows = [row for row in table("lemmas.tsv") if row["language"] == language]
        recipe = f'language = "{language}"\n[[step]]\ndo = "split"\n[[step]]\ndo = "lemma"\n'
        found, why = cleaned(recipe, [row["form"] for row in rows])
        if found is None:
            print(f"  {language}: left out: {why}")
            continue
        sets = collections.defaultdict(lambda: [0, 0])
        for row, lemma in zip(rows, found):
            # Of some forms, several lemmas are right.
            sets[row["set"]][0] += lemma in row["lemma"].split("|")
            sets[row["set"]][1] += 1
        print(f"  {language}: " + "; ".join(f"{name} {share(*counts)}" for name, counts in sets.items()))


def stemmers():
    print("Stemmers: pairs of forms of one word that are not joined, and pairs of forms of two that are")
    groups = collections.defaultdict(lambda: collections.defaultdict(set))
    for row in (row for row in table("lemmas.tsv") if row["set"] in ("first", "second", "third")):
        groups[row["language"]][row["lemma"].lower()] |= {row["lemma"].lower(), row["form"].lower()}
    for language, words in groups.items():
        with tempfile.NamedTemporaryFile("w", suffix=".txt") as file:
            file.write("".join(" ".join(sorted(group)) + "\n" for group in words.values() if len(group) > 1))
            file.flush()
            done = run("reduce", "--groups", file.name, "--language", language, "--with", "light,full", "--format", "csv")
        if done.returncode == 0:
            print(f"  {language}\n    " + done.stdout.strip().replace("\n", "\n    "))


def languages():
    print("Language of a short text")
    rows = table("texts.tsv")
    recipe = '[[step]]\ndo = "case"\nto = "upper"\nonly = { language = "%s" }\n'
    told = collections.Counter()
    wrong = []
    codes = dict.fromkeys(row["language"] for row in rows)
    names = {}
    for code in codes:
        found, why = cleaned(recipe % code, [row["text"] for row in rows])
        if found is None:
            print("  cannot be asked:", why)
            return
        for number, (row, text) in enumerate(zip(rows, found)):
            if text != row["text"]:
                names[number] = code
    for number, row in enumerate(rows):
        name = names.get(number)
        told["right" if name == row["language"] else "none" if name is None else "wrong"] += 1
        if name not in (None, row["language"]):
            wrong.append(f"{row['text']} ({name})")
    print(f"  right {share(told['right'], len(rows))}; not told {told['none']}; wrong {told['wrong']}: {'; '.join(wrong)}")


def contractions():
    print("'s and 'd")
    rows = table("contractions.tsv")
    found, why = cleaned('language = "en"\n[[step]]\ndo = "contractions"\n', [row["text"] for row in rows])
    if found is None:
        print("  cannot be asked:", why)
        return
    wrong = [f"{row['text']} -> {text}" for row, text in zip(rows, found) if text != row["written out"]]
    print(f"  right {share(len(rows) - len(wrong), len(rows))}: {'; '.join(wrong)}")


def tagger():
    print("Tagger, ten folds of the treebank")
    classes = ROOT / "crates/yarrup-core/src/tag/word-classes-en.txt"
    treebanks = map(str, sorted((ROOT / "treebank/en").glob("*.conllu")))
    done = run("learn", *treebanks, "--word-classes", str(classes), "--folds", "10")
    print("  " + (done.stdout or done.stderr).strip().replace("\n", "\n  "))


for measure in (lemmas, stemmers, languages, contractions, tagger):
    measure()
    print()
