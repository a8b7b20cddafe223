//! The fonts of figures: the built-in ones, the user's own, and those of the system where letters are missing.

use std::collections::BTreeSet;
use std::sync::{Arc, Mutex, PoisonError};

use resvg::usvg::fontdb::{Database, ID, Stretch, Style};
use resvg::usvg::{FallbackSelectionFn, FontResolver, Group, Node, Options, Rect, Tree};
use thiserror::Error;

use super::escaped;

static REGULAR: &[u8] = include_bytes!("../../assets/fonts/Inter-Regular.otf");
static SEMI_BOLD: &[u8] = include_bytes!("../../assets/fonts/Inter-SemiBold.otf");

/// Why a font cannot be used.
#[derive(Debug, Error)]
#[error("{0}")]
pub struct FontError(String);

/// The fonts with which figures are drawn. Where a letter is in none of them, the system's fonts are asked, once.
pub struct Fonts {
    database: Arc<Database>,
    family: String,
    /// Letters that no font has.
    missing: Arc<Mutex<BTreeSet<char>>>,
    /// With the system's fonts, once they were needed.
    with_system: Arc<Mutex<Option<Arc<Database>>>>,
}

/// How a text is drawn.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Inked {
    /// Where its ink lies: left, top, right, bottom.
    pub(crate) ink: (f64, f64, f64, f64),
    /// How far its letters go on.
    pub(crate) advance: f64,
}

impl Default for Fonts {
    fn default() -> Fonts {
        let mut database = Database::new();
        database.load_font_data(REGULAR.to_vec());
        database.load_font_data(SEMI_BOLD.to_vec());
        database.set_sans_serif_family("Inter");
        database.set_serif_family("Inter");
        Fonts {
            database: Arc::new(database),
            family: "Inter, sans-serif".to_owned(),
            missing: Arc::default(),
            with_system: Arc::default(),
        }
    }
}

impl Fonts {
    /// Letters are taken from the font in this file first.
    ///
    /// # Errors
    ///
    /// If it is no font.
    pub fn with(font: Vec<u8>) -> Result<Fonts, FontError> {
        let mut fonts = Fonts::default();
        let database = Arc::make_mut(&mut fonts.database);
        let before = database.len();
        database.load_font_data(font);
        let Some(face) = database.faces().nth(before) else {
            return Err(FontError("is not a font (OpenType or TrueType)".to_owned()));
        };
        let name =
            face.families.first().map(|(name, _)| name.replace(['"', '\'', ','], "")).unwrap_or_default();
        fonts.family = format!("'{name}', Inter, sans-serif");
        Ok(fonts)
    }

    /// The names of the fonts, as SVG lists them.
    pub fn family(&self) -> &str {
        &self.family
    }

    /// The letters that were to be drawn and that no font has, also none of the system's.
    pub fn missing(&self) -> Vec<char> {
        self.missing.lock().unwrap_or_else(PoisonError::into_inner).iter().copied().collect()
    }

    /// Notes that nothing was drawn of a text.
    pub(super) fn note_missing(&self, text: &str) {
        let mut missing = self.missing.lock().unwrap_or_else(PoisonError::into_inner);
        missing.extend(text.chars().filter(|letter| !is_unseen(*letter)));
    }

    /// How SVG is read with these fonts.
    pub(crate) fn options(&self) -> Options<'static> {
        let usual = FontResolver::default_fallback_selector();
        let (missing, with_system) = (Arc::clone(&self.missing), Arc::clone(&self.with_system));
        let fallback = move |letter: char, tried: &[ID], database: &mut Arc<Database>| -> Option<ID> {
            let is_without_system = with_system.lock().unwrap_or_else(PoisonError::into_inner).is_none();
            if is_without_system && let Some(font) = usual(letter, tried, database) {
                return Some(font);
            }
            let mut system = with_system.lock().unwrap_or_else(PoisonError::into_inner);
            let known = system.get_or_insert_with(|| {
                let mut all = Database::clone(database);
                all.load_system_fonts();
                // What stood in the place of a name that is not there stays what it was.
                all.set_sans_serif_family("Inter");
                all.set_serif_family("Inter");
                Arc::new(all)
            });
            if known.len() > database.len() {
                *database = Arc::clone(known);
            }
            if let Some(font) = plainest(&usual, letter, tried, database) {
                return Some(font);
            }
            if !is_unseen(letter) {
                missing.lock().unwrap_or_else(PoisonError::into_inner).insert(letter);
            }
            None
        };
        let font_resolver = FontResolver {
            select_font: FontResolver::default_font_selector(),
            select_fallback: Box::new(fallback),
        };
        Options {
            font_family: "Inter".to_owned(),
            fontdb: Arc::clone(&self.database),
            font_resolver,
            ..Options::default()
        }
    }

    /// How each of these texts is drawn from the origin in a size of 100. None for what leaves no ink.
    pub(crate) fn inked(&self, texts: &[&str]) -> Vec<Option<Inked>> {
        let mut svg = String::from("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"10\" height=\"10\">");
        for text in texts {
            svg.push_str(&format!(
                "<g id=\"w\"><text font-family=\"{}\" font-weight=\"600\" font-size=\"100\">{}</text></g>",
                self.family,
                escaped(text)
            ));
        }
        svg.push_str("</svg>");
        let mut boxes = Vec::with_capacity(texts.len());
        if let Ok(tree) = Tree::from_str(&svg, &self.options()) {
            for node in tree.root().children() {
                boxes.push(ink(node).map(|ink| {
                    let side = f64::from;
                    let ink = (side(ink.left()), side(ink.top()), side(ink.right()), side(ink.bottom()));
                    Inked { ink, advance: f64::from(node.abs_bounding_box().width()) }
                }));
            }
        }
        // A group in which nothing is drawn is left out of the tree: texts are measured one by one then.
        if boxes.len() != texts.len() {
            return texts
                .iter()
                .map(|text| if texts.len() == 1 { None } else { self.inked(&[text]).pop()? })
                .collect();
        }
        boxes
    }
}

/// How many fonts are looked at for one that goes with the others.
const LOOKED_AT: usize = 60;

/// Of the fonts that have a letter, one without serifs and of usual weight, if there is one.
fn plainest(
    usual: &FallbackSelectionFn<'static>,
    letter: char,
    tried: &[ID],
    database: &mut Arc<Database>,
) -> Option<ID> {
    let (mut first, mut others) = (None, tried.to_vec());
    for _ in 0..LOOKED_AT {
        let Some(font) = usual(letter, &others, database) else { break };
        first.get_or_insert(font);
        let is_plain = database.face(font).is_some_and(|face| {
            let name = face.families.first().map(|(name, _)| name.as_str()).unwrap_or_default();
            let is_picture = letter >= '\u{1f000}';
            name.contains(if is_picture { "Emoji" } else { "Sans" })
                && !name.contains("Mono")
                && face.style == Style::Normal
                && face.stretch == Stretch::Normal
                && (400..=600).contains(&face.weight.0)
        });
        if is_plain {
            return Some(font);
        }
        others.push(font);
    }
    first
}

/// Where the ink of a node lies.
fn ink(node: &Node) -> Option<Rect> {
    match node {
        Node::Group(group) => {
            let mut all: Option<Rect> = None;
            for found in group.children().iter().filter_map(ink) {
                all = Some(match all {
                    Some(known) => Rect::from_ltrb(
                        known.left().min(found.left()),
                        known.top().min(found.top()),
                        known.right().max(found.right()),
                        known.bottom().max(found.bottom()),
                    )?,
                    None => found,
                });
            }
            all
        }
        // A picture in the place of a letter does not tell where it lies; the room of the letter does.
        Node::Text(text) if has_picture(text.flattened()) => Some(text.abs_bounding_box()),
        Node::Text(text) => Some(text.flattened().abs_bounding_box()).filter(|ink| ink.width() > 0.0),
        other => Some(other.abs_bounding_box()),
    }
}

fn has_picture(group: &Group) -> bool {
    group.children().iter().any(|node| match node {
        Node::Group(inner) => has_picture(inner),
        Node::Image(_) => true,
        _ => false,
    })
}

/// Letters that leave no ink anywhere: joiners, selectors, controls.
fn is_unseen(letter: char) -> bool {
    letter.is_control()
        || letter.is_whitespace()
        || matches!(letter, '\u{ad}' | '\u{200b}'..='\u{200f}' | '\u{2060}'..='\u{206f}' | '\u{fe00}'..='\u{fe0f}' | '\u{feff}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ink_is_measured_where_it_lies() {
        let fonts = Fonts::default();
        let boxes = fonts.inked(&["tern", "a tern", "<&>", " "]);
        assert_eq!(boxes.len(), 4);
        let width = |at: usize| boxes[at].map(|inked| inked.ink.2 - inked.ink.0).unwrap_or(0.0);
        assert!(width(0) > 100.0 && width(1) > width(0) && width(2) > 50.0, "{boxes:?}");
        assert_eq!(boxes[3], None);
        assert!(fonts.missing().is_empty());
    }

    #[test]
    fn letters_that_no_font_has_are_told() {
        let fonts = Fonts::default();
        // A code point of a private plane, which no font draws.
        fonts.inked(&["\u{f1234}\u{200d}"]);
        assert_eq!(fonts.missing(), ['\u{f1234}']);
        assert!(Fonts::with(b"no font".to_vec()).is_err());
    }
}
