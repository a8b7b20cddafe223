//! English contracted forms, put together from the closed classes that contract, and the words by which the ambiguous ones are decided.

use std::sync::LazyLock;

use hashbrown::HashSet;

use crate::words::stop_list;

/// Auxiliaries as they stand before `n't`, and what the two mean.
const NEGATED: &str = "\
    are=are not; is=is not; was=was not; were=were not; do=do not; does=does not; did=did not; have=have not; has=has not; \
    had=had not; ca=can not; could=could not; wo=will not; would=would not; sha=shall not; should=should not; must=must not; \
    need=need not; might=might not; may=may not; ought=ought not; dare=dare not; dares=dares not; used=used not; use=used not; \
    am=am not; ai=is not";

/// Auxiliaries behind which `not` and `have` may both be contracted.
const MODALS: &str = "\
    could should would might must may ought";

/// Words before `'ll`, `'ve`, `'re`, `'d've`.
const SUBJECTS: &str = "\
    i you he she it we they that this these those there here who what where when why how which somebody someone something \
    everybody everyone everything nobody nothing anybody anyone anything one y'all you-all others some";

/// Forms that follow no scheme.
const SPECIAL: &str = "\
    let's=let us; i'm=i am; i'm'a=i am going to; i'ma=i am going to; y'all=you all; y'all'll=you all will; \
    y'all're=you all are; y'all've=you all have; y'all'd=you all would; y'all'd've=you all would have; y'know=you know; \
    d'you=do you; d'ye=do you; c'mon=come on; g'day=good day; 'tis=it is; 'twas=it was; 'twere=it were; \
    'twill=it will; 'twould=it would; 'tisn't=it is not; 'twasn't=it was not; 'cause=because; 'em=them; 'til=until; \
    'bout=about; 'cuz=because; 'nother=another; gov't=government; int'l=international; \
    nat'l=national; ass'n=association; cont'd=continued; rec'd=received; how'd've=how would have; where're=where are; \
    ain't=is not; amn't=am not; daresn't=dare not; to've=to have; not've=not have; so's=so is; s'pose=suppose; \
    s'posed=supposed; o'er=over; e'er=ever; ne'er=never; e'en=even; ev'ry=every";

/// Forms whose apostrophe is missing and that are no words of their own.
const MISSING: &str = "\
    arent=are not; cant=can not; couldnt=could not; couldve=could have; didnt=did not; doesnt=does not; dont=do not; \
    hadnt=had not; hasnt=has not; havent=have not; heres=here is; hes=he is; howre=how are; im=i am; isnt=is not; \
    itll=it will; ive=i have; mightve=might have; mustnt=must not; mustve=must have; neednt=need not; shes=she is; \
    shouldnt=should not; shouldve=should have; thats=that is; thatll=that will; theres=there is; theyd=they would; \
    theyll=they will; theyre=they are; theyve=they have; wasnt=was not; werent=were not; weve=we have; whats=what is; \
    wheres=where is; whos=who is; wont=will not; wouldnt=would not; wouldve=would have; yall=you all; youd=you would; \
    youll=you will; youre=you are; youve=you have; aint=is not";

/// Participles that follow `has` and not `is`, nor `would`: of verbs that are seldom passive.
const AFTER_HAS: &str = "\
    been got gotten had become begun come gone grown happened flown swum risen fallen slept stood sat arrived lived died \
    hatched landed left started stopped ended appeared disappeared changed turned tried moved returned fledged nested \
    vanished worked run spent wanted needed always never";

/// Participles of irregular verbs that are not also base forms.
const PARTICIPLES: &str = "\
    been beaten become begun bent bitten bled blown born bound bought broken brought built burnt caught chosen clung crept \
    dealt done drawn dreamt driven drunk dug eaten fallen fed felt fled flown forgiven forgotten fought found frozen given \
    gone got gotten grown had heard held hidden hung kept known laid lain learnt led left lent lost made meant met paid \
    proven ridden risen rung said sat seen sent shaken shone shot shown shrunk slept slid sold spent spoken spun stolen \
    stood stuck struck stung sung sunk sworn swept swollen swum swung taken taught thought thrown told torn understood woken \
    won worn woven written";

/// Participles that say what somebody is rather than what was done, unless an object follows.
const STATES: &str = "\
    tired bored interested excited worried scared frightened surprised pleased delighted married divorced engaged dressed \
    seated involved convinced confused annoyed disappointed exhausted retired called named born used supposed allowed \
    expected injured hurt wounded stuck ashamed located based related required concerned determined devoted prepared relaxed \
    satisfied shocked stressed trapped upset lost known obliged inclined gifted talented qualified experienced educated \
    skilled armed accused trained employed hated loved respected feared missed needed wanted obsessed spoiled spoilt amused \
    amazed astonished embarrassed depressed frustrated furnished closed locked broken hidden blocked covered connected";

/// Words that may stand between an auxiliary and its verb: they are looked past.
const BETWEEN: &str = "\
    not never always also just already ever still only really even often probably all both sometimes certainly";

/// Words before which a noun's `'s` is `is`: no noun phrase begins with a possessive in front of them.
const AFTER_IS: &str = "\
    a an the not my your his her its our their this that so too very in on at here there now gonna been because up down out \
    off away back what where who why how just still already always never about quite rather really it he she they we i you \
    ok okay fine ready alive afraid asleep awake alone able unable";

/// Base forms that `'d` before them is `would`.
const AFTER_WOULD: &str = "\
    be have like love prefer rather say think go see come take make get give know need want do hate expect suggest recommend \
    appreciate guess bet try use find tell ask help look feel keep mind call work seem leave let stay fly nest eat drink \
    wait walk watch stop start pay buy swim visit show bring remember miss agree believe enjoy wish imagine write read live \
    run put set cut hit i you he she it we they";

/// Words in -ed that are no participles.
const NOT_PARTICIPLES: &str = "\
    red bed need seed feed weed reed shed speed indeed hundred sacred naked wicked embed proceed exceed succeed bleed breed \
    heed deed creed greed steed";

type Words = HashSet<&'static str, foldhash::fast::RandomState>;

/// A set of the words of a list, made when it is first asked for.
fn set(listed: &'static str) -> Words {
    listed.split(' ').collect()
}

static HAS: LazyLock<Words> = LazyLock::new(|| set(AFTER_HAS));
static STATE: LazyLock<Words> = LazyLock::new(|| set(STATES));
static BETWEEN_WORDS: LazyLock<Words> = LazyLock::new(|| set(BETWEEN));
static IS: LazyLock<Words> = LazyLock::new(|| set(AFTER_IS));
static WOULD: LazyLock<Words> = LazyLock::new(|| set(AFTER_WOULD));
static PARTICIPLE: LazyLock<Words> = LazyLock::new(|| set(PARTICIPLES));
static NO_PARTICIPLE: LazyLock<Words> = LazyLock::new(|| set(NOT_PARTICIPLES));

fn pairs(table: &'static str) -> impl Iterator<Item = (&'static str, &'static str)> {
    table.split("; ").filter_map(|pair| pair.split_once('='))
}

/// Every contracted form of the table with what it is short for, in small letters with plain apostrophes. `missing` adds those whose
/// apostrophe is missing and that are no words of their own.
pub(crate) fn english_contractions(missing: bool) -> Vec<(String, String)> {
    let mut all: Vec<(String, String)> = Vec::new();
    let mut take = |form: String, full: String| all.push((form, full));
    for (form, full) in pairs(SPECIAL) {
        take(form.to_owned(), full.to_owned());
    }
    for (auxiliary, full) in pairs(NEGATED) {
        take(format!("{auxiliary}n't"), full.to_owned());
        take(format!("{auxiliary}n't've"), format!("{full} have"));
    }
    for modal in MODALS.split(' ') {
        take(format!("{modal}'ve"), format!("{modal} have"));
    }
    for subject in SUBJECTS.split(' ') {
        let full = subject.replace("y'all", "you all");
        for (tail, means) in [
            ("ll", "will"),
            ("ll've", "will have"),
            ("ve", "have"),
            ("re", "are"),
            ("d've", "would have"),
            ("dn't", "would not"),
            ("dn't've", "would not have"),
        ] {
            take(format!("{subject}'{tail}"), format!("{full} {means}"));
        }
    }
    if missing {
        for (form, full) in pairs(MISSING) {
            take(form.to_owned(), full.to_owned());
        }
    }
    all
}

/// Whether `has` goes before this participle, and neither `is` nor a possessive.
pub(crate) fn follows_has(word: &str) -> bool {
    HAS.contains(word)
}

/// Whether the word is a participle that says what somebody is, unless an object follows.
pub(crate) fn is_state(word: &str) -> bool {
    STATE.contains(word)
}

/// Whether the word is looked past between an auxiliary and its verb.
pub(crate) fn is_between(word: &str) -> bool {
    BETWEEN_WORDS.contains(word) || (word.len() > 4 && word.ends_with("ly"))
}

/// Whether the word is a function word, as the stop list has them.
pub(crate) fn is_function_word(word: &str) -> bool {
    static FUNCTION_WORDS: LazyLock<HashSet<String, foldhash::fast::RandomState>> =
        LazyLock::new(|| stop_list("en").unwrap_or_default().into_iter().collect());
    FUNCTION_WORDS.contains(word)
}

/// Whether no possessive stands before this word.
pub(crate) fn follows_is(word: &str) -> bool {
    IS.contains(word)
}

/// Whether `'d` before this base form is `would`.
pub(crate) fn follows_would(word: &str) -> bool {
    WOULD.contains(word)
}

/// Whether the word is a past participle: one of the irregular ones that are no base forms, or in -ed.
pub(crate) fn is_participle(word: &str) -> bool {
    PARTICIPLE.contains(word) || (word.len() > 3 && word.ends_with("ed") && !NO_PARTICIPLE.contains(word))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_holds_every_class() {
        let all: std::collections::HashMap<_, _> = english_contractions(true).into_iter().collect();
        for (form, full) in [
            ("don't", "do not"),
            ("shan't", "shall not"),
            ("shouldn't've", "should not have"),
            ("might've", "might have"),
            ("they'll've", "they will have"),
            ("who're", "who are"),
            ("y'all're", "you all are"),
            ("'tis", "it is"),
            ("youre", "you are"),
        ] {
            assert_eq!(all.get(form).map(String::as_str), Some(full), "{form}");
        }
        assert!(all.len() > 250, "{}", all.len());
        assert!(all.keys().all(|form| form.to_lowercase() == *form && !form.contains(' ')));
    }

    #[test]
    fn words_decide() {
        assert!(
            is_participle("flown")
                && is_participle("nested")
                && !is_participle("seed")
                && !is_participle("red")
        );
        assert!(
            is_between("never")
                && is_between("hardly")
                && follows_would("like")
                && follows_is("the")
                && follows_has("been")
        );
    }
}
