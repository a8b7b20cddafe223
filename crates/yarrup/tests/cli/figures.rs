//! `figure` and `report`.

use crate::home::Home;

fn home() -> Home {
    let notes: String = (0..40)
        .map(|number| {
            format!(
                "{{\"site\":\"{}\",\"when\":\"20{:02}-05-0{}\",\"text\":\"The terns nest {} times, {} gulls watch <b>\"}}\n",
                ["spit", "hide"][number % 2],
                10 + number / 10,
                1 + number % 9,
                "word".repeat(1 + number % 3),
                "very ".repeat(number % 5)
            )
        })
        .collect();
    let home = Home::with_recipe().file("notes.jsonl", notes);
    home.done("run recipe.toml notes.jsonl --out run --write documents,report,figures");
    home
}

const NAMES: [&str; 9] = [
    "effects",
    "top-terms",
    "rank-frequency",
    "rank-documents",
    "documents-frequency",
    "kinds",
    "growth",
    "lengths",
    "cloud",
];

#[test]
fn a_run_has_all_figures_and_each_can_be_drawn_alone() {
    let home = home();
    for name in NAMES {
        let svg = home.read(&format!("run/figures/{name}.svg"));
        assert!(svg.starts_with("<svg") && !svg.contains("<b>"), "{name}");
        home.done(&format!("figure run {name} --out {name}.svg"));
        assert_eq!(home.read(&format!("{name}.svg")), svg, "{name}");
        assert_eq!(home.done(&format!("figure run {name} --out -")), svg, "{name}");
        let png = std::fs::read(home.path(&format!("run/figures/{name}.png"))).expect("a figure");
        assert!(png.starts_with(b"\x89PNG"));
        // Width and height, as PNG has them.
        home.done(&format!("figure run {name} --out {name}.png --size 1600x900 --theme dark"));
        let png = std::fs::read(home.path(&format!("{name}.png"))).expect("a figure");
        let side = |at: usize| u32::from_be_bytes(png[at..at + 4].try_into().expect("four bytes"));
        assert_eq!((side(16), side(20)), (1600, 900), "{name}");
    }
    assert_eq!(home.names("run/figures").len(), 2 * NAMES.len());
}

#[test]
fn figures_show_what_they_are_asked_for() {
    let home = home();
    let svg = |arguments: &str| home.done(&format!("figure run {arguments} --out -"));
    assert!(svg("top-terms").contains("tern") && !svg("top-terms --leave-out tern").contains(">\ntern\n<"));
    assert!(svg("top-terms --top 2").contains("the 2 commonest terms"));
    let by_site = svg("top-terms --by site");
    assert!(by_site.contains("hide") && by_site.contains("spit"));
    assert!(svg("groups --by when:year").contains("2011"));
    assert!(svg("rank-frequency --rank-up-to 3").contains("3 terms, each a point"));
    assert!(svg("rank-frequency --scale linear") != svg("rank-frequency --scale log"));
    assert!(svg("growth").contains("terms = "));
    let cloud = svg("cloud --shape circle --colours #123456,#abc --title Saltmere");
    assert!(cloud.contains("#123456") && cloud.contains("#aabbcc") && cloud.contains("Saltmere"), "{cloud}");
    assert!(svg("cloud --weight idf").contains("its tokens × idf"));
    assert!(svg("cloud --by site").contains("spit"));
    assert_eq!(svg("cloud"), svg("cloud"));
}

#[test]
fn what_cannot_be_drawn_is_told() {
    let home = home().file("font.otf", "no font").file("there.svg", "mine");
    for (arguments, told) in [
        ("cloud --out x.gif", "ends in .svg or .png"),
        ("cloud --out there.svg", "there.svg"),
        ("cloud --out x.svg --font font.otf", "is not a font"),
        ("cloud --out x.svg --size 10x10", "from 200 to 8000"),
        ("cloud --out x.svg --colours teal", "`teal` is not a colour"),
        ("cloud --out x.svg --weight chi_square", "need --with and a field"),
        ("groups --out x.svg", "needs --by"),
        ("groups --out x.svg --by ward", "no document of the run has a field `ward`"),
        ("parts-of-speech --out x.svg", "gives no parts of speech"),
        ("portrait --out x.svg", "invalid value"),
    ] {
        let err = home.refused(&format!("figure run {arguments}"));
        assert!(err.contains(told), "{arguments}: {err}");
    }
    assert_eq!(home.read("there.svg"), "mine");
    home.done("run recipe.toml notes.jsonl --out bare --without-documents");
    assert!(home.refused("figure bare growth --out x.svg").contains("without its documents"));
    home.done("report bare");
}

#[test]
fn the_page_is_made_again_with_groups() {
    let home = home();
    let before = home.read("run/report.html");
    home.done("report run");
    assert_eq!(home.read("run/report.html"), before);
    home.done("report run --by site");
    let page = home.read("run/report.html");
    assert_ne!(page, before);
    // The command as it was called before.
    home.done("redraw run");
    assert_eq!(home.read("run/report.html"), before);
}

/// Letters that the built-in font lacks come from the system's fonts; what none of them has is told.
#[test]
fn letters_that_no_font_has_are_told() {
    let home = Home::with_recipe().file("notes.jsonl", "{\"text\":\"a\u{f1234}b a\u{f1234}b\"}\n");
    let said = home.yarrup("run recipe.toml notes.jsonl --out run");
    let is_told = said.err.contains("U+F1234") && said.err.contains("--font FILE");
    let has_it = home.read("run/run.json").contains("\"warnings\": []");
    assert!(is_told || has_it, "{said:?}");
}
