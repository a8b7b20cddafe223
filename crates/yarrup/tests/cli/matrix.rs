//! `matrix`: what is written is read again by readers of our own, and compared with counts by hand.

use std::collections::BTreeMap;
use std::io::Read as _;

use serde_json::Value;

use crate::home::Home;

const NOTES: &str = concat!(
    "{\"id\":\"a\",\"site\":\"spit\",\"rating\":1,\"text\":\"The terns nest. Terns, terns\"}\n",
    "{\"id\":\"b\",\"site\":\"hide\",\"rating\":2.5,\"text\":\"The of\"}\n",
    "{\"id\":\"=c\",\"site\":\"spit\",\"rating\":3,\"text\":\"gulls and terns\"}\n",
    "{\"id\":\"d\",\"rating\":4,\"text\":\"null gulls =sum(1)\"}\n",
);

fn home() -> Home {
    let home = Home::with_recipe().file("notes.jsonl", NOTES);
    home.done("run recipe.toml notes.jsonl --out run");
    home
}

/// The values by row and column, from 1.
type Cells = BTreeMap<(usize, usize), f64>;

/// The cells of a coordinate file: its size, and the value at each row and column.
fn market(text: &str) -> ((usize, usize, usize), Cells) {
    let mut lines = text.lines();
    assert!(lines.next().is_some_and(|line| line.starts_with("%%MatrixMarket matrix coordinate ")));
    let mut lines = lines.filter(|line| !line.starts_with('%'));
    let numbers =
        |line: &str| line.split(' ').map(|part| part.parse::<f64>().expect("a number")).collect::<Vec<_>>();
    let size = numbers(lines.next().expect("the size"));
    let cells: BTreeMap<(usize, usize), f64> = lines
        .map(|line| {
            let numbers = numbers(line);
            ((numbers[0] as usize, numbers[1] as usize), numbers[2])
        })
        .collect();
    let size = (size[0] as usize, size[1] as usize, size[2] as usize);
    assert_eq!(cells.len(), size.2);
    assert!(cells.keys().all(|(row, column)| (1..=size.0).contains(row) && (1..=size.1).contains(column)));
    (size, cells)
}

/// The counts of terms in each document, by `documents.jsonl`.
fn counts(home: &Home, run: &str) -> Vec<BTreeMap<String, f64>> {
    let documents = home.read(&format!("{run}/documents.jsonl"));
    let document = |line: &str| {
        let document: Value = serde_json::from_str(line).expect("an object");
        let mut counts = BTreeMap::new();
        for term in document["clean"].as_str().expect("a text").split_whitespace() {
            *counts.entry(term.to_owned()).or_insert(0.0) += 1.0;
        }
        counts
    };
    documents.lines().map(document).collect()
}

/// The terms of a matrix by their columns, as the table has them.
fn terms(home: &Home, folder: &str) -> Vec<String> {
    let rows = home.rows(&format!("{folder}/terms.csv"));
    rows.into_iter().map(|row| row[1].trim_start_matches('\'').to_owned()).collect()
}

fn assert_cells(home: &Home, folder: &str, run: &str, value: impl Fn(f64, &str) -> f64) {
    let ((rows, columns, _), cells) = market(&home.read(&format!("{folder}/matrix.mtx")));
    let (counts, terms) = (counts(home, run), terms(home, folder));
    assert_eq!((rows, columns), (counts.len(), terms.len()));
    for (row, counts) in (1..).zip(&counts) {
        for (column, term) in (1..).zip(&terms) {
            let expected = counts.get(term).map(|count| value(*count, term));
            let found = cells.get(&(row, column)).copied();
            let close = found.unwrap_or(0.0) - expected.unwrap_or(0.0);
            assert!(
                found.is_some() == expected.is_some() && close.abs() < 1e-12,
                "{row} {term}: {found:?} {expected:?}"
            );
        }
    }
}

#[test]
fn cells_are_the_counts_of_the_run_times_what_is_asked_for() {
    let home = home();
    home.done("matrix run --out m");
    assert_cells(&home, "m", "run", |count, _| count);
    assert!(home.read("m/matrix.mtx").starts_with("%%MatrixMarket matrix coordinate integer general\n"));
    // Safe for a spreadsheet, unless cells are wanted as they are.
    assert_eq!(home.rows("m/documents.csv")[2], ["3", "'=c"]);
    home.done("matrix run --out raw --as triplets --as-is");
    assert_eq!(home.rows("raw/documents.csv")[2], ["3", "=c"]);
    assert!(home.rows("raw/triplets.csv").iter().any(|row| row[0] == "=c"));
    home.done("matrix run --out b --local binary");
    assert_cells(&home, "b", "run", |_, _| 1.0);
    let all = counts(&home, "run");
    let with = |term: &str| all.iter().filter(|counts| counts.contains_key(term)).count() as f64;
    for (number, (name, weight)) in [
        ("idf", Box::new(|n: f64| (4.0 / n).ln()) as Box<dyn Fn(f64) -> f64>),
        ("idf-smooth", Box::new(|n| (5.0 / (1.0 + n)).ln() + 1.0)),
        ("idf-probabilistic", Box::new(|n| ((4.0 - n) / n).ln().max(0.0))),
    ]
    .into_iter()
    .enumerate()
    {
        home.done(&format!("matrix run --out w{number} --global {name} --local log"));
        assert_cells(&home, &format!("w{number}"), "run", |count, term| count.ln_1p() * weight(with(term)));
    }
    home.done("matrix run --out n --global idf-smooth --normalise");
    let (_, cells) = market(&home.read("n/matrix.mtx"));
    let length = |row: usize| {
        cells.iter().filter(|((other, _), _)| *other == row).map(|(_, value)| value * value).sum::<f64>()
    };
    assert!([1, 3, 4].into_iter().all(|row| (length(row) - 1.0).abs() < 1e-9) && length(2) == 0.0);
    home.done("matrix run --out s --local share --top 2");
    let (size, cells) = market(&home.read("s/matrix.mtx"));
    assert_eq!((size.1, cells[&(1, 1)]), (2, 1.0), "the tokens with a column alone are counted");
    home.done("matrix run --out t --terms-in-rows --gzip");
    let mut text = String::new();
    let file = std::fs::File::open(home.path("t/matrix.mtx.gz")).expect("a file");
    flate2::read::GzDecoder::new(file).read_to_string(&mut text).expect("packed");
    let (turned, plain) = (market(&text), market(&home.read("m/matrix.mtx")));
    assert_eq!(turned.1, plain.1.into_iter().map(|((row, column), value)| ((column, row), value)).collect());
}

#[test]
fn other_formats_hold_the_same() {
    let home = home();
    home.done("matrix run --out m --as market,svmlight,triplets,dense --label site --fields rating,site");
    let (_, cells) = market(&home.read("m/matrix.mtx"));
    let svm = home.read("m/matrix.svm");
    let mut found = BTreeMap::new();
    let mut labels = Vec::new();
    for (row, line) in (1..).zip(svm.lines()) {
        let mut parts = line.split(' ');
        labels.push(parts.next().expect("a label").to_owned());
        let mut last = 0;
        for part in parts {
            let (column, value) = part.split_once(':').expect("a cell");
            let column: usize = column.parse().expect("a column");
            assert!(column > last, "{line}");
            last = column;
            found.insert((row, column), value.parse::<f64>().expect("a value"));
        }
    }
    assert_eq!(found, cells);
    assert_eq!(labels, ["2", "1", "2", "0"]);
    let named: Vec<Vec<String>> = home.rows("m/labels.csv");
    assert_eq!(named, [["0", "", "1"], ["1", "hide", "1"], ["2", "spit", "2"]]);
    assert_eq!(home.rows("m/documents.csv")[0], ["1", "a", "2", "1", "spit"]);
    let (terms, counts) = (terms(&home, "m"), counts(&home, "run"));
    let triplets = home.rows("m/triplets.csv");
    assert_eq!(triplets.len(), cells.len());
    assert!(triplets.contains(&["a", "tern", "3", "3"].map(str::to_owned).to_vec()), "{triplets:?}");
    let dense = home.rows("m/dense.csv");
    for (row, counts) in dense.iter().zip(&counts) {
        let expected: Vec<String> =
            terms.iter().map(|term| counts.get(term).copied().unwrap_or(0.0).to_string()).collect();
        assert_eq!(row[1..], expected);
    }
    home.done("matrix run --out r --as svmlight --label rating");
    let first: Vec<String> = home
        .read("r/matrix.svm")
        .lines()
        .map(|line| line.split(' ').next().unwrap_or("").to_owned())
        .collect();
    assert_eq!(first, ["1", "2.5", "3", "4"], "numbers are labels as they are");
    assert!(!home.path("r/labels.csv").exists());
}

#[test]
fn new_documents_get_the_columns_and_weights_of_the_old() {
    let home = home().file("new.jsonl", "{\"text\":\"owls and gulls, gulls\"}\n{\"text\":\"owls\"}\n");
    home.done("matrix run --out m --global idf --documents-at-least 2");
    home.done("run recipe.toml new.jsonl --out later");
    home.done("matrix later --out same --vocabulary m");
    assert_eq!(terms(&home, "same"), terms(&home, "m"));
    assert_cells(&home, "same", "later", |count, _| count * 2f64.ln());
    assert!(home.read("same/matrix.mtx").contains("coordinate real general"));
    // Of a run: all its terms, and its numbers of documents.
    home.done("matrix later --out of-run --vocabulary run --global idf");
    assert_eq!(terms(&home, "of-run").len(), home.rows("run/vocabulary.csv").len());
    assert_cells(&home, "of-run", "later", |count, _| count * 2f64.ln());
}

#[test]
fn terms_that_stand_together_are_counted() {
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n")
        .file("notes.jsonl", "{\"text\":\"a b c a\"}\n{\"text\":\"b a\"}\n");
    home.done("run r.toml notes.jsonl --out run");
    home.done("matrix run --out w --together window:1");
    let pairs: Vec<String> = home.rows("w/pairs.csv").iter().map(|row| row[..3].join(" ")).collect();
    assert_eq!(pairs, ["a b 2", "a c 1", "b c 1"]);
    let (size, cells) = market(&home.read("w/counts.mtx"));
    assert_eq!((size, cells[&(2, 1)]), ((3, 3, 3), 2.0));
    // p(a, b) = 2/8, p(a) = 3/8, p(b) = 3/8.
    let (_, cells) = market(&home.read("w/ppmi.mtx"));
    assert!((cells[&(2, 1)] - (0.25f64 / (9.0 / 64.0)).log2()).abs() < 1e-12);
    home.done("matrix run --out d --together document --pairs-at-least 2");
    assert_eq!(home.rows("d/pairs.csv").len(), 1);
}

#[test]
fn a_run_writes_its_matrix_at_once_and_mistakes_are_told() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out second --matrix m");
    home.done("matrix run --out same");
    assert_eq!(home.read("m/matrix.mtx"), home.read("same/matrix.mtx"));
    for (arguments, told) in [
        ("matrix run --out m", "m: is there already"),
        ("run recipe.toml notes.jsonl --out third --matrix m", "m: is there already"),
        ("matrix run --out x --as svmlight", "needs --label"),
        ("matrix run --out x --global chi-square", "need --with and a field"),
        ("matrix run --out x --label ward", "no document of the run has a field `ward`"),
        ("matrix run --out x --at-least 99", "no term is left"),
        ("matrix run --out x --together near", "expected window:N, line or document"),
        ("matrix nowhere --out x", "no run folder here"),
        ("matrix run --out x --vocabulary nowhere", "no run folder here"),
    ] {
        let err = home.refused(arguments);
        assert!(err.contains(told), "{arguments}: {err}");
        assert!(!home.path("x").exists());
    }
    assert!(!home.path("third").exists());
    let text = home.read("m/terms.csv").replace(",4,2,", ",4,two,");
    std::fs::write(home.path("m/terms.csv"), text).expect("changed");
    assert!(home.refused("matrix run --out x --vocabulary m").contains("line 2: `two` is not a number"));
}

/// The rows stand in the order of the documents, whoever made them.
#[test]
fn a_long_collection_keeps_its_order() {
    let notes: String = (0..20_000)
        .map(|n| format!("{{\"id\":\"n{n}\",\"text\":\"note w{} w{}\"}}\n", n % 97, n % 13))
        .collect();
    let home = Home::with_recipe().file("notes.jsonl", notes);
    home.done("run recipe.toml notes.jsonl --out run --quiet");
    home.done("matrix run --out m");
    assert_cells(&home, "m", "run", |count, _| count);
    let ids: Vec<String> = home.rows("m/documents.csv").into_iter().map(|row| row[1].clone()).collect();
    assert!(ids.iter().enumerate().all(|(number, id)| *id == format!("n{number}")));
}

/// A frozen recipe names the columns, and Parquet holds the cells of the table of triplets.
#[test]
fn a_frozen_recipe_is_a_vocabulary() {
    let home = home().file(
        "limit.toml",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\nmin_documents = 2\n",
    );
    home.done("run limit.toml notes.jsonl --out limited");
    let home = home.file("plain.toml", "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n");
    home.done("run plain.toml notes.jsonl --out other");
    home.done(
        "matrix other --out m --vocabulary limited/frozen.toml --global idf --as market,triplets,parquet",
    );
    let terms: Vec<String> = home.rows("m/terms.csv").into_iter().map(|row| row[1].clone()).collect();
    let kept: Vec<String> =
        home.rows("limited/vocabulary.csv").into_iter().map(|row| row[1].clone()).collect();
    let sorted = |mut terms: Vec<String>| {
        terms.sort();
        terms
    };
    assert_eq!(sorted(terms), sorted(kept));
    let ((documents, _, _), cells) = market(&home.read("m/matrix.mtx"));
    assert!(documents == 4 && !cells.is_empty());
    let of = |file: &str| {
        let rows = home.documents(&format!("m/{file} --text term --id document"));
        let cell = |row: &Value, name: &str| row[name].to_string().trim_matches('"').to_owned();
        rows.iter()
            .map(|row| ["id", "text", "count", "weight"].map(|name| cell(row, name)))
            .collect::<Vec<_>>()
    };
    let (csv, parquet) = (of("triplets.csv"), of("triplets.parquet"));
    assert_eq!(csv.len(), cells.len());
    assert_eq!(
        csv.iter().map(|row| &row[1..3]).collect::<Vec<_>>(),
        parquet.iter().map(|row| &row[1..3]).collect::<Vec<_>>()
    );
    for (one, other) in csv.iter().zip(&parquet) {
        assert_eq!(one[3].parse::<f64>().expect("a weight"), other[3].parse::<f64>().expect("a weight"));
    }
    assert!(home.refused("matrix other --out n --vocabulary recipe.toml").contains("holds no terms"));
    assert!(
        home.refused("matrix other --out n --vocabulary limited/frozen.toml --global entropy")
            .contains("idf alone")
    );
    assert!(!home.path("n").exists());
}
