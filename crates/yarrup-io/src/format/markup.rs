//! The text of HTML, as a page, a chapter of a book and a mail have it.

use ego_tree::NodeRef;
use ego_tree::iter::Edge;
use scraper::node::Element;
use scraper::{Html, Node, Selector};

use crate::format::xhtml::as_html;

/// What a page says.
#[derive(Debug, Default, PartialEq, Eq)]
pub(crate) struct Page {
    pub(super) title: String,
    pub(super) heading: String,
    pub(super) text: String,
    /// What was kept apart from the text.
    pub(super) apart: String,
    pub(super) language: String,
    /// The values of `meta` elements that people care for, under the names of our fields.
    pub(super) meta: Vec<(&'static str, String)>,
}

/// What is kept apart from the text of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Apart {
    Nothing,
    /// Menus, and the headers and footers of the site.
    Menus,
    /// What a mail quotes.
    Quotes,
}

/// Elements whose content is no text of the page.
const NO_TEXT: [&str; 16] = [
    // The reading above a word, and its brackets.
    "rt", "rp", "script", "style", "noscript", "template", "head", "svg", "math", "iframe", "object",
    "canvas", "select", "button", "audio", "video",
];
/// Elements that stand apart, with a blank line between.
const PARAGRAPHS: [&str; 24] = [
    "p",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "blockquote",
    "pre",
    "ul",
    "ol",
    "dl",
    "table",
    "section",
    "article",
    "figure",
    "hr",
    "header",
    "footer",
    "main",
    "aside",
    "nav",
    "form",
    "fieldset",
];
/// Elements that begin a line.
const LINES: [&str; 16] = [
    "div",
    "li",
    "dt",
    "dd",
    "tr",
    "caption",
    "figcaption",
    "address",
    "body",
    "html",
    "legend",
    "option",
    "summary",
    "details",
    "thead",
    "tbody",
];

/// Elements in which a header, a footer or an aside is that of a part of the page, not that of the site.
const PARTS: [&str; 6] = ["article", "aside", "header", "main", "nav", "section"];
/// Roles (WAI-ARIA 1.2, landmarks and menus) of what leads through a site.
const MENU_ROLES: [&str; 7] =
    ["navigation", "menu", "menubar", "search", "banner", "contentinfo", "complementary"];
/// Classes that programs which make pages give to what leads through a site, where they give it neither an element nor a role of its own.
const MENU_CLASSES: [&str; 8] =
    ["nav", "navbar", "navigation", "navheader", "navfooter", "navpath", "breadcrumb", "breadcrumbs"];

/// Classes that programs for mail give to what is quoted, and to the line over it.
const QUOTE_CLASSES: [&str; 7] = [
    "gmail_quote",
    "gmail_attr",
    "moz-cite-prefix",
    "protonmail_quote",
    "tutanota_quote",
    "yahoo_quoted",
    "zmail_extra",
];

/// Reads a page, and keeps something apart from its text.
///
/// # Errors
///
/// That it is nested deeper than any page that people write: the time to read it grows with the square of the depth.
pub(super) fn read_page(html: &str, apart: Apart) -> Result<Page, String> {
    let html = as_html(html);
    if deepest(&html) > DEEPEST {
        return Err(format!("nested more than {DEEPEST} deep, as only an attack is; not read"));
    }
    let document = Html::parse_document(&html);
    let text_of = |css: &str| {
        let selector = Selector::parse(css).ok();
        let element = selector.and_then(|selector| document.select(&selector).next());
        element.map(|element| collapsed(&element.text().collect::<String>())).unwrap_or_default()
    };
    // The largest: a smaller one may stand over a menu before it.
    let heading = ["h1", "h2", "h3"].into_iter().map(text_of).find(|heading| !heading.is_empty());
    let mut page = Page { title: text_of("title"), heading: heading.unwrap_or_default(), ..Page::default() };
    page.language = document.root_element().attr("lang").unwrap_or_default().to_owned();
    if let Ok(metas) = Selector::parse("meta[content]") {
        for meta in document.select(&metas) {
            let name =
                meta.attr("name").or_else(|| meta.attr("property")).unwrap_or_default().to_ascii_lowercase();
            let field = match name.as_str() {
                "author" | "article:author" | "dc.creator" => "author",
                "description" | "og:description" => "description",
                "keywords" => "keywords",
                "date" | "dc.date" | "article:published_time" => "date",
                _ => continue,
            };
            if !page.meta.iter().any(|(known, _)| *known == field) {
                page.meta.push((field, meta.attr("content").unwrap_or_default().to_owned()));
            }
        }
    }
    (page.text, page.apart) = text(&document, apart);
    // Where all of a page is menus, they are what it says.
    if page.text.is_empty() && apart == Apart::Menus {
        page.text = std::mem::take(&mut page.apart);
    }
    Ok(page)
}

/// How deep a page may be nested.
const DEEPEST: usize = 2000;
/// Elements that have no end, or whose end may be left out because the next of their kind ends them.
const NOT_NESTED: [&str; 28] = [
    "area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "param", "source", "track",
    "wbr", "p", "li", "dt", "dd", "tr", "td", "th", "thead", "tbody", "tfoot", "option", "colgroup", "body",
    "html",
];

/// How deep elements are open in one another, nearly: tags are counted, not understood.
fn deepest(html: &str) -> usize {
    let (mut depth, mut deepest) = (0usize, 0);
    for at in memchr::memchr_iter(b'<', html.as_bytes()) {
        let rest = &html.as_bytes()[at + 1..];
        let closes = rest.first() == Some(&b'/');
        let name = rest.get(usize::from(closes)..).unwrap_or_default();
        let length = name.iter().take_while(|byte| byte.is_ascii_alphanumeric()).count();
        let Some(name) = html.get(at + 1 + usize::from(closes)..).and_then(|name| name.get(..length)) else {
            continue;
        };
        if name.is_empty() || NOT_NESTED.iter().any(|known| known.eq_ignore_ascii_case(name)) {
            continue;
        }
        depth = if closes { depth.saturating_sub(1) } else { depth + 1 };
        deepest = deepest.max(depth);
    }
    deepest
}

/// White space as one space, none at the ends.
pub(super) fn collapsed(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The text of the body: blocks as lines and paragraphs, white space as a browser shows it. Then what is kept apart from it.
fn text(document: &Html, apart: Apart) -> (String, String) {
    let (mut body, mut beside) = (Laid::default(), Laid::default());
    let mut around = (apart == Apart::Menus).then(|| Around::of(document));
    let (mut left_out, mut preformatted, mut quotes) = (0u32, 0u32, 0u32);
    // Along the edges of the tree, not by a function that calls itself: hostile pages nest without end.
    for edge in document.tree.root().traverse() {
        let (node, opens) = match edge {
            Edge::Open(node) => (node, true),
            Edge::Close(node) => (node, false),
        };
        match node.value() {
            Node::Element(element) => {
                let name = element.name();
                if NO_TEXT.contains(&name) || element.attr("hidden").is_some() {
                    step_if(true, &mut left_out, opens);
                    continue;
                }
                if left_out > 0 {
                    continue;
                }
                if let Some(around) = &mut around {
                    around.pass(&node, element, opens);
                }
                step_if(matches!(name, "pre" | "textarea"), &mut preformatted, opens);
                step_if(apart == Apart::Quotes && is_quote(element), &mut quotes, opens);
                let is_paragraph = PARAGRAPHS.contains(&name);
                let is_line = !is_paragraph && LINES.contains(&name);
                for out in [&mut body, &mut beside] {
                    if is_paragraph {
                        out.break_to(2);
                    } else if is_line {
                        out.break_to(1);
                    } else if name == "br" && opens {
                        out.line();
                    } else if matches!(name, "td" | "th") && opens {
                        out.cell();
                    } else if opens && is_note_number(element) {
                        out.space = true;
                    }
                }
            }
            Node::Text(text) if opens && left_out == 0 => {
                let is_apart = quotes > 0 || around.as_ref().is_some_and(Around::is_here);
                let out = if is_apart { &mut beside } else { &mut body };
                if preformatted > 0 {
                    out.verbatim(text);
                } else {
                    out.flowing(text);
                }
            }
            _ => {}
        }
    }
    (body.finish(), beside.finish())
}

/// Whether an element is the number of a note right behind a word, as books have it (EPUB Structural Semantics, DPUB-ARIA).
fn is_note_number(element: &Element) -> bool {
    element.attr("epub:type") == Some("noteref") || element.attr("role") == Some("doc-noteref")
}

/// Whether an element holds what a mail quotes. A block quotation without such a mark is most often an indented part of the writer's own text.
fn is_quote(element: &Element) -> bool {
    let is_cited = element.attr("type").is_some_and(|kind| kind.trim().eq_ignore_ascii_case("cite"));
    let has_bar = || element.attr("style").is_some_and(|style| style.contains("border-left"));
    (element.name() == "blockquote" && (is_cited || has_bar()))
        || element.classes().any(|class| QUOTE_CLASSES.contains(&class))
}

/// Counts how many elements of a sort are open, if this is one.
fn step_if(is: bool, count: &mut u32, opens: bool) {
    if is {
        *count = if opens { *count + 1 } else { count.saturating_sub(1) };
    }
}

/// Whether an element is the main part of its page.
fn is_main(element: &Element) -> bool {
    element.name() == "main"
        || element.attr("role").is_some_and(|role| role.trim().eq_ignore_ascii_case("main"))
}

/// Whether a walk over a page is in what stands around its text: menus, and the headers and footers of the site. The page itself says so.
struct Around {
    /// Whether the page has a main part, so that nothing else is its text.
    has_main: bool,
    /// How many of these are open.
    mains: u32,
    parts: u32,
    menus: u32,
}

impl Around {
    fn of(document: &Html) -> Around {
        let (mut mains, mut has_main) = (0, false);
        // One walk for all: hostile pages put one main part into another without end.
        for edge in document.tree.root().traverse() {
            match edge {
                Edge::Open(node) => match node.value() {
                    Node::Element(element) if is_main(element) => mains += 1,
                    Node::Text(text) if mains > 0 => has_main |= !text.trim().is_empty(),
                    _ => {}
                },
                Edge::Close(node) => mains -= u32::from(node.value().as_element().is_some_and(is_main)),
            }
        }
        Around { has_main, mains: 0, parts: 0, menus: 0 }
    }

    fn is_here(&self) -> bool {
        self.menus > 0 || (self.has_main && self.mains == 0)
    }

    /// Goes into an element or out of it. It is judged by what is open around it, so that it counts alike both ways.
    fn pass(&mut self, node: &NodeRef<'_, Node>, element: &Element, opens: bool) {
        let (is_part, is_main) = (PARTS.contains(&element.name()), is_main(element));
        let parts_around = |around: &mut Around| {
            step_if(is_part, &mut around.parts, opens);
            step_if(is_main, &mut around.mains, opens);
        };
        if !opens {
            parts_around(self);
        }
        step_if(self.is_menu(node, element), &mut self.menus, opens);
        if opens {
            parts_around(self);
        }
    }

    fn is_menu(&self, node: &NodeRef<'_, Node>, element: &Element) -> bool {
        if let Some(role) = element.attr("role") {
            return MENU_ROLES.iter().any(|known| known.eq_ignore_ascii_case(role.trim()));
        }
        let is_of_site = self.parts == 0 && self.mains == 0;
        match element.name() {
            "nav" => true,
            "footer" | "aside" if is_of_site => true,
            // Without a main part, it may hold the heading of the text.
            "header" if is_of_site => {
                let is_heading = |node: NodeRef<'_, Node>| {
                    node.value().as_element().is_some_and(|element| element.name() == "h1")
                };
                !node.descendants().any(is_heading)
            }
            // The marks of the whole page say nothing of its parts.
            "html" | "body" => false,
            _ => element.classes().any(|class| MENU_CLASSES.contains(&class)),
        }
    }
}

/// Text that is being laid out.
#[derive(Default)]
struct Laid {
    text: String,
    /// Line breaks that stand before the next word.
    breaks: usize,
    space: bool,
    /// White space of preformatted text that stands before the next word.
    gap: String,
}

impl Laid {
    fn break_to(&mut self, breaks: usize) {
        self.breaks = self.breaks.max(breaks);
        self.space = false;
        self.gap.clear();
    }

    fn line(&mut self) {
        self.breaks = if self.breaks == 0 { 1 } else { (self.breaks + 1).min(2) };
        self.space = false;
        self.gap.clear();
    }

    fn cell(&mut self) {
        if self.breaks == 0 && !self.text.is_empty() {
            self.text.push('\t');
        }
        self.space = false;
    }

    fn settle(&mut self) {
        self.space |= !std::mem::take(&mut self.gap).is_empty();
        if self.breaks > 0 && !self.text.is_empty() {
            self.text.push_str(&"\n".repeat(self.breaks));
        } else if self.space && !self.text.is_empty() && !self.text.ends_with(['\t', '\n', ' ']) {
            self.text.push(' ');
        }
        self.breaks = 0;
        self.space = false;
    }

    fn flowing(&mut self, text: &str) {
        let html_space = |c: char| matches!(c, ' ' | '\t' | '\n' | '\r' | '\u{c}');
        for (index, word) in text.split(html_space).enumerate() {
            // A no-break space is a letter to this rule, as it is to browsers.
            self.space |= index > 0;
            if !word.is_empty() {
                self.settle();
                self.text.push_str(word);
            }
        }
    }

    /// Preformatted text: all white space between its words stays, also where they stand in elements of their own.
    fn verbatim(&mut self, text: &str) {
        let words = text.trim_end();
        if !words.is_empty() {
            let gap = std::mem::take(&mut self.gap);
            let is_line = self.breaks > 0 || self.text.is_empty();
            self.settle();
            // Of the lines without words before the first, only its own indentation is kept.
            self.text.push_str(if is_line { gap.rsplit('\n').next().unwrap_or_default() } else { &gap });
            self.text.push_str(words);
        }
        self.gap.push_str(&text[words.len()..]);
    }

    fn finish(mut self) -> String {
        self.text.truncate(self.text.trim_end().len());
        self.text
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_page_becomes_its_title_and_its_text() {
        let page = read_page(
            "<!doctype html><html lang=en><head><title>Gull &amp; Hide </title><meta name=author content='Mira'>\
             <style>p{}</style></head><body><h3>Menu</h3><h1>The  hide</h1><p>Sand in&nbsp;<b>every</b>thing.<br>Bring a\ncushion.\
             <ul><li>one<li>two</ul><table><tr><td>a<td>b<tr><td>c<td>d</table><pre>x\n  <i>y</i> <b>z</b>\n<i>w</i>\n</pre><script>var p;</script>",
            Apart::Nothing,
        )
        .expect("a page");
        assert_eq!(page.title, "Gull & Hide");
        assert_eq!(page.heading, "The hide");
        assert_eq!(page.language, "en");
        assert_eq!(page.meta, [("author", "Mira".to_owned())]);
        assert_eq!(
            page.text,
            "Menu\n\nThe hide\n\nSand in\u{a0}everything.\nBring a cushion.\n\none\ntwo\n\na\tb\nc\td\n\nx\n  y z\nw"
        );
    }

    #[test]
    fn readings_above_words_and_numbers_of_notes_are_no_parts_of_words() {
        for (html, text) in [
            ("<p><ruby>漢字<rp>(</rp><rt>かんじ</rt><rp>)</rp></ruby>を読む", "漢字を読む"),
            ("<p><ruby>漢<rt>かん</ruby>字", "漢字"),
            ("<p>a tern<a epub:type=noteref>1</a>, dived", "a tern 1, dived"),
            ("<p>a tern<sup role='doc-noteref'>2</sup> dived", "a tern 2 dived"),
        ] {
            assert_eq!(read_page(html, Apart::Nothing).expect("a page").text, text, "{html}");
        }
    }

    #[test]
    fn menus_are_told_from_the_text() {
        for (html, text, menus) in [
            // A page that says which part of it is the main one.
            (
                "<header>Saltmere</header><main><header><h1>Terns</h1></header><p>They dive.<nav>On this page</nav><aside>A note.</aside></main><footer>2031</footer>",
                "Terns\n\nThey dive.\n\nA note.",
                "Saltmere\n\nOn this page\n\n2031",
            ),
            ("<div role=main>Gulls</div><div class=sidebar>Next</div>", "Gulls", "Next"),
            // One that does not: roles, elements and classes tell.
            (
                "<div role=' Navigation'>Home</div><div class='related NAVBAR navbar'>Up</div><header><h1>Terns</h1></header><p>They dive.",
                "Terns\n\nThey dive.",
                "Home\nUp",
            ),
            (
                "<header>Saltmere</header><article><header>Terns</header>dive<footer>Mira</footer></article>",
                "Terns\n\ndive\n\nMira",
                "Saltmere",
            ),
            ("<section><aside>A note.</aside></section><aside>Other pages</aside>", "A note.", "Other pages"),
            // Of headers in one another, the outer is that of the site; a role is one in any letter case.
            ("<header>A<header>B</header></header><div role=MAIN><div>Terns</div></div>", "Terns", "A\n\nB"),
            // The class of the whole page is none of a part of it.
            ("<body class=nav><p>Terns", "Terns", ""),
            // An empty main part is none, and a page of menus has these for its text.
            ("<main> </main><p>Terns", "Terns", ""),
            ("<nav>Home<li>Terns</nav>", "Home\nTerns", ""),
            (
                "<ul class=nav><li>Home<li hidden>no<li>Up</ul><table><tr><td>a<td>b</table>",
                "a\tb",
                "Home\nUp",
            ),
        ] {
            let page = read_page(html, Apart::Menus).expect("a page");
            assert_eq!((page.text.as_str(), page.apart.as_str()), (text, menus), "{html}");
            let whole = read_page(html, Apart::Nothing).expect("a page");
            assert_eq!(whole.apart, "", "{html}");
            let words = |text: &str| {
                let mut words: Vec<_> = text.split_whitespace().map(str::to_owned).collect();
                words.sort();
                words
            };
            assert_eq!(words(&whole.text), words(&format!("{text} {menus}")), "nothing is lost: {html}");
        }
    }

    #[test]
    fn endless_nesting_is_refused_and_deep_nesting_read() {
        assert!(read_page(&format!("{}tern", "<div>".repeat(1_000_000)), Apart::Nothing).is_err());
        assert_eq!(
            read_page(&format!("{}tern", "<div>".repeat(1000)), Apart::Nothing).expect("a page").text,
            "tern"
        );
        // Ends that are left out are no nesting.
        assert!(read_page(&"<p>tern<br><li>gull".repeat(5000), Apart::Nothing).is_ok());
    }
}
