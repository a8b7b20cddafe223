use super::Word;

/// The full Russian stem of `word`. Expects small letters; `ё` counts as `е`.
pub(crate) fn russian(word: &str) -> String {
    let mut word = Word::of(word.replace('ё', "е").chars().collect(), "аеиоуыэюя");
    word.rv = (0..word.letters.len()).find(|&at| word.is_vowel(at)).map_or(word.letters.len(), |at| at + 1);
    if !gerund(&mut word) {
        let rv = word.rv;
        if let Some(reflexive) = word.longest_within(rv, &["ся", "сь"]) {
            word.cut(reflexive);
        }
        let _ = adjectival(&mut word) || verb(&mut word) || noun(&mut word);
    }
    let (rv, r2) = (word.rv, word.r2);
    word.cut_within(rv, "и");
    if let Some(ending) = word.longest_within(r2.max(rv), &["ост", "ость"]) {
        word.cut(ending);
    }
    match word.longest_within(rv, &["нн", "ейш", "ейше", "ь"]) {
        Some(ending @ ("ейш" | "ейше")) => {
            word.cut(ending);
            if word.within(rv, "нн") {
                word.cut("н");
            }
        }
        Some("нн") => word.cut("н"),
        Some(ending) => word.cut(ending),
        None => {}
    }
    word.text()
}

/// Takes the longest ending off: one of `alone`, or one of `behind_a` behind `а` or `я`. Whether there is one.
fn cut_longest(word: &mut Word, behind_a: &[&'static str], alone: &[&'static str]) -> bool {
    let fits = |ending: &&&'static str| {
        word.within(word.rv, ending)
            && word.letters.len() > word.rv + ending.chars().count()
            && matches!(word.before(ending), Some('а' | 'я'))
    };
    let behind = behind_a.iter().filter(fits).max_by_key(|ending| ending.chars().count()).copied();
    let alone = word.longest_within(word.rv, alone);
    let ending = behind.into_iter().chain(alone).max_by_key(|ending| ending.chars().count());
    if let Some(ending) = ending {
        word.cut(ending);
    }
    ending.is_some()
}

fn gerund(word: &mut Word) -> bool {
    cut_longest(word, &["в", "вши", "вшись"], &["ив", "ивши", "ившись", "ыв", "ывши", "ывшись"])
}

fn adjectival(word: &mut Word) -> bool {
    let adjective = [
        "ее", "ие", "ые", "ое", "ими", "ыми", "ей", "ий", "ый", "ой", "ем", "им", "ым", "ом", "его", "ого",
        "ему", "ому", "их", "ых", "ую", "юю", "ая", "яя", "ою", "ею",
    ];
    let found = cut_longest(word, &[], &adjective);
    if found {
        cut_longest(word, &["ем", "нн", "вш", "ющ", "щ"], &["ивш", "ывш", "ующ"]);
    }
    found
}

fn verb(word: &mut Word) -> bool {
    cut_longest(
        word,
        &[
            "ла", "на", "ете", "йте", "ли", "й", "л", "ем", "н", "ло", "но", "ет", "ют", "ны", "ть", "ешь",
            "нно",
        ],
        &[
            "ила", "ыла", "ена", "ейте", "уйте", "ите", "или", "ыли", "ей", "уй", "ил", "ыл", "им", "ым",
            "ен", "ило", "ыло", "ено", "ят", "ует", "уют", "ит", "ыт", "ены", "ить", "ыть", "ишь", "ую", "ю",
        ],
    )
}

fn noun(word: &mut Word) -> bool {
    cut_longest(
        word,
        &[],
        &[
            "а", "ев", "ов", "ие", "ье", "е", "иями", "ями", "ами", "еи", "ии", "и", "ией", "ей", "ой", "ий",
            "й", "иям", "ям", "ием", "ем", "ам", "ом", "о", "у", "ах", "иях", "ях", "ы", "ь", "ию", "ью",
            "ю", "ия", "ья", "я",
        ],
    )
}

#[cfg(test)]
mod tests {
    use super::russian;

    #[test]
    fn forms_come_together() {
        for (words, stem) in [
            ("важная важнее важной", "важн"),
            ("валился валиться валит", "вал"),
            ("книга книги книгами", "книг"),
            ("говорила говорить говорят", "говор"),
            ("прочитавши прочитать прочитала", "прочита"),
            ("весёлость", "весел"),
        ] {
            for word in words.split(' ') {
                assert_eq!(russian(word), stem, "{word}");
            }
        }
    }
}
