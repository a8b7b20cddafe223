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
    let input = b"{\"text\":\"tern\"}\nnot json\n{\"text\":\"gull\"}\n";
    let said = home.yarrup_with("pipe recipe.toml", &[], input);
    assert_eq!(said.out.lines().count(), 2);
    assert!(
        said.err.contains("standard input:2: not valid JSON")
            && said.err.contains("1 malformed line skipped")
    );
    assert_eq!(said.code, Some(0));
    let said = home.yarrup_with("pipe recipe.toml --strict", &[], input);
    assert_eq!((said.out.lines().count(), said.code), (1, Some(2)));
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
