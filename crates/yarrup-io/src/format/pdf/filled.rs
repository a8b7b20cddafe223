//! What somebody typed into the form of a PDF, and texts that were put on its pages afterwards. No content of a page holds them: they are annotations
//! (ISO 32000-1, sections 12.5 and 12.7).

use std::collections::HashSet;

use pdf_extract::{Dictionary, Document, Object, ObjectId};

/// What was put on a page.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Filled {
    /// The texts that somebody sees, from the top of the page to its end.
    pub(super) texts: Vec<String>,
    /// The entries of the form, each with its whole name: what was typed or chosen, and the state of boxes that are ticked.
    pub(super) entries: Vec<(String, String)>,
}

impl Filled {
    /// What was put on a page; nothing where the file does not say it in an orderly way.
    pub(super) fn of(document: &Document, page: ObjectId) -> Filled {
        let annotations = document.get_page_annotations(page).unwrap_or_default();
        let mut seen: Vec<_> = annotations.into_iter().filter(|annotation| is_seen(annotation)).collect();
        seen.sort_by(|one, other| place(document, one).total_cmp(&place(document, other)));
        let (mut filled, mut named) = (Filled::default(), HashSet::new());
        for annotation in seen {
            match annotation.get(b"Subtype").and_then(Object::as_name) {
                Ok(b"Widget") => {
                    let field = Field { document, widget: annotation };
                    // A field that stands on the page several times says the same each time.
                    let (name, Some(value)) = (field.name(), field.value()) else { continue };
                    if !named.insert(name.clone()) {
                        continue;
                    }
                    if field.is_written() {
                        filled.texts.push(value.clone());
                    }
                    filled.entries.push((name, value));
                }
                Ok(b"FreeText") => filled.texts.extend(text_of(document, annotation.get(b"Contents").ok())),
                _ => {}
            }
        }
        filled
    }
}

/// Whether the annotation is shown (section 12.5.3): neither hidden nor kept from the screen.
fn is_seen(annotation: &Dictionary) -> bool {
    const HIDDEN: i64 = 1 << 1;
    const NO_VIEW: i64 = 1 << 5;
    annotation.get(b"F").and_then(Object::as_i64).unwrap_or(0) & (HIDDEN | NO_VIEW) == 0
}

/// How far down and to the right an annotation begins, as one number: the order in which it is read.
fn place(document: &Document, annotation: &Dictionary) -> f64 {
    let side = |corners: &[usize; 2], which: fn(f64, f64) -> f64| {
        let rectangle = annotation.get_deref(b"Rect", document).and_then(Object::as_array).ok()?;
        let at = |index: usize| rectangle.get(index)?.as_float().ok().map(f64::from);
        Some(which(at(corners[0])?, at(corners[1])?))
    };
    let top = side(&[1, 3], f64::max).unwrap_or_default();
    let left = side(&[0, 2], f64::min).unwrap_or_default();
    // Entries of one line are seldom set to the same point.
    -(top / LINE).round() * WIDEST + left
}

/// How far apart the lines of a form are at least, in points, and the most that a page is wide.
const LINE: f64 = 6.0;
const WIDEST: f64 = 1e5;

/// A field of the form where a page shows it. What it does not say itself stands with a field that it belongs to.
struct Field<'d> {
    document: &'d Document,
    widget: &'d Dictionary,
}

impl<'d> Field<'d> {
    /// The field and those that it belongs to, from the inside out.
    fn chain(&self) -> impl Iterator<Item = &'d Dictionary> + use<'d> {
        const DEEPEST: usize = 32;
        let document = self.document;
        let parent =
            move |field: &&'d Dictionary| field.get_deref(b"Parent", document).and_then(Object::as_dict).ok();
        std::iter::successors(Some(self.widget), parent).take(DEEPEST)
    }

    fn inherited(&self, key: &[u8]) -> Option<&'d Object> {
        self.chain().find_map(|field| field.get_deref(key, self.document).ok())
    }

    /// The names of the field and of those that it belongs to, from the outside in, with stops between them (section 12.7.3.2).
    fn name(&self) -> String {
        let mut names: Vec<String> =
            self.chain().filter_map(|field| text_of(self.document, field.get(b"T").ok())).collect();
        names.reverse();
        names.join(".")
    }

    fn is_a(&self, kind: &[u8]) -> bool {
        self.inherited(b"FT").and_then(|kind| kind.as_name().ok()) == Some(kind)
    }

    /// Whether its value is written on the page.
    fn is_written(&self) -> bool {
        self.is_a(b"Tx") || self.is_a(b"Ch")
    }

    /// What was typed, chosen or ticked; nothing if nothing was.
    fn value(&self) -> Option<String> {
        const PASSWORD: i64 = 1 << 13;
        let flags = self.inherited(b"Ff").and_then(|flags| flags.as_i64().ok()).unwrap_or(0);
        let value = self.inherited(b"V")?;
        match value {
            Object::Name(state) if self.is_a(b"Btn") && state != b"Off" => Some(decoded(state)),
            _ if self.is_a(b"Tx") && flags & PASSWORD == 0 => text_of(self.document, Some(value)),
            Object::Array(chosen) if self.is_a(b"Ch") => {
                let shown: Vec<String> =
                    chosen.iter().filter_map(|chosen| text_of(self.document, Some(chosen))).collect();
                let shown: Vec<String> = shown.into_iter().map(|chosen| self.shown(chosen)).collect();
                (!shown.is_empty()).then(|| shown.join("\n"))
            }
            _ if self.is_a(b"Ch") => Some(self.shown(text_of(self.document, Some(value))?)),
            _ => None,
        }
    }

    /// What a page shows of a choice, which may be written otherwise in the file.
    fn shown(&self, chosen: String) -> String {
        let options = self.inherited(b"Opt").and_then(|options| options.as_array().ok());
        let shown = options.into_iter().flatten().find_map(|option| {
            let (_, option) = self.document.dereference(option).ok()?;
            let [written, shown] = option.as_array().ok()?.as_slice() else { return None };
            (text_of(self.document, Some(written))? == chosen).then(|| text_of(self.document, Some(shown)))?
        });
        shown.unwrap_or(chosen)
    }
}

/// A text of the file, with its line breaks as ours; nothing if it is blank.
fn text_of(document: &Document, object: Option<&Object>) -> Option<String> {
    let (_, object) = document.dereference(object?).ok()?;
    let text = match object {
        Object::String(bytes, _) => decoded(bytes),
        // Long ones.
        Object::Stream(stream) => decoded(&stream.get_plain_content().ok()?),
        _ => return None,
    };
    let text = text.replace("\r\n", "\n").replace('\r', "\n");
    (!text.trim().is_empty()).then(|| text.trim().to_owned())
}

/// A text as PDF writes it: UTF-16 or UTF-8 with its mark, else its own set of characters (ISO 32000-1, section 7.9.2.2 and annex D.3).
pub(super) fn decoded(bytes: &[u8]) -> String {
    if matches!(bytes, [0xfe, 0xff, ..] | [0xff, 0xfe, ..] | [0xef, 0xbb, 0xbf, ..]) {
        return crate::format::text::decoded(bytes).into_owned();
    }
    const ACCENTS: [char; 8] = ['˘', 'ˇ', 'ˆ', '˙', '˝', '˛', '˚', '˜'];
    const SIGNS: [char; 33] = [
        '•',
        '†',
        '‡',
        '…',
        '—',
        '–',
        'ƒ',
        '⁄',
        '‹',
        '›',
        '−',
        '‰',
        '„',
        '“',
        '”',
        '‘',
        '’',
        '‚',
        '™',
        'ﬁ',
        'ﬂ',
        'Ł',
        'Œ',
        'Š',
        'Ÿ',
        'Ž',
        'ı',
        'ł',
        'œ',
        'š',
        'ž',
        char::REPLACEMENT_CHARACTER,
        '€',
    ];
    let character = |byte: &u8| match byte {
        0x18..=0x1f => ACCENTS[usize::from(byte - 0x18)],
        0x80..=0xa0 => SIGNS[usize::from(byte - 0x80)],
        other => char::from(*other),
    };
    bytes.iter().map(character).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_have_the_characters_of_their_set() {
        for (bytes, expected) in [
            (&b"two terns \x84 one \x8dgull\x8e"[..], "two terns — one “gull”"),
            (b"caf\xe9 \xa0 5 \x93n", "café € 5 ﬁn"),
            (b"\x18 \x1f", "˘ ˜"),
            (b"\xfe\xff\x00t\x01\x61", "tš"),
            (b"\xff\xfet\x00a\x01", "tš"),
            (b"\xef\xbb\xbfna\xc3\xafve", "naïve"),
            (b"", ""),
        ] {
            assert_eq!(decoded(bytes), expected);
        }
    }
}
