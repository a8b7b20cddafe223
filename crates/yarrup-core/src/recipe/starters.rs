//! Recipes to start from, by aim.

use std::borrow::Cow;

use crate::stem::stemmer;
use crate::words::stop_list;

/// A recipe to start from.
#[derive(Clone, Copy, Debug)]
pub struct Starter {
    /// What it is for, in one or two words.
    pub aim: &'static str,
    /// The recipe for English, with comments that explain its order.
    pub text: &'static str,
}

/// The recipes to start from.
pub static STARTERS: &[Starter] = &[
    Starter { aim: "topics", text: include_str!("starters/topics.toml") },
    Starter { aim: "counts", text: include_str!("starters/counts.toml") },
    Starter { aim: "search", text: include_str!("starters/search.toml") },
    Starter { aim: "sentences", text: include_str!("starters/sentences.toml") },
    Starter { aim: "posts", text: include_str!("starters/posts.toml") },
    Starter { aim: "model-input", text: include_str!("starters/model-input.toml") },
];

/// What stands in the place of a stop list that does not come with the program.
const NO_STOP_LIST: &str = "\
# No list of function words in this language comes with Yarrup. Name a file of your own, one word per line, or let the step
# learn them from your texts: see `yarrup steps stopwords`.
# [[step]]
# do = \"stopwords\"
# lists = [\"function-words.txt\"]";

/// What stands in the place of a stemmer that does not come with the program.
const NO_STEMMER: &str = "\
# No stemmer for this language comes with Yarrup. If your system has a dictionary for it in Hunspell's format, this step
# merges the forms of a word:
# [[step]]
# do = \"lemma\"";

/// The end of a recipe whose examples would be in another language.
const NO_EXAMPLES: &str = "\
# Say what the recipe must do: `yarrup try RECIPE TEXT --save-example` adds an example, and `yarrup check` tests it.";

impl Starter {
    /// The recipe for texts in this language: with its stop list and stemmer, and without the examples in English. What does not come with the program is
    /// left out, and a comment says so.
    ///
    /// ```
    /// use yarrup_core::recipe::STARTERS;
    ///
    /// let german = STARTERS[0].text_in("de");
    /// assert!(german.contains("lists = [\"de\"]") && german.contains("method = \"full\""));
    /// ```
    pub fn text_in(&self, language: &str) -> Cow<'static, str> {
        let primary = language.split('-').next().unwrap_or_default().to_ascii_lowercase();
        if primary == "en" && !language.contains('-') {
            return Cow::Borrowed(self.text);
        }
        let primary = primary.as_str();
        let is_english = primary == "en";
        let blocks = self.text.split("\n\n").filter_map(|block| {
            let has = |operation: &str| block.contains(&format!("do = \"{operation}\""));
            Some(match () {
                () if block.starts_with("recipe") => with_language(block, language, is_english),
                () if is_english => block.to_owned(),
                () if block.contains("[[example]]") => return None,
                () if has("contractions") => return None,
                () if has("split") => with_split(block, primary),
                () if has("stopwords") => with_stop_list(block, primary),
                // Words of Chinese, Japanese and Thai have no endings that a step could take off.
                () if has("stem") && matches!(primary, "ja" | "th" | "zh") => return None,
                () if has("stem") => with_stemmer(block, primary),
                // A word of Chinese or Japanese is often a single character.
                () if has("drop") && matches!(primary, "zh" | "ja") => {
                    block.replace("\nshorter_than = 2", "")
                }
                () => block.to_owned(),
            })
        });
        let mut text: Vec<String> = blocks.collect();
        if !is_english {
            text.push(format!("{NO_EXAMPLES}\n"));
        }
        Cow::Owned(text.join("\n\n"))
    }
}

/// The head of a recipe with another language in it.
fn with_language(head: &str, language: &str, is_english: bool) -> String {
    let mut lines: Vec<String> = Vec::new();
    for line in head.lines().filter(|line| !line.starts_with("language")) {
        let Some((key, value)) = line.split_once('=') else { continue };
        // The example of a word in English.
        let value = if is_english { value } else { value.split(", with one entry").next().unwrap_or(value) };
        let value = value.trim();
        let closed = if value.ends_with('"') { value.to_owned() } else { format!("{value}.\"") };
        lines.push(format!("{:<8} = {closed}", key.trim()));
    }
    lines.push(format!("language = \"{language}\""));
    lines.join("\n")
}

/// The split of a language: into clitics where a language writes words together with an apostrophe, and with hyphens where function words have them.
fn with_split(block: &str, primary: &str) -> String {
    let whole = match primary {
        "bg" => Some("най-много"),
        "id" => Some("kadang-kadang"),
        "ro" => Some("și-l"),
        "ru" => Some("кто-то"),
        "uk" => Some("будь-хто"),
        _ => None,
    };
    if let Some(whole) = whole.filter(|_| block.ends_with("into = \"words\"")) {
        return format!("# `{whole}` is one word, and on the stop list.\n{block}\nhyphens = \"keep\"");
    }
    let note = match primary {
        "fr" => "# `l'été` is two words, and so is `dit-elle`.\n",
        "it" => "# `l'estate` is two words.\n",
        "ca" => "# `l'estiu` is two words.\n",
        _ => return block.to_owned(),
    };
    match block.contains("into = \"words\"") {
        true => format!(
            "{note}{}",
            block.replace("into = \"words\"", "into = \"clitics\"").replace("\nhyphens = \"keep\"", "")
        ),
        false => block.to_owned(),
    }
}

/// The stop words of a language.
fn with_stop_list(block: &str, primary: &str) -> String {
    if stop_list(primary).is_none() {
        return NO_STOP_LIST.to_owned();
    }
    let steps = block.split_once("[[step]]").map_or(block, |(_, steps)| steps);
    let note = match steps.contains("spare") {
        true => "# Keep negations: opinions depend on them.",
        false => {
            "# The list has whole words, so it comes before what changes them. Negations are dropped too: they name no subject.\n# To model opinions, add spare = [\"negation\"]."
        }
    };
    format!("{note}\n[[step]]{}", steps.replace("[\"en\"]", &format!("[\"{primary}\"]")))
}

/// The stemmer of a language.
fn with_stemmer(block: &str, primary: &str) -> String {
    match [Some("full"), None].into_iter().find_map(|method| stemmer(primary, method)) {
        Some(stemmer) => block.replace("porter2", stemmer.method),
        None => NO_STEMMER.to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::advice::check;
    use crate::examples;
    use crate::recipe::read;
    use crate::stem::STEMMERS;
    use crate::testing;
    use crate::words::stop_list_names;

    #[test]
    fn every_starter_passes_in_silence() {
        for starter in STARTERS {
            let recipe = read(starter.text).unwrap_or_else(|faults| panic!("{}: {faults:?}", starter.aim));
            assert_eq!(recipe.name.as_deref(), Some(starter.aim));
            assert_eq!(check(&recipe, &testing::pipeline(starter.text)), [], "{}", starter.aim);
        }
    }

    #[test]
    fn every_starter_passes_in_silence_in_every_language() {
        let lists = stop_list_names().filter(|name| name.len() == 2);
        let stemmed = STEMMERS.iter().map(|stemmer| stemmer.language);
        let languages: std::collections::BTreeSet<&str> =
            lists.chain(stemmed).chain(["nb", "sl", "th", "pt-BR", "en-GB"]).collect();
        assert!(languages.len() > 25, "{languages:?}");
        let mut told_of = Vec::new();
        for starter in STARTERS {
            for language in &languages {
                let text = starter.text_in(language);
                let recipe = read(&text)
                    .unwrap_or_else(|faults| panic!("{} {language}: {faults:?}\n{text}", starter.aim));
                assert_eq!(recipe.name.as_deref(), Some(starter.aim));
                let told = recipe.language.as_deref();
                assert!(told == Some(language) || (*language == "en" && told.is_none()), "{text}");
                // A few entries of these lists are words to one splitter and several to another.
                let is_known = |code: &str| {
                    code == "unreachable-entries" && matches!(*language, "ca" | "fr" | "it" | "ja" | "zh")
                };
                for advice in check(&recipe, &testing::pipeline(&text)) {
                    if !is_known(advice.code) {
                        told_of.push(format!(
                            "{} {language}: {} {:?}",
                            starter.aim, advice.what, advice.because
                        ));
                    }
                }
                let is_english = language.starts_with("en");
                assert_eq!(recipe.examples.is_empty(), !is_english, "{text}");
                assert!(is_english || !text.contains("[\"en\"]") && !text.contains("porter2"), "{text}");
            }
        }
        assert!(told_of.is_empty(), "{}", told_of.join("\n"));
    }

    #[test]
    fn what_does_not_come_with_the_program_is_left_out_in_words() {
        let [topics, posts] = ["topics", "posts"]
            .map(|aim| STARTERS.iter().find(|starter| starter.aim == aim).unwrap_or_else(|| panic!("{aim}")));
        let czech = topics.text_in("cs");
        assert!(czech.contains("lists = [\"cs\"]") && czech.contains("# do = \"lemma\""), "{czech}");
        let slovene = topics.text_in("sl");
        assert!(
            slovene.contains("# do = \"stopwords\"") && !slovene.contains("\ndo = \"stem\""),
            "{slovene}"
        );
        assert!(topics.text_in("bg").contains("`най-много` is one word"));
        assert!(topics.text_in("fr").contains("into = \"clitics\""));
        assert!(
            !topics.text_in("zh").contains("shorter_than") && topics.text_in("de").contains("shorter_than")
        );
        assert!(topics.text_in("nb").contains("lists = [\"nb\"]"));
        assert!(posts.text_in("es").contains("spare = [\"negation\"]"));
    }

    #[test]
    fn starters_do_what_their_examples_say() {
        for starter in STARTERS {
            let recipe = read(starter.text).unwrap_or_else(|faults| panic!("{}: {faults:?}", starter.aim));
            assert!(!recipe.examples.is_empty(), "{}", starter.aim);
            for outcome in examples::run(&recipe.examples, &testing::pipeline(starter.text)) {
                assert_eq!(outcome.misses, [], "{}", starter.aim);
            }
        }
    }
}
