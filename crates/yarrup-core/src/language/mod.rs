//! Languages, and in which a text is written.

mod evidence;
mod names;

use whatlang::Detector;

use crate::language::evidence::Evidence;
use crate::language::names::SEVERAL;

pub use crate::language::names::{Language, language_names, language_tag};
pub(crate) use crate::language::names::{code_of_name, is_language, is_tag};

/// How many bytes of a document its language is told by.
const SAMPLE: usize = 600;
/// How many letters a document needs for its language to be told.
const FEWEST_LETTERS: usize = 12;
/// How many it needs where no function word of the language stands in it.
const FEWEST_WITHOUT_WORDS: usize = 30;
/// How many Latin letters say as much as one of the letters of Chinese, Japanese and Korean, nearly.
const EASTERN_LETTER: usize = 3;

/// How many function words the series of letters of a text weigh as much as, if the package is wholly confident, and how many times that if it calls its
/// finding reliable.
const SERIES: f32 = 1.2;
const RELIABLE: f32 = 1.8;
/// How many function words a language must be ahead of the next, and how many more if the series of letters speak for another.
const AHEAD: f32 = 0.55;
const AHEAD_OF_SERIES: f32 = 0.2;
/// How much its function words must weigh where the series of letters are not sure of it, and where they speak for another; and their share in the words of the
/// text: one word alone may be of any language.
const FEWEST_WORDS: f32 = 0.5;
const FEWEST_AGAINST_SERIES: f32 = 1.4;
const SHARE_OF_WORDS: f32 = 0.08;
/// The share that its function words must have in those of all languages: otherwise several languages meet in stretches too short to tell them one by one.
const SHARE_OF_FUNCTION_WORDS: f32 = 0.4;
/// The largest share of function words, of whatever language, in a text whose language is told by its letters alone.
const STRANGE_WORDS: f32 = 0.15;

/// The language of a text as a tag of two letters; `mul` of one in several languages; if it can be told.
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
    if is_mixed(text) { Some(SEVERAL) } else { detect(text) }
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
    let told: Vec<&str> = large.filter_map(|(_, texts, _)| detect(texts)).map(|told| told.code).collect();
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
    let evidence = Evidence::of(stretch);
    let (first, next) = evidence.two_best();
    if let Some((language, most)) = first
        && most >= 1.5
        && most >= next + 0.5
    {
        return Some(Sort::Words(language.code));
    }
    let script = whatlang::detect_script(stretch)?;
    (script != whatlang::Script::Latin).then_some(Sort::Script(script))
}

/// The words that the language of a text is told by: those of its beginning, or of a long one also of its middle and its last third, since names and titles stand at
/// the head of many.
fn sample(text: &str) -> String {
    let pieces = if text.len() > 3 * SAMPLE { 3 } else { 1 };
    let mut sample = String::new();
    for piece in 0..pieces {
        let start = text.floor_char_boundary(text.len() * piece / pieces);
        let end = SAMPLE * (piece + 1) / pieces;
        let rest = &text[start..];
        // The first word of a piece may be the rest of one. Eastern texts may have none that end.
        let first = if piece > 0 { rest.find(char::is_whitespace).unwrap_or(0) } else { 0 };
        let mut in_markup = false;
        for word in rest[first..].split_whitespace() {
            let word = match (in_markup, word.rsplit_once('>')) {
                (true, None) => continue,
                (true, Some((_, behind))) => behind,
                (false, _) => word,
            };
            in_markup = begins_markup(word);
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

/// Whether a word begins a tag of markup that ends behind it: `<a href="…">`, and not what a command is to read: `<notes.txt`.
fn begins_markup(word: &str) -> bool {
    word.rsplit_once('<').is_some_and(|(_, tag)| {
        let name = tag.trim_start_matches(['/', '!']);
        name.starts_with(|c: char| c.is_ascii_alphabetic())
            && name.bytes().all(|byte| byte.is_ascii_alphanumeric())
    })
}

/// The language of a text, if it can be told.
///
/// Two witnesses are heard: the function words and letters of each language ([`Evidence`]), and series of three letters, by a package. What they say is added
/// up; a language must be ahead of the next by more than chance gives.
fn detect(text: &str) -> Option<Language> {
    let sample = sample(text);
    let letters = sample.chars().filter(|c| c.is_alphabetic()).count();
    let info = Detector::new().detect(&sample)?;
    let mut evidence = Evidence::of(&sample);
    if let Some(code) = eastern(&sample, letters, &evidence) {
        return Language::of(code);
    }
    if let Some(language) = of_own_script(&sample, letters, &evidence) {
        return Some(language);
    }
    let by_series = Language::of(info.lang().code())?;
    // Where a script is of one language, a few letters are enough.
    if letters >= 4 && info.script().langs().len() == 1 {
        return Some(by_series);
    }
    if letters < FEWEST_LETTERS {
        return None;
    }
    let is_sure = info.is_reliable() && letters >= FEWEST_WITHOUT_WORDS;
    let series = SERIES * info.confidence() as f32 * if info.is_reliable() { RELIABLE } else { 1.0 };
    evidence.add(by_series, series);
    if let Some(galician) = Language::of("gl").filter(|_| matches!(by_series.code, "es" | "pt"))
        && evidence.words_of(galician) > 0.0
    {
        // The package does not know it, and takes it for one of these: half of what it says of them may be said of it.
        evidence.add(galician, series / 2.0);
    }
    let (first, next) = evidence.two_best();
    let (first, most) = first?;
    let words = evidence.words_of(first);
    if words > 0.0 && words < evidence.all_words() * SHARE_OF_FUNCTION_WORDS {
        return None;
    }
    let is_told = match () {
        () if words == 0.0 => is_sure && evidence.function_words() <= evidence.words() * STRANGE_WORDS,
        () if first != by_series => {
            most - next >= AHEAD + AHEAD_OF_SERIES
                && words >= FEWEST_AGAINST_SERIES
                && words >= evidence.words() * SHARE_OF_WORDS
        }
        () => {
            let has_words = words >= FEWEST_WORDS && words >= evidence.words() * SHARE_OF_WORDS;
            most - next >= AHEAD && (is_sure || has_words)
        }
    };
    is_told.then_some(first)
}

/// Chinese, Japanese or Korean, if the text is in one of these. Kana are Japanese however many Chinese characters stand between them; these alone are Chinese.
fn eastern(sample: &str, letters: usize, evidence: &Evidence) -> Option<&'static str> {
    let count = |from: char, to: char| sample.chars().filter(|c| (from..=to).contains(c)).count();
    let kana = count('\u{3041}', '\u{30ff}');
    let hangul = count('\u{ac00}', '\u{d7a3}');
    let east = kana + hangul + count('\u{4e00}', '\u{9fff}');
    // Each says as much as several Latin letters, of which names and commands may be many; sentences in Latin letters have function words.
    let is_most = || east >= 8 && evidence.most_words() * 10.0 < east as f32;
    if east < 4 || !(east * 2 > letters || east * EASTERN_LETTER > letters - east && is_most()) {
        return None;
    }
    Some(match () {
        () if hangul * 2 > east => "ko",
        () if kana * 20 > east => "ja",
        () => "zh",
    })
}

/// Scripts that are of one language, by where their letters stand in Unicode.
const OWN_SCRIPTS: [(&str, std::ops::RangeInclusive<char>); 16] = [
    ("el", '\u{370}'..='\u{3ff}'),
    ("hy", '\u{530}'..='\u{58f}'),
    ("he", '\u{590}'..='\u{5ff}'),
    ("pa", '\u{a00}'..='\u{a7f}'),
    ("gu", '\u{a80}'..='\u{aff}'),
    ("or", '\u{b00}'..='\u{b7f}'),
    ("ta", '\u{b80}'..='\u{bff}'),
    ("te", '\u{c00}'..='\u{c7f}'),
    ("kn", '\u{c80}'..='\u{cff}'),
    ("ml", '\u{d00}'..='\u{d7f}'),
    ("si", '\u{d80}'..='\u{dff}'),
    ("th", '\u{e00}'..='\u{e7f}'),
    ("my", '\u{1000}'..='\u{109f}'),
    ("ka", '\u{10a0}'..='\u{10ff}'),
    ("am", '\u{1200}'..='\u{137f}'),
    ("km", '\u{1780}'..='\u{17ff}'),
];

/// The language whose own script a fifth of the letters are of, where no other has more function words: the rest are names and commands.
fn of_own_script(sample: &str, letters: usize, evidence: &Evidence) -> Option<Language> {
    // Most texts have few or none of these, and each script is asked for.
    let beyond: Vec<char> = sample.chars().filter(|c| !c.is_ascii() && c.is_alphabetic()).collect();
    let count = |range: &std::ops::RangeInclusive<char>| beyond.iter().filter(|c| range.contains(*c)).count();
    let (code, own) =
        OWN_SCRIPTS.iter().map(|(code, range)| (code, count(range))).max_by_key(|(_, own)| *own)?;
    let language = Language::of(code)?;
    let words = evidence.words_of(language);
    let most = words.max(own as f32 / 10.0);
    // Its words tell Yiddish, which is written with Hebrew letters.
    let is_yiddish =
        || code == &"he" && Language::of("yi").is_some_and(|yiddish| evidence.words_of(yiddish) > words);
    let is_own = own >= 8 && own * 5 >= letters && evidence.most_words() <= most;
    (is_own && !is_yiddish()).then_some(language)
}

/// Whether two languages share so many words that little text may be either.
fn are_neighbours(one: &str, other: &str) -> bool {
    const NEIGHBOURS: [&[&str]; 6] = [
        &["da", "no", "sv"],
        &["hr", "sl", "sr"],
        &["ca", "es", "fr", "gl", "it", "pt"],
        &["cs", "sk"],
        &["be", "bg", "mk", "ru", "sr", "uk"],
        &["af", "nl"],
    ];
    NEIGHBOURS.iter().any(|group| group.contains(&one) && group.contains(&other))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn any_text_is_survived_and_white_space_around_it_says_nothing(
            pieces in proptest::collection::vec(
                "[a-zé ]{1,12}|[а-яії ]{1,12}|[א-ת ]{1,8}|[α-ω ]{1,8}|[鳥の巣한국]{1,6}|</?[a-z!]{0,4}|>|https://x|@a|#b|\\. |\n|the |und |не ",
                0..160,
            ),
        ) {
            let text = pieces.concat();
            let told = language_of(&text);
            // Of a long text only some is looked at, by how long it is.
            if text.len() <= SAMPLE {
                prop_assert_eq!(language_of(&format!(" \n{text}\t ")), told, "{}", text);
            }
            // What is written in letters of one script alone is in no language of another.
            if text.is_ascii() {
                prop_assert!(!matches!(told, Some("ru" | "bg" | "uk" | "he" | "yi" | "el" | "ja" | "zh" | "ko")), "{}", text);
            }
        }
    }

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
        // Neighbours share many words and letters.
        for (text, language) in [
            ("El arte de la vida es el arte de evitar el dolor.", "es"),
            ("El hombre hace dinero, pero el dinero no hace al hombre.", "es"),
            ("O homem faz dinheiro, mas o dinheiro não faz o homem.", "pt"),
            ("L'arte della vita è l'arte di evitare il dolore.", "it"),
            ("L'art de la vida és l'art d'evitar el dolor.", "ca"),
            ("A arte da vida é a arte de evitar a dor, e non hai outra máis difícil.", "gl"),
            ("Светът е такъв, какъвто го виждаш.", "bg"),
            ("Мир таков, каким ты его видишь.", "ru"),
            ("Світ такий, яким ти його бачиш.", "uk"),
            ("Свет је такав каквим га ти видиш, а не други.", "sr"),
            ("Svet je taký, aký ho vidíš, a nie je iný.", "sk"),
            ("Svět je takový, jaký ho vidíš, a není jiný.", "cs"),
            ("Tá an bád ar an trá agus níl aon duine ann.", "ga"),
            ("Mae'r cwch ar y traeth ac nid oes neb yno.", "cy"),
            ("La boato estas sur la strando kaj neniu estas tie.", "eo"),
            ("Báturinn er í fjörunni og það er enginn þar.", "is"),
        ] {
            assert_eq!(language_of(text), Some(language), "{text}");
        }
        // Names and commands stand between letters that are of one language alone.
        for (text, language) in [
            ("סט פנסי ערפל לגולף, שנים 98-04. HELLA.", Some("he")),
            ("איך האב געקויפט עפעס אויף e-bay און איך ווארט שוין דערויף", Some("yi")),
            (
                "Сегодня вышла новая версия, которая была нужна всем <a target=\"_blank\" href=\"mods/by-authors/id/and-the-rest/of-it\">Template</a> Plugin",
                Some("ru"),
            ),
            ("cat <notes.txt and the wardens of the reserve have counted every nest", Some("en")),
            ("a < b and the wardens of the reserve have counted every nest", Some("en")),
            ("Εκτελέστε apt-get install postgresql-server-dev-all", Some("el")),
            ("เปิดหน้าต่าง Preferences dialog window", Some("th")),
            ("The letters αβγδεζηθικ are the first of the Greek alphabet", Some("en")),
        ] {
            assert_eq!(language_of(text), language, "{text}");
        }
        // What may be either is not told, nor what is a little of each.
        assert_eq!(language_of("Vi har en god dag med det"), None);
        for text in [
            "Good morning to all. Guten Morgen. Bonjour à tous. Добро утро на всички.",
            "Welcome to the site. Willkommen auf der Seite. Bienvenue sur le site. Добре дошли на сайта.",
        ] {
            assert_eq!(language_of(text), None, "{text}");
        }
        let links = "https://example.org/die-waechter-des-schutzgebietes @haben #heute".repeat(4);
        assert_eq!(language_of(&format!("{links} {english}")), Some("en"));
    }
}
