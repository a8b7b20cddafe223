//! `yarrup figure`: one figure of a run, as SVG or PNG.

use std::collections::HashSet;
use std::io::Write;

use yarrup_core::study::{GroupBy, TermTable, Weight};
use yarrup_io::{NewFile, read_account, read_bounded, read_run, refuse_taken};
use yarrup_report::{CloudShape, Colour, Fonts, Palette, Scale, Style, png};

use crate::arguments::{AxisScale, FigureArguments, FigureTheme, NEEDS_FIELD, ShapeOfCloud};
use crate::counting::Grouping;
use crate::failure::{Exit, Failure, option};
use crate::figures::{Choices, FIGURES, FigureData, TermWeights, missing, noted};
use crate::output::Shape;
use crate::screen::Screen;
use crate::studied::Studied;

pub(crate) fn figure(arguments: &FigureArguments, screen: &Screen) -> Result<Exit, Failure> {
    let out = &arguments.out;
    let is_printed = out.as_os_str() == "-";
    let ending = out.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    let is_png = match ending.as_deref() {
        Some("png") => true,
        Some("svg") => false,
        _ if is_printed => false,
        _ => {
            let path = out.display().to_string();
            return Err(Failure::File {
                path,
                why: "a figure is a file that ends in .svg or .png".to_owned(),
            });
        }
    };
    if !is_printed {
        refuse_taken(out, arguments.replace)?;
    }
    let name = arguments.name.as_str();
    let (record, account) = (read_run(&arguments.run)?, read_account(&arguments.run)?);
    let fonts = fonts(arguments)?;
    let choices = choices(arguments, &fonts, screen)?;
    let (growth, lengths) = noted(&arguments.run, &record)?;
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let data = FigureData {
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
        growth: &growth,
        lengths: &lengths,
    };
    let Some(figure) = data.draw(name, &choices, &fonts) else {
        let why = match name {
            "parts-of-speech" => "the recipe of this run gives no parts of speech; a `tag` step does",
            "groups" => "needs --by and a field",
            _ => "the run was made without its documents, so it did not note this",
        };
        return Err(Failure::Sentence(format!("{name}: {why}")));
    };
    if is_printed {
        let mut printed = screen.out_as(Shape::Data);
        printed.write_all(figure.svg.as_bytes())?;
        printed.flush()?;
        return Ok(Exit::Done);
    }
    let bytes = if is_png {
        png(&figure, &fonts).map_err(|why| Failure::Sentence(why.to_string()))?
    } else {
        figure.svg.into_bytes()
    };
    let failed =
        |why: std::io::Error| Failure::File { path: out.display().to_string(), why: why.to_string() };
    let mut file = NewFile::create(out, arguments.replace)?;
    file.write_all(&bytes).map_err(failed)?;
    file.finish()?;
    if let Some(warning) = missing(&fonts) {
        screen.warn(&warning);
    }
    screen.tell(&format!(
        "{}: {}",
        out.display(),
        FIGURES.iter().find(|(known, _)| *known == name).map_or("", |(_, about)| about)
    ));
    Ok(Exit::Done)
}

fn fonts(arguments: &FigureArguments) -> Result<Fonts, Failure> {
    let Some(path) = &arguments.font else { return Ok(Fonts::default()) };
    let failed = |why: String| Failure::File { path: path.display().to_string(), why };
    let font = read_bounded(path).map_err(|why| failed(why.to_string()))?;
    Fonts::with(font).map_err(|why| failed(why.to_string()))
}

fn choices(arguments: &FigureArguments, fonts: &Fonts, screen: &Screen) -> Result<Choices, Failure> {
    let mut palette = match arguments.theme {
        FigureTheme::Light => Palette::light(),
        FigureTheme::Dark => Palette::dark(),
    };
    if !arguments.colours.is_empty() {
        let read = |written: &String| Colour::read(written).map_err(|why| option("colours", &why));
        palette.series = arguments.colours.iter().map(read).collect::<Result<_, _>>()?;
    }
    let style = Style {
        size: arguments.size,
        palette,
        title: arguments.title.clone(),
        family: fonts.family().to_owned(),
    };
    let by_tag = arguments.by.as_deref() == Some("tag");
    if by_tag && arguments.name != "cloud" {
        return Err(option(
            "by",
            "`tag` colours the words of the cloud alone; parts-of-speech is a figure of its own",
        ));
    }
    let groups = match arguments.by.as_deref().filter(|_| !by_tag) {
        Some(written) => {
            let by = GroupBy::read(written).map_err(|why| option("by", &why))?;
            let table = Studied::open(&arguments.run)?.tally(Grouping::By(by), screen)?;
            Some((written.to_owned(), table))
        }
        None => None,
    };
    Ok(Choices {
        style,
        top: arguments.top.map(|top| if top == 0 { usize::MAX } else { top }),
        rank_up_to: arguments.rank_up_to.unwrap_or(usize::MAX),
        leave_out: arguments.leave_out.iter().cloned().collect::<HashSet<String>>(),
        scale: arguments.scale.map(|scale| match scale {
            AxisScale::Linear => Scale::Linear,
            AxisScale::Log => Scale::Log,
        }),
        shape: match arguments.shape {
            ShapeOfCloud::Rectangle => CloudShape::Rectangle,
            ShapeOfCloud::Ellipse => CloudShape::Ellipse,
            ShapeOfCloud::Circle => CloudShape::Circle,
        },
        groups,
        by_tag,
        weights: weights(arguments, screen)?,
    })
}

/// What each term weighs in the picture of words: tokens times the weight, or for weights that are of groups the weight alone.
fn weights(arguments: &FigureArguments, screen: &Screen) -> Result<Option<TermWeights>, Failure> {
    let Some(weight) = arguments.weight else { return Ok(None) };
    if weight.needs_groups() && arguments.with.is_none() {
        return Err(option("weight", NEEDS_FIELD));
    }
    let grouping = match &arguments.with {
        Some(written) => Grouping::By(GroupBy::read(written).map_err(|why| option("with", &why))?),
        None => Grouping::Together,
    };
    let table: TermTable = Studied::open(&arguments.run)?.tally(grouping, screen)?;
    let value = |term: &str, count: u64| {
        let value = table.weight(weight, term);
        if weight.needs_groups() { value } else { value * count as f64 }
    };
    let weights =
        table.terms().into_iter().map(|(term, spread)| (term.to_owned(), value(term, spread.count)));
    let name = match weight {
        Weight::Idf => "its tokens × idf".to_owned(),
        Weight::Entropy => "its tokens × (1 − entropy)".to_owned(),
        other => format!(
            "its {} with {}",
            other.name().replace('_', " "),
            arguments.with.as_deref().unwrap_or_default()
        ),
    };
    Ok(Some((name, weights.collect())))
}
