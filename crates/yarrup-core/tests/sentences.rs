//! A sentence ends where it ends, whichever sentence follows.

use yarrup_core::Span;
use yarrup_core::split::{Sentences, Splitter};

/// Sentences of a language with stops, marks and brackets inside them.
const SENTENCES: &[(&str, &[&str])] = &[
    (
        "en",
        &[
            "The terns came back on 3 May.",
            "Dr. Smith saw two of them, e.g. at the weir.",
            "She asked, \"Where is the key?\"",
            "\"It hangs by the door.\"",
            "He paid $3.50 for it!",
            "They left at 6 p.m. on Monday.",
            "(Nobody had seen them.)",
            "Is it true…?",
            "See https://example.org/tides.html for more.",
            "Write to warden@example.org.",
            "J. R. Hale wrote vol. 2 of it.",
            "Version 1.4.2 is out.",
            "No. 7 was empty.",
            "The U.S. coast is longer than that.",
            "We counted gulls, terns, etc., and went home.",
            "Mr. and Mrs. O'Hara came, too.",
            "Wait!",
            "The box (no. 12) is gone.",
            "It rose by 3.5 % in 2031.",
            "I didn't see it; did you?",
            "5 boxes were empty.",
            "The ratio is 1:3, i.e. small.",
            "“Don't,” she said.",
            "What a day it was!!",
            "Terns dive... gulls do not.",
            "The sign read: ‘Keep out.’",
            "It was Jan. 5.",
            "Prof. Li (Ph.D.) came, cf. p. 12.",
            "iPhones ring.",
        ],
    ),
    (
        "de",
        &[
            "Am 3. Mai kamen die Seeschwalben.",
            "Das ist z. B. im 19. Jahrhundert so gewesen.",
            "Dr. Müller kam um 18.30 Uhr.",
            "„Wo ist der Schlüssel?“, fragte sie.",
            "Er sagte: „Er hängt an der Tür.“",
            "Die Nr. 7 war leer, d. h. kalt.",
            "Es kostet ca. 5,50 €!",
            "Ludwig XIV. war König.",
            "Der 1. FC spielt am 2. und 3. Spieltag nicht.",
            "Prof. Dr. Weber u. a. kamen.",
            "Das sind 3,5 Mio. Euro.",
            "Siehe Abb. 3 und S. 12 ff. im Anhang.",
            "Wirklich?",
            "(Niemand sah sie.)",
        ],
    ),
    (
        "fr",
        &[
            "« Où est la clé ? » demanda-t-elle.",
            "M. Dupont est arrivé à 18 h 30.",
            "Il y en a env. 3,5 par jour.",
            "C'est vrai !",
            "Mme Roche et M. A. Petit sont là, cf. p. 12.",
            "« Elle est à la porte. »",
            "Les sternes sont revenues le 3 mai.",
            "Pourquoi pas ?",
        ],
    ),
    (
        "es",
        &[
            "¿Dónde está la llave?",
            "¡Qué día!",
            "El Sr. Ruiz llegó a las 6 p. m. del lunes.",
            "La Dra. Gil vive en la Av. Real, n.º 5.",
            "«Está en la puerta.»",
            "Los charranes volvieron el 3 de mayo.",
            "Son 3,5 aprox. por día.",
            "¿De verdad?, preguntó ella.",
        ],
    ),
    (
        "it",
        &[
            "Il sig. Rossi è arrivato alle 18.30.",
            "La dott.ssa Verdi abita qui.",
            "Sono ca. 3,5 al giorno, ecc. ecc., come sempre.",
            "«È alla porta.»",
            "Dov'è la chiave?",
            "È vero!",
        ],
    ),
    (
        "pt",
        &[
            "A Sra. Silva chegou às 18h30.",
            "O Dr. Reis mora na Av. Central, n.º 5.",
            "Onde está a chave?",
            "São 3,5 por dia, p. ex. em maio.",
            "Que dia!",
        ],
    ),
    (
        "nl",
        &[
            "Dhr. Jansen kwam om 18.30 uur, bijv. met de trein.",
            "'s Morgens is het stil.",
            "Waar is de sleutel?",
            "Mevr. De Wit woont op nr. 5.",
            "Het zijn er ca. 3,5 per dag.",
            "Zie o.a. blz. 12.",
        ],
    ),
    (
        "sv",
        &[
            "Den 3:e maj kom t.ex. tärnorna.",
            "Var är nyckeln?",
            "Kl. 18.30 kom dr. Berg.",
            "Det är ca 3,5 per dag.",
        ],
    ),
    (
        "da",
        &[
            "Den 3. maj kom ternerne bl.a. tilbage.",
            "Hvor er nøglen?",
            "Kl. 18.30 kom dr. Berg.",
            "Det er ca. 3,5 pr. dag.",
        ],
    ),
    (
        "no",
        &[
            "Den 3. mai kom ternene bl.a. tilbake.",
            "Hvor er nøkkelen?",
            "Kl. 18.30 kom dr. Berg.",
            "Det er ca. 3,5 pr. dag.",
        ],
    ),
    (
        "fi",
        &[
            "Tiirat tulivat 3. toukokuuta.",
            "Missä avain on?",
            "Klo 18.30 tuli tri Virta.",
            "Niitä on n. 3,5 päivässä, esim. toukokuussa.",
        ],
    ),
    (
        "pl",
        &[
            "Rybitwy wróciły 3 maja, tj. w środę.",
            "Gdzie jest klucz?",
            "Pan dr Nowak przyszedł o godz. 18.30.",
            "Było ich ok. 3,5 tys. rano.",
            "W XIX w. było inaczej.",
            "„Wisi przy drzwiach.”",
        ],
    ),
    (
        "cs",
        &[
            "Rybáci přiletěli 3. května, tj. ve středu.",
            "Kde je klíč?",
            "Pan Ing. Novák přišel v 18.30.",
            "Bylo jich cca 3,5 tis. ráno.",
            "„Visí u dveří.“",
        ],
    ),
    (
        "ru",
        &[
            "Крачки прилетели в 2031 г. и сели.",
            "«Где ключ?» — спросила она.",
            "А. С. Иванов пришёл в 18.30.",
            "Их было ок. 3,5 тыс. утром.",
            "См. рис. 3 и стр. 12.",
            "Подробности см. в Разделе 11.2.",
            "Правда?",
            "«Он висит у двери».",
        ],
    ),
    (
        "uk",
        &[
            "Крячки прилетіли, тобто вчора.",
            "Де ключ?",
            "О. П. Коваль прийшов о 18.30.",
            "У 2031 р. їх було 3,5 тис. вранці.",
            "«Він висить біля дверей».",
        ],
    ),
    (
        "bg",
        &[
            "Рибарките дойдоха през 2031 г. и кацнаха.",
            "Къде е ключът?",
            "Д-р Петров дойде в 18.30 ч. вчера.",
        ],
    ),
    (
        "el",
        &["Πού είναι το κλειδί;", "Ο κ. Παππάς ήρθε στις 18:30.", "Ήρθαν το 2031.", "«Είναι στην πόρτα.»"],
    ),
    (
        "tr",
        &["Dr. Yılmaz saat 18.30'da geldi.", "Anahtar nerede?", "3. gün geldiler.", "Bu 3,5 vb. sayılardır."],
    ),
    (
        "hu",
        &[
            "Ez a csérek 3. napja itt.",
            "Hol van a kulcs?",
            "Dr. Kovács 18.30-kor jött.",
            "2031. május 3-án jöttek, pl. reggel.",
        ],
    ),
    (
        "ro",
        &["Dl. Popescu a venit la ora 18.30.", "Unde este cheia?", "Sunt cca. 3,5 pe zi.", "„Este la ușă.”"],
    ),
    ("ca", &["El Sr. Puig va arribar a les 18.30.", "On és la clau?", "Són 3,5 aprox. al dia."]),
    ("ar", &["أين المفتاح؟", "جاءت الطيور في مايو.", "هل هذا صحيح؟!"]),
    ("hi", &["चाबी कहाँ है?", "पक्षी मई में आए।", "डॉ. वर्मा 18.30 पर आए।"]),
    ("hy", &["Թռչունները եկան մայիսին։", "Որտե՞ղ է բանալին։"]),
];

/// Sentences without spaces behind them.
const CLOSE: &[(&str, &[&str])] = &[
    (
        "zh",
        &[
            "钥匙在哪里？",
            "燕鸥回来了。",
            "“在门边。”",
            "共有3.5只！",
            "他说：“走吧！”",
            "见https://example.org。",
        ],
    ),
    ("ja", &["鍵はどこ？", "アジサシが戻った。", "「ドアのそば。」", "3.5%です。", "（誰もいない。）"]),
];

fn split<'t>(language: &str, text: &'t str) -> Vec<&'t str> {
    let mut spans: Vec<Span> = Vec::new();
    Sentences::of(Some(language)).split(text, &mut spans);
    spans.iter().map(|span| span.of(text)).collect()
}

#[test]
fn two_sentences_are_two_whichever_they_are() {
    let mut wrong = Vec::new();
    for (all, gaps) in [(SENTENCES, &[" ", "  ", "\n", "\n\n"][..]), (CLOSE, &["", " ", "\n"])] {
        for (language, sentences) in all {
            for first in *sentences {
                for second in *sentences {
                    for gap in gaps {
                        let text = format!("{first}{gap}{second}");
                        let found = split(language, &text);
                        if found != [*first, *second] {
                            wrong.push(format!("{language} {found:?}"));
                        }
                    }
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} are wrong:\n{}", wrong.len(), wrong[..wrong.len().min(400)].join("\n"));
}
