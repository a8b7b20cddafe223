//! Parts of a collection, put together: every file must be that of one run over the whole.

use std::collections::BTreeMap;
use std::fs;

use crate::home::Home;

/// What makes documents alike and unlike: lines that repeat, copies, phrases, things that are malformed.
fn notes(from: usize, to: usize) -> String {
    let birds = ["tern", "gull", "marsh harrier", "oystercatcher", "Arctic tern"];
    let line = |n: usize| {
        let bird = birds[n * 7 % birds.len()];
        let text = match n % 11 {
            3 => "The tern nests on the shingle spit near the hide.".to_owned(),
            5 => format!("Saltmere ward\\n{bird} number {n} was seen"),
            7 => String::new(),
            _ => format!("A {bird} flew over the marsh harrier nest, {} of {n}. Saltmere ward", n % 4),
        };
        match n % 97 {
            50 => "{\"text\": broken\n".to_owned(),
            _ if n.is_multiple_of(5) => format!("{{\"n\":{n},\"text\":\"{text}\"}}\n"),
            _ => format!("{{\"id\":\"note-{}\",\"n\":{n},\"text\":\"{text}\"}}\n", n % 900),
        }
    };
    (from..to).map(line).collect()
}

const RECIPE: &str = "recipe = \"birds\"\nlanguage = \"en\"\n[[step]]\ndo = \"unicode\"\n[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\n[[step]]\ndo = \"split\"\n\
                      [[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"ours.txt\"]\n[[step]]\ndo = \"stem\"\n\
                      [[step]]\ndo = \"ngrams\"\nsize = 2\nsmallest = 1\n[[step]]\ndo = \"documents\"\nmin_tokens = 3\n";

fn home(recipe: &str) -> Home {
    Home::new().file("r.toml", recipe).file("ours.txt", "the\na\nof\n")
}

/// The files of a run folder.
fn files(home: &Home, run: &str) -> BTreeMap<String, Vec<u8>> {
    let mut files = BTreeMap::new();
    for name in home.names(run) {
        let path = home.path(run).join(&name);
        if path.is_dir() {
            files.extend(self::files(home, &format!("{run}/{name}")));
        } else {
            files.insert(
                format!("{}/{name}", run.split_once('/').map_or("", |(_, inside)| inside)),
                fs::read(path).expect("a file"),
            );
        }
    }
    files
}

/// Two runs are the same, file by file and byte by byte.
#[track_caller]
fn same(home: &Home, one: &str, other: &str) {
    let (one, other) = (files(home, one), files(home, other));
    assert_eq!(one.keys().collect::<Vec<_>>(), other.keys().collect::<Vec<_>>());
    for (name, content) in &one {
        assert!(*content == other[name], "{name} differs");
    }
}

#[test]
fn parts_of_one_collection_come_to_the_run_over_the_whole() {
    let home = home(RECIPE)
        .file("notes.jsonl", notes(0, 6500))
        .file("more/a.txt", "A tern.\n")
        .file("more/b.txt", "Two gulls nest.");
    let options = "--tokens jsonl --with-originals";
    home.done(&format!("run r.toml notes.jsonl more --out whole {options}"));
    for number in 1..=3 {
        home.done(&format!("run r.toml notes.jsonl more --part {number}/3 --out part-{number} {options}"));
    }
    home.done("merge part-3 part-1 part-2 --out merged");
    same(&home, "whole", "merged");
    assert!(home.read("whole/skipped.csv").lines().count() > 50);
    assert!(
        home.read("whole/run.json").contains("documents_with_repeated_ids\": 4"),
        "{}",
        home.read("whole/run.json")
    );
    // A run that was put together is a run, and a whole one is a part of larger ones.
    home.done("merge merged --out again --write documents");
    let (again, whole) = (files(&home, "again"), files(&home, "whole"));
    assert!(
        whole
            .iter()
            .filter(|(name, _)| !["/run.json", "/report.html"].contains(&name.as_str()))
            .all(|(name, content)| again[name] == *content)
    );
    // Without the documents it is a run that wrote none.
    home.done(&format!("run r.toml notes.jsonl more --out counts {options} --write report"));
    home.done("merge part-1 part-2 part-3 --out merged-counts --write report");
    let (counts, merged) = (files(&home, "counts"), files(&home, "merged-counts"));
    assert!(counts["/run.json"].starts_with(&merged["/run.json"][..2000]));
    for name in ["/account.bin", "/vocabulary.csv", "/tokens.jsonl", "/skipped.csv"] {
        assert!(counts[name] == merged[name], "{name}");
    }
    assert!(!merged.contains_key("/documents.jsonl"));
    // Packed documents are packed alike, whatever the parts.
    home.done("run r.toml notes.jsonl more --out packed --documents jsonl.zst --write documents,figures");
    home.done(
        "merge part-1 part-2 part-3 --out merged-packed --documents jsonl.zst --write documents,figures",
    );
    let (packed, merged) = (files(&home, "packed"), files(&home, "merged-packed"));
    assert!(packed["/documents.jsonl.zst"] == merged["/documents.jsonl.zst"]);
    assert!(packed["figures/cloud.png"] == merged["figures/cloud.png"]);
}

#[test]
fn runs_over_different_sources_come_to_the_run_over_all_of_them() {
    let home = home(RECIPE)
        .file("a.jsonl", notes(0, 2600))
        .file("b.jsonl", notes(2600, 2900))
        .file("c.jsonl", notes(2900, 5600));
    home.done("run r.toml a.jsonl b.jsonl c.jsonl --out whole");
    for name in ["a", "b", "c"] {
        home.done(&format!("run r.toml {name}.jsonl --out of-{name} --write documents"));
    }
    home.done("merge of-a of-b of-c --out merged");
    same(&home, "whole", "merged");
    // In whatever groups they are put together.
    home.done("merge of-b of-c --out later --write documents");
    home.done("merge of-a later --out in-two-steps");
    same(&home, "whole", "in-two-steps");
    // In another order the documents are in another order, and what is counted is the same.
    home.done("merge of-c of-a of-b --out turned --write documents");
    let (whole, turned) = (files(&home, "whole"), files(&home, "turned"));
    for name in
        ["/account.bin", "/vocabulary.csv", "/forms.csv", "/effects.csv", "/matches.csv", "/lengths.csv"]
    {
        assert!(whole[name] == turned[name], "{name}");
    }
    assert!(whole["/documents.jsonl"] != turned["/documents.jsonl"]);
    assert!(home.done("find merged harrier --format csv").lines().count() > 10);
}

#[test]
fn what_does_not_go_together_is_refused() {
    let home = home(RECIPE)
        .file("a.jsonl", notes(0, 200))
        .file("b.jsonl", notes(200, 400))
        .file("c.jsonl", notes(0, 5000))
        .file("r2.toml", RECIPE.replace("\"case\"", "\"accents\""));
    home.done("run r.toml a.jsonl --out a --write documents");
    home.done("run r2.toml b.jsonl --out other-recipe");
    home.done("run r.toml a.jsonl --part 1/2 --out p1");
    home.done("run r.toml b.jsonl --part 2/2 --out q2");
    home.done("run r.toml b.jsonl --first 9 --out few");
    home.done("run r.toml b.jsonl --out bare --write none");
    let refused = |parts: &str, why: &str| {
        let said = home.refused(&format!("merge {parts} --out out"));
        assert!(said.contains(why), "{parts}: {said}");
        assert!(!home.path("out").exists());
    };
    refused("a other-recipe", "a and other-recipe do not go together: they are of different recipes");
    refused("a a", "`a.jsonl` was read by both runs, and would be counted twice");
    refused("p1", "part 2/2 is missing");
    refused("p1 p1", "part 1/2 is there twice");
    refused("p1 a", "one of them is not a numbered part");
    refused("p1 q2", "they are of different collections, or were read with other options");
    home.done("run r.toml a.jsonl --part 2/2 --where n<150 --out p2-where");
    refused("p1 p2-where", "they are of different collections, or were read with other options");
    home.done("run r.toml c.jsonl --part 1/2 --out c1 --documents jsonl.zst");
    home.done("run r.toml c.jsonl --part 2/2 --out c2");
    refused("c1 c2", "the parts were not made alike: batch 3 of the collection is in none of them or in two");
    refused("few", "is a run over a choice of the documents");
    refused("a bare", "one has documents or original texts that the other has not");
    refused("a nowhere", "nowhere: no run folder here");
    refused("a a.jsonl", "a.jsonl: damaged: this is not a part of a run");
    fs::write(home.path("ours.txt"), "the\nan\n").expect("another list");
    home.done("run r.toml b.jsonl --out other-list");
    refused("a other-list", "`ours.txt`, which the recipe names, was not the same for both");
    assert!(home.refused("run r.toml a.jsonl --part 3/2 --out x").contains("such as 3/8"));
    for command in [
        "terms p1",
        "find p1 tern",
        "report p1",
        "matrix p1 --out m",
        "run r.toml p1 --out x",
        "compare p1 a",
    ] {
        assert!(
            home.refused(command).contains("p1: is part 1/2 of a run; put all parts together"),
            "{command}"
        );
    }
}

#[test]
fn a_part_that_was_cut_or_changed_is_refused() {
    let home = home(RECIPE).file("a.jsonl", notes(0, 900)).file("b.jsonl", notes(900, 1000));
    home.done("run r.toml a.jsonl --out a");
    home.done("run r.toml b.jsonl --out b");
    for name in ["course.bin", "documents.jsonl", "account.bin", "lengths.csv"] {
        let path = home.path("b").join(name);
        let whole = fs::read(&path).expect("a file");
        for harm in [true, false] {
            let mut harmed = whole.clone();
            if harm {
                let middle = harmed.len() / 2;
                harmed[middle] ^= 1;
            } else {
                harmed.truncate(whole.len() - 3);
            }
            fs::write(&path, harmed).expect("written");
            let said = home.refused("merge a b --out out");
            assert!(said.contains("error: b") && !home.path("out").exists(), "{name}: {said}");
        }
        fs::write(&path, whole).expect("written");
    }
    home.done("merge a b --out out");
}

/// Steps that learn one behind the other, of every sort.
const LEARNS: &str = "language = \"en\"\n[[step]]\ndo = \"lines\"\nrepeated_in = 3\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"case\"\n\
                      [[step]]\ndo = \"stopwords\"\nshare = 0.6\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 5\n\
                      [[step]]\ndo = \"stem\"\nshow = \"commonest\"\n[[step]]\ndo = \"limit\"\nmin_documents = 2\n\
                      [[step]]\ndo = \"documents\"\ncopies = \"near\"\n";

#[test]
fn what_parts_learn_together_is_what_the_whole_learns() {
    let home = home(LEARNS).file("notes.jsonl", notes(0, 2500));
    home.done("run r.toml notes.jsonl --out whole");
    let refused = home.refused("run r.toml notes.jsonl --part 1/3 --out part-1");
    assert!(refused.contains("step 1 (`lines`) learns from the whole collection first"), "{refused}");
    let (mut before, mut rounds) = (String::new(), 0);
    loop {
        for number in 1..=3 {
            home.done(&format!(
                "run r.toml notes.jsonl --part {number}/3 --lessons {number}.lessons --replace {before}"
            ));
        }
        let said = home.yarrup(&format!(
            "merge --freeze r.toml 2.lessons 1.lessons 3.lessons --out f.toml --replace {before}"
        ));
        before = "--learned f.learned".to_owned();
        rounds += 1;
        match said.code {
            Some(1) if rounds < 12 => {
                assert!(said.err.contains("Write lessons of all parts again"), "{}", said.err);
            }
            code => {
                assert_eq!(code, Some(0), "{said:?}");
                break;
            }
        }
    }
    for number in 1..=3 {
        home.done(&format!(
            "run r.toml notes.jsonl --part {number}/3 --learned f.learned --out part-{number}"
        ));
    }
    home.done("merge part-1 part-2 part-3 --out merged");
    same(&home, "whole", "merged");
    // Copies are known by their places: of other documents nothing is known.
    let others = home.path("others.jsonl");
    fs::write(others, notes(100, 400)).expect("written");
    let refused = home.refused("run r.toml others.jsonl --learned f.learned --out others");
    assert!(
        refused.contains("was learned from another collection") && !home.path("others").exists(),
        "{refused}"
    );
    assert_eq!(home.read("f.toml"), home.read("whole/frozen.toml"));
    assert!(home.read("whole/dropped-documents.csv").lines().count() > 100);
    assert!(home.read("whole/learned.csv").contains("arctic tern"));
}

#[test]
fn lessons_that_do_not_go_together_are_refused() {
    let learns = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\ntop = 3\n";
    let home = home(learns)
        .file("a.jsonl", notes(0, 100))
        .file("b.jsonl", notes(100, 150))
        .file("s.toml", learns.replace('3', "4"));
    home.done("run r.toml a.jsonl --lessons a.lessons");
    home.done("run s.toml b.jsonl --lessons s.lessons");
    home.done("run r.toml a.jsonl --part 1/2 --lessons p1.lessons");
    let refused = |parts: &str, why: &str| {
        let said = home.refused(&format!("merge --freeze r.toml {parts} --out f.toml"));
        assert!(said.contains(why) && !home.path("f.toml").exists(), "{parts}: {said}");
    };
    refused("a.lessons s.lessons", "s.lessons: holds the lessons of another recipe");
    refused("a.lessons a.lessons", "`a.jsonl` is in a.lessons as well, and would be counted twice");
    refused("p1.lessons", "part 2/2 is missing");
    refused("a.jsonl", "a.jsonl: damaged: this is not a file of lessons");
    home.done("run r.toml b.jsonl --part 2/2 --lessons q2.lessons");
    refused("p1.lessons q2.lessons", "q2.lessons: is of another collection than the parts before");
    assert!(home.refused("run r.toml a.jsonl --lessons a.lessons").contains("is there already"));
    let copies = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"documents\"\ncopies = \"exact\"\n";
    fs::write(home.path("c.toml"), copies).expect("written");
    assert!(
        home.refused("run c.toml a.jsonl --lessons c.lessons")
            .contains("by `yarrup run … --part K/N --lessons`")
    );
    // What lines from different inputs teach comes to what they teach together.
    for (name, from, to) in [("x", 0, 60), ("y", 60, 150)] {
        let said = home.yarrup_with(
            &format!("pipe r.toml --lessons {name}.lessons --called {name}"),
            &[],
            notes(from, to).as_bytes(),
        );
        assert_eq!((said.out.as_str(), said.code), ("", Some(0)), "{said:?}");
    }
    home.done("merge --freeze r.toml x.lessons y.lessons --out f.toml");
    home.done("run r.toml a.jsonl b.jsonl --out whole");
    assert_eq!(home.read("f.toml"), home.read("whole/frozen.toml"));
    // Written elsewhere, the recipe still finds its lists.
    std::fs::create_dir(home.path("there")).expect("a folder");
    let listed = learns.replace("top = 3", "top = 3\nlists = [\"ours.txt\"]");
    fs::write(home.path("listed.toml"), listed).expect("written");
    home.done("run listed.toml a.jsonl --lessons l.lessons");
    home.done("merge --freeze listed.toml l.lessons --out there/f.toml");
    assert!(home.read("there/f.toml").contains("lists = [\"../ours.txt\"]"), "{}", home.read("there/f.toml"));
    let piped = home.yarrup_with("pipe there/f.toml", &[], b"{\"text\":\"the owl\"}\n");
    assert_eq!(piped.out, "{\"text\":\"the owl\",\"clean\":\"owl\"}\n");
    home.done("run listed.toml a.jsonl --learned there/f.learned --out by-learned");
}

#[test]
fn the_accounts_of_pipes_come_to_a_run_without_documents() {
    let home = home(RECIPE).file("whole.jsonl", notes(0, 1200));
    home.done("run r.toml whole.jsonl --out whole --without-documents");
    for (name, from, to) in [("p1", 0, 500), ("p2", 500, 500), ("p3", 500, 1200)] {
        let said = home.yarrup_with(
            &format!("pipe r.toml --account {name}.part --called {name}"),
            &[],
            notes(from, to).as_bytes(),
        );
        assert_eq!(said.code, Some(0), "{said:?}");
        assert_eq!(said.out.lines().count(), to - from);
    }
    home.done("merge p1.part p2.part p3.part --out merged");
    for name in ["vocabulary.csv", "forms.csv", "effects.csv", "matches.csv", "lengths.csv"] {
        assert_eq!(home.read(&format!("whole/{name}")), home.read(&format!("merged/{name}")), "{name}");
    }
    // Documents without an id are called by the input that they came in.
    let dropped = |run: &str| home.read(&format!("{run}/dropped-documents.csv"));
    assert_eq!(dropped("merged").lines().count(), dropped("whole").lines().count());
    assert!(dropped("whole").contains("\nwhole.jsonl:591,") && dropped("merged").contains("\np3:91,"));
    assert!(home.read("merged/growth.csv").lines().count() > 50);
    // The same lines as two inputs are counted twice; as one input they are one.
    let one = home.yarrup_with("pipe r.toml --account again.part --called p1", &[], notes(0, 500).as_bytes());
    assert_eq!(one.code, Some(0));
    assert!(home.refused("merge p1.part again.part --out twice").contains("counted twice"));
    let other =
        home.yarrup_with("pipe r.toml --account other.part --called p9", &[], notes(0, 500).as_bytes());
    assert_eq!(other.code, Some(0));
    home.done("merge p1.part other.part --out twice");
    assert!(home.refused("merge p1.part other.part --out twice").contains("add --replace"));
    // However the input comes, the part is the same.
    let parts: Vec<Vec<u8>> = [7, 100_000]
        .into_iter()
        .map(|piece| {
            let mut child = home
                .command("pipe r.toml --account piece.part --replace --called p1")
                .stdin(std::process::Stdio::piped())
                .stdout(std::process::Stdio::null())
                .stderr(std::process::Stdio::null())
                .spawn()
                .expect("begun");
            let mut input = child.stdin.take().expect("its input");
            notes(0, 500).as_bytes().chunks(piece).for_each(|piece| {
                std::io::Write::write_all(&mut input, piece).expect("written");
            });
            drop(input);
            assert!(child.wait().expect("ended").success());
            fs::read(home.path("piece.part")).expect("a part")
        })
        .collect();
    assert!(parts[0] == parts[1] && parts[0] == fs::read(home.path("p1.part")).expect("a part"));
}
