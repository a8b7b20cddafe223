//! Abbreviations that end with a full stop, by language, and what may follow them.

use std::borrow::Cow;

use hashbrown::{HashMap, HashSet};

use crate::unicode;
use crate::words::shelf_code;

/// How an abbreviation behaves before a word that could begin a sentence.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Abbreviation {
    /// Something always follows: `Dr.`, `e.g.`, `ca.`.
    Leads,
    /// It leads to a number: `No. 5`, `p. 12`. Before anything else it is taken for a word.
    LeadsToNumber,
    /// A sentence may end with it: `etc.`, `Inc.`, `U.S.`
    MayEnd,
    /// A time of day: a sentence may end with it unless a day or a zone follows.
    HalfOfDay,
}

use Abbreviation::{HalfOfDay, Leads, LeadsToNumber, MayEnd};

/// The abbreviations of a language, in small letters and without the last full stop, parted by spaces.
struct Table {
    language: &'static str,
    leads: &'static str,
    leads_to_number: &'static str,
    may_end: &'static str,
    half_of_day: &'static str,
    /// Words that have lost their beginning and are written with an apostrophe in its place, in small letters.
    shortened: &'static str,
    /// Words that begin sentences far more often than names do, in small letters.
    starters: &'static str,
}

const TABLES: &[Table] = &[
    Table {
        language: "en",
        leads: "mr mrs ms mx messrs mme mlle dr drs prof profs st ste mt ft gen gens col lt lieut sgt capt cpt cmdr cdr adm maj \
                brig cpl pvt pfc ens rev revs rt ven msgr mgr hon pres gov govs sen sens rep reps amb atty asst assoc cllr supt det insp fr br \
                e.g i.e eg ie viz cf vs v ca approx resp esp incl excl al. op.cit loc.cit",
        leads_to_number: "no nos fig figs p pp vol vols ch chap sec sect eq eqs tab ref refs pt app ex para art nr jan feb mar apr jun jul aug \
                          sep sept oct nov dec",
        may_end: "etc inc ltd co corp plc llc bros jr sr esq ph.d m.a b.a b.sc m.sc d.phil m.d r.n et.al al u.s u.k u.s.a u.n e.u d.c p.s n.b a.d b.c \
                  b.c.e c.e est dept univ assn ave blvd rd ln hwy sq tel ext min max hr hrs sec secs lb lbs oz km kg cm mm mi ft in yd",
        half_of_day: "a.m p.m am pm",
        shortened: "em tis twas twere twill cause til",
        starters: "the a an it he she they we i you this that these those there here his her its their our my your in on at by for from \
                   with when where while what who why how if then but and or so as after before during since until although though because \
                   however no yes not one two three some many most all each every both several another such other once now today yesterday \
                   tomorrow please thanks thank is are was were do does did has have had can could will would should may might must nobody \
                   everyone everybody somebody someone only even perhaps maybe meanwhile later finally first second third next last also \
                   let never always often sometimes to of under over near nearby despite unlike like according visitors wardens volunteers",
    },
    Table {
        language: "de",
        leads: "dr prof hr fr frl st bzw ca d.h dh z.b zb u.a ua s.o s.u sog vgl evtl ggf inkl exkl zzgl i.d.r o.ä bspw mind max min geb gest verh \
                ev kath dipl ing med jur phil rer nat hc o.g u.u z.t z.z vs jr sr a.d i.a i.v v.a str",
        leads_to_number: "nr nrn abb abs art bd kap s tab ziff rn tel jan feb mrz apr jun jul aug sept okt nov dez",
        may_end: "usw etc u.s.w u.ä o.ä mio mrd tsd ff f co jh jhd n.chr v.chr km kg std min sek",
        half_of_day: "",
        shortened: "",
        starters: "der die das ein eine er sie es wir ich ihr du man im in am an auf aus bei mit nach von vor zu zum zur für als wenn weil dass \
                   da dann doch aber und oder auch nur noch schon so sein seine ihre unser unsere mein meine dieser diese dieses alle viele einige \
                   heute gestern morgen hier dort jetzt nun nein ja kein keine nicht leider danach später trotzdem deshalb während nachdem bevor ob wer \
                   was wo wie warum wann jeder jede jedes beim vom über unter zwischen seit bis durch gegen ohne um",
    },
    Table {
        language: "fr",
        leads: "m mm mme mmes mlle mlles dr drs pr me mgr st ste c.-à-d cf env p.ex ex av apr boul bd vs dept",
        leads_to_number: "n no nº p pp fig vol chap art al tél t janv févr avr juil sept oct nov déc",
        may_end: "etc cie s.a s.a.r.l j.-c ad",
        half_of_day: "",
        shortened: "",
        starters: "le la les un une des il elle ils elles on nous vous je tu ce cette ces cet c qui que quand où comment pourquoi si mais et ou donc \
                   or ni car dans sur sous avec sans pour par en au aux du de à après avant pendant depuis chez son sa ses leur leurs notre votre mon ma \
                   mes ici là aujourd hier demain oui non puis alors enfin ensuite cependant",
    },
    Table {
        language: "es",
        leads: "ee sr sra sres sras srta dr dra dres d dña da ud uds vd prof profa lic ing arq gral cnel cap sto sta fr p.ej ej aprox cf vs av avda pza",
        leads_to_number: "n no núm nums nº p pp pág págs fig vol cap art tel ene feb mar abr jun jul ago sept oct nov dic",
        may_end: "etc cía s.a s.l uu ee.uu a.c d.c",
        half_of_day: "a.m p.m",
        shortened: "",
        starters: "el la los las un una unos unas él ella ellos ellas yo tú nosotros ustedes usted este esta estos estas ese esa eso esto aquel aquella que \
                   quien cuando donde como por para con sin en a de del al pero y o si no sí también hoy ayer mañana aquí allí ahora después antes desde \
                   hasta durante mientras su sus mi mis nuestro nuestra hay es son fue había luego entonces",
    },
    Table {
        language: "it",
        leads: "sig sigg sig.ra sig.na dott dott.ssa prof prof.ssa ing avv arch on rev don s ss p.es es ca cfr vs gen col cap mons",
        leads_to_number: "n nn p pp pag pagg fig vol cap art tel genn febb mar apr giu lug ago sett ott nov dic",
        may_end: "ecc etc s.p.a s.r.l a.c d.c",
        half_of_day: "",
        shortened: "",
        starters: "il lo la i gli le un uno una egli ella lui lei loro noi voi io tu questo questa questi queste quello quella che chi quando dove come perché se \
                   ma e o anche non sì no in a da di del della con su per tra fra oggi ieri domani qui qua ora poi dopo prima durante mentre suo sua nel nella al alla",
    },
    Table {
        language: "pt",
        leads: "sr sra srs sras dr dra drs prof profa eng arq gen cel d dª ex.mo v.ex.ª p.ex ex aprox cf vs av r",
        leads_to_number: "n nº no p pp pág págs fig vol cap art tel jan fev mar abr jun jul ago set out nov dez",
        may_end: "etc cia s.a ltda a.c d.c",
        half_of_day: "",
        shortened: "",
        starters: "o a os as um uma uns umas ele ela eles elas eu tu nós vocês você este esta estes estas esse essa isso isto aquele que quem quando onde como por \
                   para com sem em no na nos nas de do da ao mas e ou se não sim também hoje ontem amanhã aqui ali agora depois antes desde até durante enquanto \
                   seu sua meu minha nosso nossa há é são foi",
    },
    Table {
        language: "nl",
        leads: "dhr mevr mr dr drs ir ing prof st a.u.b bijv bv d.w.z enz.v m.a.w m.b.t o.a i.v.m t.a.v t.o.v ca resp vgl vs zgn evt incl excl",
        leads_to_number: "nr nrs blz p pp afb art tel jan feb mrt apr jun jul aug sept okt nov dec",
        may_end: "enz etc e.d b.v n.v v.chr n.chr jl",
        half_of_day: "",
        shortened: "s t n m r k",
        starters: "de het een hij zij ze wij we ik jij je u dit dat deze die er hier daar in op aan bij met van voor naar uit over onder door om als wanneer toen \
                   want maar en of ook niet ja nee nu vandaag gisteren morgen zijn haar hun onze mijn wie wat waar hoe waarom na tijdens sinds",
    },
    Table {
        language: "sv",
        leads: "dr prof bl.a t.ex d.v.s dvs s.k f.d ca fr o.d i.o.m p.g.a m.a.o jfr resp st t.o.m",
        leads_to_number: "nr s sid kap fig bil tel jan feb mars apr jun jul aug sept okt nov dec",
        may_end: "m.m m.fl osv etc o.s.v f.kr e.kr kl",
        half_of_day: "",
        shortened: "",
        starters: "det den de en ett han hon vi jag du ni detta denna dessa där här i på av för med till från om när och men eller så som inte ja nej nu idag igår \
                   efter innan under hans hennes deras vår min",
    },
    Table {
        language: "ru",
        leads: "т.е т.к т.н ок г гг ул д им проф акад др тов см ср напр стр рис табл просп пер кв корп",
        leads_to_number: "№ п гл ст тел",
        may_end: "т.д т.п и.т.д руб коп тыс млн млрд н.э",
        half_of_day: "",
        shortened: "",
        starters: "он она оно они мы вы я ты это этот эта эти в на с к по за из у о от до для при и но а как что кто где когда если потом затем сегодня вчера \
                   завтра здесь там да нет не все наш наша его её их",
    },
    Table {
        language: "pl",
        leads: "dr prof mgr inż hab ks św ul al np tzn tzw tj m.in ok por zob mec płk gen ang niem franc łac wł ros",
        leads_to_number: "nr str s r rys tab pkt art godz tel",
        may_end: "itd itp in wg zł gr tys mln mld n.e p.n.e",
        half_of_day: "",
        shortened: "",
        starters: "on ona ono oni one my wy ja ty to ten ta te w na z do po za od dla przy i ale a jak co kto gdzie kiedy jeśli potem dziś wczoraj jutro tu tam tak nie",
    },
    Table {
        language: "da",
        leads: "hr fr frk dr prof cand ing dir adv bl.a f.eks feks dvs d.v.s ca fx iht ift ifm inkl ekskl jf jfr evt hhv pga p.g.a mht m.h.t vedr vha v.h.a sml st skt \
                udg i.e tlf",
        leads_to_number: "nr s kap fig art stk kl bd jan feb mar apr jun jul aug sep sept okt nov dec",
        may_end: "osv o.s.v mv m.v m.m mm m.fl etc o.l o.lign ol mio mia kr pct f.kr e.kr",
        half_of_day: "",
        shortened: "",
        starters: "det den de en et han hun vi jeg du i der dette denne disse her på af ved med til fra om når da og men eller så som ikke ja nej nu efter under \
                   hans hendes deres vores min hvis hvad hvem hvor hvorfor hvordan også kun måske alle mange nogle for",
    },
    Table {
        language: "no",
        leads: "hr fr frk dr prof ing dir adv bl.a f.eks dvs d.v.s ca ift iht inkl ekskl jf jfr evt hhv pga p.g.a mht m.h.t vha v.h.a st utg i.e tlf m.a.o",
        leads_to_number: "nr s kap fig art kl bd pkt jan feb mars apr jun jul aug sep sept okt nov des",
        may_end: "osv o.s.v m.m m.fl etc o.l ol mill mrd kr pst f.kr e.kr",
        half_of_day: "",
        shortened: "",
        starters: "det den de en et ei han hun vi jeg du i der dette denne disse her på av ved med til fra om når da og men eller så som ikke ja nei nå etter under \
                   hans hennes deres vår min hvis hva hvem hvor hvorfor hvordan også bare kanskje alle mange noen for",
    },
    Table {
        language: "fi",
        leads: "hra rva nti tri prof dos maist ent nyk esim ts t.s vrt ks em k.o ns synt arv n noin puh os",
        leads_to_number: "nro v s luku kuv taul klo art par p",
        may_end: "jne j.n.e mm m.m ym y.m yms y.m.s tms t.m.s jkr ekr eaa jaa oy ab kpl mk milj mrd",
        half_of_day: "",
        shortened: "",
        starters: "se ne hän he minä sinä me te tämä nämä tuo nuo on ei ja mutta tai kun jos että koska niin nyt sitten täällä siellä tänään eilen huomenna myös vain \
                   kuka mikä missä miksi miten kaikki monet joka",
    },
    Table {
        language: "cs",
        leads: "p pí sl ing mgr bc dr prof doc phdr mudr judr rndr ph.d csc drsc sv tzv tzn tj např resp popř event příp zejm srov čes něm angl franc lat řec pol \
                slov nar zemř kpt gen plk ul nám pozn vyd překl cca max min tel",
        leads_to_number: "č čís str s r odst čl obr tab kap sv roč par díl hod",
        may_end: "atd atď apod aj ap mj př.n.l n.l tis mil mld kč hal st l a.s s.r.o v.o.s sb",
        half_of_day: "",
        shortened: "",
        starters: "on ona ono oni já ty my vy to ten ta tato tento toto v ve na z ze do po od u k o při pro a i ale nebo jak jako co kdo kde kdy když jestli pokud \
                   protože proto potom pak dnes včera zítra tady tam tak ano ne je jsou byl byla bylo byli má mají každý všichni mnoho",
    },
    Table {
        language: "hu",
        leads: "dr prof ifj id özv gr br szt kb pl ill vö ld ún u.n sz u vm okl mgr hrsz tel",
        leads_to_number: "sz old kb tábl áb köt bek ker jan febr márc ápr máj jún júl aug szept okt nov dec",
        may_end: "stb sat kft bt rt zrt nyrt i.e i.sz u.i ft db mrd",
        half_of_day: "",
        shortened: "",
        starters: "a az egy ez ő ők én te mi ti ki és de vagy ha hogy mert mint amikor akkor most itt ott ma tegnap holnap nem igen is csak minden sok van volt lesz így úgy",
    },
    Table {
        language: "ro",
        leads: "dl dna dra dr prof ing av conf acad lt sf st str bd bul nr.crt ex de.ex cca aprox resp v cf incl excl",
        leads_to_number: "nr art pag p fig cap tab alin lit vol tel ian feb febr mar apr iun iul aug sept oct noi nov dec",
        may_end: "etc ș.a ş.a ș.a.m.d ş.a.m.d s.a s.r.l î.hr d.hr î.e.n e.n mil mld",
        half_of_day: "",
        shortened: "",
        starters: "el ea ei ele eu tu noi voi un o acest această aceste acela aceea în pe la de din cu pentru prin după și dar sau că dacă când unde cum cine ce nu da \
                   acum apoi azi ieri mâine aici acolo este sunt era are au fost toate toți mulți",
    },
    Table {
        language: "uk",
        leads: "т.зв тзв ім проф акад доц д к канд див напр м с смт обл вул просп пров пл буд кв тов п ред св о",
        leads_to_number: "№ ч ст гл розд п стор с рис табл тел",
        may_end: "т.д тд т.п тп т.ін ін та.ін грн коп тис млн млрд н.е р рр ст",
        half_of_day: "",
        shortened: "",
        starters: "він вона воно вони ми ви я ти це цей ця ці в у на з із до по за від для при і й та а але або як що хто де коли якщо потім тоді сьогодні вчора завтра \
                   тут там так ні не всі наш наша його її їх",
    },
    Table {
        language: "tr",
        leads: "dr prof doç yrd av sn bkz krş örn yy m.ö hz op uzm müh alb mah sok cad apt yk tel",
        leads_to_number: "no s sf sh bl md çev fig şek tab",
        may_end: "vb vs vd a.ş ltd şti t.c m.ö m.s",
        half_of_day: "",
        shortened: "",
        starters: "bu şu o bir ben sen biz siz onlar ve ama fakat ancak eğer çünkü ne kim nerede nasıl niçin neden şimdi sonra bugün dün yarın burada orada evet hayır her \
                   bütün çok daha en için ile",
    },
    Table {
        language: "ca",
        leads: "sr sra srs dr dra prof av pl ctra p.ex aprox d na st sta mn",
        leads_to_number: "núm núms pàg pàgs fig cap vol art tel",
        may_end: "etc s.a s.l",
        half_of_day: "",
        shortened: "",
        starters: "el la els les un una en de a al per amb i o però si quan on com que qui és són ha han no sí avui ahir demà aquí allà",
    },
    Table {
        language: "hi",
        leads: "डॉ प्रो श्री श्रीमती पं स्व मि सु कु ई",
        leads_to_number: "सं क्र पृ",
        may_end: "आदि",
        half_of_day: "",
        shortened: "",
        starters: "",
    },
    Table {
        language: "el",
        leads: "κ κα κος κων δρ καθ π.χ πχ δηλ βλ πρβλ λ.χ λχ αγ τηλ οδ περ σημ μτφρ επιμ εκδ",
        leads_to_number: "αρ σ σελ τ τομ κεφ εικ πιν αρθ παρ",
        may_end: "κ.λπ κλπ κ.ά κ.α κ.τ.λ κτλ κ.ο.κ εκ δισ χιλ α.ε ε.π.ε",
        half_of_day: "π.μ μ.μ",
        shortened: "",
        starters: "ο η το οι τα ένας μία μια ένα αυτός αυτή αυτό αυτοί εγώ εσύ εμείς εσείς και αλλά ή αν όταν πού πώς γιατί τι ποιος σε με για από στο στη στην στον \
                   τώρα μετά σήμερα χθες αύριο εδώ εκεί ναι όχι δεν είναι ήταν έχει",
    },
];

fn has(words: &str, word: &str) -> bool {
    words.split(' ').any(|known| known == word)
}

type Words = HashMap<&'static str, Abbreviation, foldhash::fast::RandomState>;

/// The abbreviations and sentence starters of a language; of all that are known where none is named.
#[derive(Clone, Debug)]
pub(super) struct Abbreviations {
    words: Words,
    /// Short forms that are common words when they begin small: `No. 5`, but `he said no.`
    with_capital: HashSet<&'static str, foldhash::fast::RandomState>,
    starters: HashSet<&'static str, foldhash::fast::RandomState>,
    shortened: &'static str,
    dotted_ordinals: DottedOrdinals,
}

/// Which numbers of one or two digits with a full stop behind them may be ordinals.
#[derive(Clone, Copy, Debug)]
enum DottedOrdinals {
    All,
    /// Where the language is not known.
    BehindGermanWords,
    None,
}

/// Words before ordinal numbers, and no English ones before numbers.
const GERMAN_BEFORE_ORDINALS: &str = "der die das den dem des am im vom zum beim ein eine einen einem einer jeder jede jeden jedem unser unsere \
                                      sein seine ihr ihre mein meine";

/// English short forms that are words when they begin small.
const WITH_CAPITAL: &str = "no nos sat sun mar dec jan gen col rep sen fr br mt art app tab co det hon jun oct ref para pt am pm st ms ln sq \
                            sr sec in";
/// Abbreviations of other languages that no English word looks like.
const ALIEN: &str = "bzw usw vgl sog evtl ggf inkl mme mlle mmes mlles sra sras sres srta dra dres dña profa gral cnel avda sig sigg dott avv \
                     ecc dhr mevr nr núm pág págs janv févr";

impl Abbreviations {
    /// Those of `language`. A language without a table gets that of a neighbour, which abbreviates alike, or the English one.
    pub(super) fn of(language: Option<&str>) -> Abbreviations {
        let known = language.map(|language| {
            let code = match shelf_code(language) {
                "sk" => "cs",
                "nn" => "no",
                code => code,
            };
            TABLES.iter().map(|table| table.language).find(|known| *known == code).unwrap_or("en")
        });
        let mut words = Words::default();
        for table in TABLES.iter().filter(|table| known.is_none_or(|known| known == table.language)) {
            // Without a language, English first; of the others only what no English word looks like.
            let wanted = |word: &str| {
                known.is_some() || table.language == "en" || word.contains('.') || has(ALIEN, word)
            };
            let sorts = [
                (table.leads, Leads),
                (table.leads_to_number, LeadsToNumber),
                (table.half_of_day, HalfOfDay),
                (table.may_end, MayEnd),
            ];
            for (listed, sort) in sorts {
                for word in listed.split(' ').filter(|word| !word.is_empty() && wanted(word)) {
                    words.entry(word).or_insert(sort);
                }
            }
        }
        let starters = TABLES.iter().filter(|table| known.is_none_or(|known| known == table.language));
        Abbreviations {
            words,
            with_capital: if known.is_none_or(|known| known == "en") {
                WITH_CAPITAL.split(' ').collect()
            } else {
                HashSet::default()
            },
            starters: starters
                .flat_map(|table| table.starters.split(' '))
                .filter(|word| !word.is_empty())
                .collect(),
            shortened: TABLES
                .iter()
                .find(|table| table.language == known.unwrap_or("en"))
                .map_or("", |table| table.shortened),
            dotted_ordinals: match known {
                Some("de") => DottedOrdinals::All,
                Some(_) => DottedOrdinals::None,
                None => DottedOrdinals::BehindGermanWords,
            },
        }
    }

    /// Whether a word behind an apostrophe has lost its beginning: `'em`, `'tis`. So has the decade of a century that need not be named: `'90s`.
    pub(super) fn is_shortened(&self, word: &str) -> bool {
        let is_decade = || matches!(word.as_bytes(), [b'0'..=b'9', b'0', b's' | b'S']);
        self.shortened.split(' ').any(|known| !known.is_empty() && known.eq_ignore_ascii_case(word))
            || is_decade()
    }

    /// Whether a number with a full stop may be an ordinal behind `before`.
    pub(super) fn has_dotted_ordinals(&self, before: &str) -> bool {
        match self.dotted_ordinals {
            DottedOrdinals::All => true,
            DottedOrdinals::None => false,
            DottedOrdinals::BehindGermanWords => {
                // `am 3. 7.`: the second number stands behind the first.
                let before =
                    before.trim_end().trim_end_matches(|c: char| c.is_ascii_digit() || ". ".contains(c));
                let word = before.rsplit(|c: char| !unicode::is_letter(c)).next().unwrap_or_default();
                word.len() <= 6 && has(GERMAN_BEFORE_ORDINALS, &word.to_lowercase())
            }
        }
    }

    /// What `word`, which stands before a full stop, is.
    pub(super) fn find(&self, word: &str) -> Option<Abbreviation> {
        // None is that long, `op.cit` and `c.-à-d` included.
        if word.is_empty() || word.len() > 12 {
            return None;
        }
        let is_lower = word.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase());
        let lower = if is_lower { Cow::Borrowed(word) } else { Cow::Owned(word.to_lowercase()) };
        let small = word.chars().next().is_some_and(char::is_lowercase);
        if small && self.with_capital.contains(&*lower) {
            return None;
        }
        self.words.get(&*lower).copied()
    }

    /// Whether `word` begins sentences far more often than names do.
    pub(super) fn is_starter(&self, word: &str) -> bool {
        word.len() <= 20 && self.starters.contains(word.to_lowercase().as_str())
    }
}

/// Whether a text ends with a single letter and its full stop: `… z.`
pub(super) fn ends_with_initial(text: &str) -> bool {
    text.trim_end().strip_suffix('.').is_some_and(|rest| {
        let mut letters = rest.chars().rev();
        letters.next().is_some_and(unicode::is_letter) && !letters.next().is_some_and(unicode::is_letter)
    })
}

/// Days, months and time zones, which follow a time of day without a new sentence.
pub(super) fn goes_on_after_time(word: &str) -> bool {
    const WORDS: &str = "monday tuesday wednesday thursday friday saturday sunday january february march april may june july august september october november \
                         december jan feb mar apr jun jul aug sep sept oct nov dec mon tue wed thu fri sat sun gmt utc bst cet cest est edt cst cdt mst mdt pst pdt eastern \
                         central pacific mountain";
    has(WORDS, &word.to_lowercase())
}

/// Whether a date goes on with `rest`, behind a number with its full stop, and what is before that: `3. 7.`, `14. 7. 2031`.
pub(super) fn goes_on_as_date(before: &str, rest: &str) -> bool {
    let digits = rest.bytes().take_while(u8::is_ascii_digit).count();
    let number: u32 = rest[..digits].parse().unwrap_or_default();
    let is_month = (1..=12).contains(&number) && digits <= 2 && rest[digits..].starts_with('.');
    // A year follows where this is the second number.
    let behind_day = before.trim_end().strip_suffix('.').is_some_and(|day| {
        let digits = day.bytes().rev().take_while(u8::is_ascii_digit).count();
        (1..=2).contains(&digits)
    });
    is_month || (behind_day && (digits == 4 || digits == 2))
}

/// Names of months, for ordinals before them.
pub(super) fn is_month(word: &str) -> bool {
    const MONTHS: &str =
        "januar februar märz april mai juni juli august september oktober november dezember jänner";
    has(MONTHS, &word.to_lowercase())
}
