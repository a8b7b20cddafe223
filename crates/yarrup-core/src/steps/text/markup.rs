//! HTML and XML taken out of text, with the places of all that stays.

use std::ops::Range;

use memchr::{memchr, memchr2, memmem};

use crate::step::{Built, Facts, Key, Operation, Rewriter, Role, Stage, TextStep};

const TAGS_KEY: Key<bool> = Key::truth("tags", "removes tags, comments, scripts and styles").or("true");

const ENTITIES_KEY: Key<bool> = Key::truth(
    "entities",
    "decodes entities, by name and by number (`&amp;`, `&eacute;`, `&#8217;`); unknown ones stay",
)
.or("true");

pub(crate) static MARKUP: Operation = Operation {
    name: "markup",
    stage: Stage::Text,
    about: "removes HTML and XML tags, comments, scripts and styles, and decodes entities. Elements that stand on lines of their own \
            (`<p>`, `<br>`, `<li>`, …) end the line, table cells become spaces, all other tags leave nothing. Text that only looks like a \
            tag (`a < b`, `<3`, `<warden@example.org>`) stays. Run twice, it decodes twice (`&amp;lt;`)",
    keys: &[&TAGS_KEY.facts, &ENTITIES_KEY.facts],
    example: "tags = true\nentities = true",
    roles: &[Role::Replaces],
    learns: None,
    build: |settings| {
        let on = |key: &Key<bool>| settings.get(key) != Some(false);
        if !on(&TAGS_KEY) && !on(&ENTITIES_KEY) {
            return Err("`markup` has nothing to do: neither tags nor entities".into());
        }
        Ok(Built::Text(Box::new(Markup { tags: on(&TAGS_KEY), entities: on(&ENTITIES_KEY) })))
    },
};

struct Markup {
    tags: bool,
    entities: bool,
}

const TAGS: usize = 0;
const COMMENTS: usize = 1;
const SCRIPTS: usize = 2;
pub(crate) const ENTITIES: usize = 3;

/// Elements whose tags end a line.
const BLOCKS: &[&str] = &[
    "address",
    "article",
    "aside",
    "blockquote",
    "body",
    "br",
    "caption",
    "dd",
    "details",
    "dialog",
    "dir",
    "div",
    "dl",
    "dt",
    "fieldset",
    "figcaption",
    "figure",
    "footer",
    "form",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "head",
    "header",
    "hgroup",
    "hr",
    "html",
    "legend",
    "li",
    "main",
    "menu",
    "nav",
    "ol",
    "optgroup",
    "option",
    "p",
    "pre",
    "section",
    "select",
    "summary",
    "table",
    "tbody",
    "textarea",
    "tfoot",
    "thead",
    "title",
    "tr",
    "ul",
];

/// Elements whose tags part words but end no line.
const CELLS: &[&str] = &["td", "th"];

/// Elements that leave nothing: inline ones, and those without text.
const INLINE: &[&str] = &[
    "a", "abbr", "acronym", "area", "audio", "b", "base", "bdi", "bdo", "big", "button", "canvas", "center",
    "cite", "code", "col", "colgroup", "data", "datalist", "del", "dfn", "em", "embed", "font", "i",
    "iframe", "img", "input", "ins", "kbd", "label", "link", "map", "mark", "meta", "meter", "noscript",
    "object", "output", "param", "picture", "progress", "q", "rp", "rt", "ruby", "s", "samp", "script",
    "slot", "small", "source", "span", "strike", "strong", "style", "sub", "sup", "svg", "template", "time",
    "track", "tt", "u", "var", "video", "wbr",
];

/// What a tag is.
struct Tag {
    end: usize,
    instead: &'static str,
    /// The name of an element whose content is no text.
    hides: Option<&'static str>,
}

/// Which ends were looked for in vain, so that none is looked for twice: the pass stays linear.
#[derive(Default)]
struct Missing {
    comment: bool,
    section: bool,
    instruction: bool,
    script: bool,
    style: bool,
    double_quote: bool,
    single_quote: bool,
}

impl Facts for Markup {
    fn probes(&self) -> Vec<String> {
        let mut probes = Vec::new();
        if self.tags {
            probes.push("<p class=\"note\">nest</p>".to_owned());
        }
        if self.entities {
            probes.push("fish &amp; chips".to_owned());
        }
        probes
    }
}

impl TextStep for Markup {
    fn sorts(&self) -> Vec<String> {
        ["tags", "comments", "scripts and styles", "entities"].map(str::to_owned).to_vec()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        find_markup(self.tags, self.entities, text, range, |sort, place, instead| {
            out.replace_as(sort, place, instead);
        });
    }
}

/// Tells `found` every piece of markup in the stretch `range` of `text`, from left to right: its sort, its place, and what it leaves.
/// The last of the sorts is that of entities.
pub(crate) fn find_markup(
    tags: bool,
    entities: bool,
    text: &str,
    range: Range<usize>,
    mut found: impl FnMut(usize, Range<usize>, &str),
) {
    let stretch = &text[..range.end];
    let bytes = stretch.as_bytes();
    let mut missing = Missing::default();
    let mut at = range.start;
    loop {
        let next = match (tags, entities) {
            (true, true) => memchr2(b'<', b'&', &bytes[at..]),
            (true, false) => memchr(b'<', &bytes[at..]),
            _ => memchr(b'&', &bytes[at..]),
        };
        let Some(offset) = next else { break };
        at += offset;
        if bytes[at] == b'&' {
            match entity(stretch, at) {
                Some((end, decoded)) => {
                    found(ENTITIES, at..end, &decoded);
                    at = end;
                }
                None => at += 1,
            }
            continue;
        }
        if stretch[at..].starts_with("<!--") {
            match until(stretch, at + 4, "-->", &mut missing.comment) {
                Some(end) => {
                    found(COMMENTS, at..end, "");
                    at = end;
                }
                None => at += 1,
            }
            continue;
        }
        if stretch[at..].starts_with("<![CDATA[") {
            match until(stretch, at + 9, "]]>", &mut missing.section) {
                Some(end) => {
                    // Its content is text as it stands.
                    found(TAGS, at..at + 9, "");
                    found(TAGS, end - 3..end, "");
                    at = end;
                }
                None => at += 1,
            }
            continue;
        }
        if stretch[at..].starts_with("<?") {
            let is_instruction = bytes.get(at + 2).is_some_and(u8::is_ascii_alphabetic);
            match is_instruction.then(|| until(stretch, at + 2, "?>", &mut missing.instruction)).flatten() {
                Some(end) => {
                    found(TAGS, at..end, "");
                    at = end;
                }
                None => at += 1,
            }
            continue;
        }
        let Some(tag) = tag(stretch, at, &mut missing) else {
            at += 1;
            continue;
        };
        let hidden = tag.hides.and_then(|name| {
            let (close, gone) = match name {
                "script" => ("</script", &mut missing.script),
                _ => ("</style", &mut missing.style),
            };
            until_ignoring_case(stretch, tag.end, close, gone)
        });
        match hidden {
            Some(close) => {
                let end = memchr(b'>', &bytes[close..]).map_or(bytes.len(), |offset| close + offset + 1);
                found(SCRIPTS, at..end, " ");
                at = end;
            }
            None => {
                found(TAGS, at..tag.end, tag.instead);
                at = tag.end;
            }
        }
    }
}

/// Where the first `sign` from `from` on ends. What is missing once is missing further on.
fn until(text: &str, from: usize, sign: &str, missing: &mut bool) -> Option<usize> {
    if *missing {
        return None;
    }
    let found = memmem::find(text.as_bytes().get(from..)?, sign.as_bytes());
    *missing = found.is_none();
    found.map(|offset| from + offset + sign.len())
}

/// Where the first `sign` from `from` on begins, in whatever letter case.
fn until_ignoring_case(text: &str, from: usize, sign: &str, missing: &mut bool) -> Option<usize> {
    if *missing {
        return None;
    }
    let bytes = text.as_bytes();
    let mut at = from;
    while let Some(offset) = memmem::find(&bytes[at..], b"</") {
        at += offset;
        if bytes.get(at..at + sign.len()).is_some_and(|found| found.eq_ignore_ascii_case(sign.as_bytes())) {
            return Some(at);
        }
        at += 2;
    }
    *missing = true;
    None
}

/// The tag that begins at `at`, if it is one: a known element, or an unknown one whose attributes all have values.
fn tag(text: &str, at: usize, missing: &mut Missing) -> Option<Tag> {
    let bytes = text.as_bytes();
    let mut place = at + 1;
    let closes = bytes.get(place) == Some(&b'/');
    let declares = bytes.get(place) == Some(&b'!');
    place += usize::from(closes || declares);
    let name_at = place;
    if !bytes.get(place)?.is_ascii_alphabetic() {
        return None;
    }
    while bytes
        .get(place)
        .is_some_and(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b'.' | b':'))
    {
        place += 1;
    }
    let name = text[name_at..place].to_ascii_lowercase();
    let known = |names: &[&'static str]| names.iter().copied().find(|known| *known == name);
    let (block, cell, inline) = (known(BLOCKS).is_some(), known(CELLS).is_some(), known(INLINE));
    let declared =
        declares && matches!(name.as_str(), "doctype" | "entity" | "element" | "attlist" | "notation");
    let is_known = block || cell || inline.is_some() || declared;
    // `<https://…>` and `<a.b@c>` are addresses.
    if !is_known && (name.ends_with(':') || declares) {
        return None;
    }
    let mut bare = false;
    loop {
        let byte = *bytes.get(place)?;
        match byte {
            b'>' => break,
            b'<' => return None,
            b'"' | b'\'' => {
                let gone = if byte == b'"' { &mut missing.double_quote } else { &mut missing.single_quote };
                if *gone {
                    return None;
                }
                match memchr(byte, &bytes[place + 1..]) {
                    Some(offset) => place += offset + 2,
                    None => {
                        *gone = true;
                        return None;
                    }
                }
            }
            b'/' | b'=' => place += 1,
            byte if byte.is_ascii_whitespace() => place += 1,
            _ => {
                let before_value =
                    bytes[..place].iter().rev().find(|byte| !byte.is_ascii_whitespace()) == Some(&b'=');
                let rest = &bytes[place..];
                let length = rest
                    .iter()
                    .position(|byte| {
                        byte.is_ascii_whitespace() || matches!(byte, b'>' | b'<' | b'"' | b'\'' | b'=')
                    })
                    .unwrap_or(rest.len());
                if length == 0 || rest[..length].contains(&b'@') && !is_known {
                    return None;
                }
                place += length;
                let value_follows =
                    bytes[place..].iter().find(|byte| !byte.is_ascii_whitespace()) == Some(&b'=');
                bare |= !before_value && !value_follows;
            }
        }
    }
    if !is_known
        && (bare || (closes && bytes[place - 1].is_ascii_whitespace() && place - name_at > name.len() + 1))
    {
        return None;
    }
    let hides = match inline {
        Some(name @ ("script" | "style")) if !closes && bytes[place - 1] != b'/' => Some(name),
        _ => None,
    };
    let instead = if block || declared {
        "\n"
    } else if cell {
        " "
    } else {
        ""
    };
    Some(Tag { end: place + 1, instead, hides })
}

/// The longest entity, between `&` and `;`.
const LONGEST_ENTITY: usize = 32;

/// What the entity at `at` stands for, and where it ends.
fn entity(text: &str, at: usize) -> Option<(usize, String)> {
    let length = text.as_bytes()[at..].iter().take(LONGEST_ENTITY + 2).position(|&byte| byte == b';')?;
    let end = at + length + 1;
    let body = text.get(at + 1..end - 1)?;
    let numbered = body.strip_prefix('#').map(|digits| match digits.strip_prefix(['x', 'X']) {
        Some(digits) => u32::from_str_radix(digits, 16),
        None => digits.parse(),
    });
    match numbered {
        Some(Ok(code)) => {
            let c = match code {
                // Numbers of windows-1252 are what browsers make of them (HTML Living Standard, section 13.2.5.80).
                0x80..=0x9f => char::from_u32(WINDOWS_1252[code as usize - 0x80]),
                0 => Some('\u{fffd}'),
                code => char::from_u32(code),
            };
            Some((end, c?.to_string()))
        }
        Some(Err(_)) => None,
        None if body.is_empty() || !body.bytes().all(|byte| byte.is_ascii_alphanumeric()) => None,
        None => {
            let decoded = html_escape::decode_html_entities(&text[at..end]).into_owned();
            (decoded != text[at..end]).then_some((end, decoded))
        }
    }
}

const WINDOWS_1252: [u32; 32] = [
    0x20ac, 0x81, 0x201a, 0x192, 0x201e, 0x2026, 0x2020, 0x2021, 0x2c6, 0x2030, 0x160, 0x2039, 0x152, 0x8d,
    0x17d, 0x8f, 0x90, 0x2018, 0x2019, 0x201c, 0x201d, 0x2022, 0x2013, 0x2014, 0x2dc, 0x2122, 0x161, 0x203a,
    0x153, 0x9d, 0x17e, 0x178,
];

#[cfg(test)]
mod tests {
    use crate::testing;

    fn cleaned(text: &str) -> String {
        testing::clean("[[step]]\ndo = \"markup\"\n", text)
    }

    #[test]
    fn tags_go_and_entities_are_decoded() {
        let table = [
            ("<p>Two <b>te</b>rns</p><p>and</p>", "\nTwo terns\n\nand\n"),
            ("a<br/>b<BR>c<br />d", "a\nb\nc\nd"),
            ("<td>1</td><td>2</td>", " 1  2 "),
            ("<a href=\"x>y\" title='\"'>link</a>", "link"),
            (
                "fish &amp; chips &eacute;&#233;&#xE9; &#8217; &nope; AT&T; & &;",
                "fish & chips ééé ’ &nope; AT&T; & &;",
            ),
            ("&#150;&nbsp;&lt;b&gt;", "–\u{a0}<b>"),
            ("a<!-- <b> -- >x -->b", "ab"),
            ("a<script type=\"x\">if (a < b) {}</SCRIPT >b<style>p{}</style>c", "a b c"),
            ("<![CDATA[a <b> &amp;]]>", "a <b> &amp;"),
            ("<?xml version=\"1.0\"?><note lang=\"en\">x</note>", "x"),
            ("<!DOCTYPE html>x", "\nx"),
            ("1 < 2 and 3 > 2, a<b, <3, <-, <>", "1 < 2 and 3 > 2, a<b, <3, <-, <>"),
            ("x<y and z>w", "x<y and z>w"),
            ("<warden@example.org> <https://example.org/a>", "<warden@example.org> <https://example.org/a>"),
            ("<dc:title>Terns</dc:title>", "Terns"),
            ("<b", "<b"),
            ("<p <b>x</b>", "<p x"),
            ("<input disabled>x", "x"),
        ];
        for (text, expected) in table {
            assert_eq!(cleaned(text), expected, "{text}");
        }
    }

    /// Each would take minutes if an end were looked for from every beginning.
    #[test]
    fn no_text_is_worse_than_linear() {
        for piece in
            ["<", "<a ", "<a \"", "<!--", "<![CDATA[", "<script>", "&", "&#", "<a '<b \"", "<?x", "<b>", "</"]
        {
            let text = piece.repeat(20_000);
            assert!(cleaned(&text).len() <= text.len());
        }
    }
}
