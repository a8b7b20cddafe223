//! What `--help` shows: three options that matter with `-h`, all of them and examples with `--help`. The examples are run by a test, against the demo.

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Arg, Command, CommandFactory};
use yarrup_core::recipe::nearest;

use crate::arguments::Arguments;

/// What help says of a command beside its definition.
struct Help {
    command: &'static str,
    /// The options that `-h` shows.
    matter: &'static [&'static str],
    /// What one wants, and what to type for it.
    examples: &'static [(&'static str, &'static str)],
}

const HELP: &[Help] = &[
    Help {
        command: "demo",
        matter: &["into"],
        examples: &[("Write the demo, run it, and get a tour", "yarrup demo --into saltmere")],
    },
    Help {
        command: "look",
        matter: &["documents", "copies", "text"],
        examples: &[
            ("See what a collection holds", "yarrup look saltmere/field-notes.jsonl"),
            ("Read three documents whole", "yarrup look saltmere/saltmere.toml --documents 1,longest,random"),
            ("Find copies and what many documents repeat", "yarrup look saltmere/saltmere.toml --copies"),
            (
                "Describe a folder once, for all commands",
                "yarrup look saltmere/ward-reports --save wards.toml --replace",
            ),
        ],
    },
    Help {
        command: "run",
        matter: &["out", "text", "replace"],
        examples: &[
            (
                "Apply a recipe to a file; the text is in the field `note.text`",
                "yarrup run saltmere/recipes/topics.toml saltmere/field-notes.jsonl --text note.text --out notes-run --replace",
            ),
            (
                "Apply it to a whole collection, and write every token with its place",
                "yarrup run saltmere/recipes/topics.toml saltmere/saltmere.toml --tokens csv --out all-run --replace",
            ),
            (
                "Give new documents the same treatment",
                "yarrup run --frozen notes-run saltmere/field-notes.jsonl --text note.text --out later-run --replace",
            ),
        ],
    },
    Help {
        command: "lock",
        matter: &[],
        examples: &[
            ("Record what a recipe depends on", "yarrup lock saltmere/recipes/search.toml"),
            (
                "Run it only as it was locked",
                "yarrup run saltmere/recipes/search.toml saltmere/saltmere.toml --locked --out search-run --replace",
            ),
        ],
    },
    Help {
        command: "merge",
        matter: &["out", "replace"],
        examples: &[
            (
                "Run two halves",
                "yarrup run saltmere/recipes/search.toml saltmere/saltmere.toml --part 1/2 --out half-1 --replace",
            ),
            (
                "",
                "yarrup run saltmere/recipes/search.toml saltmere/saltmere.toml --part 2/2 --out half-2 --replace",
            ),
            ("Put them together", "yarrup merge half-1 half-2 --out whole --replace"),
        ],
    },
    Help {
        command: "pipe",
        matter: &["text", "tokens", "threads"],
        examples: &[
            (
                "Clean JSON Lines in a pipeline",
                "yarrup pipe saltmere/recipes/topics.toml --text note.text < saltmere/field-notes.jsonl",
            ),
            (
                "With every token and its place",
                "yarrup pipe saltmere/recipes/topics.toml --text note.text --tokens < saltmere/field-notes.jsonl",
            ),
        ],
    },
    Help {
        command: "try",
        matter: &["from", "beside", "watch"],
        examples: &[
            (
                "One text through every step",
                "yarrup try saltmere/recipes/topics.toml \"We haven't seen the terns' nests.\"",
            ),
            (
                "A document of a source",
                "yarrup try saltmere/recipes/topics.toml --from saltmere/field-notes.jsonl --text note.text --document note-019",
            ),
            (
                "Two recipes side by side",
                "yarrup try saltmere/recipes/topics.toml --beside saltmere/recipes/search.toml \"Two terns are nesting.\"",
            ),
        ],
    },
    Help {
        command: "check",
        matter: &["fix", "entries", "watch"],
        examples: &[
            ("Look for mistakes and orders that cannot work", "yarrup check saltmere/recipes/topics.toml"),
            (
                "See what comes of it on a collection",
                "yarrup check saltmere/recipes/topics.toml saltmere/saltmere.toml",
            ),
        ],
    },
    Help {
        command: "new",
        matter: &["aim", "language", "replace"],
        examples: &[
            ("A commented recipe for topic models", "yarrup new topics.toml --for topics --replace"),
            ("The same for German texts", "yarrup new themen.toml --for topics --language de --replace"),
            ("Read one without writing it", "yarrup new - --for search"),
        ],
    },
    Help {
        command: "schema",
        matter: &[],
        examples: &[("Let an editor complete recipes", "yarrup schema > recipe.schema.json")],
    },
    Help {
        command: "steps",
        matter: &["format"],
        examples: &[
            ("All steps, one line each", "yarrup steps"),
            ("The keys of one, with an example", "yarrup steps stopwords"),
        ],
    },
    Help {
        command: "reduce",
        matter: &["methods", "language", "run"],
        examples: &[
            (
                "How stemmers and the lemmatiser treat words",
                "yarrup reduce nests flew leaves university universe",
            ),
            (
                "Two methods on the commonest forms of a run",
                "yarrup reduce --run saltmere/runs/all --with porter2,lemma --top 20",
            ),
        ],
    },
    Help {
        command: "shelf",
        matter: &["format"],
        examples: &[
            ("Everything that ships inside", "yarrup shelf"),
            ("One stop list as a table", "yarrup shelf en --format csv"),
        ],
    },
    Help {
        command: "learn",
        matter: &["out", "folds", "evaluate"],
        examples: &[
            ("Tell how good the English tagger is on text of yours", "yarrup learn --evaluate gold.conllu"),
            ("Learn a model from a treebank", "yarrup learn gold.conllu --out my.model --replace"),
        ],
    },
    Help {
        command: "lists",
        matter: &["run", "entries"],
        examples: &[
            (
                "The lists of a recipe, and what of them occurs",
                "yarrup lists saltmere/recipes/topics.toml --run saltmere/runs/all",
            ),
            ("Put words into a list of yours", "yarrup lists add our-words.txt shift rota"),
            ("Take one out again", "yarrup lists remove our-words.txt rota"),
        ],
    },
    Help {
        command: "export",
        matter: &["what", "format", "out"],
        examples: &[
            (
                "Documents with their cleaned text",
                "yarrup export saltmere/runs/all --what documents --as csv --out documents.csv --replace",
            ),
            (
                "Tokens in the format of treebanks",
                "yarrup export saltmere/runs/all --as conllu --out tokens.conllu --replace",
            ),
            (
                "Terms and counts in a database",
                "yarrup export saltmere/runs/all --what terms,counts --into saltmere.db --replace",
            ),
        ],
    },
    Help {
        command: "matrix",
        matter: &["out", "at_least", "local"],
        examples: &[("The matrix of documents and terms", "yarrup matrix saltmere/runs/all --out matrix")],
    },
    Help {
        command: "report",
        matter: &["by"],
        examples: &[(
            "Draw the page again, with the sites side by side",
            "yarrup report saltmere/runs/all --by site",
        )],
    },
    Help {
        command: "figure",
        matter: &["out", "replace", "theme"],
        examples: &[(
            "A picture of words",
            "yarrup figure saltmere/runs/all cloud --out cloud.png --replace",
        )],
    },
    Help {
        command: "terms",
        matter: &["top", "sort", "dropped"],
        examples: &[
            ("The vocabulary, by documents", "yarrup terms saltmere/runs/all --sort documents --top 10"),
            ("What was dropped, and why", "yarrup terms saltmere/runs/all --dropped --top 10"),
            (
                "What marks one site against the others",
                "yarrup terms saltmere/runs/all --key \"site = Gull Hide\" --top 10",
            ),
        ],
    },
    Help {
        command: "find",
        matter: &["first", "dropped", "matches"],
        examples: &[
            ("Every place of a word", "yarrup find saltmere/runs/all terns"),
            ("Places with a field beside them", "yarrup find saltmere/runs/all water --show site --first 5"),
        ],
    },
    Help {
        command: "why",
        matter: &["format"],
        examples: &[("The journey of a word", "yarrup why saltmere/runs/notes nest")],
    },
    Help {
        command: "suggest",
        matter: &["only", "accept", "recipe"],
        examples: &[
            ("What to try next", "yarrup suggest saltmere/runs/all"),
            (
                "A list of names to edit",
                "yarrup suggest saltmere/runs/all --only names --write names.csv --replace",
            ),
        ],
    },
    Help {
        command: "matches",
        matter: &["kinds", "pattern", "places"],
        examples: &[
            ("Every kind of value in the texts", "yarrup matches saltmere/saltmere.toml"),
            ("All e-mail addresses", "yarrup matches saltmere/saltmere.toml --kinds email --format csv"),
            ("What a pattern finds", "yarrup matches saltmere/saltmere.toml --pattern 'clock=[0-9]+:[0-9]+'"),
        ],
    },
    Help {
        command: "compare",
        matter: &["on", "each_step_out", "rows"],
        examples: &[
            (
                "Two recipes on one collection",
                "yarrup compare saltmere/recipes/topics.toml saltmere/recipes/search.toml --on saltmere/saltmere.toml",
            ),
            (
                "What each step changes in the end",
                "yarrup compare saltmere/recipes/topics.toml --each-step-out --on saltmere/saltmere.toml",
            ),
        ],
    },
    Help {
        command: "completions",
        matter: &[],
        examples: &[("Let the shell complete commands and options", "yarrup completions bash > yarrup.bash")],
    },
    Help {
        command: "manual",
        matter: &["out"],
        examples: &[("Write a manual page for each command", "yarrup manual --out man")],
    },
    Help {
        command: "help",
        matter: &[],
        examples: &[
            ("What recipes are", "yarrup help recipes"),
            ("The help of a command", "yarrup help run"),
        ],
    },
];

/// The definition of all commands, with what `-h` leaves to `--help`.
pub(crate) fn command() -> Command {
    let mut command = Arguments::command();
    for help in HELP {
        command = command.mut_subcommand(help.command, |command| with_help(command, help));
    }
    command
}

fn with_help(command: Command, help: &Help) -> Command {
    command.mut_args(|argument| if help.shows(&argument) { argument } else { argument.hide_short_help(true) })
}

impl Help {
    /// Whether `-h` shows an argument.
    fn shows(&self, argument: &clap::Arg) -> bool {
        argument.is_positional() || self.matter.contains(&argument.get_id().as_str())
    }
}

/// What stands below the help of a command: examples, as they can be typed, on lines of their own however narrow the window is.
pub(crate) fn examples_of(name: &str, is_long: bool) -> String {
    let Some(help) = HELP.iter().find(|help| help.command == name) else { return String::new() };
    if is_long {
        let mut told = String::from("\nExamples:\n");
        for (what, typed) in help.examples {
            if !what.is_empty() {
                told.push_str(&format!("  {what}\n"));
            }
            told.push_str(&format!("    {typed}\n"));
        }
        return told;
    }
    let first = help.examples.first().map_or(String::new(), |(_, typed)| format!("\nExample:\n  {typed}\n"));
    let definition = Arguments::command();
    let arguments = definition
        .find_subcommand(name)
        .map(|command| command.get_arguments().filter(|argument| !help.shows(argument)).count());
    match arguments.unwrap_or_default() {
        0 => first,
        hidden => format!("{first}\n`yarrup {name} --help` shows {hidden} more options and more examples\n"),
    }
}

/// The command of which the help was asked for, by the words that were typed.
pub(crate) fn asked_for(typed: impl Iterator<Item = String>) -> Option<String> {
    typed.skip(1).find(|word| HELP.iter().any(|help| help.command == word))
}

/// A mistake in the arguments with what may be meant: the parser of arguments is blind to slips in short words, and finds likeness where there is none in
/// long ones.
pub(crate) fn with_meant(mut error: clap::Error) -> clap::Error {
    let definition = command();
    let of = |kind: ContextKind| match error.get(kind) {
        Some(ContextValue::String(word)) => Some(word.clone()),
        _ => None,
    };
    match error.kind() {
        ErrorKind::InvalidSubcommand if error.get(ContextKind::SuggestedSubcommand).is_none() => {
            let commands = definition.get_subcommands().filter(|command| !command.is_hide_set());
            let meant = of(ContextKind::InvalidSubcommand)
                .and_then(|word| nearest(&word, commands.map(Command::get_name)).map(str::to_owned));
            if let Some(meant) = meant {
                error.insert(ContextKind::SuggestedSubcommand, ContextValue::Strings(vec![meant]));
            }
        }
        ErrorKind::UnknownArgument => {
            let command = asked_for(std::env::args())
                .and_then(|name| definition.get_subcommands().find(|command| command.get_name() == name));
            let options = command.into_iter().flat_map(Command::get_arguments).filter_map(Arg::get_long);
            let meant = of(ContextKind::InvalidArg)
                .and_then(|word| nearest(word.strip_prefix("--")?, options).map(|name| format!("--{name}")));
            // What the parser found may begin with what was typed; else it is like it by chance.
            let begins = |found: &ContextValue| match (found, of(ContextKind::InvalidArg)) {
                (ContextValue::String(found), Some(typed)) => found.starts_with(&typed),
                _ => false,
            };
            let is_good = error.get(ContextKind::SuggestedArg).is_some_and(begins);
            let typed = of(ContextKind::InvalidArg);
            if let Some(meant) = meant {
                error.insert(ContextKind::SuggestedArg, ContextValue::String(meant));
                // That it might be a value is less likely.
                error.remove(ContextKind::Suggested);
            } else if !is_good {
                error.remove(ContextKind::SuggestedArg);
                let name = typed.as_deref().and_then(|typed| typed.strip_prefix("--"));
                match name.and_then(|name| told_elsewhere(&definition, command, name)) {
                    Some(told) => {
                        error.insert(ContextKind::Suggested, ContextValue::StyledStrs(vec![told.into()]));
                    }
                    // A slip, not a value.
                    None if name.is_some() => {
                        error.remove(ContextKind::Suggested);
                    }
                    None => {}
                }
            }
        }
        _ => {}
    }
    error
}

/// Options of other commands, with those that do the same here.
const ALIKE: &[(&str, &str, &str)] = &[
    ("find", "pattern", "`--matches` finds terms by a pattern, `--text` looks for one in the original texts"),
    ("export", "format", "`--as` names the format"),
    ("matrix", "format", "`--as` names the format"),
    ("look", "random", "`--documents random` shows one by chance"),
];

/// What to type instead of an option that a command does not have: what does the same, or the commands that have it, or one of a similar name.
fn told_elsewhere(definition: &Command, command: Option<&Command>, typed: &str) -> Option<String> {
    let typed = typed.split('=').next().unwrap_or_default();
    let own = command.map_or("", Command::get_name);
    let alike = || ALIKE.iter().filter(|(command, ..)| *command == own);
    let commands = || definition.get_subcommands().filter(|command| !command.is_hide_set());
    let options = commands().flat_map(Command::get_arguments).filter_map(Arg::get_long);
    let known = alike().map(|(_, option, _)| *option).chain(options);
    let name = nearest(typed, known)?;
    if let Some((.., told)) = alike().find(|(_, option, _)| *option == name) {
        return Some((*told).to_owned());
    }
    let has_it =
        |command: &&Command| command.get_arguments().any(|argument| argument.get_long() == Some(name));
    let names: Vec<String> =
        commands().filter(has_it).map(|command| format!("`{}`", command.get_name())).collect();
    // Of many commands the names say nothing.
    let (last, others) = names.split_last().filter(|_| names.len() < 5)?;
    Some(match others {
        [] => format!("`--{name}` is an option of {last}"),
        others => format!("`--{name}` is an option of {} and {last}", others.join(", ")),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_alike_names_options_that_there_are() {
        let definition = command();
        for (name, option, told) in ALIKE {
            let command = definition.find_subcommand(name).expect("a command");
            let has = |long: &str| command.get_arguments().any(|argument| argument.get_long() == Some(long));
            assert!(!has(option), "{name} --{option}");
            for meant in told.split('`').filter_map(|part| part.strip_prefix("--")) {
                assert!(has(meant.split(' ').next().unwrap_or_default()), "{name}: {told}");
            }
        }
    }

    #[test]
    fn options_of_one_name_have_one_letter() {
        for command in command().get_subcommands() {
            for argument in command.get_arguments() {
                let expected = match argument.get_long() {
                    Some("out") => 'o',
                    Some("top") => 'n',
                    Some("quiet") => 'q',
                    Some("verbose") => 'v',
                    _ => continue,
                };
                assert_eq!(
                    argument.get_short(),
                    Some(expected),
                    "{} {:?}",
                    command.get_name(),
                    argument.get_long()
                );
            }
        }
    }

    #[test]
    fn every_command_has_help_that_fits() {
        let definition = command();
        definition.clone().debug_assert();
        for command in definition.get_subcommands() {
            let name = command.get_name();
            let help =
                HELP.iter().find(|help| help.command == name).unwrap_or_else(|| panic!("{name} has no help"));
            assert!(!help.examples.is_empty() && help.examples.len() <= 4, "{name}");
            assert!(help.matter.len() <= 3, "{name}");
            for id in help.matter {
                assert!(command.get_arguments().any(|argument| argument.get_id() == id), "{name} --{id}");
            }
            let short = format!("{}{}", command.clone().render_help(), examples_of(name, false));
            assert!(short.lines().count() <= 40, "{name}: {} lines\n{short}", short.lines().count());
        }
    }
}
