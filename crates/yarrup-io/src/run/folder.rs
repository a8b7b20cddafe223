//! The folder that a run leaves behind: written aside, and named when it is whole.

use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

use xxhash_rust::xxh3::Xxh3;

use crate::run::error::{RunError, refused};
use crate::run::record::{FileRecord, RECORD_FILE, RunRecord, any_record, read_run};
use crate::writing::{
    Aside, Claim, Exchanged, Finishing, exchange, is_unfinished, move_new, sync_folder, sync_tree, write_file,
};

/// The way from a folder to a file, `/` on every system; none if it is no text. Both are absolute, without links.
pub fn way(folder: &Path, file: &Path) -> Option<String> {
    let shared = folder.iter().zip(file.iter()).take_while(|(one, other)| one == other).count();
    let up = std::iter::repeat_n(Some(".."), folder.iter().count() - shared);
    let down = file.iter().skip(shared).map(std::ffi::OsStr::to_str);
    Some(up.chain(down).collect::<Option<Vec<_>>>()?.join("/"))
}

/// A run folder that is being written. Dropped before it was finished, it leaves nothing behind.
#[derive(Debug)]
pub struct RunFolder {
    /// As the user named it.
    named: PathBuf,
    /// Where it will stand, behind all links.
    target: PathBuf,
    aside: Aside,
    replace: bool,
    /// What was written so far, by its name.
    written: Mutex<BTreeMap<String, FileRecord>>,
}

impl RunFolder {
    /// Makes room for a run at `target`, which must not exist unless `replace`. What a process that was killed left there is put right.
    ///
    /// # Errors
    ///
    /// If the place is taken, also by another process that is at work, or the system refuses.
    pub fn create(named: &Path, replace: bool) -> Result<RunFolder, RunError> {
        let path = || named.display().to_string();
        if named.symlink_metadata().is_ok() && !named.exists() {
            return Err(RunError::NotARun { path: path() });
        }
        let target = named.canonicalize().unwrap_or_else(|_| named.to_owned());
        if target.file_name().is_none() {
            return Err(RunError::NotARun { path: path() });
        }
        let claim = Claim::of(&target).map_err(refused(named))?;
        let beside = claim.beside();
        if beside.is_busy {
            return Err(RunError::Busy { path: path() });
        }
        for left in &beside.left {
            put_right(&left.path, left.was_moved, &target);
        }
        if is_mount_point(&target) {
            return Err(RunError::MountPoint { path: path().trim_end_matches('/').to_owned() });
        }
        match Standing::at(&target) {
            Standing::Nothing | Standing::EmptyFolder => {}
            Standing::Other => return Err(RunError::NotARun { path: path() }),
            Standing::Run if !replace => return Err(RunError::Exists { path: path() }),
            Standing::Run => refuse_more(named, &target)?,
        }
        let aside = claim.new_folder().map_err(refused(named))?;
        Ok(RunFolder { named: named.to_owned(), target, aside, replace, written: Mutex::default() })
    }

    /// Where the run will stand, as it was named.
    pub fn named(&self) -> &Path {
        &self.named
    }

    /// The way from where the run will stand to a file, `/` on every system; none if it is no text. `file` is absolute, without links.
    pub fn path_to(&self, file: &Path) -> Option<String> {
        let parent = self.target.parent().filter(|parent| !parent.as_os_str().is_empty());
        let parent = parent.unwrap_or(Path::new(".")).canonicalize().ok()?;
        let folder = parent.join(self.target.file_name()?);
        way(&folder, file)
    }

    /// What was written so far: names and sizes.
    pub fn sizes(&self) -> Vec<(String, u64)> {
        let written = self.written.lock().unwrap_or_else(PoisonError::into_inner);
        written.iter().map(|(name, file)| (name.clone(), file.bytes)).collect()
    }

    /// Opens a file of the run for writing.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn file(&self, name: &str) -> Result<RunFile<'_>, RunError> {
        let mut path = self.aside.path().to_owned();
        let mut parts = Path::new(name).iter().peekable();
        while let Some(part) = parts.next() {
            path.push(part);
            // One level at a time: what an interruption has taken away must not come again.
            if parts.peek().is_some() && !path.is_dir() {
                fs::create_dir(&path).or_else(is_there).map_err(refused(&path))?;
            }
        }
        let file = File::create(&path).map_err(refused(&self.named.join(name)))?;
        let counted = Counted { file, bytes: 0, hash: Xxh3::new() };
        let writer = BufWriter::with_capacity(1 << 16, counted);
        Ok(RunFile { folder: self, name: name.to_owned(), writer })
    }

    /// Writes a whole file of the run.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn write(&self, name: &str, content: &[u8]) -> Result<(), RunError> {
        let mut file = self.file(name)?;
        file.write_all(content).and_then(|()| file.flush()).map_err(refused(&self.named.join(name)))
    }

    /// The folder as it stands now, with a record of what was written so far: it can be read like a run that is finished.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn so_far(&self, mut record: RunRecord) -> Result<&Path, RunError> {
        record.files = self.written.lock().unwrap_or_else(PoisonError::into_inner).clone();
        self.write(RECORD_FILE, &record.json()?)?;
        // The record names every other file of the folder.
        self.written.lock().unwrap_or_else(PoisonError::into_inner).remove(RECORD_FILE);
        Ok(self.aside.path())
    }

    /// Writes the record of the run and gives the folder its name, now that all is written and on the disk.
    ///
    /// # Errors
    ///
    /// If the system refuses, or something stands at the place that is not to be replaced. What stood there stands there still then.
    pub fn finish(self, mut record: RunRecord) -> Result<(), RunError> {
        record.files = self.written.lock().unwrap_or_else(PoisonError::into_inner).clone();
        self.write(RECORD_FILE, &record.json()?)?;
        sync_tree(self.aside.path()).map_err(refused(&self.named))?;
        // Nobody else may begin until this has ended.
        let claim = Claim::of(&self.target).map_err(refused(&self.named))?;
        let finishing = Finishing::begin();
        match Standing::at(&self.target) {
            Standing::Nothing => self.move_in(finishing)?,
            Standing::EmptyFolder => match fs::rename(self.aside.path(), &self.target) {
                Ok(()) => self.forget(finishing),
                Err(why) if why.kind() == io::ErrorKind::DirectoryNotEmpty => {
                    return self.stand_beside(finishing);
                }
                Err(why) => return Err(refused(&self.named)(why)),
            },
            Standing::Run if self.replace => self.replace_run(&claim, finishing)?,
            Standing::Run | Standing::Other => return self.stand_beside(finishing),
        }
        sync_folder(self.target.parent().unwrap_or(Path::new(".")));
        Ok(())
    }

    /// The folder has its place, and an interruption is to leave it.
    fn forget(&self, mut finishing: Finishing) {
        finishing.forget(self.aside.path());
    }

    fn move_in(&self, finishing: Finishing) -> Result<(), RunError> {
        match move_new(self.aside.path(), &self.target) {
            Ok(()) => {
                self.forget(finishing);
                Ok(())
            }
            Err(why) if why.kind() == io::ErrorKind::AlreadyExists => self.stand_beside(finishing),
            Err(why) => Err(refused(&self.named)(why)),
        }
    }

    fn replace_run(&self, claim: &Claim, finishing: Finishing) -> Result<(), RunError> {
        let aside = self.aside.path();
        if let Err(_more) = refuse_more(&self.named, &self.target) {
            return self.stand_beside(finishing);
        }
        match exchange(aside, &self.target).map_err(refused(&self.named))? {
            Exchanged::Yes => {
                // What came into the old run between two looks at it is not lost either.
                if refuse_more(&self.named, aside).is_err() {
                    exchange(aside, &self.target).map_err(refused(&self.named))?;
                    return self.stand_beside(finishing);
                }
                drop(finishing);
                fs::remove_dir_all(aside).map_err(refused(aside))
            }
            Exchanged::Unsupported => {
                let moved = claim.moved();
                fs::rename(&self.target, &moved).map_err(refused(&self.named))?;
                if let Err(why) = fs::rename(aside, &self.target) {
                    // Nothing better can be done if this fails too: the first error is the one to tell.
                    let _ = fs::rename(&moved, &self.target);
                    return Err(refused(&self.named)(why));
                }
                self.forget(finishing);
                fs::remove_dir_all(&moved).map_err(refused(&moved))
            }
        }
    }

    /// Gives the run a name beside the one that was asked for, which is taken: hours of work are not thrown away.
    fn stand_beside(&self, finishing: Finishing) -> Result<(), RunError> {
        let named = self.target.file_name().unwrap_or_default();
        for number in 2..1000 {
            let mut name = named.to_owned();
            name.push(format!("-{number}"));
            let target = self.target.with_file_name(&name);
            match move_new(self.aside.path(), &target) {
                Err(why) if why.kind() == io::ErrorKind::AlreadyExists => {}
                Err(why) => return Err(refused(&target)(why)),
                Ok(()) => {
                    self.forget(finishing);
                    return Err(RunError::Appeared {
                        path: self.named.display().to_string(),
                        stands: self.named.with_file_name(&name).display().to_string(),
                    });
                }
            }
        }
        Err(RunError::Exists { path: self.named.display().to_string() })
    }
}

fn is_there(why: io::Error) -> io::Result<()> {
    if why.kind() == io::ErrorKind::AlreadyExists { Ok(()) } else { Err(why) }
}

/// Whether another file system is mounted at a place.
#[cfg(unix)]
fn is_mount_point(place: &Path) -> bool {
    use std::os::unix::fs::MetadataExt as _;
    let device = |path: &Path| path.metadata().map(|meta| meta.dev()).ok();
    let folder = place.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    device(place).is_some_and(|own| device(folder).is_some_and(|of_folder| of_folder != own))
}

#[cfg(not(unix))]
fn is_mount_point(_place: &Path) -> bool {
    false
}

/// What stands at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Standing {
    Nothing,
    EmptyFolder,
    /// A folder whose `run.json` was written by yarrup.
    Run,
    Other,
}

impl Standing {
    fn at(path: &Path) -> Standing {
        if path.symlink_metadata().is_err() {
            return Standing::Nothing;
        }
        match fs::read_dir(path).map(|mut entries| entries.next().is_none()) {
            Ok(true) => Standing::EmptyFolder,
            Ok(false) if any_record(path).is_some() => Standing::Run,
            _ => Standing::Other,
        }
    }
}

/// How many files are named that no run wrote.
const NAMED: usize = 3;

/// Refuses a run folder that holds what no run wrote.
fn refuse_more(named: &Path, folder: &Path) -> Result<(), RunError> {
    let more = foreign_files(folder);
    if more.is_empty() {
        return Ok(());
    }
    let mut shown: Vec<String> = more.iter().take(NAMED).map(|name| format!("`{name}`")).collect();
    if more.len() > NAMED {
        shown.push(format!("{} more", more.len() - NAMED));
    }
    Err(RunError::HoldsMore { path: named.display().to_string(), named: shown.join(", ") })
}

/// What a folder holds that no run wrote, by its path in the folder.
fn foreign_files(folder: &Path) -> Vec<String> {
    let record = any_record(folder).unwrap_or_default();
    let is_ours = |name: &str| {
        // What a killed process left of a file that it was redrawing.
        is_unfinished(name.rsplit('/').next().unwrap_or(name))
            || name == RECORD_FILE
            || record.files.contains_key(name)
            // A run of an older version does not say what it wrote, nor does one that was not finished.
            || (record.files.is_empty() && (WRITTEN.contains(&name) || is_figure(name) || name.starts_with("inputs/")))
    };
    let mut foreign = Vec::new();
    let files = walkdir::WalkDir::new(folder).min_depth(1).sort_by_file_name();
    for entry in files.into_iter().flatten().filter(|entry| !entry.file_type().is_dir()) {
        let inside = entry.path().strip_prefix(folder).unwrap_or(entry.path());
        let parts: Vec<_> = inside.iter().map(|part| part.to_string_lossy()).collect();
        let name = parts.join("/");
        if !is_ours(&name) {
            foreign.push(name);
        }
    }
    foreign
}

/// The figures that a run can draw.
const FIGURES: [&str; 11] = [
    "cloud",
    "documents-frequency",
    "effects",
    "groups",
    "growth",
    "kinds",
    "lengths",
    "parts-of-speech",
    "rank-documents",
    "rank-frequency",
    "top-terms",
];

fn is_figure(name: &str) -> bool {
    let name = name.strip_prefix("figures/").and_then(|name| name.rsplit_once('.'));
    name.is_some_and(|(name, ending)| FIGURES.contains(&name) && matches!(ending, "svg" | "png"))
}

/// The files that a run can write, but for figures and copies of its inputs.
const WRITTEN: [&str; 20] = [
    "account.bin",
    "course.bin",
    "documents.jsonl",
    "documents.jsonl.zst",
    "dropped-documents.csv",
    "effects.csv",
    "forms.csv",
    "frozen.toml",
    "growth.csv",
    "learned.csv",
    "lengths.csv",
    "matches.csv",
    "originals.json",
    "recipe.toml",
    "report.html",
    "skipped.csv",
    "tokens.csv",
    "tokens.jsonl",
    "tokens.parquet",
    "vocabulary.csv",
];

/// Puts right what a killed process left: a run that was moved away, and nothing was put in its place yet, stands in its place again; else it goes,
/// unless it holds what no run wrote.
fn put_right(left: &Path, was_moved: bool, target: &Path) {
    if was_moved && target.symlink_metadata().is_err() {
        let _ = fs::rename(left, target);
    } else if foreign_files(left).is_empty() {
        // Only tidying up: a run must not fail because of it.
        let _ = fs::remove_dir_all(left);
    }
}

/// A file of a run that is being written, counted and hashed.
pub struct RunFile<'r> {
    folder: &'r RunFolder,
    name: String,
    writer: BufWriter<Counted>,
}

struct Counted {
    file: File,
    bytes: u64,
    hash: Xxh3,
}

impl Write for Counted {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let count = self.file.write(bytes)?;
        self.bytes += count as u64;
        self.hash.update(&bytes[..count]);
        Ok(count)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.file.flush()
    }
}

impl Write for RunFile<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.writer.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.writer.flush()
    }
}

impl Drop for RunFile<'_> {
    fn drop(&mut self) {
        // Whoever wrote has flushed it, and told what went wrong.
        let _ = self.writer.flush();
        let counted = self.writer.get_ref();
        let record = FileRecord { bytes: counted.bytes, hash: format!("{:032x}", counted.hash.digest128()) };
        let mut written = self.folder.written.lock().unwrap_or_else(PoisonError::into_inner);
        written.insert(std::mem::take(&mut self.name), record);
    }
}

/// Files of a run folder that stands, drawn anew: each whole or as it was.
///
/// # Errors
///
/// If the system refuses.
pub fn replace_in_run(run: &Path, files: &[(String, Vec<u8>)]) -> Result<(), RunError> {
    let mut record = read_run(run)?;
    for (name, content) in files {
        let path = run.join(name);
        path.parent().map_or(Ok(()), fs::create_dir_all).map_err(refused(&path))?;
        write_file(&path, content, true)?;
        let written = FileRecord { bytes: content.len() as u64, hash: crate::hash(content) };
        record.files.insert(name.clone(), written);
    }
    Ok(write_file(&run.join(RECORD_FILE), &record.json()?, true)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn home() -> (tempfile::TempDir, PathBuf) {
        let home = tempfile::tempdir().expect("a folder");
        let target = home.path().join("run");
        (home, target)
    }

    fn record(recipe: &str) -> RunRecord {
        RunRecord { recipe: Some(recipe.to_owned()), ..RunRecord::default() }
    }

    fn recipe_at(run: &Path) -> Option<String> {
        read_run(run).expect("a run").recipe
    }

    fn names(folder: &Path) -> Vec<String> {
        let entries = fs::read_dir(folder).expect("readable");
        let mut names: Vec<_> = entries
            .map(|entry| entry.expect("an entry").file_name().to_string_lossy().into_owned())
            .collect();
        names.sort();
        names
    }

    fn finished(target: &Path, recipe: &str) {
        let run = RunFolder::create(target, true).expect("room");
        run.write("vocabulary.csv", b"rank").expect("written");
        run.finish(record(recipe)).expect("renamed");
    }

    #[test]
    fn a_folder_is_whole_or_not_there() {
        let (home, target) = home();
        let unfinished = RunFolder::create(&target, false).expect("room");
        unfinished.write("figures/effects.svg", b"x").expect("written");
        assert!(!target.exists());
        assert!(matches!(RunFolder::create(&target, false), Err(RunError::Busy { .. })));
        drop(unfinished);
        assert_eq!(names(home.path()).len(), 0);
        finished(&target, "first");
        assert!(matches!(RunFolder::create(&target, false), Err(RunError::Exists { .. })));
        finished(&target, "second");
        assert_eq!(recipe_at(&target).as_deref(), Some("second"));
        assert_eq!(names(home.path()), ["run"]);
        let written = &read_run(&target).expect("a run").files["vocabulary.csv"];
        assert_eq!((written.bytes, &written.hash), (4, &crate::hash(b"rank")));
    }

    #[test]
    fn what_no_run_wrote_is_never_replaced() {
        let (home, target) = home();
        // Neither a folder of something else, nor one that has a file of the same name, nor a run with a thesis in it.
        for (name, content) in [("thesis.txt", "x"), ("run.json", "{\"thesis\": 1}"), ("run.json", "{}")] {
            fs::create_dir_all(&target).expect("a folder");
            fs::write(target.join(name), content).expect("written");
            assert!(
                matches!(RunFolder::create(&target, true), Err(RunError::NotARun { .. })),
                "{name} {content}"
            );
            fs::remove_dir_all(&target).expect("removed");
        }
        finished(&target, "first");
        fs::create_dir(target.join("figures")).expect("a folder");
        fs::write(target.join("figures/mine.png"), "x").expect("written");
        fs::write(target.join("notes.unfinished-draft.txt"), "x").expect("written");
        let error = RunFolder::create(&target, true).expect_err("it holds more").to_string();
        assert!(error.contains("`figures/mine.png`, `notes.unfinished-draft.txt`"), "{error}");
        assert_eq!(names(home.path()), ["run"]);
    }

    #[test]
    fn what_appears_meanwhile_stays_and_the_run_stands_beside() {
        let (home, target) = home();
        // A folder of somebody's, a run of another, and a file that came into the run that was to be replaced.
        let run = RunFolder::create(&target, false).expect("room");
        fs::create_dir(&target).expect("a folder");
        fs::write(target.join("thesis.txt"), "x").expect("written");
        let error = run.finish(record("mine")).expect_err("taken").to_string();
        assert!(error.ends_with("run-2"), "{error}");
        assert_eq!(names(&target), ["thesis.txt"]);
        assert_eq!(recipe_at(&home.path().join("run-2")).as_deref(), Some("mine"));
        let target = home.path().join("other");
        finished(&target, "first");
        let run = RunFolder::create(&target, true).expect("room");
        fs::write(target.join("notes.txt"), "x").expect("written");
        assert!(matches!(run.finish(record("second")), Err(RunError::Appeared { .. })));
        assert_eq!(recipe_at(&target).as_deref(), Some("first"));
        assert_eq!(recipe_at(&home.path().join("other-2")).as_deref(), Some("second"));
        assert_eq!(names(home.path()), ["other", "other-2", "run", "run-2"]);
    }

    #[test]
    fn an_empty_folder_and_a_link_are_places_as_well() {
        let (home, target) = home();
        fs::create_dir(&target).expect("a folder");
        RunFolder::create(&target, false).expect("room").finish(record("first")).expect("renamed");
        #[cfg(unix)]
        {
            let link = home.path().join("latest");
            std::os::unix::fs::symlink("run", &link).expect("linked");
            finished(&link, "second");
            assert!(link.symlink_metadata().expect("there").is_symlink());
        }
        #[cfg(unix)]
        assert_eq!(recipe_at(&target).as_deref(), Some("second"));
        drop(home);
    }

    #[test]
    fn what_a_killed_process_left_is_put_right() {
        let (home, target) = home();
        let left = |name: &str| home.path().join(name);
        // Killed while it wrote; killed between two moves, on a system that has no exchange; killed behind them.
        fs::create_dir(left(".run.unfinished-0123456789abcdef")).expect("a folder");
        fs::write(left(".run.unfinished-0123456789abcdef/forms.csv"), "form").expect("written");
        finished(&target, "old");
        fs::rename(&target, left(".run.replaced-0123456789abcdef")).expect("moved");
        assert!(matches!(RunFolder::create(&target, false), Err(RunError::Exists { .. })));
        assert_eq!(recipe_at(&target).as_deref(), Some("old"));
        finished(&left("other"), "older");
        fs::rename(left("other"), left(".run.replaced-00000000000000ff")).expect("moved");
        drop(RunFolder::create(&target, true).expect("room"));
        assert_eq!(names(home.path()), ["run"]);
        // What somebody put there is not ours to remove.
        fs::create_dir(left(".run.unfinished-0123456789abcdef")).expect("a folder");
        fs::write(left(".run.unfinished-0123456789abcdef/thesis.txt"), "x").expect("written");
        drop(RunFolder::create(&target, true).expect("room"));
        assert_eq!(names(home.path()), [".run.unfinished-0123456789abcdef", "run"]);
    }
}
