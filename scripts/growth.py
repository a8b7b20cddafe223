#!/usr/bin/env python3
"""Measures how time and memory grow with a collection: tables of seconds and peak memory, and the exponent of growth.

  growth.py YARRUP CORPUS.jsonl [--recipe FILE] [--megabytes 10,100,1000] [--runs 3] [--scratch DIR]

CORPUS has one document a line, with a field `text`; CONTRIBUTING says how to make one. Larger sizes repeat it in a new order each time, and every copy
but the first has four words in a thousand changed into forms that nothing else has: the vocabulary of real collections grows as well. Beside the sizes,
one size is cut into other shapes: many tiny documents, few huge ones, few forms, very many forms. Every run gives the account and the report, no
documents. The least of the runs is told: the others only waited for somebody else. An exponent of 1 means that time grows as the collection does.
"""
import argparse, json, math, multiprocessing, os, random, re, shutil, subprocess, sys, tempfile, time

RECIPE = """
[[step]]
do = "case"
[[step]]
do = "split"
[[step]]
do = "stopwords"
lists = ["en"]
[[step]]
do = "drop"
kinds = ["punctuation", "number", "symbol"]
[[step]]
do = "stem"
method = "porter2"
language = "en"
"""
WORD = re.compile(r"[A-Za-z]{3,}")


def texts(corpus):
    """The texts of a corpus, over and over, each time in a new order and with new words in it."""
    with open(corpus, encoding="utf-8") as lines:
        all_texts = [json.loads(line)["text"] for line in lines]
    copy = 0
    while True:
        chance = random.Random(copy)
        order = all_texts if copy == 0 else chance.sample(all_texts, len(all_texts))
        for text in order:
            yield text if copy == 0 else with_new_words(text, chance, 0.004)
        copy += 1


def with_new_words(text, chance, share):
    new = lambda word: word.group() + "".join(chance.choices("abcdefghijklmnopqrstuvwxyz", k=6))
    return WORD.sub(lambda word: new(word) if chance.random() < share else word.group(), text)


def write(path, documents, megabytes):
    """Writes documents until there are so many megabytes of them."""
    size = 0
    with open(path, "w", encoding="utf-8") as out:
        for number, text in enumerate(documents):
            line = json.dumps({"id": str(number), "text": text}, ensure_ascii=False) + "\n"
            out.write(line)
            size += len(line.encode())
            if size >= megabytes * 1e6:
                return


def tiny(corpus):
    for text in texts(corpus):
        yield from filter(None, re.split(r"(?<=[.!?])\s+|\n", text))


def huge(corpus, megabytes):
    gathered, size = [], 0
    for text in texts(corpus):
        gathered.append(text)
        size += len(text)
        if size > megabytes * 1e6:
            yield "\n\n".join(gathered)
            gathered, size = [], 0


def few_forms(corpus):
    first = [text for text, _ in zip(texts(corpus), range(20))]
    while True:
        yield from first


def many_forms(corpus):
    chance = random.Random(7)
    for text in texts(corpus):
        yield with_new_words(text, chance, 0.1)


def once(command):
    begin = time.perf_counter()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    _, status, use = os.wait4(child.pid, 0)
    if status:
        sys.exit(f"{' '.join(command)}: {child.stderr.read().decode()}")
    return time.perf_counter() - begin, use.ru_maxrss / 1024


def measured(options, recipe, path, scratch):
    """Seconds by threads, peak memory by threads, and the counts of the run."""
    out, seconds, peaks = os.path.join(scratch, "run"), {}, {}
    for threads in (1, 2):
        runs = []
        for _ in range(options.runs):
            shutil.rmtree(out, ignore_errors=True)
            command = [options.yarrup, "run", recipe, path, "--out", out, "--threads", str(threads), "--write", "report"]
            runs.append(once(command))
        seconds[threads], peaks[threads] = min(run[0] for run in runs), max(run[1] for run in runs)
    with open(os.path.join(out, "run.json"), encoding="utf-8") as record:
        totals = json.load(record)["totals"]
    with open(os.path.join(out, "forms.csv"), encoding="utf-8") as forms:
        return seconds, peaks, totals["documents"], totals["tokens_found"], sum(1 for _ in forms) - 1


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("yarrup")
    parser.add_argument("corpus")
    parser.add_argument("--recipe")
    parser.add_argument("--megabytes", default="10,100,1000")
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--scratch")
    options = parser.parse_args()
    scratch = tempfile.mkdtemp(dir=options.scratch)
    recipe = options.recipe or os.path.join(scratch, "stems.toml")
    if not options.recipe:
        with open(recipe, "w", encoding="utf-8") as file:
            file.write(RECIPE)
    sizes = [float(size) for size in options.megabytes.split(",")]
    middle = sorted(sizes)[len(sizes) // 2]
    collections = [(f"{size:g} MB", size, lambda: texts(options.corpus)) for size in sizes]
    collections += [
        (f"{middle:g} MB, tiny documents", middle, lambda: tiny(options.corpus)),
        (f"{middle:g} MB, huge documents", middle, lambda: huge(options.corpus, middle / 8)),
        (f"{middle:g} MB, few forms", middle, lambda: few_forms(options.corpus)),
        (f"{middle:g} MB, very many forms", middle, lambda: many_forms(options.corpus)),
    ]
    print("| collection | documents | tokens | forms | s, 1 thread | exponent | s, 2 threads | MB, 1 | MB, 2 |")
    print("| --- | --- | --- | --- | --- | --- | --- | --- | --- |")
    before = None
    try:
        for name, size, documents in collections:
            path = os.path.join(scratch, "collection.jsonl")
            # In a process of its own: the peak of a child is never told as less than its parent had when it began.
            writer = multiprocessing.get_context("fork").Process(target=lambda: write(path, documents(), size))
            writer.start()
            writer.join()
            seconds, peaks, count, tokens, forms = measured(options, recipe, path, scratch)
            exponent = ""
            if before and "," not in name:
                exponent = f"{math.log(seconds[1] / before[1]) / math.log(size / before[0]):.2f}"
            if "," not in name:
                before = (size, seconds[1])
            print(
                f"| {name} | {count:,} | {tokens:,} | {forms:,} | {seconds[1]:.2f} | {exponent} | {seconds[2]:.2f} "
                f"| {peaks[1]:.0f} | {peaks[2]:.0f} |",
                flush=True,
            )
    finally:
        shutil.rmtree(scratch, ignore_errors=True)


if __name__ == "__main__":
    main()
