//! The page of a comparison: one file, no network.

use askama::Template;

use crate::html::{BASE_SCRIPT, BASE_STYLE, SHELL_STYLE, policy, within_script};

const SCRIPTS: [&str; 2] = [BASE_SCRIPT, include_str!("../assets/compare/compare.js")];
const STYLES: [&str; 3] = [BASE_STYLE, SHELL_STYLE, include_str!("../assets/compare/compare.css")];

/// What the page of a comparison shows.
#[derive(Clone, Debug, Default)]
pub struct ComparePage {
    /// The names of what is compared.
    pub title: String,
    /// The comparison as JSON.
    pub data: String,
}

#[derive(Template)]
#[template(path = "compare.html")]
struct Page<'a> {
    title: &'a str,
    policy: String,
    styles: &'a [&'a str],
    scripts: &'a [&'a str],
    data: String,
}

/// The page as HTML.
///
/// # Errors
///
/// If the template cannot be filled in.
pub fn compare_html(page: &ComparePage) -> Result<String, askama::Error> {
    let (policy, data) = (policy(&SCRIPTS, &STYLES), within_script(&page.data));
    Page { title: &page.title, policy, styles: &STYLES, scripts: &SCRIPTS, data }.render()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_text_ends_an_element() {
        let hostile = "</script><script>alert(1)</script>".to_owned();
        let page =
            ComparePage { title: hostile.clone(), data: serde_json::json!({ "term": hostile }).to_string() };
        let html = compare_html(&page).expect("a page");
        assert!(!html.contains("<script>alert"), "{html}");
        assert_eq!(html.matches("<script").count(), 3, "the data and the scripts");
    }
}
