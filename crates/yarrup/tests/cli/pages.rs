//! The pages in a real browser: with a mouse, with the keyboard alone, in dark colours, on a narrow screen, with hostile texts.

use crate::browser::Browser;
use crate::home::Home;

const READY: &str = "document.documentElement.dataset.ready === '' && document.querySelector('#terms-table').dataset.ready === ''";

/// The row of a table that holds this word.
fn row(table: &str, word: &str) -> String {
    format!(
        "[...document.querySelectorAll('#{table} .tabulator-row')].find((row) => row.querySelector('button.open').textContent === '{word}')"
    )
}

/// A run with text steps, phrases, tags, labels, several sites, an emptied document.
fn explored() -> Home {
    let home = Home::new()
        .file(
            "recipe.toml",
            "recipe = \"watch\"\nabout = \"What the wardens saw\"\n[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n\
             [[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"a\", \"over\"]\n\
             [[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"terns\"]\n[[step]]\ndo = \"stem\"\n",
        )
        .file(
            "notes.csv",
            "id,site,text\none,Gull Hide,\"The terns over the spit, https://spit.example.org; a tern again.\"\ntwo,Gull Hide,A barn owl hunts. Barn owls hunt!\n\
             three,North Spit,\"The barn owl and the terns, terns, terns.\"\nfour,North Spit,The a.\nfive,Spit,\"🐦 É tern — barn owl.\"\n",
        );
    home.done("run recipe.toml notes.csv --out run");
    home.done("report run --by site");
    home
}

#[test]
fn one_goes_from_a_term_to_a_line_to_a_document_to_a_token() {
    let home = explored();
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("run/report.html"), READY);
    // Every row is there: what is left and what went.
    let rows = |home: &Home, name: &str| home.rows(name);
    let (terms, forms) = (rows(&home, "run/vocabulary.csv"), rows(&home, "run/forms.csv"));
    let gone = forms.iter().filter(|form| form[5] != "kept").count();
    let told = browser.text("document.querySelector('#terms-bar .told').textContent");
    assert_eq!(told, format!("{0} of {0} rows", terms.len() + gone));
    browser.click("document.querySelector('#terms-bar input[type=search]')");
    // It finds a term by a form of it.
    browser.typed("terns");
    browser.wait("document.querySelectorAll('#terms-table .tabulator-row').length === 1");
    browser.click(&format!("{}.querySelector('button.open')", row("terms-table", "tern")));
    browser.wait("document.querySelector('#panel .panel-body').dataset.ready === ''");
    let panel = browser.text("document.querySelector('#panel').innerText");
    for told in [
        "6",
        "tokens",
        "3",
        "documents",
        "label bird",
        "terns",
        "step 8, stem",
        "Gull Hide",
        "North Spit",
        "one",
        "three",
        "five",
    ] {
        assert!(panel.contains(told), "{told}: {panel}");
    }
    let forms_of: String = browser.text("document.querySelector('#panel table').innerText");
    let spelled = |form: &str| forms.iter().find(|row| row[0] == form).expect("a form")[3].clone();
    for form in ["tern", "terns"] {
        assert!(
            forms_of.lines().any(|line| line.starts_with(&format!("{form}\t{}\t", spelled(form)))),
            "{forms_of}"
        );
    }
    // From a line to its document, at the word.
    browser.click(
        "[...document.querySelectorAll('#panel .lines button')].find((link) => link.textContent === 'three')",
    );
    browser.wait("document.querySelector('#panel-title').textContent === 'three' && document.querySelector('#panel .token.current')");
    let parts = browser.text("[...document.querySelectorAll('#panel .reading:not(.clean) .token')].map((token) => token.className.split(' ')[1] + ':' + token.textContent).join(' ')");
    assert_eq!(
        parts,
        "dropped:The joined:barn joined:owl kept:and dropped:the changed:terns dropped:, changed:terns dropped:, changed:terns dropped:."
    );
    assert_eq!(
        browser.text("document.querySelector('#panel .clean').textContent"),
        "barn_owl and tern tern tern"
    );
    browser.point("document.querySelectorAll('#panel .reading .token.dropped')[0]");
    browser
        .wait("document.querySelector('.token-told').textContent.includes('dropped by step 6, stopwords')");
    browser.point("document.querySelector('#panel .reading .token.joined')");
    browser.wait("document.querySelector('.token-told').textContent.includes('joined into barn_owl by step 4, phrases')");
    assert!(browser.text("document.querySelector('.token-told').textContent").contains("kept as barn_owl"));
    // A token opens what became of it; each view is one step back.
    browser.click("document.querySelector('#panel .reading .token.joined')");
    browser.wait("document.querySelector('#panel-title').textContent === 'barn_owl'");
    browser.click("document.querySelector('#panel .back')");
    browser.wait("document.querySelector('#panel-title').textContent === 'three'");
    browser.key("Escape");
    browser.wait("document.querySelector('#panel').hidden");
    let overview = browser.text("document.querySelector('#overview').innerText");
    assert!(overview.contains("Documents of which nothing is left\n\n1: four"), "{overview}");
    // Tokens that a step on the text rewrote stand where they stood.
    browser.value("location.hash = 'document=one'");
    browser.wait("document.querySelector('#panel-title').textContent === 'one'");
    browser.wait("document.querySelector('#panel .reading .token')");
    let parts = browser.text("[...document.querySelectorAll('#panel .reading:not(.clean) .token')].map((token) => token.className.split(' ')[1] + ':' + token.textContent).join(' ')");
    assert_eq!(
        parts,
        "dropped:The changed:terns dropped:over dropped:the kept:spit dropped:, kept:https://spit.example.org dropped:; dropped:a kept:tern kept:again dropped:."
    );
    browser.key("Escape");
    // What was opened can be linked.
    browser.value("location.hash = 'term=hunt'");
    browser.wait("document.querySelector('#panel-title').textContent === 'hunt'");
    browser.key("Escape");
    browser.click("document.querySelector('#emptied button')");
    browser.wait("document.querySelector('#panel-title').textContent === 'four'");
    assert!(browser.text("document.querySelector('#panel').innerText").contains("Nothing is left."));
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn the_keyboard_alone_is_enough() {
    let home = explored();
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("run/report.html"), READY);
    let focus = "document.activeElement.tagName + ' ' + (document.activeElement.type || document.activeElement.className) + ' ' + document.activeElement.textContent.trim()";
    browser.key("Tab");
    assert!(browser.text(focus).contains("Skip to the content"));
    let mut pressed = 0;
    while browser.text("document.activeElement.type || ''") != "search" {
        browser.key("Tab");
        pressed += 1;
        assert!(pressed < 40, "{}", browser.text(focus));
    }
    browser.typed("t");
    browser.wait("document.querySelectorAll('#terms-table .tabulator-row').length > 2");
    while !browser.text("document.activeElement.className").contains("open") {
        browser.key("Tab");
        pressed += 1;
        assert!(pressed < 60, "{}", browser.text(focus));
    }
    let first = browser.text("document.activeElement.textContent");
    browser.key("ArrowDown");
    let second = browser.text("document.activeElement.textContent");
    assert_ne!(first, second);
    browser.key("Enter");
    browser.wait(&format!("document.querySelector('#panel-title').textContent === '{second}' && document.activeElement.id === 'panel-title'"));
    browser.wait("document.querySelector('#panel .lines button')");
    while !browser.text("document.activeElement.className").contains("link") {
        browser.key("Tab");
    }
    browser.key("Enter");
    browser.wait("document.querySelector('#panel .reading')");
    while browser.text("document.activeElement.className") != "reading" {
        browser.key("Tab");
    }
    let told = browser.text("document.querySelector('.token-told').textContent");
    browser.key("ArrowRight");
    browser
        .wait(&format!("document.querySelector('.token-told').textContent !== {}", serde_json::json!(told)));
    browser.key("Escape");
    // Back where one came from.
    browser.wait(&format!("document.activeElement.textContent === '{second}'"));
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn figures_name_their_points_zoom_in_and_out_and_open_terms() {
    let home = explored();
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("run/report.html"), READY);
    browser.point("document.querySelector('#rank-frequency')");
    browser.wait("document.querySelector('#rank-frequency .chart').dataset.ready === ''");
    let over = "document.querySelector('#rank-frequency .u-over')";
    // Ticks tell what is seen.
    let scale = "document.querySelector('#rank-frequency .chart').dataset.zoomed";
    assert_eq!(browser.text(scale), "false");
    browser.drag(over, (160.0, 90.0));
    browser.wait(&format!("{scale} === 'true' && !document.querySelector('#rank-frequency .chart-tools button:nth-child(3)').disabled"));
    let place = browser.point_at(&format!(
        "(() => {{ const box = {over}.getBoundingClientRect(); return [box.left + 20, box.top + 20]; }})()"
    ));
    browser.click_at(place, 2);
    browser.wait(&format!("{scale} === 'false'"));
    browser.click("document.querySelector('#rank-frequency .chart-tools button')");
    browser.wait(&format!("{scale} === 'true'"));
    browser.click("document.querySelector('#rank-frequency .chart-tools button:nth-child(3)')");
    browser.wait(&format!("{scale} === 'false'"));
    // The first rank stands at the left: six tokens.
    let sweep = "(async () => { const over = document.querySelector('#rank-frequency .u-over'); const box = over.getBoundingClientRect(); \
         const tip = document.querySelector('#rank-frequency .tip'); \
         for (let y = 2; y < box.height; y += 6) { for (let x = 2; x < box.width / 2; x += 6) { \
           over.dispatchEvent(new MouseEvent('mousemove', { clientX: box.left + x, clientY: box.top + y, bubbles: true })); \
           await Promise.resolve(); if (!tip.hidden && tip.textContent.includes('rank 1 ')) { return [box.left + x, box.top + y]; } } } return null; })()";
    let place = browser.point_at(sweep);
    assert_eq!(
        browser.text("document.querySelector('#rank-frequency .tip').textContent"),
        "tern · rank 1 · 6 tokens"
    );
    browser.click_at(place, 1);
    browser.wait("document.querySelector('#panel-title').textContent === 'tern'");
    browser.key("Escape");
    for figure in ["rank-documents", "documents-frequency", "kinds", "groups", "growth", "lengths", "cloud"] {
        browser.point(&format!("document.querySelector('#{figure}')"));
        browser.wait(&format!("document.querySelector('#{figure} .drawing').childElementCount > 0"));
    }
    let groups = browser.text("document.querySelector('#groups').innerText");
    assert!(groups.contains("Gull Hide") && groups.contains("North Spit"), "{groups}");
    browser.click(
        "[...document.querySelectorAll('#cloud text')].find((text) => text.textContent.trim() === 'hunt')",
    );
    browser.wait("document.querySelector('#panel-title').textContent === 'hunt'");
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn a_checker_of_accessibility_finds_nothing_in_light_and_dark() {
    let home = explored();
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("run/report.html"), READY);
    for part in ["#documents-table", "#rank-frequency", "#kinds", "#groups", "#growth", "#lengths", "#cloud"]
    {
        browser.point(&format!("document.querySelector('{part}')"));
        std::thread::sleep(std::time::Duration::from_millis(120));
    }
    for theme in ["Dark", "Light"] {
        browser.click(&format!("{}.querySelector('button.open')", row("terms-table", "tern")));
        browser.wait("document.querySelector('#panel .lines button')");
        assert_eq!(browser.findings(), Vec::<String>::new(), "a term, before {theme}");
        browser.click("document.querySelector('#panel .lines button')");
        browser.wait("document.querySelector('#panel .reading .token')");
        assert_eq!(browser.findings(), Vec::<String>::new(), "a document, before {theme}");
        browser.key("Escape");
        browser.click("document.querySelector('button.theme')");
        let name = browser.text("document.querySelector('button.theme').textContent");
        assert_ne!(name, theme);
    }
    // On a narrow screen nothing is wider than the screen.
    browser.size(390, 844);
    browser.open(&home.path("run/report.html"), READY);
    browser.wait("document.documentElement.scrollWidth <= 390");
    assert_eq!(browser.findings(), Vec::<String>::new(), "narrow");
    assert!(browser.printed().len() > 10_000);
    // Paper has the tables by their first rows, and not the long ones.
    let on_paper = "[...document.querySelectorAll('.on-paper tbody')].map((rows) => rows.childElementCount)";
    let rows = home.rows("run/vocabulary.csv").len()
        + home.rows("run/forms.csv").iter().filter(|form| form[5] != "kept").count();
    assert_eq!(browser.value(on_paper), serde_json::json!([rows, 5]));
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn hostile_and_foreign_texts_are_shown_and_do_nothing() {
    let hostile = "</script><script>window.ran = true</script><img src=x onerror='window.ran = true'> <svg/onload=ran=1> שלום עולם 我们今天去北京 \u{202e}desrever";
    let line =
        serde_json::json!({ "id": hostile, "text": format!("{hostile} tern"), hostile: hostile }).to_string();
    let recipe = serde_json::json!(hostile);
    let home = Home::new()
        .file("recipe.toml", format!("recipe = {recipe}\nabout = {recipe}\n[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"tern\"]\n"))
        .file("notes.jsonl", line);
    home.done("run recipe.toml notes.jsonl --out run");
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("run/report.html"), READY);
    browser.click("document.querySelector('#terms-table button.open')");
    browser.wait("document.querySelector('#panel .lines button')");
    browser.click("document.querySelector('#panel .lines button')");
    browser.wait("document.querySelector('#panel .reading .token')");
    browser.point("document.querySelector('#documents-table')");
    browser.wait("document.querySelector('#documents-table .tabulator-row')");
    let text = browser.text("document.querySelector('#panel').innerText");
    for part in ["</script><script>window.ran", "שלום עולם", "我们今天去北京", "\\u{202e}desrever"]
    {
        assert!(text.contains(part), "{part}: {text}");
    }
    assert_eq!(browser.value("typeof window.ran"), "undefined");
    assert_eq!(browser.value("document.querySelectorAll('img').length"), 0);
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn a_page_of_a_hundred_thousand_terms_opens_and_filters_fast() {
    // Words that are no language's: what is measured is the page.
    let word = |number: usize| {
        let letters = ["ba", "ke", "li", "mo", "nu", "pa", "re", "si", "to", "vu"];
        let digits = format!("{number:05}");
        digits.bytes().map(|digit| letters[usize::from(digit - b'0')]).collect::<String>()
    };
    let mut lines = String::new();
    for document in 0..2_000 {
        let words: Vec<String> = (0..50)
            .map(|place| word(document * 50 + place))
            .chain((0..50).map(|place| word(place * place)))
            .collect();
        lines.push_str(
            &serde_json::json!({ "id": format!("note-{document}"), "text": words.join(" ") }).to_string(),
        );
        lines.push('\n');
    }
    let home = Home::new()
        .file("recipe.toml", "[[step]]\ndo = \"split\"\ninto = \"words\"\n")
        .file("notes.jsonl", lines);
    home.done("run recipe.toml notes.jsonl --out run --write documents,report");
    home.done("report run");
    let Some(mut browser) = Browser::start() else { return };
    let opened = browser.open(&home.path("run/report.html"), READY);
    assert_eq!(
        browser.text("document.querySelector('#terms-bar .told').textContent"),
        "100,000 of 100,000 rows"
    );
    let filter = "(() => { const input = document.querySelector('#terms-bar input[type=search]'); const begun = performance.now(); \
         input.value = 'nunu'; input.dispatchEvent(new Event('input')); document.body.getBoundingClientRect(); return performance.now() - begun; })()";
    // The first search gathers what it looks at.
    browser.value(filter);
    let filtered = browser.value(filter).as_f64().expect("milliseconds");
    assert!(
        browser.text("document.querySelector('#terms-bar .told').textContent").ends_with(" of 100,000 rows")
    );
    assert!(
        browser.value("document.querySelectorAll('#terms-table .tabulator-row').length").as_u64() < Some(200),
        "only rows that are seen are drawn"
    );
    // Measured figures stand in docs/report.md; a test machine may be busy.
    assert!(opened.as_secs_f64() < 10.0 && filtered < 1_000.0, "{opened:?} {filtered} ms");
    assert_eq!(browser.complaints(), Vec::<String>::new());
}

#[test]
fn the_page_of_a_comparison_is_of_the_same_family() {
    let home = explored()
        .file("other.toml", "recipe = \"plain\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n");
    home.done("compare recipe.toml other.toml --on notes.csv --out compared");
    let Some(mut browser) = Browser::start() else { return };
    browser.open(&home.path("compared/comparison.html"), "document.querySelector('#vocabulary')");
    let text = browser.text("document.querySelector('main').innerText");
    for part in ["The steps", "The vocabularies", "barn_owl", "The documents"] {
        assert!(text.contains(part), "{part}: {text}");
    }
    browser.click("document.querySelector('#page details summary')");
    browser.wait("document.querySelector('#page details ins, #page details del')");
    for theme in 0..2 {
        assert_eq!(browser.findings(), Vec::<String>::new(), "theme {theme}");
        browser.click("document.querySelector('button.theme')");
    }
    browser.size(390, 844);
    browser.wait("document.documentElement.scrollWidth <= 390");
    assert_eq!(browser.complaints(), Vec::<String>::new());
}
