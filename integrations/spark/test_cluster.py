"""A cluster for real: what Spark makes of many documents must be what one run makes of them, also when a process is killed in the middle.

    PYTHON=… cluster.sh start
    python test_cluster.py spark://127.0.0.1:7077 PATH/yarrup [NOTES.jsonl]

Without notes of your own, a million documents are made of those of the demo.
"""

import csv
import hashlib
import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time

from pyarrow import dataset
from pyspark.sql import SparkSession

here = os.path.dirname(os.path.abspath(__file__))
sys.path.insert(0, here)
from yarrup_spark import Yarrup  # noqa: E402

RECIPE = """language = "en"
[[step]]
do = "case"
[[step]]
do = "split"
[[step]]
do = "stopwords"
lists = ["lists/ours.txt"]
[[step]]
do = "drop"
kinds = ["punctuation"]
[[step]]
do = "stem"
"""
LEARNS = RECIPE + """[[step]]
do = "stopwords"
share = 0.2
[[step]]
do = "limit"
min_documents = 3
"""
TABLES = ["vocabulary.csv", "forms.csv", "effects.csv", "matches.csv", "lengths.csv"]


def done(name, since):
    print(f"ok  {time.time() - since:7.1f} s  {name}", flush=True)


def notes_of_demo(binary, folder, count):
    """Documents of the demo, over and over, each time with other numbers, so that no two lines are alike."""
    subprocess.run([binary, "-q", "demo", "--into", f"{folder}/demo"], check=True, stdout=subprocess.DEVNULL)
    run = f"{folder}/demo/runs"
    texts = []
    for name in sorted(os.listdir(run)):
        path = f"{run}/{name}/documents.jsonl"
        with open(path, encoding="utf-8") as file:
            texts += [text for line in file if (text := json.loads(line).get("text"))]
    path = f"{folder}/notes.jsonl"
    with open(path, "w", encoding="utf-8") as file:
        for number in range(count):
            text = f"{texts[number % len(texts)]} Note {number // len(texts)}."
            file.write(json.dumps({"id": str(number), "text": text}, ensure_ascii=False) + "\n")
    return path


def digest(rows):
    """A number for all rows in whatever order: the sum of the hashes of each."""
    total, count = 0, 0
    for row in rows:
        text = "\x1f".join(str(cell) for cell in row)
        total += int.from_bytes(hashlib.sha256(text.encode()).digest()[:16], "big")
        count += 1
    return total & (1 << 128) - 1, count


def killer(pattern, stop, victim=None):
    """Kills a process whose command matches, a moment after there is one; or another then."""

    def work():
        while not stop.is_set():
            found = subprocess.run(["pgrep", "-f", pattern], stdout=subprocess.PIPE, text=True).stdout.split()
            if found:
                time.sleep(0.2)
                if victim is not None:
                    found = subprocess.run(["pgrep", "-f", victim], stdout=subprocess.PIPE, text=True).stdout.split()
                try:
                    os.kill(int(found[0]), signal.SIGKILL)
                    killed.append(found[0])
                    return
                except ProcessLookupError:
                    pass
            time.sleep(0.02)

    killed = []
    threading.Thread(target=work, daemon=True).start()
    return killed


def main(master, binary, notes=None):
    began = time.time()
    home = tempfile.TemporaryDirectory(prefix="yarrup-cluster-")
    folder = home.name
    os.mkdir(f"{folder}/lists")
    for name, text in [("words.toml", RECIPE), ("learns.toml", LEARNS), ("lists/ours.txt", "the\nand\nof\na\n")]:
        with open(f"{folder}/{name}", "w", encoding="utf-8") as file:
            file.write(text)
    notes = notes or notes_of_demo(binary, folder, int(os.environ.get("DOCUMENTS", 1_000_000)))
    done(f"{os.path.getsize(notes) / 1e6:.0f} MB of notes", began)

    since = time.time()
    spark = (
        SparkSession.builder.master(master)
        .appName("yarrup")
        .config("spark.driver.host", "127.0.0.1")
        .config("spark.driver.bindAddress", "127.0.0.1")
        .config("spark.ui.enabled", "false")
        .config("spark.executor.memory", "1500m")
        .config("spark.task.maxFailures", "4")
        .getOrCreate()
    )
    spark.sparkContext.setLogLevel("ERROR")
    spark.sparkContext.addPyFile(f"{here}/yarrup_spark.py")
    yarrup = Yarrup(spark, binary=binary)
    rows = spark.read.schema("id string, text string").json(notes).repartition(8) if notes.endswith(".gz") else (
        spark.read.schema("id string, text string").option("maxPartitionBytes", 16 << 20).json(notes)
    )
    workers = spark.sparkContext._jsc.sc().getExecutorMemoryStatus().size() - 1
    spoken = "Arrow" if yarrup.speaks_arrow else "JSON"
    done(f"a session with {workers} executors, {rows.rdd.getNumPartitions()} partitions, {spoken}", since)
    if master != "local" and not master.startswith("local["):
        assert workers == 2, f"{workers} workers"

    since = time.time()
    words = f"{folder}/words.toml"
    subprocess.run([binary, "-q", "run", words, notes, "--out", f"{folder}/whole"], check=True, stdout=subprocess.DEVNULL)
    done("one run on this machine", since)
    documents = subprocess.Popen(
        [binary, "-q", "export", f"{folder}/whole", "--what", "documents", "--as", "jsonl", "--out", f"{folder}/whole.jsonl"]
    )
    assert documents.wait() == 0
    with open(f"{folder}/whole.jsonl", encoding="utf-8") as file:
        cleaned = (json.loads(line) for line in file)
        expected = digest((row["id"], row["clean"], row["tokens_before"], row["tokens_after"]) for row in cleaned)

    def clean(name):
        out = f"{folder}/{name}.parquet"
        result = yarrup.clean(rows, words, id="id")
        result.select("id", "clean", "tokens_before", "tokens_after", "error").write.parquet(out)
        # The files lie on this machine: a driver need not hold them.
        columns = ["id", "clean", "tokens_before", "tokens_after", "error"]
        batches = dataset.dataset(out, format="parquet").to_batches(columns=columns)
        found = (row for batch in batches for row in zip(*(batch.column(name).to_pylist() for name in columns)))
        got = digest(row[:4] for row in found if row[4] is None)
        assert got == expected, f"{name}: {got[1]} rows, expected {expected[1]}"

    since = time.time()
    clean("clean")
    done(f"clean: {expected[1]} rows, each as in one run", since)

    since = time.time()
    stop = threading.Event()
    killed = killer("yarrup -q pipe", stop)
    clean("killed-child")
    stop.set()
    assert killed, "no process was there to be killed"
    done(f"the same with process {killed[0]} killed in the middle", since)

    since = time.time()
    if not master.startswith("local"):
        stop = threading.Event()
        killed = killer("yarrup -q pipe", stop, "CoarseGrainedExecutorBackend")
        clean("killed-executor")
        stop.set()
        assert killed, "no executor was there to be killed"
        done(f"the same with executor {killed[0]} killed in the middle", since)

    since = time.time()
    record = yarrup.account(rows, words, f"{folder}/run", id="id")
    assert record["totals"]["documents"] == expected[1]
    for table in TABLES:
        with open(f"{folder}/run/{table}", "rb") as one, open(f"{folder}/whole/{table}", "rb") as other:
            assert one.read() == other.read(), table
    done("account: the tables of one run, to the byte", since)

    since = time.time()
    subprocess.run([binary, "-q", "run", f"{folder}/learns.toml", notes, "--out", f"{folder}/learned", "--write", "none"],
                   check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    rounds = yarrup.learn(rows, f"{folder}/learns.toml", f"{folder}/frozen.toml", id="id")
    with open(f"{folder}/frozen.toml", "rb") as one, open(f"{folder}/learned/frozen.toml", "rb") as other:
        assert one.read() == other.read()
    record = yarrup.account(rows, f"{folder}/frozen.toml", f"{folder}/run-2", id="id")
    with open(f"{folder}/run-2/vocabulary.csv", newline="") as one, open(f"{folder}/learned/vocabulary.csv", newline="") as other:
        assert list(csv.reader(one)) == list(csv.reader(other))
    done(f"learn: in {rounds} rounds, what one run learns", since)

    since = time.time()
    odd = spark.createDataFrame(
        [("1", "Two terns", 5.0), ("2", None, 6.0), ("3", "Gulls", float("nan"))], "id string, text string, extra double"
    )
    found = {row.id: row for row in yarrup.clean(odd, words, id="id", fields=["extra"]).collect()}
    assert found["1"].clean == "two tern" and found["1"].extra == 5
    # Without a text there is nothing to clean; what is no JSON is one bad row, and no other row is lost for it.
    assert found["2"].clean == "" and found["2"].tokens_before == 0
    if yarrup.speaks_arrow:
        assert found["3"].clean == "gull" and found["3"].error is None, found["3"]
        yarrup.speaks_arrow = False
        found = {row.id: row for row in yarrup.clean(odd, words, id="id", fields=["extra"]).collect()}
    assert found["3"].clean is None and "JSON" in found["3"].error, found["3"]
    try:
        yarrup.clean(odd, words, id="id", fields=["extra"], errors="fail").collect()
    except Exception as failure:  # what Spark raises is its own
        assert "not valid JSON" in str(failure), failure
    else:
        raise AssertionError("a row that is no document did not fail the job")
    empty = yarrup.clean(odd.where("id = '4'"), words, id="id")
    assert empty.count() == 0 and "clean" in empty.columns
    done("rows without a text, rows that are no document, and no rows", since)
    spark.stop()


if __name__ == "__main__":
    main(*sys.argv[1:])
