//! A fresh folder for each test, and the program run in it.

use std::io::Write;
use std::os::unix::fs::symlink;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};

use tempfile::TempDir;

pub(crate) struct Home {
    folder: TempDir,
}

/// What the program left behind.
#[derive(Debug)]
pub(crate) struct Said {
    pub(crate) out: String,
    pub(crate) err: String,
    pub(crate) code: Option<i32>,
}

impl Home {
    pub(crate) fn new() -> Home {
        Home { folder: tempfile::tempdir().expect("a temporary folder") }
    }

    /// With a recipe of lower case, words, stop words, no punctuation, stems.
    pub(crate) fn with_recipe() -> Home {
        Home::new().file(
            "recipe.toml",
            "recipe = \"small\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\n\
             lists = [\"en\"]\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"stem\"\n",
        )
    }

    #[must_use]
    pub(crate) fn file(self, name: &str, content: impl AsRef<[u8]>) -> Home {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
        std::fs::write(path, content).expect("a file");
        self
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
    }

    /// The names in a folder, in order.
    pub(crate) fn names(&self, folder: &str) -> Vec<String> {
        let entries = std::fs::read_dir(self.path(folder)).expect("a folder");
        let mut names: Vec<_> = entries
            .map(|entry| entry.expect("an entry").file_name().to_string_lossy().into_owned())
            .collect();
        names.sort();
        names
    }

    pub(crate) fn command(&self, arguments: &str) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_yarrup"));
        command.current_dir(self.folder.path()).env_remove("NO_COLOR").env_remove("COLUMNS");
        command.args(arguments.split_whitespace());
        command
    }

    /// Runs a line of shell commands in the folder, with the program on the path under its name.
    pub(crate) fn shell(&self, line: &str) -> Output {
        let link = self.path("yarrup");
        if !link.exists() {
            symlink(env!("CARGO_BIN_EXE_yarrup"), &link).expect("a link");
        }
        let path = format!("{}:{}", self.path("").display(), std::env::var("PATH").unwrap_or_default());
        let mut shell = Command::new("sh");
        shell.arg("-c").arg(line).current_dir(self.path("")).env("PATH", path);
        shell.output().expect("a shell")
    }

    /// Runs the program with arguments that hold no spaces.
    #[track_caller]
    pub(crate) fn yarrup(&self, arguments: &str) -> Said {
        self.yarrup_with(arguments, &[], b"")
    }

    /// Runs the program with more arguments, as they are, and with this standard input.
    #[track_caller]
    pub(crate) fn yarrup_with(&self, arguments: &str, more: &[&str], input: &[u8]) -> Said {
        let mut child = self
            .command(arguments)
            .args(more)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .expect("the program starts");
        let mut stdin = child.stdin.take().expect("its input");
        let input = input.to_vec();
        // From a thread of its own: the program may answer before all is written, or end before.
        let writer = std::thread::spawn(move || drop(stdin.write_all(&input)));
        let output = child.wait_with_output().expect("the program ends");
        writer.join().expect("the writer ends");
        let said = Said {
            out: String::from_utf8(output.stdout).expect("text"),
            err: String::from_utf8(output.stderr).expect("text"),
            code: output.status.code(),
        };
        assert!(!said.err.contains("panicked"), "{said:?}");
        said
    }

    /// As [`Home::yarrup`], for what must go well; returns standard output.
    #[track_caller]
    pub(crate) fn done(&self, arguments: &str) -> String {
        let said = self.yarrup(arguments);
        assert_eq!(said.code, Some(0), "{said:?}");
        said.out
    }

    /// As [`Home::done`], on a screen with so many columns; without them, as for another program. Advice may be found.
    #[track_caller]
    pub(crate) fn done_at(&self, arguments: &str, columns: Option<usize>) -> String {
        let mut command = self.command(arguments);
        if let Some(columns) = columns {
            command.env("COLUMNS", columns.to_string());
        }
        let output = command.output().expect("the program starts");
        let said = String::from_utf8_lossy(&output.stderr);
        assert!(matches!(output.status.code(), Some(0 | 1)), "{arguments}: {said}");
        String::from_utf8(output.stdout).expect("text")
    }

    /// As [`Home::yarrup`], for what must be refused; returns standard error.
    #[track_caller]
    pub(crate) fn refused(&self, arguments: &str) -> String {
        let said = self.yarrup(arguments);
        assert_eq!(said.code, Some(2), "{said:?}");
        said.err
    }

    /// The documents of a source, as a run that changes nothing leaves them.
    #[track_caller]
    pub(crate) fn documents(&self, arguments: &str) -> Vec<serde_json::Value> {
        self.documents_with(arguments, &[])
    }

    /// As [`Home::documents`], with more arguments as they are.
    #[track_caller]
    pub(crate) fn documents_with(&self, arguments: &str, more: &[&str]) -> Vec<serde_json::Value> {
        std::fs::write(self.path("as-found.toml"), "[[step]]\ndo = \"split\"\n").expect("a recipe");
        let command =
            format!("run as-found.toml {arguments} --out as-found --with-originals --replace --quiet");
        let said = self.yarrup_with(&command, more, b"");
        assert_eq!(said.code, Some(0), "{said:?}");
        let documents = self.read("as-found/documents.jsonl");
        documents.lines().map(|line| serde_json::from_str(line).expect("an object")).collect()
    }

    /// The rows of a CSV file of a run, without the header.
    pub(crate) fn rows(&self, name: &str) -> Vec<Vec<String>> {
        let mut reader = csv::Reader::from_path(self.path(name)).expect("a table");
        reader.records().map(|row| row.expect("a row").iter().map(str::to_owned).collect()).collect()
    }
}
