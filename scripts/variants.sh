#!/bin/sh
# What comparing eight recipes costs against one run: scripts/variants.sh YARRUP CORPUS.jsonl
#
# One run of a recipe of the demo, as it is written by default, and a comparison of eight of its kind on the same corpus; each three times, the best counts.
set -eu
yarrup=$1
corpus=$2
recipes=$(dirname "$0")/../demo/recipes
out=$(mktemp -d)
trap 'rm -rf "$out"' EXIT

best() {
    python3 -c '
import subprocess, sys, time
times = []
for _ in range(3):
    begin = time.time()
    subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    times.append(time.time() - begin)
print(f"{min(times):.2f}")
' "$@"
}

for threads in 1 2; do
    one=$(best "$yarrup" run "$recipes/topics.toml" "$corpus" --out "$out/run" --replace --threads $threads)
    eight=$(best "$yarrup" compare "$recipes/topics.toml" --vary stem.method=porter2,porter,s,paice \
        --vary "function words=on,off" --on "$corpus" --threads $threads)
    echo "$threads thread(s): stems: one run $one s, eight recipes $eight s, ratio $(python3 -c "print(round($eight / $one, 2))")"
    one=$(best "$yarrup" run "$recipes/words.toml" "$corpus" --out "$out/run" --replace --threads $threads)
    eight=$(best "$yarrup" compare "$recipes/words.toml" --vary stopwords.lists=en,de,fr,es \
        --vary case=on,off --on "$corpus" --threads $threads)
    echo "$threads thread(s): parts of speech and learned phrases: one run $one s, nine recipes $eight s, ratio $(python3 -c "print(round($eight / $one, 2))")"
done
