//! The page of a comparison: one file, no network.

use askama::Template;

static SCRIPT: &str = include_str!("../assets/compare.js");
static STYLE: &str = include_str!("../assets/compare.css");

/// The hash of the script, which alone the page's policy lets run. A test says what it must be.
const SCRIPT_HASH: &str = "sha256-8tDTUiz3lfYUAnYoW9uDmXhmoIKgXto5wvQKv71tBVo=";

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
    style: &'a str,
    script: &'a str,
    data: String,
}

/// The page as HTML.
///
/// # Errors
///
/// If the template cannot be filled in.
pub fn compare_html(page: &ComparePage) -> Result<String, askama::Error> {
    let policy = format!(
        "default-src 'none'; script-src '{SCRIPT_HASH}'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'"
    );
    // Within a script element no text may end it, nor begin a comment.
    let data =
        page.data.replace('<', "\\u003c").replace('\u{2028}', "\\u2028").replace('\u{2029}', "\\u2029");
    Page { title: &page.title, policy, style: STYLE, script: SCRIPT, data }.render()
}

#[cfg(test)]
mod tests {
    use super::*;
    use base64::Engine;
    use sha2::Digest;

    #[test]
    fn the_policy_names_the_script_and_no_text_ends_an_element() {
        let digest = sha2::Sha256::digest(SCRIPT.as_bytes());
        assert_eq!(
            SCRIPT_HASH,
            format!("sha256-{}", base64::engine::general_purpose::STANDARD.encode(digest))
        );
        let hostile = "</script><script>alert(1)</script>".to_owned();
        let page =
            ComparePage { title: hostile.clone(), data: serde_json::json!({ "term": hostile }).to_string() };
        let html = compare_html(&page).expect("a page");
        assert!(!html.contains("<script>alert"), "{html}");
        assert_eq!(html.matches("<script").count(), 2, "the data and the script");
    }
}
