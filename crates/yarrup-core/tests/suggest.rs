//! What is suggested for a run: what was planted is found, whoever looked at which documents, and nothing is found where all is well.

use yarrup_core::recipe;
use yarrup_core::suggest::{Evidence, Inquiry, Proposal, Sort, Suggestion};
use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker};

const RECIPE: &str = "language = \"en\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                      [[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";

/// What is suggested for a run of a recipe on texts of which each of `workers` sees every so-manieth.
fn suggested(recipe: &str, texts: &[String], sorts: &[Sort], workers: usize) -> Vec<Suggestion> {
    let recipe = recipe::read(recipe).expect("no mistakes");
    let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    let outputs = Outputs { clean: false, tokens: true, ends: true };
    let mut counting = Worker::new(&pipeline, outputs);
    for text in texts {
        counting.document(text, &NoFields);
    }
    let account = counting.into_account();
    let inquiry = Inquiry::new(&account, &recipe, &pipeline, sorts);
    let mut gathering: Vec<Evidence<'_>> = (0..workers).map(|_| inquiry.begin()).collect();
    loop {
        let mut worker = Worker::new(&pipeline, outputs);
        for (order, text) in texts.iter().enumerate() {
            let cleaned = worker.document(text, &NoFields);
            gathering[order % workers].document(order as u64, text, &cleaned);
        }
        let mut sum = gathering.remove(0);
        gathering.drain(..).for_each(|other| sum.absorb(other));
        if !sum.needs_another_pass() {
            return inquiry.suggestions(sum);
        }
        gathering.extend((1..workers).map(|_| sum.fresh()));
        gathering.push(sum);
    }
}

/// What the suggestions of a sort are about.
fn about(suggestions: &[Suggestion], sort: Sort) -> Vec<&str> {
    suggestions.iter().filter(|one| one.sort == sort).map(|one| one.what.as_str()).collect()
}

/// Sentences that share hardly a word: the number of the document is in each of their words.
fn filler(document: usize, words: usize) -> String {
    // Letters alone, so that they are words.
    let letter = |value: usize| char::from(b'a' + (value % 26) as u8);
    let word = |place: usize| {
        let mut word: String = [document / 26, document, place / 26, place].into_iter().map(letter).collect();
        word.insert_str(0, "zq");
        word
    };
    (0..words).map(word).collect::<Vec<_>>().join(" ")
}

/// Sixty notes, each with a sentence of these.
fn notes(sentence: impl Fn(usize) -> String) -> Vec<String> {
    (0..60).map(|number| format!("{}. {}", sentence(number), filler(number, 12))).collect()
}

/// Words that were planted with one mistake of these, against their right spelling.
const MISSPELT: &[(&str, &str)] = &[
    ("recieved", "received"),
    ("occured", "occurred"),
    ("begining", "beginning"),
    ("seperate", "separate"),
    ("becuase", "because"),
    ("definately", "definitely"),
    ("neccessary", "necessary"),
];

#[test]
fn planted_misspellings_are_found_and_nothing_else() {
    for (wrong, right) in MISSPELT {
        // The same neighbours for both: that is what tells a slip from another word.
        let planted = notes(|number| {
            let word = if number == 17 { wrong } else { right };
            format!("the office {word} a note about the wall")
        });
        let found = suggested(RECIPE, &planted, &[Sort::Spellings], 1);
        assert_eq!(about(&found, Sort::Spellings), [format!("{wrong} → {right}")], "{wrong}");
        assert_eq!(
            found[0].proposal,
            Proposal::Equate { from: (*wrong).to_owned(), to: (*right).to_owned() }
        );
        assert_eq!((found[0].count, found[0].documents), (1, 1), "{wrong}");
        // With other neighbours it may be anything.
        let mut elsewhere = notes(|_| format!("the office {right} a note about the wall"));
        elsewhere[17] = format!("{} {wrong} {}", filler(17, 8), filler(18, 8));
        assert_eq!(
            about(&suggested(RECIPE, &elsewhere, &[Sort::Spellings], 1), Sort::Spellings),
            [""; 0],
            "{wrong}"
        );
    }
}

#[test]
fn words_that_are_right_are_no_misspellings() {
    // Rare forms of frequent words, names, compounds, and words that are one letter from others.
    for (rare, frequent) in [
        ("terns", "tern"),
        ("walled", "walls"),
        ("Saltmeer", "saltmere"),
        ("nestbox", "nestbow"),
        ("form", "from"),
        ("united", "untied"),
        ("hare", "hair"),
    ] {
        let texts = notes(|number| {
            let word = if number == 17 { rare } else { frequent };
            format!("the office saw a {word} near the wall")
        });
        assert_eq!(
            about(&suggested(RECIPE, &texts, &[Sort::Spellings], 1), Sort::Spellings),
            [""; 0],
            "{rare}"
        );
    }
    // What the recipe mends already is mended.
    let mends = format!("{RECIPE}[[step]]\ndo = \"equate\"\nwords = {{ recieved = \"received\" }}\n");
    let texts = notes(|number| {
        format!("the office {} a note about the wall", if number == 17 { "recieved" } else { "received" })
    });
    assert_eq!(about(&suggested(&mends, &texts, &[Sort::Spellings], 1), Sort::Spellings), [""; 0]);
}

#[test]
fn one_word_written_in_two_ways_is_a_variant() {
    let texts = notes(|number| match number % 6 {
        0 => "the colour of the harbour and its centre".to_owned(),
        1 => "the color of the harbor and its center".to_owned(),
        2 if number > 30 => "a pinata near the wall".to_owned(),
        _ => "a piñata near the wall".to_owned(),
    });
    let found = suggested(RECIPE, &texts, &[Sort::Variants], 2);
    assert_eq!(
        about(&found, Sort::Variants),
        ["3 words in both British and American spelling", "pinata → piñata"]
    );
    let Proposal::Step { toml, .. } = &found[0].proposal else { panic!("{:?}", found[0]) };
    assert!(toml.contains("do = \"equate\"") && toml.contains("british"), "{toml}");
    // A recipe that has the table needs none.
    let british = format!("{RECIPE}[[step]]\ndo = \"equate\"\ntables = [\"british\"]\n");
    assert_eq!(
        about(&suggested(&british, &texts, &[Sort::Variants], 1), Sort::Variants),
        ["pinata → piñata"]
    );
    // Letter cases that no step brings together.
    let cased = RECIPE.replace("[[step]]\ndo = \"case\"\n", "");
    let texts = notes(|number| match number % 2 {
        0 => "Terns Gulls Herons Plovers Curlews stood on the wall".to_owned(),
        _ => "terns gulls herons plovers curlews stood on the wall".to_owned(),
    });
    let found = suggested(&cased, &texts, &[Sort::Variants], 1);
    assert_eq!(about(&found, Sort::Variants), ["5 words occur with a capital and without"]);
    assert_eq!(found[0].count, 150);
    let allowed = format!("allow = [\"case-variants\"]\n{cased}");
    assert_eq!(about(&suggested(&allowed, &texts, &[Sort::Variants], 1), Sort::Variants), [""; 0]);
}

#[test]
fn stop_words_are_spread_evenly() {
    // In every note once, against as many tokens in a few.
    let texts = notes(|number| {
        let burst = if number % 10 == 0 { "heron ".repeat(10) } else { String::new() };
        format!("observed {burst} with the spray")
    });
    let found = suggested(RECIPE, &texts, &[Sort::StopWords], 3);
    assert_eq!(about(&found, Sort::StopWords), ["observed", "spray"]);
    assert!(found[0].because.contains("100 % of the documents"), "{}", found[0].because);
    // What a recipe spares is meant to stay, a group of the list too; and a recipe without a stop list means to keep all words.
    let spares =
        RECIPE.replace("lists = [\"en\"]\n", "lists = [\"en\"]\nspare = [\"negation\", \"spray\"]\n");
    let negated = notes(|_| "observed not with the spray".to_owned());
    assert_eq!(about(&suggested(&spares, &negated, &[Sort::StopWords], 1), Sort::StopWords), ["observed"]);
    let whole = "language = \"en\"\n[[step]]\ndo = \"split\"\n";
    assert_eq!(about(&suggested(whole, &texts, &[Sort::StopWords], 1), Sort::StopWords), [""; 0]);
}

/// A stem may be spelled as a function word of its language, and is none: the German stemmer makes `schon` (already) of `schön` (beautiful).
#[test]
fn stems_that_look_like_function_words_are_none() {
    let german = "language = \"de\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                  [[step]]\ndo = \"stopwords\"\nlists = [\"de\"]\nspare = [\"aber\"]\n[[step]]\ndo = \"stem\"\n";
    let texts = notes(|number| if number % 12 == 0 { "schöne Vögel".to_owned() } else { "Vögel".to_owned() });
    let found = suggested(german, &texts, &[Sort::StopWords], 1);
    assert!(!about(&found, Sort::StopWords).contains(&"schon"), "{found:?}");
    // One that comes as it is written is.
    let without = german.replace("lists = [\"de\"]\nspare = [\"aber\"]\n", "add = [\"und\"]\n");
    let texts = notes(|number| if number % 12 == 0 { "schon Vögel".to_owned() } else { "Vögel".to_owned() });
    let found = suggested(&without, &texts, &[Sort::StopWords], 1);
    assert!(about(&found, Sort::StopWords).contains(&"schon"), "{found:?}");
}

#[test]
fn phrases_belong_together_and_are_shaped_like_terms() {
    let birds = ["tern", "gull", "heron", "plover", "dunlin"];
    let texts = notes(|number| {
        let bird = birds[number % birds.len()];
        format!("the old marsh harrier quickly chased a {bird} near the sluice gate")
    });
    let found = suggested(RECIPE, &texts, &[Sort::Phrases], 1);
    let phrases = about(&found, Sort::Phrases);
    assert!(phrases.contains(&"sluice gate"), "{phrases:?}");
    assert!(phrases.iter().any(|phrase| phrase.contains("marsh harrier")), "{phrases:?}");
    assert!(
        !phrases.iter().any(|phrase| phrase.contains("quickly") || phrase.contains("chased")),
        "{phrases:?}"
    );
    // The part of a longer phrase that hardly comes without it is not told.
    assert!(!phrases.contains(&"marsh harrier") || !phrases.contains(&"old marsh harrier"), "{phrases:?}");
    let own = format!("{RECIPE}[[step]]\ndo = \"phrases\"\nadd = [\"nest box\"]\n");
    assert_eq!(about(&suggested(&own, &texts, &[Sort::Phrases], 1), Sort::Phrases), [""; 0]);
}

#[test]
fn boilerplate_copies_and_empty_documents_are_counted() {
    let mut texts = notes(|_| "a tern flew by".to_owned());
    for text in texts.iter_mut().take(9) {
        text.push_str("\nPlease keep this board dry and tidy for others\n");
    }
    texts.push(texts[20].clone());
    texts.push(format!("{} heron", texts[21]));
    texts.push(texts[22].clone());
    texts.extend(["of the", "a", "...", "tern"].map(str::to_owned));
    let sorts = [Sort::Boilerplate, Sort::Documents];
    let found = suggested(RECIPE, &texts, &sorts, 1);
    assert_eq!(about(&found, Sort::Boilerplate), ["Please keep this board dry and tidy for others"]);
    assert_eq!(
        found[0].proposal,
        Proposal::Lines(vec!["Please keep this board dry and tidy for others".to_owned()])
    );
    assert_eq!((found[0].count, found[0].documents), (9, 9));
    assert_eq!(
        about(&found, Sort::Documents),
        ["copies of earlier documents", "documents with fewer than 3 terms"]
    );
    assert_eq!((found[1].count, found[2].count), (3, 4));
    assert_eq!(found[1].because, "2 have the same terms, 1 nearly the same");
}

#[test]
fn remnants_go_by_name_where_a_step_has_left_them() {
    let texts = notes(|_| "it isn t the tern s nest nbsp and nbsp again".to_owned());
    let bare = "language = \"en\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n";
    let found = suggested(bare, &texts, &[Sort::Remnants], 1);
    assert_eq!(about(&found, Sort::Remnants), ["ends of contractions", "names of entities", "lone marks"]);
    // All of them are counted, not only those that are shown.
    assert_eq!(found.iter().map(|one| one.count).collect::<Vec<_>>(), [120, 120, 60]);
    let has_markup =
        format!("language = \"en\"\n[[step]]\ndo = \"markup\"\n{}", &bare["language = \"en\"\n".len()..]);
    let found = suggested(&has_markup, &texts, &[Sort::Remnants], 1);
    let Proposal::Step { toml, .. } = &found[1].proposal else { panic!("{:?}", found[1]) };
    assert_eq!(toml, "[[step]]\ndo = \"drop\"\nwords = [\"nbsp\"]\n");
    let allowed = format!("allow = [\"remnants\"]\n{bare}");
    assert_eq!(suggested(&allowed, &texts, &[Sort::Remnants], 1), []);
}

#[test]
fn names_have_capitals_in_the_middle_of_sentences() {
    let texts = notes(|number| match number % 5 {
        0 => "Yesterday Dr. Okoro walked to the wall".to_owned(),
        1 => "We all met in Sedge Pool at dawn".to_owned(),
        2 => "the order came from Acme Robotics Ltd this morning".to_owned(),
        3 => "When June came the Wall was wet and the wall was high".to_owned(),
        _ => "Nobody was there but Ines Okoro and the terns".to_owned(),
    });
    let found = suggested(RECIPE, &texts, &[Sort::Names], 1);
    let labels: Vec<(&str, &str)> = found
        .iter()
        .filter_map(|one| match &one.proposal {
            Proposal::Name { name, label } => Some((name.as_str(), *label)),
            _ => None,
        })
        .collect();
    for expected in [
        ("Okoro", "person"),
        ("Sedge Pool", "place"),
        ("Acme Robotics Ltd", "organisation"),
        ("Ines Okoro", "name"),
    ] {
        assert!(labels.contains(&expected), "{expected:?}: {labels:?}");
    }
    // No month, no first word of a sentence, no word that has a small letter as often.
    assert_eq!(labels.len(), 4, "{labels:?}");
    assert!(found.iter().all(|one| one.count == 12 && one.documents == 12), "{found:?}");
}

#[test]
fn whoever_looks_at_which_documents_finds_the_same() {
    let texts: Vec<String> = notes(|number| {
        let word = if number % 23 == 5 { "recieved" } else { "received" };
        format!(
            "The office {word} a note about the colour of the marsh harrier. We met Ines Okoro in Sedge Pool, observed the sluice gate.\nPlease keep this board dry and tidy for others\n"
        )
    });
    let alone = suggested(RECIPE, &texts, &Sort::ALL, 1);
    assert!(alone.len() > 5, "{alone:?}");
    for workers in [2, 3, 7] {
        assert_eq!(suggested(RECIPE, &texts, &Sort::ALL, workers), alone, "{workers} workers");
    }
}

#[test]
fn nothing_is_suggested_where_there_is_nothing() {
    for texts in [vec![], vec![String::new()], vec!["One tern.".to_owned()]] {
        assert_eq!(suggested(RECIPE, &texts, &Sort::ALL, 2), [], "{texts:?}");
    }
    let text_recipe = "[[step]]\ndo = \"case\"\n";
    let texts = notes(|_| "the office recieved a note".to_owned());
    for sort in [Sort::StopWords, Sort::Phrases, Sort::Spellings, Sort::Variants, Sort::Remnants] {
        assert_eq!(suggested(text_recipe, &texts, &[sort], 1), [], "{sort:?}");
    }
}

#[test]
fn sorts_have_names() {
    for sort in Sort::ALL {
        assert_eq!(Sort::named(sort.name()), Some(sort));
        assert!(sort.title().contains(": "), "{sort:?}");
    }
    assert_eq!(Sort::named("nothing"), None);
}
