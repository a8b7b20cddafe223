//! `yarrup reduce`: words as several stemmers and lemmatisers reduce them, side by side.

use std::collections::BTreeMap;
use std::io::{BufRead, Write};
use std::path::Path;

use serde_json::json;
use yarrup_core::recipe::FileError;
use yarrup_core::stem::{OwnRules, STEMMERS};
use yarrup_core::step::ListReference;
use yarrup_core::tag::Model;
use yarrup_core::{FormFate, Groups, Kind, Reducer, Tag, WordCheck, WordLists};
use yarrup_io::{FolderLists, TableWriter, read_account};
use yarrup_report::{Align, counted, grouped, table, visible_name};

use crate::arguments::{ReduceArguments, TableFormat};
use crate::failure::{Exit, Failure, text_of};
use crate::output::Shape;
use crate::screen::Screen;

/// A word to reduce.
struct Given {
    word: String,
    tag: Option<Tag>,
}

/// A method and what it is called.
struct Method {
    name: String,
    reducer: Reducer,
}

pub(crate) fn reduce(arguments: &ReduceArguments, screen: &Screen) -> Result<Exit, Failure> {
    let files = FolderLists::new(std::path::PathBuf::new());
    let methods = methods(arguments, &files)?;
    if let Some(path) = &arguments.groups {
        return groups(path, &methods, arguments, screen);
    }
    let check = match arguments.language.as_str() {
        "en" => Some(WordCheck::english()),
        other => files.dictionary(other).ok().and_then(|found| WordCheck::dictionary(&found).ok()),
    };
    let given = given(arguments)?;
    let results: Vec<Vec<String>> = given
        .iter()
        .map(|given| methods.iter().map(|method| method.reducer.reduce(&given.word, given.tag)).collect())
        .collect();
    let is_word = |word: &str| check.as_ref().is_none_or(|check| check.knows(word));
    match arguments.format {
        TableFormat::Table => print(&given, &methods, &results, &is_word, check.is_some(), screen)?,
        TableFormat::Csv => {
            let mut out = screen.out_as(Shape::Data);
            let mut header = vec!["word", "tag"];
            header.extend(methods.iter().map(|method| method.name.as_str()));
            let mut csv = TableWriter::new(&mut out, header).map_err(yarrup_io::table_failure)?;
            for (given, results) in given.iter().zip(&results) {
                let mut row = vec![given.word.as_str(), given.tag.map_or("", Tag::code)];
                row.extend(results.iter().map(String::as_str));
                csv.row(row).map_err(yarrup_io::table_failure)?;
            }
            csv.finish()?;
            out.flush()?;
        }
        TableFormat::Json => {
            let rows: Vec<_> = given
                .iter()
                .zip(&results)
                .map(|(given, results)| {
                    let by_method: serde_json::Map<_, _> = methods
                        .iter()
                        .zip(results)
                        .map(|(method, result)| {
                            (method.name.clone(), json!({ "result": result, "word": is_word(result) }))
                        })
                        .collect();
                    json!({ "word": given.word, "tag": given.tag.map(Tag::code), "methods": by_method })
                })
                .collect();
            let mut out = screen.out_as(Shape::Json);
            writeln!(out, "{:#}", json!(rows))?;
            out.flush()?;
        }
    }
    Ok(Exit::Done)
}

fn methods(arguments: &ReduceArguments, files: &FolderLists) -> Result<Vec<Method>, Failure> {
    let language = arguments.language.split(['-', '_']).next().unwrap_or("en");
    let names: Vec<String> = if arguments.methods.is_empty() {
        let stemmers = STEMMERS.iter().filter(|stemmer| stemmer.language == language);
        let mut names: Vec<String> = stemmers.map(|stemmer| stemmer.method.to_owned()).collect();
        if language == "en" || files.dictionary(language).is_ok() {
            names.push("lemma".to_owned());
        }
        names
    } else {
        arguments.methods.clone()
    };
    if names.is_empty() {
        return Err(Failure::Sentence(format!("there is no method for `{language}`: name one with --with")));
    }
    names.into_iter().map(|name| method(name, language, files)).collect()
}

fn method(name: String, language: &str, files: &FolderLists) -> Result<Method, Failure> {
    let told = |why: String| Failure::Sentence(format!("method `{name}`: {why}"));
    let not_had = |why: FileError| told(why.to_string());
    let reference = || ListReference { name: name.clone(), column: None, to: None, span: 0..0 };
    let ending = Path::new(&name).extension().and_then(|ending| ending.to_str());
    let reducer = match (name.as_str(), ending) {
        (_, Some("toml")) => {
            let bytes = files.bytes(&reference()).map_err(not_had)?;
            let text = String::from_utf8(bytes).map_err(|_| told("the rules are not UTF-8".to_owned()))?;
            Reducer::own(OwnRules::read(&text).map_err(told)?)
        }
        (_, Some("model")) => {
            let bytes = files.bytes(&reference()).map_err(not_had)?;
            Reducer::model(Model::from_bytes(&bytes).map_err(|fault| told(fault.to_string()))?)
        }
        ("lemma", _) if language == "en" => Reducer::english_lemma(),
        ("lemma", _) => Reducer::dictionary(&files.dictionary(language).map_err(not_had)?).map_err(told)?,
        _ => match Reducer::stemmer(language, &name) {
            Some(reducer) => reducer,
            None => match files.dictionary(&name) {
                Ok(found) => Reducer::dictionary(&found).map_err(told)?,
                Err(_) => {
                    let stemmers = STEMMERS.iter().filter(|stemmer| stemmer.language == language);
                    let known: Vec<String> = stemmers
                        .map(|stemmer| format!("`{}`", stemmer.method))
                        .chain(["`lemma`".to_owned()])
                        .collect();
                    return Err(told(format!(
                        "not known for `{language}`; there are {}, dictionaries by name (`de_DE`), own rules (`.toml`) and models (`.model`)",
                        known.join(", ")
                    )));
                }
            },
        },
    };
    Ok(Method { name, reducer })
}

fn tag_named(name: &str) -> Result<Tag, Failure> {
    Tag::named(name.trim()).ok_or_else(|| {
        Failure::Sentence(format!("`{name}` is not a part of speech: write `noun` or `NOUN`, for example"))
    })
}

fn given(arguments: &ReduceArguments) -> Result<Vec<Given>, Failure> {
    let common = arguments.tag.as_deref().map(tag_named).transpose()?;
    if let Some(run) = &arguments.run {
        let mut forms: BTreeMap<String, u64> = BTreeMap::new();
        let account = read_account(run)?;
        // What the recipe drops, as most function words, need not be reduced.
        let kept = account.forms().filter(|row| matches!(row.fate, FormFate::Kept { .. }));
        for row in kept.filter(|row| Kind::of(row.text) == Kind::Word) {
            *forms.entry(row.text.to_lowercase()).or_default() += row.count;
        }
        let mut forms: Vec<(String, u64)> = forms.into_iter().collect();
        forms.sort_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(&b.0)));
        return Ok(forms
            .into_iter()
            .take(arguments.top)
            .map(|(word, _)| Given { word, tag: common })
            .collect());
    }
    if !arguments.words.is_empty() {
        return Ok(arguments.words.iter().map(|word| Given { word: word.clone(), tag: common }).collect());
    }
    let mut given = Vec::new();
    for line in std::io::stdin().lock().lines() {
        let line =
            line.map_err(|why| Failure::File { path: "standard input".into(), why: why.to_string() })?;
        let (word, tag) = match line.split_once('\t') {
            Some((word, tag)) if !tag.trim().is_empty() => (word, Some(tag_named(tag)?)),
            Some((word, _)) => (word, None),
            None => (line.as_str(), None),
        };
        if !word.trim().is_empty() {
            given.push(Given { word: word.trim().to_owned(), tag: tag.or(common) });
        }
    }
    Ok(given)
}

fn print(
    given: &[Given],
    methods: &[Method],
    results: &[Vec<String>],
    is_word: &dyn Fn(&str) -> bool,
    checked: bool,
    screen: &Screen,
) -> Result<(), Failure> {
    let tagged = given.iter().any(|given| given.tag.is_some());
    let mut header = vec![("word", Align::Left)];
    if tagged {
        header.push(("part of speech", Align::Left));
    }
    header.extend(methods.iter().map(|method| (method.name.as_str(), Align::Left)));
    let mut unknown = 0;
    let rows: Vec<Vec<String>> = given
        .iter()
        .zip(results)
        .map(|(given, results)| {
            let mut row = vec![visible_name(&given.word)];
            if tagged {
                row.push(given.tag.map_or(String::new(), |tag| tag.name().to_owned()));
            }
            for result in results {
                let known = is_word(result);
                unknown += u64::from(!known);
                row.push(format!("{}{}", visible_name(result), if known { "" } else { " *" }));
            }
            row
        })
        .collect();
    let mut out = screen.out();
    write!(out, "{}", table(&header, &rows, screen.look))?;
    if unknown > 0 {
        writeln!(out, "{}", screen.look.faint("* is in no dictionary"))?;
    } else if !checked {
        writeln!(
            out,
            "{}",
            screen.look.faint("no dictionary of this language was found to check the results with")
        )?;
    }
    if given.len() > 1 {
        writeln!(out, "\n{}", screen.look.heading("What falls together"))?;
        for (at, method) in methods.iter().enumerate() {
            let mut groups: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
            for (given, results) in given.iter().zip(results) {
                let group = groups.entry(&results[at]).or_default();
                if !group.contains(&given.word.as_str()) {
                    group.push(&given.word);
                }
            }
            let many: Vec<String> = groups
                .values()
                .filter(|words| words.len() > 1)
                .map(|words| words.iter().map(|word| visible_name(word)).collect::<Vec<_>>().join(" = "))
                .collect();
            let told = if many.is_empty() { "nothing".to_owned() } else { many.join(", ") };
            writeln!(out, "  {}: {}; {told}", method.name, counted(groups.len() as u64, "group"))?;
        }
    }
    out.flush()?;
    Ok(())
}

fn groups(
    path: &Path,
    methods: &[Method],
    arguments: &ReduceArguments,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let told = |why: String| Failure::File { path: path.display().to_string(), why };
    let groups = Groups::read(&text_of(path)?).map_err(told)?;
    let tag = arguments.tag.as_deref().map(tag_named).transpose()?;
    let found: Vec<_> = methods
        .iter()
        .map(|method| (method, groups.indices(|word| method.reducer.reduce(word, tag))))
        .collect();
    let mut out = screen.out_as(arguments.format);
    match arguments.format {
        TableFormat::Table => {
            let header = [
                ("method", Align::Left),
                ("under-stemming", Align::Right),
                ("pairs not joined", Align::Right),
                ("over-stemming", Align::Right),
                ("pairs wrongly joined", Align::Right),
            ];
            let rows: Vec<Vec<String>> = found
                .iter()
                .map(|(method, indices)| {
                    vec![
                        method.name.clone(),
                        format!("{:.4}", indices.under()),
                        format!("{} of {}", grouped(indices.wanted.1), grouped(indices.wanted.0)),
                        format!("{:.6}", indices.over()),
                        format!("{} of {}", grouped(indices.unwanted.1), grouped(indices.unwanted.0)),
                    ]
                })
                .collect();
            write!(out, "{}", table(&header, &rows, screen.look))?;
            let note = format!(
                "{} in {} that should fall together, {} to keep apart; 0 is best for both indices (Paice 1994)",
                counted(groups.words().len() as u64, "word"),
                counted(groups.together.len() as u64, "group"),
                counted(groups.apart.len() as u64, "group")
            );
            writeln!(out, "{}", screen.look.faint(&note))?;
        }
        TableFormat::Csv => {
            writeln!(
                out,
                "method,under_stemming,pairs_wanted,pairs_not_joined,over_stemming,pairs_unwanted,pairs_wrongly_joined"
            )?;
            for (method, indices) in &found {
                writeln!(
                    out,
                    "{},{:.6},{},{},{:.8},{},{}",
                    method.name,
                    indices.under(),
                    indices.wanted.0,
                    indices.wanted.1,
                    indices.over(),
                    indices.unwanted.0,
                    indices.unwanted.1
                )?;
            }
        }
        TableFormat::Json => {
            let rows: Vec<_> = found
                .iter()
                .map(|(method, indices)| {
                    json!({
                        "method": method.name, "under_stemming": indices.under(), "pairs_wanted": indices.wanted.0,
                        "pairs_not_joined": indices.wanted.1, "over_stemming": indices.over(),
                        "pairs_unwanted": indices.unwanted.0, "pairs_wrongly_joined": indices.unwanted.1,
                    })
                })
                .collect();
            writeln!(out, "{:#}", json!(rows))?;
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}
