//! The recipes that are compared: those that are named, and those that come of one by changing it.

use std::path::{Path, PathBuf};

use yarrup_core::compare::{StepText, described};
use yarrup_core::recipe::{Alteration, FaultKind, alter, flatten, nearest};
use yarrup_core::step::{Shape, Stage};
use yarrup_io::{Collection, Policy};

use crate::failure::{Failure, meant};
use crate::learning::{Remembered, learned_together};
use crate::recipe_file::{Compiled, compile, compile_text, lists_beside};
use crate::screen::Screen;

/// A recipe that is compared with others.
pub(crate) struct Made {
    /// What it is called.
    pub(crate) name: String,
    pub(crate) compiled: Compiled,
    /// What its steps say, as they were given.
    pub(crate) steps: Vec<StepText>,
    /// What they say once all is learned that they learn: by this it is told which work recipes have in common.
    pub(crate) ready: Vec<StepText>,
    /// Of a combination of values: each with the key that it is of.
    pub(crate) settings: Vec<(String, String)>,
    /// Where one step is left out: its place in the recipe, from 1.
    pub(crate) without: Option<usize>,
}

impl Made {
    pub(crate) fn of(name: String, compiled: Compiled) -> Made {
        let steps = described(&compiled.recipe, &lists_beside(Path::new(&compiled.path)));
        Made { name, compiled, ready: steps.clone(), steps, settings: Vec::new(), without: None }
    }

    /// The same with all that it has to learn from the collection.
    pub(crate) fn learned(
        self,
        collection: &mut Collection,
        learning: (Policy, &mut Remembered),
        screen: &Screen,
    ) -> Result<Made, Failure> {
        let compiled = learned_together(self.compiled, collection, learning, screen)?;
        let ready = described(&compiled.recipe, &lists_beside(Path::new(&compiled.path)));
        Ok(Made { compiled, ready, ..self })
    }
}

/// The recipes at these places, each called by its file; by its path where two files have one name.
pub(crate) fn named(paths: &[PathBuf]) -> Result<Vec<Made>, Failure> {
    let made = |(path, name): (&PathBuf, String)| Ok(Made::of(name, compile(path)?));
    paths.iter().zip(names(paths)).map(made).collect()
}

/// What each of these is called: by its last part, and by its path where two have the same.
pub(crate) fn names(paths: &[PathBuf]) -> Vec<String> {
    let last = |path: &PathBuf| {
        path.file_name()
            .map_or_else(|| path.display().to_string(), |name| name.to_string_lossy().into_owned())
    };
    let name = |path: &PathBuf| {
        let is_alone = paths.iter().filter(|other| last(other) == last(path)).count() == 1;
        if is_alone { last(path) } else { path.display().to_string() }
    };
    paths.iter().map(name).collect()
}

/// A recipe with all steps written out as tables, so that one can be changed.
struct Base {
    compiled: Compiled,
    /// By the place of a step in the pipeline: the index of its table, unless it was put in.
    tables: Vec<Option<usize>>,
}

impl Base {
    fn of(path: &Path) -> Result<Base, Failure> {
        let given = compile(path)?;
        let flat = flatten(&given.text, &lists_beside(path))
            .map_err(|why| Failure::Sentence(format!("{}: cannot be written out: {why}", given.path)))?;
        let compiled = match flat {
            Some(flat) => compile_text(&given.path, flat.clone(), flat)?,
            None => given,
        };
        let mut next = 0;
        let tables = compiled.pipeline.steps().iter().map(|step| {
            (!step.put_in).then(|| {
                next += 1;
                next - 1
            })
        });
        Ok(Base { tables: tables.collect(), compiled })
    }

    /// The recipe with these alterations.
    fn altered(&self, alterations: &[Alteration]) -> Result<Compiled, Failure> {
        let text = alter(&self.compiled.text, alterations).ok_or_else(|| {
            Failure::Sentence(format!("{}: its steps cannot be changed one by one", self.compiled.path))
        })?;
        compile_text(&self.compiled.path, text.clone(), text)
    }
}

/// A recipe, and the same without each of its steps in turn. Steps that others cannot do without are told.
pub(crate) fn each_step_out(path: &Path, screen: &Screen) -> Result<Vec<Made>, Failure> {
    let base = Base::of(path)?;
    let mut made = vec![Made::of("as it is".to_owned(), compile(path)?)];
    for (step, table) in base.compiled.pipeline.steps().iter().zip(&base.tables) {
        let Some(table) = table else { continue };
        let name = format!("without {} {}", step.number, step.label.as_deref().unwrap_or(step.operation));
        match base.altered(&[Alteration::Without { step: *table }]) {
            Ok(compiled) => {
                let without = Some(step.number);
                made.push(Made { without, ..Made::of(name, compiled) });
            }
            Err(Failure::Recipe { faults, .. }) => {
                let why = faults.first().map_or("it has no steps then", |fault| fault.title.as_str());
                screen.tell(&format!("note: the recipe cannot run {name}: {why}"));
            }
            Err(other) => return Err(other),
        }
    }
    if made.len() < 2 {
        return Err(Failure::Sentence(format!("{}: has no step that can be left out", base.compiled.path)));
    }
    Ok(made)
}

/// The most recipes that are compared at a time.
pub(crate) const MOST: usize = 64;

/// What is varied, as typed.
struct Varied {
    /// The step and the key, as typed.
    name: String,
    /// Each value as typed, with what it changes.
    values: Vec<(String, Option<Alteration>)>,
}

/// A recipe, and all combinations of these values in it.
pub(crate) fn varied(path: &Path, typed: &[String]) -> Result<Vec<Made>, Failure> {
    let base = Base::of(path)?;
    let varied: Vec<Varied> =
        typed.iter().map(|typed| read_varied(typed, &base)).collect::<Result<_, _>>()?;
    let combinations: usize = varied.iter().map(|varied| varied.values.len()).product();
    if combinations >= MOST {
        return Err(Failure::Sentence(format!(
            "--vary: that would be {combinations} recipes; {} are compared at most",
            MOST - 1
        )));
    }
    let mut made = vec![Made::of("as it is".to_owned(), compile(path)?)];
    for mut number in 0..combinations {
        let (mut alterations, mut settings) = (Vec::new(), Vec::new());
        // The last varies first.
        for varied in varied.iter().rev() {
            let (value, alteration) = &varied.values[number % varied.values.len()];
            number /= varied.values.len();
            alterations.extend(alteration.clone());
            settings.insert(0, (varied.name.clone(), value.clone()));
        }
        let name: Vec<String> = settings.iter().map(|(key, value)| format!("{key}={value}")).collect();
        let compiled = base.altered(&alterations).map_err(|failure| match failure {
            Failure::Recipe { faults, .. } => {
                let told = faults.first().map(|fault| match fault.kind {
                    FaultKind::Settings => fault.title.clone(),
                    _ => format!("{}: {}", fault.title, fault.label),
                });
                wrong(&name.join(" "), &told.unwrap_or_else(|| "the recipe has no steps then".to_owned()))
            }
            other => other,
        })?;
        let one = Made { settings, ..Made::of(name.join(" "), compiled) };
        // The recipe as it is may be one of them.
        let is_base = |other: &&mut Made| {
            other.steps.len() == one.steps.len()
                && other.steps.iter().zip(&one.steps).all(|(a, b)| a.does_as(b))
        };
        match made.first_mut().filter(is_base) {
            Some(base) => {
                base.name = format!("as it is: {}", one.name);
                base.settings = one.settings;
            }
            None => made.push(one),
        }
    }
    Ok(made)
}

/// The split of a recipe alone: the text as it was found.
pub(crate) fn split_alone(path: &Path) -> Result<Made, Failure> {
    let base = Base::of(path)?;
    let split = base.compiled.pipeline.steps().iter().position(|step| step.stage == Stage::Split);
    let kept = split.and_then(|split| base.tables[split]);
    let others = base.tables.iter().flatten().filter(|table| Some(**table) != kept);
    let without: Vec<Alteration> = others.map(|table| Alteration::Without { step: *table }).collect();
    let text = match kept {
        Some(_) => alter(&base.compiled.text, &without),
        None => Some("[[step]]\ndo = \"split\"\n".to_owned()),
    };
    let text = text.ok_or_else(|| Failure::Sentence(format!("{}: has no split", base.compiled.path)))?;
    Ok(Made::of("text as found".to_owned(), compile_text(&base.compiled.path, text.clone(), text)?))
}

fn wrong(typed: &str, why: &str) -> Failure {
    Failure::Sentence(format!("--vary: `{typed}`: {why}"))
}

/// `STEP.KEY=VALUE,VALUE` or `STEP=on,off`.
fn read_varied(typed: &str, base: &Base) -> Result<Varied, Failure> {
    let (name, values) = typed
        .split_once('=')
        .ok_or_else(|| wrong(typed, "say it as STEP.KEY=VALUE,VALUE, such as stem.method=porter,light"))?;
    let (step, key) = match name.trim().rsplit_once('.') {
        Some((step, key)) => (step.trim(), Some(key.trim())),
        None => (name.trim(), None),
    };
    let place = step_place(step, base).map_err(|why| wrong(typed, &why))?;
    let Some(table) = base.tables[place] else {
        return Err(wrong(typed, "this step does not stand in the recipe; write it there to vary it"));
    };
    let values: Vec<&str> = values.split(',').map(str::trim).filter(|value| !value.is_empty()).collect();
    if values.is_empty() {
        return Err(wrong(typed, "there is no value"));
    }
    let operation = base.compiled.pipeline.operations()[place];
    let alteration = |value: &&str| -> Result<(String, Option<Alteration>), Failure> {
        let Some(key) = key else {
            return match *value {
                "on" => Ok(("on".to_owned(), None)),
                "off" => Ok(("off".to_owned(), Some(Alteration::Without { step: table }))),
                _ => Err(wrong(typed, "a step alone is `on` or `off`; a key follows a full stop")),
            };
        };
        let facts = operation.keys.iter().find(|known| known.name == key).ok_or_else(|| {
            let names = operation.keys.iter().map(|known| known.name);
            wrong(typed, &format!("`{}` has no key `{key}`; {}", operation.name, meant(key, names)))
        })?;
        let value = toml_value(facts.shape, value).map_err(|why| wrong(typed, &format!("`{key}` {why}")))?;
        Ok((value.1, Some(Alteration::Set { step: table, key: key.to_owned(), value: value.0 })))
    };
    let values = values.iter().map(alteration).collect::<Result<_, _>>()?;
    Ok(Varied { name: name.trim().to_owned(), values })
}

/// The place of the step in the pipeline that is named by its number, its label or its operation.
fn step_place(named: &str, base: &Base) -> Result<usize, String> {
    let steps = base.compiled.pipeline.steps();
    if let Ok(number) = named.parse::<usize>() {
        return match (1..=steps.len()).contains(&number) {
            true => Ok(number - 1),
            false => Err(format!("there is no step {number}; the recipe has {}", steps.len())),
        };
    }
    let labelled = |place: &usize| steps[*place].label.as_deref() == Some(named);
    let of_operation = |place: &usize| steps[*place].operation == named;
    let found: Vec<usize> = match (0..steps.len()).filter(labelled).collect::<Vec<_>>() {
        found if found.is_empty() => (0..steps.len()).filter(of_operation).collect(),
        found => found,
    };
    match found.as_slice() {
        [one] => Ok(*one),
        [] => Err(match nearest(named, steps.iter().map(|step| step.operation)) {
            Some(near) => format!("the recipe has no step `{named}`; did you mean `{near}`?"),
            None => format!("the recipe has no step `{named}`"),
        }),
        several => {
            let numbers: Vec<String> = several.iter().map(|place| (place + 1).to_string()).collect();
            Err(format!(
                "the recipe has several steps `{named}`: say which by its number, {}",
                numbers.join(" or ")
            ))
        }
    }
}

/// A value as TOML writes it for a key of this shape, and as it is shown. Several entries of a list are joined by `+`.
///
/// # Errors
///
/// What the key is instead.
fn toml_value(shape: Shape, typed: &str) -> Result<(String, String), &'static str> {
    let quoted = |text: &str| serde_json::Value::from(text).to_string();
    let value = match shape {
        Shape::Whole { .. } | Shape::Share | Shape::Number if typed.parse::<f64>().is_err() => {
            return Err("is a number");
        }
        Shape::Truth if !matches!(typed, "true" | "false") => return Err("is `true` or `false`"),
        Shape::Whole { .. } | Shape::Truth | Shape::Share | Shape::Number => typed.to_owned(),
        Shape::OneOf(_) | Shape::Text | Shape::File | Shape::Dictionary { .. } => quoted(typed),
        Shape::SomeOf(_) | Shape::Texts | Shape::Lists | Shape::Pairs | Shape::Rows => {
            format!("[{}]", typed.split('+').map(|entry| quoted(entry.trim())).collect::<Vec<_>>().join(", "))
        }
        Shape::Named | Shape::Fields => return Err("is a table; that cannot be varied here"),
    };
    Ok((value, typed.to_owned()))
}
