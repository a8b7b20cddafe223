//! `yarrup look --save`: what was found, as a collection file.

use std::path::{Component, Path, PathBuf};

use yarrup_io::{Collection, Patterns, Proposed, SourceSpec, write_collection, write_file};
use yarrup_report::{LookReport, counted};

use crate::failure::Failure;
use crate::screen::Screen;

/// Writes the collection, with the fields that were found for each of its files.
pub(crate) fn save(
    file: &Path,
    collection: &Collection,
    proposed: &[Proposed],
    report: &LookReport,
    replace: bool,
    screen: &Screen,
) -> Result<(), Failure> {
    let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut saved = Collection { sources: Vec::new(), ..collection.clone() };
    if saved.name.is_none() {
        saved.name = file.file_stem().map(|stem| stem.to_string_lossy().into_owned());
    }
    if saved.about.is_none() {
        let words = counted(report.words.sum, "word");
        saved.about =
            Some(format!("{} of {words}, when this was written", counted(report.documents, "document")));
    }
    for source in &collection.sources {
        saved.sources.extend(described(source, proposed, folder));
    }
    if collection.sources.iter().any(SourceSpec::has_login) {
        screen
            .warn("the user and the password of an address are not saved; give them again with the address");
    }
    Ok(write_file(file, write_collection(&saved).as_bytes(), replace)?)
}

/// The source once for each way in which fields were found in it, and once for the files for which nothing was.
fn described(source: &SourceSpec, proposed: &[Proposed], folder: &Path) -> Vec<SourceSpec> {
    let mut plain = SourceSpec::clone(source);
    plain.place = relative(source, &source.place, folder);
    plain.base = None;
    plain.options.propose = false;
    if let Some(only) = proposed.iter().find(|proposed| proposed.name == source.place) {
        plain.selection = only.selection.clone();
        return vec![plain];
    }
    let (mut sources, mut taken) = (Vec::new(), plain.options.exclude.written.clone());
    let mut inside: Vec<&Proposed> =
        proposed.iter().filter(|proposed| lies_in(&proposed.name, source)).collect();
    // Files of which the same is said stand together.
    inside.sort_by_key(|one| proposed.iter().position(|other| other.selection == one.selection));
    for proposed in inside {
        let mut spec = plain.clone();
        spec.selection = proposed.selection.clone();
        let file = format!("{}/{}", source.place.trim_end_matches('/'), proposed.name);
        let names = patterns(&proposed.name, source);
        taken.extend(names.iter().filter(|name| !is_archive(name)).cloned());
        if located(source, &file).is_file() {
            // A file of a folder can be named by itself.
            spec.place = relative(source, &file, folder);
            spec.options.include = Patterns::default();
            spec.options.exclude = Patterns::default();
        } else {
            spec.options.include = Patterns::read(&names).unwrap_or_default();
        }
        sources.push(spec);
    }
    if !sources.is_empty() {
        plain.options.exclude = Patterns::read(&taken).unwrap_or_default();
    }
    sources.push(plain);
    sources
}

/// Whether a file was found in a source: in its folder, its archive or its listing.
fn lies_in(name: &str, source: &SourceSpec) -> bool {
    let place = located(source, &source.place);
    let first = name.split('/').next().unwrap_or(name);
    name.starts_with(&format!("{}/", source.place))
        || place.join(first).exists()
        || source.place.contains("://")
}

/// What takes a file, and every archive that it lies in. Brackets and stars in names mean themselves.
fn patterns(name: &str, source: &SourceSpec) -> Vec<String> {
    let within = name.strip_prefix(&format!("{}/", source.place)).unwrap_or(name);
    let mut patterns = Vec::new();
    let mut from = 0;
    for (at, _) in within.match_indices('/') {
        if is_archive(&within[from..at]) {
            patterns.push(escaped(&within[from..at]));
            from = at + 1;
        }
    }
    patterns.push(escaped(&within[from..]));
    patterns
}

fn is_archive(name: &str) -> bool {
    [".zip", ".tar", ".tgz", ".tar.gz", ".tar.zst", ".tar.bz2", ".tar.xz"]
        .iter()
        .any(|ending| name.ends_with(ending))
}

fn escaped(name: &str) -> String {
    let mut out = String::new();
    for c in name.chars() {
        if matches!(c, '*' | '?' | '[' | ']' | '{' | '}' | '\\') {
            out.push('[');
            out.push(c);
            out.push(']');
        } else {
            out.push(c);
        }
    }
    out
}

/// Where a place of a source is.
fn located(source: &SourceSpec, place: &str) -> PathBuf {
    source.base.as_ref().map_or_else(|| PathBuf::from(place), |base| base.join(place))
}

/// A place of a source as it is found from `folder`, where the collection file will lie.
fn relative(source: &SourceSpec, place: &str, folder: &Path) -> String {
    if place == "-" || place.contains("://") || Path::new(place).is_absolute() {
        return place.to_owned();
    }
    let (Ok(place), Ok(folder)) = (located(source, place).canonicalize(), folder.canonicalize()) else {
        return place.to_owned();
    };
    let (place, folder): (Vec<_>, Vec<_>) = (place.components().collect(), folder.components().collect());
    let common = place.iter().zip(&folder).take_while(|(a, b)| a == b).count();
    let up = folder[common..].iter().map(|_| Component::ParentDir);
    let path: PathBuf = up.chain(place[common..].iter().copied()).collect();
    if path.as_os_str().is_empty() { ".".to_owned() } else { path.display().to_string() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_take_the_file_and_its_archives() {
        let source = SourceSpec::at("pile");
        assert_eq!(patterns("a/b[1].csv", &source), ["a/b[[]1[]].csv"]);
        assert_eq!(patterns("a/x.zip/inner/b.csv", &source), ["a/x.zip", "inner/b.csv"]);
        assert_eq!(patterns("pile/b.csv", &source), ["b.csv"]);
    }
}
