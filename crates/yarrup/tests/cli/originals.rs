//! What a run writes, and where its original texts are.

use crate::home::Home;

const RECIPE: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
    [[step]]\ndo = \"documents\"\nmin_tokens = 1\ncopies = \"exact\"\n";

const NOTES: &str = concat!(
    "{\"n\":1,\"body\":{\"note\":\"The terns \\\"nest\\\" \\ud83d\\udc26\",\"by\":\"Mira\"},\"site\":\"spit\",\"rating\":4,\"clean\":\"mine\"}\n",
    "not JSON\n",
    "{\"n\":2,\"body\":{\"note\":\"the\"},\"site\":\"spit\",\"rating\":3}\n",
    "{\"n\":2,\"body\":{\"note\":\"Gulls over the marsh\"},\"site\":\"marsh\",\"rating\":2}\n",
    "{\"n\":3,\"body\":{\"note\":\"never taken\"},\"site\":\"dune\",\"rating\":9}\n",
    "{\"n\":4,\"body\":{\"note\":\"Gulls over the marsh\"},\"site\":\"marsh\",\"rating\":1}\n",
    "{\"n\":5,\"body\":{\"note\":\"\"},\"site\":null,\"rating\":1}\n",
    "{\"n\":6,\"body\":{\"note\":\"Terns, gulls\\tand waders\"},\"site\":\"spit\",\"rating\":1,\"text\":\"other\"}\n",
);

const CARDS: &str = "card,remark,site\nc1,\"A hide, with terns\",spit\nc2,Gulls,marsh\n";

fn home() -> Home {
    Home::new().file("r.toml", RECIPE).file("in/notes.jsonl", NOTES).file("in/cards.csv", CARDS).file(
        "all.toml",
        "[[source]]\npath = \"in/notes.jsonl\"\ntext = \"body.note\"\nid = \"n\"\nwhere = \"rating < 9\"\nderive = { low = \"rating < 3\" }\ndetect_language = true\n\
         [[source]]\npath = \"in/cards.csv\"\ntext = \"remark\"\nid = \"card\"\ntitle = \"site\"\n",
    )
}

/// Whether the texts are copied or stay in their sources, everything that is told of a run is the same.
#[test]
fn texts_that_stay_in_their_sources_are_put_together_with_what_the_run_made_of_them() {
    let home = home();
    home.done("run r.toml all.toml --out copied --with-originals");
    let told = home.done("run r.toml all.toml --out deep/referring");
    assert!(told.contains("The original texts stay in in/notes.jsonl, in/cards.csv"), "{told}");
    home.done("run r.toml all.toml --out packed --documents jsonl.zst");
    home.done("run r.toml all.toml --out packed-copied --documents jsonl.zst --with-originals");
    let copied = home.read("copied/documents.jsonl");
    assert!(copied.contains("\"text\":\"Gulls over the marsh\""));
    let referring = home.read("deep/referring/documents.jsonl");
    assert!(
        !referring.contains("Gulls over") && referring.contains("\"clean\":\"gulls marsh\""),
        "{referring}"
    );
    assert_eq!(copied.lines().count(), referring.lines().count());
    for run in ["deep/referring", "packed", "packed-copied"] {
        for command in [
            "export RUN --what documents --as jsonl",
            "export RUN --what tokens --as csv --dropped --fields site",
            "export RUN --what counts --as jsonl",
            "export RUN --as conllu",
            "find RUN gulls --format jsonl",
            "find RUN Terns --form --format jsonl",
            "find RUN the --dropped --format jsonl",
            "find RUN --emptied --format jsonl",
            "find RUN terns gulls --all --whole",
            "terms RUN --by site",
            "why RUN gulls",
        ] {
            let of = |run: &str| home.yarrup(&command.replace("RUN", run)).out.replace(run, "RUN");
            assert_eq!(of(run), of("copied"), "{run}: {command}");
        }
        // A run as a source is its documents.
        home.done(&format!("run r.toml {run} --out again --with-originals --replace"));
        home.done("run r.toml copied --out again-copied --with-originals --replace");
        assert_eq!(home.read("again/documents.jsonl"), home.read("again-copied/documents.jsonl"));
    }
    // The way to the sources is that from the run: both may be moved together.
    std::fs::create_dir(home.path("far")).expect("a folder");
    for name in ["in", "deep"] {
        std::fs::rename(home.path(name), home.path("far").join(name)).expect("moved");
    }
    assert!(home.done("find far/deep/referring gulls").contains("over the marsh"));
    // Without its sources, a run says so, and what needs no text goes on.
    std::fs::rename(home.path("far/in"), home.path("far/gone")).expect("moved");
    let err = home.refused("find far/deep/referring gulls");
    assert!(err.contains("the run does not hold the original texts") && err.contains("notes.jsonl"), "{err}");
    assert!(home.done("terms far/deep/referring").contains("gulls"));
    // Nor does it take others for them.
    std::fs::rename(home.path("far/gone"), home.path("far/in")).expect("moved");
    for (from, to) in [("terns", "tern"), ("marsh", "MARSH"), ("Mira", "Mora")] {
        let mut text = NOTES.replacen(from, to, 1);
        if text.len() != NOTES.len() {
            text.push('\n');
        }
        std::fs::write(home.path("far/in/notes.jsonl"), text).expect("changed");
        let err = home.refused("export far/deep/referring --what tokens --as csv");
        assert!(err.contains("make the run again"), "{from}: {err}");
    }
}

#[test]
fn texts_that_may_not_be_there_again_are_copied() {
    let home = home().file("one/a.txt", "A tern").file("one/b.txt", "A gull");
    home.done("run r.toml in/notes.jsonl --text body.note --id n --first 3 --out few");
    home.done("run r.toml one --out folder");
    let said = home.yarrup_with("run r.toml - --text body.note --id n --out piped", &[], NOTES.as_bytes());
    assert_eq!(said.code, Some(0), "{said:?}");
    for run in ["few", "folder", "piped"] {
        assert!(home.read(&format!("{run}/documents.jsonl")).contains("\"text\":"), "{run}");
        assert!(!home.path(&format!("{run}/originals.json")).exists());
    }
    // What is packed under a plain name is read again as well.
    let mut packing = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    std::io::Write::write_all(&mut packing, NOTES.as_bytes()).expect("packed");
    std::fs::write(home.path("packed.jsonl"), packing.finish().expect("packed")).expect("written");
    home.done("run r.toml packed.jsonl --text body.note --id n --out of-packed");
    assert!(home.path("of-packed/originals.json").exists());
    assert!(home.done("find of-packed gulls").contains("over the marsh"));
    home.done("run r.toml in/notes.jsonl --text body.note --id n --without-originals --out bare");
    assert!(!home.path("bare/originals.json").exists());
    assert!(home.refused("export bare --as csv").contains("--without-originals"));
}

#[test]
fn a_run_writes_what_is_asked_for() {
    let home = home();
    home.done("run r.toml all.toml --out all --tokens parquet --write documents,report,figures");
    home.done("run r.toml all.toml --out few --write documents --tokens csv");
    home.done("run r.toml all.toml --out page --write report");
    let bare = home.done("run r.toml all.toml --out bare --write none");
    assert!(!bare.contains("report.html"), "{bare}");
    for more in ["--write none,report", "--write report --matrix m", "--write none --into x.sqlite"] {
        assert!(home.refused(&format!("run r.toml all.toml --out no {more}")).contains("--write"), "{more}");
        assert!(!home.path("no").exists() && !home.path("x.sqlite").exists());
    }
    let has = |run: &str, name: &str| home.path(run).join(name).exists();
    for (run, documents, figures, report) in [
        ("all", true, true, true),
        ("few", true, false, false),
        ("page", false, false, true),
        ("bare", false, false, false),
    ] {
        assert_eq!(has(run, "documents.jsonl"), documents, "{run}");
        assert_eq!(has(run, "figures/effects.png"), figures, "{run}");
        assert_eq!(has(run, "report.html"), report, "{run}");
        assert_eq!(home.read(&format!("{run}/vocabulary.csv")), home.read("all/vocabulary.csv"));
    }
    assert!(home.read("page/report.html").contains("The run was made without its documents"));
    // The tokens are those that `export` gives.
    assert_eq!(home.read("few/tokens.csv"), home.done("export few --as csv"));
    home.done("export all --as parquet --out t.parquet");
    let rows = |file: &str| home.documents(&format!("{file} --text term --id position"));
    assert_eq!(rows("all/tokens.parquet"), rows("t.parquet"));
    // What a run wrote may be replaced, packed or not, tokens and all.
    home.done("run r.toml all.toml --out all --replace --documents jsonl.zst");
    assert!(!has("all", "tokens.parquet") && has("all", "documents.jsonl.zst"));
    // Packed documents that were damaged are not believed.
    let path = home.path("all/documents.jsonl.zst");
    let mut bytes = std::fs::read(&path).expect("bytes");
    let last = bytes.len() - 1;
    bytes[last] ^= 1;
    std::fs::write(&path, bytes).expect("written");
    home.refused("export all --what documents --as csv");
}
