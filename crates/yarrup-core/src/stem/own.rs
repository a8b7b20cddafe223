//! A user's own suffix rules: the longest ending that fits and leaves enough of the word is replaced, once.

use std::collections::BTreeMap;

use toml::Spanned;

/// Suffix rules as a small TOML table gives them.
#[derive(Debug, Default)]
pub struct OwnRules {
    exceptions: BTreeMap<String, String>,
    /// Ending, what comes in its place, and how many letters must be left before it; the longest first.
    endings: Vec<(String, String, usize)>,
}

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Written {
    #[serde(default)]
    minimum_stem: Option<usize>,
    #[serde(default)]
    endings: BTreeMap<Spanned<String>, Ending>,
    #[serde(default)]
    exceptions: BTreeMap<String, String>,
}

#[derive(serde::Deserialize)]
#[serde(
    untagged,
    expecting = "an ending is followed by what comes in its place, or by `{ to = \"…\", minimum_stem = 3 }`"
)]
enum Ending {
    Put(String),
    With { to: String, minimum_stem: usize },
}

/// How many letters must be left where the table does not say.
const MINIMUM_STEM: usize = 3;

impl OwnRules {
    /// Reads the table.
    ///
    /// # Errors
    ///
    /// The line and what is wrong there.
    pub fn read(text: &str) -> Result<OwnRules, String> {
        let line_of = |at: usize| text[..at.min(text.len())].matches('\n').count() + 1;
        let written: Written = toml::from_str(text).map_err(|fault| {
            let line = fault.span().map_or(String::new(), |span| format!("line {}: ", line_of(span.start)));
            format!("{line}{}", fault.message())
        })?;
        let minimum = written.minimum_stem.unwrap_or(MINIMUM_STEM);
        let mut endings = Vec::new();
        for (ending, put) in written.endings {
            if ending.get_ref().is_empty() {
                return Err(format!("line {}: an ending without letters", line_of(ending.span().start)));
            }
            let (to, least) = match put {
                Ending::Put(to) => (to, minimum),
                Ending::With { to, minimum_stem } => (to, minimum_stem),
            };
            endings.push((ending.into_inner(), to, least));
        }
        if endings.is_empty() && written.exceptions.is_empty() {
            return Err("there is no ending under `[endings]`".to_owned());
        }
        endings.sort_by(|a, b| b.0.chars().count().cmp(&a.0.chars().count()).then_with(|| a.0.cmp(&b.0)));
        Ok(OwnRules { exceptions: written.exceptions, endings })
    }

    /// The stem of `word`.
    pub fn stem(&self, word: &str) -> String {
        if let Some(stem) = self.exceptions.get(word) {
            return stem.clone();
        }
        for (ending, to, least) in &self.endings {
            if let Some(left) = word.strip_suffix(ending.as_str())
                && left.chars().count() >= *least
            {
                return format!("{left}{to}");
            }
        }
        word.to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_longest_ending_that_leaves_enough_is_replaced() {
        let rules = OwnRules::read(
            "minimum_stem = 3\n[endings]\n\"ies\" = \"y\"\n\"s\" = \"\"\n\"ness\" = { to = \"\", minimum_stem = 5 }\n[exceptions]\n\"news\" = \"news\"\n",
        )
        .expect("read");
        for (word, stem) in [
            ("stories", "story"),
            ("ties", "tie"),
            ("nests", "nest"),
            ("news", "news"),
            ("bus", "bus"),
            ("wetness", "wetnes"),
            ("quietness", "quiet"),
            ("nest", "nest"),
        ] {
            assert_eq!(rules.stem(word), stem, "{word}");
        }
    }

    #[test]
    fn faults_are_told_with_their_line() {
        for (text, part) in [
            ("[endings]\n\"s\" = 3\n", "line 2"),
            ("[endings]\n\"\" = \"x\"\n", "without letters"),
            ("minimum = 2\n", "unknown field"),
            ("", "no ending"),
        ] {
            let fault = OwnRules::read(text).expect_err("faulty");
            assert!(fault.contains(part), "{text}: {fault}");
        }
    }
}
