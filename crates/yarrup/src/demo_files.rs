//! The demo collection, which is part of the program.

/// Every file of the demo: its path, and what is in it.
pub(crate) static FILES: &[(&str, &str)] = &[
    ("README.md", include_str!("../../../demo/README.md")),
    ("field-notes.jsonl", include_str!("../../../demo/field-notes.jsonl")),
    ("visitor-cards.csv", include_str!("../../../demo/visitor-cards.csv")),
    ("recipes/topics.toml", include_str!("../../../demo/recipes/topics.toml")),
    ("recipes/search.toml", include_str!("../../../demo/recipes/search.toml")),
    ("recipes/wrong-order.toml", include_str!("../../../demo/recipes/wrong-order.toml")),
    ("recipes/our-words.csv", include_str!("../../../demo/recipes/our-words.csv")),
    ("ward-reports/all-wards-2031-12.txt", include_str!("../../../demo/ward-reports/all-wards-2031-12.txt")),
    (
        "ward-reports/cockle-flats-2031-06.txt",
        include_str!("../../../demo/ward-reports/cockle-flats-2031-06.txt"),
    ),
    (
        "ward-reports/cockle-flats-2031-10.txt",
        include_str!("../../../demo/ward-reports/cockle-flats-2031-10.txt"),
    ),
    ("ward-reports/gull-hide-2031-05.txt", include_str!("../../../demo/ward-reports/gull-hide-2031-05.txt")),
    ("ward-reports/gull-hide-2031-08.txt", include_str!("../../../demo/ward-reports/gull-hide-2031-08.txt")),
    (
        "ward-reports/lantern-point-2031-07.txt",
        include_str!("../../../demo/ward-reports/lantern-point-2031-07.txt"),
    ),
    (
        "ward-reports/lantern-point-2031-10.txt",
        include_str!("../../../demo/ward-reports/lantern-point-2031-10.txt"),
    ),
    (
        "ward-reports/north-spit-2031-04.txt",
        include_str!("../../../demo/ward-reports/north-spit-2031-04.txt"),
    ),
    (
        "ward-reports/north-spit-2031-05.txt",
        include_str!("../../../demo/ward-reports/north-spit-2031-05.txt"),
    ),
    (
        "ward-reports/north-spit-2031-06.txt",
        include_str!("../../../demo/ward-reports/north-spit-2031-06.txt"),
    ),
    (
        "ward-reports/north-spit-2031-07.txt",
        include_str!("../../../demo/ward-reports/north-spit-2031-07.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-04.txt",
        include_str!("../../../demo/ward-reports/sedge-pool-2031-04.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-06.txt",
        include_str!("../../../demo/ward-reports/sedge-pool-2031-06.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-10.txt",
        include_str!("../../../demo/ward-reports/sedge-pool-2031-10.txt"),
    ),
];

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    /// The texts of the demo, told apart by their first words.
    fn texts() -> Vec<String> {
        let mut texts = Vec::new();
        for (name, content) in FILES {
            if name.ends_with(".jsonl") {
                texts.extend(content.lines().map(|line| {
                    let value: serde_json::Value = serde_json::from_str(line).expect("a note is an object");
                    value["note"]["text"].as_str().expect("a note has a text").to_owned()
                }));
            } else if name.starts_with("ward-reports/") {
                texts.push((*content).to_owned());
            } else if name.ends_with("cards.csv") {
                texts.extend(content.split("\r\ncard-").skip(1).map(str::to_owned));
            }
        }
        texts
    }

    #[test]
    fn the_demo_holds_at_least_120_different_texts() {
        let texts = texts();
        let different: HashSet<&String> = texts.iter().collect();
        assert_eq!(different.len(), texts.len());
        assert!(texts.len() >= 120, "{}", texts.len());
    }

    #[test]
    fn the_demo_names_no_real_address() {
        for (name, content) in FILES {
            for (at, _) in content.match_indices("://").chain(content.match_indices(".org")) {
                let line = &content[at.saturating_sub(30)..content.len().min(at + 30)];
                assert!(line.contains("example.org"), "{name}: {line}");
            }
        }
    }
}
