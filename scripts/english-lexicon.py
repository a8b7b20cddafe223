#!/usr/bin/env python3
"""Builds crates/yarrup-core/src/lemma/lexicon-en.bin: English base words with their word classes.

Usage: scripts/english-lexicon.py SCOWL_FOLDER HUNSPELL_STEM DICTIONARY_FOLDER [TEXT]

SCOWL_FOLDER holds the lists of Debian's package `scowl` (/usr/share/dict/scowl), HUNSPELL_STEM is the path of en_US.aff and
en_US.dic of the package `hunspell-en-us` without the ending (/usr/share/hunspell/en_US). Both come under the notice in
crates/yarrup-core/src/words/english-LICENCE. DICTIONARY_FOLDER holds the database files of the dictionary that the package `dict-wn` shows; its
licence is treebank/en/usage-LICENCE. TEXT takes the words with their classes, to be read.

A word's classes are those that its inflected forms show: what has -ed, -ing and -s is a verb, what has a possessive or a plural is a
noun, what has -er and -est is an adjective that can be compared; and those that the dictionary lists. Where neither tells, the word's
ending does. Inflected forms are left out, since the rules of the lemmatiser make them again; irregular ones are in
english/irregular.txt, which this script reads.

The file is front-coded: words in the order of their bytes, for each a byte that says how many bytes it shares with the word before, the
rest of it, a zero byte, and a byte of flags: 1 noun, 2 verb, 4 adjective, 8 adverb, 16 can be compared, 32 doubles its last letter, 64
name, 128 rare (above SCOWL's level 50).
"""
import pathlib
import re
import sys

NOUN, VERB, ADJECTIVE, ADVERB, COMPARED, DOUBLES, NAME, RARE = (1 << bit for bit in range(8))
LEVELS = [10, 20, 35, 40, 50, 55, 60, 70]
ROOT = pathlib.Path(__file__).resolve().parent.parent / "crates/yarrup-core/src/lemma"
VOWELS = "aeiou"

# Words whose inflections mislead, or that have none. Checked by hand.
NOT_VERBS = set("""the this that these those there here ever never very hundred sacred kindred indeed greed creed
thing evening morning ceiling nothing something anything everything during sibling pudding wedding herring us as is was has his its news
bus gas yes less unless across always perhaps besides thus plus minus towards afterwards sometimes nowadays outdoors indoors upstairs
downstairs overseas and or but if so not no it he she we they you of in at by for from to with on i a an""".split())
EXTRA = {
    # word: flags that are added
    "fish": NOUN | VERB, "sheep": NOUN, "deer": NOUN, "series": NOUN, "species": NOUN, "aircraft": NOUN, "offspring": NOUN,
    "news": NOUN, "physics": NOUN, "mathematics": NOUN, "economics": NOUN, "politics": NOUN, "ethics": NOUN, "athletics": NOUN,
    "linguistics": NOUN, "statistics": NOUN, "electronics": NOUN, "gymnastics": NOUN, "mechanics": NOUN, "dynamics": NOUN, "acoustics": NOUN,
    "headquarters": NOUN, "means": NOUN, "crossroads": NOUN, "barracks": NOUN, "gallows": NOUN, "premises": NOUN, "thanks": NOUN,
    "trousers": NOUN, "scissors": NOUN, "binoculars": NOUN, "glasses": 0, "clothes": NOUN, "goods": NOUN, "outskirts": NOUN, "surroundings": NOUN,
    "earnings": NOUN, "savings": 0, "belongings": NOUN, "proceedings": NOUN, "lens": NOUN, "mars": 0, "measles": NOUN, "diabetes": NOUN,
    "rabies": NOUN, "herpes": NOUN, "shambles": NOUN, "whereabouts": NOUN, "innings": NOUN, "billiards": NOUN, "darts": 0, "draughts": 0,
    "analytics": NOUN, "logistics": NOUN, "graphics": NOUN, "basics": 0, "optics": NOUN, "genetics": NOUN, "robotics": NOUN, "aesthetics": NOUN,
    "jeans": NOUN, "maths": NOUN, "honest": ADJECTIVE, "modest": ADJECTIVE, "earnest": ADJECTIVE, "shorts": NOUN, "pants": NOUN, "pyjamas": NOUN, "pajamas": NOUN, "tights": NOUN, "tongs": NOUN, "pliers": NOUN, "tweezers": NOUN,
    "gas": NOUN | VERB, "bus": NOUN | VERB, "plus": NOUN, "minus": NOUN, "people": NOUN | VERB, "police": NOUN | VERB, "cattle": NOUN,
    "information": NOUN, "furniture": NOUN, "luggage": NOUN, "equipment": NOUN, "advice": NOUN, "homework": NOUN, "software": NOUN,
    "hardware": NOUN, "underlying": ADJECTIVE, "outlying": ADJECTIVE, "data": NOUN, "media": NOUN, "website": NOUN, "online": ADJECTIVE | ADVERB,
    "email": NOUN | VERB, "blog": NOUN | VERB | DOUBLES, "backend": NOUN, "frontend": NOUN, "filesystem": NOUN, "config": NOUN, "app": NOUN,
    "login": NOUN, "username": NOUN, "smartphone": NOUN, "podcast": NOUN | VERB, "hashtag": NOUN, "selfie": NOUN, "wifi": NOUN, "inbox": NOUN,
    "upload": NOUN | VERB, "download": NOUN | VERB, "reboot": NOUN | VERB, "login": NOUN, "logout": NOUN, "timestamp": NOUN | VERB,
    "checkbox": NOUN, "dropdown": NOUN, "popup": NOUN, "signup": NOUN, "workflow": NOUN, "dashboard": NOUN, "repo": NOUN, "admin": NOUN,
    "birdwatcher": NOUN, "birdwatching": NOUN, "nestling": NOUN, "fledgling": NOUN, "fledge": VERB, "roost": NOUN | VERB, "wader": NOUN,
    "reedbed": NOUN, "saltmarsh": NOUN, "mudflat": NOUN, "boardwalk": NOUN, "shoreline": NOUN, "tern": NOUN, "avocet": NOUN, 
    "text": NOUN | VERB, "message": NOUN | VERB, "tweet": NOUN | VERB, "retweet": NOUN | VERB, "unfollow": VERB, "unsubscribe": VERB,
    "okay": ADJECTIVE | ADVERB | VERB | NOUN, "better": ADVERB, "worse": ADVERB, "fast": ADVERB, "hard": ADVERB, "early": ADVERB, "late": ADVERB,
    "long": ADVERB, "far": ADVERB, "well": ADVERB, "near": ADVERB, "daily": ADVERB, "weekly": ADVERB, "monthly": ADVERB,
}


def read_scowl(folder):
    """Every word with its lowest level; names apart."""
    words, names = {}, {}
    for spelling in ["english", "american", "british", "british_z", "canadian"]:
        for sort, into in [("words", words), ("upper", names), ("proper-names", names)]:
            for level in LEVELS:
                path = folder / f"{spelling}-{sort}.{level}"
                if not path.exists() or (sort != "words" and level > 60):
                    continue
                for word in path.read_text(encoding="latin-1").split():
                    into.setdefault(word, level)
                    into[word] = min(into[word], level)
    return words, names


def read_hunspell(stem):
    """The entries of the dictionary with their flags."""
    entries = {}
    for line in pathlib.Path(f"{stem}.dic").read_text(encoding="utf-8").splitlines()[1:]:
        word, _, flags = line.partition("/")
        entries.setdefault(word, set()).update(flags.split()[0] if flags else "")
    return entries


def read_classes(folder):
    """The classes of words in the dictionary: of nouns and verbs those that its texts have, or that are nothing else."""
    classes, counted = {}, set()
    for line in (folder / "cntlist.rev").read_text(encoding="latin-1").splitlines():
        word, _, sense = line.split()[0].partition("%")
        counted.add((word, {"1": NOUN, "2": VERB, "3": ADJECTIVE, "4": ADVERB, "5": ADJECTIVE}[sense[0]]))
    for name, flag in [("noun", NOUN), ("verb", VERB), ("adj", ADJECTIVE), ("adv", ADVERB)]:
        for line in (folder / f"index.{name}").read_text(encoding="latin-1").splitlines():
            word = line.split(" ")[0]
            if re.fullmatch(r"[a-z]{3,}", word):
                classes.setdefault(word, {})[flag] = (word, flag) in counted
    return {
        word: sum(flag for flag, is_used in flags.items() if is_used or flag & (ADJECTIVE | ADVERB) or len(flags) == 1)
        for word, flags in classes.items()
    }


def irregular():
    """Forms that are irregular for a tag, and the lemmas that have such forms."""
    forms, lemmas = {}, {}
    for line in (ROOT / "english" / "irregular.txt").read_text(encoding="utf-8").splitlines():
        if not line or line.startswith("#"):
            continue
        tag, lemma, *rest = line.split()
        lemmas.setdefault((tag, lemma), []).extend(form.rstrip("~") for form in rest)
        for form in rest:
            if not form.endswith("~"):
                forms.setdefault(form, set()).add((tag, lemma))
    return forms, lemmas


def plural(word):
    if re.search(r"(s|x|z|ch|sh)$", word):
        return word + "es"
    if re.search(r"[^aeiou]y$", word):
        return word[:-1] + "ies"
    return word + "s"


def with_ending(word, ending, doubled):
    """The word with -ed, -ing, -er or -est."""
    if doubled:
        return word + word[-1] + ending
    if ending == "ing":
        if word.endswith("ie"):
            return word[:-2] + "ying"
        if word.endswith("e") and not re.search(r"(ee|oe|ye)$", word):
            return word[:-1] + "ing"
        return word + "ing"
    if word.endswith("e"):
        return word + ending[1:]
    if re.search(r"[^aeiou]y$", word):
        return word[:-1] + "i" + ending
    return word + ending


def can_double(word):
    return bool(re.search(r"(^|[^aeiou]|qu)[aeiou][bdfgklmnprstvz]$", word)) or word.endswith("l")


ENDINGS = [
    (NOUN, r"(ness|tion|sion|ment|ity|ism|ist|ship|hood|ance|ence|ancy|ency|ology|graphy|metry|itis|osis|ician|dom|ware|ography)$"),
    (ADVERB, r"[a-z]{2}ly$"),
    (ADJECTIVE, r"(ous|ful|less|able|ible|ive|ical|ial|ual|ish|ary|ic|esque|some|like|proof|al|ar|ed|ing|oid|worthy|ward|fold)$"),
    (NOUN, r"(er|or|age|ure|ist|ant|ent|ine|ide|ate|ling|ster|man|woman|eer|ite|cy|ry|um|us|on|a|o|y)$"),
]


def main():
    folder = pathlib.Path(sys.argv[1])
    words, names = read_scowl(folder)
    entries = read_hunspell(sys.argv[2])
    listed_classes = read_classes(pathlib.Path(sys.argv[3]))
    forms, lemmas = irregular()
    plain = {word for word in words if re.fullmatch(r"[a-z]+", word) and len(word) > 1}
    listed = set(plain) | set(EXTRA)
    plain |= set(EXTRA)
    possessed = {word[:-2] for word in words if word.endswith("'s")}
    level = lambda word: words.get(word, 70)

    def verb_doubling(word):
        """None if the word has no -ed and -ing; else whether its last letter is doubled."""
        past_irregular = lemmas.get(("VERB", word))
        for doubled in doublings(word):
            ing, ed = with_ending(word, "ing", doubled), with_ending(word, "ed", doubled)
            if ing in plain and (ed in plain or past_irregular is not None):
                return doubled
        return None

    def doublings(word):
        """Whether the last letter may be doubled, the likelier first. `hoping` is of `hope`, not of `hop`."""
        if not can_double(word):
            return [False]
        if word + "e" in plain:
            return [True]
        return [True, False] if not word.endswith("l") else [False, True]

    # What hunspell's flags give, made into forms, so that one rule serves both sources.
    for word, flags in entries.items():
        if word not in listed:
            continue
        if "G" in flags:
            plain.add(with_ending(word, "ing", False))
        if "D" in flags:
            plain.add(with_ending(word, "ed", False))
        if "S" in flags:
            plain.add(plural(word))
        if "M" in flags:
            possessed.add(word)
        if "R" in flags and "T" in flags:
            plain.add(with_ending(word, "er", False))
            plain.add(with_ending(word, "est", False))

    classes, inferred = {}, {}
    for word in listed:
        flags = 0
        hunspell = entries.get(word, set())
        if ("VERB", word) in lemmas or ("AUX", word) in lemmas:
            flags |= VERB
        if word not in NOT_VERBS:
            doubled = verb_doubling(word)
            long_enough = len(word) > 2 or ("VERB", word) in lemmas
            if doubled is not None and long_enough and plural(word) in plain:
                flags |= VERB | (DOUBLES if doubled else 0)
        if word in possessed or ("NOUN", word) in lemmas or (not flags & VERB and plural(word) in plain and word not in NOT_VERBS):
            flags |= NOUN
        for doubled in doublings(word):
            superlative = with_ending(word, "est", doubled)
            # `honest` is no superlative: it has an adverb of its own.
            if superlative in plain and with_ending(word, "er", doubled) in plain and superlative + "ly" not in plain:
                flags |= ADJECTIVE | COMPARED | (DOUBLES if doubled else 0)
        if ("ADJ", word) in lemmas:
            flags |= ADJECTIVE
        if "Y" in hunspell or word + "ly" in plain or (word.endswith("le") and word[:-1] + "y" in plain) or (
            word.endswith("ic") and word + "ally" in plain) or (word.endswith("y") and word[:-1] + "ily" in plain):
            if not flags & VERB or re.search(r"(ous|ful|less|able|ible|ive|ic|al|ent|ant)$", word) or word in possessed or flags & COMPARED:
                if not re.search(r"(ly|ing)$", word) and (not flags & NOUN or flags & COMPARED or re.search(
                        r"(ous|ful|less|able|ible|ive|ic|al|ent|ant|ish|ary|ar|id|ane|ite|ure|ect|act|it|ual)$", word)):
                    flags |= ADJECTIVE
        if re.search(r"[a-z]ly$", word) and (word[:-2] in plain or word[:-3] + "y" in plain or word[:-1] + "e" in plain or word[:-4] in plain):
            if not flags & (NOUN | VERB | COMPARED):
                flags |= ADVERB
        # A name is not what the word of the same letters is: `Windows`, `Numbers`.
        inferred[word] = flags | EXTRA.get(word, 0)
        if word in EXTRA:
            flags |= EXTRA[word]
        elif word not in NOT_VERBS:
            more = listed_classes.get(word, 0)
            # `uprising` is a noun of its own and not of a rare verb, `crosses` are no sticks of lacrosse.
            if listed_classes.get(with_ending(word, "ing", False), 0):
                more &= ~VERB
            if word in forms or word.endswith("men") or level(word) > 50 and (not flags or word[:-1] in plain and plural(word[:-1]) == plural(word)):
                more &= ~NOUN
            flags |= more
        classes[word] = flags

    # Inflected forms of a base go, unless they are words of their own right: have a possessive, say, or are adjectives in -ly.
    inflected = {}
    for word, flags in classes.items():
        doubled = bool(flags & DOUBLES)
        if flags & NOUN:
            inflected.setdefault(plural(word), []).append(word)
        if flags & VERB:
            for form in [plural(word), with_ending(word, "ing", doubled and flags & VERB), with_ending(word, "ed", doubled and flags & VERB)]:
                inflected.setdefault(form, []).append(word)
        if flags & COMPARED:
            for form in [with_ending(word, "er", doubled), with_ending(word, "est", doubled)]:
                inflected.setdefault(form, []).append(word)
    kept = {}
    for word, flags in classes.items():
        if word in EXTRA:
            pass
        elif word in forms and not flags & (VERB | ADJECTIVE) and not word in possessed:
            continue
        elif word in inflected:
            base = min(inflected[word], key=level)
            own = word in possessed or (flags & (VERB | COMPARED) and not word.endswith(("ss", "ing", "ed")))
            # A plural is a word of its own right only where its singular is much rarer (`news`, `series`).
            if word == plural(base):
                own = own and level(base) > level(word) + 10 and word in possessed
                if not own:
                    continue
                flags &= ~VERB
            elif word.endswith("est"):
                continue
            elif word.endswith("ed"):
                # `bed` and `seed` are no forms of `be` and `see`.
                own = word in possessed and (word.endswith("eed") or len(word) == 3)
                # Participles in -ed that are adjectives: they have -ly or -ness, or a negative in un-.
                if not own and (word + "ly" in plain or word + "ness" in plain or "un" + word in plain):
                    flags, own = ADJECTIVE, True
                if not own:
                    continue
            elif word.endswith("ing"):
                flags &= NOUN
                if word + "ly" in plain or "un" + word in plain:
                    flags |= ADJECTIVE
                if not flags:
                    continue
            elif word.endswith("er") and not word in possessed and not flags & VERB:
                continue
        if not flags & (NOUN | VERB | ADJECTIVE | ADVERB):
            for sort, pattern in ENDINGS:
                if re.search(pattern, word):
                    flags |= sort
                    break
            # What no inflection and no ending tells is left to the tagger, but is known to be a word.
        if level(word) > 50:
            if not flags:
                continue
            flags |= RARE
        kept[word] = flags
    for name in names:
        if re.fullmatch(r"[A-Z][A-Za-z]+", name) and not name.endswith("'s"):
            low = name.lower()
            kept[low] = kept.get(low, 0 if low not in plain else inferred.get(low, 0)) | NAME
    out, before = bytearray(), b""
    for word in sorted(kept, key=str.encode):
        letters = word.encode()
        shared = 0
        while shared < min(len(letters), len(before), 255) and letters[shared] == before[shared]:
            shared += 1
        out += bytes([shared]) + letters[shared:] + b"\0" + bytes([kept[word]])
        before = letters
    (ROOT / "lexicon-en.bin").write_bytes(out)
    for flag, name in [(NOUN, "nouns"), (VERB, "verbs"), (ADJECTIVE, "adjectives"), (ADVERB, "adverbs"), (NAME, "names"), (RARE, "rare")]:
        print(f"{sum(1 for flags in kept.values() if flags & flag)} {name}")
    print(f"{sum(1 for flags in kept.values() if not flags & 15)} without a class")
    print(f"{len(kept)} words, {len(out)} bytes")
    if len(sys.argv) > 4:
        letters = "NVARcd^-"
        with open(sys.argv[4], "w") as text:
            for word in sorted(kept):
                text.write(word + " " + "".join(letters[bit] for bit in range(8) if kept[word] >> bit & 1) + "\n")


main()
