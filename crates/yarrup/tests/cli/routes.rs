//! Published examples through every route: run from a file and from standard input, on one thread and on many, `pipe`, `try`.

use serde_json::{Value, json};

use crate::home::Home;

/// Recipes with texts and what must come of them.
const TABLE: &[(&str, &str, &str)] = &[
    // Porter 1980, "An algorithm for suffix stripping": the examples of steps 1a to 5b.
    (
        "[[step]]\ndo = \"stem\"\nmethod = \"porter\"\n",
        "caresses ponies ties caress cats feed agreed plastered bled motoring sing conflated troubled sized hopping tanned falling hissing fizzed failing filing happy sky",
        "caress poni ti caress cat feed agre plaster bled motor sing conflat troubl size hop tan fall hiss fizz fail file happi sky",
    ),
    (
        "[[step]]\ndo = \"stem\"\nmethod = \"porter\"\n",
        "relational conditional rational valenci hesitanci digitizer conformabli radicalli differentli vileli analogousli vietnamization predication operator feudalism decisiveness hopefulness callousness formaliti sensitiviti sensibiliti",
        "relat condit ration valenc hesit digit conform radic differ vile analog vietnam predic oper feudal decis hope callous formal sensit sensibl",
    ),
    (
        "[[step]]\ndo = \"stem\"\nmethod = \"porter\"\n",
        "triplicate formative formalize electriciti electrical hopeful goodness revival allowance inference airliner gyroscopic adjustable defensible irritant replacement adjustment dependent adoption homologou communism activate angulariti homologous effective bowdlerize probate rate cease controll roll",
        "triplic form formal electr electr hope good reviv allow infer airlin gyroscop adjust defens irrit replac adjust depend adopt homolog commun activ angular homolog effect bowdler probat rate ceas control roll",
    ),
    // Harman 1991, "How effective is suffixing?": the rules of the S stemmer.
    (
        "[[step]]\ndo = \"stem\"\nmethod = \"s\"\n",
        "queries eies aies plates nests grass focus",
        "query eies aies plate nest grass focus",
    ),
    // Unicode Standard Annex #29, section 4: the example of word boundaries.
    (
        "[[step]]\ndo = \"split\"\n",
        "The quick (\u{201c}brown\u{201d}) fox can\u{2019}t jump 32.3 feet, right?",
        "The quick ( \u{201c} brown \u{201d} ) fox can\u{2019}t jump 32.3 feet , right ?",
    ),
    // Unicode Standard Annex #15, figure 3 and 6: singletons, compositions, compatibility.
    (
        "[[step]]\ndo = \"unicode\"\nquotes = false\ndashes = false\n",
        "\u{212b} \u{2126} A\u{30a} \u{1e9b}\u{323}",
        "\u{c5} \u{3a9} \u{c5} \u{1e9b}\u{323}",
    ),
    ("[[step]]\ndo = \"unicode\"\nform = \"nfkc\"\n", "\u{fb01} 2\u{2075} \u{1e9b}\u{323}", "fi 25 \u{1e69}"),
    // The treebanks' way with contractions and possessives.
    (
        "[[step]]\ndo = \"split\"\ninto = \"clitics\"\n",
        "They'll say it's the warden's, won't they? I can't.",
        "They 'll say it 's the warden 's , wo n't they ? I ca n't .",
    ),
    (
        "language = \"fr\"\n[[step]]\ndo = \"split\"\ninto = \"clitics\"\n",
        "L'été qu'il a dit-elle",
        "L' été qu' il a dit -elle",
    ),
    // German, Spanish, Russian: stop words and light stems, by hand.
    (
        "language = \"de\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"de\"]\n[[step]]\ndo = \"stem\"\n",
        "Die Nester der Vögel und die Häuser",
        "nest vogel haus",
    ),
    ("[[step]]\ndo = \"case\"\nlanguage = \"tr\"\n", "IĞDIR İzmir", "ığdır izmir"),
    ("[[step]]\ndo = \"case\"\n", "ΟΔΥΣΣΕΥΣ ΣΟΦΟΣ", "οδυσσευς σοφος"),
    ("[[step]]\ndo = \"case\"\nto = \"fold\"\n", "Straße ΣΟΦΟΣ", "strasse σοφοσ"),
];

#[test]
fn every_route_gives_what_was_published() {
    for (number, (steps, text, expected)) in TABLE.iter().enumerate() {
        let line = format!("{}\n", json!({"id": "a", "text": text}));
        let home = Home::new().file("r.toml", steps).file("a.jsonl", &line).file("text.txt", text);
        let clean = |documents: &str| -> Vec<String> {
            let of = |line: &str| {
                serde_json::from_str::<Value>(line).expect("JSON")["clean"]
                    .as_str()
                    .expect("a text")
                    .to_owned()
            };
            documents.lines().map(of).collect()
        };
        home.done("run r.toml a.jsonl --out one --threads 1");
        home.done("run r.toml a.jsonl text.txt --out four --threads 4");
        let streamed = home.yarrup_with("run r.toml - --out streamed", &[], line.as_bytes());
        assert_eq!(streamed.code, Some(0), "{streamed:?}");
        let piped = home.yarrup_with("pipe r.toml", &[], line.as_bytes());
        let tokens = home.yarrup_with("pipe r.toml --tokens --threads 3", &[], line.repeat(3).as_bytes());
        let one = vec![(*expected).to_owned()];
        assert_eq!(clean(&home.read("one/documents.jsonl")), one, "run, row {number}");
        assert_eq!(
            clean(&home.read("four/documents.jsonl")),
            [one.clone(), one.clone()].concat(),
            "threads, row {number}"
        );
        assert_eq!(clean(&home.read("streamed/documents.jsonl")), one, "standard input, row {number}");
        assert_eq!(clean(&piped.out), one, "pipe, row {number}");
        assert_eq!(clean(&tokens.out), vec![one[0].clone(); 3], "tokens, row {number}");
        assert_eq!(home.read("one/vocabulary.csv"), home.read("streamed/vocabulary.csv"), "row {number}");
        assert_eq!(home.read("one/forms.csv"), home.read("streamed/forms.csv"), "row {number}");
        let tried = home.yarrup_with("try r.toml", &[text], b"");
        let shown = tried.out.split_once("clean ").map_or("", |(_, clean)| clean);
        let words = |text: &str| text.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
        assert_eq!(words(shown), words(expected), "try, row {number}");
    }
}
