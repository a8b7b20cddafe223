//! Languages, and in which a text is written.

use std::sync::OnceLock;

use hashbrown::HashMap;
use whatlang::{Detector, Lang};

use crate::unicode;
use crate::words::{STOP_LISTS, one_a_line};

/// How many letters of a document its language is told by.
const LANGUAGE_LETTERS: usize = 600;
/// How many letters a document needs for its language to be told.
const FEWEST_LETTERS: usize = 24;
/// How many it needs where its function words agree with them.
const FEWEST_WITH_WORDS: usize = 12;
/// How many Latin letters say as much as one of the letters of Chinese, Japanese and Korean, nearly.
const EASTERN_LETTER: usize = 3;

/// A language.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Language {
    /// Its code: of ISO 639-1 where that has one, else of ISO 639-3.
    pub code: &'static str,
    /// Its English name.
    pub name: &'static str,
}

impl Language {
    /// The language that was detected.
    fn of(lang: Lang) -> Language {
        Language { code: short_code(lang.code()), name: name_of(lang) }
    }
}

/// A text in several languages, by the code of ISO 639-2 for such.
const SEVERAL: Language = Language { code: "mul", name: "several languages" };

/// The language of a text as a tag of two letters, or three where there are none of two; `mul` of one in several languages; if it can be told.
///
/// ```
/// use yarrup_core::language_of;
///
/// assert_eq!(language_of("Die Wächter haben heute Morgen jedes Nest an der Küste gezählt."), Some("de"));
/// assert_eq!(language_of("7 !"), None);
/// ```
pub fn language_of(text: &str) -> Option<&'static str> {
    tell(text).map(|language| language.code)
}

/// The language of a text, or [`SEVERAL`]; if it can be told.
pub(crate) fn tell(text: &str) -> Option<Language> {
    if is_mixed(text) { Some(SEVERAL) } else { detect(text).map(Language::of) }
}

/// How many letters a stretch of a text needs to have a language of its own.
const STRETCH: usize = 60;
/// How many stretches of a long text are looked at.
const MOST_STRETCHES: usize = 16;

/// Whether two languages that are no neighbours have each a quarter of a text or more.
///
/// Stretches are sorted by their function words, or by their script, which costs little; where these point to two languages, those are asked for.
fn is_mixed(text: &str) -> bool {
    let stretches = stretches(text);
    if stretches.len() < 2 {
        return false;
    }
    let all: usize = stretches.iter().map(|(_, letters)| letters).sum();
    let mut sorts: Vec<(Sort, String, usize)> = Vec::new();
    for (stretch, letters) in stretches {
        let Some(sort) = sort_of(stretch) else { continue };
        match sorts.iter_mut().find(|(known, ..)| *known == sort) {
            Some((_, texts, sum)) => {
                texts.push(' ');
                texts.push_str(stretch);
                *sum += letters;
            }
            None => sorts.push((sort, stretch.to_owned(), letters)),
        }
    }
    let large = sorts.iter().filter(|(.., letters)| letters * 4 >= all);
    let told: Vec<&str> =
        large.filter_map(|(_, texts, _)| detect(texts)).map(|lang| short_code(lang.code())).collect();
    told.iter()
        .enumerate()
        .any(|(index, one)| told[..index].iter().any(|other| one != other && !are_neighbours(one, other)))
}

/// The text in stretches of one or more sentences or lines, each with how many letters it has; of a long one, some from all of it.
fn stretches(text: &str) -> Vec<(&str, usize)> {
    let (mut all, mut start, mut letters, mut last) = (Vec::new(), 0, 0, ' ');
    for (at, c) in text.char_indices() {
        letters += usize::from(c.is_alphabetic());
        let ends = c == '\n' || (c.is_whitespace() && matches!(last, '.' | '!' | '?' | ':' | ';'));
        if letters >= STRETCH && (ends || matches!(c, '。' | '！' | '？' | '।')) {
            let end = at + c.len_utf8();
            all.push((&text[start..end], letters));
            (start, letters) = (end, 0);
        }
        last = c;
    }
    if letters >= STRETCH {
        all.push((&text[start..], letters));
    }
    let step = all.len().div_ceil(MOST_STRETCHES).max(1);
    all.into_iter().step_by(step).collect()
}

/// What stretches of one language have in common.
#[derive(Clone, Copy, PartialEq)]
enum Sort {
    /// Function words of this language.
    Words(&'static str),
    Script(whatlang::Script),
}

/// What the language of a stretch can be told apart by at little cost: the language that most function words are of, else the script, if it is not the
/// Latin one.
fn sort_of(stretch: &str) -> Option<Sort> {
    let scores = function_words(stretch);
    let next = scores.get(1).map_or(0.0, |(_, score)| *score);
    if let Some((code, most)) = scores.first()
        && *most >= 1.5
        && *most >= next * 1.5
    {
        return Some(Sort::Words(code));
    }
    let script = whatlang::detect_script(stretch)?;
    (script != whatlang::Script::Latin).then_some(Sort::Script(script))
}

/// The words that the language of a text is told by: those of its beginning, or of a long one also of its middle and its last third, since names and titles stand at
/// the head of many.
fn sample(text: &str) -> String {
    let pieces = if text.len() > 3 * LANGUAGE_LETTERS { 3 } else { 1 };
    let mut sample = String::new();
    for piece in 0..pieces {
        let start = text.floor_char_boundary(text.len() * piece / pieces);
        let end = LANGUAGE_LETTERS * (piece + 1) / pieces;
        let rest = &text[start..];
        // The first word of a piece may be the rest of one. Eastern texts may have none that end.
        let first = if piece > 0 { rest.find(char::is_whitespace).unwrap_or(0) } else { 0 };
        for word in rest[first..].split_whitespace() {
            // Links, addresses, mentions and tags are of no language.
            if word.contains("://") || word.contains('@') || word.starts_with(['#', '<']) {
                continue;
            }
            sample.push_str(&word[..word.floor_char_boundary(end.saturating_sub(sample.len()))]);
            sample.push(' ');
            if sample.len() >= end {
                break;
            }
        }
    }
    sample
}

/// The language of a text, if it can be told.
///
/// Two witnesses are heard: function words, by the stop lists of the shelf, and series of three letters, by a package. Where both say the same, little
/// text is enough; where they differ, function words must be many and of one language alone.
fn detect(text: &str) -> Option<Lang> {
    let sample = sample(text);
    let letters = sample.chars().filter(|c| c.is_alphabetic()).count();
    let info = Detector::new().detect(&sample)?;
    // Kana are Japanese however many Chinese characters stand between them; these alone are Chinese.
    let kana = sample.chars().filter(|c| ('\u{3041}'..='\u{30ff}').contains(c)).count();
    let han = sample.chars().filter(|c| ('\u{4e00}'..='\u{9fff}').contains(c)).count();
    let hangul = sample.chars().filter(|c| ('\u{ac00}'..='\u{d7a3}').contains(c)).count();
    let east = kana + han + hangul;
    // Each says as much as several Latin letters, of which names and commands may be many; sentences in Latin letters have function words.
    let is_most = || {
        let most = function_words(&sample).first().map_or(0.0, |(_, score)| *score);
        east >= 8 && most * 20.0 < east as f32
    };
    if east >= 4 && (east * 2 > letters || east * EASTERN_LETTER > letters - east && is_most()) {
        return Some(match () {
            () if hangul * 2 > east => Lang::Kor,
            () if kana * 20 > east => Lang::Jpn,
            () => Lang::Cmn,
        });
    }
    // Where a script is of one language, a few letters are enough.
    if letters >= 4 && info.script().langs().len() == 1 {
        return Some(info.lang());
    }
    let by_letters = info.lang();
    let sure =
        letters >= FEWEST_LETTERS && (info.is_reliable() || (letters >= 60 && info.confidence() > 0.35));
    if letters < FEWEST_WITH_WORDS {
        return None;
    }
    let scores = function_words(&sample);
    let best = scores.first().copied();
    let (Some(first), most) = best.map_or((None, 0.0), |(code, score)| (lang_of(code), score)) else {
        return sure.then_some(by_letters);
    };
    let next = scores.get(1).map_or(0.0, |(_, score)| *score);
    let code = short_code(by_letters.code());
    let theirs = scores.iter().find(|(known, _)| *known == code).map_or(0.0, |(_, score)| *score);
    match () {
        () if first == by_letters => {
            let rival = scores.get(1).is_some_and(|(other, _)| are_neighbours(code, other));
            let clear = most >= next * 1.1 + 0.1;
            ((clear || !rival && (sure || most > next)) && (sure || most >= 0.5)).then_some(first)
        }
        // What neighbours share speaks for each alike: what is left is of one alone.
        () if are_neighbours(short_code(first.code()), code) && most - next >= 0.9 && most >= 1.5 => {
            Some(first)
        }
        // Neighbours share most function words: letters decide, where they are sure.
        () if theirs >= most * 0.75 && most < next * 1.3 => {
            (sure && info.confidence() > 0.9).then_some(by_letters)
        }
        () if most >= 1.5 && most >= next * 1.5 + 0.4 => Some(first),
        // Many function words of another language, though not of one alone.
        () if most >= 1.0 => None,
        () => sure.then_some(by_letters),
    }
}

/// Whether two languages share so many words that little text may be either.
fn are_neighbours(one: &str, other: &str) -> bool {
    const NEIGHBOURS: [&[&str]; 6] = [
        &["da", "no", "sv"],
        &["hr", "sl", "sr"],
        &["ca", "es", "fr", "it", "pt"],
        &["cs", "sk"],
        &["bg", "ru", "sr", "uk"],
        &["af", "nl"],
    ];
    NEIGHBOURS.iter().any(|group| group.contains(&one) && group.contains(&other))
}

/// The languages that have function words of a text, each with how much speaks for it, most first: a word counts one, less where it is short, shared among the
/// languages that have it.
fn function_words(text: &str) -> Vec<(&'static str, f32)> {
    let languages = function_word_languages();
    let mut scores = vec![0f32; languages.codes.len()];
    for word in text.split_whitespace() {
        let word = word.trim_matches(|c: char| !(c.is_alphanumeric() || unicode::is_apostrophe(c)));
        let small = unicode::small_letters(word);
        // `dell'acqua`: the word before an apostrophe is one by itself.
        let elided = small.find('\'').map(|at| &small[..=at]);
        let found = [Some(small.as_str()), elided].into_iter().flatten();
        let Some(known) = found.filter_map(|word| languages.words.get(word)).next() else { continue };
        let weight = match small.chars().count() {
            1 => 0.4,
            2 => 0.8,
            _ => 1.0,
        };
        for language in known {
            scores[usize::from(*language)] += weight / known.len() as f32;
        }
    }
    let mut scores: Vec<_> =
        languages.codes.iter().copied().zip(scores).filter(|(_, score)| *score > 0.0).collect();
    scores.sort_by(|(_, one), (_, other)| other.total_cmp(one));
    scores
}

/// By function word in small letters: the languages that have it, by their numbers in `codes`.
struct FunctionWords {
    codes: Vec<&'static str>,
    words: HashMap<String, Vec<u8>, foldhash::fast::RandomState>,
}

fn function_word_languages() -> &'static FunctionWords {
    static WORDS: OnceLock<FunctionWords> = OnceLock::new();
    WORDS.get_or_init(|| {
        let mut languages = FunctionWords { codes: Vec::new(), words: HashMap::default() };
        let mut add = |code: &'static str, words: &mut dyn Iterator<Item = &str>| {
            let known = languages.codes.iter().position(|known| *known == code);
            let number = known.unwrap_or(languages.codes.len()) as u8;
            if known.is_none() {
                languages.codes.push(code);
            }
            for word in words {
                let known = languages.words.entry(word.to_owned()).or_default();
                if !known.contains(&number) {
                    known.push(number);
                }
            }
        };
        for list in STOP_LISTS.iter().filter(|list| list.name == list.language) {
            let words: Vec<String> = list.groups().into_iter().flat_map(|(_, words)| words).collect();
            add(list.language, &mut words.iter().map(String::as_str));
        }
        for line in one_a_line(include_str!("words/tell-languages.txt")) {
            let mut words = line.split_ascii_whitespace();
            if let Some(code) = words.next() {
                add(code, &mut words);
            }
        }
        languages
    })
}

/// The language with this code.
fn lang_of(code: &str) -> Option<Lang> {
    Lang::all().iter().copied().find(|lang| short_code(lang.code()) == code)
}

/// The English name of a language, as people call it.
fn name_of(lang: Lang) -> &'static str {
    match lang {
        Lang::Nob => "Norwegian",
        Lang::Cmn => "Chinese",
        Lang::Pes => "Persian",
        other => other.eng_name(),
    }
}

/// What some languages call themselves.
const OWN_NAMES: &[(&str, &str)] = &[
    ("deutsch", "de"),
    ("français", "fr"),
    ("francais", "fr"),
    ("español", "es"),
    ("espanol", "es"),
    ("italiano", "it"),
    ("português", "pt"),
    ("nederlands", "nl"),
    ("svenska", "sv"),
    ("polski", "pl"),
    ("русский", "ru"),
];

/// The names that [`language_tag`] knows, in English and some in their own languages.
pub fn language_names() -> impl Iterator<Item = &'static str> {
    Lang::all().iter().map(|lang| name_of(*lang)).chain(OWN_NAMES.iter().map(|(own, _)| *own))
}

/// The code of a language by its name, in English or its own: `de` for `German` and `deutsch`.
pub(crate) fn code_of_name(name: &str) -> Option<&'static str> {
    let name = name.trim().to_lowercase();
    let own = OWN_NAMES.iter().find(|(own, _)| *own == name).map(|(_, code)| *code);
    let named = || Lang::all().iter().copied().find(|lang| name_of(*lang).to_lowercase() == name);
    own.or_else(|| named().map(|lang| short_code(lang.code())))
}

/// The two-letter code of a language, where ISO 639-1 has one, which is what recipes state.
fn short_code(code: &'static str) -> &'static str {
    const CODES: [(&str, &str); 50] = [
        ("eng", "en"),
        ("deu", "de"),
        ("fra", "fr"),
        ("spa", "es"),
        ("ita", "it"),
        ("por", "pt"),
        ("nld", "nl"),
        ("swe", "sv"),
        ("nob", "no"),
        ("dan", "da"),
        ("fin", "fi"),
        ("rus", "ru"),
        ("pol", "pl"),
        ("tur", "tr"),
        ("ces", "cs"),
        ("slk", "sk"),
        ("slv", "sl"),
        ("hrv", "hr"),
        ("srp", "sr"),
        ("bul", "bg"),
        ("ukr", "uk"),
        ("bel", "be"),
        ("ron", "ro"),
        ("hun", "hu"),
        ("ell", "el"),
        ("cat", "ca"),
        ("est", "et"),
        ("lav", "lv"),
        ("lit", "lt"),
        ("heb", "he"),
        ("ara", "ar"),
        ("pes", "fa"),
        ("hin", "hi"),
        ("ben", "bn"),
        ("tam", "ta"),
        ("tel", "te"),
        ("urd", "ur"),
        ("cmn", "zh"),
        ("jpn", "ja"),
        ("kor", "ko"),
        ("tha", "th"),
        ("vie", "vi"),
        ("ind", "id"),
        ("epo", "eo"),
        ("lat", "la"),
        ("afr", "af"),
        ("kat", "ka"),
        ("hye", "hy"),
        ("aze", "az"),
        ("mkd", "mk"),
    ];
    CODES.iter().find(|(long, _)| *long == code).map_or(code, |(_, short)| short)
}

/// Whether a text has the shape of a language tag: two or three letters, with parts behind hyphens or without.
pub(crate) fn is_tag(text: &str) -> bool {
    let primary = text.split('-').next().unwrap_or_default();
    (2..=3).contains(&primary.len()) && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-')
}

/// The tag of a language that somebody has typed: `de` for `German`, and tags as they are. None if it is neither.
pub fn language_tag(typed: &str) -> Option<String> {
    let typed = typed.trim();
    if is_tag(typed) { Some(typed.to_owned()) } else { code_of_name(typed).map(str::to_owned) }
}

/// Whether a document in this language is meant by a condition: `de-AT` and `de` are one language where one of them is all that is said.
pub(crate) fn is_language(language: &str, allowed: &str) -> bool {
    let primary = |tag: &str| tag.split(['-', '_']).next().unwrap_or(tag).to_ascii_lowercase();
    language.eq_ignore_ascii_case(allowed)
        || (primary(language) == primary(allowed)
            && !(language.contains(['-', '_']) && allowed.contains(['-', '_'])))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_and_commands_do_not_outweigh_eastern_letters() {
        for (text, language) in [
            (
                "svnsync - Subversion リポジトリの同期ツール svnsync command dest-url [options] [args] ツールのドキュメントを表示するには svnsync help",
                Some("ja"),
            ),
            ("Matt Day, Sanyo Icon, 1990 POSIX termio サポート、SysV limit の多数の修正と保存", Some("ja")),
            (
                "-S 显示 readline 宏对应的键序列和他们输出的字符串 -f filename 从 filename 中读取键序列 -q function 查询那些键将执行 function。 -u function 取消所有关联到 function 的键。 从一个 for , while , until , 或者 select 循环退出。",
                Some("zh"),
            ),
            (
                "Cristopher Thomas 그놈 문서 프로젝트 Shaun McCance 파일을 열어 살펴보고 휴지통 동작을 지정합니다 Tiffany",
                Some("ko"),
            ),
            ("I love 東京タワー so much, it is the best place for us", Some("en")),
            (
                "The guide calls it 東京スカイツリータワー and says that you should be there before the sun is up",
                Some("en"),
            ),
        ] {
            assert_eq!(language_of(text), language, "{text}");
        }
    }

    #[test]
    fn what_stands_at_the_head_does_not_decide_alone() {
        let authors =
            "Cristopher Thomas crisnoh@gmail.com Ekaterina Gerasimova kittykat@example.org ".repeat(30);
        let german =
            "Die Wächter haben heute Morgen jedes Nest an der Küste gezählt, und am Abend war es still. "
                .repeat(30);
        assert_eq!(language_of(&format!("{authors}{german}")), Some("de"));
        assert_eq!(language_of(&authors), None);
    }

    #[test]
    fn languages_are_told_by_tag_or_name() {
        for (typed, tag) in
            [("German", Some("de")), ("español", Some("es")), ("pt-BR", Some("pt-BR")), ("klingon!", None)]
        {
            assert_eq!(language_tag(typed).as_deref(), tag, "{typed}");
        }
    }

    #[test]
    fn regions_count_where_both_sides_name_one() {
        for (language, allowed, expected) in [
            ("de", "de", true),
            ("DE", "de", true),
            ("de-AT", "de", true),
            ("de", "de-AT", true),
            ("de-AT", "de-CH", false),
            ("de_AT", "de-CH", false),
            ("de-at", "de-AT", true),
            ("de", "nl", false),
            ("den", "de", false),
        ] {
            assert_eq!(is_language(language, allowed), expected, "{language} {allowed}");
        }
    }

    #[test]
    fn a_text_in_two_languages_is_told_as_such() {
        let english = "The wardens of the reserve counted every nest along the northern shore this morning, and there were more than before.";
        let german = "Die Wächter des Schutzgebietes haben heute Morgen jedes Nest am Ufer gezählt, und es waren mehr als je zuvor.";
        let russian = "Сторожа заповедника сегодня утром пересчитали все гнёзда на северном берегу, и их было больше, чем когда-либо.";
        let norwegian = "Vokterne i reservatet har talt alle reirene langs stranden i dag, og det var flere enn de noen gang har sett.";
        let danish = "Vogterne i reservatet har talt alle reder langs stranden i dag, og der var flere end de nogensinde har set.";
        for (text, language) in [
            (format!("{english}\n{german}"), Some("mul")),
            (format!("{english} {english} {german}"), Some("mul")),
            (format!("{english}\n{russian}"), Some("mul")),
            (format!("{english}\n{english}\n{english}\n{english}\n{german}"), Some("en")),
            (format!("{german}\n{german}"), Some("de")),
            (format!("{english}\n{}", "x-17 ".repeat(80)), Some("en")),
        ] {
            assert_eq!(language_of(&text), language, "{text}");
        }
        // Neighbours are too much alike for that.
        assert_ne!(language_of(&format!("{norwegian}\n{danish}")), Some("mul"));
    }

    #[test]
    fn a_language_is_told_by_enough_letters_and_not_by_links() {
        let english = "The wardens of the reserve counted every nest along the northern shore this morning.";
        assert_eq!(language_of(english), Some("en"));
        assert_eq!(language_of("7 !"), None);
        assert_eq!(language_of("ab"), None);
        assert_eq!(language_of("鳥の巣箱です"), Some("ja"));
        // Little text, by its function words.
        for (text, language) in [
            ("Where is the key of the boat?", "en"),
            ("Wo ist der Schlüssel von dem Boot?", "de"),
            ("Où est la clé de ton bateau ?", "fr"),
            ("Waar is de sleutel van de boot?", "nl"),
            ("Var är nyckeln till den båten?", "sv"),
            ("Gdzie jest klucz do tej łodzi?", "pl"),
            ("Kde je klíč od té lodi?", "cs"),
            ("Unde este cheia de la barca mea?", "ro"),
            ("Где же ключ от этой лодки?", "ru"),
            ("Di mana kunci untuk perahu ini?", "id"),
            ("船の鍵はどこにありますか", "ja"),
            ("这条船的钥匙在哪里", "zh"),
        ] {
            assert_eq!(language_of(text), Some(language), "{text}");
        }
        // What may be either is not told.
        assert_eq!(language_of("Vi har en god dag med det"), None);
        let links = "https://example.org/die-waechter-des-schutzgebietes @haben #heute".repeat(4);
        assert_eq!(language_of(&format!("{links} {english}")), Some("en"));
    }
}
