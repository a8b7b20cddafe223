//! The codes of advice, which a recipe may allow.

/// A sort of advice.
#[derive(Clone, Copy, Debug)]
pub struct Code {
    /// Its name, which does not change.
    pub name: &'static str,
    /// What it means, in one sentence.
    pub about: &'static str,
    /// Whether it needs a collection.
    pub needs_collection: bool,
}

const fn code(name: &'static str, about: &'static str) -> Code {
    Code { name, about, needs_collection: false }
}

const fn with_collection(name: &'static str, about: &'static str) -> Code {
    Code { name, about, needs_collection: true }
}

/// Every sort of advice.
pub static CODES: &[Code] = &[
    code("unreachable-entries", "entries of a word list or table can never match where it stands"),
    code("never-finds", "a step cannot find what it looks for, because an earlier one took it to pieces"),
    code("kinds-never-arrive", "tokens of a kind that is to be dropped never come out of the split whole"),
    code("case-after-list", "letter case is changed behind a list that compares it exactly"),
    code("sentences-lost", "what tells sentences apart is gone before they are found"),
    code(
        "signs-lost",
        "the signs of links, mentions and hashtags are gone before a split that keeps them whole",
    ),
    code("joined-words", "marks are erased to nothing where they part words"),
    code("contraction-tails", "the tails of contracted forms are left as words: `s`, `t`, `ll`"),
    code("words-not-split", "a step for single words works on sentences, lines or groups"),
    code("two-reducers", "words are cut down twice"),
    code("tags-lost", "words or full stops are gone before parts of speech are told by them"),
    code("languages-disagree", "list, stemmer and recipe are for different languages"),
    code("spaces-too-early", "white space is made one before steps that leave more of it"),
    with_collection("no-effect", "a step changes nothing in the whole collection"),
    with_collection("documents-emptied", "documents are left without any token"),
    with_collection(
        "remnants",
        "terms that look like remnants: single letters, parts of links, names of entities, lone marks",
    ),
    with_collection(
        "stopwords-left",
        "function words are among the commonest terms although a stop list was used",
    ),
    with_collection("case-variants", "terms that differ in letter case alone"),
    with_collection("other-language", "documents are in another language than the recipe is for"),
    with_collection("negation-dropped", "a stop list drops words of negation"),
];
