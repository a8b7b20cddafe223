use crate::home::Home;

#[test]
fn objects_go_through_in_order_with_clean_added() {
    let home = Home::with_recipe();
    let input = "{\"id\": 1, \"text\": \"The terns\", \"deep\": {\"x\": [1, 2.0]}, \"clean\": \"old\"}\n{\"text\":\"Nests!\",\"z\":null}";
    let said = home.yarrup_with("pipe recipe.toml", &[], input.as_bytes());
    assert_eq!(
        said.out,
        "{\"id\":1,\"text\":\"The terns\",\"deep\":{\"x\": [1, 2.0]},\"clean\":\"tern\"}\n{\"text\":\"Nests!\",\"z\":null,\"clean\":\"nest\"}\n"
    );
    assert_eq!((said.err.as_str(), said.code), ("", Some(0)));
}

#[test]
fn tokens_have_their_places_in_the_original() {
    let home = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n",
    );
    let said =
        home.yarrup_with("pipe r.toml --tokens", &[], "{\"text\":\"Été: nest-box “İn”\"}\n".as_bytes());
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!(value["clean"], "été nestbox i\u{307}n");
    assert_eq!(
        value["tokens"][1],
        serde_json::json!({"term": "nestbox", "text": "nest-box", "start": 7, "end": 15, "kind": "word"})
    );
    assert_eq!(value["tokens"][2]["text"], "İn");
    assert_eq!(value["tokens"][0]["text"], "Été");
}

#[test]
fn a_text_recipe_gives_the_rewritten_text() {
    let home = Home::new().file("r.toml", "[[step]]\ndo = \"spaces\"\n");
    let said = home.yarrup_with("pipe r.toml --text body", &[], b"{\"body\":\" Two   terns.\"}\n");
    assert_eq!(said.out, "{\"body\":\" Two   terns.\",\"clean\":\"Two terns.\"}\n");
}

#[test]
fn a_bad_line_is_one_error_and_the_rest_goes_on() {
    let home = Home::with_recipe();
    let input = b"{\"text\":\"tern\"}\nnot \"json\"\n\n{\"id\":3,\"body\":\"x\"}\n{\"text\":\"gull\"}\n";
    let said = |errors: &str| home.yarrup_with(&format!("pipe recipe.toml {errors}"), &[], input);
    let (first, last) = ("{\"text\":\"tern\",\"clean\":\"tern\"}", "{\"text\":\"gull\",\"clean\":\"gull\"}");
    let recorded = said("");
    assert_eq!(
        recorded.out.lines().collect::<Vec<_>>(),
        [
            first,
            "{\"error\":\"not valid JSON: expected ident at column 2\",\"place\":\"standard input:2\",\"line\":\"not \\\"json\\\"\"}",
            "{\"error\":\"no field `text`; there are `id`, `body`\",\"place\":\"standard input:4\",\"line\":\"{\\\"id\\\":3,\\\"body\\\":\\\"x\\\"}\"}",
            last
        ]
    );
    assert!(recorded.err.contains("standard input:2: not valid JSON: expected ident at column 2\n"));
    assert!(
        recorded.err.ends_with("2 malformed lines passed on as objects with `error`\n"),
        "{}",
        recorded.err
    );
    assert_eq!(recorded.code, Some(0));
    let passed = said("--errors pass");
    assert_eq!(
        passed.out.lines().collect::<Vec<_>>(),
        [first, "not \"json\"", "{\"id\":3,\"body\":\"x\"}", last]
    );
    let skipped = said("--errors skip");
    assert_eq!(skipped.out.lines().collect::<Vec<_>>(), [first, last]);
    assert!(skipped.err.contains("2 malformed lines skipped"));
    for fail in ["--errors fail", "--strict"] {
        let failed = said(fail);
        assert_eq!((failed.out.lines().count(), failed.code), (1, Some(2)), "{failed:?}");
    }
}

#[test]
fn every_document_has_its_line_unless_they_are_to_be_dropped() {
    let home = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n[[step]]\ndo = \"documents\"\nmax_tokens = 2\n",
    );
    let input = b"{\"text\":\"the tern\"}\n{\"text\":\"the\"}\n{\"text\":\"a b c\"}\n{\"text\":\"\"}\n";
    let said = home.yarrup_with("pipe r.toml --counts", &[], input);
    assert_eq!(
        said.out.lines().collect::<Vec<_>>(),
        [
            "{\"text\":\"the tern\",\"clean\":\"tern\",\"tokens_before\":2,\"tokens_after\":1}",
            "{\"text\":\"the\",\"clean\":\"\",\"tokens_before\":1,\"tokens_after\":0}",
            "{\"text\":\"a b c\",\"clean\":null,\"left_out\":\"step 3: more than 2 tokens\"}",
            "{\"text\":\"\",\"clean\":\"\",\"tokens_before\":0,\"tokens_after\":0}",
        ]
    );
    let dropped = home.yarrup_with("pipe r.toml --drop-emptied", &[], input);
    assert_eq!(dropped.out, "{\"text\":\"the tern\",\"clean\":\"tern\"}\n");
    assert!(dropped.err.contains("3 documents without a token or left out by the recipe"), "{}", dropped.err);
}

#[test]
fn documents_are_taken_and_fields_derived_as_in_a_run() {
    let home = Home::with_recipe();
    let input = b"{\"n\":1,\"text\":\"terns\"}\n{\"low\":9,\"text\":\"gulls\",\"n\":5}\n";
    let said = home.yarrup_with("pipe recipe.toml --derive low=n<3", &[], input);
    assert_eq!(
        said.out,
        "{\"n\":1,\"text\":\"terns\",\"low\":true,\"clean\":\"tern\"}\n{\"text\":\"gulls\",\"n\":5,\"low\":false,\"clean\":\"gull\"}\n"
    );
    let said = home.yarrup_with("pipe recipe.toml --where n>3", &[], input);
    assert_eq!(said.out, "{\"low\":9,\"text\":\"gulls\",\"n\":5,\"clean\":\"gull\"}\n");
    assert!(said.err.contains("1 document left out by --where"), "{}", said.err);
    let said = home.yarrup_with("pipe recipe.toml --where m>3", &[], input);
    assert!(said.err.contains("no object has the field `m`"), "{}", said.err);
}

#[test]
fn lines_of_text_go_through_as_lines() {
    let home = Home::new().file("r.toml", "[[step]]\ndo = \"split\"\nsentences = true\n");
    let said = home.yarrup_with("pipe r.toml --lines", &[], "One is. Two are.\n\n  \nÉté\r\n".as_bytes());
    assert_eq!((said.out.as_str(), said.code), ("One is . Two are .\n\n\nÉté\n", Some(0)));
}

#[test]
fn nothing_in_is_nothing_out() {
    let said = Home::with_recipe().yarrup_with("pipe recipe.toml", &[], b"");
    assert_eq!((said.out.as_str(), said.err.as_str(), said.code), ("", "", Some(0)));
}

#[test]
fn pipe_and_run_clean_alike_on_any_number_of_threads() {
    let lines: String = (0..30_000)
        .map(|n| format!("{{\"id\":\"{n}\",\"text\":\"Terns {n} nesting, don't look\"}}\n"))
        .collect();
    let home = Home::with_recipe().file("notes.jsonl", &lines);
    home.done("run recipe.toml notes.jsonl --out run");
    let one = home.yarrup_with("pipe recipe.toml", &[], lines.as_bytes()).out;
    let four = home.yarrup_with("pipe recipe.toml --threads 4", &[], lines.as_bytes()).out;
    assert_eq!(one, four);
    for (piped, ran) in one.lines().zip(home.read("run/documents.jsonl").lines()) {
        let (piped, ran): (serde_json::Value, serde_json::Value) =
            (serde_json::from_str(piped).expect("JSON"), serde_json::from_str(ran).expect("JSON"));
        assert_eq!((&piped["id"], &piped["clean"]), (&ran["id"], &ran["clean"]));
    }
}

#[test]
fn an_answer_comes_before_the_input_ends() {
    use std::io::{BufRead, BufReader, Write};
    let home = Home::with_recipe();
    let mut child = home
        .command("pipe recipe.toml")
        .stdin(std::process::Stdio::piped())
        .stdout(std::process::Stdio::piped())
        .spawn()
        .expect("the program starts");
    let mut input = child.stdin.take().expect("its input");
    let mut output = BufReader::new(child.stdout.take().expect("its output"));
    for word in ["terns", "gulls"] {
        writeln!(input, "{{\"text\":\"{word}\"}}").expect("written");
        input.flush().expect("written");
        let mut line = String::new();
        output.read_line(&mut line).expect("an answer");
        assert!(line.contains(&format!("\"clean\":\"{}\"", &word[..4])), "{line}");
    }
    drop(input);
    assert!(child.wait().expect("it ends").success());
}

#[test]
fn sentences_are_numbered_and_stand_on_lines() {
    let home = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"split\"\nsentences = true\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n",
    );
    let said = home.yarrup_with("pipe r.toml --tokens", &[], b"{\"text\":\"Dr. Tern flew. It nests.\"}\n");
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!(value["clean"], "Dr Tern flew\nIt nests");
    let numbers: Vec<_> =
        value["tokens"].as_array().expect("tokens").iter().map(|token| token["sentence"].as_u64()).collect();
    assert_eq!(numbers, [Some(1), Some(1), Some(1), Some(2), Some(2)]);
}
