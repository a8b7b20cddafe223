//! Which document is meant by what was typed: alike in every command.

/// Which document is meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum WantedDocument {
    /// The one in this place, from 1.
    Number(u64),
    Id(String),
    Longest,
    Shortest,
    /// Any.
    Random,
}

/// The most documents that a range may have.
const WIDEST_RANGE: u64 = 1_000;

impl WantedDocument {
    /// `17`, `note-017`, `id=17` for an id that looks like a number, `longest`, `shortest`, `random`.
    pub(crate) fn read(written: &str) -> WantedDocument {
        match written.trim() {
            "longest" => WantedDocument::Longest,
            "shortest" => WantedDocument::Shortest,
            "random" => WantedDocument::Random,
            other => match (other.strip_prefix("id="), other.parse()) {
                (Some(id), _) => WantedDocument::Id(id.to_owned()),
                (None, Ok(number)) => WantedDocument::Number(number),
                (None, Err(_)) => WantedDocument::Id(other.to_owned()),
            },
        }
    }

    /// Documents as they were typed, with each range such as `3-5` written out.
    pub(crate) fn written_out(typed: &[String]) -> Vec<String> {
        let each = |written: &String| {
            let ends = written.trim().split_once('-');
            let ends = ends.and_then(|(from, to)| Some((from.parse::<u64>().ok()?, to.parse::<u64>().ok()?)));
            match ends {
                Some((from, to)) if from <= to && to - from < WIDEST_RANGE => {
                    (from..=to).map(|number| number.to_string()).collect()
                }
                _ => vec![written.clone()],
            }
        };
        typed.iter().flat_map(each).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_ids_ranges_and_words_are_told_apart() {
        let read = WantedDocument::read;
        assert_eq!(read("17"), WantedDocument::Number(17));
        assert_eq!(read("id=17"), WantedDocument::Id("17".into()));
        assert_eq!(read(" note-17"), WantedDocument::Id("note-17".into()));
        assert_eq!(read("longest"), WantedDocument::Longest);
        let typed: Vec<String> = ["1-3", "note-1", "7", "9-8"].iter().map(|one| (*one).to_owned()).collect();
        assert_eq!(WantedDocument::written_out(&typed), ["1", "2", "3", "note-1", "7", "9-8"]);
    }
}
