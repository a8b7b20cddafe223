//! The demo collection, which is part of the program.

/// Every file of the demo: its path, and what is in it.
pub(crate) static FILES: &[(&str, &[u8])] = &[
    ("README.md", include_bytes!("../../../demo/README.md")),
    ("equipment-tickets.jsonl", include_bytes!("../../../demo/equipment-tickets.jsonl")),
    ("field-notes.jsonl", include_bytes!("../../../demo/field-notes.jsonl")),
    ("handbook.epub", include_bytes!("../../../demo/handbook.epub")),
    ("nest-boxes.xlsx", include_bytes!("../../../demo/nest-boxes.xlsx")),
    ("night-posts.json", include_bytes!("../../../demo/night-posts.json")),
    ("notice-board/notices-de.html", include_bytes!("../../../demo/notice-board/notices-de.html")),
    ("notice-board/notices-en.html", include_bytes!("../../../demo/notice-board/notices-en.html")),
    ("notice-board/notices-fr.html", include_bytes!("../../../demo/notice-board/notices-fr.html")),
    ("recipes/languages.toml", include_bytes!("../../../demo/recipes/languages.toml")),
    ("recipes/our-words.csv", include_bytes!("../../../demo/recipes/our-words.csv")),
    ("recipes/search.toml", include_bytes!("../../../demo/recipes/search.toml")),
    ("recipes/topics.toml", include_bytes!("../../../demo/recipes/topics.toml")),
    ("recipes/words.toml", include_bytes!("../../../demo/recipes/words.toml")),
    ("recipes/wrong-order.toml", include_bytes!("../../../demo/recipes/wrong-order.toml")),
    ("reports-2030.zip", include_bytes!("../../../demo/reports-2030.zip")),
    ("saltmere.toml", include_bytes!("../../../demo/saltmere.toml")),
    ("season-summary.pdf", include_bytes!("../../../demo/season-summary.pdf")),
    ("visitor-cards-2030.csv", include_bytes!("../../../demo/visitor-cards-2030.csv")),
    ("visitor-cards.csv", include_bytes!("../../../demo/visitor-cards.csv")),
    (
        "ward-reports/all-wards-2031-12.txt",
        include_bytes!("../../../demo/ward-reports/all-wards-2031-12.txt"),
    ),
    (
        "ward-reports/all-wards-2031-12.yaml",
        include_bytes!("../../../demo/ward-reports/all-wards-2031-12.yaml"),
    ),
    (
        "ward-reports/cockle-flats-2031-06.txt",
        include_bytes!("../../../demo/ward-reports/cockle-flats-2031-06.txt"),
    ),
    (
        "ward-reports/cockle-flats-2031-06.yaml",
        include_bytes!("../../../demo/ward-reports/cockle-flats-2031-06.yaml"),
    ),
    (
        "ward-reports/cockle-flats-2031-10.txt",
        include_bytes!("../../../demo/ward-reports/cockle-flats-2031-10.txt"),
    ),
    (
        "ward-reports/cockle-flats-2031-10.yaml",
        include_bytes!("../../../demo/ward-reports/cockle-flats-2031-10.yaml"),
    ),
    (
        "ward-reports/gull-hide-2031-05.txt",
        include_bytes!("../../../demo/ward-reports/gull-hide-2031-05.txt"),
    ),
    (
        "ward-reports/gull-hide-2031-05.yaml",
        include_bytes!("../../../demo/ward-reports/gull-hide-2031-05.yaml"),
    ),
    (
        "ward-reports/gull-hide-2031-08.txt",
        include_bytes!("../../../demo/ward-reports/gull-hide-2031-08.txt"),
    ),
    (
        "ward-reports/gull-hide-2031-08.yaml",
        include_bytes!("../../../demo/ward-reports/gull-hide-2031-08.yaml"),
    ),
    (
        "ward-reports/lantern-point-2031-07.txt",
        include_bytes!("../../../demo/ward-reports/lantern-point-2031-07.txt"),
    ),
    (
        "ward-reports/lantern-point-2031-07.yaml",
        include_bytes!("../../../demo/ward-reports/lantern-point-2031-07.yaml"),
    ),
    (
        "ward-reports/lantern-point-2031-10.txt",
        include_bytes!("../../../demo/ward-reports/lantern-point-2031-10.txt"),
    ),
    (
        "ward-reports/lantern-point-2031-10.yaml",
        include_bytes!("../../../demo/ward-reports/lantern-point-2031-10.yaml"),
    ),
    (
        "ward-reports/north-spit-2031-04.txt",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-04.txt"),
    ),
    (
        "ward-reports/north-spit-2031-04.yaml",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-04.yaml"),
    ),
    (
        "ward-reports/north-spit-2031-05.txt",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-05.txt"),
    ),
    (
        "ward-reports/north-spit-2031-05.yaml",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-05.yaml"),
    ),
    (
        "ward-reports/north-spit-2031-06.txt",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-06.txt"),
    ),
    (
        "ward-reports/north-spit-2031-06.yaml",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-06.yaml"),
    ),
    (
        "ward-reports/north-spit-2031-07.txt",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-07.txt"),
    ),
    (
        "ward-reports/north-spit-2031-07.yaml",
        include_bytes!("../../../demo/ward-reports/north-spit-2031-07.yaml"),
    ),
    (
        "ward-reports/sedge-pool-2031-04.txt",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-04.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-04.yaml",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-04.yaml"),
    ),
    (
        "ward-reports/sedge-pool-2031-06.txt",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-06.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-06.yaml",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-06.yaml"),
    ),
    (
        "ward-reports/sedge-pool-2031-10.txt",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-10.txt"),
    ),
    (
        "ward-reports/sedge-pool-2031-10.yaml",
        include_bytes!("../../../demo/ward-reports/sedge-pool-2031-10.yaml"),
    ),
    ("warden-mail.mbox", include_bytes!("../../../demo/warden-mail.mbox")),
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_file_of_the_demo_is_part_of_the_program() {
        let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
        let mut there: Vec<String> = Vec::new();
        let mut folders = vec![folder.clone()];
        while let Some(next) = folders.pop() {
            for entry in std::fs::read_dir(next).expect("the demo").flatten() {
                if entry.path().is_dir() {
                    folders.push(entry.path());
                } else {
                    let name = entry.path().strip_prefix(&folder).expect("inside").display().to_string();
                    there.push(name);
                }
            }
        }
        there.sort();
        let mut known: Vec<String> = FILES.iter().map(|(name, _)| (*name).to_owned()).collect();
        known.sort();
        assert_eq!(known, there);
    }

    #[test]
    fn the_demo_names_no_real_address() {
        for (name, content) in FILES {
            let content = String::from_utf8_lossy(content);
            // What is not text names the open standards that it is written in.
            if [".epub", ".xlsx", ".zip", ".pdf"].iter().any(|ending| name.ends_with(ending)) {
                continue;
            }
            for (at, _) in content.match_indices("://").chain(content.match_indices(".org")) {
                let (from, to) =
                    (content.floor_char_boundary(at.saturating_sub(30)), content.ceil_char_boundary(at + 30));
                assert!(content[from..to].contains("example.org"), "{name}: {}", &content[from..to]);
            }
        }
    }
}
