//! PDF files as other programs write them: what is on the page is in the document.

use std::fmt::Write as _;

use crate::home::Home;

/// A PDF of these objects, the first of which is its catalogue.
pub(crate) fn pdf(objects: &[Vec<u8>]) -> Vec<u8> {
    let mut out = b"%PDF-1.4\n".to_vec();
    let mut places = Vec::new();
    for (number, object) in objects.iter().enumerate() {
        places.push(out.len());
        out.extend_from_slice(format!("{} 0 obj\n", number + 1).as_bytes());
        out.extend_from_slice(object);
        out.extend_from_slice(b"\nendobj\n");
    }
    let start = out.len();
    let mut end = format!("xref\n0 {}\n0000000000 65535 f \n", objects.len() + 1);
    for place in places {
        let _ = writeln!(end, "{place:010} 00000 n ");
    }
    let _ = write!(end, "trailer\n<</Size {}/Root 1 0 R>>\nstartxref\n{start}\n%%EOF", objects.len() + 1);
    out.extend_from_slice(end.as_bytes());
    out
}

/// A stream with these entries beside its length.
pub(crate) fn stream(entries: &str, content: &[u8]) -> Vec<u8> {
    let mut out = format!("<<{entries}/Length {}>>\nstream\n", content.len()).into_bytes();
    out.extend_from_slice(content);
    out.extend_from_slice(b"\nendstream");
    out
}

/// A PDF of one page with this content, which has the font `F1`, these others and what it draws, and of other objects, from the sixth on.
fn page(content: &str, fonts: &str, draws: &str, others: Vec<Vec<u8>>) -> Vec<u8> {
    let mut objects = vec![
        b"<</Type/Catalog/Pages 2 0 R>>".to_vec(),
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>".to_vec(),
        format!(
            "<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 400]/Contents 4 0 R\
             /Resources<</Font<</F1 5 0 R{fonts}>>/XObject<<{draws}>>>>>>"
        )
        .into_bytes(),
        stream("", content.as_bytes()),
        b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>".to_vec(),
    ];
    objects.extend(others);
    pdf(&objects)
}

fn text(file: Vec<u8>) -> String {
    let home = Home::new().file("page.pdf", file);
    home.documents("page.pdf")[0]["text"].as_str().expect("a text").to_owned()
}

#[test]
fn lines_that_are_begun_and_shown_by_one_operator_are_read() {
    let content = "BT /F1 12 Tf 14 TL 20 380 Td (The wardens \"first\" terns) Tj (came on Monday,) '\n\
                   1 0 (and left) \" <6F6E20467269646179> ' ET";
    assert_eq!(
        text(page(content, "", "", Vec::new())),
        "The wardens \"first\" terns\ncame on Monday,\nand left\non Friday"
    );
}

/// A comment card as a form, with a note that somebody put on it.
fn comment_card() -> Vec<u8> {
    let mut objects = vec![
        b"<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[8 0 R 9 0 R 11 0 R 13 0 R 14 0 R]>>>>".to_vec(),
        b"<</Type/Pages/Kids[3 0 R 6 0 R]/Count 2>>".to_vec(),
    ];
    let page = |content: u32, annotations: &str| {
        format!(
            "<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 400]/Contents {content} 0 R/Resources<</Font<</F1 5 0 R>>>>\
             /Annots[{annotations}]>>"
        )
        .into_bytes()
    };
    objects.push(page(4, "10 0 R 8 0 R 11 0 R 12 0 R 13 0 R 14 0 R 15 0 R 16 0 R 17 0 R"));
    objects.push(stream("", b"BT /F1 12 Tf 20 380 Td (Comment card) Tj ET"));
    objects.push(b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>".to_vec());
    objects.push(page(7, "18 0 R"));
    objects.push(stream("", b"BT /F1 12 Tf 20 380 Td (Thank you) Tj ET"));
    let widgets: [&[u8]; 11] = [
        // 8: a name in the characters of the format, on a line with the site.
        b"<</Subtype/Widget/FT/Tx/T(name)/V(Ines M\xe9r\x93lund \x84 warden)/Rect[20 340 90 352]>>",
        // 9 and 10: a field with another in it.
        b"<</T(visit)/FT/Tx/Kids[10 0 R]>>",
        b"<</Subtype/Widget/Parent 9 0 R/T(remark)/V<FEFF005400650072006E00730021000D004E006500730074003A00200032>\
          /Rect[20 300 300 320]>>",
        b"<</Subtype/Widget/FT/Ch/T(site)/V(sp)/Opt[[(sp)(The spit)][(la)(The lagoon)]]/Rect[120 341 200 353]>>",
        b"<</Subtype/Widget/FT/Ch/T(birds)/V[(tern)(gull)]/Opt[(tern)(gull)(wader)]/Rect[20 200 300 220]>>",
        b"<</Subtype/Widget/FT/Btn/T(again)/V/Yes/AS/Yes/Rect[20 180 30 190]>>",
        b"<</Subtype/Widget/FT/Tx/T(hidden)/F 2/V(nobody sees this)/Rect[20 160 300 170]>>",
        b"<</Subtype/Widget/FT/Tx/T(key)/Ff 8192/V(secret)/Rect[20 150 300 160]>>",
        b"<</Subtype/FreeText/Contents(Called back on Monday)/Rect[200 375 300 385]>>",
        b"<</Subtype/Text/Contents(a comment in the margin)/Rect[300 375 310 385]>>",
        // 18: the name again, on the second page.
        b"<</Subtype/Widget/FT/Tx/T(name)/V(Ines M\xe9r\x93lund \x84 warden)/Rect[20 340 90 352]>>",
    ];
    objects.extend(widgets.map(<[u8]>::to_vec));
    pdf(&objects)
}

#[test]
fn what_was_typed_into_a_form_is_read() {
    let home = Home::new().file("card.pdf", comment_card());
    let pages = home.documents("card.pdf");
    let name = "Ines Mér\u{fb01}lund — warden";
    assert_eq!(
        pages[0]["text"],
        format!("Comment card\nCalled back on Monday\n{name}\nThe spit\nTerns!\nNest: 2\ntern\ngull")
    );
    let form = serde_json::json!({
        "name": name, "site": "The spit", "visit.remark": "Terns!\nNest: 2", "birds": "tern\ngull", "again": "Yes"
    });
    assert_eq!(pages[0]["form"], form);
    assert_eq!(pages[1]["text"], format!("Thank you\n{name}"));
    assert_eq!(pages[1]["form"], serde_json::json!({ "name": name }));
    let whole = home.documents("card.pdf --each file");
    assert_eq!(whole[0]["form"], form);
    let remarks = home.documents("card.pdf --each file --text form.visit.remark");
    assert_eq!(remarks[0]["text"], "Terns!\nNest: 2");
}

#[test]
fn lines_of_a_turned_page_stay_lines() {
    // Words are put in their places one by one, from the foot to the head of the paper.
    for (name, matrix) in
        [("upwards", "0 12 -12 0"), ("downwards", "0 -12 12 0"), ("aslant", "8.5 8.5 -8.5 8.5")]
    {
        let (along, down) = match name {
            "upwards" => ((0, 1), (1, 0)),
            "downwards" => ((0, -1), (-1, 0)),
            _ => ((1, 1), (1, -1)),
        };
        let mut content = "BT /F1 1 Tf ".to_owned();
        for (line, words) in
            [["Nest", "boxes", "of", "the", "harbour"], ["are", "cleaned", "in", "the", "autumn"]]
                .iter()
                .enumerate()
        {
            for (index, word) in words.iter().enumerate() {
                let (index, line) =
                    (i32::try_from(index).expect("few") * 60, i32::try_from(line).expect("few") * 12);
                let x = 200 + along.0 * index + down.0 * line;
                let y = 200 + along.1 * index + down.1 * line;
                let _ = write!(content, "{matrix} {x} {y} Tm ({word}) Tj ");
            }
        }
        content.push_str("ET");
        assert_eq!(
            text(page(&content, "", "", Vec::new())),
            "Nest boxes of the harbour\nare cleaned in the autumn",
            "{name}"
        );
    }
}

/// Of two pages on one, each has its own fonts, under the same names.
#[test]
fn forms_have_fonts_of_their_own() {
    let form = |font: usize, y: u32| {
        let entries =
            format!("/Type/XObject/Subtype/Form/BBox[0 0 400 400]/Resources<</Font<</F1 {font} 0 R>>>>");
        stream(&entries, format!("BT /F1 12 Tf 20 {y} Td (abc) Tj ET").as_bytes())
    };
    let font = |first: &str| {
        format!(
            "<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding<</Type/Encoding/Differences[97 {first}]>>>>"
        )
        .into_bytes()
    };
    let others = vec![form(8, 366), form(9, 352), font("/t/e/r"), font("/g/u/l")];
    let content = "BT /F1 12 Tf 20 380 Td (abc) Tj ET /A Do /B Do";
    assert_eq!(text(page(content, "", "/A 6 0 R/B 7 0 R", others)), "abc\nter\ngul");
}

#[test]
fn pixels_are_no_instructions() {
    let picture = stream(
        "/Type/XObject/Subtype/Image/Width 8/Height 8/ColorSpace/DeviceGray/BitsPerComponent 8",
        b"BT /F1 12 Tf 20 20 Td (noise) Tj ET        BT (x) Tj ET         ",
    );
    let content = "BT /F1 12 Tf 20 380 Td (Two terns) Tj ET /P Do";
    assert_eq!(text(page(content, "", "/P 6 0 R", vec![picture])), "Two terns");
}

/// A font of two bytes a character, without a table of what its characters are, as is usual where fonts come with the reader's system.
fn font_without_letters() -> Vec<Vec<u8>> {
    [
        "<</Type/Font/Subtype/Type0/BaseFont/Ryumin-Light/Encoding/Identity-H/DescendantFonts[7 0 R]>>",
        "<</Type/Font/Subtype/CIDFontType0/BaseFont/Ryumin-Light/FontDescriptor 8 0 R\
         /CIDSystemInfo<</Registry(Adobe)/Ordering(Japan1)/Supplement 2>>>>",
        "<</Type/FontDescriptor/FontName/Ryumin-Light/Flags 4>>",
    ]
    .map(|object| object.as_bytes().to_vec())
    .to_vec()
}

#[test]
fn characters_that_no_font_gives_a_letter_for_are_told() {
    let of = |content: &str| page(content, "/F2 6 0 R", "", font_without_letters());
    let few = of("BT /F1 12 Tf 20 380 Td (Two terns) Tj /F2 12 Tf <04D20929> Tj ET");
    assert_eq!(text(few), "Two terns\u{fffd}\u{fffd}");
    let home = Home::with_recipe()
        .file("pile/most.pdf", of("BT /F1 12 Tf 20 380 Td (2 ) Tj /F2 12 Tf <04D2092904D2> Tj ET"))
        .file("pile/note.txt", "Two terns.");
    let said = home.yarrup("run recipe.toml pile --out run");
    assert!(
        said.err.contains(
            "most.pdf: its fonts do not say which letters 3 of its 5 characters are; \
             run text recognition (OCR) over it"
        ),
        "{said:?}"
    );
}
