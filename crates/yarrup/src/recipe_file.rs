//! Recipe files: read, compiled, with all mistakes told.

use std::path::Path;

use yarrup_core::recipe::{FaultKind, Recipe};
use yarrup_core::{Pipeline, operation, recipe};
use yarrup_io::{FolderLists, Input, RecipeLock, is_collection_file, is_recipe_file, read_bounded};
use yarrup_report::visible;

use crate::failure::{Failure, told_of_file};
use crate::screen::{Screen, program, shell_word};

/// A recipe that can run.
pub(crate) struct Compiled {
    pub(crate) path: String,
    pub(crate) text: String,
    /// The recipe with all that was learned written out; `text` if nothing was.
    pub(crate) frozen: String,
    pub(crate) recipe: Recipe,
    pub(crate) pipeline: Pipeline,
    /// The files that it names.
    pub(crate) lists: Vec<Input>,
}

impl Compiled {
    /// The recipe's name, or that of its file.
    pub(crate) fn name(&self) -> String {
        self.recipe.name.clone().unwrap_or_else(|| stem(Path::new(&self.path)))
    }

    /// The same recipe, compiled once more.
    pub(crate) fn again(&self) -> Result<Compiled, Failure> {
        compile_text(&self.path, self.text.clone(), self.frozen.clone())
    }

    /// What it stands on now.
    pub(crate) fn lock(&self) -> RecipeLock {
        RecipeLock::of(env!("CARGO_PKG_VERSION"), &self.text, &self.lists)
    }

    /// Says what has changed since the recipe was locked, if it was; or refuses that, where it must be as it was locked.
    pub(crate) fn as_locked(&self, must: bool, screen: &Screen) -> Result<(), Failure> {
        let place = RecipeLock::place(Path::new(&self.path));
        let named = place.display().to_string();
        let told = |why: String| Failure::File { path: named.clone(), why };
        let changes = match RecipeLock::read(&place).map_err(&told)? {
            Some(lock) => lock.changes(&self.lock()),
            None if must => {
                return Err(told(format!(
                    "no lock here: `{} lock {}` makes it",
                    program(),
                    shell_word(&self.path)
                )));
            }
            None => return Ok(()),
        };
        if changes.is_empty() {
            return Ok(());
        }
        let what = format!("not as it was locked: {}", changes.join("; "));
        if must {
            return Err(told(what));
        }
        screen.warn(&format!("{}: {}", visible(&named), visible(&what)));
        Ok(())
    }

    /// Says which step was put in, if one was.
    pub(crate) fn tell_put_in(&self, screen: &Screen) {
        if let Some(step) = self.pipeline.steps().iter().find(|step| step.put_in) {
            let why = if self.pipeline.is_text_recipe() {
                "only text steps: words are split for the counts alone"
            } else {
                "no `split` in the recipe"
            };
            screen.tell(&format!("note: {why}; step {} is `split` into words", step.number));
        }
    }
}

pub(crate) fn stem(path: &Path) -> String {
    path.file_stem().map_or_else(|| "recipe".to_owned(), |stem| stem.to_string_lossy().into_owned())
}

/// Reads and compiles the recipe at `path`.
pub(crate) fn compile(path: &Path) -> Result<Compiled, Failure> {
    let named = path.display().to_string();
    let bytes = read_bounded(path).map_err(|why| unreadable(path, &why))?;
    let is_toml = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("toml"));
    // What is no text at all, or has the ending of something else and reads like it, is not told line by line.
    let is_recipe = |text: &str| {
        let faults = recipe::read_with(text, &lists_beside(path)).err().unwrap_or_default();
        !faults.iter().any(|fault| fault.kind == FaultKind::Syntax)
    };
    if !is_toml && !std::str::from_utf8(&bytes).is_ok_and(is_recipe) {
        return Err(Failure::Sentence(format!(
            "{}: not a recipe: a recipe is a TOML file, and comes before the sources, as in `{} run RECIPE SOURCE`",
            visible(&named),
            program()
        )));
    }
    let text = String::from_utf8(bytes).map_err(|error| Failure::File {
        path: named.clone(),
        why: format!("is not UTF-8 from byte {} on", error.utf8_error().valid_up_to()),
    })?;
    // A mark at the start is no part of the recipe, and places are counted without it.
    let text = text.strip_prefix('\u{feff}').map_or_else(|| text.clone(), str::to_owned);
    compile_text(&named, text.clone(), text).map_err(|faults| {
        if !is_collection_file(path) || is_recipe_file(path) {
            return faults;
        }
        Failure::Sentence(format!(
            "{}: not a recipe, but a collection file, which says where documents are: look at them with `{1} look {2}`, or run a recipe on them with \
             `{1} run RECIPE {2}`",
            visible(&named),
            program(),
            shell_word(&named)
        ))
    })
}

/// Why a recipe cannot be read; with the name that may be meant, where there is no such file.
fn unreadable(path: &Path, why: &std::io::Error) -> Failure {
    let named = path.display().to_string();
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let there: Vec<String> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
        .filter(|name| name.ends_with(".toml"))
        .collect();
    let near = (why.kind() == std::io::ErrorKind::NotFound)
        .then(|| recipe::nearest(&name, there.iter().map(String::as_str)))
        .flatten();
    let why = told_of_file(why);
    let why = match near {
        Some(near) => {
            format!("{why}; did you mean `{}`?", visible(&path.with_file_name(near).display().to_string()))
        }
        None if operation(&name).is_some() => {
            format!("{why}; `{name}` is a step, which a recipe names: see `yarrup steps {name}`")
        }
        None => why,
    };
    Failure::File { path: named, why }
}

/// What the recipe at `path` names is looked for beside it.
pub(crate) fn lists_beside(path: &Path) -> FolderLists {
    FolderLists::new(path.parent().map(Path::to_owned).unwrap_or_default())
}

/// Compiles the text `frozen`, which the recipe at `path` has become; `text` is the recipe as given.
pub(crate) fn compile_text(path: &str, text: String, frozen: String) -> Result<Compiled, Failure> {
    let faults = |faults| Failure::Recipe { path: path.to_owned(), text: frozen.clone(), faults };
    let lists = lists_beside(Path::new(path));
    let recipe = recipe::read_with(&frozen, &lists).map_err(faults)?;
    let pipeline = Pipeline::compile(&recipe, &lists).map_err(faults)?;
    Ok(Compiled { path: path.to_owned(), lists: lists.read_files(), text, frozen, recipe, pipeline })
}
