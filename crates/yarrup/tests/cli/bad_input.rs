use std::process::Stdio;

use crate::home::Home;

#[test]
fn all_mistakes_of_a_recipe_are_shown_at_once_with_their_places() {
    let home = Home::new().file(
        "bad.toml",
        "languages = \"en\"\n[[step]]\ndo = \"stopword\"\n[[step]]\ndo = \"case\"\nto = \"lowercase\"\n[[step]]\ndo = \"drop\"\n\
         shorter_then = 3\n[[step]]\ndo = \"erase\"\nclasses = \"digits\"\n",
    );
    let err = home.refused("run bad.toml notes.jsonl");
    let expected = "\
error: unknown key `languages`
 --> bad.toml:1:1
  |
1 | languages = \"en\"
  | ^^^^^^^^^ a recipe has no such key
  |
  = help: did you mean `language`?

error: unknown step `stopword`
 --> bad.toml:3:6
  |
3 | do = \"stopword\"
  |      ^^^^^^^^^^ no step has this name
  |
  = help: did you mean `stopwords`?
";
    assert!(err.starts_with(expected), "{err}");
    for place in [
        "bad.toml:6:6",
        "bad.toml:9:1",
        "did you mean `shorter_than`?",
        "write `classes = [\"digits\"]`",
        "bad.toml: 6 mistakes",
    ] {
        assert!(err.contains(place), "{place} in {err}");
    }
    assert_eq!(home.names("."), ["bad.toml"]);
}

#[test]
fn lists_that_are_not_there_are_mistakes_of_the_recipe() {
    let home =
        Home::new().file("r.toml", "[[step]]\ndo = \"stopwords\"\nlists = [\"no.txt\", \"klingon\"]\n");
    let err = home.refused("check r.toml");
    assert!(err.contains("no word list `no.txt`") && err.contains("r.toml:3:10"), "{err}");
    assert!(err.contains("no word list `klingon`") && err.contains("on the shelf: `en`"), "{err}");
}

#[test]
fn malformed_records_are_named_skipped_and_counted() {
    let home = Home::with_recipe().file(
        "notes.jsonl",
        "{\"text\":\"one tern\"}\n{\"text\": oops}\n{\"body\":\"x\"}\n[1]\n{\"text\":{}}\n{\"text\":\"a \\ud800 b\"}\n{\"text\":\"two\"}\n",
    );
    let said = home.yarrup("run recipe.toml notes.jsonl --out run --with-originals");
    assert_eq!(said.code, Some(0));
    for line in [
        "notes.jsonl:2: not valid JSON: expected value at column 10; skipped",
        "notes.jsonl:3: no field `text`; there are `body`; skipped",
        "notes.jsonl:4: not an object; skipped",
        "notes.jsonl:5: `text` is an object, not a text; skipped",
        "4 unreadable records or pages skipped: see skipped.csv",
        "3 bytes were not UTF-8 and replaced by U+FFFD, in 1 document",
    ] {
        assert!(said.err.contains(line), "{line} in {}", said.err);
    }
    assert_eq!(home.rows("run/skipped.csv").len(), 4);
    assert!(home.read("run/run.json").contains("\"records_skipped\": 4"));
    assert_eq!(home.read("run/documents.jsonl").lines().count(), 3);
    assert!(home.read("run/documents.jsonl").contains("\"text\":\"a \u{fffd}\u{fffd}\u{fffd} b\""));
    let err = home.refused("run recipe.toml notes.jsonl --out strict --strict");
    assert_eq!(err, "error: notes.jsonl:2: not valid JSON: expected value at column 10\n");
    assert!(!home.path("strict").exists());
}

#[test]
fn rows_of_another_length_are_malformed() {
    let home =
        Home::with_recipe().file("cards.csv", "id,text\n1,tern\n2\n3,gull,extra\n4,\"two\nlines\"\n5\n");
    let said = home.yarrup("run recipe.toml cards.csv --out run");
    for line in [
        "cards.csv:3: the row has 1 cell, the header has 2 cells",
        "cards.csv:4: the row has 3 cells",
        "cards.csv:7: the row has 1 cell",
    ] {
        assert!(said.err.contains(line), "{line} in {}", said.err);
    }
}

#[test]
fn a_wrong_text_field_is_an_error_that_lists_the_fields() {
    let home = Home::with_recipe().file("notes.jsonl", "{\"id\":1,\"ticket\":{\"body\":\"x\"}}\n".repeat(30));
    let err = home.refused("run recipe.toml notes.jsonl --out run");
    assert_eq!(
        err,
        "error: no document could be read; notes.jsonl:1: no field `text`; there are `id`, `ticket.body`; \
         choose one with --text (and --id), or let `yarrup look` propose one; 29 others skipped as well\n"
    );
    assert!(!home.path("run").exists());
}

#[test]
fn broken_bytes_are_replaced_and_counted() {
    let home = Home::with_recipe().file(
        "notes.jsonl",
        b"{\"text\":\"caf\xe9 \xff\xfe tern\"}\n{\"text\":\"caf\xc3\xa9, \xc3\xa9t\xc3\xa9\"}\n",
    );
    let said = home.yarrup("run recipe.toml notes.jsonl --out run");
    assert!(said.err.contains("3 bytes were not UTF-8 and replaced by U+FFFD, in 1 document"), "{said:?}");
    assert!(home.read("run/run.json").contains("\"broken_bytes\": 3"));
}

#[test]
fn what_is_not_text_is_named() {
    let home = Home::with_recipe()
        .file("a.txt", b"PK\x03\x04rest")
        .file("b.jpeg", b"\xff\xd8\xff\xe0more")
        .file("c.bin", b"\x00\x01\x02\x03\x04\x05\x06text")
        .file("d.7z", b"7z\xbc\xaf\x27\x1crest")
        .file("e.docx", "plain text")
        .file("i.xlsx", b"\x00\x01\x02\x03\x04\x05\x06\x07")
        .file("h.txt", "<?xml version=\"1.0\"?><svg/>")
        .file("g.jsonl", "");
    for (file, why) in [
        ("a.txt", "damaged zip archive"),
        ("b.jpeg", "not read: it is a picture"),
        ("c.bin", "not read: it is not text, and of no format that is read"),
        ("d.7z", "not read: it is a 7z archive; unpack it, or pack it as zip or tar"),
        (
            "e.docx",
            "its name says a document of a word processor (DOCX, ODT, DOC), but its content is plain text",
        ),
        ("i.xlsx", "its name says a spreadsheet (XLSX, ODS, XLS), but its content is not"),
        ("h.txt", "not read: it is a picture, written in XML"),
        ("f.txt", "there is no such file or folder; did you mean `"),
        ("nowhere/f.txt", "there is no such file or folder; the folder `nowhere` is not there either"),
        ("elsewhere.jsonl", "there is no such file or folder; check how it is spelled"),
    ] {
        let err = home.refused(&format!("run recipe.toml {file} --out run"));
        assert!(err.contains(&format!("{file}: ")) && err.contains(why), "{err}");
        assert!(!home.path("run").exists());
    }
}

#[test]
fn a_place_that_cannot_be_written_is_refused_before_any_work() {
    let home = Home::with_recipe().file("notes.txt", "x").file("taken", "a file");
    let err = home.refused("run recipe.toml notes.txt --out taken/run");
    assert!(err.starts_with("error: taken"), "{err}");
    let err = home.refused("run recipe.toml notes.txt --out taken");
    assert!(err.contains("taken: is not a run folder"), "{err}");
}

#[test]
fn a_killed_run_leaves_nothing_that_looks_whole_and_the_next_tidies_up() {
    let line = "{\"text\":\"The terns are nesting on the spit again this year\"}\n";
    let home = Home::with_recipe().file("notes.jsonl", line.repeat(400_000));
    let mut child = home
        .command("run recipe.toml notes.jsonl --out run --threads 1")
        .stdout(Stdio::null())
        .spawn()
        .expect("the program starts");
    // As soon as it has begun to write: the folder aside is there.
    let begun = || home.names(".").iter().any(|name| name.starts_with(".run.unfinished-"));
    while !begun() && child.try_wait().expect("known").is_none() {
        std::thread::yield_now();
    }
    child.kill().expect("it can be killed");
    child.wait().expect("it ends");
    assert!(!home.path("run").exists(), "the run was killed before its end");
    assert!(home.yarrup("terms run").err.contains("no run folder here"));
    let home = home.file("notes.jsonl", line);
    home.done("run recipe.toml notes.jsonl --out run");
    assert_eq!(home.names("."), ["notes.jsonl", "recipe.toml", "run"]);
}

#[test]
fn a_closed_pipe_ends_quietly() {
    let home =
        Home::with_recipe().file("words.txt", (0..20_000).map(|n| format!("word{n} ")).collect::<String>());
    home.done("run recipe.toml words.txt --out run");
    let mut child = home
        .command("terms run --top 0")
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the program starts");
    drop(child.stdout.take());
    let output = child.wait_with_output().expect("it ends");
    assert_eq!((output.status.code(), output.stderr.as_slice()), (Some(0), &b""[..]));
}

#[test]
fn hostile_text_moves_no_cursor_runs_in_no_page_and_starts_no_formula() {
    let text = "\\u001b[2Jred =HYPERLINK(\\\"x\\\") <script>alert(1)</script> <script>alert(1)</script>";
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n")
        .file("notes.jsonl", format!("{{\"text\":\"{text}\"}}\n"));
    let out = home.done("run r.toml notes.jsonl --out run");
    assert!(!out.contains('\u{1b}') && out.contains("\\u{1b}[2Jred"), "{out}");
    assert!(!home.read("run/report.html").contains("<script>alert"));
    assert!(home.read("run/vocabulary.csv").contains("'=HYPERLINK("));
    let table = home.done("terms run");
    assert!(!table.contains('\u{1b}') && table.contains(" =HYPERLINK("), "{table}");
}

#[test]
fn letters_that_a_figure_cannot_show_are_told() {
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n")
        .file("a.txt", "\u{9ce5} tern \u{fffe}\u{1}");
    let said = home.yarrup("run r.toml a.txt --out run --write documents,report,figures");
    assert_eq!(said.code, Some(0), "{said:?}");
    // The fonts of the system may have the letter; if none has, it is told.
    let is_told = said.err.contains("PNG figures cannot show 1 letter: \u{9ce5} (U+9CE5)");
    assert!(is_told || !said.err.contains("warning"), "{said:?}");
    assert!(home.read("run/figures/top-terms.svg").contains('\u{9ce5}'));
    assert!(home.read("run/figures/top-terms.svg").contains("\\u{fffe}\\u{1}"));
}

#[test]
fn what_breaks_in_the_middle_is_read_up_to_there() {
    use std::io::Write as _;
    let lines: String =
        (0..5000).map(|n| format!("{{\"id\":\"n{n}\",\"text\":\"note {n} of {}\"}}\n", n * 7919)).collect();
    let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    gzip.write_all(lines.as_bytes()).expect("memory");
    let packed = gzip.finish().expect("packed");
    let home = Home::with_recipe()
        .file("cut.jsonl.gz", &packed[..packed.len() / 2])
        .file("array.json", "[{\"text\":\"one\"},\n{\"text\":\"two\"},\n{\"te")
        .file("good.txt", "three");
    let said = home.yarrup("run recipe.toml cut.jsonl.gz array.json good.txt --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("cut.jsonl.gz: ends too early: it was cut off"), "{}", said.err);
    assert!(said.err.contains("array.json:3: not valid JSON"), "{}", said.err);
    assert!(said.err.contains("array.json: the array does not end"), "{}", said.err);
    assert!(said.err.contains("2 files not read whole: see skipped.csv"), "{}", said.err);
    let documents = home.read("run/documents.jsonl");
    assert!(documents.lines().count() > 1000 && documents.contains("\"three\""));
    // Its documents are there, so it is a source, and one that is not whole.
    let run: serde_json::Value = serde_json::from_str(&home.read("run/run.json")).expect("JSON");
    let wholes: Vec<_> =
        run["sources"].as_array().expect("sources").iter().map(|source| source["whole"].clone()).collect();
    assert_eq!(wholes, [false, true, false, true], "{}", run["sources"]);
    let err = home.refused("run recipe.toml cut.jsonl.gz --out strict --strict");
    assert!(err.contains("ends too early"), "{err}");
}

#[test]
fn archives_that_attack_are_refused_and_the_rest_is_read() {
    use std::io::Write as _;
    let mut bomb = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut bomb);
    for (name, content) in [
        ("../../climb.txt", vec![b'x'; 10]),
        ("bomb.txt", vec![b'a'; 110 << 20]),
        ("fine.txt", b"terns".to_vec()),
    ] {
        archive.start_file(name, zip::write::SimpleFileOptions::default()).expect("a member");
        archive.write_all(&content).expect("memory");
    }
    archive.finish().expect("an archive");
    let mut nested = b"deep".to_vec();
    for _ in 0..8 {
        let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        gzip.write_all(&nested).expect("memory");
        nested = gzip.finish().expect("packed");
    }
    let home = Home::with_recipe().file("bomb.zip", bomb.into_inner()).file("deep.gz", nested);
    let said = home.yarrup("run recipe.toml bomb.zip deep.gz --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    for part in [
        "bomb.zip/../../climb.txt: its name climbs out of the archive",
        "bomb.zip/bomb.txt: unpacks to more than 200 times its size",
        "archives in archives, more than 5 deep",
    ] {
        assert!(said.err.contains(part), "{part} in {}", said.err);
    }
    assert_eq!(home.read("run/documents.jsonl").lines().count(), 1);
}

#[test]
fn pdfs_without_text_say_why() {
    let home = Home::with_recipe()
        .file("locked.pdf", include_bytes!("files/encrypted.pdf"))
        .file("pictures.pdf", include_bytes!("files/pictures.pdf"))
        .file("cut.pdf", b"%PDF-1.4\n1 0 obj\n<<");
    for (name, why) in [
        ("locked.pdf", "encrypted: it needs a password"),
        ("pictures.pdf", "no text layer: its 1 page is pictures only; run text recognition (OCR)"),
        ("cut.pdf", "damaged PDF"),
    ] {
        let err = home.refused(&format!("run recipe.toml {name} --out run"));
        assert!(err.contains(why), "{name}: {err}");
    }
}

#[cfg(unix)]
#[test]
fn folders_with_loops_and_strangers_are_read_once() {
    let home = Home::with_recipe()
        .file("pile/a.txt", "terns")
        .file("pile/empty.txt", "")
        .file("pile/empty.csv", "")
        .file("pile/program.bin", b"\x7fELF\x02\x01\x01\0\0\0")
        .file("pile/notes.log", "a log");
    std::fs::create_dir(home.path("pile/sub")).expect("a folder");
    std::fs::write(home.path("pile/sub/b.txt"), "gulls").expect("a file");
    std::os::unix::fs::symlink("..", home.path("pile/sub/loop")).expect("a link");
    std::os::unix::fs::symlink("sub", home.path("pile/twice")).expect("a link");
    std::os::unix::fs::symlink("nowhere", home.path("pile/broken.txt")).expect("a link");
    let said = home.yarrup("run recipe.toml pile --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("note: passed over 6 files"), "{}", said.err);
    let told = home.done("look pile --format json");
    for part in [
        "sub/loop (a link back to a folder that it lies in)",
        "twice (a link to a folder that is read already)",
        "broken.txt (No such file or directory",
        "empty.csv (empty)",
        "program.bin (a program)",
        "notes.log (text whose ending names no format)",
    ] {
        assert!(told.contains(part), "{part} in {told}");
    }
    assert_eq!(home.read("run/documents.jsonl").lines().count(), 3);
    // Files that are asked for are read whatever their names say.
    home.done("run recipe.toml pile --include *.log --out logs");
    assert!(home.read("logs/documents.jsonl").contains("a log"));
    let err = home.refused("run recipe.toml pile --include *.none --out none");
    assert!(err.contains("pile: no file in this folder is read: the patterns take none of them"), "{err}");
}

#[test]
fn nul_bytes_and_odd_characters_are_text_where_text_is() {
    let home = Home::with_recipe()
        .file("notes.jsonl", b"{\"text\":\"one\"}\n{\"text\":\"t\0o\"}\n{\"text\":\"three\"}\n")
        .file("notes.txt", format!("{}\0{}", "terns over the spit ".repeat(30), "gulls"));
    let said = home.yarrup("run recipe.toml notes.jsonl notes.txt --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("notes.jsonl:2: not valid JSON: control character"), "{}", said.err);
    assert!(home.read("run/documents.jsonl").contains("\\u0000gulls"));
}

#[test]
fn settings_that_cannot_be_are_told_with_what_would_do() {
    for (steps, told) in [
        ("do = \"mask\"\n", "`mask` needs at least one of `kinds`, `patterns`"),
        (
            "do = \"mask\"\npatterns = { ticket = \"EQ-(\" }\n",
            "`patterns.ticket` is not a regular expression: unclosed group: `EQ-(`",
        ),
        (
            "do = \"mask\"\npatterns = { any = \"x*\" }\n",
            "the pattern `any` matches nothing at all, everywhere: `x*`",
        ),
        (
            "do = \"replace\"\nwith = \"x\"\n",
            "`replace` needs one of `find`, `pattern`, and `pairs` or `tables`",
        ),
        ("do = \"replace\"\ntables = [\"no.csv\"]\n", "no table of pairs `no.csv`"),
        (
            "do = \"lines\"\n",
            "`lines` needs at least one of `drop`, `repeated_in`, `known`, `rejoin`, `unwrap`",
        ),
        (
            "do = \"lines\"\ndrop = [\"[\"]\n",
            "`drop` is not a regular expression: unclosed character class: `[`",
        ),
        ("do = \"accents\"\nexceptions = \"language\"\n", "needs the recipe's `language`"),
        ("do = \"contractions\"\ntable = \"none\"\n", "needs `pairs` or `tables` where `table` is `none`"),
        ("do = \"split\"\ninto = \"pattern\"\n", "`into = \"pattern\"` needs a `pattern`"),
        ("do = \"split\"\nsize = 2\n", "`size` is for `into = \"characters\"`, and this splits into `words`"),
        ("do = \"split\"\ninto = \"sentences\"\nhyphens = \"keep\"\n", "`hyphens` is for"),
        ("do = \"unicode\"\nquotes = \"no\"\n", "found the text `no`, expected `true` or `false`"),
        ("do = \"replace\"\npairs = [\"a\"]\n", "found an array, expected a table"),
        ("do = \"case\"\nallow = [\"joined-word\"]\n", "did you mean `joined-words`?"),
        ("do = \"include\"\n", "`recipe` is missing"),
        ("do = \"include\"\nrecipe = \"no.toml\"\n", "no recipe `no.toml`"),
    ] {
        let home = Home::new().file("r.toml", format!("[[step]]\n{steps}"));
        let err = home.refused("check r.toml");
        assert!(err.contains(told), "{told} in {err}");
    }
}

#[test]
fn one_mistake_does_not_hide_another_step_s() {
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"replace\"\ntables = [\"no.csv\"]\n[[step]]\ndo = \"mask\"\n");
    let err = home.refused("check r.toml");
    assert!(
        err.contains("no table of pairs `no.csv`")
            && err.contains("`mask` needs at least one of `kinds`")
            && err.contains("2 mistakes"),
        "{err}"
    );
}

#[test]
fn a_quote_that_is_not_closed_is_told_where_it_opens() {
    let rows = "2,Gulls rest\n".repeat(3000);
    for (table, line) in [
        (format!("id,text\n1,Terns nest\n2,\"Terns\n{rows}"), 3),
        (format!("id,text\n1,\"Terns\nnest\"\n2,\"Terns\n{}", rows.trim_end()), 4),
        (format!("id,\"text\n{rows}"), 1),
    ] {
        let home = Home::with_recipe().file("cards.csv", &table);
        let said = home.yarrup("run recipe.toml cards.csv --header true --out run");
        let told = format!("cards.csv: line {line}: a quote is opened here and never closed");
        assert!(said.err.contains(&told), "{line}: {said:?}");
        assert!(home.yarrup("look cards.csv --header true").err.contains(&told), "{line}");
    }
    // In the middle, the next quote closes it: the size of the cell tells.
    let table = format!("id,text\n1,\"Terns\n{}3,\"x\"\n4,y\n", "2,Gulls rest\n".repeat(100_000));
    let home = Home::with_recipe().file("cards.csv", table);
    let said = home.yarrup("run recipe.toml cards.csv --out run");
    assert!(said.err.contains("cards.csv: line 2: a cell of 1 MB over 100002 lines begins here"), "{said:?}");
    assert!(home.read("run/run.json").contains("a cell of 1 MB"));
    // Cells of several lines are no fault, wherever they stand.
    for good in [
        "id,text\n1,\"a\nb\"\n",
        "id,text\n1,\"a\nb\"",
        "id,text\n1,\"a\n\"\n",
        "id,text\n1,\"a\nb\n\"",
        "id,text\n1,5\" nail\n",
    ] {
        let home = Home::with_recipe().file("cards.csv", good);
        let said = home.yarrup("run recipe.toml cards.csv --out run");
        assert!(said.code == Some(0) && !said.err.contains("quote"), "{good:?}: {said:?}");
    }
}

#[test]
fn what_holds_no_document_is_an_error_with_its_reason() {
    let home = Home::with_recipe()
        .file("empty.csv", "")
        .file("header.csv", "id,text\n")
        .file("empty.jsonl", "")
        .file("notes.jsonl", "{\"text\": \"a\", \"n\": 1}\n")
        .file("wide.txt", "Terns\n".chars().flat_map(|c| u32::from(c).to_le_bytes()).collect::<Vec<u8>>());
    for (command, told) in [
        (
            "run recipe.toml empty.csv --out run",
            "the sources hold no document; passed over empty.csv (empty)",
        ),
        (
            "run recipe.toml header.csv --out run",
            "the sources hold no document; passed over header.csv (its only row names the columns; `--header false` reads \
             it as a document)",
        ),
        (
            "run recipe.toml empty.jsonl --out run",
            "the sources hold no document; passed over empty.jsonl (empty)",
        ),
        (
            "run recipe.toml notes.jsonl --where n>1 --out run",
            "no document is left by the conditions: 1 left out",
        ),
        (
            "run recipe.toml wide.txt --out run",
            "wide.txt: written in UTF-32, which is not read; write it as UTF-8",
        ),
        ("look empty.csv", "the sources hold no document"),
        ("check recipe.toml empty.csv", "the sources hold no document"),
        ("try recipe.toml --from empty.csv", "the sources hold no document"),
    ] {
        let err = home.refused(command);
        assert!(err.contains(told), "{command}: {err}");
        assert!(!home.path("run").exists(), "{command}");
    }
    let said = home.yarrup_with("pipe recipe.toml", &[], b"no\nmore\n");
    assert!(said.code == Some(2) && said.err.contains("none of 2 lines is a document"), "{said:?}");
    let asked_for = home.yarrup_with("pipe recipe.toml --errors record", &[], b"no\nmore\n");
    assert_eq!((asked_for.out.lines().count(), asked_for.code), (2, Some(0)));
    assert_eq!(home.yarrup_with("pipe recipe.toml", &[], b"").code, Some(0));
    assert_eq!(home.yarrup_with("pipe recipe.toml", &[], b"no\n{\"text\": \"a\"}\n").code, Some(0));
}

#[test]
fn recipes_and_lists_without_an_end_are_told_at_once() {
    let include = |name: &str| format!("[[step]]\ndo = \"include\"\nrecipe = \"{name}\"\n");
    let mut home = Home::new();
    for number in 0..200 {
        home = home.file(&format!("chain-{number}.toml"), include(&format!("chain-{}.toml", number + 1)));
    }
    for number in 0..9 {
        home = home
            .file(&format!("tree-{number}.toml"), include(&format!("tree-{}.toml", number + 1)).repeat(10));
    }
    let home = home
        .file("chain-200.toml", "[[step]]\ndo = \"case\"\n")
        .file("tree-9.toml", "[[step]]\ndo = \"case\"\n");
    let err = home.refused("check chain-0.toml");
    assert!(
        err.contains("recipes include one another without end") && err.contains("more than 32 deep"),
        "{err}"
    );
    assert!(err.len() < 1000, "{err}");
    let err = home.refused("check tree-0.toml");
    assert!(err.contains("too many recipes are included"), "{err}");
    // As deep as is sensible is no fault.
    assert_eq!(home.yarrup("check chain-180.toml").code, Some(0));
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink("/dev/zero", home.path("zero.txt")).expect("linked");
        let home = home.file("zero.toml", "[[step]]\ndo = \"stopwords\"\nlists = [\"zero.txt\"]\n");
        let err = home.refused("check zero.toml");
        assert!(err.contains("zero.txt: larger than 1024 MB; not read"), "{err}");
    }
}

#[test]
fn what_steps_make_of_a_text_has_bounds() {
    let double = "[[step]]\ndo = \"replace\"\nfind = \"a\"\nwith = \"aaaaaaaa\"\n";
    let home = Home::new().file("grow.toml", double.repeat(12)).file(
        "notes.jsonl",
        "{\"id\": \"long\", \"text\": \"a a a a\"}\n{\"id\": \"short\", \"text\": \"tern\"}\n",
    );
    let said = home.yarrup("run grow.toml notes.jsonl --out run --with-originals");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("of 1 document a step makes more than 32 times as much text"), "{said:?}");
    assert_eq!(
        home.rows("run/skipped.csv")[0],
        ["long", "step 8 makes its text more than 32 times as long; nothing of its cleaned text is kept"]
    );
    let documents = home.read("run/documents.jsonl");
    assert!(
        documents.contains("\"text\":\"a a a a\",\"clean\":\"\"") && documents.contains("\"clean\":\"tern\""),
        "{documents}"
    );
    assert!(home.done("try grow.toml aaaa").contains("the text would become more than 32 times as long"));
    let piped = home.yarrup_with("pipe grow.toml", &[], b"{\"id\": \"x\", \"text\": \"a a a a\"}\n");
    assert!(piped.err.contains("document x: step 8 makes its text more than 32 times as long"), "{piped:?}");
}

#[cfg(unix)]
#[test]
fn a_file_that_changes_between_two_readings_is_told() {
    use std::io::Write as _;
    let line = "{\"text\": \"The terns are nesting on the spit again this year\"}\n";
    let home = Home::new()
        .file("learn.toml", "[[step]]\ndo = \"limit\"\ntop = 3\n")
        .file("notes.jsonl", line.repeat(60_000));
    let child = home
        .command("run learn.toml notes.jsonl --out run --threads 1")
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the program starts");
    // Somebody goes on writing to it.
    let mut file = std::fs::OpenOptions::new().append(true).open(home.path("notes.jsonl")).expect("a file");
    let reader = std::thread::spawn(move || child.wait_with_output().expect("it ends"));
    while !reader.is_finished() {
        file.write_all(line.as_bytes()).expect("written");
        file.flush().expect("written");
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    let output = reader.join().expect("it ends");
    let err = String::from_utf8_lossy(&output.stderr);
    assert_eq!(output.status.code(), Some(2), "{err}");
    assert!(err.contains("notes.jsonl: changed while it was read the first and the second time"), "{err}");
    assert!(!home.path("run").exists());
}

#[test]
fn files_of_one_name_in_two_folders_are_not_taken_for_one_that_changed() {
    let home = Home::new()
        .file("learn.toml", "\u{feff}[[step]]\ndo = \"limit\"\ntop = 3\n")
        .file("one/a.txt", "The terns are nesting\n")
        .file("two/a.txt", "Gulls rest on the roof\n");
    home.done("run learn.toml one two --out run");
    assert_eq!(home.read("run/documents.jsonl").lines().count(), 2);
    // A recipe that begins with a byte-order mark is the one that was read.
    let wrong = "\u{feff}[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";
    let home = home.file("wrong.toml", wrong);
    let said = home.yarrup("check wrong.toml --fix");
    assert!(said.err.contains("wrong.toml: move step 3"), "{said:?}");
    assert_ne!(home.read("wrong.toml"), wrong);
}

#[test]
fn slips_of_the_finger_are_told_with_what_is_meant() {
    let home = Home::with_recipe().file("note.csv", "id,body\n1,two terns on the shingle\n");
    // A recipe of the name of the data is no side file of it.
    let home = home.file("note.toml", "[[step]]\ndo = \"case\"\n");
    home.done("run note.toml note.csv --text body --out run");
    let looked = home.done("look note.csv");
    assert!(!looked.contains("step"), "{looked}");
    let code = |command: &str| (home.yarrup(command).code, home.yarrup(command).err);
    for (command, told) in [
        ("rn note.toml note.csv", "a similar subcommand exists: 'run'"),
        ("terms run --tp 3", "a similar argument exists: '--top'"),
        ("matrix run --out m --format csv", "tip: `--as` names the format"),
        ("find run --pattern t", "tip: `--matches` finds terms by a pattern, `--text` looks"),
        ("find run --patern t", "tip: `--matches` finds terms by a pattern, `--text` looks"),
        ("terms run --dropped --emptied", "tip: `--emptied` is an option of `find`\n"),
        ("terms run --nothing-like-it", "unexpected argument '--nothing-like-it' found\n\nUsage"),
        ("terms note.csv", "note.csv: is a file; name the folder of a run"),
        ("terms run --by idd", "no document of the run has a field `idd`; did you mean `id`?"),
        ("find run terns --by bodi", "has a field `bodi`"),
        ("check nothing.toml", "nothing.toml: there is no such file"),
        (
            "try stem terns",
            "stem: there is no such file; `stem` is a step, which a recipe names: see `yarrup steps stem`",
        ),
        ("check notes.toml", "notes.toml: there is no such file; did you mean `note.toml`?"),
        ("learn none.conllu --out x.model", "none.conllu: there is no such file"),
    ] {
        let (code, err) = code(command);
        assert!(code == Some(2) && err.contains(told), "{command}: {err}");
    }
    let (code, err) = code("find run tern");
    assert_eq!((code, err.trim()), (Some(1), "note: `tern` is not in this run; spelled like it: `terns`"));
    assert!(home.yarrup("why run shignle").out.ends_with("spelled like it: `shingle`\n"));
}
