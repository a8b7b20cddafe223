//! What pages of one family have in common: their policy, scripts and styles.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use sha2::{Digest as _, Sha256};

/// Numbers and texts as people read them, elements, packed blocks, light and dark.
pub(crate) const BASE_SCRIPT: &str = include_str!("../assets/page/base.js");
/// Colours and type.
pub(crate) const BASE_STYLE: &str = include_str!("../assets/page/base.css");
/// The contents beside the page, on any width and on paper.
pub(crate) const SHELL_STYLE: &str = include_str!("../assets/page/shell.css");

/// The policy of a page: nothing is fetched, sent or framed, and these scripts alone run.
pub(crate) fn policy(scripts: &[&str], styles: &[&str]) -> String {
    let hashes = |texts: &[&str]| {
        let hash = |text: &&str| format!(" 'sha256-{}'", STANDARD.encode(Sha256::digest(text.as_bytes())));
        texts.iter().map(hash).collect::<String>()
    };
    format!(
        "default-src 'none'; script-src{}; style-src{}; base-uri 'none'; form-action 'none'",
        hashes(scripts),
        hashes(styles)
    )
}

/// JSON as it can stand within a script element: no text of it ends the element, nor begins a comment.
pub(crate) fn within_script(json: &str) -> String {
    json.replace('<', "\\u003c").replace('\u{2028}', "\\u2028").replace('\u{2029}', "\\u2029")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_text_ends_a_script_and_other_scripts_do_not_run() {
        let hostile =
            serde_json::json!({ "term": "</script><script>alert(1)</script><!--\u{2028}" }).to_string();
        let safe = within_script(&hostile);
        assert!(!safe.contains('<') && !safe.contains('\u{2028}'));
        let [one, other]: [serde_json::Value; 2] =
            [&hostile, &safe].map(|json| serde_json::from_str(json).expect("JSON"));
        assert_eq!(one, other);
        let told = policy(&["a", "b"], &["c"]);
        assert_eq!(told.matches("'sha256-").count(), 3);
        assert!(!told.contains("unsafe") && told.contains("base-uri 'none'; form-action 'none'"));
    }
}
