#!/usr/bin/env python3
"""Checks the treebank: usage scripts/check-treebank.py [FILE.conllu …] (default: treebank/en/*.conllu). Ends with 1 if anything is wrong.

Checked are, of every file: ten columns, numbers from 1, unique sent_id, the text against the words and their SpaceAfter, a universal tag and a
lemma on every word, or neither (words of examples that nobody tagged); words of closed classes only with the tags that they can have; no closed tag on a word that is not in its list; lemmas of
closed classes; letters and digits where the tag wants them.
"""
import collections
import pathlib
import re
import sys

TAGS = "ADJ ADP ADV AUX CCONJ DET INTJ NOUN NUM PART PRON PROPN PUNCT SCONJ SYM VERB X".split()
CLOSED = {
    "ADP": """of in on at by for from with into onto about over under through during against among amongst between to towards toward within without
        across behind beyond beside besides near per via upon off up out down above below along around throughout inside outside despite except as like
        than unlike but beneath underneath until till before after since past amid regarding concerning alongside round less v re notwithstanding circa""",
    "AUX": """am is are was were be been being 'm 're 's 'd 'll 've have has had having do does did will would can could may might shall should must ca
        wo ought need gonna ai hath cant wanna dare cannot im dont didnt thats whats lets its""",
    "CCONJ": "and or but nor & plus yet either neither both",
    "DET": """the a an every each some any no another both all either neither this that these those what which whichever whatever half such""",
    "PART": "to not n't 's ' nt",
    "PRON": """i me you he him she her it we us they them my your his its our their mine yours hers ours theirs myself yourself himself herself
        itself ourselves yourselves themselves who whom whose what which someone somebody something anyone anybody anything everyone everybody
        everything nobody nothing none oneself whoever whatever whichever another u ur ya dis y'all this that these those there one all some any each both either
        neither such 's others half 'em ye thou thee thy thine 't whoso""",
    "SCONJ": """if because although though unless whether while whereas whilst that when where once since until till before after as than lest so
        whenever wherever how like except whereby""",
}
CLOSED = {tag: set(words.split()) for tag, words in CLOSED.items()}
LEMMAS = {("n't", "PART"): {"not"}, ("an", "DET"): {"a"}, ("them", "PRON"): {"they"}, ("him", "PRON"): {"he"}, ("us", "PRON"): {"we"}, ("i", "PRON"): {"I"},
          ("was", "AUX"): {"be"}, ("is", "AUX"): {"be"}, ("are", "AUX"): {"be"}, ("'s", "AUX"): {"be", "have"}, ("'d", "AUX"): {"would", "have"},
          ("ca", "AUX"): {"can"}, ("wo", "AUX"): {"will"}, ("has", "AUX"): {"have"}, ("did", "AUX"): {"do"}}


def check(path, seen, told, counts):
    def fault(line, what):
        told.append(f"{path}:{line}: {what}")

    sentence, text, ident, words = 1, None, None, []
    lines = path.read_text(encoding="utf-8").split("\n")
    for number, line in enumerate(lines + [""], 1):
        if line.startswith("# text = "):
            text = line[9:]
        elif line.startswith("# sent_id = "):
            ident = line[12:]
            if ident in seen:
                fault(number, f"sent_id {ident} again")
            seen.add(ident)
        elif line.startswith("#"):
            pass
        elif line:
            cells = line.split("\t")
            if len(cells) != 10:
                fault(number, f"{len(cells)} columns")
                continue
            if cells[0] != str(len(words) + 1):
                fault(number, f"number {cells[0]} where {len(words) + 1} comes")
            words.append((number, cells))
        elif words:
            made = "".join(cells[1] + ("" if "SpaceAfter=No" in cells[9] else " ") for _, cells in words).strip()
            if made != text:
                fault(words[0][0], f"the words make `{made}`, the text is `{text}`")
            counts["sentences"] += 1
            of_example = 2 * sum(cells[3] == "_" for _, cells in words) >= len(words)
            for at, cells in words:
                word(at, cells, of_example, fault, counts)
            words, text, ident = [], None, None
    return sentence


def word(at, cells, of_example, fault, counts):
    form, lemma, tag = cells[1], cells[2], cells[3]
    small = form.lower()
    if tag == "_" and lemma == "_":
        counts["untagged"] += 1
        return
    counts["words"] += 1
    if tag not in TAGS:
        fault(at, f"`{tag}` is no universal tag")
        return
    counts[tag] += 1
    if not lemma or lemma == "_" and not of_example:
        fault(at, f"`{form}` has no lemma")
    if tag in CLOSED and small not in CLOSED[tag]:
        fault(at, f"`{form}` as {tag}")
    if tag in ("NOUN", "VERB", "ADJ", "ADV", "PROPN") and not re.search(r"\w", form) and form != "@":
        fault(at, f"`{form}` as {tag}")
    if tag == "PUNCT" and re.search(r"\w", form):
        fault(at, f"`{form}` as {tag}")
    if (small, tag) in LEMMAS and lemma not in LEMMAS[small, tag]:
        fault(at, f"`{form}` as {tag} has the lemma `{lemma}`")


def main():
    root = pathlib.Path(__file__).resolve().parent.parent
    paths = [pathlib.Path(name) for name in sys.argv[1:]] or sorted((root / "treebank/en").glob("*.conllu"))
    seen, told, counts = set(), [], collections.Counter()
    for path in paths:
        check(path, seen, told, counts)
    print("\n".join(told))
    print(f"{len(paths)} files, {counts['sentences']} sentences, {counts['words']} words with tags, {counts['untagged']} without, {len(told)} faults")
    print(", ".join(f"{tag} {counts[tag]}" for tag in TAGS))
    sys.exit(1 if told else 0)


main()
