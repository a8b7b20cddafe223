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

/// Entries of a word list or table can never match where it stands.
pub(crate) const UNREACHABLE_ENTRIES: Code = Code {
    name: "unreachable-entries",
    about: "entries of a word list or table can never match where it stands",
    needs_collection: false,
};
/// A step cannot find what it looks for, because an earlier one took it to pieces.
pub(crate) const NEVER_FINDS: Code = Code {
    name: "never-finds",
    about: "a step cannot find what it looks for, because an earlier one took it to pieces",
    needs_collection: false,
};
/// Tokens of a kind that is to be dropped never come out of the split whole.
pub(crate) const KINDS_NEVER_ARRIVE: Code = Code {
    name: "kinds-never-arrive",
    about: "tokens of a kind that is to be dropped never come out of the split whole",
    needs_collection: false,
};
/// Letter case is changed after a list that compares it exactly.
pub(crate) const CASE_AFTER_LIST: Code = Code {
    name: "case-after-list",
    about: "letter case is changed after a list that compares it exactly",
    needs_collection: false,
};
/// What tells sentences apart is gone before they are found.
pub(crate) const SENTENCES_LOST: Code = Code {
    name: "sentences-lost",
    about: "what tells sentences apart is gone before they are found",
    needs_collection: false,
};
/// The marks between sentences are gone before a step that joins neighbours.
pub(crate) const BORDERS_LOST: Code = Code {
    name: "borders-lost",
    about: "the marks between sentences are gone before a step that joins neighbouring words",
    needs_collection: false,
};
/// The signs of links, mentions and hashtags are gone before a split that keeps them whole.
pub(crate) const SIGNS_LOST: Code = Code {
    name: "signs-lost",
    about: "the signs of links, mentions and hashtags are gone before a split that keeps them whole",
    needs_collection: false,
};
/// Marks are erased to nothing where they part words.
pub(crate) const JOINED_WORDS: Code = Code {
    name: "joined-words",
    about: "marks are erased to nothing where they part words",
    needs_collection: false,
};
/// The ends of contractions are left as words: `s`, `t`, `ll`.
pub(crate) const CONTRACTION_TAILS: Code = Code {
    name: "contraction-tails",
    about: "the ends of contractions are left as words: `s`, `t`, `ll`",
    needs_collection: false,
};
/// A step for single words works on sentences, lines or groups.
pub(crate) const WORDS_NOT_SPLIT: Code = Code {
    name: "words-not-split",
    about: "a step for single words works on sentences, lines or groups",
    needs_collection: false,
};
/// Words are cut down twice.
pub(crate) const TWO_REDUCERS: Code =
    Code { name: "two-reducers", about: "words are cut down twice", needs_collection: false };
/// Words or full stops are gone before `tag`, which needs them.
pub(crate) const TAGS_LOST: Code = Code {
    name: "tags-lost",
    about: "words or full stops are gone before `tag`, which needs them",
    needs_collection: false,
};
/// Letters are made small before German lemmas, which need the capitals of nouns.
pub(crate) const CAPITALS_LOST: Code = Code {
    name: "capitals-lost",
    about: "letters are made small before German lemmas, which need the capitals of nouns",
    needs_collection: false,
};
/// List, stemmer and recipe are for different languages.
pub(crate) const LANGUAGES_DISAGREE: Code = Code {
    name: "languages-disagree",
    about: "list, stemmer and recipe are for different languages",
    needs_collection: false,
};
/// White space is made one before steps that leave more of it.
pub(crate) const SPACES_TOO_EARLY: Code = Code {
    name: "spaces-too-early",
    about: "white space is made one before steps that leave more of it",
    needs_collection: false,
};
/// A step changes nothing in the whole collection.
pub(crate) const NO_EFFECT: Code = Code {
    name: "no-effect",
    about: "a step changes nothing in the whole collection",
    needs_collection: true,
};
/// Documents are left without any token.
pub(crate) const DOCUMENTS_EMPTIED: Code =
    Code { name: "documents-emptied", about: "documents are left without any token", needs_collection: true };
/// Terms that look like remnants: single letters, parts of links, names of entities, lone marks.
pub(crate) const REMNANTS: Code = Code {
    name: "remnants",
    about: "terms that look like remnants: single letters, parts of links, names of entities, lone marks",
    needs_collection: true,
};
/// Function words are among the commonest terms although a stop list was used.
pub(crate) const STOPWORDS_LEFT: Code = Code {
    name: "stopwords-left",
    about: "function words are among the commonest terms although a stop list was used",
    needs_collection: true,
};
/// Terms that differ in letter case alone.
pub(crate) const CASE_VARIANTS: Code =
    Code { name: "case-variants", about: "terms that differ in letter case alone", needs_collection: true };
/// Documents are in another language than the recipe is for.
pub(crate) const OTHER_LANGUAGE: Code = Code {
    name: "other-language",
    about: "documents are in another language than the recipe is for",
    needs_collection: true,
};
/// A stop list drops negations.
pub(crate) const NEGATION_DROPPED: Code =
    Code { name: "negation-dropped", about: "a stop list drops negations", needs_collection: true };

/// Every code, in the order in which advice on one step is given.
pub static CODES: &[Code] = &[
    UNREACHABLE_ENTRIES,
    NEVER_FINDS,
    KINDS_NEVER_ARRIVE,
    CASE_AFTER_LIST,
    SENTENCES_LOST,
    BORDERS_LOST,
    SIGNS_LOST,
    JOINED_WORDS,
    CONTRACTION_TAILS,
    WORDS_NOT_SPLIT,
    TWO_REDUCERS,
    TAGS_LOST,
    CAPITALS_LOST,
    LANGUAGES_DISAGREE,
    SPACES_TOO_EARLY,
    NO_EFFECT,
    DOCUMENTS_EMPTIED,
    REMNANTS,
    STOPWORDS_LEFT,
    CASE_VARIANTS,
    OTHER_LANGUAGE,
    NEGATION_DROPPED,
];
