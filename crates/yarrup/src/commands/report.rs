//! `yarrup report`: the page and the figures of a run once more, from its folder alone.

use std::io::Write as _;
use std::sync::{Mutex, PoisonError};

use yarrup_core::study::GroupBy;
use yarrup_io::{RECIPE_FILE, read_account, read_file_of, replace_in_run};
use yarrup_report::Fonts;

use crate::arguments::ReportArguments;
use crate::exploring::Wish;
use crate::failure::{Exit, Failure, option};
use crate::figures::{Choices, FigureData, WantedFigures, draw_figures, missing, noted};
use crate::output::Shape;
use crate::screen::Screen;
use crate::studied::Studied;

/// A megabyte.
const MEGABYTE: u64 = 1_000_000;

pub(crate) fn report(arguments: &ReportArguments, screen: &Screen) -> Result<Exit, Failure> {
    let path = &arguments.run;
    let run = Studied::open(path)?;
    let account = read_account(path)?;
    let recipe = read_file_of(path, &run.record, RECIPE_FILE)?;
    let recipe_text = String::from_utf8_lossy(&recipe);
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let (growth, lengths) = noted(path, &run.record)?;
    let by = arguments.by.as_deref().map(GroupBy::read).transpose().map_err(|why| option("by", &why))?;
    let by = by.map(|by| run.suited(by, screen)).transpose()?;
    let wish = Wish { by, size: u64::from(arguments.size) * MEGABYTE, quick: false };
    let data = FigureData {
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
        growth: &growth,
        lengths: &lengths,
    };
    if arguments.data {
        let mut out = screen.out_as(Shape::Json);
        writeln!(out, "{}", data.material(&run, &recipe_text, None).json(&wish, screen)?)?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    let fonts = Fonts::default();
    let files = Mutex::new(Vec::new());
    let keep = |name: &str, content: &[u8]| {
        let mut files = files.lock().unwrap_or_else(PoisonError::into_inner);
        files.push((name.to_owned(), content.to_vec()));
        Ok(())
    };
    let wanted = WantedFigures { files: true, page: true };
    let cloud = draw_figures(&data, &Choices::default(), (&fonts, wanted), keep)?;
    let page = data.material(&run, &recipe_text, cloud.as_ref()).html(&wish, screen)?;
    let mut files = files.into_inner().unwrap_or_else(PoisonError::into_inner);
    files.push(("report.html".to_owned(), page.into_bytes()));
    // However long each took to draw.
    files.sort();
    replace_in_run(path, &files)?;
    if let Some(warning) = missing(&fonts) {
        screen.warn(&warning);
    }
    screen.tell(&format!("{}/report.html and the figures are drawn anew", path.display()));
    Ok(Exit::Done)
}
