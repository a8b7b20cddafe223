#!/usr/bin/env bash
# Compares two builds of the program in pairs on one collection, a run of the one before every run of the other, since machines drift; and says whether
# they write the same. Usage: scripts/compare-builds.sh OLD NEW COLLECTION.jsonl [RECIPE.toml …] (without recipes: some that take every path).
# ROUNDS (5) is how many pairs; THREADS (1) how many threads each has.
set -euo pipefail

if [ $# -lt 3 ]; then
    sed -n '2,4s/^# //p' "$0" >&2
    exit 2
fi
old=$1 new=$2 collection=$3
shift 3
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
if [ $# -eq 0 ]; then
    write() {
        printf '%s\n' "${@:2}" >"$work/$1.toml"
        set -- "$work/$1.toml"
        recipes+=("$1")
    }
    recipes=()
    write stems '[[step]]' 'do = "case"' '[[step]]' 'do = "split"' '[[step]]' 'do = "stopwords"' 'lists = ["en"]' '[[step]]' 'do = "stem"' 'method = "porter2"'
    write clitics '[[step]]' 'do = "split"' 'into = "clitics"'
    write posts '[[step]]' 'do = "split"' 'into = "posts"'
    write tag '[[step]]' 'do = "split"' '[[step]]' 'do = "tag"' '[[step]]' 'do = "lemma"'
    set -- "${recipes[@]}"
fi

seconds() {
    local begun ended
    begun=$(date +%s%N)
    "$1" run "$2" "$collection" --out "$work/$3" --replace --threads "${THREADS:-1}" --quiet >/dev/null 2>&1
    ended=$(date +%s%N)
    echo $(((ended - begun) / 1000000))
}

printf '%-24s %12s %12s %10s  %s\n' recipe 'old (ms)' 'new (ms)' 'new/old' 'tables'
for recipe in "$@"; do
    : >"$work/olds"
    : >"$work/news"
    for _ in $(seq "${ROUNDS:-5}"); do
        seconds "$old" "$recipe" a >>"$work/olds"
        seconds "$new" "$recipe" b >>"$work/news"
    done
    median() { sort -n "$1" | awk '{ all[NR] = $1 } END { print all[int((NR + 1) / 2)] }'; }
    before=$(median "$work/olds")
    after=$(median "$work/news")
    same=same
    for table in vocabulary.csv forms.csv effects.csv; do
        cmp -s "$work/a/$table" "$work/b/$table" || same="$table differs"
    done
    printf '%-24s %12s %12s %10s  %s\n' "$(basename "$recipe" .toml)" "$before" "$after" "$(awk "BEGIN { printf \"%.3f\", $after / $before }")" "$same"
done
