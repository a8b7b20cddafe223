//! `yarrup report`: the page and the figures of a run once more, from its folder alone.

use std::sync::{Mutex, PoisonError};

use yarrup_core::study::GroupBy;
use yarrup_io::{RECIPE_FILE, read_account, read_file_of, read_run, replace_in_run};
use yarrup_report::Fonts;

use super::figure::missing;
use super::find::option;
use super::run_figures::{Choices, FigureData, noted};
use super::run_page::{Drawn, WantedFigures, draw_figures};
use crate::arguments::ReportArguments;
use crate::counting::Grouping;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;
use crate::studied::Studied;

pub(crate) fn report(arguments: &ReportArguments, screen: &Screen) -> Result<Exit, Failure> {
    let run = &arguments.run;
    let (record, account) = (read_run(run)?, read_account(run)?);
    let recipe = read_file_of(run, &record, RECIPE_FILE)?;
    let recipe_text = String::from_utf8_lossy(&recipe);
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let (growth, lengths) = noted(run, &record)?;
    let table = |field: &String| {
        let by = GroupBy::read(field).map_err(|why| option("by", &why))?;
        Studied::open(run)?.tally(Grouping::By(by), screen)
    };
    let groups =
        arguments.by.as_ref().map(|field| Ok::<_, Failure>((field.clone(), table(field)?))).transpose()?;
    let data = FigureData {
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
        growth: &growth,
        lengths: &lengths,
    };
    let fonts = Fonts::default();
    let files = Mutex::new(Vec::new());
    let keep = |name: &str, content: &[u8]| {
        let mut files = files.lock().unwrap_or_else(PoisonError::into_inner);
        files.push((name.to_owned(), content.to_vec()));
        Ok(())
    };
    let wanted = WantedFigures { files: true, page: true };
    let figures = draw_figures(&data, &Choices::default(), (&fonts, wanted), keep)?;
    let drawn = Drawn {
        recipe_text: &recipe_text,
        record: &record,
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
        figures,
        groups,
    };
    let page = drawn.html()?;
    let mut files = files.into_inner().unwrap_or_else(PoisonError::into_inner);
    files.push(("report.html".to_owned(), page.into_bytes()));
    // However long each took to draw.
    files.sort();
    replace_in_run(run, &files)?;
    if let Some(warning) = missing(&fonts) {
        screen.warn(&warning);
    }
    screen.tell(&format!("{}/report.html and the figures are drawn anew", run.display()));
    Ok(Exit::Done)
}
