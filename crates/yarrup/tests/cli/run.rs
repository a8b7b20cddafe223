use std::collections::BTreeMap;

use crate::home::Home;

const NOTES: &str = "{\"id\":\"a\",\"site\":\"spit\",\"text\":\"The terns nest. Nests on the spit!\"}\n\
                     {\"id\":\"b\",\"site\":\"hide\",\"text\":\"One tern isn't nesting\"}\n";

fn home() -> Home {
    Home::with_recipe().file("notes.jsonl", NOTES)
}

#[test]
fn the_tables_tell_every_step_to_the_unit() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out run");
    assert_eq!(
        home.read("run/effects.csv"),
        "step,do,label,documents_touched,tokens_in,tokens_dropped,tokens_added,tokens_changed,tokens_out,types_in,\
         types_out,matches,characters_in,characters_out,tokens_joined,tokens_marked\n\
         0,as found,,,,,,,13,,13,,,56,,\n\
         1,case,,2,,,,,,,,3,56,56,,\n\
         2,split,,,,,,,13,,12,,,,,\n\
         3,stopwords,,2,13,5,0,0,8,12,8,,,,0,0\n\
         4,drop,,1,8,2,0,0,6,8,6,,,,0,0\n\
         5,stem,,2,6,0,0,3,6,6,3,,,,0,0\n"
    );
    assert_eq!(
        home.read("run/vocabulary.csv"),
        "rank,term,count,documents,share,cumulative_share,kind,tag,forms,commonest_form\n\
         1,nest,3,2,0.500000,0.500000,word,,3,nest\n\
         2,tern,2,2,0.333333,0.833333,word,,2,tern\n\
         3,spit,1,1,0.166667,1.000000,word,,1,spit\n"
    );
    let forms = home.read("run/forms.csv");
    assert!(forms.starts_with(
        "form,kind,tag,count,documents,fate,step,reason,term\nthe,word,,2,1,dropped,3,stop word (en),\n"
    ));
    assert!(forms.contains("\n.,punctuation,,1,1,dropped,4,punctuation,\n"), "{forms}");
    assert!(forms.contains("\nnests,word,,1,1,kept,,,nest\n"));
    assert!(forms.contains("\nisn't,word,,1,1,dropped,3,stop word (en),\n"));
}

#[test]
fn documents_keep_their_fields_and_their_text() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out run --with-originals");
    assert_eq!(
        home.read("run/documents.jsonl"),
        "{\"id\":\"a\",\"site\":\"spit\",\"text\":\"The terns nest. Nests on the spit!\",\"clean\":\"tern nest nest spit\",\
         \"tokens_before\":9,\"tokens_after\":4}\n\
         {\"id\":\"b\",\"site\":\"hide\",\"text\":\"One tern isn't nesting\",\"clean\":\"tern nest\",\
         \"tokens_before\":4,\"tokens_after\":2}\n"
    );
    home.done("run recipe.toml notes.jsonl --out bare --without-originals");
    assert!(!home.read("bare/documents.jsonl").contains("\"text\""));
    home.done("run recipe.toml notes.jsonl --out account --without-documents");
    assert!(!home.path("account/documents.jsonl").exists());
    assert_eq!(home.read("account/vocabulary.csv"), home.read("run/vocabulary.csv"));
}

#[test]
fn the_run_folder_is_complete_and_its_page_needs_no_network() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out deep/down/run --write documents,report,figures");
    assert_eq!(
        home.names("deep/down/run"),
        [
            "account.bin",
            "course.bin",
            "documents.jsonl",
            "effects.csv",
            "figures",
            "forms.csv",
            "growth.csv",
            "lengths.csv",
            "matches.csv",
            "originals.json",
            "recipe.toml",
            "report.html",
            "run.json",
            "vocabulary.csv"
        ]
    );
    assert_eq!(home.names("deep/down"), ["run"]);
    assert_eq!(
        home.names("deep/down/run/figures"),
        [
            "cloud.png",
            "cloud.svg",
            "documents-frequency.png",
            "documents-frequency.svg",
            "effects.png",
            "effects.svg",
            "growth.png",
            "growth.svg",
            "kinds.png",
            "kinds.svg",
            "lengths.png",
            "lengths.svg",
            "rank-documents.png",
            "rank-documents.svg",
            "rank-frequency.png",
            "rank-frequency.svg",
            "top-terms.png",
            "top-terms.svg"
        ]
    );
    assert_eq!(home.read("deep/down/run/recipe.toml"), home.read("recipe.toml"));
    let page = home.read("deep/down/run/report.html");
    for needed in
        ["Content-Security-Policy", "nest", "The effect of each step", "13 tokens", "id=\"terms-data\""]
    {
        assert!(page.contains(needed), "{needed}");
    }
    for source in ["src=\"http", "href=\"http", "@import", "url(http"] {
        assert!(!page.contains(source), "{source}");
    }
    let record: serde_json::Value = serde_json::from_str(&home.read("deep/down/run/run.json")).expect("JSON");
    assert_eq!(record["totals"]["documents"], 2);
    assert_eq!(record["totals"]["tokens_found"], 13);
    assert_eq!(record["totals"]["types_found"], 13);
    assert_eq!(record["sources"][0]["bytes"], NOTES.len());
    assert_eq!(record["sources"][0]["format"], "jsonl");
}

/// A collection of several batches, with words that come up on both sides of every border.
fn large() -> String {
    let mut lines = String::new();
    let mut state = 12345u32;
    for id in 0..12_000 {
        let mut text = String::new();
        for _ in 0..30 {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let rank = (state >> 16) % ((state >> 8) % 3000 + 1);
            text.push_str(&format!(
                "{} ",
                ["Terns", "the", "wárd", "nesting"][rank as usize % 4].to_owned() + &rank.to_string()
            ));
        }
        lines.push_str(&format!("{{\"id\":{id},\"text\":\"{text}\"}}\n"));
    }
    lines
}

#[test]
fn every_byte_is_the_same_for_any_number_of_threads_and_any_run() {
    let home = Home::with_recipe().file("large.jsonl", large());
    let files = [
        "documents.jsonl",
        "effects.csv",
        "forms.csv",
        "report.html",
        "run.json",
        "vocabulary.csv",
        "figures/effects.png",
    ];
    let mut whole: BTreeMap<&str, Vec<u8>> = BTreeMap::new();
    for (number, threads) in ["1", "2", "5", "2"].iter().enumerate() {
        home.done(&format!("run recipe.toml large.jsonl --out run{number} --threads {threads} --write documents,report,figures"));
        for file in files {
            let bytes = std::fs::read(home.path(&format!("run{number}/{file}"))).expect("a file");
            assert_eq!(
                *whole.entry(file).or_insert_with(|| bytes.clone()),
                bytes,
                "{file} with {threads} threads"
            );
        }
    }
    let record: serde_json::Value = serde_json::from_slice(&whole["run.json"]).expect("JSON");
    assert_eq!(record["totals"]["documents"], 12_000);
    assert_eq!(record["totals"]["tokens_found"], 360_000);
}

#[test]
fn what_is_printed_tells_the_effect_and_where_to_look() {
    let said = home().yarrup("run recipe.toml notes.jsonl --out run");
    assert_eq!(said.err, "");
    for shown in [
        "small  2 documents from 1 file",
        "stopwords",
        "61.5 %",
        "Top terms of 3",
        "run/report.html",
        "yarrup terms run",
    ] {
        assert!(said.out.contains(shown), "{shown} in {}", said.out);
    }
    assert!(!said.out.contains('\u{1b}'), "no colour where there is no terminal");
}

#[test]
fn a_run_is_replaced_only_when_asked() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out run");
    let before = home.read("run/run.json");
    let err = home.refused("run recipe.toml notes.jsonl --out run");
    assert!(err.contains("run: is there already; add --replace"), "{err}");
    let home = home.file("notes.jsonl", "{\"text\":\"gulls\"}\n");
    home.done("run recipe.toml notes.jsonl --out run --replace");
    assert_ne!(home.read("run/run.json"), before);
    let home = home.file("thesis/chapter.txt", "years of work");
    let err = home.refused("run recipe.toml notes.jsonl --out thesis --replace");
    assert!(err.contains("is not a run folder"), "{err}");
    assert_eq!(home.read("thesis/chapter.txt"), "years of work");
    assert_eq!(home.names("."), ["notes.jsonl", "recipe.toml", "run", "thesis"]);
}

#[test]
fn the_folder_is_named_for_the_recipe_unless_told() {
    let home = home();
    home.done("run recipe.toml notes.jsonl");
    assert!(home.path("recipe-run/vocabulary.csv").exists());
}

#[test]
fn own_lists_are_read_beside_the_recipe() {
    let home = Home::new()
        .file(
            "house/recipe.toml",
            "[[step]]\ndo = \"stopwords\"\nlists = [\"words.txt\", { file = \"more.csv\", column = \"word\" }]\n",
        )
        .file("house/words.txt", "# ours\nthe\n")
        .file("house/more.csv", "n,word\n1,a\n2,on\n")
        .file("notes.txt", "a tern on the spit");
    let said = home.yarrup("run house/recipe.toml notes.txt --out run");
    assert!(said.err.contains("note: no `split` in the recipe; step 1 is `split` into words"), "{said:?}");
    assert!(home.read("run/documents.jsonl").contains("\"clean\":\"tern spit\""));
    assert!(home.read("run/forms.csv").contains("on,word,,1,1,dropped,2,stop word (more.csv),"));
    assert!(home.read("run/run.json").contains("\"name\": \"words.txt\""));
}

#[test]
fn steps_with_a_condition_work_on_their_documents_alone() {
    let home = Home::new()
        .file(
            "recipe.toml",
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\nonly = { site = [\"spit\", \"flats\"] }\n",
        )
        .file("notes.csv", "site,text\nspit,the tern\nhide,the gull\nflats,the knot\n");
    home.done("run recipe.toml notes.csv --out run");
    let cleaned: Vec<_> = home
        .read("run/documents.jsonl")
        .lines()
        .map(|line| line.split("\"clean\":").nth(1).unwrap_or("")[..6].to_owned())
        .collect();
    assert_eq!(cleaned, ["\"tern\"", "\"the g", "\"knot\""]);
    let forms = home.rows("run/forms.csv");
    assert_eq!(forms[0][..6], ["the", "word", "", "2", "2", "dropped"]);
    let kept = forms.iter().find(|row| row[0] == "the" && row[5] == "kept").expect("kept in one document");
    assert_eq!(kept[3], "1");
    assert!(home.read("run/effects.csv").contains("\n2,stopwords,,2,6,2,0,0,4,4,4,,,,0,0\n"));
}

#[test]
fn a_recipe_of_text_steps_gives_the_rewritten_text() {
    let home = Home::new()
        .file("recipe.toml", "[[step]]\ndo = \"spaces\"\n[[step]]\ndo = \"case\"\nto = \"upper\"\n")
        .file("note.txt", "  two   Terns\n");
    let said = home.yarrup("run recipe.toml note.txt --out run");
    assert!(said.err.contains("only text steps"), "{said:?}");
    assert!(home.read("run/documents.jsonl").contains("\"clean\":\"TWO TERNS\""));
    assert_eq!(home.rows("run/vocabulary.csv").len(), 2);
}

#[test]
fn what_text_steps_match_is_counted_by_sort_with_examples() {
    let home = Home::new()
        .file(
            "r.toml",
            "[[step]]\ndo = \"mask\"\nlabel = \"private\"\nkinds = [\"email\", \"url\"]\npatterns = { ticket = 'EQ-\\d+' }\n\n[[step]]\ndo = \"contractions\"\n\n\
             [[step]]\ndo = \"split\"\n",
        )
        .file(
            "notes.jsonl",
            "{\"text\":\"EQ-1: it's for a@example.org\"}\n{\"text\":\"EQ-2 and EQ-3 aren't at www.example.org\"}\n{\"text\":\"=cmd(1)@example.org\"}\n",
        );
    let mut tables = Vec::new();
    for threads in [1, 3] {
        let out = home.done(&format!("run r.toml notes.jsonl --out run --replace --threads {threads}"));
        assert!(out.contains("What the text steps matched") && out.contains("1 private"), "{out}");
        tables.push(home.read("run/matches.csv"));
    }
    assert_eq!(tables[0], tables[1]);
    let table = &tables[0];
    assert!(
        table.starts_with("step,do,label,sort,count,documents,example_1,example_2,example_3\n"),
        "{table}"
    );
    for row in [
        "1,mask,private,ticket,3,2,EQ-",
        "1,mask,private,url,1,1,www.example.org,,",
        "2,contractions,,'s as is,1,1,'s,,",
        "2,contractions,,written out,1,1,aren't,,",
    ] {
        assert!(table.contains(row), "{row} in {table}");
    }
    assert!(home.read("run/report.html").contains("What the text steps matched"));
    assert!(home.read("run/documents.jsonl").contains("\"clean\":\"<ticket> : it is for <email>\""));
}

#[test]
fn each_step_has_its_time_where_that_is_asked_for() {
    let home = Home::with_recipe().file("notes.jsonl", "{\"text\":\"The terns nest\"}\n");
    let out = home.done("run recipe.toml notes.jsonl --out run --timings");
    let (_, times) = out.split_once("The time of each step").expect("a section");
    for step in ["1 case", "2 split", "3 stopwords", "4 drop", "5 stem", "all steps"] {
        assert!(times.contains(step), "{step}: {times}");
    }
    assert!(times.contains("estimated on 100.0 % of the text"), "{times}");
    home.done("run recipe.toml notes.jsonl --out other");
    // Nothing of it is in the run.
    assert_eq!(home.read("run/run.json"), home.read("other/run.json"));
}

#[test]
fn heads_and_feet_of_pages_are_learned_and_frozen() {
    let mut lines = String::new();
    for (number, bird) in (9..15).zip(["terns", "gulls", "herons", "plovers", "dunlins", "curlews"]) {
        let text = format!(
            "{number} Tides of the Marsh\n\nWe saw {bird}.\n\nTides of the Marsh\n\nMore {bird}.\n\nPage {number}\n"
        );
        lines.push_str(&format!("{}\n", serde_json::json!({ "text": text })));
    }
    let home = Home::new().file("pages.jsonl", lines).file(
        "recipe.toml",
        "[[step]]\ndo = \"lines\"\nrepeated_in = 3\nedges = 1\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n",
    );
    home.done("run recipe.toml pages.jsonl --out run");
    let learned: Vec<String> = home.rows("run/learned.csv").into_iter().map(|row| row[2].clone()).collect();
    assert_eq!(learned, ["0 Tides of the Marsh", "Page 0"]);
    let first = |folder: &str| {
        let documents = home.read(&format!("{folder}/documents.jsonl"));
        documents.lines().next().expect("a document").to_owned()
    };
    // What stands in the middle stays, though it is there as often.
    assert!(first("run").contains("\"We saw terns Tides of the Marsh More terns\""), "{}", first("run"));
    home.done("run run/frozen.toml pages.jsonl --out again");
    assert_eq!(first("again"), first("run"));
    let alone = "[[step]]\ndo = \"lines\"\nedges = 1\nrejoin = true\n";
    std::fs::write(home.path("alone.toml"), alone).expect("a recipe");
    assert!(home.refused("check alone.toml").contains("`edges` needs `repeated_in` or `known`"));
}
