"""Clean the text of a DataFrame with Yarrup, in Apache Spark.

Spark parts the data, moves it, and tries again what failed; `yarrup pipe` does the work, one process for each task. Nothing else is needed on the
workers than Python with pyarrow, which PySpark wants for `mapInArrow` anyway: the program and the recipe are sent to them.

    from yarrup_spark import Yarrup

    yarrup = Yarrup(spark, binary="/usr/local/bin/yarrup")
    cleaned = yarrup.clean(notes, "frozen.toml", text="note", id="id")
    yarrup.account(notes, "frozen.toml", "run", text="note", id="id")
    yarrup.learn(notes, "words.toml", "frozen.toml", text="note", id="id")
"""

import itertools
import json
import os
import queue
import re
import shutil
import subprocess
import tarfile
import tempfile
import threading
import uuid

from pyspark import SparkFiles, StorageLevel, TaskContext
from pyspark.sql import functions as F
from pyspark.sql import types as T

#: The column by which the text goes to the workers.
_TEXT = "__yarrup_text"
#: The columns that `clean` adds.
ADDED = T.StructType(
    [
        T.StructField("clean", T.StringType()),
        T.StructField("tokens_before", T.LongType()),
        T.StructField("tokens_after", T.LongType()),
        T.StructField("left_out", T.StringType()),
        T.StructField("error", T.StringType()),
    ]
)
#: How many batches of rows wait at a worker for their answers.
_WAITING = 4


class YarrupError(RuntimeError):
    """The program has refused its work; what it said is the message."""


class Yarrup:
    """The program, for one Spark session. `binary` is the program on the driver's machine; it is sent to the workers, which must run the same
    system on the same kind of processor."""

    def __init__(self, spark, binary="yarrup"):
        found = shutil.which(binary)
        if found is None:
            raise FileNotFoundError(f"{binary}: no such program")
        self.spark = spark
        self.binary = os.path.abspath(found)
        # What is sent to the workers stays here as long as they may ask for it.
        self._sending = tempfile.TemporaryDirectory(prefix="yarrup-")
        spark.sparkContext.addFile(self.binary)
        #: Whether the program takes record batches as they are, without JSON in between; it must have been built with it.
        self.speaks_arrow = self._speaks_arrow()

    def clean(self, df, recipe, *, text="text", id=None, fields=(), errors="record"):
        """`df` with the columns `clean`, `tokens_before`, `tokens_after`, `left_out` and `error` added.

        Every row stays: of one that the recipe leaves out `left_out` says why, of one whose text is no text `error` does, and `clean` is null.
        `fields` names columns that the conditions of the recipe ask for. With `errors="fail"` a row that is no document fails the job. A program built with
        Arrow takes every row for a document.

        The work is done when the rows are asked for, as Spark does all work.
        """
        task = self._task(recipe, [])
        columns = [field for field in df.schema.fields if field.name not in ADDED.names]
        schema = T.StructType([*columns, *ADDED.fields])
        names = [field.name for field in columns]
        sent = self._sent(df, id, fields)
        rows = df.withColumn(_TEXT, F.col(text).cast("string"))
        if self.speaks_arrow:
            task["arguments"] = ["--arrow", "--text", "text"]
            return rows.mapInArrow(lambda batches: _clean(task, batches, names, sent, _ArrowTalk), schema)
        task["arguments"] = ["--counts", "--errors", errors]
        return rows.mapInArrow(lambda batches: _clean(task, batches, names, sent, _JsonTalk), schema)

    def account(self, df, recipe, out, *, text="text", id=None, fields=(), replace=False):
        """Writes the run folder `out` on the driver's machine: the vocabulary, the effect of every step, and all else that a run has but the
        documents themselves. Returns what `run.json` holds."""
        parts = self._parts(df, recipe, "--account", [], text, id, fields)
        with tempfile.TemporaryDirectory(prefix="yarrup-") as folder:
            files, rows = _collected(parts, folder)
            self._run("merge", *files, "--out", out, *(["--replace"] if replace else []))
        with open(os.path.join(out, "run.json"), encoding="utf-8") as file:
            record = json.load(file)
        totals = record["totals"]
        counted = totals["documents"] + totals["records_skipped"]
        # Spark gives the results of a task once, however often it was tried; this makes sure of it.
        if counted != rows:
            raise YarrupError(f"{out}: {counted} rows were counted of {rows}")
        return record

    def learn(self, df, recipe, out, *, text="text", id=None, fields=(), replace=False):
        """Learns what the recipe has to learn from all rows, and writes the recipe with it as `out`, for `clean` and `account`. Reads the rows once for
        each group of steps that can learn together. Returns how often."""
        learned = os.path.splitext(out)[0] + ".learned"
        for round in range(1, 33):
            more = [] if round == 1 else ["--learned", learned]
            parts = self._parts(df, recipe, "--lessons", more, text, id, fields)
            with tempfile.TemporaryDirectory(prefix="yarrup-") as folder:
                files, _ = _collected(parts, folder)
                again = ["--replace"] if replace or round > 1 else []
                is_left = self._run("merge", "--freeze", recipe, *files, "--out", out, *more, *again, may_find=True)
            if not is_left:
                return round
        raise YarrupError(f"{recipe}: learns without end")

    def _speaks_arrow(self):
        recipe = os.path.join(self._sending.name, "any.toml")
        with open(recipe, "w", encoding="utf-8") as file:
            file.write("[[step]]\ndo = \"split\"\n")
        asked = [self.binary, "pipe", recipe, "--arrow"]
        said = subprocess.run(asked, stdin=subprocess.DEVNULL, capture_output=True, text=True).stderr
        return "no stream of Arrow record batches" in said

    def _task(self, recipe, arguments):
        """What a worker has to know: the program, the recipe, the arguments."""
        # Each under a name of its own: files of one name cannot be sent twice.
        name = f"yarrup-{uuid.uuid4().hex}"
        archive = os.path.join(self._sending.name, f"{name}.tar.gz")
        inside = _bundle(recipe, archive)
        self.spark.sparkContext.addArchive(f"{archive}#{name}")
        return {"binary": os.path.basename(self.binary), "recipe": (name, inside), "arguments": arguments}

    def _sent(self, df, id, fields):
        """The columns that go along with the text: names as the program sees them, and columns."""
        sent = {field: field for field in fields}
        if id is not None:
            sent["id"] = id
        if "language" in df.columns:
            sent.setdefault("language", "language")
        for column in sent.values():
            if column not in df.columns:
                raise ValueError(f"no column `{column}`; there are {', '.join(df.columns)}")
        return sent

    def _parts(self, df, recipe, option, more, text, id, fields):
        task = self._task(recipe, [])
        learned = more[1] if more else None
        if learned is not None:
            name = f"yarrup-{uuid.uuid4().hex}.learned"
            copy = os.path.join(self._sending.name, name)
            shutil.copyfile(learned, copy)
            self.spark.sparkContext.addFile(copy)
            learned = name
        sent = self._sent(df, id, fields)
        columns = [*dict.fromkeys(sent.values())]
        rows = df.select(*columns, F.col(text).cast("string").alias(_TEXT))
        schema = "partition int, rows long, part binary"
        return rows.mapInArrow(lambda batches: _part(task, option, learned, batches, sent), schema)

    def _run(self, *arguments, may_find=False):
        """Runs the program on the driver. Returns whether it found what it looked for, with `may_find`."""
        done = subprocess.run([self.binary, "-q", *arguments], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
        if done.returncode == 0 or (may_find and done.returncode == 1):
            return done.returncode == 1
        raise YarrupError(done.stderr.decode("utf-8", "replace").strip())


def _bundle(recipe, archive):
    """Writes an archive with the recipe and the files that it names; returns the recipe's path in it. What is quoted in the recipe and is a file beside
    it, is a file that it names."""
    found, waiting = [], [os.path.abspath(recipe)]
    while waiting:
        path = waiting.pop()
        if path in found:
            continue
        found.append(path)
        if not path.endswith(".toml"):
            continue
        with open(path, encoding="utf-8") as file:
            quoted = re.findall(r"\"([^\"\n]+)\"|'([^'\n]+)'", file.read())
        named = (os.path.join(os.path.dirname(path), one or other) for one, other in quoted)
        waiting.extend(os.path.normpath(path) for path in named if os.path.isfile(path))
    root = os.path.commonpath([os.path.dirname(path) for path in found])
    with tarfile.open(archive, "w:gz") as tar:
        for path in found:
            tar.add(path, os.path.relpath(path, root))
    return os.path.relpath(found[0], root)


def _collected(parts, folder):
    """Writes the parts to files, in the order of the partitions. Returns their paths, and how many rows went in."""
    files, rows = {}, 0
    # All workers work at a time; then the parts, which are kept on their disks, come here one by one.
    parts.persist(StorageLevel.DISK_ONLY)
    parts.count()
    for row in parts.toLocalIterator():
        path = os.path.join(folder, f"{row.partition:08}")
        if row.partition in files:
            raise YarrupError(f"partition {row.partition} came twice")
        with open(path, "wb") as file:
            file.write(row.part)
        files[row.partition] = path
        rows += row.rows
    parts.unpersist()
    return [files[partition] for partition in sorted(files)], rows


# What follows runs on the workers.


def _command(task, *more):
    folder, recipe = task["recipe"]
    path = os.path.join(SparkFiles.get(folder), recipe)
    return [SparkFiles.get(task["binary"]), "-q", "pipe", path, *task["arguments"], *more]


def _lines(batch, sent):
    """The rows of a batch as JSON Lines."""
    columns = {name: batch.column(column).to_pylist() for name, column in sent.items()}
    columns["text"] = batch.column(_TEXT).to_pylist()
    names = list(columns)
    encode = json.JSONEncoder(ensure_ascii=False, default=str).encode
    lines = (encode(dict(zip(names, row))) for row in zip(*columns.values()))
    return "".join(f"{line}\n" for line in lines).encode("utf-8", "surrogatepass")


class _Process:
    """A process that is fed by a thread of its own, so that neither waits for the other."""

    def __init__(self, command, stdout):
        self.errors = tempfile.TemporaryFile()
        self.child = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=stdout, stderr=self.errors)
        self.failure = None

    def feed(self, work):
        def feeding():
            try:
                work(self.child.stdin)
            except BrokenPipeError:
                # The process has ended: what it said is told when it is waited for.
                pass
            except BaseException as failure:
                self.failure = failure
            finally:
                try:
                    self.child.stdin.close()
                except BrokenPipeError:
                    pass

        self.thread = threading.Thread(target=feeding, daemon=True)
        self.thread.start()

    def end(self):
        """Waits for the end, which must be a good one."""
        code = self.child.wait()
        self.thread.join()
        if self.failure is not None:
            raise self.failure
        if code != 0:
            self.errors.seek(0)
            said = self.errors.read()[-4000:].decode("utf-8", "replace").strip()
            raise YarrupError(said or f"yarrup ended with code {code}")

    def kill(self):
        self.child.kill()
        self.child.wait()
        self.errors.close()


class _JsonTalk:
    """Rows as JSON Lines: a line in, a line out."""

    def __init__(self, child, sent):
        self.child, self.sent = child, sent

    def ask(self, stdin, batch):
        stdin.write(_lines(batch, self.sent))
        stdin.flush()

    def answer(self, count):
        """The columns that are added to so many rows; none where the program has ended before."""
        import pyarrow as pa

        answers = []
        for _ in range(count):
            line = self.child.stdout.readline()
            if not line.endswith(b"\n"):
                return None
            answers.append(json.loads(line))
        return [pa.array([answer.get(field.name) for answer in answers], field.type) for field in _added()]

    def hang_up(self, stdin):
        pass

    def has_more(self):
        return bool(self.child.stdout.read(1))


class _ArrowTalk:
    """Rows as Arrow record batches: a batch in, a batch out."""

    def __init__(self, child, sent):
        self.child, self.sent = child, sent
        self.writer = self.reader = None

    def ask(self, stdin, batch):
        import pyarrow as pa

        sent = {**{name: batch.column(column) for name, column in self.sent.items()}, "text": batch.column(_TEXT)}
        rows = pa.RecordBatch.from_arrays(list(sent.values()), list(sent))
        if self.writer is None:
            self.writer = pa.ipc.new_stream(stdin, rows.schema)
        self.writer.write_batch(rows)
        stdin.flush()

    def answer(self, count):
        import pyarrow as pa

        try:
            if self.reader is None:
                self.reader = pa.ipc.open_stream(self.child.stdout)
            answers = self.reader.read_next_batch()
        except (pa.ArrowInvalid, OSError, StopIteration):
            return None
        if answers.num_rows != count:
            raise YarrupError(f"yarrup answered {answers.num_rows} rows of {count}")
        nothing = pa.nulls(count, pa.string())
        return [nothing if field.name == "error" else answers.column(field.name) for field in _added()]

    def hang_up(self, stdin):
        if self.writer is not None:
            self.writer.close()

    def has_more(self):
        try:
            return self.reader is not None and self.reader.read_next_batch() is not None
        except StopIteration:
            return False


def _added():
    import pyarrow as pa

    return pa.schema(
        [
            ("clean", pa.string()),
            ("tokens_before", pa.int64()),
            ("tokens_after", pa.int64()),
            ("left_out", pa.string()),
            ("error", pa.string()),
        ]
    )


def _clean(task, batches, names, sent, talk):
    import pyarrow as pa

    # A partition without a row needs no process.
    batches = (batch for batch in batches if batch.num_rows > 0)
    first = next(batches, None)
    if first is None:
        return
    process = _Process(_command(task), subprocess.PIPE)
    talk = talk(process.child, sent)
    waiting = queue.Queue(_WAITING)
    given_up = threading.Event()

    def put(batch):
        while not given_up.is_set():
            try:
                return waiting.put(batch, timeout=1)
            except queue.Full:
                continue
        raise BrokenPipeError

    def work(stdin):
        try:
            for batch in itertools.chain([first], batches):
                put(batch)
                talk.ask(stdin, batch)
            talk.hang_up(stdin)
        finally:
            put(None)

    process.feed(work)
    try:
        while (batch := waiting.get()) is not None:
            columns = talk.answer(batch.num_rows)
            if columns is None:
                # It has ended before it had answered all: why, it says itself. Nobody takes more batches from the feeder then.
                given_up.set()
                process.end()
                raise YarrupError("yarrup ended before it had answered every row")
            kept = [batch.column(name) for name in names]
            yield pa.RecordBatch.from_arrays([*kept, *columns], [*names, *_added().names])
        if talk.has_more():
            raise YarrupError("yarrup gave more than there were rows")
        process.end()
    finally:
        given_up.set()
        process.kill()


def _part(task, option, learned, batches, sent):
    import pyarrow as pa

    partition = TaskContext.get().partitionId()
    rows = 0
    with tempfile.TemporaryDirectory(prefix="yarrup-") as folder:
        path = os.path.join(folder, "part")
        more = [] if learned is None else ["--learned", SparkFiles.get(learned)]
        command = _command(task, option, path, "--errors", "record", "--called", f"partition-{partition}", *more)
        process = _Process(command, subprocess.DEVNULL)

        def work(stdin):
            nonlocal rows
            for batch in batches:
                stdin.write(_lines(batch, sent))
                rows += batch.num_rows

        process.feed(work)
        try:
            process.end()
        finally:
            process.kill()
        with open(path, "rb") as file:
            part = file.read()
    columns = [pa.array([partition], pa.int32()), pa.array([rows], pa.int64()), pa.array([part], pa.binary())]
    yield pa.RecordBatch.from_arrays(columns, ["partition", "rows", "part"])
