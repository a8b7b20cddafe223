//! The help: what it shows fits, and its examples run.

use crate::home::Home;

/// The names of the commands, as the help lists them.
fn commands(home: &Home) -> Vec<String> {
    let help = home.done("--help");
    let list = help.split("Commands:\n").nth(1).and_then(|rest| rest.split("\n\n").next()).expect("commands");
    let named = list.lines().filter(|line| line.starts_with("  ") && !line.starts_with("   "));
    named.filter_map(|line| line.split_whitespace().next()).map(str::to_owned).collect()
}

/// The examples in the help of a command.
fn examples(home: &Home, command: &str) -> Vec<String> {
    let help = home.done(&format!("{command} --help"));
    let list = help.split("Examples:\n").nth(1).unwrap_or_else(|| panic!("{command} has no examples"));
    list.lines()
        .filter_map(|line| line.strip_prefix("    yarrup "))
        .map(|line| format!("yarrup {line}"))
        .collect()
}

#[test]
fn every_example_runs() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../treebank/en");
    let files = std::fs::read_dir(folder).expect("a treebank").filter_map(|entry| Some(entry.ok()?.path()));
    let mut files: Vec<_> =
        files.filter(|file| file.extension().is_some_and(|ending| ending == "conllu")).collect();
    files.sort_by_key(|file| (file.metadata().map_or(0, |meta| meta.len()), file.clone()));
    let home = Home::new().file("gold.conllu", std::fs::read(&files[0]).expect("a treebank"));
    let mut count = 0;
    for command in commands(&home) {
        for example in examples(&home, &command) {
            let output = home.shell(&example);
            let code = output.status.code();
            // `check` says by 1 that it has something to say.
            let fits = code == Some(0) || (command == "check" && code == Some(1));
            assert!(fits, "{example}\n{}", String::from_utf8_lossy(&output.stderr));
            count += 1;
        }
    }
    assert!(count > 50, "{count} examples");
}

#[test]
fn short_help_fits_one_screen_and_says_where_the_rest_is() {
    let home = Home::new();
    for command in commands(&home) {
        let short = home.done(&format!("{command} -h"));
        assert!(short.lines().count() <= 40, "{command}: {} lines", short.lines().count());
        assert!(short.contains("Example:\n  yarrup "), "{command}\n{short}");
        let long = home.done(&format!("{command} --help"));
        assert!(long.lines().count() >= short.lines().count(), "{command}");
    }
    assert!(home.done("run -h").contains("`yarrup run --help` shows"));
    assert!(home.done("run --help").contains("--detect-language"));
    assert!(!home.done("run -h").contains("--detect-language"));
}

#[test]
fn a_shell_completes_commands_options_names_paths_and_fields() {
    let cards = "id,text,season,site\n1,Terns at the spit,autumn,Spit\n2,Gulls,spring,Gull Hide\n";
    let home = Home::new()
        .file("cards.csv", cards)
        .file("all.toml", "collection = \"all\"\n[[source]]\npath = \"cards.csv\"\n")
        .file("broken.jsonl", "no JSON\n")
        .file("split.toml", "[[step]]\ndo = \"split\"\n");
    home.done("run split.toml cards.csv --out studied");
    let completes = |line: &str| {
        let words: Vec<&str> = line.split(' ').collect();
        let (last, before) = (words[words.len() - 1], words[words.len() - 2]);
        let script = format!(
            "eval \"$(yarrup completions bash)\"; COMP_WORDS=({}); COMP_CWORD={}; COMP_TYPE=9; _clap_complete_yarrup yarrup '{last}' '{before}'; printf '%s\\n' \"${{COMPREPLY[@]}}\"",
            words.iter().map(|word| format!("'{word}'")).collect::<Vec<_>>().join(" "),
            words.len() - 1
        );
        std::fs::write(home.path("complete.sh"), script).expect("a script");
        let output = home.shell("bash complete.sh");
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        assert_eq!(String::from_utf8_lossy(&output.stderr), "", "{line}");
        String::from_utf8(output.stdout).expect("text")
    };
    for (line, expected) in [
        ("yarrup sugg", "suggest\n"),
        ("yarrup run --timi", "--timings\n"),
        ("yarrup steps stop", "stopwords\n"),
        ("yarrup shelf irregular-en", "irregular-en\n"),
        ("yarrup help fie", "fields\n"),
        ("yarrup suggest studied --only spel", "spellings\n"),
        ("yarrup matches studied --kinds stre", "street\n"),
        ("yarrup matches studied --kinds wor", "\n"),
        ("yarrup terms studied --sort d", "documents\n"),
        ("yarrup look --as par", "parquet\n"),
        ("yarrup look --each par", "paragraph\n"),
        // Paths, without the options, which are many.
        ("yarrup look ca", "cards.csv\n"),
        ("yarrup look stu", "studied/\n"),
        // Unless there is nothing else.
        ("yarrup demo ", "--into\n--colour\n--quiet\n--verbose\n"),
        // The fields of what the line names.
        ("yarrup terms studied --by s", "season\nsite\n"),
        ("yarrup terms studied --by seas", "season\n"),
        ("yarrup find tern studied --where si", "site\n"),
        ("yarrup export studied --fields id,si", "id,site\n"),
        ("yarrup run split.toml cards.csv --out studied --text te", "text\n"),
        ("yarrup look all.toml --derive late=se", "late=season\n"),
        ("yarrup look all.toml --types s", "season\nsite\n"),
        // Where nothing is known, nothing is said.
        ("yarrup look broken.jsonl --text t", "\n"),
        ("yarrup look nowhere.jsonl --text t", "\n"),
        ("yarrup run split.toml --text t", "\n"),
    ] {
        assert_eq!(completes(line), expected, "{line}");
    }
    assert!(completes("yarrup run -").contains("--detect-language\n"));
    let said = home.yarrup("completions tcsh");
    assert_eq!(said.code, Some(2), "{said:?}");
}

#[test]
fn topics_steps_completions_and_manual_pages_are_there() {
    let home = Home::new();
    for topic in ["recipes", "sources", "fields", "runs"] {
        let page = home.done(&format!("help {topic}"));
        assert!(page.contains("WHERE TO GO ON") || page.contains("STUDY IT"), "{page}");
        assert!(page.lines().all(|line| line.chars().count() <= 80), "{topic}");
    }
    assert!(home.done("help run").contains("Examples:"));
    assert!(home.refused("help recipe").contains("did you mean `recipes`?"));
    assert!(home.done("help").contains("Topics: recipes, sources, fields, runs"));
    let list = home.done("steps");
    assert!(list.contains("stopwords") && list.contains("drops the words of stop lists"), "{list}");
    assert!(!list.contains('…'), "{list}");
    let one = home.done("steps stopwords");
    assert!(one.contains("more words") && one.contains("do = \"stopwords\""), "{one}");
    for step in ["drop", "limit", "mask", "split"] {
        let page = home.done(&format!("steps {step}"));
        assert!(page.lines().all(|line| line.chars().count() <= 100), "{page}");
    }
    assert!(home.done("steps mask --format csv").starts_with("key,value,default,about\n"));
    assert!(home.refused("steps stopword").contains("did you mean `stopwords`?"));
    for (shell, sign) in [
        ("bash", "-F _clap_complete_yarrup yarrup"),
        ("zsh", "compdef _clap_dynamic_completer_yarrup yarrup"),
        ("fish", "--command yarrup"),
    ] {
        assert!(home.done(&format!("completions {shell}")).contains(sign), "{shell}");
    }
    home.done("manual --out man");
    let names = home.names("man");
    assert!(
        names.contains(&"yarrup.1".to_owned()) && names.contains(&"yarrup-run.1".to_owned()),
        "{names:?}"
    );
    let page = home.read("man/yarrup-run.1");
    assert!(page.contains("Examples:") && page.contains("How many threads to use"), "{page}");
}

#[test]
fn the_recipe_of_the_page_on_recipes_runs() {
    let home = Home::new()
        .file("ours.csv", "word\ntide\n")
        .file("notes.jsonl", "{\"text\":\"No nests by the tide\"}\n");
    let page = home.done("help recipes");
    let recipe: String = page
        .lines()
        .skip_while(|line| !line.contains("recipe   ="))
        .take_while(|line| !line.starts_with("ORDER"))
        .map(|line| format!("{}\n", line.trim_start()))
        .collect();
    std::fs::write(home.path("r.toml"), recipe).expect("a recipe");
    home.done("run r.toml notes.jsonl --out run");
    assert!(home.read("run/documents.jsonl").contains("\"clean\":\"no nest\""));
}

#[test]
fn slips_in_arguments_are_told_in_one_sentence() {
    let home = Home::with_recipe()
        .file("notes.jsonl", "{\"text\":\"a tern\"}\n")
        .file("notes.csv", "text\na tern\n");
    for arguments in
        ["run notes.jsonl recipe.toml --out run", "check notes.csv", "try notes.jsonl tern", "pipe notes.csv"]
    {
        let told = home.refused(arguments);
        assert!(
            told.contains("not a recipe: a recipe is a TOML file, and comes before the sources"),
            "{arguments}\n{told}"
        );
        assert!(told.lines().count() <= 2, "{told}");
    }
    std::fs::write(home.path("all.toml"), "[[source]]\npath = \"notes.csv\"\n").expect("a collection");
    for (arguments, what) in [
        ("run all.toml notes.csv --out run", "not a recipe, but a collection file"),
        ("check all.toml", "yarrup look all.toml`, or run a recipe on them"),
        ("run recipe.toml recipe.toml --out run", "recipe.toml: a recipe, and not a source"),
        ("look recipe.toml", "if its text is the document, add `--as text`"),
        ("matches notes.csv -p year=(1", "the pattern `year` is not a regular expression"),
    ] {
        let told = home.refused(arguments);
        assert!(told.contains(what) && told.lines().count() <= 2, "{arguments}\n{told}");
    }
    let nothing = home.yarrup("matches notes.csv --kinds phone");
    assert!(nothing.out == "no such values\n", "{nothing:?}");
    assert!(home.refused("check recipes.toml").contains("did you mean `recipe.toml`?"));
    let many = "[[step]]\ndo = \"cse\"\n".repeat(14);
    std::fs::write(home.path("many.toml"), many).expect("a recipe");
    let told = home.refused("check many.toml");
    assert!(
        told.contains("14 mistakes, the first 10 shown") && told.matches("did you mean").count() == 10,
        "{told}"
    );
}

#[test]
fn other_words_for_a_step_are_understood() {
    let home = Home::new();
    for (recipe, told) in [
        ("language = \"english\"\n[[step]]\ndo = \"case\"\n", "did you mean `en`?"),
        ("[[step]]\ndo = \"stopwords\"\nlists = [\"German\"]\n", "did you mean `de`?"),
        ("[[step]]\ndo = \"stem\"\nlanguage = \"français\"\n", "did you mean `fr`?"),
        ("[[step]]\ndo = \"stem\"\nmethod = \"porter3\"\n", "did you mean `porter2`?"),
        ("[[step]]\ndo = \"lowercase\"\n", "did you mean `case`?"),
        ("[[step]]\ndo = \"stop_words\"\n", "did you mean `stopwords`?"),
        ("[[step]]\ndo = \"lemmatize\"\n", "did you mean `lemma`?"),
        ("[[step]]\ndo = \"html\"\n", "did you mean `markup`?"),
    ] {
        std::fs::write(home.path("r.toml"), recipe).expect("a recipe");
        let err = home.refused("check r.toml");
        assert!(err.contains(told), "{recipe}\n{err}");
    }
}

#[test]
fn documents_are_named_alike_in_look_and_try() {
    let home = Home::with_recipe().file(
        "notes.jsonl",
        "{\"id\":\"a\",\"text\":\"one gull\"}\n{\"id\":\"b\",\"text\":\"two terns here\"}\n{\"id\":\"3\",\"text\":\"three\"}\n{\"id\":\"d\",\"text\":\"ebb\"}\n",
    );
    for (document, text) in [
        ("2", "two terns here"),
        ("b", "two terns here"),
        ("id=3", "three"),
        ("longest", "two terns here"),
        ("shortest", "ebb"),
    ] {
        let tried = home.done(&format!("try recipe.toml --from notes.jsonl --document {document}"));
        assert!(tried.contains(text), "{document}\n{tried}");
        let looked = home.done(&format!("look notes.jsonl --documents {document}"));
        assert!(looked.contains(text), "{document}\n{looked}");
    }
    let three = home.done("look notes.jsonl --documents 1-3");
    assert!(
        three.contains("one gull")
            && three.contains("two terns")
            && three.contains("three")
            && !three.contains("ebb"),
        "{three}"
    );
    assert!(home.refused("try recipe.toml --from notes.jsonl --document 9").contains("no document `9`"));
}
