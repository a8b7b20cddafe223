use super::Word;

const VOWELS: &str = "aáeéiíoóöőuúüű";
/// Consonants that are written with several letters.
const DIGRAPHS: [&str; 9] = ["cs", "dzs", "dz", "gy", "ly", "ny", "sz", "ty", "zs"];
/// Double consonants as they are written.
const DOUBLE: [&str; 23] = [
    "bb", "cc", "ccs", "dd", "ff", "gg", "ggy", "jj", "kk", "ll", "lly", "mm", "nn", "nny", "pp", "rr", "ss",
    "ssz", "tt", "tty", "vv", "zz", "zzs",
];

/// The full Hungarian stem of `word`. Expects small letters.
pub(crate) fn hungarian(word: &str) -> String {
    let letters: Vec<char> = word.chars().collect();
    let mut word = Word::of(letters, VOWELS);
    word.r1 = first_region(&word);
    instrument(&mut word, &["al", "el"]);
    case(&mut word);
    replace(&mut word, &[("án", "a"), ("én", "e"), ("ánként", "a")]);
    replace(
        &mut word,
        &[("astul", ""), ("estül", ""), ("stul", ""), ("stül", ""), ("ástul", "a"), ("éstül", "e")],
    );
    instrument(&mut word, &["á", "é"]);
    replace(
        &mut word,
        &[
            ("oké", ""),
            ("öké", ""),
            ("aké", ""),
            ("eké", ""),
            ("ké", ""),
            ("éi", ""),
            ("é", ""),
            ("áké", "a"),
            ("áéi", "a"),
            ("éké", "e"),
            ("ééi", "e"),
            ("éé", "e"),
        ],
    );
    replace(&mut word, &OWNER);
    replace(&mut word, &OWNERS);
    replace(
        &mut word,
        &[("ök", ""), ("ok", ""), ("ek", ""), ("ak", ""), ("k", ""), ("ák", "a"), ("ék", "e")],
    );
    word.text()
}

/// What one owner of one thing adds to it.
const OWNER: [(&str, &str); 31] = [
    ("ünk", ""),
    ("unk", ""),
    ("nk", ""),
    ("juk", ""),
    ("jük", ""),
    ("uk", ""),
    ("ük", ""),
    ("em", ""),
    ("om", ""),
    ("am", ""),
    ("m", ""),
    ("od", ""),
    ("ed", ""),
    ("ad", ""),
    ("öd", ""),
    ("d", ""),
    ("ja", ""),
    ("je", ""),
    ("a", ""),
    ("e", ""),
    ("o", ""),
    ("ánk", "a"),
    ("ájuk", "a"),
    ("ám", "a"),
    ("ád", "a"),
    ("á", "a"),
    ("énk", "e"),
    ("éjük", "e"),
    ("ém", "e"),
    ("éd", "e"),
    ("é", "e"),
];

/// What owners of several things add.
const OWNERS: [(&str, &str); 42] = [
    ("jaim", ""),
    ("jeim", ""),
    ("aim", ""),
    ("eim", ""),
    ("im", ""),
    ("jaid", ""),
    ("jeid", ""),
    ("aid", ""),
    ("eid", ""),
    ("id", ""),
    ("jai", ""),
    ("jei", ""),
    ("ai", ""),
    ("ei", ""),
    ("i", ""),
    ("jaink", ""),
    ("jeink", ""),
    ("eink", ""),
    ("aink", ""),
    ("ink", ""),
    ("jaitok", ""),
    ("jeitek", ""),
    ("aitok", ""),
    ("eitek", ""),
    ("itek", ""),
    ("jeik", ""),
    ("jaik", ""),
    ("aik", ""),
    ("eik", ""),
    ("ik", ""),
    ("áim", "a"),
    ("áid", "a"),
    ("ái", "a"),
    ("áink", "a"),
    ("áitok", "a"),
    ("áik", "a"),
    ("éim", "e"),
    ("éid", "e"),
    ("éi", "e"),
    ("éink", "e"),
    ("éitek", "e"),
    ("éik", "e"),
];

/// Behind the first consonant of a word that begins with a vowel, else behind its first vowel.
fn first_region(word: &Word) -> usize {
    let length = word.letters.len();
    if !word.is_vowel(0) {
        return (0..length).find(|&at| word.is_vowel(at)).map_or(length, |at| at + 1);
    }
    let Some(at) = (1..length).find(|&at| !word.is_vowel(at)) else { return length };
    let begins = |digraph: &&str| digraph.chars().eq(word.letters[at..].iter().copied().take(digraph.len()));
    at + DIGRAPHS.iter().find(|digraph| begins(digraph)).map_or(1, |digraph| digraph.len())
}

/// Takes an ending off that stands behind a double consonant, and makes that a single one: `kézzel` is of `kéz`.
fn instrument(word: &mut Word, endings: &[&'static str]) {
    let Some(ending) = word.longest(endings).filter(|ending| word.within(word.r1, ending)) else { return };
    let kept = word.letters.len() - ending.chars().count();
    let Some(double) = DOUBLE
        .iter()
        .filter(|double| super::ends(&word.letters[..kept], double))
        .max_by_key(|double| double.len())
    else {
        return;
    };
    word.letters.truncate(kept);
    // The first of the two letters that are the same.
    word.letters.remove(kept - double.chars().count());
}

fn case(word: &mut Word) {
    let ending = word.longest(&[
        "ban", "ben", "ba", "be", "ra", "re", "nak", "nek", "val", "vel", "tól", "től", "ról", "ről", "ból",
        "ből", "hoz", "hez", "höz", "nál", "nél", "ig", "at", "et", "ot", "öt", "ért", "képp", "képpen",
        "kor", "ul", "ül", "vá", "vé", "onként", "enként", "anként", "ként", "en", "on", "an", "ön", "n",
        "t",
    ]);
    let r1 = word.r1;
    if ending.is_some_and(|ending| word.cut_within(r1, ending)) {
        let _ = word.put_within(r1, "á", "a") || word.put_within(r1, "é", "e");
    }
}

/// Puts what belongs there in the place of the longest of these endings, if it stands within the region.
fn replace(word: &mut Word, endings: &[(&'static str, &'static str)]) {
    let fits = endings.iter().filter(|(ending, _)| word.ends(ending));
    let Some((ending, put)) = fits.max_by_key(|(ending, _)| ending.chars().count()) else { return };
    let r1 = word.r1;
    word.put_within(r1, ending, put);
}

#[cfg(test)]
mod tests {
    use super::hungarian;

    #[test]
    fn forms_come_together() {
        for (words, stem) in [
            // Cases, the vowel before them short again.
            ("házban házból házhoz háznál házért házak házat", "ház"),
            ("almában almát alma almának", "alm"),
            ("almák", "alma"),
            // `with`, behind a double consonant.
            ("kézzel kézben kézre", "kéz"),
            ("lábbal lábak", "láb"),
            // Owners, of one thing and of several.
            ("barátom barátod barátja barátunk barátaim barátai barátaink barátok", "barát"),
            ("könyvem könyvei könyveket könyvek", "könyv"),
        ] {
            for word in words.split(' ') {
                assert_eq!(hungarian(word), stem, "{word}");
            }
        }
        assert_eq!(hungarian("az"), "az");
        assert_eq!(hungarian(""), "");
    }
}
