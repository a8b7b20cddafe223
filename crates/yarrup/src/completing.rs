//! What a shell completes while a command line is typed: commands, options, the names that an argument takes, and the fields of the documents that the line
//! names.

use std::collections::BTreeSet;
use std::ffi::{OsStr, OsString};
use std::path::{Path, PathBuf};

use clap::builder::PossibleValuesParser;
use clap::{Arg, CommandFactory as _, ValueHint};
use clap_complete::env::{CompleteEnv, Shells};
use clap_complete::{ArgValueCompleter, CompletionCandidate, Shell};
use yarrup_core::suggest::Sort;
use yarrup_core::words::stop_list_names;
use yarrup_core::{OPERATIONS, shelf};
use yarrup_io::{FORMATS, Unit, is_collection_file};

use crate::arguments::Arguments;
use crate::commands::help_topic::topics;
use crate::commands::matches::kind_names;
use crate::reading::field_names;
use crate::screen::Screen;
use crate::source_arguments::SourceArguments;

/// By this variable a shell asks for what may stand at a place of a command line.
const ASKED_BY: &str = "YARRUP_COMPLETE";
const NAME: &str = "yarrup";

/// Answers a shell that asks. Returns whether one did.
pub(crate) fn answer() -> Result<bool, clap::Error> {
    let folder = std::env::current_dir().ok();
    let asked = CompleteEnv::with_factory(definition).var(ASKED_BY).bin(NAME);
    asked.try_complete(std::env::args_os(), folder.as_deref())
}

/// Writes what makes a shell ask.
pub(crate) fn write_script(shell: Shell, out: &mut dyn std::io::Write) -> std::io::Result<()> {
    match Shells::builtins().completer(&shell.to_string()) {
        Some(asking) => asking.write_registration(ASKED_BY, NAME, NAME, NAME, out)?,
        None => return Err(std::io::Error::other(format!("no completions for {shell}"))),
    }
    if shell == Shell::Zsh {
        // Z shell loads a file of completions when it first needs it, and takes it for the function itself.
        writeln!(out, "if [[ $funcstack[1] == _{NAME} ]]; then _clap_dynamic_completer_{NAME} \"$@\"; fi")?;
    }
    Ok(())
}

/// The commands with what their arguments take. Options are many: they are shown to who types a hyphen.
fn definition() -> clap::Command {
    let is_option = typed_word().is_some_and(|word| word.as_encoded_bytes().starts_with(b"-"));
    let hidden = |argument: Arg| {
        let is_hidden = argument.is_hide_set() || !(is_option || argument.is_positional());
        argument.hide(is_hidden)
    };
    let all = Arguments::command().name(NAME).disable_help_flag(!is_option).disable_version_flag(!is_option);
    all.mut_args(hidden).mut_subcommands(|command| {
        let name = command.get_name().to_owned();
        let command = command.disable_help_flag(!is_option);
        command.mut_args(|argument| hidden(with_candidates(&name, argument)))
    })
}

/// The word that is being typed: that of which the shell says so, else the last.
fn typed_word() -> Option<OsString> {
    let words: Vec<OsString> = std::env::args_os().skip_while(|word| word != "--").skip(1).collect();
    let place = std::env::var("_CLAP_COMPLETE_INDEX").ok().and_then(|place| place.parse().ok());
    words.into_iter().nth(place.unwrap_or(usize::MAX)).or_else(|| std::env::args_os().next_back())
}

fn with_candidates(command: &str, argument: Arg) -> Arg {
    let value = argument.get_value_names().and_then(|names| names.first()).map(ToString::to_string);
    let names = names_of(command, argument.get_id().as_str());
    match value.as_deref() {
        _ if !names.is_empty() => argument.value_parser(PossibleValuesParser::new(names)),
        // They may be addresses, but those cannot be completed.
        Some("SOURCE") => argument.value_hint(ValueHint::AnyPath),
        Some("FIELD" | "FIELDS" | "FIELD=TYPE" | "CONDITION" | "NAME=CONDITION") => {
            argument.add(ArgValueCompleter::new(fields))
        }
        _ => argument,
    }
}

/// The names that an argument of a command takes, of those that the commands look up themselves so that a mistake is told with what may be meant.
fn names_of(command: &str, argument: &str) -> Vec<String> {
    match (command, argument) {
        ("steps", "name") => OPERATIONS.iter().map(|operation| operation.name.to_owned()).collect(),
        ("shelf", "name") => shelf().into_iter().map(|item| item.name).collect(),
        ("help", "topic") => {
            let definition = Arguments::command();
            let commands = definition.get_subcommands().filter(|command| !command.is_hide_set());
            let commands = commands.map(|command| command.get_name().to_owned());
            topics().map(str::to_owned).chain(commands).collect()
        }
        (_, "read_as") => FORMATS.all().map(|format| format.name().to_owned()).collect(),
        (_, "each") => Unit::NAMES.iter().map(|(name, _)| (*name).to_owned()).collect(),
        ("matches", "kinds") => kind_names().map(str::to_owned).collect(),
        ("suggest", "only") => Sort::ALL.iter().map(|sort| sort.name().to_owned()).collect(),
        (_, "language") => {
            let codes = stop_list_names().filter(|name| name.len() == 2);
            codes.map(str::to_owned).collect::<BTreeSet<_>>().into_iter().collect()
        }
        _ => Vec::new(),
    }
}

/// The fields of the documents that the command line names, as far as they begin with what is typed: behind the last comma, and behind the name of a
/// derived field.
fn fields(typed: &OsStr) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let at = typed.rfind([',', '=']).map_or(0, |at| at + 1);
    let (before, begun) = typed.split_at(at);
    let asked = SourceArguments::default();
    let names = places(std::env::args_os()).into_iter().flat_map(|place| {
        let collection = asked.collection(&[place.to_string_lossy().into_owned()]);
        collection.and_then(|all| field_names(&all, &Screen::silent())).unwrap_or_default()
    });
    let names: BTreeSet<String> = names.filter(|name| name.starts_with(begun)).collect();
    names.into_iter().map(|name| CompletionCandidate::new(format!("{before}{name}"))).collect()
}

/// The runs, collections and tables that a command line names, behind the `--` of a shell that asks: those of which a few documents are quickly read.
fn places(words: impl Iterator<Item = OsString>) -> Vec<PathBuf> {
    let words: Vec<OsString> = words.skip_while(|word| word != "--").skip(2).collect();
    let before = std::iter::once(OsStr::new("")).chain(words.iter().map(OsString::as_os_str));
    let named = words.iter().zip(before).filter(|(_, before)| *before != "--out" && *before != "-o");
    named.map(|(word, _)| PathBuf::from(word)).filter(|path| is_quickly_read(path)).collect()
}

fn is_quickly_read(path: &Path) -> bool {
    if path.is_dir() {
        return path.join("run.json").is_file();
    }
    let ending = path.extension().and_then(OsStr::to_str).unwrap_or_default();
    let holds_rows = FORMATS.named(ending).is_some_and(|format| format.units().contains(&Unit::Row));
    path.is_file() && (holds_rows || (ending == "toml" && is_collection_file(path)))
}
