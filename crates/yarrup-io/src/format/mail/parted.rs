//! What the writer of a message wrote, what is quoted, and the signature.

/// How deep messages are read that are attached to one another.
pub(super) const DEEPEST: usize = 8;

/// The body of a message, in the parts that its writer and others wrote.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Parted {
    pub(super) own: String,
    pub(super) quoted: String,
    pub(super) signature: String,
}

impl Parted {
    /// The parts of a text.
    pub(super) fn of(body: &str) -> Parted {
        let mut parted = Parted::default();
        let lines: Vec<&str> = body.lines().collect();
        let mut at = 0;
        while at < lines.len() {
            let line = lines[at];
            // RFC 3676: two hyphens and a space; many programs lose the space.
            if matches!(line, "-- " | "--") || begins_footer(&lines[at..]) {
                parted.signature = lines[at + 1..].join("\n").trim().to_owned();
                break;
            }
            if begins_forwarded(line, &lines[at + 1..]) {
                push_lines(&mut parted.quoted, &lines[at..]);
                break;
            }
            let quoted = if line.starts_with('>') { 1 } else { introduction(&lines[at..]) };
            let out = if quoted > 0 { &mut parted.quoted } else { &mut parted.own };
            let end = at + quoted.max(1);
            push_lines(out, &lines[at..end]);
            at = end;
        }
        parted.own = parted.own.trim().to_owned();
        parted.quoted = parted.quoted.trim().to_owned();
        parted
    }

    /// Adds the parts of another text, with what a page of it marks as quoted.
    pub(super) fn add(&mut self, body: &str, cited: &str) {
        let part = Parted::of(body);
        push_part(&mut self.own, &part.own);
        push_part(&mut self.quoted, cited);
        push_part(&mut self.quoted, &part.quoted);
        push_part(&mut self.signature, &part.signature);
    }

    /// Adds a message that is attached: somebody else wrote it.
    pub(super) fn add_attached(&mut self, subject: &str, inside: &Parted) {
        push_part(&mut self.quoted, subject);
        push_part(&mut self.quoted, &inside.own);
        push_part(&mut self.quoted, &inside.quoted);
    }
}

fn push_part(out: &mut String, part: &str) {
    let part = part.trim();
    if !part.is_empty() {
        out.push_str(if out.is_empty() { "" } else { "\n\n" });
        out.push_str(part);
    }
}

fn push_lines(out: &mut String, lines: &[&str]) {
    for line in lines {
        out.push_str(line);
        out.push('\n');
    }
}

/// How many lines at the start of these introduce the quote behind them: `On Monday Teo wrote:`. Programs break this line where it is long.
fn introduction(lines: &[&str]) -> usize {
    const MOST: usize = 4;
    let end = lines
        .iter()
        .take(MOST)
        .take_while(|line| !line.trim().is_empty())
        .position(|line| ends_introduction(line));
    let Some(end) = end else { return 0 };
    let behind = lines[end + 1..].iter().take(3).find(|line| !line.trim().is_empty());
    let begins = end == 0 || begins_introduction(lines[0]);
    if begins && behind.is_some_and(|line| line.starts_with('>')) { end + 1 } else { 0 }
}

/// `wrote:`, in some twenty languages.
fn ends_introduction(line: &str) -> bool {
    const WROTE: [&str; 27] = [
        "wrote",
        "writes",
        "schrieb",
        "schreibt",
        "écrit",
        "escribió",
        "escribe",
        "scrisse",
        "ha scritto",
        "escreveu",
        "schreef",
        "skrev",
        "napsal",
        "napisał",
        "pisze",
        "kirjoitti",
        "írta",
        "a scris",
        "yazdı",
        "va escriure",
        "έγραψε",
        "писал",
        "пишет",
        "пише",
        "написа",
        "写道",
        "書きました",
    ];
    line.trim_end().ends_with([':', '：']) && WROTE.iter().any(|verb| line.contains(verb))
}

/// The first line of an introduction of several: a day, and what stands before it.
fn begins_introduction(line: &str) -> bool {
    const DAY: [&str; 18] = [
        "On ",
        "At ",
        "Am ",
        "Le ",
        "El ",
        "Il ",
        "Em ",
        "A ",
        "Op ",
        "Den ",
        "Dne ",
        "W dniu ",
        "Dnia ",
        "Pe ",
        "În ",
        "La ",
        "Στις ",
        "В ",
    ];
    line.contains(|c: char| c.is_ascii_digit())
        && (DAY.iter().any(|word| line.starts_with(word)) || line.starts_with(|c: char| c.is_ascii_digit()))
}

/// Whether a mailing list put its line of underscores here, with a few lines behind it that say where it is.
fn begins_footer(lines: &[&str]) -> bool {
    const LONGEST: usize = 6;
    let Some((first, others)) = lines.split_first() else { return false };
    if first.len() < 30 || !first.bytes().all(|byte| byte == b'_') {
        return false;
    }
    let mut others = others.iter().filter(|line| !line.trim().is_empty());
    let said: Vec<&&str> = others.by_ref().take(LONGEST).collect();
    others.next().is_none() && said.iter().any(|line| line.contains("://") || line.contains('@'))
}

/// The block of headers that some programs put over the whole message that is answered.
fn begins_forwarded(line: &str, next: &[&str]) -> bool {
    let line = line.trim();
    if line.starts_with("-----") && line.ends_with("-----") && line.chars().any(char::is_alphabetic) {
        return true;
    }
    // Some draw a line over it.
    if line.len() >= 10
        && line.bytes().all(|byte| byte == b'_')
        && let Some(at) = next.iter().take(2).position(|line| !line.trim().is_empty())
    {
        return begins_forwarded(next[at], &next[at + 1..]);
    }
    let header = |line: &str, names: &[&str]| names.iter().any(|name| line.starts_with(name));
    header(line, &["From: ", "Von: ", "De : ", "De: "])
        && next.iter().take(3).any(|line| {
            header(
                line.trim(),
                &["Sent: ", "Date: ", "Gesendet: ", "Datum: ", "Envoyé : ", "Enviado: ", "Fecha: "],
            )
        })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_message_is_parted_into_own_words_quotes_and_signature() {
        let body = "Dear Teo,\n\nthe key is under the mat.\n\nOn Monday Teo wrote:\n> Where is the key?\n> Teo\n\nMira\n-- \nMira, North Spit\n";
        let parted = Parted::of(body);
        assert_eq!(parted.own, "Dear Teo,\n\nthe key is under the mat.\n\n\nMira");
        assert_eq!(parted.quoted, "On Monday Teo wrote:\n> Where is the key?\n> Teo");
        assert_eq!(parted.signature, "Mira, North Spit");
        let forwarded = Parted::of("See below.\n\n-----Original Message-----\nFrom: Bo\nNo key.\n");
        assert_eq!((forwarded.own.as_str(), forwarded.quoted.lines().count()), ("See below.", 3));
    }

    #[test]
    fn lines_that_introduce_a_quote_belong_to_it() {
        for (body, own) in [
            (
                "Yes.\n\nOn Sun, May 4, 2031 at 6:30 AM Teo Sandoval\n<teo@example.org> wrote:\n> Where?\n",
                "Yes.",
            ),
            (
                "On Sun, May 4, 2031 at 6:30 AM, Mira of the North Spit <mira@example.org>\nwrote:\n\n> Where?\nHere.",
                "Here.",
            ),
            ("Am 04.05.2031 um 06:30 schrieb Teo:\n> Wo?\nHier.", "Hier."),
            ("Le dim. 4 mai 2031 à 06:30,\nTeo <teo@example.org> a écrit :\n> Où ?\nIci.", "Ici."),
            ("W dniu 4.05.2031 o 06:30, Teo pisze:\n> Gdzie?\nTu.", "Tu."),
            ("W dniu 4.05.2031 o 06:30, Teo pisze:\n", "W dniu 4.05.2031 o 06:30, Teo pisze:"),
            // Nothing is quoted behind it, or it does not begin like one.
            ("On 4 May 2031 Teo\nwrote:\nIt is open.", "On 4 May 2031 Teo\nwrote:\nIt is open."),
            ("I have read it.\nIn the log Teo wrote:\n> Where?", "I have read it."),
            ("Gone.\n________________________________\nFrom: Teo\nSent: Sunday\n\nWhere?", "Gone."),
            ("Gone.\n____\nFrom: Teo", "Gone.\n____\nFrom: Teo"),
        ] {
            assert_eq!(Parted::of(body).own, own, "{body}");
        }
        let rule = "_".repeat(47);
        let listed =
            Parted::of(&format!("Two terns.\n{rule}\nwardens mailing list\nwardens@lists.example.org\n"));
        assert_eq!(
            (listed.own.as_str(), listed.signature.as_str()),
            ("Two terns.", "wardens mailing list\nwardens@lists.example.org")
        );
        let drawn = format!("Two terns.\n{rule}\nand a gull");
        assert_eq!(Parted::of(&drawn).own, drawn);
    }
}
