//! Words that were broken at line ends.

/// Words that were broken at line ends, whole again: where letters stand before the hyphen and a small letter begins the next line. What
/// was written with a hyphen and happens to stand at a line's end loses it too.
pub(crate) fn rejoined(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut lines = text.split('\n').peekable();
    while let Some(line) = lines.next() {
        let trimmed = line.trim_end();
        let stem = trimmed.strip_suffix(['-', '\u{ad}', '\u{2010}']);
        let broken = stem.filter(|stem| stem.chars().next_back().is_some_and(char::is_alphabetic));
        // Between the lines of a page, some programs leave blank ones.
        let blank = lines.clone().take_while(|line| line.trim().is_empty()).count();
        let next = if blank > 1 { None } else { lines.clone().nth(blank).map(str::trim_start) };
        match (broken, next) {
            (Some(stem), Some(next)) if next.chars().next().is_some_and(char::is_lowercase) => {
                let indent = line.len() - line.trim_start().len();
                out.push_str(if out.ends_with('\n') || out.is_empty() { stem } else { &stem[indent..] });
                // The rest of the word comes up; what follows it stays where it is.
                let Some(next) = lines.nth(blank) else { break };
                let next = next.trim_start();
                let end = next.find(char::is_whitespace).unwrap_or(next.len());
                let rest = next[end..].trim_start();
                // The rest may end in a broken word of its own.
                if rest.is_empty() && next.trim_end().ends_with('-') && lines.peek().is_some() {
                    out.push_str(next.trim_end());
                } else {
                    out.push_str(&next[..end]);
                }
                out.push('\n');
                if !rest.is_empty() {
                    let tail: Vec<&str> = std::iter::once(rest).chain(lines).collect();
                    out.push_str(&rejoined(&tail.join("\n")));
                    return out;
                }
            }
            _ => {
                out.push_str(line);
                if lines.peek().is_some() {
                    out.push('\n');
                }
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_rejoined_at_line_ends() {
        for (text, expected) in [
            ("the consid-\nerations of\nterns", "the considerations\nof\nterns"),
            ("Saltmere-\nNorth", "Saltmere-\nNorth"),
            ("pages 3-\n4", "pages 3-\n4"),
            ("no hyphen\nhere", "no hyphen\nhere"),
            ("one-\ntwo three-\nfour", "onetwo\nthreefour\n"),
            ("consid-\n\nerations on", "considerations\non"),
        ] {
            assert_eq!(rejoined(text), expected, "{text}");
        }
    }
}
