//! Word forms: tags, lemmas, stems, stop words, phrases, labels; and the commands that learn them, set them side by side and list them.

use serde_json::Value;

use crate::home::Home;

const NOTES: &str = concat!(
    "{\"id\":\"a\",\"text\":\"The wardens saw a marsh harrier. She leaves the leaves there.\"}\n",
    "{\"id\":\"b\",\"text\":\"A marsh harrier flew over the hide; the saws were left.\"}\n",
    "{\"id\":\"c\",\"text\":\"The marsh was quiet. No marsh harrier today.\"}\n",
);

fn notes(recipe: &str) -> Home {
    Home::new().file("recipe.toml", recipe).file("notes.jsonl", NOTES)
}

/// The rows of `forms.csv` or the like that begin with `first`.
fn rows_of<'r>(rows: &'r [Vec<String>], first: &str) -> Vec<&'r [String]> {
    rows.iter().filter(|row| row[0] == first).map(Vec::as_slice).collect()
}

#[test]
fn tags_stand_in_every_table_and_decide_on_lemmas() {
    let home = notes(
        "language = \"en\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n[[step]]\ndo = \"keep\"\ntags = [\"noun\", \"verb\"]\n",
    );
    let said = home.done("run recipe.toml notes.jsonl --out run");
    assert!(said.contains("leave") && said.contains("leaf"), "{said}");
    let forms = home.rows("run/forms.csv");
    let leaves = rows_of(&forms, "leaves");
    let told: Vec<(&str, &str)> = leaves.iter().map(|row| (row[2].as_str(), row[8].as_str())).collect();
    assert!(told.contains(&("NOUN", "leaf")) && told.contains(&("VERB", "leave")), "{told:?}");
    let the = rows_of(&forms, "the");
    assert_eq!(
        (the[0][2].as_str(), the[0][5].as_str(), the[0][7].as_str()),
        ("DET", "dropped", "determiner")
    );
    let vocabulary = home.rows("run/vocabulary.csv");
    assert_eq!(rows_of(&vocabulary, "1").len(), 1);
    assert!(vocabulary.iter().any(|row| row[1] == "leaf" && row[7] == "NOUN"), "{vocabulary:?}");
    let why = home.done("why run leaves");
    assert!(why.contains("as verb") && why.contains("kept as `leaf`"), "{why}");
    assert!(home.done("terms run").contains("part of speech"));
    let tokens = home.yarrup_with("pipe recipe.toml --tokens", &[], NOTES.as_bytes());
    let first: Value = serde_json::from_str(tokens.out.lines().next().expect("a line")).expect("JSON");
    let token = &first["tokens"][0];
    assert_eq!(
        (&token["text"], &token["tag"], &token["lemma"]),
        (&"wardens".into(), &"NOUN".into(), &"warden".into())
    );
}

#[test]
fn what_a_recipe_learns_is_shown_and_frozen() {
    let home = notes(
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nshare = 0.9\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 3\n",
    );
    let said = home.yarrup("run recipe.toml notes.jsonl --out run");
    assert!(
        said.err.contains("learned 2 stop words for step 3") || said.err.contains("stop word"),
        "{said:?}"
    );
    assert!(said.err.contains("marsh (100 % of documents)") || said.err.contains("(100"), "{said:?}");
    assert!(home.read("run/learned.csv").starts_with("step,do,learned,to,count,documents,score\n"));
    let learned = home.rows("run/learned.csv");
    assert!(learned.iter().any(|row| row[1] == "stopwords" && row[5] == "3"), "{learned:?}");
    assert!(home.read("run/frozen.toml").contains("known = ["));
    // The frozen recipe does the same to the same documents, one by one and without learning.
    let refused = home.yarrup_with("pipe recipe.toml", &[], NOTES.as_bytes());
    assert!(refused.err.contains("must first be trained on the full collection"), "{refused:?}");
    let piped = home.yarrup_with("pipe run/frozen.toml", &[], NOTES.as_bytes());
    let clean = |text: &str| -> Vec<String> {
        text.lines()
            .map(|line| {
                serde_json::from_str::<Value>(line).expect("JSON")["clean"]
                    .as_str()
                    .expect("a text")
                    .to_owned()
            })
            .collect()
    };
    assert_eq!(clean(&piped.out), clean(&home.read("run/documents.jsonl")));
}

#[test]
fn listed_and_learned_phrases_are_accounted_for_to_the_token() {
    let home = notes("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nadd = [\"marsh harrier\"]\n");
    home.done("run recipe.toml notes.jsonl --out run");
    let effects = home.rows("run/effects.csv");
    let phrases = effects.iter().find(|row| row[1] == "phrases").expect("the step");
    // Six tokens went into three.
    let dropped_added_joined = [5, 6, 14].map(|column: usize| phrases[column].as_str());
    assert_eq!(dropped_added_joined, ["0", "3", "6"]);
    let forms = home.rows("run/forms.csv");
    let marsh = rows_of(&forms, "marsh");
    let fates: Vec<(&str, &str, &str)> =
        marsh.iter().map(|row| (row[3].as_str(), row[5].as_str(), row[8].as_str())).collect();
    assert_eq!(fates, [("3", "joined", "marsh_harrier"), ("1", "kept", "marsh")]);
    let why = home.done("why run marsh");
    assert!(why.contains("made part of `marsh_harrier` at step 3"), "{why}");
    let tokens = home.yarrup_with("pipe recipe.toml --tokens", &[], NOTES.as_bytes());
    assert!(tokens.out.contains("{\"term\":\"marsh_harrier\",\"text\":\"marsh harrier\""), "{}", tokens.out);
}

#[test]
fn dictionaries_and_tables_of_ones_own_give_lemmas() {
    let home = Home::new()
        .file("own_XX.aff", "SET UTF-8\nSFX S Y 1\nSFX S 0 en .\n")
        .file("own_XX.dic", "2\nNest/S\nvogel/S\n")
        .file("lemmas.tsv", "form\tlemma\ttag\nflog\tfliegen\tverb\n")
        .file("dictionary.toml", "[[step]]\ndo = \"lemma\"\ndictionary = \"own_XX\"\ntables = [\"lemmas.tsv\"]\nunknown = \"drop\"\n")
        .file("broken.toml", "[[step]]\ndo = \"lemma\"\ntables = [\"bad.tsv\"]\n")
        .file("bad.tsv", "flog\tfliegen\tverbum\n")
        .file("missing.toml", "language = \"xq\"\n[[step]]\ndo = \"lemma\"\n");
    let piped = home.yarrup_with("pipe dictionary.toml", &[], b"{\"text\":\"Nesten vogelen flog xyz\"}\n");
    assert!(piped.out.contains("\"clean\":\"Nest vogel fliegen\""), "{piped:?}");
    let broken = home.refused("check broken.toml");
    assert!(broken.contains("row 1: `verbum` is not a part of speech"), "{broken}");
    let missing = home.refused("check missing.toml");
    assert!(missing.contains("no dictionary for `xq`") && missing.contains("name its file"), "{missing}");
}

#[test]
fn german_nouns_are_found_without_their_capitals_and_check_says_what_is_lost() {
    let step = "[[step]]\ndo = \"lemma\"\ndictionary = \"de_DE\"\n";
    let case = "[[step]]\ndo = \"case\"\n";
    let home = Home::new()
        .file("de_DE.aff", "SET UTF-8\nSFX P Y 2\nSFX P 0 e .\nSFX P 0 en .\nSFX V Y 1\nSFX V en e en\n")
        .file("de_DE.dic", "5\nPaket/P\nBericht/P\nheute\nzählen/V\nüber\n")
        .file("early.toml", format!("language = \"de\"\n{case}{step}"))
        .file("late.toml", format!("language = \"de\"\n{step}{case}"));
    for recipe in ["early", "late"] {
        let text = "{\"text\":\"Heute zähle ich Pakete über Berichten\"}\n".as_bytes();
        let piped = home.yarrup_with(&format!("pipe {recipe}.toml"), &[], text);
        assert!(
            piped.out.contains("\"clean\":\"heute zählen ich paket über bericht\""),
            "{recipe}: {piped:?}"
        );
    }
    let told = home.yarrup("check early.toml");
    assert!(told.out.contains("warning[capitals-lost]") && told.out.contains("move step 1"), "{told:?}");
    assert!(!home.yarrup("check late.toml").out.contains("capitals-lost"));
}

#[test]
fn rules_of_ones_own_and_the_commonest_word_stand_for_stems() {
    let home = notes(
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\nrules = \"rules.toml\"\nshow = \"commonest\"\n",
    )
    .file("rules.toml", "[endings]\n\"s\" = \"\"\n\"ier\" = \"\"\n");
    let said = home.yarrup("run recipe.toml notes.jsonl --out run");
    assert!(said.err.contains("harr as harrier"), "{said:?}");
    let terms = home.rows("run/vocabulary.csv");
    assert!(
        terms.iter().any(|row| row[1] == "harrier") && !terms.iter().any(|row| row[1] == "harr"),
        "{terms:?}"
    );
    let broken = home.file("rules.toml", "[endings]\n\"s\" = 4\n");
    let told = broken.refused("check recipe.toml");
    assert!(told.contains("the rules cannot be read: line 2"), "{told}");
}

#[test]
fn one_recipe_treats_documents_by_their_language() {
    let texts = concat!(
        "{\"text\":\"The wardens were counting the nests on the island when the rain began to fall.\"}\n",
        "{\"text\":\"Die Vögel sitzen auf den Nestern und die Wärter zählen sie jeden Morgen im Regen.\"}\n",
        "{\"language\":\"de\",\"text\":\"Nester\"}\n",
    );
    let home = Home::new().file(
        "mixed.toml",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\nmethod = \"light\"\nonly = { language = \"de\" }\n\
         [[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nonly = { language = \"en\" }\n[[step]]\ndo = \"stem\"\nonly = { language = \"en\" }\n",
    );
    let piped = home.yarrup_with("pipe mixed.toml", &[], texts.as_bytes());
    let lines: Vec<&str> = piped.out.lines().collect();
    assert!(lines[0].contains("warden count nest island"), "{}", lines[0]);
    assert!(lines[1].contains("vogel") && lines[1].contains("und"), "{}", lines[1]);
    assert!(lines[2].contains("\"clean\":\"nest\""), "{}", lines[2]);
}

const TREEBANK: &str = "1\tTerns\ttern\tNOUN\t_\t_\t_\t_\t_\t_\n2\tfly\tfly\tVERB\t_\t_\t_\t_\t_\t_\n3\t.\t.\tPUNCT\t_\t_\t_\t_\t_\t_\n\n\
    1\tGulls\tgull\tNOUN\t_\t_\t_\t_\t_\t_\n2\tsleep\tsleep\tVERB\t_\t_\t_\t_\t_\t_\n3\t.\t.\tPUNCT\t_\t_\t_\t_\t_\t_\n";

#[test]
fn a_model_is_learned_evaluated_and_used() {
    let home = Home::new().file("made.conllu", TREEBANK).file(
        "recipe.toml",
        "language = \"xx\"\n[[step]]\ndo = \"tag\"\nmodel = \"made.model\"\n[[step]]\ndo = \"lemma\"\nmodel = \"made.model\"\n",
    );
    let said = home.yarrup(
        "learn made.conllu --language xx --out made.model --evaluate made.conllu --predictions guess.conllu",
    );
    assert!(said.err.contains("2 sentences, 6 words"), "{said:?}");
    assert!(said.out.contains("parts of speech right") && said.out.contains("6 of 6"), "{said:?}");
    assert!(home.read("guess.conllu").contains("Gulls\tgull\tNOUN"));
    let piped = home.yarrup_with("pipe recipe.toml --tokens", &[], b"{\"text\":\"Terns sleep.\"}\n");
    assert!(
        piped.out.contains("\"clean\":\"tern sleep .\"") && piped.out.contains("\"tag\":\"VERB\""),
        "{piped:?}"
    );
    // The shipped model is evaluated on the gold's own words.
    let shipped = home.done("learn --evaluate made.conllu --format json");
    let figures: Value = serde_json::from_str(&shipped).expect("JSON");
    assert_eq!(figures["words"], 6);
    let folds = home.done("learn made.conllu --language xx --folds 2");
    assert!(folds.contains("each by a model of the others"), "{folds}");
}

#[test]
fn a_model_learns_from_sentences_of_which_one_word_has_a_tag() {
    let example = "1\tSkuas\t_\t_\t_\t_\t_\t_\t_\t_\n2\tharry\t_\tVERB\t_\t_\t_\t_\t_\t_\n3\tgulls\t_\t_\t_\t_\t_\t_\t_\t_\n";
    let gold = "1\tTerns\ttern\tNOUN\t_\t_\t_\t_\t_\t_\n2\tharry\tharry\tVERB\t_\t_\t_\t_\t_\t_\n";
    let home =
        Home::new().file("made.conllu", TREEBANK).file("example.conllu", example).file("gold.conllu", gold);
    let figures = |command: &str| -> Value {
        serde_json::from_str(&home.done(&format!("{command} --language xx --format json"))).expect("JSON")
    };
    let learned = figures("learn made.conllu example.conllu --out both.model --evaluate gold.conllu");
    assert_eq!((&learned["words"], &learned["unknown_words"]), (&2.into(), &0.into()));
    // Only the word with a tag is counted.
    let alone = figures("learn --evaluate example.conllu --model both.model");
    assert_eq!((&alone["words"], &alone["right"]), (&1.into(), &1.into()));
    // Without the example, nobody has seen `harry`.
    let without = figures("learn made.conllu --out one.model --evaluate gold.conllu");
    assert_eq!(without["unknown_words"], 1);
    // Folds are measured on whole sentences alone: six words, and not the example's.
    let folds = figures("learn made.conllu example.conllu --folds 2");
    assert_eq!(folds["words"], 6);
}

#[test]
fn classes_of_words_are_learned_from_text_and_a_model_learns_with_them() {
    let mut text = String::new();
    for (bird, does) in [("terns", "fly"), ("gulls", "sleep"), ("skuas", "fly"), ("knots", "sleep")] {
        text.push_str(&format!("The {bird} {does} .\nMany {bird} {does} here .\n").repeat(6));
    }
    let home = Home::new().file("text.txt", &text).file("made.conllu", TREEBANK);
    let said = home.yarrup("learn --text text.txt --language xx --classes 6 --least 3 --out birds.classes");
    assert!(said.err.contains("216 tokens read") && said.err.contains("10 words in classes"), "{said:?}");
    let classes = home.read("birds.classes");
    let birds = classes.lines().find(|line| line.contains("skuas")).expect("a class");
    assert!(birds.contains("terns") && !birds.contains("fly"), "{classes}");
    // A word that no treebank has is told by its class.
    let gold = "1\tskuas\tskua\tNOUN\t_\t_\t_\t_\t_\t_\n2\tfly\tfly\tVERB\t_\t_\t_\t_\t_\t_\n";
    let home = home.file("gold.conllu", gold);
    let learned = "learn made.conllu --language xx --word-classes birds.classes --out birds.model --evaluate gold.conllu";
    assert!(home.done(learned).contains("2 of 2"));
    for (command, why) in [
        ("learn --text gone.txt --out x.classes", "gone.txt"),
        ("learn --text text.txt --least 500 --out x.classes", "no word of these texts comes 500 times"),
        ("learn --text text.txt", "--out"),
        ("learn made.conllu --word-classes made.conllu --out x.model", "begins with"),
    ] {
        assert!(home.refused(command).contains(why), "{command}: {}", home.refused(command));
    }
    let home = home.file("notes.jsonl", "{\"text\":\"terns\"}\n");
    assert!(home.refused("learn --text notes.jsonl --out x.classes").contains("looks like JSON Lines"));
    let home = home.file("latin.txt", b"fine\ncaf\xe9\n");
    assert!(home.refused("learn --text latin.txt --out x.classes").contains("line 2 is not UTF-8"));
}

#[test]
fn a_model_learns_with_how_a_run_uses_words() {
    let text = "The terns fly .\nThe gulls fly .\nThe skuas fly .\n".repeat(5);
    let recipe = |step: &str| {
        format!("recipe = \"r\"\nlanguage = \"en\"\n[[step]]\ndo = \"split\"\n[[step]]\n{step}\n")
    };
    let home = Home::new()
        .file("text.txt", &text)
        .file("made.conllu", TREEBANK)
        .file("tag.toml", recipe("do = \"tag\""))
        .file("plain.toml", recipe("do = \"case\""));
    home.done("run tag.toml text.txt --out tagged");
    home.done("run plain.toml text.txt --out plain");
    let said = home.yarrup("learn --uses-of tagged --least 5 --out birds.uses");
    assert!(said.err.contains("the uses of 5 words"), "{said:?}");
    let uses = home.read("birds.uses");
    assert!(uses.contains("\nDET\t97\tthe\n") && uses.contains("\nNOUN\t97\tgulls skuas terns\n"), "{uses}");
    // A word that no treebank has is told by its use.
    let gold = "1\tskuas\tskua\tNOUN\t_\t_\t_\t_\t_\t_\n2\tfly\tfly\tVERB\t_\t_\t_\t_\t_\t_\n";
    let home = home.file("gold.conllu", gold);
    let learned =
        "learn made.conllu --language xx --word-uses birds.uses --out birds.model --evaluate gold.conllu";
    assert!(home.done(learned).contains("2 of 2"));
    for (command, why) in [
        ("learn --uses-of plain --out x.uses", "the recipe needs a step `tag`"),
        ("learn --uses-of tagged --least 500 --out x.uses", "occurs 500 times or more"),
        ("learn --uses-of gone --out x.uses", "gone"),
        ("learn --uses-of tagged", "--out"),
        ("learn --uses-of tagged --out birds.uses", "--replace"),
        (
            "learn made.conllu --word-uses made.conllu --out x.model",
            "made.conllu: line 1: a file of word uses begins with",
        ),
    ] {
        assert!(home.refused(command).contains(why), "{command}: {}", home.refused(command));
    }
}

#[test]
fn features_of_words_are_exported_kept_and_refused_where_nothing_tells_them() {
    let step = |keys: &str| format!("[[step]]\ndo = \"tag\"\n[[step]]\n{keys}\n");
    let home = Home::new()
        .file("notes.txt", "The older mice walked home.\n")
        .file("tag.toml", "[[step]]\ndo = \"split\"\ninto = \"clitics\"\n[[step]]\ndo = \"tag\"\n")
        .file("keep.toml", step("do = \"keep\"\nfeatures = [\"Number=Plur\", \"Tense=Past\"]"))
        .file("wrong.toml", step("do = \"keep\"\nfeatures = [\"Number=Dual\"]"))
        .file("late.toml", step("do = \"lemma\"\n[[step]]\ndo = \"keep\"\nfeatures = [\"Number=Plur\"]"));
    home.done("run tag.toml notes.txt --out run");
    let conllu = home.done("export run --as conllu");
    for line in [
        "mice\t_\tNOUN\t_\tNumber=Plur\t",
        "older\t_\tADJ\t_\tDegree=Cmp\t",
        "walked\t_\tVERB\t_\tTense=Past|VerbForm=Fin,Part\t",
        "The\t_\tDET\t_\t_\t",
    ] {
        assert!(conllu.contains(line), "{line}: {conllu}");
    }
    let piped = home.yarrup_with("pipe keep.toml", &[], b"{\"text\":\"The older mice walked home.\"}\n");
    assert!(piped.out.contains("\"clean\":\"mice walked\""), "{piped:?}");
    assert!(home.refused("check wrong.toml").contains("Number=Dual"));
    assert!(home.refused("check late.toml").contains("takes the endings off"));
}

#[test]
fn a_document_in_two_languages_is_told_as_such() {
    let both = "The wardens of the reserve counted every nest along the shore this morning, and there were more than before. \
                Die Wächter des Schutzgebietes haben heute Morgen jedes Nest am Ufer gezählt, und es waren mehr als je zuvor.";
    let home = Home::new()
        .file(
            "notes.jsonl",
            format!(
                "{}\n{}\n",
                serde_json::json!({ "text": both }),
                serde_json::json!({ "text": both[..110] })
            ),
        )
        .file("only.toml", "[[step]]\ndo = \"case\"\nto = \"upper\"\nonly = { language = \"mul\" }\n")
        .file("english.toml", "[[step]]\ndo = \"documents\"\nlanguages = [\"en\"]\n");
    assert!(home.done("look notes.jsonl").contains("several languages"), "{}", home.done("look notes.jsonl"));
    let piped = home.yarrup_with("pipe only.toml", &[], home.read("notes.jsonl").as_bytes());
    let lines: Vec<&str> = piped.out.lines().collect();
    assert!(lines[0].contains("THE WARDENS") && lines[1].contains("\"clean\":\"The wardens"), "{piped:?}");
    home.done("run english.toml notes.jsonl --out run");
    assert!(
        home.read("run/dropped-documents.csv").contains("notes.jsonl:1,2,in another language"),
        "{}",
        home.read("run/dropped-documents.csv")
    );
}

#[test]
fn what_is_no_treebank_and_no_model_is_told() {
    let home = Home::new()
        .file("bad.conllu", "1\tx\tx\tNOM\t_\t_\t_\t_\t_\t_\n")
        .file("bad.model", "not a model")
        .file("recipe.toml", "[[step]]\ndo = \"tag\"\nmodel = \"bad.model\"\n")
        .file("made.conllu", TREEBANK);
    let told = home.refused("learn bad.conllu --out x.model");
    assert!(told.contains("bad.conllu") && told.contains("line 1: `NOM` is none of the 17"), "{told}");
    assert!(home.refused("check recipe.toml").contains("this is not a model made by yarrup"));
    home.done("learn made.conllu --out cut.model");
    let mut bytes = std::fs::read(home.path("cut.model")).expect("a model");
    bytes.truncate(bytes.len() / 2);
    std::fs::write(home.path("cut.model"), bytes).expect("written");
    let damaged = home.refused("learn --evaluate made.conllu --model cut.model");
    assert!(damaged.contains("damaged"), "{damaged}");
    assert!(home.refused("learn made.conllu").contains("--out"));
}

#[test]
fn words_are_set_side_by_side() {
    let home = Home::new()
        .file("groups.txt", "nest nests nesting\nfly flew\napart: university universe\n")
        .file("own.toml", "[endings]\n\"ing\" = \"\"\n");
    let table = home.done("reduce university universe flew --with porter2,lemma,s,paice,own.toml");
    assert!(table.contains("univers *") && table.contains("is in no dictionary"), "{table}");
    assert!(table.contains("porter2: 2 groups; university = universe"), "{table}");
    assert!(table.contains("lemma: 3 groups; nothing"), "{table}");
    let csv = home.yarrup_with("reduce --with lemma --format csv", &[], b"saw\tVERB\nsaw\tnoun\nleaves\n");
    assert_eq!(csv.out, "word,tag,lemma\nsaw,VERB,see\nsaw,NOUN,saw\nleaves,,leaf\n");
    let groups = home.done("reduce --groups groups.txt --with porter2,lemma --format csv");
    let rows: Vec<&str> = groups.lines().collect();
    assert_eq!(rows[1], "porter2,0.250000,4,1,0.14285714,7,1");
    assert_eq!(rows[2], "lemma,0.000000,4,0,0.00000000,7,0");
    assert!(home.refused("reduce nests --with nothing").contains("not known for `en`"));
    assert!(home.refused("reduce nests --tag nomen").contains("is not a part of speech"));
}

#[test]
fn the_shelf_is_listed_and_shown() {
    let home = Home::new();
    let list = home.done("shelf");
    for name in ["en-long", "porter2", "light-sv", "lexicon-en", "tagger-en", "british", "recipe-topics"] {
        assert!(list.contains(name), "{name}");
    }
    let german = home.done("shelf de");
    assert!(german.contains("negation") && german.contains("niemals"), "{german}");
    assert!(home.done("shelf british --format csv").contains("color → colour"));
    assert!(home.refused("shelf porter3").contains("did you mean `porter"));
}

#[test]
fn a_run_is_exported_with_true_offsets() {
    let home = notes("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n");
    home.done("run recipe.toml notes.jsonl --out run");
    let text = home.done("export run --as conllu");
    assert!(
        text.starts_with("# newdoc id = a\n# sent_id = a-1\n# text = The wardens saw a marsh harrier.\n"),
        "{text}"
    );
    let documents: Vec<Value> = NOTES.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect();
    let mut at = 0;
    let mut words = 0;
    for line in text.lines() {
        if let Some(id) = line.strip_prefix("# newdoc id = ") {
            at = documents.iter().position(|document| document["id"] == id).expect("a document");
        }
        let cells: Vec<&str> = line.split('\t').collect();
        if let [_, form, lemma, tag, .., misc] = cells[..] {
            let place = |name: &str| -> usize {
                let cell = misc.split('|').find_map(|cell| cell.strip_prefix(name)).expect("a place");
                cell.parse().expect("a number")
            };
            let original = documents[at]["text"].as_str().expect("a text");
            assert_eq!(&original[place("Start=")..place("End=")], form);
            assert!(lemma != "_" && tag != "_", "{line}");
            words += 1;
        }
    }
    assert_eq!(words, 36);
    assert!(text.contains("SpaceAfter=No|Start="));
    home.done("run recipe.toml notes.jsonl --out bare --without-documents");
    assert!(home.refused("export bare --as conllu").contains("--without-documents"));
}

#[test]
fn labels_and_spared_tags_are_kept() {
    let home = notes(
        "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"label\"\nname = \"bird\"\nlists = [\"birds.json\"]\n\
         [[step]]\ndo = \"drop\"\nlonger_than = 3\nspare = { tags = [\"verb\"] }\n",
    )
    .file("birds.json", "[\"marsh harrier\"]");
    let tokens = home.yarrup_with("pipe recipe.toml --tokens", &[], NOTES.as_bytes());
    let first: Value = serde_json::from_str(tokens.out.lines().next().expect("a line")).expect("JSON");
    assert!(first["clean"].as_str().expect("a text").contains("leaves the"), "{first}");
    let kept = notes(
        "[[step]]\ndo = \"label\"\nname = \"bird\"\nlists = [\"birds.json\"]\n[[step]]\ndo = \"keep\"\nlabels = [\"bird\"]\n",
    )
    .file("birds.json", "[\"marsh harrier\"]");
    let tokens = kept.yarrup_with("pipe recipe.toml --tokens", &[], NOTES.as_bytes());
    assert!(
        tokens.out.contains("\"clean\":\"marsh harrier\"") && tokens.out.contains("\"labels\":[\"bird\"]"),
        "{tokens:?}"
    );
    let wrong = kept.file("birds.json", "{\"not\": \"a list\"}");
    assert!(wrong.refused("check recipe.toml").contains("is not a JSON array of texts"));
}
